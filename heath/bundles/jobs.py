"""Making and taking in bundles in the background."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django.core.files import File
from django.urls import reverse
from django.utils import timezone

from heath.bundles.importing import take_in
from heath.bundles.opening import BundleRefused, read_term, unpack
from heath.bundles.writing import write_term
from heath.classes.models import Course
from heath.jobs.models import Job
from heath.jobs.work import NotDone, handles

MAKE, TAKE = "make bundle", "take in bundle"


@handles(MAKE)
def make(job: Job) -> None:
    """Make a bundle; `given` has the classes' numbers and whether it has names."""
    courses = list(
        Course.objects.filter(
            school=job.school, deleted_at=None, pk__in=job.given["courses"]
        ).order_by("pk")
    )
    if not courses:
        raise NotDone("These classes are gone.")
    with tempfile.TemporaryDirectory() as folder:
        named = job.given["named"]
        path = write_term(job.school, courses, named, Path(folder), job.progress)
        kind = "" if named else "-codes"
        job.name = f"juniper-heath-{timezone.localdate().isoformat()}{kind}.zip"
        with path.open("rb") as file:
            job.file.save(job.name, File(file), save=False)


@handles(TAKE)
def take(job: Job) -> None:
    """Take a bundle in, which was sent along."""
    with tempfile.TemporaryDirectory() as folder:
        archive = Path(folder) / "bundle.zip"
        with job.sent.open("rb") as source, archive.open("wb") as target:
            for chunk in source.chunks():
                target.write(chunk)
        try:
            data = unpack(archive, Path(folder) / "bag")
            archive.unlink()
            take_in(job.school, data, read_term(data), job.progress)
        except BundleRefused as error:
            raise NotDone(f"{error} Nothing was taken in.") from error
    job.to = reverse("records")
