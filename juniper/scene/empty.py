"""An empty container looked at, to be set on the shelf: its shape, and its size when a reference
card stands beside it.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.photograph import Photograph
from juniper.scene.container.datum import NoContainer
from juniper.scene.container.reading import find_datum, foot_of, seen_of
from juniper.scene.container.shape import ContainerShape, shape_of
from juniper.scene.scene import NothingFound
from juniper.scene.segment.classical import separate
from juniper.values import Point


@dataclass(frozen=True)
class EmptySettings:
    """When an empty container's sides are plain.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    mirrored: float = 0.5  # of the levels, at which both sides must be plain
    faded: float = 0.08  # of the height: how far the ends of sides and wall may lie apart
    # of the container's own pixels: what stands above its rim in a picture of an empty one
    most_beyond: float = 0.15
    sides: int = 60  # points of each side that are given back


SIDES_OF_EMPTY = EmptySettings()


@dataclass(frozen=True)
class Empty:
    """An empty container in a photograph: its shape, rim and base points and both sides (points
    from foot to rim) in full pixels, `height_cm` by the card, None without one.
    """

    shape: ContainerShape
    rim: Point
    base: Point
    left: tuple[Point, ...]
    right: tuple[Point, ...]
    height_cm: float | None


def see_empty(photograph: Photograph) -> Empty:
    """Read the shape of an empty container. Raises NothingFound when none can be made out, or when
    something stands in it.

    The sides of an empty container end where its rim does, so the rim is told by them and by the
    end of the wall.
    """
    lab = cv2.cvtColor(photograph.pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    parts = separate(lab, empty=True)
    profile, wall = parts.profile, parts.wall
    none = (
        "No container was found. Stand it, empty, before a plain wall, all of it in the picture,"
        " and photograph it again."
    )
    if profile is None or wall is None or (profile.worth > 0.3).mean() < SIDES_OF_EMPTY.mirrored:
        raise NothingFound(none)
    try:
        above = np.array([profile.foot[0], profile.rows[-1] - len(profile.half)])
        focal, seen = photograph.focal * max(lab.shape[:2]), seen_of(wall.mask, profile)
        datum = find_datum(seen, foot_of(seen, focal), None, above, focal)
    except NoContainer as error:
        raise NothingFound(none) from error
    top = float(len(profile.half) - 1)
    rim = float(np.dot(np.subtract(datum.rim, profile.foot), datum.up))
    if abs(rim / top - 1) < SIDES_OF_EMPTY.faded:
        # A side fades towards its end, and the back of the rim is wall, too: the one errs downward,
        # the other upward.
        top = (top + rim) / 2
    base = max(0.0, float(np.dot(np.subtract(datum.base, profile.foot), datum.up)))
    if top - base < 12:
        raise NothingFound(none)
    rows = np.arange(len(lab))[:, None]
    grown = parts.labels == 3
    if (grown & (rows < profile.rows[-1])).sum() > SIDES_OF_EMPTY.most_beyond * wall.mask.sum():
        raise NothingFound("There is something above the container. Photograph it empty.")
    back = 1 / photograph.scale
    at = np.linspace(base, top, SIDES_OF_EMPTY.sides)
    half = np.interp(at, np.arange(len(profile.half)), profile.half)
    row = profile.foot[1] - at
    axis = profile.axis_at(row)

    def points(x, y):
        return tuple(
            (round(float(a) * back, 1), round(float(b) * back, 1))
            for a, b in zip(x, y, strict=True)
        )

    card = photograph.card
    high = (top - base) * back * float(np.hypot(1.0, profile.slope))
    return Empty(
        shape=shape_of(profile, base, top, wall.clear),
        rim=points(axis[-1:], row[-1:])[0],
        base=points(axis[:1], row[:1])[0],
        left=points(axis - half, row),
        right=points(axis + half, row),
        height_cm=high / card.px_per_cm if card and card.px_per_cm else None,
    )
