"""Starting jobs, and doing them."""

from __future__ import annotations

import logging
from collections.abc import Callable
from datetime import timedelta

from django.core.files.base import ContentFile, File
from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from heath.jobs.models import Job

log = logging.getLogger(__name__)
RUN = "jobs.run"  # the task that does a job in the background
KEPT = timedelta(days=1)  # what came of a job is there for so long
GONE_WRONG = (
    "This did not work. Try once more; if it fails again, tell the person who runs the site."
)
HANDLERS: dict[str, Callable[[Job], None]] = {}


class NotDone(Exception):
    """A job that cannot be done; the message tells the person why and what to do."""


def handles(kind: str) -> Callable:
    """Decorator: the function that does jobs of a kind. It sets the job's file, result or path."""

    def decorated(function: Callable[[Job], None]) -> Callable[[Job], None]:
        HANDLERS[kind] = function
        return function

    return decorated


def start(
    kind: str, school, user, title: str, given=None, sent: bytes | File = b"", back: str = ""
) -> Job:
    """Ask for a job: it is kept and set to be done. `user` is None for somebody without an
    account, `sent` what it works on besides `given`, `back` the path they came from.
    """
    with transaction.atomic():
        job = Job(school=school, kind=kind, title=title[:160], given=given or {}, back=back)
        job.asked_by = user
        if sent:
            file = sent if isinstance(sent, File) else ContentFile(sent)
            job.sent.save("sent", file, save=False)
        job.save()
        app.configure_task(RUN).defer(job_id=job.pk)
    return job


def run(pk: int) -> None:
    """Do a job. Safe to run again: one that has ended stays as it is."""
    job = Job.objects.filter(pk=pk, ended_at=None).select_related("school").first()
    if job is None:
        return
    try:
        HANDLERS[job.kind](job)
    except NotDone as error:
        job.fault = str(error)
    except Exception:
        log.exception("job %s of kind %s went wrong", job.pk, job.kind)
        job.fault = GONE_WRONG
    job.ended_at = timezone.now()
    if job.sent:
        job.sent.delete(save=False)
    job.save(update_fields=["sent", "file", "name", "result", "to", "fault", "ended_at"])


def clear_old() -> int:
    """Remove jobs that were asked for more than a day ago, with their files; how many."""
    old = list(Job.objects.filter(asked_at__lt=timezone.now() - KEPT))
    for job in old:
        for field in (job.sent, job.file):
            if field:
                field.delete(save=False)
        job.delete()
    return len(old)
