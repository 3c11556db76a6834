"""The foot: where the axis meets the table, by the container's lower edge, which is half an ellipse
seen from above.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class FootSettings:
    """What a foot may look like.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    most_open: float = 0.72  # of a foot's ellipse, short to long axis, that is believed
    deep: float = 0.7  # of a box's width, taken as its depth, which one front view hides
    over_rim: float = 0.02  # of the camera's distance: how far above the rim it is usually held
    # of the angle by the shortest usual lens: most pictures are taken from further away with
    # a longer one
    longer: float = 0.5
    # foot ellipse, short to long axis, of a camera held at the height of the flowers
    steepest_view: float = 0.22


FOOT = FootSettings()


def foot_ellipse(along: np.ndarray, side: np.ndarray, height: float) -> tuple[float, float] | None:
    """The foot of a round container as (level of its middle, openness): its lower edge is half an
    ellipse, whose short axis over its long one is the openness. From the wall's pixels (n,),
    `along` the axis from near the base upward and to its `side`; None when it is no half ellipse.
    """
    columns, levels = np.round(side).astype(int), np.round(along).astype(int)
    low, floor = columns.min(), levels.min()
    edge = np.full(columns.max() - low + 1, np.inf)
    np.minimum.at(edge, columns - low, along)
    x = (np.arange(len(edge)) + low).astype(float)
    x, edge = x[np.isfinite(edge)], edge[np.isfinite(edge)]
    first, last = np.full(np.ptp(levels) + 1, np.inf), np.full(np.ptp(levels) + 1, -np.inf)
    np.minimum.at(first, levels - floor, side)
    np.maximum.at(last, levels - floor, side)
    centre = floor + 0.05 * height
    # The foot's ends lie on the level of its middle: found in turns, the level from the fit, the
    # ends from the level.
    for _ in range(8):
        row = int(np.clip(round(centre - floor), 0, len(first) - 1))
        near = slice(max(0, row - 1), row + 2)
        if not np.isfinite(first[near]).all():
            return None
        half, middle = (
            float(np.mean(last[near] - first[near])) / 2,
            float(np.mean(last[near] + first[near])) / 2,
        )
        inner = np.abs(x - middle) < 0.82 * half
        if inner.sum() < 12 or half < 8:
            return None
        u = (x[inner] - middle) / half
        design = np.column_stack([np.ones_like(u), u, -np.sqrt(1 - u**2)])
        weight = np.ones(len(u))
        for _ in range(4):
            solved, *_ = np.linalg.lstsq(design * weight[:, None], edge[inner] * weight, rcond=None)
            miss = np.abs(design @ solved - edge[inner])
            weight = 1 / np.sqrt(1 + (miss / max(0.7, 1.5 * np.median(miss))) ** 2)
        centre = 0.5 * centre + 0.5 * float(np.clip(solved[0], floor, floor + 0.4 * height))
    if np.percentile(miss, 80) > max(2.0, 0.06 * half):
        return None
    return centre, float(max(0.0, solved[2] / half))


def lower_edge(along, side, boxed: bool, focal: float) -> tuple[float, float, bool]:
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
    depth = float(np.clip(solved[2], 0, FOOT.steepest_view * reach))
    straight = depth < 0.03 * reach
    middle = inner & (np.abs(x) < 0.5 * reach)
    front = float(np.percentile(edge[middle], 25)) if middle.any() else float(bottom)
    if straight:
        # A straight front edge, or an arc too flat to read: the axis stands half the vessel's depth
        # behind it, and a camera a little above the rim looks down on it by the angle under which
        # the container is seen and that little more.
        depth = (
            (FOOT.deep if boxed else 1.0) * reach * (FOOT.longer * height / focal + FOOT.over_rim)
        )
    return front + depth, depth, straight and boxed
