"""Files leave the disk with the last record that they belong to."""

from __future__ import annotations

from functools import partial

from django.db import models, transaction
from django.db.models.signals import post_delete


def delete_unused(model, field: str, name: str) -> None:
    """Delete a file that no record of a model refers to any more by a field; the pieces of a second
    marking share theirs with the first.
    """
    if not model._base_manager.filter(**{field: name}).exists():
        model._meta.get_field(field).storage.delete(name)


def remove_files(sender, instance, **more) -> None:
    """Delete the files of a record that was deleted, once that is settled."""
    for field in sender._meta.concrete_fields:
        file = getattr(instance, field.name) if isinstance(field, models.FileField) else None
        if file:
            transaction.on_commit(partial(delete_unused, sender, field.name, file.name))


def watch(every) -> None:
    """Have the files of these models removed with their records."""
    for model in every:
        if any(isinstance(f, models.FileField) for f in model._meta.concrete_fields):
            post_delete.connect(remove_files, sender=model, dispatch_uid=f"files {model._meta}")
