"""Two classes, or two terms, beside one another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Count, Sum

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
    families: tuple[tuple[str, float, float], ...]
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
    first_rules, second_rules = _by_rule(ours), _by_rule(theirs)
    listed = [
        d
        for d in _differences(first_rules, second_rules)
        if min(d.pieces) >= LEAST and abs(d.step) >= WORTH
    ]
    return Comparison(
        (one, other),
        drawn,
        change(rows[0], rows[1]),
        _families(first_rules, second_rules),
        tuple(sorted(listed, key=lambda d: -abs(d.step))[:LISTED]),
    )


def _marks(courses: Sequence[int]) -> list[float]:
    return list(
        Mark.objects.filter(given_marks(courses), score__isnull=False).values_list(
            "score", flat=True
        )
    )


def _by_rule(courses: Sequence[int]) -> dict[str, dict]:
    """Of each rule of one side its title, family, the sum of its marks and over how many pieces."""
    lines = MarkLine.objects.filter(
        mark__in=Mark.objects.filter(given_marks(courses)), score__isnull=False, share__gt=0
    )
    rows = lines.values("rule", "title", "family").annotate(total=Sum("score"), pieces=Count("pk"))
    return {row["rule"]: row for row in rows.order_by()}


def _differences(ours: dict[str, dict], theirs: dict[str, dict]) -> list[Difference]:
    """The rules that both sides have."""
    return [
        Difference(
            row["title"],
            FAMILY_NAMES.get(row["family"], ""),
            row["total"] / row["pieces"],
            theirs[rule]["total"] / theirs[rule]["pieces"],
            (row["pieces"], theirs[rule]["pieces"]),
        )
        for rule, row in ours.items()
        if rule in theirs
    ]


def _families(ours: dict[str, dict], theirs: dict[str, dict]):
    """Each family's mean mark of a rule on both sides, of those that both have."""
    out = []
    for family in FAMILIES:
        sides_ = [[r for r in side.values() if r["family"] == family] for side in (ours, theirs)]
        if all(sides_):
            means = [sum(r["total"] for r in s) / sum(r["pieces"] for r in s) for s in sides_]
            out.append((FAMILY_NAMES[family], means[0], means[1]))
    return tuple(out)
