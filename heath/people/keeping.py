"""Putting a class or a brief away, deleting it, and bringing it back within thirty days."""

from __future__ import annotations

from datetime import timedelta

from django.db import models
from django.utils import timezone

from heath.people.policy import deleted, find

WAY_BACK = timedelta(days=30)


class Kept(models.Model):
    """A record that can be archived (out of the way, still to be opened) and deleted (gone from
    everywhere, brought back within WAY_BACK).
    """

    archived_at = models.DateTimeField(null=True, editable=False)
    deleted_at = models.DateTimeField(null=True, editable=False)

    class Meta:
        abstract = True

    @property
    def gone_on(self):
        """When a deleted record is removed for good."""
        return self.deleted_at + WAY_BACK


def keep(record: Kept, what: str) -> None:
    """Do to a record what was asked: archive, unarchive, delete or restore; anything else changes
    nothing.
    """
    now = timezone.now()
    changes = {
        "archive": ("archived_at", now),
        "unarchive": ("archived_at", None),
        "delete": ("deleted_at", now),
        "restore": ("deleted_at", None),
    }
    if what in changes:
        field, value = changes[what]
        setattr(record, field, value)
        record.save(update_fields=[field])


def meant(user, model, pk: int, what: str):
    """The record that a person asks something (`what`) of: one to restore is sought among the
    deleted, None where it is gone for good; any other among those in use, else Http404.
    """
    if what == "restore":
        return deleted(user, model).filter(pk=pk).first()
    return find(user, model, pk=pk)


def past_return(model) -> models.QuerySet:
    """Records of a model that were deleted so long ago that they are to be removed for good."""
    return model._default_manager.filter(deleted_at__lt=timezone.now() - WAY_BACK)
