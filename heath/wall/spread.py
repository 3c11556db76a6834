"""The class's marks as dots over a scale from 0 to 100."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median, quantiles

from heath.wall.arranging import Hung

WIDE, HIGH, EDGE = 430.0, 58.0, 14.0
BIN = 2.0  # of 100: marks so near stand over one another
DOT = 3.6
BASE = 40.0


@dataclass(frozen=True)
class Dot:
    """One piece's mark: its place, its number and words; hollow while the mark is not given."""

    x: float
    y: float
    piece: int
    words: str
    given: bool


@dataclass(frozen=True)
class Spread:
    """Dots, the pass mark's place, the middle half as (from, to) places and the median's place
    (None with fewer than four marks), and all of it in words.
    """

    dots: tuple[Dot, ...]
    pass_at: float
    half: tuple[float, float] | None
    middle: float | None
    words: str


def place(mark: float) -> float:
    """Where a mark of 100 stands on the scale.

    >>> place(0), place(100)
    (14.0, 416.0)
    """
    return EDGE + (WIDE - 2 * EDGE) * min(max(mark, 0.0), 100.0) / 100


def spread_of(pieces: list[Hung], pass_mark: float) -> Spread:
    """The marks of a brief's pieces, given or as they now stand."""
    marked = sorted(((h.mark, h) for h in pieces if h.mark is not None), key=lambda pair: pair[0])
    heights: dict[int, int] = {}
    dots = []
    for mark, h in marked:
        column = round(mark / BIN)
        level = heights[column] = heights.get(column, 0) + 1
        said = f"{h.piece.shown_name}: {mark:.0f}" + ("" if h.given else ", not accepted yet")
        y = max(BASE - 1.5 - DOT - (level - 1) * 2 * DOT, DOT)
        dots.append(Dot(place(column * BIN), y, h.piece.pk, said, h.given))
    values = [mark for mark, _ in marked]
    half = middle = None
    words = f"{len(values)} mark{'s' * (len(values) != 1)}"
    given = sum(h.given for _, h in marked)
    if given < len(values):
        words += f", {given} accepted"
    if len(values) >= 4:
        low, mid, high = quantiles(values, n=4, method="inclusive")
        half, middle = (place(low), place(high)), place(median(values))
        words += f"; the middle half {low:.0f} to {high:.0f}, median {mid:.0f}"
    passed = sum(round(v) >= pass_mark for v in values)
    if values:
        words += f"; {passed} pass"
    return Spread(tuple(dots), place(pass_mark), half, middle, words)
