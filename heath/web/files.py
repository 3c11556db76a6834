"""Files leave the disk with the record that they belong to."""

from __future__ import annotations

from django.db import models, transaction
from django.db.models.signals import post_delete


def remove_files(sender, instance, **more) -> None:
    """Delete the files of a record that was deleted, once that is settled."""
    for field in sender._meta.concrete_fields:
        file = getattr(instance, field.name) if isinstance(field, models.FileField) else None
        if file:
            storage, name = file.storage, file.name
            transaction.on_commit(lambda storage=storage, name=name: storage.delete(name))


def watch(every) -> None:
    """Have the files of these models removed with their records."""
    for model in every:
        if any(isinstance(f, models.FileField) for f in model._meta.concrete_fields):
            post_delete.connect(remove_files, sender=model, dispatch_uid=f"files {model._meta}")
