"""Pieces and their photographs."""

import secrets
from functools import cached_property

from django.db import models
from pydantic import TypeAdapter

from juniper.photograph.card import USUAL_FOCAL
from juniper.photograph.code import new_code, shown
from juniper.rules import DOMINANTS
from juniper.rules import Brief as CoreBrief
from juniper.scene import Raster, Scene

SCENE = TypeAdapter(Scene)


class View(models.TextChoices):
    """Where a piece is photographed from."""

    FRONT = "front", "front"
    SIDE = "side", "side"
    BACK = "back", "back"
    TOP = "top", "top"
    SEATED = "seated", "seated eye"
    # stages of the making, from the front
    FOLIAGE = "foliage", "foliage alone"
    LINES = "lines", "the lines"
    BEFORE = "before", "before the focal flower"


STAGE_VIEWS = (View.FOLIAGE, View.LINES, View.BEFORE)


class Piece(models.Model):
    """What one student makes for one brief; `code` is what its reference card carries, `dominant`
    the principle that it declares to be its own. A mark that was given stays as it is; while the
    piece is `reopened` it may be changed. `revision` counts what markers did to it, the last by
    `changed_by`.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "no photograph yet"
        MEASURING = "measuring", "being measured"
        FAILED = "failed", "photograph not usable"
        MARKING = "marking", "to be marked"
        MARKED = "marked", "marked"
        RETURNED = "returned", "returned"

    brief = models.ForeignKey("briefs.Brief", on_delete=models.CASCADE, related_name="pieces")
    student = models.ForeignKey("classes.Student", on_delete=models.CASCADE, related_name="pieces")
    state = models.CharField(max_length=12, choices=State, default=State.WAITING)
    code = models.CharField(max_length=8, unique=True, default=new_code)
    dominant = models.CharField(
        max_length=12, blank=True, choices=[("", "none declared"), *((d, d) for d in DOMINANTS)]
    )
    reopened = models.BooleanField(default=False)
    revision = models.PositiveIntegerField(default=0)
    changed_by = models.ForeignKey(
        "people.User", on_delete=models.SET_NULL, null=True, related_name="+"
    )
    changed_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("brief", "student"), name="one_piece_each")]
        indexes = [
            models.Index(fields=("brief", "state"), name="pieces_by_brief_and_state"),
            models.Index(
                fields=("state",), name="open_pieces", condition=~models.Q(state="returned")
            ),
        ]

    def __str__(self):
        return f"{self.student}: {self.brief}"

    @property
    def shown_name(self):
        """The student's name, or the piece's code while names are hidden."""
        return f"Piece {self.code[:4]}" if self.brief.hides_names else self.student.name

    @property
    def in_order(self) -> str:
        """What it is sorted by among those of its brief: the family name, or, while names are
        hidden, its code.
        """
        return self.code if self.brief.hides_names else self.student.sorting

    @property
    def core_brief(self) -> CoreBrief:
        """The brief as the rules read it for this piece."""
        return self.brief.as_core(self.dominant, self.student.shown_only)

    @property
    def shown_code(self):
        """The code as printed on the card."""
        return shown(self.code)

    @property
    def is_closed(self) -> bool:
        """Whether its mark is given, and nobody has opened it again to change it."""
        return self.state in (Piece.State.MARKED, Piece.State.RETURNED) and not self.reopened

    @property
    def given(self):
        """The mark that was given, or None."""
        return (
            getattr(self, "mark", None)
            if self.state in (Piece.State.MARKED, Piece.State.RETURNED)
            else None
        )

    def view(self, view):
        """The photograph in force of one view: the newest that is current, or None."""
        found = [p for p in self.photographs.all() if p.current and p.view == view]
        return max(found, key=lambda p: p.pk, default=None)

    @cached_property
    def photograph(self):
        """The front view in force, on which measuring rests, or None."""
        return self.view(View.FRONT)

    @property
    def views(self):
        """(view, its name, photograph or None, whether the brief asks for it) of each asked or
        present view, in order.
        """
        asked = self.brief.views
        rows = [(v.value, v.label, self.view(v), v in asked) for v in View]
        return [row for row in rows if row[2] is not None or row[3]]

    @property
    def has_others(self):
        """Whether there is a photograph in force of any view but the front."""
        return any(p.current and p.view != View.FRONT for p in self.photographs.all())

    @property
    def latest_arrival(self):
        """The newest picture that was sent for it, or None."""
        return max(self.arrivals.all(), key=lambda a: a.pk, default=None)

    @property
    def latest_sheet(self):
        """The newest return sheet, or None."""
        return max(self.sheets.all(), key=lambda s: s.version, default=None)

    def latest_sheet_version(self):
        """Version of the newest return sheet, or 0."""
        return self.latest_sheet.version if self.latest_sheet else 0


GIVEN = (Piece.State.MARKED, Piece.State.RETURNED)  # whose mark is given


def random_path(kind: str) -> str:
    """A place under `kind` that nobody can guess; the user's own file name is never used."""
    return f"{kind}/{secrets.token_urlsafe(16)}"


def full_path(instance, name):
    """Where the full-size upright copy is kept."""
    return random_path("full") + ".jpg"


def screen_path(instance, name):
    """Where the screen-size copy is kept."""
    return random_path("screen") + ".jpg"


def wall_path(instance, name):
    """Where the copy that hangs on the wall is kept."""
    return random_path("wall") + ".jpg"


def thumb_path(instance, name):
    """Where the smallest copy is kept."""
    return random_path("thumb") + ".jpg"


def raster_path(instance, name):
    """Where the label raster is kept."""
    return random_path("raster") + ".png"


class Photograph(models.Model):
    """A photograph of a piece: upright copies without metadata, of `size` bytes together, and what
    was seen in it.
    """

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="photographs")
    view = models.CharField(max_length=8, choices=View, default=View.FRONT)
    current = models.BooleanField(default=True)
    full = models.FileField(upload_to=full_path)
    screen = models.FileField(upload_to=screen_path)
    wall = models.FileField(upload_to=wall_path, blank=True)
    thumb = models.FileField(upload_to=thumb_path, blank=True)
    raster = models.FileField(upload_to=raster_path, blank=True)
    raster_scale = models.FloatField(default=1.0)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    digest = models.CharField(max_length=64, db_index=True)
    size = models.PositiveBigIntegerField(default=0)
    taken = models.CharField(max_length=60, blank=True)
    camera = models.CharField(max_length=60, blank=True)
    focal = models.FloatField(default=USUAL_FOCAL)
    card = models.JSONField(null=True)
    advice = models.JSONField(default=list)
    scene = models.JSONField(null=True)
    core_version = models.CharField(max_length=20, blank=True)
    fault = models.TextField(blank=True)
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self):
        return f"{self.view} photograph {self.pk} of {self.piece}"

    def core_scene(self) -> Scene:
        """The scene found automatically, as the core made it."""
        return SCENE.validate_python(self.scene)

    def keep_scene(self, scene: Scene):
        """Set the scene found automatically."""
        self.scene = SCENE.dump_python(scene, mode="json")

    def core_raster(self) -> Raster:
        """The label raster."""
        with self.raster.open("rb") as file:
            return Raster.unpacked(file.read(), self.raster_scale)
