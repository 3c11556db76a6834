"""Which vessel of a composition each bit of plant stands in: the one from whose rim it is reached
by the shortest way through plant (geodesic distance; Dijkstra 1959, by scipy).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra

from juniper.scene.container.datum import Datum
from juniper.scene.parts import Label
from juniper.scene.vessels import Vessel
from juniper.values import Point, point


@dataclass(frozen=True)
class BelongingSettings:
    """How plant is followed from the rims. Where no source is named: by trial on traced groups."""

    longest: int = 260  # cells of the longer side that the way is looked for in
    # what a step costs over a gap in the plant, where a thin stem was missed, in steps through it
    gap: float = 9.0
    # the same over a vessel's wall or glass, where stems run on out of sight
    wall: float = 3.0
    # what a step downward costs more than one upward or aside: stems rise from their rim
    down: float = 2.5
    # of the rim's width: how far over and under it plant springs from the vessel
    mouth: float = 0.25
    # of the vessel's size: gaps on the way, all together, beyond which a patch is none of it. Of
    # 300 patches of plant on 48 pictures of compositions 298 lie within .4
    apart: float = 0.4
    # of the square of that gap: a patch of less is a speck of the wall behind. Of 300 patches of
    # plant on 48 pictures 291 are as large, of 41 others within reach 27
    large: float = 0.5
    through: float = 0.3  # what a step over a vessel's wall counts of a gap: stems run on behind it
    least: float = 0.12  # plant's share of a cell, from which it is plant


BELONGING = BelongingSettings()


def vessel_of_plant(
    labels: np.ndarray, datums: tuple[Datum, ...], settings: BelongingSettings = BELONGING
) -> np.ndarray:
    """The number of the vessel, from 1 in the order of `datums`, that each plant pixel stands in;
    0 where there is no plant. `labels` (h, w) of Label; `datums` in its pixels.
    """
    height, width = labels.shape
    if not datums:
        return np.zeros(labels.shape, np.uint8)
    plant, wall, scale = _coarse(labels, settings)
    costs = np.where(plant, 1.0, np.where(wall, settings.wall, settings.gap))
    ours, _ = _nearest(costs, _mouths(datums, scale, plant.shape, settings), settings.down)
    full = cv2.resize(ours, (width, height), interpolation=cv2.INTER_NEAREST)
    return np.where(labels == Label.PLANT, full, 0).astype(np.uint8)


def of_the_vessels(
    labels: np.ndarray, datums: tuple[Datum, ...], settings: BelongingSettings = BELONGING
) -> np.ndarray:
    """The plant (bool h x w) that hangs together with a vessel but for small gaps: what grows or
    hangs in the room behind, or is printed on its wall, is none of the composition. `labels` (h, w)
    of Label; `datums` in its pixels.
    """
    plant, wall, scale = _coarse(labels, settings)
    costs = np.where(plant, 0.0, np.where(wall, settings.through, 1.0))
    # a way of no cost is none to the search
    whose, gap = _nearest(costs + 1e-4, _mouths(datums, scale, plant.shape, settings), 1.0)
    size = np.array([0.0] + [max(d.height, d.rim_width / 2) * scale for d in datums])
    count, patches, stats, _ = cv2.connectedComponentsWithStats(plant.astype(np.uint8))
    kept = np.zeros(plant.shape, bool)
    for k in range(1, count):
        patch = patches == k
        gaps = np.where(patch, gap, np.inf)
        nearest = np.unravel_index(gaps.argmin(), gaps.shape)
        reach = settings.apart * size[whose[nearest]]
        large = stats[k, cv2.CC_STAT_AREA] >= settings.large * gap[nearest] ** 2
        kept |= patch & bool(gap[nearest] <= reach and large)
    full = cv2.resize(kept.astype(np.uint8), labels.shape[::-1], interpolation=cv2.INTER_NEAREST)
    return cv2.dilate(full, np.ones((3, 3), np.uint8)).astype(bool) & (labels == Label.PLANT)


def _coarse(
    labels: np.ndarray, settings: BelongingSettings
) -> tuple[np.ndarray, np.ndarray, float]:
    """Plant and wall (bool) in cells in which ways are looked for, and their size over pixels'."""
    height, width = labels.shape
    scale = min(1.0, settings.longest / max(height, width))
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    plant, wall = (
        cv2.resize((labels == which).astype(np.float32), size, interpolation=cv2.INTER_AREA)
        for which in (Label.PLANT, Label.CONTAINER)
    )
    return plant > settings.least, wall > 0.5, scale


def tops_of(
    owner: np.ndarray, vessels: tuple[Vessel, ...], scale: float = 1.0
) -> tuple[Point | None, ...]:
    """The highest point of the plant in each vessel, in the vessels' pixels; None where nothing
    stands in it. `owner` (h, w) has the number of its vessel for each plant pixel, `scale` its size
    over that of the vessels' pixels.
    """
    out: list[Point | None] = []
    for n, vessel in enumerate(vessels, 1):
        ys, xs = np.nonzero(owner == n)
        if not len(ys):
            out.append(None)
            continue
        at = (np.column_stack([xs, ys]) + 0.5) / scale
        along = (at - np.array(vessel.datum.base)) @ vessel.datum.up
        out.append(point(at[int(along.argmax())]))
    return tuple(out)


def _mouths(
    datums: tuple[Datum, ...], scale: float, shape: tuple[int, int], settings: BelongingSettings
) -> list[np.ndarray]:
    """For each vessel the cells (n,) of a `shape` (h, w) from which its plant springs."""
    return [_mouth(d.scaled(scale), (shape[1], shape[0]), settings) for d in datums]


def _mouth(datum: Datum, size: tuple[int, int], settings: BelongingSettings) -> np.ndarray:
    """Cells (n,) from which plant springs: those along the rim line of a vessel."""
    left, right = (np.array(p) for p in (datum.rim_left, datum.rim_right))
    up = settings.mouth * datum.rim_width * datum.up
    at = np.array(
        [
            left + (right - left) * across + up * level
            for across in np.linspace(0.05, 0.95, 9)
            for level in (-0.5, 0.0, 1.0)
        ]
    )
    cells = np.clip(np.round(at).astype(int), 0, np.array(size) - 1)
    return np.unique(cells[:, 1] * size[0] + cells[:, 0])


def _nearest(
    costs: np.ndarray, starts: list[np.ndarray], down: float
) -> tuple[np.ndarray, np.ndarray]:
    """For each cell of `costs` (h, w) the number, from 1, of the start that is nearest by way, and
    how far it is; a step downward counts `down` times.
    """
    high, wide = costs.shape
    number = np.arange(high * wide).reshape(high, wide)
    rows, columns, steps = [], [], []
    for dy, dx in ((0, 1), (0, -1), (-1, 0), (1, 0), (-1, 1), (-1, -1), (1, 1), (1, -1)):
        here = np.s_[max(0, -dy) : high - max(0, dy), max(0, -dx) : wide - max(0, dx)]
        there = np.s_[max(0, dy) : high + min(0, dy), max(0, dx) : wide + min(0, dx)]
        length = np.hypot(dy, dx) * (down if dy > 0 else 1.0)
        rows.append(number[here].ravel())
        columns.append(number[there].ravel())
        steps.append((length * (costs[here] + costs[there]) / 2).ravel())
    graph = coo_matrix(
        (np.concatenate(steps), (np.concatenate(rows), np.concatenate(columns))),
        shape=(costs.size, costs.size),
    ).tocsr()
    owner = np.zeros(costs.size, int)
    for n, cells in enumerate(starts, 1):
        owner[cells] = n
    begin = np.flatnonzero(owner)
    way, _, sources = dijkstra(graph, indices=begin, min_only=True, return_predecessors=True)
    nearest = owner[np.maximum(sources, 0)].reshape(high, wide).astype(np.uint8)
    return nearest, way.reshape(high, wide)
