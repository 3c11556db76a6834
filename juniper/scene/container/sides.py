"""The container's sides from what is seen of its wall: an axis about which they mirror one another,
and half widths along it.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.container.profile import Profile


@dataclass(frozen=True)
class SidesSettings:
    """How sides are read."""

    # half widths: middles that lie further off the axis count less and less (Cauchy weights)
    loose: float = 0.06
    held: float = 0.5  # container widths: how firmly the axis is held to the one that is expected
    # half widths: how far both sides of a level may differ and still be followed
    even: float = 0.12
    # slope of axes in pictures that people take, one standard deviation: two degrees (common
    # practice)
    upright: float = 0.035
    # of the container's height: how far a keypoint lies aside beside its map's spread
    point: float = 0.02
    fewest: int = 10  # levels without which there are no sides


SIDES = SidesSettings()


def expected_slope(
    base: np.ndarray, rim: np.ndarray, spread: float, settings: SidesSettings = SIDES
) -> float:
    """Slope of the axis (columns per row downward) by its base and rim points (x, y), whose
    distance aside is uncertain by `spread` pixels, weighed with an upright picture: of a low vessel
    the two points say little.
    """
    high = max(1.0, float(base[1] - rim[1]))
    own = (spread / high) ** 2 + settings.point**2
    return float(base[0] - rim[0]) / high * settings.upright**2 / (settings.upright**2 + own)


def chief_part(wall: np.ndarray, at: np.ndarray) -> np.ndarray:
    """The parts of a wall (bool h x w) that belong to one container: that on which most of some
    points (n, 2) lie, or else the largest, and what lies within its columns, since leaves may hang
    across.
    """
    count, parts, stats, _ = cv2.connectedComponentsWithStats(wall.astype(np.uint8), connectivity=8)
    if count < 2:
        return wall
    size = stats[:, cv2.CC_STAT_AREA].astype(float)
    size[0] = 0
    xy = np.clip(np.round(at).astype(int), 0, np.array(wall.shape[::-1]) - 1)
    hits = np.bincount(parts[xy[:, 1], xy[:, 0]], minlength=count)
    hits[0] = 0
    main = int((hits * size).argmax()) if hits.any() else int(size.argmax())
    left, wide = stats[main, cv2.CC_STAT_LEFT], stats[main, cv2.CC_STAT_WIDTH]
    middle = stats[:, cv2.CC_STAT_LEFT] + stats[:, cv2.CC_STAT_WIDTH] / 2
    near = (middle >= left) & (middle <= left + wide) & (size > 0.01 * size[main])
    near[0] = False
    return near[parts]


def sides_of(
    wall: np.ndarray, axis: tuple[float, float, float], settings: SidesSettings = SIDES
) -> Profile | None:
    """Sides of a container's wall (bool h x w); None where too little shows. `axis` is the one
    expected: a point (x, y) and its slope, columns per row downward.

    At each level the half width is that of the further side, since leaves only hide; `worth` is 1
    where both sides agree, else 0.
    """
    rows = np.flatnonzero(wall.any(axis=1))
    if len(rows) < settings.fewest:
        return None
    left = wall[rows].argmax(axis=1).astype(float)
    right = wall.shape[1] - 1.0 - wall[rows, ::-1].argmax(axis=1)
    middle, half = (left + right) / 2, (right - left + 1) / 2
    x, y, slope = axis
    wide = float(np.median(half))
    for _ in range(8):
        miss = (middle - x - slope * (rows - y)) / max(1.0, settings.loose * wide)
        weight = half / (1 + miss**2)
        total = weight.sum()
        ym, mm = float(weight @ rows) / total, float(weight @ middle) / total
        firm = total * (settings.held * 2 * wide) ** 2
        slope = (float(weight @ ((rows - ym) * (middle - mm))) + firm * axis[2]) / (
            float(weight @ (rows - ym) ** 2) + firm
        )
        x, y = mm, ym
    at = x + slope * (rows - y)
    to_left, to_right = at - left + 0.5, right - at + 0.5
    further = np.maximum(np.maximum(to_left, to_right), 1.0)
    even = np.abs(to_left - to_right) < settings.even * 2 * further
    low = float(rows[-1])
    levels = np.arange(low, rows[0] - 0.5, -1.0)
    half = np.interp(levels, rows, further)
    worth = np.interp(levels, rows, even.astype(float))
    return Profile(
        (float(x + slope * (low - y)), low), float(slope), half, worth, float(worth.sum())
    )
