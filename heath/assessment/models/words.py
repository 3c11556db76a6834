"""What markers say of a piece: corrections, scores set by hand, ceilings, remarks, answers."""

from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.search import SearchVector
from django.db import models
from pydantic import TypeAdapter

from juniper.rules import FAMILIES
from juniper.scene import (
    BloomChange,
    ColourChange,
    Datum,
    PetalStroke,
    StemChange,
    Stroke,
    VesselChange,
)

CORE: dict[str, TypeAdapter] = {
    "brush": TypeAdapter(Stroke | PetalStroke),
    "bloom": TypeAdapter(BloomChange),
    "stem": TypeAdapter(StemChange),
    "colour": TypeAdapter(ColourChange),
    "vessel": TypeAdapter(VesselChange),
}
STEM_WORDS = {"draw": "Stem drawn", "bend": "Stem moved", "drop": "Stem taken out"}
VESSEL_WORDS = {
    "top": "Highest point of a vessel moved",
    "add": "Vessel added",
    "remove": "Vessel taken out",
    "move": "Handle of a vessel moved",
    "confirm": "Handles confirmed",
}
LINE_WORDS = STEM_WORDS | VESSEL_WORDS
TINT_WORDS = {
    "neutral": "White or grey shown",
    "merge": "Two colours made one",
    "split": "Colour taken for two",
}
BLOOM_WORDS = {
    "add": "Bloom added",
    "remove": "Bloom taken out",
    "split": "Bloom split in two",
    "merge": "Two blooms made one",
}


def places_of(datum: Datum) -> dict[str, tuple[float, float]]:
    """The places of a datum's four handles, by name."""
    return {name: getattr(datum, name) for name in ("rim", "base", "rim_left", "rim_right")}


class Correction(models.Model):
    """What a person did to the picture, over what was found automatically: a handle put somewhere,
    a stroke of the brush, a bloom, a stem or the colours changed.

    One drag is one correction (`gesture`), however often it reported its place. Undone ones stay.
    `what` holds a stroke or a change of bloom, stem, colours or vessels as the core reads it, or
    the drag over a container with the places its four handles settled on, or the word that they are
    right where they stood; `handle`, `x` and `y` are a handle's.
    """

    class Kind(models.TextChoices):
        HANDLE = "handle", "handle"
        BRUSH = "brush", "brush"
        BLOOM = "bloom", "bloom"
        STEM = "stem", "stem"
        COLOUR = "colour", "colour"
        CONTAINER = "container", "container"
        VESSEL = "vessel", "vessel"

    class Handle(models.TextChoices):
        RIM = "rim", "rim"
        BASE = "base", "base"
        RIM_LEFT = "rim_left", "left end of the rim"
        RIM_RIGHT = "rim_right", "right end of the rim"
        FOCAL = "focal", "focal point"

    photograph = models.ForeignKey(
        "assessment.Photograph", on_delete=models.CASCADE, related_name="corrections"
    )
    gesture = models.CharField(max_length=40)
    kind = models.CharField(max_length=9, choices=Kind, default=Kind.HANDLE)
    handle = models.CharField(max_length=12, choices=Handle, blank=True)
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    what = models.JSONField(null=True)
    undone = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.UniqueConstraint(
                fields=("photograph", "gesture"), name="one_correction_a_gesture"
            )
        ]

    def as_core(
        self,
    ) -> Stroke | PetalStroke | BloomChange | StemChange | ColourChange | VesselChange:
        """A stroke, or a change of bloom, stem, colours or vessels, as the core takes it."""
        return CORE[self.kind].validate_python(self.what)

    @property
    def places(self) -> dict[str, tuple[float, float]]:
        """Where this correction puts handles, by name: one, or the four of a container."""
        if self.kind == self.Kind.CONTAINER:
            return {name: tuple(at) for name, at in self.what["places"].items()}
        return {self.handle: (self.x, self.y)} if self.kind == self.Kind.HANDLE else {}

    @property
    def confirms(self) -> bool:
        """Whether it says that the handles are right where they stood."""
        if self.kind == self.Kind.VESSEL:
            return self.what["kind"] == "confirm"
        return self.kind == self.Kind.CONTAINER and bool(self.what.get("confirmed"))

    @property
    def puts_top(self) -> bool:
        """Whether it says how high the plant in a vessel of a composition reaches."""
        return self.kind == self.Kind.VESSEL and "top" in dict(self.what.get("places") or ())

    @property
    def words(self) -> str:
        """What was done, in a few words."""
        if self.kind == self.Kind.CONTAINER:
            return "Handles confirmed" if self.confirms else "Container drawn"
        if self.kind == self.Kind.HANDLE:
            return f"{self.get_handle_display()} moved".capitalize()
        if self.kind == self.Kind.BRUSH:
            yes, no = ("petals", "leaves") if "petal" in self.what else ("plant", "not plant")
            return f"Brushed as {yes if self.what.get('petal', self.what.get('plant')) else no}"
        if self.kind in (self.Kind.VESSEL, self.Kind.STEM):
            act = "top" if self.puts_top else self.what.get("line") or self.what["kind"]
            return LINE_WORDS[act]
        if self.kind == self.Kind.COLOUR:
            return TINT_WORDS.get(self.what["tint"]) or f"Colour called {self.what['name']}"
        return _bloom_words(self.what)


def _bloom_words(what: dict) -> str:
    """A change of one bloom, or of a group, in a few words."""
    others = len(what.get("others") or ())
    if not others:
        return BLOOM_WORDS.get(what["act"]) or f"Bloom called {what['role']}"
    done = "removed" if what["act"] == "remove" else f"called {what['role']}"
    return f"{others + 1} blooms {done}"


class Override(models.Model):
    """The instructor's word on one rule, with the reason; an empty score waives the rule."""

    piece = models.ForeignKey(
        "assessment.Piece", on_delete=models.CASCADE, related_name="overrides"
    )
    rule = models.CharField(max_length=60)
    score = models.FloatField(null=True)
    old_score = models.FloatField(null=True)
    reason = models.CharField(max_length=300)
    replaces = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")
    taken_back = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        indexes = [GinIndex(SearchVector("reason", config="english"), name="reasons_by_word")]


class Cap(models.Model):
    """The instructor's word that a family's mark (out of ten), or with no family the whole (out of
    100), is to be no more than `at`.
    """

    piece = models.ForeignKey("assessment.Piece", on_delete=models.CASCADE, related_name="caps")
    family = models.CharField(
        max_length=12, blank=True, choices=[("", "the whole"), *((f, f) for f in FAMILIES)]
    )
    at = models.FloatField()
    reason = models.CharField(max_length=300)
    replaces = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="+")
    taken_back = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)

    @property
    def most(self) -> float:
        """The highest mark there is: 100 for the whole, 10 for a family."""
        return 10.0 if self.family else 100.0


class Remark(models.Model):
    """A free comment, pinned to a spot of a photograph (in its pixels) or to the piece as a whole.
    One taken back is kept.
    """

    piece = models.ForeignKey("assessment.Piece", on_delete=models.CASCADE, related_name="remarks")
    photograph = models.ForeignKey(
        "assessment.Photograph", on_delete=models.CASCADE, null=True, related_name="remarks"
    )
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    words = models.CharField(max_length=300)
    taken_back = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        indexes = [GinIndex(SearchVector("words", config="english"), name="remarks_by_word")]


class Answer(models.Model):
    """What a person answered by eye to a check of the rules: 1 yes, .5 in part, 0 no."""

    piece = models.ForeignKey("assessment.Piece", on_delete=models.CASCADE, related_name="answers")
    rule = models.CharField(max_length=60)
    value = models.FloatField()
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("piece", "rule"), name="one_answer_a_check")]
