"""What a school and its people decide while they plan: moved tips, what a piece is made of, prices,
ways, materials of their own.
"""

import csv
import io

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from juniper.planning.lesson import LONGEST as LONGEST_LESSON
from juniper.planning.lesson import MOST_PEOPLE, SHORTEST, USUAL
from juniper.planning.materials import COLUMNS, FaultyMaterials, Material, as_csv, read_materials
from juniper.planning.recipe import VARIANTS
from juniper.planning.transport import WAYS as TRANSPORTS

DEPTH = [MinValueValidator(1), MaxValueValidator(300)]  # of a container, cm
LONGEST = [MinValueValidator(3), MaxValueValidator(300)]  # of a stem, cm
LONGEST_WAY = 600  # minutes on the way to where the pieces will stand
CM = {"max_digits": 5, "decimal_places": 1, "null": True, "blank": True}


class Plan(models.Model):
    """A brief's plan. `tips` are those that were moved, by stem: [cm to the side, cm over the rim],
    for the container, form and rules that `tips_for` names; `items` the recipe's lines (see
    heath.planner.recipes), `answers` what was said to each warning, by its key. `lesson_at` is when
    the lesson begins, `transport` how the finished pieces come to their place.
    """

    brief = models.OneToOneField("briefs.Brief", on_delete=models.CASCADE, related_name="plan")
    tips = models.JSONField(default=dict)
    tips_for = models.CharField(max_length=200, blank=True)
    depth_cm = models.DecimalField(**CM, validators=DEPTH)
    longest_cm = models.DecimalField(**CM, validators=LONGEST)
    transport = models.CharField(
        max_length=10, choices=[(t.key, t.says) for t in TRANSPORTS], default="none"
    )
    way_minutes = models.PositiveSmallIntegerField(
        default=0, validators=[MaxValueValidator(LONGEST_WAY)]
    )
    lesson_at = models.DateTimeField(null=True, blank=True)
    lesson_minutes = models.PositiveSmallIntegerField(
        default=USUAL, validators=[MinValueValidator(SHORTEST), MaxValueValidator(LONGEST_LESSON)]
    )
    people = models.PositiveSmallIntegerField(
        default=1, validators=[MinValueValidator(1), MaxValueValidator(MOST_PEOPLE)]
    )
    clear = models.BooleanField(null=True, blank=True)
    stems = models.JSONField(default=list)
    variant = models.CharField(max_length=8, choices=[(v, v) for v in VARIANTS], default="usual")
    items = models.JSONField(default=list)
    answers = models.JSONField(default=dict)
    pieces = models.PositiveSmallIntegerField(
        null=True, blank=True, validators=[MinValueValidator(1), MaxValueValidator(200)]
    )
    changed_by = models.ForeignKey(
        "people.User", on_delete=models.SET_NULL, null=True, related_name="+"
    )
    changed_at = models.DateTimeField(auto_now=True)

    def __str__(self):
        return f"plan of {self.brief}"

    @property
    def carried(self) -> bool:
        """Whether the pieces travel finished."""
        return self.transport in ("carried", "driven")


class Workshop(models.Model):
    """What holds for all plans of a school: its price list as typed, and its ways where schools
    disagree (question to way).
    """

    school = models.OneToOneField(
        "people.School", on_delete=models.CASCADE, related_name="workshop"
    )
    prices = models.TextField(blank=True)
    ways = models.JSONField(default=dict)

    def __str__(self):
        return f"workshop of {self.school}"


class OwnMaterial(models.Model):
    """A material of a school's own, beside the catalogue or in the place of one of its; `row` is
    its line by the catalogue's columns.
    """

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="materials")
    slug = models.SlugField(max_length=60)
    row = models.JSONField()
    added_by = models.ForeignKey(
        "people.User", on_delete=models.SET_NULL, null=True, related_name="+"
    )
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("slug",)
        constraints = [
            models.UniqueConstraint(fields=("school", "slug"), name="one_material_of_a_slug")
        ]

    def __str__(self):
        return self.slug

    @property
    def material(self) -> Material:
        """The material as the core has it."""
        return read_materials(as_rows([self.row]))[0]

    @property
    def fault(self) -> str:
        """Why a row cannot be read that was kept before its bounds were set, or ''."""
        try:
            self.material  # noqa: B018 - read for its fault alone
        except FaultyMaterials as error:
            return error.faults[0][1]
        return ""


def as_rows(rows: list[dict]) -> str:
    """Rows by the catalogue's columns, as its CSV."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS, extrasaction="ignore", restval="")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def row_of(material: Material) -> dict:
    """A material's row by the catalogue's columns."""
    return next(csv.DictReader(io.StringIO(as_csv((material,)))))
