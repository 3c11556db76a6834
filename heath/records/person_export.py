"""All that is held on a person, as one ZIP: a JSON document of every record, by kind, and the
photographs. It is what the person is handed who asks what is stored.
"""

from __future__ import annotations

import json
import tempfile
from collections.abc import Sequence
from typing import IO, Any
from zipfile import ZIP_STORED, ZipFile

from django.core.serializers.json import DjangoJSONEncoder
from django.db.models import FileField, Model, QuerySet

from heath.assessment.models import Answer, Correction, Mark, Override, Photograph, Piece, Remark
from heath.classes.models import Student
from heath.exemplars.models import Exemplar
from heath.practice.models import Exercise, PracticeRound
from heath.records.erasing import arrivals_of, learners_of
from heath.records.models import MarkCorrection, Note, RecordLink
from heath.returns.models import ReturnSheet

# What gives access, or is of no meaning outside.
LEFT_OUT = frozenset({"key", "secret", "password"})
README = """This is everything that {school} holds on {name}.

held.json      every record, by kind; times are UTC, lengths in centimetres, places on a
               photograph in pixels of its full copy
photographs/   each photograph, named by its number in held.json ("photographs"), and pictures as
               they were sent that are still kept
"""


def rows(many: QuerySet) -> list[dict[str, Any]]:
    """Records as plain values; others that they belong to by number, files by name."""
    return [_row(one) for one in many]


def _row(one: Model) -> dict[str, Any]:
    return {
        field.attname: getattr(one, field.attname)
        if not isinstance(field, FileField)
        else (getattr(one, field.name).name or None)
        for field in one._meta.concrete_fields
        if field.name not in LEFT_OUT
    }


def held(students: Sequence[Student]) -> dict[str, list[dict[str, Any]]]:
    """Every record on a person, by kind."""
    pieces = Piece.objects.filter(student__in=students)
    learners = learners_of(students)
    kinds: dict[str, QuerySet] = {
        "places in classes": Student.objects.filter(pk__in=[s.pk for s in students]),
        "pieces": pieces,
        "photographs": Photograph.objects.filter(piece__in=pieces),
        "pictures that were sent": arrivals_of(pieces, students),
        "what was put right by hand": Correction.objects.filter(photograph__piece__in=pieces),
        "answers about pieces": Answer.objects.filter(piece__in=pieces),
        "marks": Mark.objects.filter(piece__in=pieces),
        "marks set by hand": Override.objects.filter(piece__in=pieces),
        "corrected marks": MarkCorrection.objects.filter(student__in=students),
        "remarks": Remark.objects.filter(piece__in=pieces),
        "return sheets": ReturnSheet.objects.filter(piece__in=pieces),
        "private notes": Note.objects.filter(student__in=students),
        "links to the record": RecordLink.objects.filter(student__in=students),
        "exemplars": Exemplar.objects.filter(piece__in=pieces),
        "rounds of eye practice": PracticeRound.objects.filter(learner__in=learners),
        "answers in eye practice": Exercise.objects.filter(round__learner__in=learners),
    }
    return {kind: rows(many) for kind, many in kinds.items()}


def export(students: Sequence[Student]) -> IO[bytes]:
    """The ZIP, as a file at its beginning that is removed when it is closed."""
    out = tempfile.TemporaryFile()  # noqa: SIM115  whoever answers with it closes it
    pieces = Piece.objects.filter(student__in=students)
    first = students[0]
    with ZipFile(out, "w", ZIP_STORED) as archive:
        words = README.format(school=first.course.school, name=first.name)
        archive.writestr("README.txt", words)
        text = json.dumps(held(students), cls=DjangoJSONEncoder, ensure_ascii=False, indent=1)
        archive.writestr("held.json", text)
        for photograph in Photograph.objects.filter(piece__in=pieces).iterator():
            if photograph.full:
                with photograph.full.open("rb") as file:
                    archive.writestr(f"photographs/{photograph.pk}.jpg", file.read())
        for arrival in arrivals_of(pieces, students):
            if arrival.file:
                with arrival.file.open("rb") as file:
                    archive.writestr(f"photographs/sent-{arrival.pk}", file.read())
    out.seek(0)
    return out
