"""A past term of three classes, played through: pieces that grow better, a rule that is missed
until a lesson, late and excused work, and a second marker who is stricter and becomes more so.

What is put in here is what the records are to say: see LEAN, DRIFT, MISSED and TAUGHT. The pieces
are those of the roll that the present term has photographed; each is judged as any other.
"""

from __future__ import annotations

import random
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone

from heath.assessment.models import Mark, Photograph, Piece
from heath.assessment.reading import Reading, read
from heath.assessment.snapshot import keep_snapshot
from heath.bench.accepting import accept_marks, confirm_handles
from heath.briefs.models import Brief
from heath.classes.models import Course, Student, levels_of
from heath.demo.term import RETURNED
from heath.moderation.models import SecondMark
from heath.moderation.rounds import set_round
from heath.people.models import School, User
from heath.records.models import Attendance, Gradebook, Lesson, Note, RecordLink, Weight
from heath.returns.issuing import issue_sheet
from juniper.rules.verdict import ANSWERS

TERM = "Spring 2026"
BEGAN = datetime(2026, 2, 3, 21, 0, tzinfo=timezone.get_default_timezone())
LEAN, DRIFT = -4.0, -0.9  # points of 100 that the second marker gives more, and more each week
NOISE = 1.2  # standard deviation of a second mark about that, points of 100
AGAIN = 1.0  # standard deviation of a marker's own pieces marked again, points of 100
MISSED, TAUGHT = "holding-hidden", 2  # the rule that is missed, until the brief of this number
FAILS = (0.8, 0.15)  # share of pieces that miss it before and after
SHARE, BACK, SEED = 0.4, 2, 20260203
TRIES, CLOSE = 4, 0.3  # steps to a second mark, and how near it is to come (points of 100)
APART = "even-weight"  # the rule on which the second marker is stricter


@dataclass(frozen=True)
class PastClass:
    """A class of the past term: its name and its students, the most able last."""

    name: str
    students: tuple[str, ...]


CLASSES = (
    PastClass(
        "Tuesday evening, the quay windows",
        (
            "Anselm Creel",
            "Bronagh Seaforth",
            "Cosima Thrift",
            "Dunstan Reed",
            "Elspeth Kelda",
            "Faolán Grebe",
        ),
    ),
    PastClass(
        "Wednesday evening, the chart room",
        (
            "Greer Samphire",
            "Halvard Skerry",
            "Ines Marram",
            "Jory Penhallow",
            "Katell Guillemot",
            "Leocadia Shoal",
        ),
    ),
    PastClass(
        "Thursday evening, the lamp store",
        (
            "Morwenna Tide",
            "Niall Fathom",
            "Orla Saltmarsh",
            "Piran Eddy",
            "Quentin Wrasse",
            "Rosenn Dulse",
        ),
    ),
)
FORM = "symmetrical triangle"
BRIEFS = (
    ("A triangle for the porch", 1.0),
    ("A triangle in sea colours", 1.0),
    ("A triangle with a low focal point", 1.0),
    ("A tall triangle for the stair foot", 1.0),
    ("End of term, own colours", 2.0),
)


def play(school: School, first: User, second: User) -> list[Course]:
    """Play the term through, once; `first` marks all, `second` a share of it again."""
    found = list(Course.objects.filter(school=school, term=TERM))
    if found:
        return found
    roll = _roll(school)
    return [_class(school, one, n, roll, first, second) for n, one in enumerate(CLASSES)]


def _roll(school: School) -> list[Photograph]:
    """The photographs of the present term, those of the poorest pieces first. Pieces whose mark is
    held down are left out: nothing that a marker thinks changes such a mark.
    """
    pieces = Piece.objects.filter(
        brief__course__school=school, brief__name=RETURNED.name, mark__score__isnull=False
    ).order_by("mark__score")
    pieces = pieces.select_related("brief__course", "student__level")
    return [
        p.photograph
        for p in pieces.prefetch_related("photographs")
        if not read(p).verdict.capped_by
    ]


def _class(school, one: PastClass, number: int, roll, first: User, second: User) -> Course:
    chance = random.Random(f"{SEED} {one.name}")  # noqa: S311 - made-up records
    course = Course.objects.create(school=school, name=one.name, term=TERM)
    level = levels_of(school)[min(number, 2)]
    Student.objects.bulk_create(
        [
            Student(
                course=course,
                name=name,
                number=f"SC{number + 1}{n:03d}",
                email=f"{name.split()[0].lower()}@students.saltmarsh.example".replace("á", "a"),
                level=level if n < 3 else None,
            )
            for n, name in enumerate(one.students, 1)
        ]
    )
    students = list(course.students.order_by("number"))
    briefs = [_brief(course, n, number) for n in range(len(BRIEFS))]
    for n, brief in enumerate(briefs):
        _made(brief, n, students, roll, chance, first)
    Gradebook.objects.create(course=course, best=4, late_off=5)
    Lesson.objects.create(
        course=course,
        name="Hiding the holding material",
        taught_on=timezone.localtime(briefs[TAUGHT].closes_at).date() - timedelta(days=2),
        about=MISSED,
        made_by=first,
    )
    Note.objects.create(
        student=students[0],
        words="Hurries the last ten minutes. Ask for the rim before the focal flowers.",
        made_by=first,
    )
    RecordLink.objects.create(student=students[0], made_by=first)
    for n, brief in enumerate(briefs):
        made = set_round(brief, [first, second], SHARE, BACK, SEED + n, first)
        for one_second in made.seconds.select_related("copy__brief__course", "first__mark"):
            _marked_again(one_second, n, chance)
    return course


def _brief(course: Course, n: int, number: int) -> Brief:
    name, weight = BRIEFS[n]
    closes = BEGAN + timedelta(days=7 * n + number)
    brief = Brief.objects.create(
        course=course,
        name=name,
        container="Own vessel",
        container_height_cm=RETURNED.height_cm,
        container_width_cm=RETURNED.width_cm,
        form=FORM,
        rule_set=RETURNED.school,
        scheme="",
        closes_at=closes,
    )
    Brief.objects.filter(pk=brief.pk).update(made_at=closes - timedelta(days=7))
    brief.refresh_from_db()
    if weight != 1:
        Weight.objects.create(brief=brief, weight=weight)
    return brief


def _made(brief: Brief, n: int, students, roll, chance, by: User) -> None:
    """Each student's piece for a brief: the later the brief and the abler the student, the better
    the piece; one comes late, one is excused, and all are marked and returned.
    """
    for place, student in enumerate(students):
        if (n, place) == (1, 2):
            piece = Piece.objects.create(brief=brief, student=student)
            Attendance.objects.create(piece=piece, came="excused", reason="Ill", made_by=by)
            continue
        able = (place / len(students) + n / len(BRIEFS)) / 2
        rank = round(able * (len(roll) - 1)) + chance.choice((-1, 0, 1))
        like = roll[min(max(rank, 0), len(roll) - 1)]
        piece = Piece.objects.create(brief=brief, student=student, state=Piece.State.MARKING)
        late = (n, place) == (3, 4)
        at = brief.closes_at + (timedelta(hours=15) if late else -timedelta(minutes=20 + place))
        _photographed(piece, like, at)
        missed = chance.random() < FAILS[n >= TAUGHT]
        piece = Piece.objects.select_related("brief__course", "student__level").get(pk=piece.pk)
        _answered(piece, {MISSED: "no"} if missed else {}, by)
        mark = _accepted(piece, by, brief.closes_at + timedelta(days=1, minutes=4 * place))
        keep_snapshot(piece)
        if mark is not None:
            issue_sheet(piece, by)


def _photographed(piece: Piece, like: Photograph, at: datetime) -> None:
    copy = Photograph.objects.get(pk=like.pk)
    copy.pk, copy._state.adding, copy.piece = None, True, piece
    copy.save()
    Photograph.objects.filter(pk=copy.pk).update(added_at=at)


def _answered(piece: Piece, said: dict[str, str], by: User) -> None:
    """What is asked is answered as it is proposed, else yes, but for what is `said`."""
    values = {word: value for value, word in ANSWERS.items()}
    for line in read(piece).verdict.lines:
        if line.asked:
            word = said.get(line.rule.code) or line.proposal or "yes"
            piece.answers.create(rule=line.rule.code, value=values[word], made_by=by)


def _accepted(piece: Piece, by: User, at: datetime) -> Mark | None:
    """The mark of a piece as it stands, given at a time."""
    if read(piece).to_check:
        confirm_handles(piece.photograph, by)
    mark = accept_marks(piece, by)
    Mark.objects.filter(pk=mark.pk).update(accepted_at=at)
    return mark if mark.score is not None else None


def _marked_again(second: SecondMark, n: int, chance) -> None:
    """The second mark of a piece: the stricter marker's, or the first marker's own again."""
    first = second.first.mark
    if first.score is None:
        return
    shift = chance.gauss(0, AGAIN) if second.again else LEAN + DRIFT * n + chance.gauss(0, NOISE)
    piece = Piece.objects.select_related("brief__course", "student__level").get(pk=second.copy_id)
    said = {a.rule: ANSWERS[a.value] for a in second.first.answers.all()}
    _answered(piece, said, second.marker)
    if read(piece).to_check:
        confirm_handles(piece.photograph, second.marker)
    piece = Piece.objects.select_related("brief__course", "student__level").get(pk=piece.pk)
    for _ in range(TRIES):  # a family that is capped takes a step more
        reading = read(piece)
        if abs((reading.verdict.score or 0.0) - first.score - shift) > CLOSE:
            _set(piece, reading, first.score + shift, second.marker)
    at = second.first.brief.closes_at + timedelta(days=3, minutes=second.pk % 50)
    _accepted(Piece.objects.get(pk=piece.pk), second.marker, at)


def _set(piece: Piece, reading: Reading, wanted: float, by: User) -> None:
    """Set the heaviest rules by hand so that the whole comes to a mark of 100: APART first. A rule
    that breaks the brief is left, as a word on it would lift the ceiling.
    """
    verdict = reading.verdict
    lines = [x for x in verdict.lines if x.score is not None and x.rule.weight]
    weight = sum(x.rule.weight for x in lines)
    left = (wanted - (verdict.score or 0.0)) * weight / 10  # in marks of ten times weight
    lines.sort(key=lambda x: (x.rule.code != APART, -x.rule.weight))
    for line in (x for x in lines if x.rule.breach is None):
        if abs(left) < 0.05 * line.rule.weight:
            return
        new = min(10.0, max(0.0, line.marks + left / line.rule.weight))
        new = round(new, 1)
        if new == round(line.marks, 1):
            continue
        piece.overrides.filter(rule=line.rule.code).update(taken_back=True)
        piece.overrides.create(
            rule=line.rule.code,
            score=new,
            old_score=line.score,
            reason="Judged again by eye.",
            made_by=by,
        )
        left -= (new - line.marks) * line.rule.weight
