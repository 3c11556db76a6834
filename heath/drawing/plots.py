"""Plots as SVG, each with the table it was drawn from for those who read or hear it.

All are drawn in ink and greys; the colours are attributes, so that paper and files show them too,
and classes by which the evening's pages turn them.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString

from juniper.rules.written import SHARES

INK, SOFT, LINE, BAND, LIMIT = "#1d2623", "#4e5a54", "#b3afa3", "#a9beb6", "#ccd8d2"
EDGE = 10.0  # about a drawing, in its units as are all lengths here
SEAM = 0.3  # by which bands side by side overlap, so that no line shows between them
DOT = 3.2  # a dot's radius
LETTER = 6.2  # how wide a letter is at the size of a plot's words
FINEST = 5  # ticks that an axis has at most


@dataclass(frozen=True)
class Table:
    """What a plot was drawn from: a head, and rows whose first cell names them."""

    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Plot:
    """A drawing, what it shows in a sentence, and its table."""

    svg: SafeString
    says: str
    table: Table


@dataclass(frozen=True)
class Axis:
    """A scale from `low` to `high` with figures at its ticks, and what it counts (`words`)."""

    low: float
    high: float
    ticks: tuple[tuple[float, str], ...]
    words: str = ""

    def place(self, value: float, start: float, end: float) -> float:
        """Where a value lies between two places; beyond the scale at its end."""
        part = (value - self.low) / (self.high - self.low)
        return round(start + min(max(part, 0.0), 1.0) * (end - start), 2)


@dataclass(frozen=True)
class Dot:
    """One value with its words; `to` is the address it leads to, hollow where it is not settled."""

    value: float
    words: str
    to: str = ""
    hollow: bool = False


@dataclass(frozen=True)
class Row:
    """A named line of dots, with a band behind them (limit, ideal, ideal, limit)."""

    name: str
    dots: tuple[Dot, ...]
    band: tuple[float, float, float, float] | None = None


@dataclass(frozen=True)
class Step:
    """One piece in a course: the value (None where there is none), how sure it is, its band, and
    what it is in words.
    """

    value: float | None
    words: str
    spread: float = 0.0
    band: tuple[float, float, float, float] | None = None


@dataclass(frozen=True)
class Level:
    """A level line of a plot, in words; half the interval about it is shaded."""

    at: float
    words: str
    reach: float = 0.0
    dashed: bool = False


def nice_ticks(low: float, high: float, most: int = FINEST) -> tuple[float, ...]:
    """Round figures between two ends, in steps of 1, 2 or 5 times a power of ten.

    References:
        P. S. Heckbert, "Nice numbers for graph labels", in Graphics Gems (1990).

    >>> nice_ticks(0, 100)
    (0.0, 50.0, 100.0)
    >>> nice_ticks(0.13, 0.95)
    (0.2, 0.4, 0.6, 0.8)
    """
    span = high - low
    if span <= 0 or not math.isfinite(span):
        return (low,)
    rough = span / (most - 1)
    power = 10.0 ** math.floor(math.log10(rough))
    step = next(m * power for m in (1, 2, 5, 10) if m * power >= rough * (1 - 1e-9))
    first = math.ceil(low / step - 1e-9)
    last = math.floor(high / step + 1e-9)
    ticks = tuple(round(n * step, 12) for n in range(first, last + 1))
    # One tick alone tells no scale: finer steps then.
    return ticks if len(ticks) > 1 or most > 2 * FINEST else nice_ticks(low, high, most + 2)


def axis_over(values: Sequence[float], words: str = "", write=None, room: float = 0.08) -> Axis:
    """A scale over values, with some room on both sides; `write` makes a figure of a tick."""
    finite = [v for v in values if math.isfinite(v)] or [0.0, 1.0]
    low, high = min(finite), max(finite)
    wide = (high - low) or abs(high) or 1.0
    low, high = low - room * wide, high + room * wide
    write = write or tick_writer("")
    return Axis(low, high, tuple((t, write(t)) for t in nice_ticks(low, high)), words)


def tick_writer(unit: str) -> Callable[[float], str]:
    """How a scale's ticks are written for a measure of a unit: shares as per cent.

    >>> tick_writer("share")(0.5), tick_writer("ratio")(-1.5)
    ('50', '−1.5')
    """
    scale = 100 if unit in SHARES else 1
    return lambda tick: f"{scale * tick:g}".replace("-", "−")


MARKS = Axis(0.0, 100.0, tuple((float(n), str(n)) for n in (0, 25, 50, 75, 100)), "of 100")


def strip(
    says: str, rows: Sequence[Row], axis: Axis, at: Level | None = None, wide: float = 620.0
) -> Plot:
    """Rows of dots over one scale, a band behind each row that has one.

    Parameters: what it shows, the rows, the scale, a level line across all (such as the pass mark),
    and the drawing's width. Dots that would cover one another stand over each other.
    """
    left = 14 + max((len(r.name) for r in rows), default=0) * LETTER
    start, end = min(left, 0.42 * wide), wide - EDGE - 4
    y, parts = EDGE, []
    for row in rows:
        piles = _piles(row.dots, axis, start, end)
        high = max(22.0, 2 * DOT * max((n + 1 for *_, n in piles), default=1) + 8)
        parts.append(_band_across(row.band, axis, start, end, y, high))
        base = y + high - 4
        parts.append(_line(start, base, end, base, LINE))
        parts.append(_text(start - 6, base, _short(row.name, start), "end", INK))
        parts += [_dot(dot, x, base - DOT - 1.4 - n * 2 * DOT) for dot, x, n in piles]
        y += high + 4
    if at is not None:
        x = axis.place(at.at, start, end)
        parts.append(_line(x, EDGE - 4, x, y, INK, "3 2"))
        parts.append(_text(x, y + 24, at.words, "middle", SOFT))
    parts.append(_across(axis, start, end, y))
    body = _joined(parts)
    table = Table(
        ("", "Values"), tuple((r.name, "; ".join(d.words for d in r.dots) or "none") for r in rows)
    )
    return Plot(_whole(says, wide, y + (28 if at is not None else 18), body), says, table)


def course(
    says: str, steps: Sequence[Step], axis: Axis, wide: float = 190.0, high: float = 74.0
) -> Plot:
    """One value from piece to piece, its band behind it: one of many small drawings alike.

    Parameters: what it shows, the pieces in time, the scale upward, and the drawing's size.
    """
    left, right, top, low = 30.0, wide - 6, 6.0, high - 8
    pitch = (right - left) / max(len(steps), 1)
    parts: list[str] = []
    for n, step in enumerate(steps):
        if step.band is not None:
            parts.append(_band_down(step.band, axis, left + n * pitch, pitch + SEAM, low, top))
    for tick, words in axis.ticks:
        y = axis.place(tick, low, top)
        parts.append(_line(left - 3, y, left, y, SOFT))
        parts.append(_text(left - 5, y + 3, words, "end", SOFT, 9))
    parts.append(_line(left, low, right, low, LINE))
    before: tuple[float, float] | None = None
    for n, step in enumerate(steps):
        x = round(left + (n + 0.5) * pitch, 2)
        if step.value is None:
            parts.append(_text(x, low - 2, "–", "middle", SOFT, 9))
            continue
        y = axis.place(step.value, low, top)
        if step.spread > 0:
            ends = [axis.place(step.value + s * step.spread, low, top) for s in (-1, 1)]
            parts.append(_line(x, ends[0], x, ends[1], SOFT))
        if before is not None:
            parts.append(_line(*before, x, y, SOFT))
        before = (x, y)
        parts.append(_dot(Dot(step.value, step.words), x, y, 2.4))
    body = _joined(parts)
    rows = tuple((str(n), step.words) for n, step in enumerate(steps, 1))
    return Plot(_whole(says, wide, high, body), says, Table(("Piece", says), rows))


def bars(
    says: str, steps: Sequence[Step], most: float, wide: float = 132.0, high: float = 24.0
) -> Plot:
    """One short bar a piece, as high as its value of `most`: for a line of a table."""
    pitch = min(wide / max(len(steps), 1), 16.0)
    parts = [_line(0, high - 1, pitch * max(len(steps), 1), high - 1, LINE)]
    for n, step in enumerate(steps):
        x = n * pitch
        if step.value is None:
            parts.append(_text(x + pitch / 2, high - 3, "–", "middle", SOFT, 9))
            continue
        tall = round(max(step.value / most, 0.0) * (high - 3), 2)
        held = step.value >= 0.9 * most
        parts.append(
            format_html(
                '<rect class="{}" x="{}" y="{}" width="{}" height="{}" fill="{}" stroke="{}"'
                ' stroke-width=".8"><title>{}</title></rect>',
                "held" if held else "missed",
                round(x + 1.5, 2),
                round(high - 1 - tall, 2),
                round(pitch - 3, 2),
                max(tall, 0.6),
                SOFT if held else "none",
                SOFT,
                step.words,
            )
        )
    body = _joined(parts)
    rows = tuple((str(n), step.words) for n, step in enumerate(steps, 1))
    return Plot(
        _whole(says, max(pitch * len(steps), 1.0), high, body), says, Table(("Piece", says), rows)
    )


def scatter(
    says: str,
    points: Sequence[tuple[float, Dot]],
    across: Axis,
    up: Axis,
    levels: Sequence[Level] = (),
    slope: tuple[float, float] | None = None,
    head: tuple[str, str, str] = ("", "across", "up"),
    wide: float = 560.0,
    high: float = 260.0,
) -> Plot:
    """Points over two scales, with level lines and, where it is given, a straight line.

    Parameters: what it shows; each point's place across and its dot, whose value is its place
    upward; both scales; the level lines; a line as its places upward at both ends of the scale
    across; the table's head; the drawing's size.
    """
    left, right, top, low = 44.0, wide - 96.0, 20.0, high - 34.0
    parts: list[str] = []
    for level in levels:
        if level.reach:
            ends = [up.place(level.at + s * level.reach, low, top) for s in (1, -1)]
            parts.append(_box(left, ends[0], right - left, ends[1] - ends[0], LIMIT))
    for level in levels:
        y = up.place(level.at, low, top)
        parts.append(_line(left, y, right, y, SOFT, "5 3" if level.dashed else ""))
        parts.append(_text(right + 5, y + 3, level.words, "start", INK))
    for tick, words in up.ticks:
        y = up.place(tick, low, top)
        parts.append(_line(left - 4, y, left, y, SOFT))
        parts.append(_text(left - 6, y + 3, words, "end", SOFT))
    parts.append(_line(left, low, left, top, LINE))
    parts.append(_text(left - 4, 11, up.words, "start", SOFT) if up.words else "")
    if slope is not None:
        ends = [up.place(at, low, top) for at in slope]
        parts.append(_line(left, ends[0], right, ends[1], INK, "", 1.6))
    parts += [_dot(d, across.place(x, left, right), up.place(d.value, low, top)) for x, d in points]
    parts.append(_across(across, left, right, low, within=True))
    body = _joined(parts)
    rows = tuple((d.words, f"{x:.1f}", f"{d.value:.1f}") for x, d in points)
    return Plot(_whole(says, wide, high, body), says, Table(head, rows))


def _piles(dots, axis: Axis, start: float, end: float) -> list[tuple[Dot, float, int]]:
    """Each dot with its place and how many stand under it."""
    step = 2 * DOT
    heights: dict[int, int] = {}
    out = []
    for dot in sorted(dots, key=lambda d: d.value):
        column = round(axis.place(dot.value, start, end) / step)
        level = heights.get(column, 0)
        heights[column] = level + 1
        out.append((dot, round(column * step, 2), level))
    return out


def _band_across(band, axis: Axis, start: float, end: float, y: float, high: float) -> str:
    if band is None:
        return ""
    a, b, c, d = (
        axis.place(e, start, end) if math.isfinite(e) else (start if e < 0 else end) for e in band
    )
    return _joined(
        [_box(a, y + 2, d - a, high - 4, LIMIT), _box(b, y + 2, max(c - b, 1.5), high - 4, BAND)]
    )


def _band_down(band, axis: Axis, x: float, wide: float, low: float, top: float) -> str:
    a, b, c, d = (
        axis.place(e, low, top) if math.isfinite(e) else (low if e < 0 else top) for e in band
    )
    return _joined([_box(x, d, wide, a - d, LIMIT), _box(x, c, wide, max(b - c, 1.5), BAND)])


def _across(axis: Axis, start: float, end: float, y: float, within: bool = False) -> str:
    """A scale along the foot of a drawing, with what it counts at its right end."""
    parts = [_line(start, y, end, y, SOFT)]
    for tick, words in axis.ticks:
        x = axis.place(tick, start, end)
        parts += [_line(x, y, x, y + 4, SOFT), _text(x, y + 14, words, "middle", SOFT)]
    if axis.words:
        below = 26.0 if within else 14.0
        at, way = (end, "end") if within else (start - 6, "end")
        parts.append(_text(at, y + below, axis.words, way, SOFT))
    return _joined(parts)


def _short(text: str, room: float) -> str:
    most = int((room - 12) / LETTER)
    return text if len(text) <= most else f"{text[: most - 1].rstrip()}…"


def _dot(dot: Dot, x: float, y: float, radius: float = DOT) -> str:
    drawn = format_html(
        '<circle class="{}" cx="{}" cy="{}" r="{}" fill="{}" stroke="{}"><title>{}</title>'
        "</circle>",
        "open" if dot.hollow else "given",
        x,
        round(y, 2),
        radius,
        "none" if dot.hollow else INK,
        INK,
        dot.words,
    )
    if not dot.to:
        return drawn
    return format_html('<a href="{}" aria-label="{}">{}</a>', dot.to, dot.words, drawn)


def _line(a: float, b: float, c: float, d: float, ink: str, dashes="", thick: float = 1.0) -> str:
    return format_html(
        '<path class="{}" d="M{} {}L{} {}" stroke="{}" stroke-width="{}" fill="none"{}/>',
        _NAMES[ink],
        round(a, 2),
        round(b, 2),
        round(c, 2),
        round(d, 2),
        ink,
        thick,
        format_html(' stroke-dasharray="{}"', dashes) if dashes else "",
    )


def _box(x: float, y: float, wide: float, high: float, ink: str) -> str:
    return format_html(
        '<rect class="{}" x="{}" y="{}" width="{}" height="{}" fill="{}"/>',
        _NAMES[ink],
        round(x, 2),
        round(y, 2),
        round(max(wide, 0.0), 2),
        round(max(high, 0.0), 2),
        ink,
    )


def _text(x: float, y: float, words: str, way: str, ink: str, size: float = 12) -> str:
    return format_html(
        '<text class="{}" x="{}" y="{}" text-anchor="{}" font-family="Alegreya Sans"'
        ' font-size="{}" fill="{}">{}</text>',
        f"words-{_NAMES[ink]}",
        round(x, 2),
        round(y, 2),
        way,
        size,
        ink,
        words,
    )


_NAMES = {INK: "ink", SOFT: "soft", LINE: "line", BAND: "ideal", LIMIT: "limit"}


def _joined(parts: Sequence[str]) -> SafeString:
    return format_html_join("", "{}", ((part,) for part in parts))


def _whole(says: str, wide: float, high: float, body) -> SafeString:
    return format_html(
        '<svg class="plot" viewBox="0 0 {0} {1}" width="{0}" height="{1}" role="group"'
        ' aria-label="{2}">{3}</svg>',
        round(wide, 1),
        round(high, 1),
        says,
        body,
    )


def table_of(plot: Plot) -> SafeString:
    """A plot's table as HTML."""
    head = format_html_join("", '<th scope="col">{}</th>', ((h,) for h in plot.table.head))
    rows = format_html_join(
        "",
        '<tr><th scope="row">{}</th>{}</tr>',
        (
            (row[0], format_html_join("", "<td>{}</td>", ((c,) for c in row[1:])))
            for row in plot.table.rows
        ),
    )
    return format_html(
        '<table class="ledger"><caption class="visually-hidden">{}</caption><thead><tr>{}</tr>'
        "</thead><tbody>{}</tbody></table>",
        plot.says,
        head,
        rows,
    )
