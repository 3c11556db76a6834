"""The gradebook of a class: marks of all briefs, and the term's mark and award of each student."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db.models import F, Min
from django.utils import timezone

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.records.models import Attendance, Gradebook, MarkCorrection
from juniper.records import LATE, MISSING, ON_TIME, Entry, TermMark, term_mark

HIDDEN = "hidden"  # of a brief that hides names: its marks are not shown beside names yet


@dataclass(frozen=True)
class Column:
    """One brief: its weight in the term."""

    brief: Brief
    weight: Decimal

    @property
    def hidden(self) -> bool:
        """Whether its marks are not shown beside names."""
        return self.brief.hides_names


@dataclass(frozen=True)
class Cell:
    """A student's part in one brief: the piece (None where there is none), the given mark, what it
    gives to the term and whether that is counted, how it came, by whose word, and a correction.
    """

    piece: int | None
    mark: float | None
    award: str
    gives: float | None
    use: str
    came: str
    said: Attendance | None
    correction: MarkCorrection | None
    hidden: bool
    given: dict[str, Any] | None
    code: str

    @property
    def words(self) -> str:
        """What is to be said beside the mark, '' where nothing is."""
        parts = [self.came] if self.came != ON_TIME else []
        if self.correction is not None:
            parts.append("corrected")
        if self.use == "dropped":
            parts.append("not counted")
        return ", ".join(parts)


@dataclass(frozen=True)
class Line:
    """One student: a cell a brief, the term's mark as it is worked out and as it stands, and its
    award.
    """

    student: Student
    cells: tuple[Cell, ...]
    worked_out: float | None
    mark: float | None
    award: str
    correction: MarkCorrection | None
    here: bool


@dataclass(frozen=True)
class Book:
    """A class's gradebook as a table."""

    course: Course
    settings: Gradebook
    columns: tuple[Column, ...]
    lines: tuple[Line, ...]


def gradebook_of(course: Course) -> Gradebook:
    """How a class's term mark is made; as usual where nothing was settled."""
    return Gradebook.objects.filter(course=course).first() or Gradebook(course=course)


def book_of(course: Course) -> Book:
    """The gradebook of a class. Students who were removed, or are in another class now, stay in it
    with what they made.
    """
    settings = gradebook_of(course)
    briefs = list(
        course.briefs.filter(deleted_at=None).select_related("weight").order_by("made_at", "pk")
    )
    columns = tuple(Column(b, _weight(b)) for b in briefs)
    pieces = {
        (p["student"], p["brief"]): p
        for p in Piece.objects.filter(brief__in=briefs).values(
            "pk",
            "student",
            "brief",
            "state",
            "code",
            came_at=Min("photographs__added_at"),
            score=F("mark__score"),
            award=F("mark__verdict__award"),
            families=F("mark__verdict__families"),
            marked_at=F("mark__accepted_at"),
            rule_set=F("mark__rule_set"),
            version=F("mark__rule_set_version"),
            marker=F("mark__accepted_by__username"),
        )
    }
    numbers = [p["pk"] for p in pieces.values()]
    said = {a.piece_id: a for a in Attendance.objects.filter(piece__in=numbers)}
    made_here = {student for student, _ in pieces}
    students = [
        *course.students.select_related("level"),
        *Student.objects.filter(pk__in=made_here).exclude(course=course).select_related("level"),
    ]
    corrections: dict[tuple[int, int | None], MarkCorrection] = {
        (c.student_id, c.piece_id): c
        for c in MarkCorrection.objects.filter(student__in=students, taken_back=False)
    }
    lines = [
        _line(course, student, columns, pieces, said, corrections, settings)
        for student in students
        if student.removed_at is None or student.pk in made_here
    ]
    return Book(course, settings, columns, tuple(lines))


def _weight(brief: Brief) -> Decimal:
    kept = getattr(brief, "weight", None)
    return kept.weight if kept else Decimal(1)


def _line(course, student, columns, pieces, said, corrections, settings: Gradebook) -> Line:
    parts = [_part(student, column, pieces, said, corrections) for column in columns]
    found = term_mark([p.entry for p in parts if not p.hidden], settings.as_core)
    own = corrections.get((student.pk, None))
    mark = float(own.mark) if own else found.mark
    return Line(
        student,
        tuple(_cell(part, found) for part in parts),
        found.mark,
        mark,
        settings.awards.award(mark, float(settings.pass_mark)),
        own,
        student.course_id == course.pk and student.removed_at is None,
    )


@dataclass(frozen=True)
class _Part:
    entry: Entry
    piece: dict[str, Any] | None
    said: Attendance | None
    correction: MarkCorrection | None
    hidden: bool


def _part(student, column: Column, pieces, said, corrections) -> _Part:
    piece = pieces.get((student.pk, column.brief.pk))
    given = piece is not None and piece["state"] in (Piece.State.MARKED, Piece.State.RETURNED)
    word = said.get(piece["pk"]) if piece else None
    correction = corrections.get((student.pk, piece["pk"])) if piece else None
    entry = Entry(
        column.brief.pk,
        piece["score"] if given else None,
        float(column.weight),
        word.came if word else _came(column.brief, piece),
        float(correction.mark) if correction else None,
    )
    return _Part(entry, piece, word, correction, column.hidden)


def _came(brief: Brief, piece: dict[str, Any] | None) -> str:
    """How a piece came, by its first photograph and the brief's closing time."""
    came_at, closes = (piece["came_at"] if piece else None), brief.closes_at
    if came_at is None:
        return MISSING if closes is not None and timezone.now() > closes else ON_TIME
    return LATE if closes is not None and came_at > closes else ON_TIME


def _cell(part: _Part, found: TermMark) -> Cell:
    number = part.entry.brief
    return Cell(
        part.piece["pk"] if part.piece else None,
        part.entry.mark,
        (part.piece["award"] or "") if part.piece and part.entry.mark is not None else "",
        found.marks.get(number),
        HIDDEN if part.hidden else found.uses.get(number, ""),
        part.entry.came,
        part.said,
        part.correction,
        part.hidden,
        part.piece if part.entry.mark is not None else None,
        part.piece["code"] if part.piece else "",
    )
