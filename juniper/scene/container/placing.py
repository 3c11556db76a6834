"""The datum placed by one drag over the container: from one end of its rim to the opposite end of
its foot.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.scene.container.datum import Datum, given_datum
from juniper.scene.container.reading import Level, weighed
from juniper.scene.container.sides import chief_part, sides_of
from juniper.scene.parts import Part
from juniper.scene.segment.engine import NoEngine
from juniper.scene.segment.probabilities import PartProbabilities, part_probabilities
from juniper.values import Point, point


@dataclass(frozen=True)
class ContainerDrag:
    """One drag over the container, from one end of its rim to the opposite end of its foot, in the
    photograph's pixels.
    """

    start: Point
    end: Point


@dataclass(frozen=True)
class DragSettings:
    """How a drag is read, in parts of the container's height."""

    # standard uncertainty of an end that is dragged quickly, with a mouse or a thumb
    hand: float = 0.04
    point: float = 0.012  # of a keypoint, beside the spread of its map
    # parts of the half width: how far rim and foot differ in vessels (common shapes of the trade)
    alike: float = 0.5
    gate: float = 0.15  # further from the drag than this, what was seen is something else
    # of the drag's box: what lies so far outside still belongs to the container
    beyond: float = 0.3


DRAG = DragSettings()


def placed_by_drag(drag: ContainerDrag, pixels: np.ndarray, scale: float) -> Datum:
    """The datum of a drag over a picture (uint8 h x w x 3 sRGB) that is `scale` times the
    photograph, in the photograph's pixels: the network looks at what was dragged over, and the
    handles settle on what it sees. Raises ValueError when the drag is too short to be a container.
    """
    start, end = (point(v * scale for v in p) for p in (drag.start, drag.end))
    try:
        look = part_probabilities(pixels, click=((start[0] + end[0]) / 2, (start[1] + end[1]) / 2))
    except NoEngine:
        look = None
    return datum_of_drag(start, end, look).scaled(1 / scale)


def datum_of_drag(
    start: Point, end: Point, look: PartProbabilities | None, settings: DragSettings = DRAG
) -> Datum:
    """The datum of a drag from one rim end to the opposite foot end, or the other way, fitted to
    what was seen within it (`look`, None where no network ran). All in one picture's pixels. Raises
    ValueError when the drag is too short to be a container.
    """
    top, low = sorted((start, end), key=lambda p: p[1])
    high, half, axis = low[1] - top[1], abs(low[0] - top[0]) / 2, (low[0] + top[0]) / 2
    if high < 8 or half < 2:
        raise ValueError("Drag from one end of the rim down to the opposite end of the foot.")
    rim, base = (Level(p[1], settings.hand * high) for p in (top, low))
    wide = Level(half, settings.alike * half)
    slope = 0.0
    if look is not None:
        rim, base = (
            _level_seen(y, look, n, high, settings) for y, n in ((rim, "rim"), (base, "base"))
        )
        wall = look.likely[Part.CONTAINER] > 0.5
        ys, xs = np.mgrid[0 : wall.shape[0], 0 : wall.shape[1]]
        room = settings.beyond * high
        wall &= (ys > rim.at - room) & (ys < base.at + room) & (np.abs(xs - axis) < half + room)
        if wall.any():
            wall = chief_part(
                wall, np.column_stack([np.full(10, axis), np.linspace(rim.at, base.at, 12)[1:-1]])
            )
            sides = sides_of(wall, (axis, base.at, 0.0))
            if (
                sides is not None
                and abs(float(sides.axis_at((rim.at + base.at) / 2)) - axis) < settings.gate * high
            ):
                slope, axis = sides.slope, float(sides.axis_at(base.at))
                wide = Level(abs(top[0] - float(sides.axis_at(rim.at))), settings.hand * high)
        wide = _half_width_seen(wide, look, axis + slope * (rim.at - base.at), high, settings)
    foot = np.array([axis, base.at])
    up = np.array([-slope, -1.0]) / np.hypot(slope, 1.0)
    across = np.array([-up[1], up[0]])
    head = foot + (base.at - rim.at) / -up[1] * up
    reach = max(wide.at, 1.0) * across
    return given_datum(*(point(p) for p in (head, foot, head - reach, head + reach)))


def _level_seen(
    level: Level, look: PartProbabilities, name: str, high: float, settings: DragSettings
) -> Level:
    """A level of the drag joined with a keypoint's, where the two are of one thing."""
    seen = look.points[name]
    if abs(float(seen.at[1]) - level.at) > settings.gate * high:
        return level
    spread = float(np.sqrt(seen.covariance[1, 1])) + settings.point * high
    return weighed(level, Level(float(seen.at[1]), spread))[0]


def _half_width_seen(
    half: Level, look: PartProbabilities, axis: float, high: float, settings: DragSettings
) -> Level:
    """The rim's half width by the drag joined with that by both keypoints of its ends, where these
    lie about the same axis (x at the rim).
    """
    left, right = look.points["rim_left"], look.points["rim_right"]
    if abs(float(left.at[0] + right.at[0]) / 2 - axis) > settings.gate * high:
        return half
    spread = (
        float(np.sqrt(left.covariance[0, 0] + right.covariance[0, 0])) / 2 + settings.point * high
    )
    return weighed(half, Level(float(right.at[0] - left.at[0]) / 2, spread))[0]
