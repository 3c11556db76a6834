"""Balance: how area and visual weight lie to left and right of the axis, and how high."""

from __future__ import annotations

import cv2
import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View

FOOT_LEVEL = 0.02  # of the container's height over the base point: a foot's edge is rounded there


def left_area_share(view: View) -> float:
    """Share of plant pixels to the viewer's left of the axis."""
    return float(view.on_left.mean())


def left_weight_share(view: View) -> float:
    """Share of visual weight to the viewer's left of the axis."""
    return view.left_weight / view.total


def heavier_share(view: View) -> float:
    """Share of visual weight on the heavier side of the axis."""
    left = left_weight_share(view)
    return max(left, 1 - left)


def moments(view: View) -> tuple[float, float]:
    """Weight times distance from the axis, (left, right), summed."""
    left = -float(view.moment @ view.on_left)
    return left, float(view.moment.sum()) + left


def moment_ratio(view: View) -> float:
    """Left moment over right moment."""
    left, right = moments(view)
    return left / right if right > 0 else float("nan")


def weight_height(view: View) -> float:
    """Height of the centre of weight over the rim, as a share of plant height."""
    return view.centre[0] / view.plant_height if view.plant_height > 0 else float("nan")


def half_foot(view: View) -> float:
    """Half the width of the container's foot, pixels: of its outline at the table, where the base
    point lies.
    """
    along, side = (
        view.place(view.surface.wall_hull)
        if len(view.surface.wall_hull)
        else (np.zeros(0), np.zeros(0))
    )
    level = -(1 - FOOT_LEVEL) * view.container_height
    below = along < level
    crossed = np.flatnonzero(below != np.roll(below, -1))
    if len(crossed) < 2:  # the base point lies under the outline, or no wall was made out
        foot = (
            side[along < along.min() + 2 * FOOT_LEVEL * view.container_height]
            if len(along)
            else np.zeros(0)
        )
        return max(float(np.ptp(foot)) / 2 if len(foot) > 1 else view.rim_width / 2, 1.0)
    after = (crossed + 1) % len(along)
    part = (level - along[crossed]) / (along[after] - along[crossed])
    ends = side[crossed] + part * (side[after] - side[crossed])
    return max(float(np.ptp(ends)) / 2, 1.0)


def weight_offset(view: View) -> float:
    """Distance of the centre of visual weight from the axis over half the foot's width. A picture
    does not tell what vessel and water weigh: past 1 the plant leans beyond its foot, which is a
    reason to try how it stands, no finding that it falls.
    """
    return abs(view.centre[1]) / half_foot(view)


def outline_symmetry(view: View, cells: int = 96) -> float:
    """Overlap (intersection over union) of the closed outline with its mirror image in the axis."""
    along, side = view.place(view.surface.outline)
    if len(along) < 3:
        return float("nan")
    reach = max(np.abs(side).max(), 1.0)
    low, high = along.min(), along.max()
    scale = (cells - 1) / max(2 * reach, high - low)
    size = int(cells + 2)
    out = []
    for sign in (1, -1):
        points = np.column_stack([(sign * side + reach) * scale, (along - low) * scale])
        canvas = np.zeros((size, size), np.uint8)
        out.append(cv2.fillPoly(canvas, [np.round(points * 16).astype(np.int32)], 1, shift=4) > 0)
    union = (out[0] | out[1]).sum()
    return float((out[0] & out[1]).sum() / union) if union else float("nan")


def drawn(view: View) -> tuple[EvidenceMark, ...]:
    """The axis carried up, and the centre of weight."""
    along, side = view.centre
    top = view.at(view.plant_height * 1.05, 0.0)
    foot = view.at(-view.container_height, 0.0)
    share = left_weight_share(view)
    level = view.plant_height * 1.02
    return (
        EvidenceMark(
            "line", (foot, top), "", "The container's axis, carried up through the piece."
        ),
        EvidenceMark("cross", (view.at(along, side),), "weight", "The centre of visual weight."),
        EvidenceMark(
            "label",
            (view.at(level, -0.18 * view.plant_width),),
            f"{100 * share:.0f}",
            f"The left holds {100 * share:.0f} % of the weight.",
        ),
        EvidenceMark(
            "label",
            (view.at(level, 0.18 * view.plant_width),),
            f"{100 - 100 * share:.0f}",
            f"Right holds {100 - 100 * share:.0f}.",
        ),
    )


def arithmetic(view: View) -> dict[str, str]:
    """How each figure is made."""
    left, right = moments(view)
    along, side = view.centre
    counts = (
        "dark, warm and vivid pixels count more" if view.pulls else "a dark pixel counts up to 2¼"
    )
    n = len(view.side)
    on_left = int(view.on_left.sum())
    return {
        "left_area_share": f"{on_left} of {n} plant pixels lie left of the axis",
        "left_weight_share": (
            f"weight left {view.left_weight:.0f} ÷ all {view.total:.0f} ({counts})"
        ),
        "heavier_share": (
            f"weight left {view.left_weight:.0f} of {view.total:.0f}; the heavier side's part of it"
        ),
        "moment_ratio": f"weight × distance: left {left:.3g} ÷ right {right:.3g}",
        "weight_height": (
            f"centre of weight {along:.0f} px above the rim ÷ plant height"
            f" {view.plant_height:.0f} px"
        ),
        "weight_offset": (
            f"centre of weight {abs(side):.0f} px from the axis ÷ half the foot"
            f" {half_foot(view):.0f} px"
        ),
        "outline_symmetry": (
            "outline laid over its mirror image in the axis: common area ÷ joint area"
        ),
    }
