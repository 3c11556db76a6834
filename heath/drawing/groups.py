"""The plan of a composition drawn to scale: its vessels on their support, what stands in each, and
what joins their tops.
"""

from __future__ import annotations

from dataclasses import dataclass

from heath.drawing.evidence import container_path
from juniper.planning.groups import GroupPlan, PlannedVessel

WIDTH, HEIGHT, ROOM = 760.0, 520.0, 30.0
TIP = 8.0  # radius of a tip, pixels


@dataclass(frozen=True)
class DrawnVessel:
    """A vessel in the drawing: its outline and colour, where its number stands, its water line (x
    from, to and y), and its stems as (line, x, y, role).
    """

    planned: PlannedVessel
    path: str
    fill: str
    x: float
    foot: float
    water: tuple[float, float, float]
    stems: tuple[tuple[str, float, float, str], ...]


@dataclass(frozen=True)
class GroupDrawing:
    """Figures of an SVG of `width` by `height`: the table's line, the vessels from the left, and
    the line that joins their tops; `per_cm` pixels to a centimetre.
    """

    width: float
    height: float
    table: float
    vessels: tuple[DrawnVessel, ...]
    outline: str
    per_cm: float


def drawn_group(plan: GroupPlan, width: float = WIDTH, height: float = HEIGHT) -> GroupDrawing:
    """Draw the plan of a composition into so many pixels."""
    lefts = min(v.shape.left for v in plan.vessels)
    rights = max(v.shape.right for v in plan.vessels)
    aside = max((abs(s.side) for v in plan.vessels for s in v.stems), default=0.0)
    wide = rights - lefts + 2 * aside
    per = min((width - 2 * ROOM) / wide, (height - 2 * ROOM) / plan.height)
    table = height - ROOM
    middle = width / 2 - per * (lefts + rights) / 2
    outline = "M" + "L".join(
        f"{middle + per * x:.1f} {table - per * up:.1f}" for x, up in plan.outline
    )
    return GroupDrawing(
        width,
        height,
        table,
        tuple(_drawn(v, middle, table, per) for v in plan.vessels),
        outline,
        per,
    )


def _drawn(planned: PlannedVessel, middle: float, table: float, per: float) -> DrawnVessel:
    vessel = planned.vessel
    x, rim = middle + per * planned.x, table - per * vessel.height_cm
    half = per * vessel.width_cm / 2
    stems = tuple(
        (
            f"M{x:.1f} {rim:.1f}L{x + per * s.side:.1f} {rim - per * s.height:.1f}",
            round(x + per * s.side, 1),
            round(rim - per * s.height, 1),
            s.role,
        )
        for s in planned.stems
    )
    return DrawnVessel(
        planned,
        container_path(None, x, table, per * vessel.height_cm, 2 * half),
        vessel.colour or "none",
        round(x, 1),
        table,
        (round(x - half, 1), round(x + half, 1), round(table - 0.75 * per * vessel.height_cm, 1)),
        stems,
    )
