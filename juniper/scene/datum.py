"""The datum: the container's axis, base point, rim point and rim ends.

All measures rest on it (handbook of the trade, "The datum"). Points are pixels of the upright
photograph, x right, y down. `uncertainty` is one standard deviation, in the same pixels.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from juniper.scene.separation import CONTAINER, PLANT

Point = tuple[float, float]
NEEDS_CHECK_BELOW = 0.6
STEEPEST_VIEW = 0.22  # foot ellipse, short to long axis, of a camera held at the height of the flowers


@dataclass(frozen=True)
class Spread:
    """Standard uncertainties of the datum in pixels: along the axis at rim and base, across it."""

    rim: float = 2.0
    base: float = 2.0
    across: float = 2.0


@dataclass(frozen=True)
class Datum:
    """Where the container stands in the picture.

    `source` is "automatic" or "given"; `confidence` 0..1; `doubts` says in words what made it low.
    """

    rim: Point
    base: Point
    rim_left: Point
    rim_right: Point
    source: str = "automatic"
    confidence: float = 1.0
    spread: Spread = field(default_factory=Spread)
    doubts: tuple[str, ...] = ()

    @property
    def needs_check(self) -> bool:
        """Whether the datum should not be trusted unseen."""
        return self.source == "automatic" and self.confidence < NEEDS_CHECK_BELOW

    @property
    def height(self) -> float:
        """Container height, base point to rim point, pixels."""
        return float(np.hypot(self.rim[0] - self.base[0], self.rim[1] - self.base[1]))

    @property
    def rim_width(self) -> float:
        """Distance of the rim ends, pixels."""
        return float(np.hypot(self.rim_right[0] - self.rim_left[0], self.rim_right[1] - self.rim_left[1]))

    @property
    def up(self) -> np.ndarray:
        """Unit vector from base to rim."""
        step = np.subtract(self.rim, self.base)
        length = np.hypot(*step)
        return step / length if length > 0 else np.array([0.0, -1.0])

    @property
    def right(self) -> np.ndarray:
        """Unit vector across the axis, to the viewer's right."""
        up = self.up
        return np.array([-up[1], up[0]])

    def scaled(self, factor: float) -> Datum:
        """The same datum in a picture enlarged by `factor`."""
        points = {
            name: tuple(float(v) * factor for v in getattr(self, name)) for name in ("rim", "base", "rim_left", "rim_right")
        }
        spread = Spread(*(getattr(self.spread, n) * factor for n in ("rim", "base", "across")))
        return replace(self, **points, spread=spread)

    def moved(self, **points: Point) -> Datum:
        """This datum with points put by hand; what a hand has put is known to about two pixels in a
        thousand of the container's height."""
        new = replace(self, **{k: (float(v[0]), float(v[1])) for k, v in points.items()}, source="given")
        hand = max(1.0, 0.004 * new.height)
        spread = replace(
            self.spread,
            rim=hand if "rim" in points else self.spread.rim,
            base=hand if "base" in points else self.spread.base,
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
        raise ValueError("Rim and base lie on one another: drag them apart.")
    if datum.rim_width < 2:
        raise ValueError("The two rim ends lie on one another: drag them apart.")
    hand = max(1.0, 0.004 * datum.height)
    return replace(datum, spread=Spread(hand, hand, hand))


def find_datum(labels: np.ndarray, solid_wall: bool, horizon: np.ndarray | None = None) -> Datum:
    """Datum of the container in a label raster (uint8 h x w); `solid_wall` tells whether a flat
    wall was seen, `horizon` the row of the table's far edge by column. Raises NoContainer when there is nothing to measure from.

    Axis: robust line through the middles of the wall, row by row, held towards upright where the
    wall is short. Rim: the highest level at which an eighth of the wall still shows. Base: the
    lower edge read as half an ellipse, whose middle is the axis at table level.
    """
    wall = labels == CONTAINER
    if wall.sum() < 0.0004 * wall.size:
        raise NoContainer("No container can be made out.")
    rows = np.flatnonzero(wall.any(axis=1))
    left, right = _sides(wall)
    width = np.nanpercentile(right - left, 95)
    level, trust = 0.0, 0.15
    if horizon is not None and np.isfinite(horizon).all():
        level, trust = float(horizon[-1] - horizon[0]) / max(1, len(horizon) - 1), 0.45
    slope, middle, crooked = _axis(left, right, rows, width, -level, trust)

    ys, xs = np.nonzero(wall)
    up = np.array([-slope, -1.0]) / np.hypot(slope, 1.0)
    across = np.array([-up[1], up[0]])
    foot_row = float(rows[-1])
    origin = np.array([middle + slope * foot_row, foot_row])
    along = (xs - origin[0]) * up[0] + (ys - origin[1]) * up[1]
    side = (xs - origin[0]) * across[0] + (ys - origin[1]) * across[1]

    rim_level, rim_half, shown = _rim(along, side, width)
    base_level, arc, straight = _base(along, side)
    rim = origin + rim_level * up
    base = origin + base_level * up
    height = rim_level - base_level
    if height < 4:
        raise NoContainer("No container can be made out.")
    doubts = []
    confidence = 1.0
    if not solid_wall:
        confidence *= 0.45
        doubts.append("no plain container wall was seen; it may be glass or much covered")
    if shown < 0.25:
        confidence *= 0.35 + 0.9 * shown
        doubts.append("the rim is hidden")
    if straight and width > 1.6 * height:
        confidence *= 0.5
        doubts.append("a shallow vessel with a straight front: how deep it is cannot be seen from here")
    if height > 3.2 * width or height < 0.08 * width:
        confidence *= 0.5
        doubts.append("the container's shape is unusual")
    if _overgrown(labels, wall, rim):
        confidence *= 0.6
        doubts.append("plant and container are hard to tell apart")
    if horizon is not None:
        far_edge = float(horizon[int(np.clip(base[0], 0, len(horizon) - 1))])
        if base[1] < far_edge + 0.01 * len(labels):
            confidence *= 0.4
            doubts.append("the foot was not followed down to the table")
    if crooked > 0.3:
        confidence *= 0.55
        doubts.append("the two sides do not mirror one another")
    small = height < 0.06 * max(labels.shape)
    if small and not straight:
        confidence *= 0.7
        doubts.append("the container is small in the picture")
    hidden = 1 - min(1.0, shown / 0.6)
    doubt = 0.25 * max(0.0, NEEDS_CHECK_BELOW - confidence) * height
    spread = Spread(
        rim=1.2 + (0.008 + 0.05 * hidden) * height + doubt,
        base=1.2 + 0.006 * height + 0.35 * arc + doubt + (0.12 * height if straight and width > 1.6 * height else 0),
        across=1.0 + 0.01 * width,
    )
    return Datum(
        tuple(map(float, rim)),
        tuple(map(float, base)),
        tuple(map(float, rim - rim_half * across)),
        tuple(map(float, rim + rim_half * across)),
        confidence=float(np.clip(confidence, 0.02, 1)),
        spread=spread,
        doubts=tuple(doubts),
    )


def _sides(wall: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """First and one-past-last wall column of each row (NaN where empty), without thin handles."""
    breadth = int(0.15 * np.percentile(wall.sum(axis=1)[wall.any(axis=1)], 90)) | 1
    kernel = np.ones((1, max(3, breadth)), np.uint8)
    body = cv2.morphologyEx(wall.astype(np.uint8), cv2.MORPH_OPEN, kernel) > 0
    body |= wall & ~body.any(axis=1)[:, None]
    columns = np.arange(wall.shape[1])
    some = body.any(axis=1)
    left = np.where(some, np.argmax(body, axis=1), np.nan).astype(float)
    right = np.where(some, columns[-1] - np.argmax(body[:, ::-1], axis=1) + 1, np.nan).astype(float)
    return left, right


def _axis(left, right, rows, width, upright, trust) -> tuple[float, float, float]:
    """Slope (columns per row, downward), column at row 0 of the axis, share of rows that disagree."""
    y = rows.astype(float)
    mid = (left[rows] + right[rows] - 1) / 2
    wide = right[rows] - left[rows]
    # Leaves over the wall narrow it on one side: such rows, and the leafiest below the rim, say
    # little of the axis.
    reach = max(3, len(rows) // 10) | 1
    around = cv2.dilate(np.nan_to_num(wide).astype(np.float32)[:, None], np.ones((reach, 1), np.uint8))[:, 0]
    good = np.isfinite(mid) & (wide > 0.9 * around)
    if len(rows) > 40:
        good[: len(rows) // 8] = False
    if good.sum() < 8:
        good = np.isfinite(mid)
    y, mid = y[good], mid[good]
    weight = np.ones_like(y)
    slope, centre = 0.0, float(np.median(mid))
    y_mean = y.mean()
    for _ in range(12):
        total = weight.sum()
        ym = (weight * y).sum() / total
        mm = (weight * mid).sum() / total
        # A short wall is held towards the upright that the table's far edge gives, if it was seen.
        held = total * (trust * width) ** 2
        syy = (weight * (y - ym) ** 2).sum() + held
        slope = float(((weight * (y - ym) * (mid - mm)).sum() + held * upright) / syy)
        centre = float(mm - slope * (ym - y_mean))
        residual = np.abs(mid - centre - slope * (y - y_mean))
        scale = max(1.0, 1.4826 * float(np.median(residual)))
        weight = 1.0 / (1.0 + (residual / (1.5 * scale)) ** 2)
    slope = float(np.clip(slope, -0.12, 0.12))
    crooked = float((np.abs(mid - centre - slope * (y - y_mean)) > 0.05 * width).mean())
    return slope, centre - slope * y_mean, crooked


def _rim(along, side, width) -> tuple[float, float, float]:
    """Level of the rim, its half width, and the share of the rim line at which wall shows."""
    levels = np.round(along).astype(int)
    low = levels.min()
    count = np.bincount(levels - low)
    enough = np.flatnonzero(count >= 0.12 * width)
    if len(enough) == 0:
        enough = np.flatnonzero(count > 0)
    top = float(enough[-1] + low) + 0.5
    height = top - low
    near = (along >= top - max(1.0, 0.12 * height)) & (along <= top)
    if not near.any():
        raise NoContainer("No container can be made out.")
    bins = np.round(along[near]).astype(int)
    ends = []
    for sign in (-1, 1):
        extreme = [(b, np.percentile(sign * side[near][bins == b], 99.5)) for b in np.unique(bins)]
        level, reach = np.array(extreme, float).T
        ends.append((level, reach))
    half = max(np.percentile(e[1], 85) for e in ends) + 0.5
    # Where leaves hide the ends, the sides below them are carried up in a straight line.
    for sign in (-1, 1):
        part = (along > top - 0.5 * height) & (along < top - 0.12 * height)
        levels_seen = np.round(along[part]).astype(int)
        if len(levels_seen) < 20:
            continue
        first = levels_seen.min()
        reach = np.full(levels_seen.max() - first + 1, -np.inf)
        np.maximum.at(reach, levels_seen - first, sign * side[part])
        at = np.arange(len(reach)) + first
        fine = np.isfinite(reach)
        if fine.sum() < 6:
            continue
        slope, offset = np.polyfit(at[fine], reach[fine], 1)
        if slope > -0.6:
            half = max(half, 0.5 * half + 0.5 * (slope * top + offset))
    # A neck that widens to its lip shows least wall there: never let the rim be wider than seen.
    half = min(half, width * 0.75)
    at_rim = (along > top - max(3.0, 0.03 * height)) & (np.abs(side) <= half)
    seen = len(np.unique(np.round(side[at_rim]).astype(int)))
    shown = min(1.0, seen / max(2 * half, 1.0))
    return top, float(half), float(shown)


def _base(along, side) -> tuple[float, float, bool]:
    """Level of the axis at table height, the depth of the lower edge's arc, and whether that edge
    is straight. The lower edge of a round foot is half an ellipse whose ends lie at the middle."""
    columns = np.round(side).astype(int)
    low = columns.min()
    edge = np.full(columns.max() - low + 1, np.inf)
    np.minimum.at(edge, columns - low, along)
    x = np.arange(len(edge)) + low
    bottom = np.percentile(edge[np.isfinite(edge)], 2)
    height = along.max() - bottom
    foot = np.isfinite(edge) & (edge < bottom + 0.06 * height)
    if foot.sum() < 6:
        return float(bottom), 0.0, False
    reach = max(3.0, float(np.percentile(np.abs(x[foot]), 96)))
    inner = foot & (np.abs(x) < 0.93 * reach)
    if inner.sum() < 6:
        return float(bottom), 0.0, False
    u = x[inner] / reach
    shape = np.sqrt(np.clip(1 - u * u, 0, 1))
    design = np.stack([np.ones_like(u), u, -shape], axis=1)
    weight = np.ones(len(u))
    target = edge[inner]
    for _ in range(6):
        solved, *_ = np.linalg.lstsq(design * weight[:, None], target * weight, rcond=None)
        residual = np.abs(design @ solved - target)
        weight = np.sqrt(1 / (1 + (residual / max(1.0, 1.5 * np.median(residual))) ** 2))
    depth = float(np.clip(solved[2], 0, STEEPEST_VIEW * reach))
    straight = depth < 0.03 * reach
    middle = inner & (np.abs(x) < 0.5 * reach)
    front = float(np.percentile(edge[middle], 25)) if middle.any() else float(bottom)
    if straight:
        # A straight front edge: the axis stands half the vessel's depth behind it. A camera at
        # rim height looks down on the table by about 0.08; depth is taken as 0.7 of the width.
        depth = 0.08 * 0.7 * reach
    return front + depth, depth, straight


def _overgrown(labels, wall, rim) -> bool:
    """Much plant inside the wall's own outline below the rim: separation has probably slipped."""
    rows, columns = np.nonzero(wall)
    inside = labels[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1]
    below = inside[int(max(0, rim[1] - rows.min() + 0.35 * len(inside))) :]
    return below.size > 0 and float((below == PLANT).mean()) > 0.2
