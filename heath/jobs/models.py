"""Work that takes too long for a request, how far it is, and what came of it."""

import secrets

from django.db import models


def new_secret() -> str:
    """What a job's address ends in: 128 bits by chance."""
    return secrets.token_urlsafe(16)


def sent_path(instance, name: str) -> str:
    """Where what a job works on is kept."""
    return f"jobs/{secrets.token_urlsafe(16)}"


class Job(models.Model):
    """One piece of work of a `kind`, done by a worker.

    `given` and the file `sent` are what it works on; `file` (called `name`) or `result` is what
    comes of it, or `fault` says why nothing did. `done` of `total` steps are through. When it has
    ended, `to` is the path where the person goes on (without one they are given the file);
    `back` is where they came from.
    """

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="jobs")
    kind = models.CharField(max_length=40)
    secret = models.CharField(max_length=40, unique=True, default=new_secret)
    title = models.CharField(max_length=160)
    given = models.JSONField(default=dict)
    sent = models.FileField(upload_to=sent_path, blank=True)
    file = models.FileField(upload_to=sent_path, blank=True)
    name = models.CharField(max_length=160, blank=True)
    result = models.JSONField(null=True)
    to = models.CharField(max_length=200, blank=True)
    back = models.CharField(max_length=200, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    fault = models.TextField(blank=True)
    asked_by = models.ForeignKey(
        "people.User", on_delete=models.CASCADE, null=True, related_name="+"
    )
    asked_at = models.DateTimeField(auto_now_add=True, db_index=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    def __str__(self):
        return f"{self.kind} {self.pk}"

    @property
    def succeeded(self) -> bool:
        """Whether it ended and something came of it."""
        return self.ended_at is not None and not self.fault

    def progress(self, done: int, total: int) -> None:
        """Note how far it is, for those who wait."""
        self.done, self.total = done, total
        Job.objects.filter(pk=self.pk).update(done=done, total=total)
