"""Deleting all that is held on a person, with a receipt of what went."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.db.models import Q

from heath.assessment.models import Mark, Photograph, Piece, Remark
from heath.classes.models import Student
from heath.exemplars.models import Exemplar
from heath.intake.models import Arrival
from heath.people.models import User
from heath.people.policy import visible
from heath.practice.models import Exercise, Learner
from heath.records.models import Erasure, MarkCorrection, Note, RecordLink
from heath.returns.models import Bundle, ReturnSheet


def same_person(user: User, one: Student) -> list[Student]:
    """A student's places in all classes that a person may see, this one first: those with the same
    number of the school, or the same e-mail address.
    """
    same = Q(pk=one.pk)
    if one.number:
        same |= Q(number=one.number)
    if one.email:
        same |= Q(email__iexact=one.email)
    found = visible(user, Student).filter(same).select_related("course")
    return sorted(found, key=lambda s: (s.pk != one.pk, s.pk))


def held_on(students: Sequence[Student]) -> dict[str, int]:
    """How much is held on a person, by what it is."""
    pieces = Piece.objects.filter(student__in=students)
    counts = {
        "places in classes": len(students),
        "pieces": pieces.filter(brief__second_of=None).count(),
        "pieces of second markings": pieces.exclude(brief__second_of=None).count(),
        "photographs": Photograph.objects.filter(piece__in=pieces).count(),
        "pictures that were sent": arrivals_of(pieces, students).count(),
        "marks": Mark.objects.filter(piece__in=pieces).count(),
        "remarks": Remark.objects.filter(piece__in=pieces).count(),
        "return sheets": ReturnSheet.objects.filter(piece__in=pieces).count(),
        "corrected marks": MarkCorrection.objects.filter(student__in=students).count(),
        "private notes": Note.objects.filter(student__in=students).count(),
        "links": RecordLink.objects.filter(student__in=students).count(),
        "exemplars": Exemplar.objects.filter(piece__in=pieces).count(),
        "answers in eye practice": Exercise.objects.filter(
            round__learner__in=learners_of(students), answered_at__isnull=False
        ).count(),
    }
    return {what: many for what, many in counts.items() if many}


def arrivals_of(pieces, students: Sequence[Student]):
    """Pictures that were sent for these pieces, or under one of these names to their briefs."""
    names = [s.name for s in students]
    courses = [s.course_id for s in students]
    return Arrival.objects.filter(
        Q(piece__in=pieces) | Q(brief__course__in=courses, said__in=names)
    )


def learners_of(students: Sequence[Student]):
    """Who practised as one of them: on their own page, or by a class's link under their name."""
    found = Q(student__in=students)
    for student in students:
        found |= Q(course=student.course_id, name__iexact=student.name)
    return Learner.objects.filter(found)


@transaction.atomic
def erase(students: Sequence[Student], by: User) -> Erasure:
    """Delete a person's places in classes with all that belongs to them.

    Papers that hold the sheets of a whole class are removed too, as they hold this person's; they
    can be made anew.

    Returns:
        The receipt: what went and how much, with the SHA-256 digests of the photographs as they
        were sent. It holds no name.
    """
    pieces = Piece.objects.filter(student__in=students)
    counts = held_on(students)
    digests = sorted(
        set(Photograph.objects.filter(piece__in=pieces).values_list("digest", flat=True)) - {""}
    )
    for bundle in Bundle.objects.filter(brief__pieces__in=pieces).distinct():
        bundle.delete()
    for arrival in arrivals_of(pieces, students):
        arrival.delete()
    receipt = Erasure.objects.create(
        school=students[0].course.school, counts=counts, digests=digests, made_by=by
    )
    learners_of(students).delete()
    for student in students:
        student.delete()
    return receipt
