"""Line, space and finish as far as an outline shows them: fill, gaps, rim cover, twin tips."""

from __future__ import annotations

import cv2
import numpy as np

from juniper.measures.finding import Mark
from juniper.measures.surface import View
from juniper.scene.separation import PLANT

TWIN_LEVEL = 0.04
STANDS_CLEAR = 0.08


def rim_cover(view: View, samples: int = 160) -> float:
    """Share of the rim line, end to end, on or just below which plant shows."""
    labels, scale = view.surface.labels, view.surface.scale
    left, right = np.asarray(view.datum.rim_left), np.asarray(view.datum.rim_right)
    steps = np.linspace(0.01, 0.99, samples)[:, None]
    line = left + steps * (right - left)
    covered = np.zeros(samples, bool)
    depth = max(2.0, 0.03 * view.datum.height)
    for drop in (0.0, 0.5 * depth, depth):
        points = np.round((line - drop * view.datum.up) * scale - 0.5).astype(int)
        x = np.clip(points[:, 0], 0, labels.shape[1] - 1)
        y = np.clip(points[:, 1], 0, labels.shape[0] - 1)
        covered |= labels[y, x] == PLANT
    return float(covered.mean())


def twin_tips(view: View) -> list[tuple[tuple[float, float, float], tuple[float, float, float]]]:
    """Pairs of tips at one height (within .04 of plant height), one each side of the axis, both in
    the upper third and standing clear of the rest: the named fault."""
    height = view.plant_height
    high = [t for t in view.tips if t[0] > 0.67 * height and t[2] > STANDS_CLEAR * height]
    pairs = []
    for i, one in enumerate(high):
        for other in high[i + 1 :]:
            apart = abs(one[1] - other[1]) > 0.08 * view.plant_width
            between = sorted((one[1], other[1]))
            if any(t[0] > one[0] + TWIN_LEVEL * height and between[0] < t[1] < between[1] for t in high):
                continue  # a taller one stands between them: shoulders, not twins
            if one[1] * other[1] < 0 and abs(one[0] - other[0]) < TWIN_LEVEL * height and apart:
                pairs.append((one, other))
    return pairs


def drawn_gap(view: View) -> tuple[Mark, ...]:
    """The largest gap, outlined."""
    if len(view.surface.hole_outline) < 3:
        return ()
    edge = cv2.approxPolyDP(view.surface.hole_outline.astype(np.float32), 2.0, True).reshape(-1, 2)
    return (Mark("outline", tuple(map(tuple, edge.astype(float))), "gap", "The largest gap in the outline."),)


def drawn_twins(view: View) -> tuple[Mark, ...]:
    """Each pair of twin tips, joined at their height."""
    out = []
    for one, other in twin_tips(view):
        ends = view.at(one[0], one[1]), view.at(other[0], other[1])
        out.append(Mark("dashed", ends, "twin tips", "Two tips of one height, one each side."))
    return tuple(out)


def drawn_outline(view: View) -> tuple[Mark, ...]:
    """The plant's closed outline."""
    return (Mark("outline", tuple(map(tuple, view.surface.outline.astype(float))), "", "The outline of the plant."),)
