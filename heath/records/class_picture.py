"""What the marks of a class say: their spread, the rules most missed, measures by brief, and what
to teach again.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import fmean

from django.db.models import F
from django.db.models.functions import Coalesce
from django.urls import reverse

from heath.assessment.models import Mark, MarkLine
from heath.classes.models import Course
from heath.drawing.plots import MARKS, Axis, Dot, Plot, Row, axis_over, strip, tick_writer
from heath.records.marks import given_marks
from heath.records.models import Lesson
from heath.records.titles import known_rules
from heath.web.names import FAMILY_NAMES
from juniper.measures.catalogue import DEFINITIONS
from juniper.records import Change, Missed, TeachAgain, change, most_missed, teach_again
from juniper.rules import FAMILIES, Rule
from juniper.rules.written import value_words

SHOWN = 8  # rules that are listed as missed, and measures that are drawn
AGAIN = 3  # rules that are to be taught again
TEN = Axis(0.0, 10.0, tuple((float(n), str(n)) for n in range(0, 11, 2)), "of 10")
FIELDS = ("mark_id", "rule", "title", "family", "measure", "score", "share", "value")
EDGES = ("low_limit", "low", "high", "high_limit")


@dataclass(frozen=True)
class Given:
    """One given mark, as the class picture needs it: numbers of piece, brief and student, what
    they are called, the mark, its families' marks, its award, and when the piece was due (where
    that is not said, when the brief was set).
    """

    mark: int
    piece: int
    brief: int
    student: int
    brief_name: str
    student_name: str
    score: float | None
    families: dict[str, float | None]
    award: str
    at: datetime

    @property
    def to(self) -> str:
        """Address of the piece."""
        return reverse("bench", args=[self.piece])


@dataclass(frozen=True)
class MissedRule:
    """A rule that the class misses: its title and family, the pieces that missed it, and what the
    core says of it.
    """

    title: str
    family: str
    pieces: tuple[Given, ...]
    missed: Missed


@dataclass(frozen=True)
class Taught:
    """A lesson, and the mean mark of what it taught before and after it, by students who have
    both; None where nobody has.
    """

    lesson: Lesson
    about: str
    change: Change | None
    students: int


@dataclass(frozen=True)
class ClassPicture:
    """All of the class picture; plots are None where nothing is marked."""

    count: int
    spread: Plot | None
    families: Plot | None
    missed: tuple[MissedRule, ...]
    measures: tuple[tuple[str, Plot], ...]
    lessons: tuple[Taught, ...]
    again: tuple[TeachAgain, ...]


def marks_of(course: Course) -> list[Given]:
    """The given marks of a class, of briefs whose names may be seen, in the briefs' order."""
    rows = (
        Mark.objects.filter(given_marks([course.pk]))
        .order_by(
            Coalesce("piece__brief__closes_at", "piece__brief__made_at"), "piece__student__sorting"
        )
        .values_list(
            "pk",
            "piece_id",
            "piece__brief_id",
            "piece__student_id",
            "piece__brief__name",
            "piece__student__name",
            "score",
            F("verdict__families"),
            F("verdict__award"),
            Coalesce("piece__brief__closes_at", "piece__brief__made_at"),
        )
    )
    return [
        Given(mark, piece, brief, student, of, by, score, families or {}, award or "", at)
        for mark, piece, brief, student, of, by, score, families, award, at in rows
    ]


def class_picture(course: Course) -> ClassPicture:
    """The class picture of a class."""
    marks = marks_of(course)
    by_mark = {m.mark: m for m in marks}
    lines = list(MarkLine.objects.filter(mark__in=by_mark).values(*FIELDS, *EDGES))
    titles = {x["rule"]: (x["title"], x["family"]) for x in lines}
    missed = most_missed(
        (x["rule"], x["mark_id"], x["score"], x["share"])
        for x in lines
        if x["score"] is not None and x["share"] > 0
    )
    known = known_rules(course.school)
    return ClassPicture(
        len(marks),
        _spread(marks),
        _families(marks),
        tuple(
            MissedRule(
                titles[m.rule][0],
                FAMILY_NAMES[titles[m.rule][1]],
                tuple(by_mark[mark] for mark in m.pieces),
                m,
            )
            for m in missed[:SHOWN]
        ),
        _measures(lines, by_mark, missed),
        tuple(_taught(lesson, by_mark, lines, known) for lesson in course.lessons.all()),
        tuple(_again(m, *titles[m.rule], known) for m in missed[:AGAIN]),
    )


def _again(missed: Missed, title: str, family: str, known: dict[str, Rule]) -> TeachAgain:
    rule = known.get(missed.rule)
    return teach_again(missed, title, family, rule.taught if rule else "")


def _spread(marks: Sequence[Given]) -> Plot | None:
    if not any(m.score is not None for m in marks):
        return None
    return strip("Marks of the class by brief", _by_brief(marks), MARKS)


def _by_brief(marks: Sequence[Given]) -> list[Row]:
    rows: dict[int, tuple[str, list[Dot]]] = {}
    for m in marks:
        _name, dots = rows.setdefault(m.brief, (m.brief_name, []))
        if m.score is not None:
            dots.append(Dot(m.score, f"{m.student_name}: {m.score:.0f}", m.to))
    return [Row(name, tuple(dots)) for name, dots in rows.values()]


def _families(marks: Sequence[Given]) -> Plot | None:
    rows = []
    for family in FAMILIES:
        dots = tuple(
            Dot(score, f"{m.student_name}, {m.brief_name}: {score:.1f}", m.to)
            for m in marks
            if (score := m.families.get(family)) is not None
        )
        if dots:
            rows.append(Row(FAMILY_NAMES[family], dots))
    return strip("Marks of the class by family, out of ten", rows, TEN) if rows else None


def _measures(lines, by_mark: dict[int, Given], missed: Sequence[Missed]):
    """The measures of the rules most missed, as dots by brief against each brief's band."""
    wanted = [m.rule for m in missed]
    by_measure: dict[str, list[dict]] = defaultdict(list)
    order: dict[str, int] = {}
    for x in lines:
        if x["measure"] in DEFINITIONS and x["value"] is not None and x["rule"] in wanted:
            by_measure[x["measure"]].append(x)
            order.setdefault(x["measure"], wanted.index(x["rule"]))
    names = sorted(order, key=lambda name: order[name])[:SHOWN]
    return tuple((DEFINITIONS[n].title, _measure(n, by_measure[n], by_mark)) for n in names)


def _measure(name: str, lines: Sequence[dict], by_mark: dict[int, Given]) -> Plot:
    definition = DEFINITIONS[name]
    rows: dict[int, tuple[str, list[Dot], tuple[float, float, float, float] | None]] = {}
    for x in lines:
        m = by_mark[x["mark_id"]]
        words = f"{m.student_name}: {value_words(x['value'], definition.unit)}"
        _, dots, _ = rows.setdefault(m.brief, (m.brief_name, [], edges_of(x)))
        dots.append(Dot(x["value"], words, m.to))
    edges = [e for *_, band in rows.values() if band for e in band[1:3] if math.isfinite(e)]
    axis = axis_over([*(x["value"] for x in lines), *edges], write=tick_writer(definition.unit))
    return strip(
        f"{definition.title} by brief, against the band",
        [Row(brief, tuple(dots), band) for brief, dots, band in rows.values()],
        axis,
    )


def edges_of(line: dict) -> tuple[float, float, float, float] | None:
    """The band of a line read as plain values; None where it was not kept."""
    if line["low"] is None and line["high"] is None:
        return None
    low_limit, low = (-math.inf if line[n] is None else line[n] for n in EDGES[:2])
    high, high_limit = (math.inf if line[n] is None else line[n] for n in EDGES[2:])
    return low_limit, low, high, high_limit


def _taught(lesson: Lesson, by_mark: dict[int, Given], lines, known: dict[str, Rule]) -> Taught:
    """What a lesson changed: each student's mean mark for what it taught, before and after."""
    halves: dict[int, tuple[list[float], list[float]]] = defaultdict(lambda: ([], []))
    for x in lines:
        if x["score"] is None or lesson.about not in (x["rule"], x["family"]):
            continue
        m = by_mark[x["mark_id"]]
        halves[m.student][m.at.date() >= lesson.taught_on].append(x["score"])
    both = [(fmean(a), fmean(b)) for a, b in halves.values() if a and b]
    about = FAMILY_NAMES.get(lesson.about) or (
        known[lesson.about].title if lesson.about in known else lesson.about
    )
    return Taught(
        lesson, about, change([a for a, _ in both], [b for _, b in both], paired=True), len(both)
    )
