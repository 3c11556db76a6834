"""The shelf drawn: each container's outline to one scale, standing on one line."""

from __future__ import annotations

from dataclasses import dataclass

from heath.shelf.models import SHAPE, Container

HIGH = 150.0  # units of the drawing that the tallest container takes
PLAIN = (0.5, 0.5)  # sides of a container whose shape is not known: straight


@dataclass(frozen=True)
class Drawn:
    """One container: its outline as an SVG path in a box `width` wide, standing at y = HIGH."""

    container: Container
    path: str
    width: float


def drawn(containers) -> list[Drawn]:
    """Containers drawn to one scale; those without sizes are as high as the typical one."""
    known = sorted(float(c.height_cm) for c in containers if c.measured)
    usual = known[len(known) // 2] if known else 20.0
    scale = HIGH / max([*known, usual])
    out = []
    for one in containers:
        high = float(one.height_cm) if one.measured else usual
        shape = SHAPE.validate_python(one.shape) if one.shape else None
        half = shape.half if shape else PLAIN
        # Drawn as wide as it was measured, whatever the picture shows.
        across = (float(one.width_cm) / 2 if one.measured else high * max(half)) / max(half) * scale
        wide = 2 * across * max(half)
        levels = [HIGH - scale * high * i / (len(half) - 1) for i in range(len(half))]
        left = [(wide / 2 - across * h, y) for h, y in zip(half, levels, strict=True)]
        right = [(wide / 2 + across * h, y) for h, y in zip(half, levels, strict=True)]
        path = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in [*left, *reversed(right)]) + "Z"
        out.append(Drawn(one, path, round(wide, 1)))
    return out
