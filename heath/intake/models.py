"""Students' links, and pictures that have arrived and are not sorted yet."""

import secrets

from django.contrib.postgres.functions import RandomUUID
from django.db import models
from django.db.models.functions import Cast
from django.utils import timezone

from heath.assessment.models import View
from heath.assessment.models.photographs import random_path, thumb_path


def new_secret() -> str:
    """A link's secret, 128 bits."""
    return secrets.token_urlsafe(16)


def arrival_path(instance, name):
    """Where a picture waits as it was sent."""
    return random_path("arrival")


class StudentLink(models.Model):
    """A link by which students without an account add pictures to a brief; it ends by itself and
    can be withdrawn. Its secret is its own: it outlives the site's key.
    """

    # The database makes one too, for an older release that knows nothing of it.
    secret = models.CharField(
        max_length=80,
        unique=True,
        default=new_secret,
        db_default=Cast(RandomUUID(), models.CharField()),
    )
    brief = models.ForeignKey("briefs.Brief", on_delete=models.CASCADE, related_name="links")
    closes_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True)
    made_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)

    @property
    def open(self):
        """Whether pictures may be added now: until it closes, is withdrawn, the brief's marks are
        locked, or the class is archived.
        """
        return (
            self.withdrawn_at is None
            and timezone.now() < self.closes_at
            and self.brief.locked_at is None
            and not self.brief.is_deleted
            and self.brief.course.archived_at is None
        )


class Arrival(models.Model):
    """A picture of `size` bytes that was sent to a brief, from its arrival until it is a piece's
    photograph.
    """

    class State(models.TextChoices):
        WAITING = "waiting", "waits to be looked at"
        SORTED = "sorted", "sorted"
        UNMATCHED = "unmatched", "whose piece is it?"
        DUPLICATE = "duplicate", "here already"
        FAILED = "failed", "cannot be used"
        DROPPED = "dropped", "put aside"

    class By(models.TextChoices):
        CARD = "card", "by its card"
        NAME = "name", "by its file name"
        SAID = "said", "by what the student wrote"
        HAND = "hand", "by hand"

    brief = models.ForeignKey("briefs.Brief", on_delete=models.CASCADE, related_name="arrivals")
    link = models.ForeignKey(
        StudentLink, on_delete=models.SET_NULL, null=True, related_name="arrivals"
    )
    file = models.FileField(upload_to=arrival_path, blank=True)
    thumb = models.FileField(upload_to=thumb_path, blank=True)
    name = models.CharField(max_length=160, blank=True)
    said = models.CharField(max_length=120, blank=True)
    phone = models.CharField(max_length=40, blank=True)
    digest = models.CharField(max_length=64)
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    matched = models.CharField(max_length=5, choices=By, blank=True)
    view = models.CharField(max_length=8, choices=View, blank=True)
    piece = models.ForeignKey(
        "assessment.Piece", on_delete=models.SET_NULL, null=True, related_name="arrivals"
    )
    photograph = models.ForeignKey(
        "assessment.Photograph", on_delete=models.SET_NULL, null=True, related_name="arrivals"
    )
    reason = models.TextField(blank=True)
    advice = models.JSONField(default=list)
    size = models.PositiveBigIntegerField(default=0)
    added_by = models.ForeignKey("people.User", on_delete=models.SET_NULL, null=True)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
        indexes = [models.Index(fields=("brief", "state"))]

    def __str__(self):
        return f"arrival {self.pk} at {self.brief}"
