"""Line, space and finish as far as an outline shows them: fill, gaps, rim cover, twin tips."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View
from juniper.scene.parts import Label


@dataclass(frozen=True)
class OutlineLimits:
    """Where the lip lies, what covers it, and which tips are twins.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    lip_most: float = 0.5  # of half the rim's width: a lip that lies lower is that of another thing
    rim_depth: float = 0.02  # of the container's height below the lip, where plant hangs over it
    # of half the rim's width: so far the lip of a rim seen from its own height lies below it
    # at most; more is leaves before it
    most_open: float = 0.1
    neck: float = 0.2  # of the container's width: a narrower rim was not made out
    wall_seen: float = 0.5  # of the lip under which wall or plant must be seen
    twin_level: float = 0.04  # of plant height
    stands_clear: float = 0.08  # of plant height


OUTLINE = OutlineLimits()


def front_lip(view: View, samples: int = 160, fine: float = 1.0) -> np.ndarray:
    """Points (samples, 2) of the rim's front lip, end to end, in photograph pixels, looked for in
    steps of `fine` pixels of the raster.

    Seen from above the rim is an ellipse about the rim point, and its lower half is the lip. How
    open it is is read where the wall shows highest.
    """
    labels, scale, datum = view.surface.labels, view.surface.scale, view.datum
    left, right = np.asarray(datum.rim_left), np.asarray(datum.rim_right)
    u = np.linspace(-0.98, 0.98, samples)
    line = (left + right) / 2 + u[:, None] * (right - left) / 2
    depth = np.arange(0.0, OUTLINE.lip_most * datum.rim_width / 2 + 2, fine / scale)
    at = line[:, None] - depth[None, :, None] * datum.up
    wall = _label_at(labels, at * scale) == Label.CONTAINER
    drop = np.where(wall.any(axis=1), depth[wall.argmax(axis=1)], np.inf) / np.sqrt(1 - u**2)
    shown = drop[np.isfinite(drop) & (np.abs(u) < 0.9)]
    # Leaves before the wall make it begin lower, so the highest beginnings tell.
    open_ = float(np.percentile(shown, 20)) if len(shown) > 0.08 * samples else 0.0
    open_ = min(open_, OUTLINE.most_open * datum.rim_width / 2)
    return line - (open_ * np.sqrt(1 - u**2))[:, None] * datum.up


def rim_cover(view: View) -> float:
    """Share of the rim's front lip, end to end, over which plant hangs; nan where no wall was made
    out under it, as of clear glass.
    """
    lip = front_lip(view) if view.thin == 1 else front_lip(view, 60, 2.0)
    below = max(1.5 / view.surface.scale, OUTLINE.rim_depth * view.datum.height)
    under = _label_at(view.surface.labels, (lip - below * view.datum.up) * view.surface.scale)
    if (
        np.isin(under, (Label.PLANT, Label.CONTAINER)).mean() < OUTLINE.wall_seen
        or view.rim_width < OUTLINE.neck * view.container_width
    ):
        return float("nan")
    return float((under == Label.PLANT).mean())


def _label_at(labels: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Labels of a raster (h, w) at points (..., 2) in its pixels."""
    x = np.clip((points[..., 0] - 0.5).round().astype(int), 0, labels.shape[1] - 1)
    y = np.clip((points[..., 1] - 0.5).round().astype(int), 0, labels.shape[0] - 1)
    return labels[y, x]


def drawn_rim(view: View) -> tuple[EvidenceMark, ...]:
    """The front lip."""
    return (
        EvidenceMark(
            "line", tuple(map(tuple, front_lip(view, 40).tolist())), "rim", "The rim's front lip."
        ),
    )


def twin_tips(view: View) -> list[tuple[tuple[float, float, float], tuple[float, float, float]]]:
    """Pairs of tips at one height (within .04 of plant height), one each side of the axis, both in
    the upper third and standing clear of the rest: the named fault."""
    height = view.plant_height
    high = [t for t in view.tips if t[0] > 0.67 * height and t[2] > OUTLINE.stands_clear * height]
    pairs = []
    for i, one in enumerate(high):
        for other in high[i + 1 :]:
            apart = abs(one[1] - other[1]) > 0.08 * view.plant_width
            between = sorted((one[1], other[1]))
            if any(
                t[0] > one[0] + OUTLINE.twin_level * height and between[0] < t[1] < between[1]
                for t in high
            ):
                continue  # a taller one stands between them: shoulders, not twins
            if one[0] < (1 - 1.5 * OUTLINE.twin_level) * height:
                continue  # what stands under the top is a shoulder, not an ear
            if (
                one[1] * other[1] < 0
                and abs(one[0] - other[0]) < OUTLINE.twin_level * height
                and apart
            ):
                pairs.append((one, other))
    return pairs


def drawn_gap(view: View) -> tuple[EvidenceMark, ...]:
    """The largest gap, outlined."""
    if len(view.surface.hole_outline) < 3:
        return ()
    edge = cv2.approxPolyDP(view.surface.hole_outline.astype(np.float32), 2.0, True).reshape(-1, 2)
    return (
        EvidenceMark(
            "outline",
            tuple(map(tuple, edge.astype(float))),
            "gap",
            "The largest gap in the outline.",
        ),
    )


def drawn_twins(view: View) -> tuple[EvidenceMark, ...]:
    """Each pair of twin tips, joined at their height."""
    out = []
    for one, other in twin_tips(view):
        ends = view.at(one[0], one[1]), view.at(other[0], other[1])
        out.append(
            EvidenceMark("dashed", ends, "twin tips", "Two tips of one height, one each side.")
        )
    return tuple(out)


def drawn_outline(view: View) -> tuple[EvidenceMark, ...]:
    """The plant's closed outline."""
    return (
        EvidenceMark(
            "outline",
            tuple(map(tuple, view.surface.outline.astype(float))),
            "",
            "The outline of the plant.",
        ),
    )
