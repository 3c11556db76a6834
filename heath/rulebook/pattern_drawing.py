"""A pattern drawn small over an example vessel, by the school whose way it is."""

from __future__ import annotations

from dataclasses import dataclass

from heath.drawing.evidence import container_path
from juniper.patterns import Pattern
from juniper.planning import ContainerSize, StemPlan, plan_stems
from juniper.rules import KINDS, Brief, school, school_slugs

# cm: vessels that stand in for a brief's own (common practice)
TALL, SHALLOW, TIED, EDGE = (22.0, 11.0), (6.0, 28.0), (13.0, 4.0), (40.0, 120.0)
WIDTH, HEIGHT, ROOM = 220.0, 230.0, 14.0


@dataclass(frozen=True)
class PatternDrawing:
    """Figures of an SVG of `width` by `height`: the vessel's path, the table's line, and the stems
    as (line, x, y, role); and the `plan` that is drawn.
    """

    width: float
    height: float
    vessel: str
    table: float
    stems: tuple[tuple[str, float, float, str], ...]
    plan: StemPlan


def drawn_pattern(pattern: Pattern) -> PatternDrawing:
    """Draw the stems of a pattern."""
    high, wide = _example(pattern)
    slug = next(
        (s for w in pattern.with_ for s in school_slugs() if s.startswith(w)), "classical-line-mass"
    )
    form = pattern.forms[0]
    brief = Brief(form=form, container_height_cm=high, container_width_cm=wide, kind=pattern.kind)
    plan = plan_stems(school(slug), ContainerSize(high, wide), brief, pattern)
    tips = [(s.side, s.height) for s in plan.stems]
    reach = max(wide / 2, *(abs(x) for x, _ in tips))
    top, low = max(y for _, y in tips), min(0.0, *(y for _, y in tips))
    per = min((WIDTH - 2 * ROOM) / (2 * reach), (HEIGHT - 2 * ROOM) / (top + max(high, -low)))
    middle, rim = WIDTH / 2, ROOM + top * per
    table = rim + high * per
    stems = []
    for s in plan.stems:
        x, y = middle + s.side * per, rim - s.height * per
        stems.append((f"M{middle:.1f} {rim:.1f}L{x:.1f} {y:.1f}", round(x, 1), round(y, 1), s.role))
        if s.ring:
            other = 2 * middle - x
            stems.append(
                (
                    f"M{middle:.1f} {rim:.1f}L{other:.1f} {y:.1f}",
                    round(other, 1),
                    round(y, 1),
                    s.role,
                )
            )
    vessel = container_path(None, middle, table, high * per, wide * per)
    if pattern.kind == "hand-tied":
        spread = 0.4 * high * per
        vessel = "".join(
            f"M{middle:.1f} {rim:.1f}L{middle + spread * k:.1f} {table:.1f}"
            for k in (-1, -0.5, 0, 0.5, 1)
        )
    elif pattern.kind == "on an edge":
        half = wide / 2 * per
        vessel = f"M{middle - half:.1f} {rim:.1f}H{middle + half:.1f}"
    return PatternDrawing(WIDTH, HEIGHT, vessel, table, tuple(stems), plan)


def _example(pattern: Pattern) -> tuple[float, float]:
    """Height and width of the vessel that a pattern is drawn over, cm."""
    if pattern.kind == KINDS[2]:
        return TIED
    if pattern.kind == KINDS[3]:
        return EDGE
    return SHALLOW if pattern.stems[0].of == "container width" else TALL
