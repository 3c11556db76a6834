"""What lies behind and beneath the piece: flat regions of the picture and their colour carried on.

Backdrops, tables and containers are smooth; flowers and leaves are not. The picture is therefore
first cut into flat regions. Those that are backdrop or table are continued behind the piece by
normalised convolution (Knutsson & Westin 1993), which follows light fall-off and soft shadows,
so that each pixel can be compared with the ground expected behind it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np


@dataclass(frozen=True)
class GroundSettings:
    """How backdrop and table are told apart.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    coarse_side: int = 480  # pixels of the longer side
    smallest_region: float = 0.0012  # of the picture
    steepest: float = 0.08  # as a slope: no hand-held picture of use is rolled further


GROUND_SETTINGS = GroundSettings()


BACKDROP, TABLE, INTERIOR = 0, 1, 2


@dataclass(frozen=True)
class Region:
    """One flat region of the coarse picture (`mask` is bool, coarse height x width)."""

    mask: np.ndarray
    area: int
    box: tuple[int, int, int, int]
    centre: tuple[float, float]
    lab: np.ndarray
    kind: int


@dataclass(frozen=True)
class Ground:
    """The flat regions of a picture and the line where the table meets the backdrop."""

    lab: np.ndarray
    regions: tuple[Region, ...]
    rough: np.ndarray
    horizon: np.ndarray
    found_table: bool


def gradient(lab: np.ndarray) -> np.ndarray:
    """Largest channel gradient, CIELAB units per pixel; float32 (h, w)."""
    smooth = cv2.GaussianBlur(lab, (0, 0), 0.8)
    dx = cv2.Sobel(smooth, cv2.CV_32F, 1, 0, scale=0.125)
    dy = cv2.Sobel(smooth, cv2.CV_32F, 0, 1, scale=0.125)
    light, a, b = cv2.split(cv2.magnitude(dx, dy))
    return cv2.max(cv2.max(light, a), b)


def coarse(lab: np.ndarray, side: int = GROUND_SETTINGS.coarse_side) -> np.ndarray:
    """The Lab picture (h, w, 3) shrunk to `side` pixels on its longer edge (never enlarged)."""
    scale = min(1.0, side / max(lab.shape[:2]))
    return cv2.resize(lab, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)


def read_ground(lab: np.ndarray) -> Ground:
    """Cut a CIELAB picture (float32 h x w x 3) into flat regions and tell backdrop from table.

    The threshold of flatness follows the picture's own grain. A region on the upper edge or the
    sides is backdrop; on the lower edge, table; side regions between go to the nearer colour.
    """
    small = coarse(lab)
    steep = gradient(small)
    limit = float(np.clip(1.8 * np.percentile(steep, 40), 0.9, 3.0))
    ground = _ground_below(small, steep, limit)
    for _ in range(3):
        if not _climbs(ground):
            break
        limit *= 0.7
        ground = _ground_below(small, steep, limit)
    return ground


def _climbs(ground: Ground) -> bool:
    """Whether a table region runs up past the table's far edge: a pale container leaking into
    it.
    """
    height, width = ground.rough.shape
    rows = np.arange(height)[:, None]
    above = rows < ground.horizon[None, :] - 0.04 * height
    return any(
        r.kind == TABLE
        and (r.mask & above)[:, width // 8 : -width // 8].sum() > 0.004 * r.mask.size
        for r in ground.regions
    )


def _ground_below(small: np.ndarray, steep: np.ndarray, limit: float) -> Ground:
    height, width = small.shape[:2]
    flat = (steep < limit).astype(np.uint8)
    count, labels, stats, centres = cv2.connectedComponentsWithStats(flat, connectivity=4)
    keep = [
        i for i in range(1, count) if stats[i, 4] >= GROUND_SETTINGS.smallest_region * flat.size
    ]

    raw = []
    for index in keep:
        mask = labels == index
        x, y, w, h, area = (int(v) for v in stats[index])
        raw.append(
            (
                mask,
                area,
                (x, y, x + w, y + h),
                tuple(centres[index]),
                np.median(small[mask], axis=0),
            )
        )

    bottom = [r for r in raw if r[2][3] >= height - 2 and r[2][1] > 0.25 * height]
    top = [r for r in raw if r[2][1] <= 1]
    table_lab = _mean_lab(bottom)
    regions = []
    for mask, area, box, centre, colour in raw:
        kind = INTERIOR
        on_side = box[0] <= 1 or box[2] >= width - 2
        if box[3] >= height - 2 and box[1] > 0.25 * height:
            kind = TABLE
        elif box[1] <= 1:
            kind = BACKDROP
        elif on_side:
            kind = BACKDROP
            if table_lab is not None and centre[1] > 0.5 * height:
                to_table = np.linalg.norm((colour - table_lab)[1:]) + 0.3 * abs(
                    colour[0] - table_lab[0]
                )
                others = [t[4] for t in top] or [np.array([128.0, 0, 0])]
                to_back = min(
                    np.linalg.norm((colour - o)[1:]) + 0.3 * abs(colour[0] - o[0]) for o in others
                )
                if to_table < to_back:
                    kind = TABLE
        regions.append(Region(mask, area, box, (float(centre[0]), float(centre[1])), colour, kind))
    horizon = _horizon(regions, height, width)
    regions = [
        (
            replace(r, kind=TABLE)
            if r.kind == BACKDROP and r.box[1] > horizon[int(r.centre[0])] - 0.02 * height
            else r
        )
        for r in regions
    ]
    return Ground(small, tuple(regions), flat == 0, horizon, table_lab is not None)


def _mean_lab(rows: list) -> np.ndarray | None:
    if not rows:
        return None
    weights = np.array([r[1] for r in rows], float)
    return (np.array([r[4] for r in rows]) * weights[:, None]).sum(0) / weights.sum()


def _horizon(regions: list[Region], height: int, width: int) -> np.ndarray:
    """Row of the table's far edge for each column, from the table's upper edge near both sides."""
    table = np.zeros((height, width), bool)
    for region in regions:
        if region.kind == TABLE:
            table |= region.mask
    ends = []
    band = max(3, width // 12)
    for columns in (slice(0, band), slice(width - band, width)):
        part = table[:, columns]
        tops = np.argmax(part, axis=0)[part.any(axis=0)]
        ends.append(float(np.median(tops)) if len(tops) else np.nan)
    if np.isnan(ends).all():
        return np.full(width, 0.8 * height, np.float32)
    left, right = (e if not np.isnan(e) else float(np.nanmean(ends)) for e in ends)
    if (
        abs(right - left) > GROUND_SETTINGS.steepest * width
    ):  # one side shows something else: trust the higher
        left = right = min(left, right)
    return np.linspace(left, right, width, dtype=np.float32)


def plate(lab: np.ndarray, mask: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The colour of `mask` carried on beyond its edge: (plate h x w x 3, reach h x w in pixels).

    Fine detail where the region is near, coarser the further away; `reach` is the distance to
    the region's nearest pixel.
    """
    solid = cv2.erode(mask.astype(np.uint8), np.ones((3, 3), np.uint8))
    if solid.sum() < 20:
        solid = mask.astype(np.uint8)
    reach = cv2.distanceTransform(1 - solid, cv2.DIST_L2, 3)
    solid = solid.astype(np.float32)
    # Colour and weight side by side; each level is made from the one above it and added to it again
    # on the way back.
    stack = cv2.merge([*(plane * solid for plane in cv2.split(lab)), solid])
    levels, was = [], 1
    for sigma in (4.0, 16.0, 64.0):
        step = int(sigma / 2)
        size = (
            max(1, round(stack.shape[1] * was / step)),
            max(1, round(stack.shape[0] * was / step)),
        )
        stack, was = cv2.resize(stack, size, interpolation=cv2.INTER_AREA), step
        levels.append(cv2.GaussianBlur(stack, (0, 0), sigma / step))
    total = levels[-1]
    for finer in levels[-2::-1]:
        total = finer + np.float32(1e-2) * cv2.resize(
            total, (finer.shape[1], finer.shape[0]), interpolation=cv2.INTER_LINEAR
        )
    total = cv2.resize(total, (mask.shape[1], mask.shape[0]), interpolation=cv2.INTER_LINEAR)
    tiny = 1e-9
    *sums, weight = cv2.split(total)
    mean = cv2.mean(lab, mask.astype(np.uint8))
    out = cv2.merge(
        [
            (plane + np.float32(tiny * value)) / (weight + np.float32(tiny))
            for plane, value in zip(sums, mean, strict=False)
        ]
    )
    return out, reach
