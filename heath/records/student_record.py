"""What a student's marks say over time: pieces on one rim line, each measure and rule from piece to
piece, and what became of each next cut.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from heath.assessment.models import MarkLine, Piece, PieceSnapshot
from heath.assessment.snapshot import UNIT
from heath.classes.models import Student
from heath.drawing.plots import MARKS, Axis, Plot, Step, axis_over, bars, course, tick_writer
from heath.records.marks import named
from heath.web.names import FAMILY_NAMES
from juniper.measures.catalogue import DEFINITIONS
from juniper.records import Outcome, first_and_last_sure, taken
from juniper.rules import FAMILIES
from juniper.rules.written import value_words

SIDE, ROOM = 0.3 * UNIT, 0.05  # beside a piece, and above and below all of them (a share)
OUT_OF = 10.0


@dataclass(frozen=True)
class Hung:
    """One piece in time: its box on the rim line (None where it is not measured), the mark and
    award given, the next cut that it got and what became of it in the next one.
    """

    piece: Piece
    snapshot: PieceSnapshot | None
    box: str
    score: float | None
    award: str
    at: datetime
    cut: str
    became: str


@dataclass(frozen=True)
class MeasureCourse:
    """A measure from piece to piece: its plot, the value in each piece and the latest, in words."""

    title: str
    plot: Plot
    words: tuple[str, ...]
    latest: str


@dataclass(frozen=True)
class RuleCourse:
    """A rule's marks from piece to piece, the briefs in which it was surely held for the first and
    the last time ('' where it never was), and whether it is only shown at the student's level.
    """

    title: str
    plot: Plot
    latest: float | None
    first: str
    last: str
    shown_only: bool


@dataclass(frozen=True)
class Record:
    """All of a student's record: the pieces, their marks as a plot (None without marks), measures
    and rules by family.
    """

    pieces: tuple[Hung, ...]
    marks: Plot | None
    measures: tuple[tuple[str, tuple[MeasureCourse, ...]], ...]
    rules: tuple[tuple[str, tuple[RuleCourse, ...]], ...]

    @property
    def given(self) -> tuple[Hung, ...]:
        """Those that have a mark."""
        return tuple(h for h in self.pieces if h.score is not None)


def pieces_in_time(student: Student, returned_only: bool = False) -> list[Piece]:
    """A student's photographed pieces in the order of their briefs; those of deleted briefs, and
    of briefs that hide names, are left out. `returned_only` leaves those that a student may see.
    """
    pieces = (
        student.pieces.filter(named(), brief__deleted_at=None)
        .exclude(state=Piece.State.WAITING)
        .select_related("brief__course", "student__level", "mark__photograph", "snapshot")
        .prefetch_related("sheets")
    )
    if returned_only:
        pieces = pieces.filter(state=Piece.State.RETURNED)
    shown = [p for p in pieces if not returned_only or _stands(p)]
    return sorted(shown, key=lambda p: (when(p), p.pk))


def _stands(piece: Piece) -> bool:
    """Whether the newest return sheet of a piece is not withdrawn."""
    sheet = piece.latest_sheet
    return sheet is not None and sheet.withdrawn_at is None


def when(piece: Piece) -> datetime:
    """When a piece was due, else when its brief was set."""
    return piece.brief.closes_at or piece.brief.made_at


def record_of(student: Student, pieces: Sequence[Piece]) -> Record:
    """The record of a student, from pieces_in_time()."""
    lines = _lines(pieces)
    marked = [p for p in pieces if p.given is not None]
    return Record(
        tuple(_hang(pieces, lines)),
        _marks(marked),
        _measures(marked, lines),
        _rules(marked, lines, student.shown_only),
    )


def _lines(pieces: Sequence[Piece]) -> dict[int, dict[str, MarkLine]]:
    """The lines of given marks, by piece and rule."""
    by_mark = {p.mark.pk: p.pk for p in pieces if p.given is not None}
    out: dict[int, dict[str, MarkLine]] = defaultdict(dict)
    for line in MarkLine.objects.filter(mark__in=by_mark):
        out[by_mark[line.mark_id]][line.rule] = line
    return out


def _hang(pieces: Sequence[Piece], lines) -> list[Hung]:
    snapshots = {p.pk: getattr(p, "snapshot", None) for p in pieces}
    kept = [s for s in snapshots.values() if s is not None]
    top = min((s.top for s in kept), default=-2 * UNIT)
    low = max((s.bottom for s in kept), default=UNIT)
    room = ROOM * (low - top)
    out = []
    for n, piece in enumerate(pieces):
        snapshot, mark = snapshots[piece.pk], piece.given
        rule = mark.verdict.get("next_cut_rule", "") if mark else ""
        before = _outcome(lines[piece.pk].get(rule)) if rule else None
        after = next(
            (_outcome(lines[p.pk][rule]) for p in pieces[n + 1 :] if rule in lines[p.pk]), None
        )
        wide = snapshot.right - snapshot.left + SIDE if snapshot else 0
        out.append(
            Hung(
                piece,
                snapshot,
                f"{snapshot.left - SIDE / 2:.0f} {top - room:.0f} {wide:.0f}"
                f" {low - top + 2 * room:.0f}"
                if snapshot
                else "",
                mark.score if mark else None,
                mark.verdict.get("award", "") if mark else "",
                when(piece),
                mark.verdict.get("next_cut", "") if mark else "",
                str(taken(before, after)) if rule and after is not None else "",
            )
        )
    return out


def _outcome(line: MarkLine | None) -> Outcome | None:
    return None if line is None else Outcome(line.score, line.borderline)


def _marks(marked: Sequence[Piece]) -> Plot | None:
    if not marked:
        return None
    steps = [
        Step(
            p.mark.score,
            f"{p.brief.name}: {p.mark.score:.0f} of 100"
            if p.mark.score is not None
            else f"{p.brief.name}: no mark",
            p.mark.verdict.get("uncertainty", 0.0),
            (float(p.brief.pass_mark), float(p.brief.pass_mark), math.inf, math.inf),
        )
        for p in marked
    ]
    return course(
        "Marks from piece to piece; the grey is where the brief is passed",
        steps,
        MARKS,
        360.0,
        120.0,
    )


def _measures(marked: Sequence[Piece], lines):
    by_family: dict[str, list[MeasureCourse]] = defaultdict(list)
    for definition in DEFINITIONS.values():
        own = [_of_measure(lines[p.pk], definition.name) for p in marked]
        if not any(x is not None and x.value is not None for x in own):
            continue
        by_family[definition.family].append(_course(definition, marked, own))
    return tuple((FAMILY_NAMES[f], tuple(by_family[f])) for f in FAMILIES if by_family[f])


def _of_measure(lines: dict[str, MarkLine], measure: str) -> MarkLine | None:
    return next((x for x in lines.values() if x.measure == measure), None)


def _course(definition, marked, own) -> MeasureCourse:
    steps, said = [], []
    for piece, line in zip(marked, own, strict=True):
        value = line.value if line else None
        words = "not measured" if value is None else value_words(value, definition.unit)
        said.append(words)
        steps.append(
            Step(
                value,
                f"{piece.brief.name}: {words}",
                (line.uncertainty or 0.0) if line else 0.0,
                line.edges if line else None,
            )
        )
    return MeasureCourse(
        definition.title,
        course(f"{definition.title} from piece to piece", steps, _scale(steps, definition.unit)),
        tuple(said),
        next((w for w in reversed(said) if w != "not measured"), ""),
    )


def _scale(steps: Sequence[Step], unit: str) -> Axis:
    """A scale that holds all values with their spread, and all finite edges of their bands."""
    reach = [
        v for s in steps if s.value is not None for v in (s.value - s.spread, s.value + s.spread)
    ]
    edges = [e for s in steps if s.band for e in s.band[1:3] if math.isfinite(e)]
    return axis_over([*reach, *edges], write=tick_writer(unit))


def _rules(marked: Sequence[Piece], lines, shown_only: frozenset[str]):
    titles: dict[str, MarkLine] = {}
    for piece in marked:
        titles |= lines[piece.pk]
    by_family: dict[str, list[RuleCourse]] = defaultdict(list)
    for code, one in titles.items():
        own = [lines[p.pk].get(code) for p in marked]
        scores = [x.score if x else None for x in own]
        if not any(s is not None for s in scores):
            continue
        first, last = first_and_last_sure([_outcome(x) or Outcome(None) for x in own])
        steps = [
            Step(s, f"{p.brief.name}: " + ("not judged" if s is None else f"{s:.1f} of 10"))
            for p, s in zip(marked, scores, strict=True)
        ]
        by_family[one.family].append(
            RuleCourse(
                one.title,
                bars(f"{one.title} from piece to piece", steps, OUT_OF),
                next((s for s in reversed(scores) if s is not None), None),
                "" if first is None else marked[first].brief.name,
                "" if last is None else marked[last].brief.name,
                code in shown_only,
            )
        )
    return tuple((FAMILY_NAMES[f], tuple(by_family[f])) for f in FAMILIES if by_family[f])
