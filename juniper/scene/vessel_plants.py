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
    scale = min(1.0, settings.longest / max(height, width))
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    plant = cv2.resize(
        (labels == Label.PLANT).astype(np.float32), size, interpolation=cv2.INTER_AREA
    )
    wall = cv2.resize(
        (labels == Label.CONTAINER).astype(np.float32), size, interpolation=cv2.INTER_AREA
    )
    costs = np.where(plant > 0.12, 1.0, np.where(wall > 0.5, settings.wall, settings.gap))
    starts = [_mouth(d.scaled(scale), size, settings) for d in datums]
    ours = _nearest(costs, starts, settings)
    full = cv2.resize(ours, (width, height), interpolation=cv2.INTER_NEAREST)
    return np.where(labels == Label.PLANT, full, 0).astype(np.uint8)


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
    costs: np.ndarray, starts: list[np.ndarray], settings: BelongingSettings
) -> np.ndarray:
    """For each cell of `costs` (h, w) the number, from 1, of the start that is nearest by way."""
    high, wide = costs.shape
    number = np.arange(high * wide).reshape(high, wide)
    rows, columns, steps = [], [], []
    for dy, dx in ((0, 1), (0, -1), (-1, 0), (1, 0), (-1, 1), (-1, -1), (1, 1), (1, -1)):
        here = np.s_[max(0, -dy) : high - max(0, dy), max(0, -dx) : wide - max(0, dx)]
        there = np.s_[max(0, dy) : high + min(0, dy), max(0, dx) : wide + min(0, dx)]
        length = np.hypot(dy, dx) * (settings.down if dy > 0 else 1.0)
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
    _, _, sources = dijkstra(graph, indices=begin, min_only=True, return_predecessors=True)
    return owner[np.maximum(sources, 0)].reshape(high, wide).astype(np.uint8)
