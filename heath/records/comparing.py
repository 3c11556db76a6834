"""Two classes, or two terms, beside one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Avg, Count

from heath.assessment.models import Mark, MarkLine
from heath.classes.models import Course
from heath.drawing.plots import MARKS, Dot, Plot, Row, strip
from heath.records.marks import given_marks
from heath.web.names import FAMILY_NAMES
from juniper.records import Change, change
from juniper.rules import FAMILIES

WORTH = 0.5  # of ten: rules whose means lie no further apart are not listed
LISTED = 12
LEAST = 3  # pieces of either side that a rule's mean rests on


@dataclass(frozen=True)
class Difference:
    """A rule's mean mark on both sides, and over how many pieces."""

    title: str
    family: str
    first: float
    second: float
    pieces: tuple[int, int]

    @property
    def step(self) -> float:
        """The second less the first."""
        return self.second - self.first


@dataclass(frozen=True)
class Comparison:
    """Two sides: their names, marks, the change of their mean, families' means, and the rules that
    differ most.
    """

    names: tuple[str, str]
    marks: Plot
    change: Change | None
    families: tuple[tuple[str, float | None, float | None], ...]
    rules: tuple[Difference, ...]


def sides(courses: Sequence[Course]) -> list[tuple[str, str]]:
    """What may be compared: each class, and each term that more than one class has, as (value,
    words).
    """
    terms = [c.term for c in courses if c.term]
    return [
        *(
            (f"term:{t}", f"all of {t}")
            for t in sorted(set(terms), key=terms.index)
            if terms.count(t) > 1
        ),
        *((f"class:{c.pk}", f"{c.name}, {c.term}" if c.term else c.name) for c in courses),
    ]


def _of(courses: Sequence[Course], side: str) -> tuple[str, list[int]]:
    """The name and the classes of one side; no classes where there is no such side."""
    kind, _, value = side.partition(":")
    own = [c for c in courses if (kind == "class" and str(c.pk) == value)]
    if kind == "term":
        own = [c for c in courses if c.term == value]
    return dict(sides(courses)).get(side, ""), [c.pk for c in own]


def compare(courses: Sequence[Course], first: str, second: str) -> Comparison | None:
    """Two sides of sides() beside one another; None where either is none, or has no marks."""
    (one, ours), (other, theirs) = _of(courses, first), _of(courses, second)
    if not (one and other):
        return None
    rows = [_marks(ours), _marks(theirs)]
    if not all(rows):
        return None
    drawn = strip(
        f"Marks of {one} and of {other}",
        [
            Row(name, tuple(Dot(m, f"{m:.0f}") for m in marks))
            for name, marks in zip((one, other), rows, strict=True)
        ],
        MARKS,
    )
    families = _means(ours, theirs, "family")
    rules = _means(ours, theirs, "rule")
    listed = [
        Difference(title, FAMILY_NAMES.get(family, ""), a, b, (n, m))
        for title, family, a, b, n, m in rules.values()
        if min(n, m) >= LEAST and abs(b - a) >= WORTH
    ]
    return Comparison(
        (one, other),
        drawn,
        change(rows[0], rows[1]),
        tuple((FAMILY_NAMES[f], families[f][2], families[f][3]) for f in FAMILIES if f in families),
        tuple(sorted(listed, key=lambda d: -abs(d.step))[:LISTED]),
    )


def _marks(courses: Sequence[int]) -> list[float]:
    return list(
        Mark.objects.filter(given_marks(courses), score__isnull=False).values_list(
            "score", flat=True
        )
    )


def _means(ours: Sequence[int], theirs: Sequence[int], by: str) -> dict[str, tuple]:
    """Mean marks by family or rule that both sides have: (title, family, ours, theirs, and over how
    many pieces each).
    """
    found = []
    for side in (ours, theirs):
        marks = Mark.objects.filter(given_marks(side))
        lines = MarkLine.objects.filter(mark__in=marks, score__isnull=False, share__gt=0)
        names = ("family",) if by == "family" else ("rule", "title", "family")
        rows = lines.values(*names).annotate(mean=Avg("score"), pieces=Count("mark", distinct=True))
        found.append({r[by]: r for r in rows.order_by()})
    first, second = found
    return {
        key: (
            first[key].get("title", ""),
            first[key]["family"],
            first[key]["mean"],
            second[key]["mean"],
            first[key]["pieces"],
            second[key]["pieces"],
        )
        for key in first.keys() & second.keys()
    }
