"""Marks that were given, and how pieces stood when they were last read."""

import math

from django.db import models


class Mark(models.Model):
    """The accepted mark of a piece, under one rule-set version; `verdict` is what it rests on, and
    `in_force` what people had done to the piece.
    """

    piece = models.OneToOneField("assessment.Piece", on_delete=models.CASCADE, related_name="mark")
    photograph = models.ForeignKey("assessment.Photograph", on_delete=models.CASCADE)
    rule_set = models.CharField(max_length=60)
    rule_set_version = models.CharField(max_length=20)
    core_version = models.CharField(max_length=20)
    score = models.FloatField(null=True)
    verdict = models.JSONField()
    in_force = models.JSONField(null=True)
    accepted_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    accepted_at = models.DateTimeField(auto_now=True)


class MarkLine(models.Model):
    """One rule's outcome in a given mark, as a row, so that records are read over many pieces: the
    mark's verdict holds the same. `share` is its part of the piece's whole weight, 0 to 1;
    `spoken` says that the marker set it by hand. Edges of the band without end are null.
    """

    mark = models.ForeignKey(Mark, on_delete=models.CASCADE, related_name="lines")
    rule = models.CharField(max_length=60)
    title = models.CharField(max_length=120)
    family = models.CharField(max_length=12)
    measure = models.CharField(max_length=40, blank=True)
    state = models.CharField(max_length=20)
    score = models.FloatField(null=True)
    share = models.FloatField(default=0.0)
    value = models.FloatField(null=True)
    uncertainty = models.FloatField(null=True)
    low_limit = models.FloatField(null=True)
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    high_limit = models.FloatField(null=True)
    borderline = models.BooleanField(default=False)
    spoken = models.BooleanField(default=False)

    class Meta:
        ordering = ("pk",)

    @property
    def edges(self) -> tuple[float, float, float, float] | None:
        """The band as it rises; None for a mark that was given before bands were kept."""
        if self.low is None and self.high is None:
            return None
        low_limit, low = (-math.inf if e is None else e for e in (self.low_limit, self.low))
        high, high_limit = (math.inf if e is None else e for e in (self.high, self.high_limit))
        return low_limit, low, high, high_limit


class MarkChange(models.Model):
    """A mark that was accepted, or accepted anew: what it was, what it became, and why."""

    piece = models.ForeignKey(
        "assessment.Piece", on_delete=models.CASCADE, related_name="mark_changes"
    )
    old = models.FloatField(null=True)
    new = models.FloatField(null=True)
    why = models.TextField(blank=True)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)


class Flag(models.TextChoices):
    """Why a piece needs a marker's eye before its mark can be trusted."""

    SAFETY = "safety", "can hurt somebody"
    QUESTION = "question", "safety question unanswered"
    HANDLES = "handles", "handles to check"
    SHORT = "short", "too little measured"


class PieceSnapshot(models.Model):
    """How a piece stood when it was last read, kept so that a wall of them need not be read anew:
    its score with its uncertainty, its chief fault in three words, what a marker should look at
    first (`flags`, of Flag), its measures by name, and its outline and vessel as SVG paths about
    the rim point, upright, in thousandths of the container's height, which is `container_cm` by
    the reference card, else by the brief. `upright` is what turns the photograph's pixels to these
    units.

    It holds for `revision` of the piece, one photograph and one version of the rules, which `key`
    tells together.
    """

    piece = models.OneToOneField(
        "assessment.Piece", on_delete=models.CASCADE, related_name="snapshot"
    )
    photograph = models.ForeignKey("assessment.Photograph", on_delete=models.CASCADE)
    key = models.CharField(max_length=120)
    score = models.FloatField(null=True)
    uncertainty = models.FloatField(default=0.0)
    fault = models.CharField(max_length=60, blank=True)
    flags = models.JSONField(default=list)
    measures = models.JSONField(default=dict)
    plant = models.TextField(blank=True)
    vessel = models.TextField(blank=True)
    container_cm = models.FloatField()
    left = models.FloatField()
    right = models.FloatField()
    top = models.FloatField()
    bottom = models.FloatField()
    upright = models.CharField(max_length=120)
