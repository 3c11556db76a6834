"""How long photographs and records are kept: so many months after a class was archived, as each
school sets it. What an exemplar's student allowed to be shown stays as long as they allow it.
"""

from __future__ import annotations

import io
from datetime import datetime
from functools import partial

from dateutil.relativedelta import relativedelta
from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone
from PIL import Image, ImageDraw, ImageFont

from heath.assessment.models import Photograph
from heath.classes.models import Student
from heath.exemplars.models import Exemplar
from heath.intake.models import Arrival
from heath.people.models import School
from heath.records.erasing import erase
from heath.web.files import delete_unused
from juniper.photograph import RENDITIONS

COPIES = ("full", "screen", "wall", "thumb")
GREY, INK = (203, 201, 196), (84, 83, 80)  # sRGB: the middle grey about photographs, and its text
REMOVED = "Photograph removed"


def before(months: int, now: datetime) -> datetime:
    """The moment so many months ago."""
    return now - relativedelta(months=months)


def stand_in(width: int, height: int, longest: int) -> bytes:
    """A grey JPEG in a photograph's place, in its proportion, that says what happened to it; pages
    and papers that show the photograph show this.
    """
    shrink = min(1.0, longest / max(width, height))
    size = (max(1, round(width * shrink)), max(1, round(height * shrink)))
    image = Image.new("RGB", size, GREY)
    font = ImageFont.load_default(max(9, size[0] // 16))
    ImageDraw.Draw(image).text((size[0] / 2, size[1] / 2), REMOVED, INK, font, anchor="mm")
    out = io.BytesIO()
    image.save(out, "JPEG", quality=80)
    return out.getvalue()


@transaction.atomic
def let_go(photograph: Photograph, now: datetime) -> None:
    """Remove a photograph's files for good; what was measured on it stays."""
    for copy in COPIES:
        file = getattr(photograph, copy)
        if file:
            # A second marking shares it: it goes with the last that names it.
            transaction.on_commit(partial(delete_unused, Photograph, copy, file.name))
        data = stand_in(photograph.width, photograph.height, RENDITIONS[copy][0])
        file.save("copy.jpg", ContentFile(data), save=False)
    photograph.removed_at = now
    photograph.size = sum(getattr(photograph, copy).size for copy in COPIES)
    photograph.save(update_fields=[*COPIES, "removed_at", "size"])
    for arrival in Arrival.objects.filter(photograph=photograph):
        arrival.file.delete(save=False)
        arrival.thumb.delete(save=False)
        arrival.save(update_fields=["file", "thumb"])


def let_photographs_go(now: datetime | None = None) -> int:
    """Remove the photographs whose time is over; how many."""
    now, count = now or timezone.now(), 0
    for school in School.objects.exclude(picture_months=None):
        shown = Exemplar.objects.filter(state=Exemplar.State.ALLOWED).values("piece")
        over = Photograph.objects.filter(
            piece__brief__course__school=school,
            piece__brief__course__archived_at__lt=before(school.picture_months, now),
            removed_at=None,
        ).exclude(piece__in=shown)
        for photograph in over.iterator():
            let_go(photograph, now)
            count += 1
    return count


def let_records_go(now: datetime | None = None) -> int:
    """Delete the records of students of classes whose time is over, each with a receipt; how
    many students.
    """
    now, count = now or timezone.now(), 0
    for school in School.objects.exclude(record_months=None):
        over = Student.objects.filter(
            course__school=school, course__archived_at__lt=before(school.record_months, now)
        ).select_related("course__school")
        for student in list(over):
            erase([student], None)
            count += 1
    return count
