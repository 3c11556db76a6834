"""The wall: every piece of a brief on one rim line, in one scale, in an order that is asked for."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from itertools import groupby

from heath.assessment.models import Piece, PieceSnapshot
from heath.assessment.snapshot import UNIT, key_of, snapshot_of
from juniper.measures.catalogue import DEFINITIONS
from juniper.rules import Rule

ROOM = 0.04  # of the wall's height, above the tallest and below the lowest
STUDENT, MARK = "student", "mark"
READY = (Piece.State.MARKING, Piece.State.MARKED, Piece.State.RETURNED)
NONE = "not measured"


@dataclass(frozen=True)
class Arranged:
    """One piece on the wall: its snapshot, `scale` from its units to the wall's, its view box, and
    what is written under it.
    """

    piece: Piece
    snapshot: PieceSnapshot
    scale: float
    box: str
    wide: float
    value: float | None
    words: str
    mark: float | None
    group: str


@dataclass(frozen=True)
class Wall:
    """What is drawn: groups of (name, pieces), band lines as (height, words) in the wall's units,
    and its whole height there.
    """

    groups: tuple[tuple[str, tuple[Arranged, ...]], ...]
    bands: tuple[tuple[float, str], ...]
    top: float
    high: float


def snapshots(pieces: list[Piece]) -> dict[int, PieceSnapshot]:
    """How each piece stands, by its number. What has changed since it was kept is read anew, and
    not kept: that is the background's work.
    """
    kept = {
        s.piece_id: s
        for s in PieceSnapshot.objects.filter(piece__in=pieces).select_related("photograph")
    }
    for piece in pieces:
        if piece.pk not in kept or kept[piece.pk].key != key_of(piece):
            kept[piece.pk] = snapshot_of(piece)
    return kept


def choices(pieces: list[Piece], kept: dict[int, PieceSnapshot]) -> list[tuple[str, str, str]]:
    """(name, title, family) of each measure that some piece has."""
    seen = {name for p in pieces for name in kept[p.pk].measures}
    return [(d.name, d.title, d.family) for d in DEFINITIONS.values() if d.name in seen]


def arrange(
    brief, pieces: list[Piece], kept: dict[int, PieceSnapshot], by: str, grouped: bool, in_cm: bool
) -> Wall:
    """Arrange pieces by student, mark or a measure, in equal containers or in true centimetres."""
    rules = [rule.under(brief.as_core()) for rule in brief.rules.rules]
    rule = next((r for r in rules if r.measure == by), None)
    arranged = [_arranged(p, kept[p.pk], by, rule, float(brief.pass_mark), in_cm) for p in pieces]
    order = {STUDENT: lambda h: h.piece.code if brief.hides_names else h.piece.student.name}
    arranged.sort(key=order.get(by, lambda h: (h.value is None, -(h.value or 0.0))))
    top = min((h.snapshot.top * h.scale for h in arranged), default=-2 * UNIT)
    low = max((h.snapshot.bottom * h.scale for h in arranged), default=UNIT)
    room = ROOM * (low - top)
    wall = [replace(h, box=_box(h, top - room, low - top + 2 * room)) for h in arranged]
    if grouped:
        names = list(dict.fromkeys(_groups(by)))
        wall.sort(key=lambda h: names.index(h.group) if h.group in names else len(names))
        groups = tuple((name, tuple(own)) for name, own in groupby(wall, key=lambda h: h.group))
    else:
        groups = (("", tuple(wall)),)
    return Wall(groups, _bands(brief, rules, in_cm), top - room, low - top + 2 * room)


def _arranged(
    piece: Piece, snapshot: PieceSnapshot, by: str, rule: Rule | None, pass_mark: float, in_cm: bool
) -> Arranged:
    marked = piece.state != Piece.State.MARKING
    mark = snapshot.score
    value = mark if by == MARK else None if by == STUDENT else snapshot.measures.get(by)
    scale = snapshot.container_cm / 10 if in_cm else 1.0  # in centimetres a hundred units to one
    wide = (snapshot.right - snapshot.left) * scale + 0.3 * UNIT * scale
    words = (
        ""
        if by == STUDENT
        else f"{value:.0f}"
        if by == MARK and value is not None
        else _said(by, value)
    )
    group = _group(by, value, rule, pass_mark, marked)
    return Arranged(piece, snapshot, scale, "", wide, value, words, mark, group)


def _said(by: str, value: float | None) -> str:
    if value is None:
        return NONE
    unit = DEFINITIONS[by].unit
    return (
        f"{value:.0f}{'°' if unit == 'degrees' else ' cm' if unit == 'cm' else ''}"
        if unit in ("degrees", "cm", "count", "L*")
        else f"{value:.2f}"
    )


def _groups(by: str) -> tuple[str, ...]:
    if by == MARK:
        return ("passed", "not yet passed", NONE)
    if by == STUDENT:
        return ("marked", "to be marked")
    return ("above the band", "in the band", "below the band", "measured", NONE)


def _group(by: str, value: float | None, rule: Rule | None, pass_mark: float, marked: bool) -> str:
    if by == STUDENT:
        return "marked" if marked else "to be marked"
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


def _box(arranged: Arranged, top: float, high: float) -> str:
    left = arranged.snapshot.left * arranged.scale - 0.15 * UNIT * arranged.scale
    return f"{left:.0f} {top:.0f} {arranged.wide:.0f} {high:.0f}"


def _bands(brief, rules: list[Rule], in_cm: bool) -> tuple[tuple[float, str], ...]:
    """The taught heights over the rim, as rows of the wall."""
    band = next((r.band for r in rules if r.measure in ("governing_ratio", "height_ratio")), None)
    if band is None:
        return ()
    high, wide = float(brief.container_height_cm), float(brief.container_width_cm)
    governing = max(high, wide) / high
    unit = high * 100 if in_cm else UNIT
    edges = [e for e in (band.low, band.high) if math.isfinite(e)]
    return tuple((-e * governing * unit, f"{e:g}, {e * governing * high:.0f} cm") for e in edges)
