"""Many made-up records, to see that the places stay quick: years of classes, and one class of the
term with real photographs.
"""

from __future__ import annotations

from itertools import islice

from django.db import connection, transaction

from heath.assessment.models import Mark, Photograph, Piece
from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.snapshot import keep_snapshot
from heath.bench.accepting import accept_marks
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.people.models import School, User
from heath.returns.models import ReturnSheet
from juniper.camera.capture import beside_card
from juniper.photograph.code import new_code

CLASS, BRIEFS = 25, 5  # students of a class, briefs it was set
A_TERM = 10  # classes of a past term
REAL = (0, 12, 13, 20)  # pieces of the roll that are photographed
TOGETHER = 2000


def crowd(pieces: int, wall: int) -> tuple[User, Brief]:
    """A school with so many pieces of past terms, and a brief of this term with a `wall` of
    measured ones: (instructor, brief).
    """
    school = School.objects.create(name="Saltmarsh College")
    user = User.objects.create_user("maren", password=None, school=school, role="owner")
    brief = _this_term(school, user, wall)
    mark = accept_marks(brief.pieces.order_by("pk").first(), user)
    for year in range(-(-pieces // (CLASS * BRIEFS))):
        with transaction.atomic():
            _past_term(
                school, user, year, mark, min(pieces - year * CLASS * BRIEFS, CLASS * BRIEFS)
            )
    return user, brief


def _this_term(school, user, wall: int) -> Brief:
    course = Course.objects.create(school=school, name="Evening course", term="this term")
    Student.objects.bulk_create(
        Student(course=course, name=f"Student {n:03d}") for n in range(wall)
    )
    brief = _brief(course, "Column")
    brief.give_pieces()
    real = []
    every = list(
        brief.pieces.order_by("student__sorting").select_related("brief__course", "student")
    )
    for piece, number in zip(every, REAL, strict=False):
        photograph, _ = add_photograph(piece, beside_card(number, piece.code), "piece.jpg", user)
        see_photograph(photograph)
        real.append(Photograph.objects.get(pk=photograph.pk))
    for place, piece in enumerate(every[len(REAL) :]):
        copy = Photograph.objects.get(pk=real[place % len(real)].pk)
        copy.pk, copy._state.adding, copy.piece = None, True, piece
        copy.digest = f"{place:064d}"
        copy.save()
    brief.pieces.update(state=Piece.State.MARKING)
    for piece in brief.pieces.select_related("brief__course", "student").prefetch_related(
        "photographs"
    ):
        keep_snapshot(piece)
    return brief


def _brief(course, name: str) -> Brief:
    return Brief.objects.create(
        course=course,
        name=name,
        container="Tall cylinder",
        container_height_cm=24,
        container_width_cm="10.4",
        form="symmetrical triangle",
    )


def _past_term(school, user, year: int, mark: Mark, count: int) -> None:
    """One class of a past term: `count` returned pieces, each with a photograph, a mark and a
    sheet.
    """
    course = Course.objects.create(
        school=school, name=f"Course {year:03d}", term=f"Past term {year // A_TERM:02d}"
    )
    students = Student.objects.bulk_create(
        Student(course=course, name=f"Pupil {n:03d}") for n in range(CLASS)
    )
    briefs = [_brief(course, f"Brief {n:02d}") for n in range(BRIEFS)]
    pairs = islice(((b, s) for b in briefs for s in students), count)
    pieces = Piece.objects.bulk_create(
        [Piece(brief=b, student=s, state=Piece.State.RETURNED, code=new_code()) for b, s in pairs],
        batch_size=TOGETHER,
    )
    like = mark.photograph
    photographs = Photograph.objects.bulk_create(
        [
            Photograph(
                piece=p,
                full=like.full.name,
                screen=like.screen.name,
                wall=like.wall.name,
                thumb=like.thumb.name,
                width=like.width,
                height=like.height,
                digest="",
            )
            for p in pieces
        ],
        batch_size=TOGETHER,
    )
    Mark.objects.bulk_create(
        [
            Mark(
                piece=p,
                photograph=photo,
                rule_set=mark.rule_set,
                rule_set_version=mark.rule_set_version,
                core_version=mark.core_version,
                score=(p.pk * 37) % 101,
                verdict=mark.verdict,
                accepted_by=user,
            )
            for p, photo in zip(pieces, photographs, strict=True)
        ],
        batch_size=TOGETHER,
    )
    _lines(mark, pieces)
    ReturnSheet.objects.bulk_create(
        [
            ReturnSheet(
                piece=p,
                version=1,
                figures={"student": "", "brief": "", "score": 50},
                issued_by=user,
            )
            for p in pieces
        ],
        batch_size=TOGETHER,
    )


def _lines(like: Mark, pieces: list[Piece]) -> None:
    """The lines of past marks: those of one mark, each with a mark of ten of its own."""
    columns = (
        "rule, title, family, measure, state, share, value, uncertainty, low_limit, low, high,"
        " high_limit, borderline, spoken"
    )
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO assessment_markline (mark_id, score, {columns})"  # noqa: S608 - our own names
            f" SELECT m.id, (m.id * 7 + l.id * 13) %% 11, {columns}"
            " FROM assessment_mark m CROSS JOIN assessment_markline l"
            " WHERE l.mark_id = %s AND m.piece_id = ANY(%s)",
            [like.pk, [p.pk for p in pieces]],
        )
