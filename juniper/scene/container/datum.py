"""The datum: the container's axis, base point, rim point and rim ends.

All measures rest on it (handbook of the trade, "The datum"). Points are pixels of the upright
photograph, x right, y down. Uncertainties are one standard deviation, in the same pixels.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from juniper.values import Point, point

HANDLES = frozenset({"rim", "base", "rim_left", "rim_right"})
# where, on five sets of pictures, most wrong ones lie below and most right ones above
# (docs/seeing.md)
NEEDS_CHECK_BELOW = 0.65


@dataclass(frozen=True)
class HandleUncertainty:
    """Standard uncertainties of the datum in pixels: along the axis at rim and base, across it."""

    rim: float = 2.0
    base: float = 2.0
    across: float = 2.0


@dataclass(frozen=True)
class ExpectedHeight:
    """The container's height in the picture as a reference card and its true height tell it:
    pixels, and relative standard uncertainty.
    """

    height: float
    uncertainty: float


@dataclass(frozen=True)
class Datum:
    """Where the container stands in the picture.

    `source` is "automatic" or "given"; `confidence` 0..1; `doubts` says in words what made it low;
    `put` are the handles that a person has put or confirmed.
    """

    rim: Point
    base: Point
    rim_left: Point
    rim_right: Point
    source: str = "automatic"
    confidence: float = 1.0
    spread: HandleUncertainty = field(default_factory=HandleUncertainty)
    doubts: tuple[str, ...] = ()
    put: frozenset[str] = frozenset()

    @property
    def needs_check(self) -> bool:
        """Whether the datum should not be trusted unseen: it is doubtful, and nobody has put or
        confirmed all four handles.
        """
        return self.confidence < NEEDS_CHECK_BELOW and not self.put >= HANDLES

    @cached_property
    def height(self) -> float:
        """Container height, base point to rim point, pixels."""
        return float(np.hypot(self.rim[0] - self.base[0], self.rim[1] - self.base[1]))

    @property
    def by_hand(self) -> float:
        """How surely a person puts a handle, pixels: to about four thousandths of the container's
        height (common practice).
        """
        return max(1.0, 0.004 * self.height)

    @cached_property
    def rim_width(self) -> float:
        """Distance of the rim ends, pixels."""
        return float(
            np.hypot(self.rim_right[0] - self.rim_left[0], self.rim_right[1] - self.rim_left[1])
        )

    @cached_property
    def up(self) -> np.ndarray:
        """Unit vector (2,) from base to rim."""
        step = np.subtract(self.rim, self.base)
        length = np.hypot(*step)
        return step / length if length > 0 else np.array([0.0, -1.0])

    @cached_property
    def right(self) -> np.ndarray:
        """Unit vector (2,) across the axis, to the viewer's right."""
        up = self.up
        return np.array([-up[1], up[0]])

    def scaled(self, factor: float) -> Datum:
        """The same datum in a picture enlarged by `factor`."""
        points: dict[str, Any] = {
            name: point(float(v) * factor for v in getattr(self, name))
            for name in ("rim", "base", "rim_left", "rim_right")
        }
        spread = HandleUncertainty(
            *(getattr(self.spread, n) * factor for n in ("rim", "base", "across"))
        )
        return replace(self, **points, spread=spread)

    def moved(self, **points: Point) -> Datum:
        """This datum with points put by hand; what a hand has put is known to about two pixels in a
        thousand of the container's height."""
        placed: dict[str, Any] = {k: point(v) for k, v in points.items()}
        new = replace(self, **placed, source="given", put=frozenset(self.put | points.keys()))
        hand = new.by_hand
        spread = replace(
            self.spread,
            rim=hand if "rim" in points else self.spread.rim,
            base=hand if "base" in points else self.spread.base,
            across=hand if points.keys() >= HANDLES else self.spread.across,
        )
        return replace(new, spread=spread)


class NoContainer(ValueError):
    """No container could be made out in the picture."""


def given_datum(rim: Point, base: Point, rim_left: Point, rim_right: Point) -> Datum:
    """A datum put by a person. Raises ValueError when the points cannot be a container."""
    datum = Datum(rim, base, rim_left, rim_right, source="given", confidence=1.0)
    if not np.isfinite([*rim, *base, *rim_left, *rim_right]).all():
        raise ValueError("The datum holds something that is not a number.")
    if datum.height < 2:
        raise ValueError("Rim and foot are in the same place: drag them apart.")
    if datum.rim_width < 2:
        raise ValueError("The two ends of the rim are in the same place: drag them apart.")
    hand = datum.by_hand
    return replace(datum, spread=HandleUncertainty(hand, hand, hand), put=HANDLES)
