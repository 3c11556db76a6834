"""The wall: every piece of a brief on one rim line, in one scale, in an order that is asked for."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import groupby

from heath.assessment.models import Piece, PieceSnapshot
from heath.assessment.snapshot import UNIT, keep_later, key_of, snapshot_of
from heath.drawing.evidence import container_path
from heath.wall.steps import Step, flags, step
from juniper.lengths import length
from juniper.measures.catalogue import DEFINITIONS
from juniper.rules import Rule
from juniper.rules.written import value_words

ROOM = 0.04  # of the wall's height, above the tallest and below the lowest
SIDE = 0.3  # of the container's height: room on both sides of a piece together
STUDENT, MARK = "student", "mark"
READY = (Piece.State.MARKING, Piece.State.MARKED, Piece.State.RETURNED)
NONE = "not measured"
READING = 0.25  # seconds of a page: pieces that have changed are read anew for so long
ALONE = (-2.0, 1.06)  # container heights: where a wall without pieces begins and ends


@dataclass(frozen=True)
class Hung:
    """One piece on the wall: its snapshot (None before it is measured), `scale` from its units to
    the wall's, its view box, what is written under it, and the step that comes next. `value` is
    what it is sorted by; `mark` is `given`, or as it now stands with its `uncertainty`.
    """

    piece: Piece
    snapshot: PieceSnapshot | None
    scale: float
    box: str
    wide: float
    value: float | None
    words: str
    mark: float | None
    given: bool
    uncertainty: float
    fault: str
    flags: tuple[str, ...]
    step: Step
    group: str


@dataclass(frozen=True)
class Wall:
    """What is drawn: groups of (name, pieces), band lines as (height, words) in the wall's units,
    its whole height there, and the brief's own container for places that are still empty.
    """

    groups: tuple[tuple[str, tuple[Hung, ...]], ...]
    bands: tuple[tuple[float, str], ...]
    top: float
    high: float
    container: str

    @property
    def pieces(self) -> tuple[Hung, ...]:
        """All pieces, in order."""
        return tuple(h for _, own in self.groups for h in own)


@dataclass(frozen=True)
class Way:
    """How a wall is asked for: sorted `by`, in groups, in true centimetres."""

    by: str = STUDENT
    grouped: bool = False
    in_cm: bool = False


def snapshots(pieces: list[Piece]) -> tuple[dict[int, PieceSnapshot], int]:
    """How each piece stands, by its number. What has changed since it was kept is read anew for
    READING seconds, and not kept: that is the background's work. While many change at once, the
    others are shown as they were kept last; how many these are comes along.
    """
    kept = {
        s.piece_id: s
        for s in PieceSnapshot.objects.filter(piece__in=pieces).select_related("photograph")
    }
    until, older = time.monotonic() + READING, 0
    for piece in pieces:
        if not is_ready(piece):
            kept.pop(piece.pk, None)
        elif piece.pk not in kept:
            kept[piece.pk] = snapshot_of(piece)
        elif kept[piece.pk].key != key_of(piece):
            if time.monotonic() < until:
                kept[piece.pk] = snapshot_of(piece)
            else:
                keep_later(piece.pk)
                older += 1
    return kept, older


def is_ready(piece: Piece) -> bool:
    """Whether a piece is measured, so that it can hang."""
    return (
        piece.state in READY and piece.photograph is not None and piece.photograph.scene is not None
    )


def choices(kept: dict[int, PieceSnapshot]) -> list[tuple[str, str, str]]:
    """(name, title, family) of each measure that some piece has."""
    seen = {name for snapshot in kept.values() for name in snapshot.measures}
    return [(d.name, d.title, d.family) for d in DEFINITIONS.values() if d.name in seen]


def hang(brief, pieces: list[Piece], kept: dict[int, PieceSnapshot], way: Way, user) -> list[Hung]:
    """The pieces of a brief as they hang, in the order asked for, their boxes still to be cut."""
    rules = {rule.measure: rule.under(brief.as_core()) for rule in brief.rules.rules}
    empty = float(brief.container_height_cm) / 10 if way.in_cm else 1.0
    shape = float(brief.container_width_cm / brief.container_height_cm) * UNIT
    hung = [_hung(p, kept.get(p.pk), way, rules.get(way.by), empty, shape, user) for p in pieces]
    hung.sort(key=_order(way.by))
    return hung


def _order(by: str) -> Callable[[Hung], tuple]:
    if by == STUDENT:
        return lambda h: (h.piece.in_order,)
    return lambda h: (h.value is None, -(h.value or 0.0))


def arrange(brief, hung: list[Hung], way: Way) -> Wall:
    """Hang pieces on one rim line, in equal containers or in true centimetres, in groups where
    they are asked for.
    """
    edges = [
        (h.snapshot.top * h.scale, h.snapshot.bottom * h.scale) for h in hung if h.snapshot
    ] or [(ALONE[0] * UNIT * h.scale, ALONE[1] * UNIT * h.scale) for h in hung[:1]]
    top = min((a for a, _ in edges), default=ALONE[0] * UNIT)
    low = max((b for _, b in edges), default=ALONE[1] * UNIT)
    room = ROOM * (low - top)
    top, high = top - room, low - top + 2 * room
    placed = [replace(h, box=_box(h, top, high)) for h in hung]
    if way.grouped:
        names = _groups(way.by)
        placed.sort(key=lambda h: names.index(h.group) if h.group in names else len(names))
        groups = tuple((name, tuple(own)) for name, own in groupby(placed, key=lambda h: h.group))
    else:
        groups = (("", tuple(placed)),)
    bands = _bands(brief, [rule.under(brief.as_core()) for rule in brief.rules.rules], way.in_cm)
    return Wall(groups, bands, top, high, _container(brief, way.in_cm))


def _container(brief, in_cm: bool) -> str:
    """The brief's container standing under the rim line, as an SVG path."""
    high, wide = float(brief.container_height_cm), float(brief.container_width_cm)
    tall = high * 100 if in_cm else UNIT
    shape = brief.shelf_container.container_shape if brief.shelf_container else None
    return container_path(shape, 0.0, tall, tall, tall * wide / high)


def _hung(
    piece: Piece,
    snapshot: PieceSnapshot | None,
    way: Way,
    rule: Rule | None,
    empty: float,
    shape: float,
    user,
) -> Hung:
    given = piece.is_closed and piece.given is not None
    mark = piece.given.score if given else snapshot.score if snapshot else None
    value = (
        mark
        if way.by == MARK
        else snapshot.measures.get(way.by)
        if snapshot and way.by != STUDENT
        else None
    )
    scale = empty if snapshot is None else snapshot.container_cm / 10 if way.in_cm else 1.0
    wide = (snapshot.right - snapshot.left) if snapshot else shape
    words = "" if way.by in (STUDENT, MARK) else _said(way.by, value)
    return Hung(
        piece,
        snapshot,
        scale,
        "",
        (wide + SIDE * UNIT) * scale,
        value,
        words,
        mark,
        given,
        0.0 if given or snapshot is None else snapshot.uncertainty,
        snapshot.fault if snapshot else "",
        flags(piece, snapshot),
        step(piece, snapshot, user.instructs),
        _group(way.by, value, rule, float(piece.brief.pass_mark), piece),
    )


def _said(by: str, value: float | None) -> str:
    return NONE if value is None else value_words(value, DEFINITIONS[by].unit)


def _groups(by: str) -> tuple[str, ...]:
    if by == MARK:
        return ("passed", "not yet passed", NONE)
    if by == STUDENT:
        return ("to mark", "marked", "returned", "without a photograph")
    return ("above the band", "in the band", "below the band", "measured", NONE)


def _group(by: str, value: float | None, rule: Rule | None, pass_mark: float, piece: Piece) -> str:
    if by == STUDENT:
        names = ("to mark", "marked", "returned")
        return dict(zip(READY, names, strict=True)).get(piece.state, "without a photograph")
    if value is None:
        return NONE
    if by == MARK:
        return "passed" if round(value) >= pass_mark else "not yet passed"
    if rule is None:
        return "measured"
    return (
        "below the band"
        if value < rule.band.low
        else "above the band"
        if value > rule.band.high
        else "in the band"
    )


def _box(hung: Hung, top: float, high: float) -> str:
    snapshot = hung.snapshot
    left = snapshot.left * hung.scale - SIDE / 2 * UNIT * hung.scale if snapshot else -hung.wide / 2
    return f"{left:.0f} {top:.0f} {hung.wide:.0f} {high:.0f}"


def _bands(brief, rules: list[Rule], in_cm: bool) -> tuple[tuple[float, str], ...]:
    """The taught heights over the rim, as rows of the wall."""
    band = next((r.band for r in rules if r.measure in ("governing_ratio", "height_ratio")), None)
    if band is None:
        return ()
    high, wide = float(brief.container_height_cm), float(brief.container_width_cm)
    governing = max(high, wide) / high
    unit = high * 100 if in_cm else UNIT
    edges = [e for e in (band.low, band.high) if math.isfinite(e)]
    over = [e * governing for e in edges]
    return tuple(
        (-h * unit, f"{e:g}, {length(h * high, 0)}") for e, h in zip(edges, over, strict=True)
    )
