"""Return sheets: what a student is given."""

from django.db import models


class ReturnSheet(models.Model):
    """One issue of a piece's sheet. `figures` holds all that it shows, so that it never changes."""

    piece = models.ForeignKey("intake.Piece", on_delete=models.CASCADE, related_name="sheets")
    version = models.PositiveIntegerField()
    figures = models.JSONField()
    issued_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    issued_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("version",)
        constraints = [models.UniqueConstraint(fields=("piece", "version"), name="one_sheet_a_version")]
