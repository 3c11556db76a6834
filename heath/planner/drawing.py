"""A stem plan drawn to scale over its container."""

from __future__ import annotations

import math
from dataclasses import dataclass

from heath.interface.drawing import container_path
from juniper.planning import PlannedStem, Pot, StemPlan
from juniper.scene import Vessel

WIDTH, HEIGHT = 560.0, 600.0
ROOM = 34.0  # about the drawing, for words


@dataclass(frozen=True)
class DrawnStem:
    """A planned stem in the drawing: its line over the rim and, dashed, below it, and its tip."""

    stem: PlannedStem
    number: int
    line: str
    below: str
    x: float
    y: float


@dataclass(frozen=True)
class Drawing:
    """Figures of an SVG of WIDTH by HEIGHT: container, table, rim, the two band lines, stems."""

    width: float
    height: float
    container: str
    table: float
    middle: float
    rim: float
    low: float
    high: float
    stems: tuple[DrawnStem, ...]
    per_cm: float


def drawn(plan: StemPlan, pot: Pot, shape: Vessel | None = None) -> Drawing:
    """Draw a plan over a container of a shape, straight-sided without one."""
    top = max(plan.high, *(s.height for s in plan.stems))
    low = min(0.0, *(s.height for s in plan.stems)) if plan.stems else 0.0
    reach = max(pot.width / 2, *(abs(s.side) for s in plan.stems))
    scale = min((HEIGHT - 2 * ROOM) / (top + max(pot.height, -low)), (WIDTH - 2 * ROOM) / (2 * reach))
    middle = WIDTH / 2
    rim = ROOM + top * scale
    table = rim + pot.height * scale
    stems = tuple(_drawn(s, n, middle, rim, scale) for n, s in enumerate(plan.stems, 1))
    return Drawing(
        WIDTH, HEIGHT, container_path(shape, middle, table, pot.height * scale, pot.width * scale), table, middle, rim, rim - plan.low * scale, rim - plan.high * scale,
        stems, scale,
    )  # fmt: skip


def _drawn(stem: PlannedStem, number: int, middle: float, rim: float, scale: float) -> DrawnStem:
    x, y = middle + stem.side * scale, rim - stem.height * scale
    turn = math.radians(stem.lean)
    down = (middle - stem.hidden * scale * math.sin(turn), rim + stem.hidden * scale * math.cos(turn))
    return DrawnStem(
        stem, number, f"M{middle:.1f} {rim:.1f}L{x:.1f} {y:.1f}", f"M{middle:.1f} {rim:.1f}L{down[0]:.1f} {down[1]:.1f}", round(x, 1), round(y, 1)
    )  # fmt: skip
