"""Return sheets: what a student is given."""

import secrets

from django.db import models


def new_key():
    """What the address of a student's sheet ends in: 128 bits by chance."""
    return secrets.token_urlsafe(16)


def bundle_path(instance, name):
    """Where a class's PDF is kept."""
    return f"bundle/{secrets.token_urlsafe(16)}.pdf"


class ReturnSheet(models.Model):
    """One issue of a piece's sheet. `figures` holds all that it shows, so that it never changes.

    The student's address ends in `key`. A further issue takes it over while the one before stands;
    after a withdrawal it has a new one, and the old address stays withdrawn. After `ends_at` the
    address shows nothing any more.
    """

    piece = models.ForeignKey("assessment.Piece", on_delete=models.CASCADE, related_name="sheets")
    version = models.PositiveIntegerField()
    figures = models.JSONField()
    key = models.CharField(max_length=80, db_index=True, default=new_key)
    ends_at = models.DateTimeField(null=True)
    issued_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    issued_at = models.DateTimeField(auto_now_add=True)
    mailed_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)
    withdrawn_by = models.ForeignKey(
        "people.User", on_delete=models.SET_NULL, null=True, related_name="+"
    )

    class Meta:
        ordering = ("version",)
        constraints = [
            models.UniqueConstraint(fields=("piece", "version"), name="one_sheet_a_version")
        ]


class Bundle(models.Model):
    """All sheets of a brief as one PDF, made in the background; `done` of `total` sheets are in it
    so far.
    """

    brief = models.ForeignKey("briefs.Brief", on_delete=models.CASCADE, related_name="bundles")
    file = models.FileField(upload_to=bundle_path, blank=True)
    total = models.PositiveIntegerField(default=0)
    done = models.PositiveIntegerField(default=0)
    fault = models.CharField(max_length=300, blank=True)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)

    @property
    def ready(self) -> bool:
        """Whether the file can be opened."""
        return bool(self.file)
