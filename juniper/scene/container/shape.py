"""A container whose shape is known: read once from a photograph of it empty, it tells where a
hidden rim lies.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.scene.container.profile import PROFILE, Profile


@dataclass(frozen=True)
class ShapeSettings:
    """How a known container's shape is fitted to sides.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    levels: int = 48  # half widths kept of a container
    least_seen: float = 0.3  # of the container's height that its sides must be followed for
    # of the half width: a container whose sides miss the known ones by more is another one
    good_fit: float = 0.035
    # heights tried, in heights of what was followed
    shortest: float = 0.7
    tallest: float = 3.5
    steps: int = 400  # heights tried


SHAPE = ShapeSettings()


@dataclass(frozen=True)
class ContainerShape:
    """A container's shape: half widths at even levels from table to rim, in heights of the
    container, and whether it is clear glass.
    """

    half: tuple[float, ...]
    clear: bool = False

    @property
    def width(self) -> float:
        """Greatest width over height."""
        return 2 * max(self.half)

    @property
    def rim_width(self) -> float:
        """Width of the rim over height."""
        return 2 * self.half[-1]

    def half_at(self, level) -> np.ndarray:
        """Half widths (n,) at levels (n,), 0 at the table and 1 at the rim; as wide as at its ends
        beyond them.
        """
        return np.interp(level, np.linspace(0, 1, len(self.half)), self.half)


@dataclass(frozen=True)
class Fit:
    """How a known shape lies on an outline: `height` in its pixels, `miss` the median miss of its
    half widths, relative, and `seen` the share of the height along which they were compared.
    """

    height: float
    miss: float
    seen: float

    @property
    def good(self) -> bool:
        """Whether the outline is that of the known container."""
        return self.miss < SHAPE.good_fit and self.seen >= SHAPE.least_seen


def shape_of(profile: Profile, base: float, rim: float, clear: bool = False) -> ContainerShape:
    """The shape within an outline between two of its levels, in pixels above its foot. Raises
    ValueError when they lie on one another.
    """
    if rim - base < 4:
        raise ValueError("Rim and base lie on one another.")
    at = base + np.linspace(0, 1, SHAPE.levels) * (rim - base)
    half = np.interp(at, np.arange(len(profile.half)), profile.half) / (rim - base)
    smooth = np.convolve(np.pad(half, 1, mode="edge"), (0.25, 0.5, 0.25), mode="valid")
    return ContainerShape(tuple(round(float(v), 5) for v in smooth), clear)


def fitted(profile: Profile, base: float, known: ContainerShape) -> Fit:
    """The height at which the known shape, standing with its base at a level of the outline, lies
    best on its sides.

    Shape and base known, height is the one thing left to find: it is the scale at which widths and
    levels agree together. Misses are taken relative to the width and bounded, since leaves may hide
    or widen a side.
    """
    levels = np.arange(len(profile.half), dtype=float)
    followed = (profile.worth > 0.5 * PROFILE.plain) & (levels > base + 0.03 * len(levels))
    if followed.sum() < 8:
        return Fit(float(len(levels)), 1.0, 0.0)
    levels, half = levels[followed] - base, profile.half[followed]
    best = Fit(float(len(profile.half)), 1.0, 0.0)
    least = np.inf
    for height in np.geomspace(SHAPE.shortest, SHAPE.tallest, SHAPE.steps) * levels[-1]:
        within = levels <= height
        seen = within.sum() / height
        if within.sum() < 8:
            continue
        want = height * known.half_at(levels[within] / height)
        miss = np.abs(half[within] - want) / np.maximum(want, 1.0)
        # What was followed beyond the rim is a miss, too, if a small one: flowers may carry the
        # sides on.
        cost = (np.minimum(miss, 0.15).sum() + 0.05 * (~within).sum()) / len(levels)
        if cost < least:
            least, best = cost, Fit(float(height), float(np.median(miss)), float(min(1.0, seen)))
    return best
