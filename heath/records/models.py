"""What a school notes about its terms: how a term's mark is made, who came late, corrections,
private notes, and students' own links to their record.
"""

import secrets

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from juniper.records import EXCUSED, LATE, MISSING, ON_TIME, GradebookRules
from juniper.rules import RuleSet, school

CAME = (ON_TIME, LATE, EXCUSED, MISSING)
POINTS = [
    MinValueValidator(0, "Write a figure from 0 to 100."),
    MaxValueValidator(100, "Write a figure from 0 to 100."),
]


def new_key() -> str:
    """What the address of a student's record ends in: 128 bits by chance."""
    return secrets.token_urlsafe(16)


class Gradebook(models.Model):
    """How a class's term mark is made: the `best` so many marks count (null: all), a late piece
    loses `late_off` points, a missing one counts as nought or not at all; `awards_of` is the
    shipped rule set whose awards the term's mark is called by.
    """

    course = models.OneToOneField(
        "classes.Course", on_delete=models.CASCADE, related_name="gradebook"
    )
    best = models.PositiveSmallIntegerField(
        null=True,
        blank=True,
        validators=[
            MinValueValidator(1, "At least one mark counts. Leave it empty to count all."),
            MaxValueValidator(200, "200 marks at the most. Leave it empty to count all."),
        ],
    )
    late_off = models.DecimalField(max_digits=4, decimal_places=1, default=0, validators=POINTS)
    missing_is_nought = models.BooleanField(default=False)
    pass_mark = models.DecimalField(max_digits=4, decimal_places=1, default=50, validators=POINTS)
    awards_of = models.CharField(max_length=62, default="classical-line-mass")

    def __str__(self):
        return f"gradebook of {self.course}"

    @property
    def as_core(self) -> GradebookRules:
        """How the mark is made, as the core takes it."""
        return GradebookRules(self.best, float(self.late_off), self.missing_is_nought)

    @property
    def awards(self) -> RuleSet:
        """The rule set that names the awards."""
        return school(self.awards_of)


class Weight(models.Model):
    """How much a brief counts in its class's term mark; 1 where none is kept."""

    brief = models.OneToOneField("briefs.Brief", on_delete=models.CASCADE, related_name="weight")
    weight = models.DecimalField(
        max_digits=4,
        decimal_places=2,
        validators=[
            MinValueValidator(0, "A weight is 0 or more."),
            MaxValueValidator(20, "A weight is 20 at the most."),
        ],
    )


class Attendance(models.Model):
    """An instructor's word on how a piece came: late, excused and so on, in the place of what the
    brief's closing time tells, with the reason.
    """

    piece = models.OneToOneField(
        "assessment.Piece", on_delete=models.CASCADE, related_name="attendance"
    )
    came = models.CharField(max_length=8, choices=[(c, c) for c in CAME])
    reason = models.CharField(max_length=300, blank=True)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now=True)


class MarkCorrection(models.Model):
    """A mark in the gradebook that stands in the place of a piece's given one (or, without a
    `piece`, of the student's term mark), with the reason. One taken back is kept.
    """

    student = models.ForeignKey(
        "classes.Student", on_delete=models.CASCADE, related_name="mark_corrections"
    )
    piece = models.ForeignKey(
        "assessment.Piece", on_delete=models.CASCADE, null=True, related_name="mark_corrections"
    )
    mark = models.DecimalField(max_digits=4, decimal_places=1, validators=POINTS)
    reason = models.CharField(max_length=300)
    taken_back = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)


class Lesson(models.Model):
    """What a class was taught on a day: `about` is a family of rules or a rule's code, by which
    marks before and after it are compared.
    """

    course = models.ForeignKey("classes.Course", on_delete=models.CASCADE, related_name="lessons")
    name = models.CharField(max_length=120)
    taught_on = models.DateField()
    about = models.CharField(max_length=60)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("taught_on", "pk")

    def __str__(self):
        return self.name


class Note(models.Model):
    """An instructor's private note on a student: never shown to them."""

    student = models.ForeignKey("classes.Student", on_delete=models.CASCADE, related_name="notes")
    words = models.TextField(max_length=2000)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)


class Erasure(models.Model):
    """The receipt of a person's data that were deleted on request: how much of what, and the
    photographs' digests. It names nobody.
    """

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="erasures")
    code = models.CharField(max_length=40, unique=True, default=new_key)
    counts = models.JSONField()
    digests = models.JSONField(default=list)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)


class RecordLink(models.Model):
    """A student's own address of their record, good until it is withdrawn."""

    student = models.ForeignKey(
        "classes.Student", on_delete=models.CASCADE, related_name="record_links"
    )
    key = models.CharField(max_length=40, unique=True, default=new_key)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)
