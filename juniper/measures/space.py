"""Space about a piece: the open room that its outline leaves, what hangs below the rim, and whether
the plant's shape takes up the container's.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View


@dataclass(frozen=True)
class SpaceSettings:
    """How open room is looked for.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    cells: int = 96  # across the longer side of what is compared
    # of the container's height under the rim point, from which plant hangs below it and is not only
    # laid over its front lip
    below: float = 0.05
    levels: int = 8  # in which what hangs is compared
    swell: float = 0.15  # of a level: by how much the one below may be broader
    least_hanging: float = 0.03  # of the plant: less that hangs has no flow
    least_open: float = 0.04  # of what the tips span: less open room has no shape


SPACE = SpaceSettings()


def open_space(view: View) -> tuple[float, float, np.ndarray]:
    """The room inside what the tips span (the convex hull over the rim) that the closed outline
    leaves open.

    Returns its share of the whole span, the share of it that lies in one piece (nan where there is
    hardly any), and that piece's outline (k, 2) in photograph pixels.
    """
    along, side = view.place(view.surface.outline)
    if len(along) < 3:
        return float("nan"), float("nan"), np.zeros((0, 2))
    low, left = 0.0, float(side.min())
    scale = (SPACE.cells - 1) / max(float(np.ptp(side)), float(along.max()) - low, 1.0)
    points = np.column_stack(
        [(side - left) * scale, (np.maximum(along, low) - low) * scale]
    ).astype(np.float32)
    size = (int(points[:, 1].max()) + 2, int(points[:, 0].max()) + 2)

    def drawn(polygon) -> np.ndarray:
        return cv2.fillPoly(
            np.zeros(size, np.uint8), [np.round(polygon * 16).astype(np.int32)], 1, shift=4
        )

    span, piece = drawn(cv2.convexHull(points).reshape(-1, 2)), drawn(points)
    # A row of cells along the edge is none of the open room: it is where the polygon was rounded.
    room = cv2.morphologyEx(span & (1 - piece), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    share = float(room.sum() / max(1, span.sum()))
    if share < SPACE.least_open:
        return share, float("nan"), np.zeros((0, 2))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(room)
    chief = 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
    edge, _ = cv2.findContours(
        (labels == chief).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE
    )
    ring = cv2.approxPolyDP(max(edge, key=cv2.contourArea), 1.0, True).reshape(-1, 2)
    places = np.array([view.at(float(y) / scale + low, float(x) / scale + left) for x, y in ring])
    return share, float(stats[chief, cv2.CC_STAT_AREA] / room.sum()), places


def hanging(view: View) -> float:
    """Share of the plant that hangs below the rim, more than over its front lip."""
    return float((view.along < -SPACE.below * view.container_height).mean())


def hangs_to(view: View) -> float:
    """How far the plant's lowest point lies below the rim, over the container's height; 0 where
    nothing hangs.
    """
    along, _ = view.place(view.surface.hull)
    return max(0.0, -float(along.min())) / view.container_height


def hanging_flow(view: View) -> float:
    """Share of the levels below the rim, downward, that are no broader than the one above: 1 for a
    fall that grows narrower all the way; nan where too little hangs.
    """
    along = view.along / view.container_height
    below = along < -SPACE.below
    if below.mean() < SPACE.least_hanging:
        return float("nan")
    levels = np.linspace(-SPACE.below, float(along[below].min()), SPACE.levels + 1)
    which = np.clip(np.searchsorted(-levels, -along[below]) - 1, 0, SPACE.levels - 1)
    # what of each level is plant: twigs that part again are no broader for the room between them
    broad = np.bincount(which, minlength=SPACE.levels).astype(float)
    allowed = (1 + SPACE.swell) * broad[:-1]
    return float((broad[1:] <= allowed).mean())


def echo(view: View) -> float:
    """Overlap (intersection over union) of the plant's outline over the rim with the container's,
    upright or upside down, each stretched to one square; nan where no wall was made out.
    """
    container = view.surface.wall_hull
    if len(container) < 3 or len(view.surface.outline) < 3:
        return float("nan")
    along, side = view.place(view.surface.outline)
    plant = _squared(np.column_stack([side, np.maximum(along, 0.0)]))
    below, across = view.place(container)
    vessel = _squared(np.column_stack([across, below]))
    return max(float((plant & v).sum() / max(1, (plant | v).sum())) for v in (vessel, vessel[::-1]))


def _squared(points: np.ndarray, cells: int = 64) -> np.ndarray:
    """A polygon (k, 2) stretched to a square of cells (bool)."""
    low, reach = points.min(axis=0), np.maximum(np.ptp(points, axis=0), 1e-9)
    scaled = (points - low) / reach * (cells - 1)
    return (
        cv2.fillPoly(
            np.zeros((cells, cells), np.uint8), [np.round(scaled * 16).astype(np.int32)], 1, shift=4
        )
        > 0
    )


def drawn_open(places: np.ndarray) -> tuple[EvidenceMark, ...]:
    """The largest open room, given by the places (m, 2) of its outline."""
    if len(places) < 3:
        return ()
    return (
        EvidenceMark(
            "outline",
            tuple(map(tuple, places.tolist())),
            "open",
            "The largest open space between the tips.",
        ),
    )


def drawn_hanging(view: View) -> tuple[EvidenceMark, ...]:
    """The rim's level carried across, and how far the lowest point lies below it."""
    along, side = view.place(view.surface.hull)
    lowest = float(along.min())
    level = view.at(0.0, float(side.min())), view.at(0.0, float(side.max()))
    marks = [EvidenceMark("dashed", level, "rim", "The level of the rim.")]
    if lowest < 0:
        at = float(side[int(np.argmin(along))])
        marks.append(
            EvidenceMark(
                "bracket",
                (view.at(0.0, at), view.at(lowest, at)),
                "hangs",
                "How far the plant hangs below the rim.",
            )
        )
    return tuple(marks)
