"""What markers do to a piece: corrections, overrides, the mark."""

from django.db import models


class Correction(models.Model):
    """A handle put somewhere by a person, over what was found automatically.

    One drag is one correction (`gesture`), however often it reported its place. Undone ones stay.
    """

    class Handle(models.TextChoices):
        RIM = "rim", "rim"
        BASE = "base", "base"
        RIM_LEFT = "rim_left", "left end of the rim"
        RIM_RIGHT = "rim_right", "right end of the rim"
        FOCAL = "focal", "focal point"

    photograph = models.ForeignKey("intake.Photograph", on_delete=models.CASCADE, related_name="corrections")
    gesture = models.CharField(max_length=40)
    handle = models.CharField(max_length=12, choices=Handle)
    x = models.FloatField()
    y = models.FloatField()
    undone = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        constraints = [models.UniqueConstraint(fields=("photograph", "gesture"), name="one_correction_a_gesture")]


class Override(models.Model):
    """The instructor's word on one rule, with the reason; an empty score waives the rule."""

    piece = models.ForeignKey("intake.Piece", on_delete=models.CASCADE, related_name="overrides")
    rule = models.CharField(max_length=60)
    score = models.FloatField(null=True)
    old_score = models.FloatField(null=True)
    reason = models.CharField(max_length=300)
    taken_back = models.BooleanField(default=False)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)


class Mark(models.Model):
    """The accepted mark of a piece, under one rule-set version; `verdict` is what it rests on."""

    piece = models.OneToOneField("intake.Piece", on_delete=models.CASCADE, related_name="mark")
    photograph = models.ForeignKey("intake.Photograph", on_delete=models.CASCADE)
    rule_set = models.CharField(max_length=60)
    rule_set_version = models.CharField(max_length=20)
    core_version = models.CharField(max_length=20)
    score = models.FloatField(null=True)
    verdict = models.JSONField()
    accepted_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    accepted_at = models.DateTimeField(auto_now=True)
