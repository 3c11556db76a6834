"""Briefs: what a piece was asked to be."""

import re

from django.contrib.postgres.fields import ArrayField
from django.core.validators import MaxValueValidator, MinValueValidator, RegexValidator
from django.db import models

from heath.assessment.models import Piece
from heath.people.keeping import Kept
from heath.rulebook.patterns import PATTERNS
from heath.rulebook.sets import RULE_SETS
from heath.shelf.models import LENGTH, WALLS
from juniper.colour.schemes import NAMES as SCHEMES
from juniper.patterns import Pattern, usual_pattern
from juniper.planning import NEAR
from juniper.rules import FORMS, KINDS, VIEWPOINTS, BriefVessel, RuleSet, school, school_slugs
from juniper.rules import Brief as CoreBrief
from juniper.rules.document import STAGES
from juniper.values import triple

SUPPORTS = ("table", "sill", "mantel")
SPLIT = r"^\s*[1-9]\d?\s*:\s*[1-9]\d?\s*:\s*[1-9]\d?\s*$"


def front_only():
    """The views a brief asks for unless it says otherwise."""
    return ["front"]


class SetBriefs(models.Manager):
    """The briefs that were set to classes: second markings are not among them."""

    def get_queryset(self):
        """Without the briefs of second markings."""
        return super().get_queryset().filter(second_of=None)


class Brief(Kept):
    """A brief set to a class; each student makes one piece for it. A second marking of one has a
    brief of its own (`second_of`), with copies of the pieces, which only its `marker` sees.
    """

    course = models.ForeignKey("classes.Course", on_delete=models.CASCADE, related_name="briefs")
    name = models.CharField(max_length=120)
    shelf_container = models.ForeignKey(
        "shelf.Container", on_delete=models.SET_NULL, null=True, blank=True, related_name="briefs"
    )
    kind = models.CharField(max_length=20, choices=[(k, k) for k in KINDS], default=KINDS[0])
    vessels = models.JSONField(default=list, blank=True)
    support = models.CharField(
        max_length=10, choices=[(s, s) for s in SUPPORTS], default=SUPPORTS[0]
    )
    container = models.CharField(max_length=80)
    container_height_cm = models.DecimalField(max_digits=5, decimal_places=1, validators=LENGTH)
    container_width_cm = models.DecimalField(max_digits=5, decimal_places=1, validators=LENGTH)
    viewpoint = models.CharField(
        max_length=40, choices=[(v, v) for v in VIEWPOINTS], default=VIEWPOINTS[0]
    )
    form = models.CharField(max_length=40, choices=[(f, f) for f in FORMS], default=FORMS[0])
    pattern = models.CharField(max_length=62, blank=True, default="")
    pattern_version = models.PositiveIntegerField(null=True, blank=True, editable=False)
    rule_set = models.CharField(max_length=62, default="classical-line-mass")
    rule_set_version = models.PositiveIntegerField(null=True, blank=True, editable=False)
    scheme = models.CharField(
        max_length=40, blank=True, choices=[("", "any scheme"), *((s, s) for s in SCHEMES)]
    )
    with_green = models.BooleanField(default=False)
    split = models.CharField(
        blank=True,
        max_length=14,
        default="60 : 30 : 10",
        validators=[
            RegexValidator(SPLIT, "Write three whole numbers, the largest first: 60 : 30 : 10.")
        ],
    )
    setting = models.CharField(
        max_length=7,
        blank=True,
        validators=[RegexValidator(r"^#[0-9a-fA-F]{6}$", "Choose one of the colours shown.")],
    )
    near = ArrayField(
        models.CharField(max_length=10, choices=[(k, asks) for k, (asks, _) in NEAR.items()]),
        default=list,
        blank=True,
    )
    count_parts = models.BooleanField(default=False)
    made_of = models.CharField(
        max_length=10, blank=True, default="", choices=[("", "as the shelf says"), *WALLS]
    )
    rings = models.CharField(
        max_length=20,
        blank=True,
        default="",
        validators=[
            RegexValidator(
                r"^\s*\d{1,2}(\s*[,+ ]\s*\d{1,2}){0,5}\s*$",
                "Heads of each ring, the outermost first: 6, 6, 6.",
            )
        ],
    )
    material = models.CharField(
        max_length=20,
        default="flowers",
        choices=[
            ("flowers", "flowers"),
            ("very large blooms", "a few very large blooms"),
            ("no flowers", "foliage or berries only"),
        ],
    )
    most_kinds = models.PositiveSmallIntegerField(
        default=3,
        validators=[
            MinValueValidator(1, "One kind at least."),
            MaxValueValidator(12, "Twelve kinds at the most."),
        ],
    )
    wished = models.JSONField(default=list, blank=True, editable=False)
    pass_mark = models.DecimalField(
        max_digits=4,
        decimal_places=1,
        default=50,
        validators=[
            MinValueValidator(0, "A pass mark is 0 or more."),
            MaxValueValidator(100, "A pass mark is 100 at most."),
        ],
    )
    views = ArrayField(models.CharField(max_length=8), default=front_only)
    closes_at = models.DateTimeField(null=True, blank=True)
    names_hidden = models.BooleanField(default=False, editable=False)
    locked_at = models.DateTimeField(null=True, editable=False)
    exemplar = models.ForeignKey(
        "assessment.Piece",
        on_delete=models.SET_NULL,
        null=True,
        blank=True,
        editable=False,
        related_name="+",
    )
    second_of = models.ForeignKey(
        "self", on_delete=models.CASCADE, null=True, editable=False, related_name="seconds"
    )
    marker = models.ForeignKey(
        "people.User",
        on_delete=models.CASCADE,
        null=True,
        editable=False,
        related_name="second_briefs",
    )
    made_at = models.DateTimeField(auto_now_add=True)

    objects = SetBriefs()
    every = models.Manager()

    class Meta:
        ordering = ("-made_at",)

    def __str__(self):
        return self.name

    @property
    def hides_names(self) -> bool:
        """Whether pieces are shown without their makers' names: until the marks are locked, if that
        was asked for.
        """
        return self.names_hidden and self.locked_at is None

    @property
    def is_deleted(self) -> bool:
        """Whether the brief, or its class, is deleted."""
        return self.deleted_at is not None or self.course.deleted_at is not None

    @property
    def order(self) -> str:
        """What pieces are ordered by: names, or, while these are hidden, the random code."""
        return "code" if self.hides_names else "student__sorting"

    @property
    def rules(self) -> RuleSet:
        """The rule set that this brief is held against: a shipped one, or a version of the school's
        own.
        """
        if self.rule_set in school_slugs():
            return school(self.rule_set)
        return RULE_SETS.in_force(self.course.school_id, self.rule_set, self.rule_set_version)

    @property
    def pattern_in_force(self) -> Pattern:
        """The pattern that the piece is built after: the one that is named, or the usual one of its
        form, kind and school.
        """
        if not self.pattern:
            return usual_pattern(self.form, self.rule_set, self.kind)
        return PATTERNS.in_force(self.course.school_id, self.pattern, self.pattern_version)

    @property
    def core_vessels(self) -> tuple[BriefVessel, ...]:
        """The vessels of a composition from the left, as the rules read them."""
        rows = [
            BriefVessel(
                row["name"],
                row["height_cm"],
                row["width_cm"],
                row.get("clear", False),
                row.get("colour", ""),
                row.get("x_cm", 0.0),
            )
            for row in self.vessels
        ]
        return tuple(sorted(rows, key=lambda v: v.x_cm))

    @property
    def several(self) -> bool:
        """Whether it asks for a composition of several vessels."""
        return self.kind == "several vessels"

    @property
    def parts(self) -> tuple[float, ...]:
        """The wanted shares of the first, second and other colours."""
        parts = [float(p) for p in (self.split or "60 : 30 : 10").split(":")]
        return tuple(p / sum(parts) for p in parts)

    @property
    def vessel_kind(self) -> str:
        """What its container is made of, as far as rules depend on it: as said, else as the shelf
        says; of several vessels clear where one of them is.
        """
        if self.several:
            return "clear" if any(v.clear for v in self.core_vessels) else "opaque"
        return self.made_of or (self.shelf_container.wall if self.shelf_container_id else "opaque")

    def as_core(self, dominant: str = "", shown_only: frozenset[str] = frozenset()) -> CoreBrief:
        """The brief as the rules read it, for a piece that declares a `dominant` principle, by a
        student to whom rules (`shown_only`, by code) are shown and not marked yet.
        """
        return CoreBrief(
            form=self.form,
            viewpoint=self.viewpoint,
            scheme=self.scheme,
            with_green=self.with_green,
            split=triple(self.parts),
            container_height_cm=float(self.container_height_cm),
            container_width_cm=float(self.container_width_cm),
            pass_mark=float(self.pass_mark),
            dominant=dominant,
            vessel=self.vessel_kind,
            material=self.material,
            views=tuple(self.views),
            rings=tuple(int(n) for n in re.findall(r"\d+", self.rings)),
            shown_only=shown_only,
            kind=self.kind,
            vessels=self.core_vessels if self.several else (),
            stages=tuple(v for v in self.views if v in STAGES),
            near=tuple(self.near),
            count_parts=self.count_parts,
            setting=self.setting,
        )

    def give_pieces(self):
        """See that every student of the class has a piece for this brief, but for those who were
        removed.
        """
        Piece.objects.bulk_create(
            [Piece(brief=self, student=s) for s in self.course.students.filter(removed_at=None)],
            ignore_conflicts=True,
        )
