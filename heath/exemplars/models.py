"""Pieces that a school may show: which rules each shows held, and who allowed it."""

from django.db import models


class Exemplar(models.Model):
    """A piece on the exemplar shelf. It is shown from when its maker allowed it until that is
    withdrawn; `said` is how it was allowed. It shows the held `rules`, by code, without a name.
    """

    class State(models.TextChoices):
        ASKED = "asked", "the student is asked"
        ALLOWED = "allowed", "allowed"
        WITHDRAWN = "withdrawn", "withdrawn"

    piece = models.OneToOneField(
        "assessment.Piece", on_delete=models.CASCADE, related_name="shown_as"
    )
    rules = models.JSONField(default=list)
    words = models.CharField(max_length=200, blank=True)
    state = models.CharField(max_length=10, choices=State, default=State.ASKED)
    said = models.CharField(max_length=200, blank=True)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-pk",)
