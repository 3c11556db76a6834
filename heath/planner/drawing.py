"""A stem plan drawn to scale over its container: from in front, and small from the side, or from
above where the stems make rings.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from heath.drawing.evidence import container_path
from juniper.planning import ContainerSize, PlannedStem, StemPlan
from juniper.rules import Brief, RuleSet
from juniper.scene import ContainerShape
from juniper.values import Point

FRONT, ASIDE, HEIGHT = 560.0, 200.0, 600.0
ROOM = 34.0  # about the drawing, for words
# how broad the figures of the lower and the upper band line are; a tip's radius
SHORT, LONG, TIP = 50.0, 130.0, 11.0
NEAR_LINE = 6.0  # from the container's middle, within which a tip stands in line
# cm over the table: eyes of guests who sit at it (handbook, from memory: tall pieces are clear
# above 55 to 60)
EYES = 60.0


@dataclass(frozen=True)
class DrawnStem:
    """A planned stem in the drawing: its line over the rim and, dashed, below it, and its tip."""

    stem: PlannedStem
    number: int
    line: str
    below: str
    x: float
    y: float
    named: bool = True


@dataclass(frozen=True)
class Drawing:
    """Figures of an SVG of `width` by `height`: container, table, rim, the two band lines, the
    form's outline, the focal zone (x, y, width, height), the guests' line of sight (y, cm), stems,
    and those of a ring that lean the other way (`mirrored`); the `rope` of a garland; and a second
    view, `aside` being 'side', 'above' or '' for none, with its own scale.
    """

    width: float
    height: float
    container: str
    table: float
    middle: float
    rim: float
    low: float
    high: float
    outline: str
    focal: tuple[float, float, float, float] | None
    sight: tuple[float, float] | None
    stems: tuple[DrawnStem, ...]
    rope: str
    per_cm: float
    aside: str
    aside_middle: float
    aside_container: str
    aside_stems: tuple[DrawnStem, ...]
    rings: tuple[tuple[float, tuple[tuple[float, float], ...]], ...]
    mirrored: tuple[str, ...]
    aside_scale: float

    @property
    def focal_label(self) -> tuple[float, float] | None:
        """Where the focal zone's name stands: at its lower right, off the stems."""
        if self.focal is None:
            return None
        x, y, width, height = self.focal
        return x + width + 6, y + height - 3

    @property
    def low_label(self) -> tuple[float, str]:
        """Where the lower band line's figure stands: its x, and which end of it lies there."""
        return self._clear_of_tips(self.low + 10, SHORT)

    @property
    def high_label(self) -> tuple[float, str]:
        """The same of the upper line's."""
        return self._clear_of_tips(self.high - 10, LONG)

    def _clear_of_tips(self, y: float, wide: float) -> tuple[float, str]:
        level = [s.x for s in self.stems if abs(s.y - y) < TIP + 8]
        places = [
            (22.0, "start"),
            (FRONT - 22, "end"),
            *((x + TIP + 6, "start") for x in sorted(level)),
        ]
        for at, end in places:
            left, right = (at, at + wide) if end == "start" else (at - wide, at)
            if not any(left - TIP < x < right + TIP for x in level):
                return at, end
        return places[0]


def drawn(
    plan: StemPlan,
    container: ContainerSize,
    brief: Brief,
    rules: RuleSet | None = None,
    shape: ContainerShape | None = None,
    rings: dict[str, int] | None = None,
) -> Drawing:
    """Draw a plan over a container of a shape, straight-sided without one; `rings` are the flowers
    in each ring of a layered round piece.
    """
    bands = (
        {r.measure: r.under(brief).band for r in rules.rules if r.measure and r.applies(brief)}
        if rules
        else {}
    )
    sight = _sight(bands.get("table_height"))
    parts = plan.outline(brief.form)
    corners = np.vstack([*parts, *([[s.side, s.height]] for s in plan.stems)])
    top = max(
        plan.high, float(corners[:, 1].max()), *((sight - container.height,) if sight else ())
    )
    low = min(0.0, float(corners[:, 1].min()))
    reach = max(container.width / 2, float(np.abs(corners[:, 0]).max()))
    scale = min(
        (HEIGHT - 2 * ROOM) / (top + max(container.height, -low)), (FRONT - 2 * ROOM) / (2 * reach)
    )
    middle = FRONT / 2
    rim = ROOM + top * scale
    table = rim + container.height * scale
    rings = rings or {}
    ringed, on_edge = bool(rings), plan.pattern.kind == "on an edge"
    beside = FRONT + ASIDE / 2
    deep = container.depth or container.width
    far = max(
        [
            deep / 2,
            *(abs(s.depth) for s in plan.stems),
            *(abs(s.side) for s in plan.stems if ringed),
        ]
    )
    small = min(scale, (ASIDE - 36) / (2 * far))
    small_table = rim + container.height * small
    return Drawing(
        FRONT if on_edge else FRONT + ASIDE,
        min(HEIGHT, max(table, rim - low * scale) + ROOM),
        container_path(shape, middle, table, container.height * scale, container.width * scale),
        table,
        middle,
        rim,
        rim - plan.low * scale,
        rim - plan.high * scale,
        _path(parts, middle, rim, scale),
        _focal(bands, plan, middle, rim, scale),
        (table - sight * scale, sight) if sight else None,
        tuple(
            _drawn(s, n, middle, rim, scale, s.side, s.foot) for n, s in enumerate(plan.stems, 1)
        ),
        _rope(plan, middle, rim, scale),
        scale,
        "" if on_edge else "above" if ringed else "side",
        beside,
        container_path(None, beside, small_table, container.height * small, deep * small),
        () if ringed else _from_the_side(plan, beside, rim, small),
        _rings(plan, rings, beside, rim, small) if ringed else (),
        tuple(
            _drawn(replace(s, lean=-s.lean), 0, middle, rim, scale, -s.side).line
            for s in plan.stems
            if s.name in rings
        ),
        small,
    )


def _rope(plan: StemPlan, middle: float, rim: float, scale: float) -> str:
    """The rope of a garland: along its edge and down its falls; '' for other pieces."""
    if plan.pattern.kind != "on an edge":
        return ""
    falls = sorted((s for s in plan.stems if s.height < 0), key=lambda s: s.side)
    ends = [(middle + s.foot * scale, middle + s.side * scale, s.height) for s in falls]
    half = plan.half * scale
    left = [e for e in ends if e[0] < middle] or [(middle - half, middle - half, 0.0)]
    right = [e for e in ends if e[0] >= middle] or [(middle + half, middle + half, 0.0)]
    (foot, side, down), (last, aside, up) = left[0], right[-1]
    return (
        f"M{side:.1f} {rim - down * scale:.1f}L{foot:.1f} {rim:.1f}"
        f"L{last:.1f} {rim:.1f}L{aside:.1f} {rim - up * scale:.1f}"
    )


def _from_the_side(
    plan: StemPlan, middle: float, rim: float, scale: float
) -> tuple[DrawnStem, ...]:
    """The stems by their depth; of those that stand in line only the tallest has its number, or
    they would hide each other's.
    """
    out = [_drawn(s, n, middle, rim, scale, s.depth) for n, s in enumerate(plan.stems, 1)]
    tallest = max(out, key=lambda d: d.stem.height)
    return tuple(replace(d, named=d is tallest or abs(d.x - middle) > NEAR_LINE) for d in out)


def _path(parts, middle: float, rim: float, scale: float) -> str:
    return "".join(
        "M" + "L".join(f"{middle + x * scale:.1f} {rim - y * scale:.1f}" for x, y in part) + "Z"
        for part in parts
    )


def _focal(
    bands, plan: StemPlan, middle: float, rim: float, scale: float
) -> tuple[float, float, float, float] | None:
    """Where the focal flowers belong: between the heights of their band, as far off the axis as
    theirs allows.
    """
    if "focal_height" not in bands:
        return None
    low, high = (
        max(0.0, min(e, 1.0)) * plan.height * scale
        for e in (bands["focal_height"].low, bands["focal_height"].high)
    )
    off = bands["focal_offset"].high if "focal_offset" in bands else 0.6
    half = min(off, 1.0) * plan.half * scale
    return middle - half, rim - high, 2 * half, high - low


def _sight(band) -> float | None:
    """cm over the table that a seated-table piece stays under, or, where the rules ask for more,
    the height of the guests' eyes.
    """
    if band is None:
        return None
    return band.high if math.isfinite(band.high) else EYES


def _rings(plan: StemPlan, rings: dict[str, int], x: float, y: float, scale: float):
    """Circles (radius, heads (x, y)) of a layered piece from above, the middle one a head by
    itself; each ring stands in the gaps of the next.
    """
    out: list[tuple[float, tuple[Point, ...]]] = [(0.0, ((x, y),))]
    for place, (name, count) in enumerate(rings.items()):
        around = abs(plan.by_name[name].side) * scale
        turns = [2 * math.pi * (i + 0.5 * (place % 2)) / count for i in range(count)]
        out.append(
            (
                around,
                tuple(
                    (round(x + around * math.sin(t), 1), round(y - around * math.cos(t), 1))
                    for t in turns
                ),
            )
        )
    return tuple(out)


def _drawn(
    stem: PlannedStem,
    number: int,
    middle: float,
    rim: float,
    scale: float,
    across: float,
    springs: float = 0.0,
) -> DrawnStem:
    x, y = middle + across * scale, rim - stem.height * scale
    foot = middle + springs * scale
    turn = math.atan2(across, stem.height)
    down = (foot - stem.hidden * scale * math.sin(turn), rim + stem.hidden * scale * math.cos(turn))
    return DrawnStem(
        stem,
        number,
        f"M{foot:.1f} {rim:.1f}L{x:.1f} {y:.1f}",
        f"M{foot:.1f} {rim:.1f}L{down[0]:.1f} {down[1]:.1f}",
        round(x, 1),
        round(y, 1),
    )
