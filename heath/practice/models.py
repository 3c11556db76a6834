"""Eye practice: pictures that are asked about, who practises, rounds and their exercises, rounds
set for a class, and markers who calibrate.
"""

import secrets

from django.db import models
from django.db.models import Q

from juniper.learning import ROUND, Standing, Study, from_document


def new_key() -> str:
    """What the address of a learner or of a class's round ends in: 128 bits by chance."""
    return secrets.token_urlsafe(16)


def picture_path(instance, name: str) -> str:
    """Where a picture of the simulated camera is kept."""
    return f"practice/{secrets.token_urlsafe(16)}.jpg"


class PracticeSettings(models.Model):
    """A school's word on eye practice: by which shipped `rules` it is taught, and whether accepted
    pieces of archived classes are shown, without names.
    """

    school = models.OneToOneField(
        "people.School", on_delete=models.CASCADE, related_name="practice_settings"
    )
    rules = models.CharField(max_length=62, default="classical-line-mass")
    past_pieces = models.BooleanField(default=False)


class PracticePicture(models.Model):
    """A picture that is asked about. One of the simulated camera belongs to no school, and its
    `number` tells it (those of the roll are below 0: -1 is its first piece); any other shows a
    `piece`, and is used as long as that may be shown. `study` is what is known of it, `index` by
    rules what it is fit for, `marks` what the rules give it; all three by the core of `version`.
    """

    number = models.IntegerField(null=True, unique=True)
    school = models.ForeignKey("people.School", on_delete=models.CASCADE, null=True)
    piece = models.OneToOneField(
        "assessment.Piece", on_delete=models.CASCADE, null=True, related_name="practice_picture"
    )
    file = models.FileField(upload_to=picture_path, blank=True)
    study = models.JSONField()
    index = models.JSONField(default=dict)
    marks = models.JSONField(default=dict)
    version = models.CharField(max_length=20)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.CheckConstraint(
                condition=Q(number__isnull=False, piece=None, school=None)
                | Q(number=None, piece__isnull=False, school__isnull=False),
                name="made_or_a_piece",
            )
        ]

    @property
    def as_study(self) -> Study:
        """What is known of it, as the core takes it."""
        return from_document(self.study)


class ClassRound(models.Model):
    """A round set for a class, behind a link: `count` exercises of `skills` (codes; empty: all).
    With `league` those who took part see each other's results, by the names they gave.
    """

    course = models.ForeignKey(
        "classes.Course", on_delete=models.CASCADE, related_name="practice_rounds"
    )
    name = models.CharField(max_length=120)
    skills = models.JSONField(default=list)
    count = models.PositiveSmallIntegerField(default=ROUND)
    league = models.BooleanField(default=False)
    key = models.CharField(max_length=40, unique=True, default=new_key)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self):
        return self.name


class Learner(models.Model):
    """Somebody who practises: a `user` of a school, a `student` on their own page, or whoever took
    part in a class's round by its link and gave a `name`; the address of each ends in `key`.
    `standing` is what their answers tell, and can be made anew from them.
    """

    key = models.CharField(max_length=40, unique=True, default=new_key)
    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="learners")
    course = models.ForeignKey(
        "classes.Course", on_delete=models.CASCADE, null=True, related_name="learners"
    )
    user = models.ForeignKey(
        "people.User", on_delete=models.CASCADE, null=True, related_name="learners"
    )
    student = models.ForeignKey(
        "classes.Student", on_delete=models.CASCADE, null=True, related_name="learners"
    )
    name = models.CharField(max_length=60, blank=True)
    by_link = models.ForeignKey(
        ClassRound, on_delete=models.CASCADE, null=True, related_name="learners"
    )
    standing = models.JSONField(default=dict)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.UniqueConstraint(fields=("user", "school"), name="one_learner_a_user"),
            models.UniqueConstraint(
                fields=("student",), condition=Q(by_link=None), name="one_own_learner_a_student"
            ),
        ]

    @property
    def as_standing(self) -> Standing:
        """What is known of them, as the core takes it."""
        return Standing.read(self.standing)

    @property
    def shown_name(self) -> str:
        """What an instructor sees of who it is."""
        if self.user:
            return self.user.shown_name
        if self.student:
            return self.student.name
        return self.name or "without a name"


class PracticeRound(models.Model):
    """A sitting of a learner: `count` exercises of `skills` (codes; empty: all)."""

    learner = models.ForeignKey(Learner, on_delete=models.CASCADE, related_name="rounds")
    set_as = models.ForeignKey(
        ClassRound, on_delete=models.SET_NULL, null=True, related_name="rounds"
    )
    skills = models.JSONField(default=list)
    count = models.PositiveSmallIntegerField(default=ROUND)
    made_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)


class Exercise(models.Model):
    """One exercise of a round, at its `place` from 1: what is asked of which `pictures` (numbers of
    records, in the order shown) under which rules, the answer, and what came of it. `error` is in
    the kind's unit, `scaled` in a beginner's errors; both None where an answer is right or wrong.
    """

    round = models.ForeignKey(PracticeRound, on_delete=models.CASCADE, related_name="exercises")
    place = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=20)
    pictures = models.JSONField()
    question = models.JSONField()
    rules = models.CharField(max_length=62)
    answer = models.JSONField(null=True)
    error = models.FloatField(null=True)
    signed = models.FloatField(null=True)
    scaled = models.FloatField(null=True)
    right = models.BooleanField(null=True)
    words = models.TextField(blank=True)
    made_at = models.DateTimeField(auto_now_add=True)
    answered_at = models.DateTimeField(null=True, db_index=True)

    class Meta:
        ordering = ("round", "place")
        constraints = [
            models.UniqueConstraint(fields=("round", "place"), name="one_exercise_a_place")
        ]


class Calibration(models.Model):
    """A marker who marks known pieces before an evening, to see how they lean: `pictures` (numbers
    of records) in the order shown, under shipped `rules`. `leans` are kept when it is finished: by
    family points of 100, and half their 95 % interval.
    """

    user = models.ForeignKey("people.User", on_delete=models.CASCADE, related_name="calibrations")
    school = models.ForeignKey("people.School", on_delete=models.CASCADE)
    rules = models.CharField(max_length=62)
    pictures = models.JSONField()
    leans = models.JSONField(default=dict)
    made_at = models.DateTimeField(auto_now_add=True)
    finished_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)


class CalibrationMark(models.Model):
    """What a marker gives one known piece, by family (of ten), and what it is known to earn."""

    calibration = models.ForeignKey(Calibration, on_delete=models.CASCADE, related_name="given")
    place = models.PositiveSmallIntegerField()
    marks = models.JSONField()
    known = models.JSONField()

    class Meta:
        ordering = ("place",)
        constraints = [
            models.UniqueConstraint(fields=("calibration", "place"), name="one_mark_a_place")
        ]
