"""Setting a container on the shelf from one photograph of it empty."""

import io
import zipfile

from django.core.files.base import ContentFile
from django.urls import reverse

from heath.jobs.models import Job
from heath.jobs.work import handles
from heath.shelf.models import SHAPE, Container
from juniper.photograph import RENDITIONS, UnusablePhotograph, read_photograph, renditions
from juniper.scene import NothingFound, see_empty

NAMELESS = "Container"


def name_from(filename: str, school) -> str:
    """A name to begin with: the file's, where it says something, else the next free number."""
    stem = filename.rsplit(".", 1)[0].replace("_", " ").replace("-", " ").strip()[:80]
    if sum(c.isalpha() for c in stem) >= 3 and not stem.upper().startswith(
        ("IMG", "DSC", "PXL", "PHOTO", "SCREENSHOT")
    ):
        return stem[0].upper() + stem[1:]
    return f"{NAMELESS} {school.containers.count() + 1}"


def add_container(school, data: bytes, filename: str, user) -> Container:
    """Read the photograph and set the container on the shelf. Raises UnusablePhotograph or
    NothingFound with a sentence for the person.
    """
    photo = read_photograph(data, filename)
    seen = see_empty(photo)
    copy = renditions(data)["screen"]
    shrink = min(1.0, RENDITIONS["screen"][0] / max(photo.width, photo.height))
    sides = [
        [[round(x * shrink, 1), round(y * shrink, 1)] for x, y in side]
        for side in (seen.left, seen.right)
    ]
    new = Container(
        school=school,
        name=name_from(filename, school),
        shape=SHAPE.dump_python(seen.shape, mode="json"),
        sides=sides,
        picture_width=round(photo.width * shrink),
        picture_height=round(photo.height * shrink),
        by_card=seen.height_cm is not None,
        added_by=user,
    )
    if seen.height_cm is not None:
        new.height_cm = round(min(300.0, max(1.0, seen.height_cm)), 1)
        new.width_cm = round(min(300.0, max(1.0, seen.height_cm * seen.shape.width)), 1)
    new.picture.save("copy.jpg", ContentFile(copy), save=False)
    new.save()
    return new


SET = "containers"


@handles(SET)
def set_on_shelf(job: Job) -> None:
    """Set a container on the shelf from each photograph that was sent, in a ZIP file."""
    added, faults = [], []
    with job.sent.open("rb") as file, zipfile.ZipFile(file) as sent:
        names = sent.namelist()
        for number, entry in enumerate(names):
            job.progress(number, len(names))
            name = entry.partition("/")[2]
            try:
                added.append(add_container(job.school, sent.read(entry), name, job.asked_by).pk)
            except (UnusablePhotograph, NothingFound) as error:
                faults.append(f"{name}: {error}")
    job.result = {"added": added, "faults": faults}
    job.to = f"{reverse('shelf')}?made={job.secret}"
    if len(added) == 1 and not faults:
        job.to = reverse("container", args=added)


def as_sent(pictures: list[tuple[str, bytes]]) -> bytes:
    """Photographs (name, bytes) as one ZIP file, for set_on_shelf()."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as sent:
        for number, (name, data) in enumerate(pictures):
            sent.writestr(f"{number:02d}/{name}", data)
    return out.getvalue()
