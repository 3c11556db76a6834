"""Which colour scheme a palette makes on the artists' circle.

Definitions are those taught (handbook, "Colour"): monochromatic, analogous (up to four
neighbouring steps), complementary, split complementary, triadic, tetradic, polychromatic (five or
more), white and green.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np

from juniper.colour.circle import NEUTRALS, gap, position
from juniper.colour.palette import Swatch

COUNTS_FROM = 0.04
# Degrees are steps of 30 on the circle; a scheme fits fully within half a step of its shape.
SHAPES = {
    "complementary": (0, 6),
    "split-complementary": (0, 5, 7),
    "triadic": (0, 4, 8),
    "tetradic": (0, 3, 6, 9),
}
NAMES = ("monochromatic", "analogous", *SHAPES, "polychromatic", "white-green")


@dataclass(frozen=True)
class Scheme:
    """A scheme's name, how well it fits (0..1), and how far off it is in degrees on the circle."""

    name: str
    fit: float
    off_degrees: float


@lru_cache(maxsize=256)  # a palette does not change while handles move
def scheme_of(swatches: tuple[Swatch, ...]) -> Scheme | None:
    """Scheme of a flower palette; None when there is no flower colour. Foliage is left out."""
    flowers = [s for s in swatches if s.part == "flower" and s.share >= COUNTS_FROM]
    if not flowers:
        return None
    hues = [s for s in flowers if s.hue not in NEUTRALS]
    weight = sum(s.share for s in hues)
    if weight < 0.25:
        return Scheme("white-green", float(np.clip(1 - weight, 0, 1)), 0.0)
    greens = [s for s in hues if s.hue in ("green", "yellow-green")]
    if len(greens) == len(hues) and weight < 1 - 1e-6:
        return Scheme("white-green", 1.0, 0.0)
    places = _places(hues)
    steps = [p for p, _ in places]
    if len(steps) >= 5 and not _arc(steps) <= 4.5:
        return Scheme("polychromatic", 1.0, 0.0)
    options = []
    arc = _arc(steps)
    if len(steps) == 1:
        return Scheme("monochromatic", 1.0, 0.0)
    options.append((30 * max(0.0, arc - 0.75), "monochromatic"))
    options.append((30 * max(0.0, arc - 3.5), "analogous"))
    for name, shape in SHAPES.items():
        if len(steps) >= len(shape) or (len(steps) == 2 and name == "complementary"):
            options.append((30 * _shape_error(places, shape), name))
    options.sort(key=lambda o: o[0])
    off, name = options[0]
    if name == "monochromatic" and len(steps) > 1 and arc > 0.75:
        off, name = options[1]
    if off > 45 and len(steps) >= 4:
        return Scheme("polychromatic", 0.6, off)
    return Scheme(name, float(np.clip(1 - off / 60, 0, 1)), float(off))


def _places(hues: list[Swatch]) -> list[tuple[float, float]]:
    """(place on the circle, share) with colours of nearly one place taken together."""
    out: list[tuple[float, float]] = []
    for swatch in sorted(hues, key=lambda s: -s.share):
        hue = float(np.degrees(np.arctan2(swatch.lab[2], swatch.lab[1])) % 360)
        place = float(position(hue))
        for i, (other, share) in enumerate(out):
            if gap(place, other) < 0.8:
                turn = (place - other + 6) % 12 - 6
                total = share + swatch.share
                out[i] = ((other + turn * swatch.share / total) % 12, total)
                break
        else:
            out.append((place, swatch.share))
    return out


def _arc(steps: list[float]) -> float:
    """Shortest arc of the circle that holds all places, in steps."""
    if len(steps) < 2:
        return 0.0
    ordered = sorted(steps)
    gaps = [b - a for a, b in pairwise(ordered)] + [12 - ordered[-1] + ordered[0]]
    return 12 - max(gaps)


def _shape_error(places: list[tuple[float, float]], shape: tuple[int, ...]) -> float:
    """Share-weighted mean distance, in steps, of the places from a turned shape, each of whose
    corners is held by some place; 6 when a corner stays empty."""
    best = 6.0
    corners = np.array(shape, float)
    main = sorted(places, key=lambda p: -p[1])
    for turn in np.arange(0, 12, 0.25):
        turned = (corners + turn) % 12
        away = [[gap(p, c) for c in turned] for p, _ in main]
        nearest = [int(np.argmin(row)) for row in away]
        if len(set(nearest)) < len(shape):
            continue
        total = sum(s for _, s in main)
        error = sum(s * away[i][nearest[i]] for i, (_, s) in enumerate(main)) / total
        worst_corner = max(min(row[c] for row in away) for c in range(len(shape)))
        best = min(best, 0.5 * error + 0.5 * worst_corner)
    return float(best)
