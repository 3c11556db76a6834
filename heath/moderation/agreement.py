"""How far the markers of a class agree: pair by pair, rule by rule, and over the term."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.urls import reverse

from heath.assessment.models import GIVEN, MarkLine, Piece
from heath.classes.models import Course
from heath.drawing.plots import Axis, Dot, Level, Plot, axis_over, scatter
from heath.moderation.models import SecondMark, Settlement
from heath.people.models import User
from juniper.agreement import (
    Drift,
    Intraclass,
    Kappa,
    Limits,
    RuleAgreement,
    Severity,
    by_rule,
    drift,
    intraclass,
    limits_of_agreement,
    severities,
    weighted_kappa,
)
from juniper.rules import school

NO_AWARD = "no award"
WEEK = 7 * 86_400.0  # seconds
LEAST = 3  # pieces from which two markers are compared
LEAST_WEEKS = 1.0  # between the first and the last second mark, from which a drift is spoken of


@dataclass(frozen=True)
class Pair:
    """One piece marked twice: the marks and awards of 100, who gave them, when each was given, and
    how it was settled (None where it was not).
    """

    second: SecondMark
    piece: Piece
    markers: tuple[User | None, User]
    marks: tuple[float, float]
    awards: tuple[str, str]
    at: tuple[datetime, datetime]
    settled: Settlement | None

    @property
    def difference(self) -> float:
        """Second mark less first."""
        return self.marks[1] - self.marks[0]

    @property
    def to(self) -> str:
        """Where both are looked at."""
        return reverse("second-mark", args=[self.second.pk])


@dataclass(frozen=True)
class Between:
    """Two markers over the pieces that both marked: agreement on awards and marks, the limits with
    their plot, and the change of their difference over the term with its plot.
    """

    names: tuple[str, str]
    pieces: int
    kappa: Kappa
    intraclass: Intraclass
    limits: Limits
    plot: Plot
    drift: Drift | None
    drift_plot: Plot | None


@dataclass(frozen=True)
class Again:
    """A marker's own pieces that came back to them unseen: how far the marks lie apart."""

    name: str
    limits: Limits


@dataclass(frozen=True)
class RuleRow:
    """A rule's title and family beside what the core says of it."""

    title: str
    family: str
    agreement: RuleAgreement


@dataclass(frozen=True)
class Agreement:
    """All that is known of a class's second markings."""

    pairs: tuple[Pair, ...]
    open: int
    between: tuple[Between, ...]
    leans: tuple[tuple[str, Severity], ...]
    again: tuple[Again, ...]
    rules: tuple[RuleRow, ...]


def pairs_of(course: Course) -> list[Pair]:
    """The pieces of a class that two markings of are given, in the order of the second."""
    seconds = (
        SecondMark.objects.filter(
            first__brief__course=course,
            first__brief__deleted_at=None,
            copy__state__in=GIVEN,
            copy__mark__score__isnull=False,
            first__mark__score__isnull=False,
        )
        .select_related(
            "first__brief__course",
            "first__student",
            "first__mark__accepted_by",
            "copy__mark",
            "marker",
        )
        .prefetch_related("settlements__made_by")
        .order_by("copy__mark__accepted_at")
    )
    return [_pair(second) for second in seconds]


def _pair(second: SecondMark) -> Pair:
    settled = max(second.settlements.all(), key=lambda s: s.pk, default=None)
    first, copy = second.first.mark, second.copy.mark
    verdict = settled.first_verdict if settled else first.verdict
    return Pair(
        second,
        second.first,
        (first.accepted_by, second.marker),
        (settled.first_mark if settled else first.score, copy.score),
        (verdict.get("award") or NO_AWARD, copy.verdict.get("award") or NO_AWARD),
        (first.accepted_at, copy.accepted_at),
        settled,
    )


def agreement_of(course: Course) -> Agreement:
    """How far the markers of a class agree."""
    pairs = pairs_of(course)
    open_ = (
        SecondMark.objects.filter(first__brief__course=course, first__brief__deleted_at=None)
        .exclude(copy__state__in=GIVEN)
        .count()
    )
    two = [p for p in pairs if not p.second.again and p.markers[0] is not None]
    by_names: dict[tuple[int, int], list[Pair]] = defaultdict(list)
    for p in two:
        first, second = p.markers[0], p.markers[1]
        if first is not None and first.pk != second.pk:
            by_names[min(first.pk, second.pk), max(first.pk, second.pk)].append(p)
    between = [_between(own) for own in by_names.values() if len(own) >= LEAST]
    leans = severities((_name(p, 0), p.marks[0], _name(p, 1), p.marks[1]) for p in two)
    return Agreement(
        tuple(pairs),
        open_,
        tuple(sorted(between, key=lambda b: -b.pieces)),
        tuple(sorted(leans.items(), key=lambda item: item[1].lean)),
        tuple(_again(pairs)),
        tuple(_rules(two)),
    )


def _name(pair: Pair, which: int) -> str:
    marker = pair.markers[which]
    return marker.shown_name if marker is not None else "somebody who left"


def _turned(pairs: Sequence[Pair]) -> tuple[tuple[str, str], list[tuple[Pair, bool]]]:
    """Two markers' names, and each of their pieces with whether the second of these was the second
    marker.
    """
    names = sorted({_name(p, n) for p in pairs for n in (0, 1)})
    one, other = names[0], names[-1]
    return (one, other), [(p, _name(p, 1) == other) for p in pairs]


def _between(pairs: Sequence[Pair]) -> Between:
    names, turned = _turned(pairs)
    marks = [p.marks if way else p.marks[::-1] for p, way in turned]
    awards = [p.awards if way else p.awards[::-1] for p, way in turned]
    first, second = ([m[n] for m in marks] for n in (0, 1))
    limits = limits_of_agreement(first, second)
    start = min(p.at[1] for p in pairs)
    weeks = [(p.at[1] - start).total_seconds() / WEEK for p in pairs]
    long = max(weeks) >= LEAST_WEEKS
    course = drift(weeks, [b - a for a, b in marks]) if long else None
    return Between(
        names,
        len(pairs),
        weighted_kappa([a for a, _ in awards], [b for _, b in awards], _awards(pairs)),
        intraclass(marks),
        limits,
        _limits_plot(names, turned, marks, limits),
        course,
        _drift_plot(names, turned, weeks, marks, course) if course else None,
    )


def _awards(pairs: Sequence[Pair]) -> list[str]:
    """All awards in their order, the least first."""
    known = [NO_AWARD]
    for pair in pairs:
        try:
            rules = pair.piece.brief.rules
        except KeyError:
            rules = school("classical-line-mass")
        known += [a.name for a in reversed(rules.awards) if a.name not in known]
    seen = {a for p in pairs for a in p.awards}
    return [*known, *sorted(seen - set(known))]


def _dots(turned, marks) -> list[Dot]:
    return [
        Dot(b - a, f"{p.piece.shown_name}, {p.piece.brief.name}: {a:.0f} and {b:.0f}", p.to)
        for (p, _), (a, b) in zip(turned, marks, strict=True)
    ]


def _up(limits: Limits, dots: Sequence[Dot]) -> Axis:
    reach = [limits.low - limits.limit_reach, limits.high + limits.limit_reach]
    return axis_over([*(d.value for d in dots), *reach, 0.0], "difference")


def _signed(value: float) -> str:
    return f"{value:+.1f}".replace("-", "−")


def _limits_plot(names, turned, marks, limits: Limits) -> Plot:
    dots = _dots(turned, marks)
    means = [(a + b) / 2 for a, b in marks]
    return scatter(
        f"Difference of two marks, {names[1]} less {names[0]}, over their mean",
        list(zip(means, dots, strict=True)),
        axis_over(means, "mean of both marks"),
        _up(limits, dots),
        (
            Level(limits.mean, f"mean {_signed(limits.mean)}", limits.mean_reach),
            Level(limits.low, f"95 % {_signed(limits.low)}", limits.limit_reach, dashed=True),
            Level(limits.high, f"95 % {_signed(limits.high)}", limits.limit_reach, dashed=True),
        ),
        head=("Piece", "Mean", "Difference"),
    )


def _drift_plot(names, turned, weeks, marks, course: Drift) -> Plot:
    dots = _dots(turned, marks)
    across = axis_over(weeks, "weeks since the first second mark")
    ends = (course.start + course.slope * across.low, course.start + course.slope * across.high)
    return scatter(
        f"Difference of two marks, {names[1]} less {names[0]}, over the term",
        list(zip(weeks, dots, strict=True)),
        across,
        axis_over([*(d.value for d in dots), 0.0], "difference"),
        (Level(0.0, "none", dashed=True),),
        ends,
        head=("Piece", "Week", "Difference"),
        high=200.0,
    )


def _again(pairs: Sequence[Pair]) -> list[Again]:
    own: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for p in pairs:
        if p.second.again:
            own[_name(p, 1)].append(p.marks)
    return [
        Again(name, limits_of_agreement([a for a, _ in marks], [b for _, b in marks]))
        for name, marks in sorted(own.items())
        if len(marks) >= 2
    ]


def _rules(pairs: Sequence[Pair]) -> list[RuleRow]:
    marks = {p.second.first.mark.pk: p.second.copy.mark.pk for p in pairs}
    lines: dict[int, dict[str, MarkLine]] = defaultdict(dict)
    for line in MarkLine.objects.filter(
        mark__in=[*marks, *marks.values()], score__isnull=False, share__gt=0
    ):
        lines[line.mark_id][line.rule] = line
    titles: dict[str, MarkLine] = {}
    rows = []
    for first, second in marks.items():
        for code, line in lines[first].items():
            if code in lines[second]:
                titles[code] = line
                rows.append((code, line.score or 0.0, lines[second][code].score or 0.0))
    return [RuleRow(titles[r.rule].title, titles[r.rule].family, r) for r in by_rule(rows)]
