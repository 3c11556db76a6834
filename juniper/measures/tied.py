"""A hand-tied bunch below its tie: whether the ends of its stems lie on one cut."""

from __future__ import annotations

import numpy as np

from juniper.measures.finding import EvidenceMark, Finding, finding_of, missing_of
from juniper.measures.surface import View
from juniper.scene.parts import Label
from juniper.scene.scene import Scene

NOT_TIED = "the piece is no hand-tied bunch"
COLUMNS = 16  # across the stems' spread, in which their ends are looked for
SLICE = 0.04  # of the stems' length: thinner columns have no end of their own


def ends_below(view: View) -> np.ndarray:
    """Where the stems end (k, 2) below the tie, in photograph pixels: the lowest of what is held
    together there, column by column across its spread.
    """
    ys, xs = np.nonzero(view.surface.labels == Label.CONTAINER)
    if not len(ys):
        return np.zeros((0, 2))
    at = (np.column_stack([xs, ys]) + 0.5) / view.surface.scale
    along, side = view.place(at)
    low, high = np.percentile(side, (2, 98))
    if high - low < 2:
        return np.zeros((0, 2))
    which = np.clip(((side - low) / (high - low) * COLUMNS).astype(int), 0, COLUMNS - 1)
    out = []
    for k in range(COLUMNS):
        own = which == k
        if own.sum() >= 3:
            lowest = int(np.flatnonzero(own)[along[own].argmin()])
            out.append((float(at[lowest, 0]), float(at[lowest, 1])))
    return np.array(out)


def stem_ends(view: View, scene: Scene) -> Finding:
    """How far the stems' ends lie from one straight cut, over their length below the tie."""
    if not scene.tied:
        return missing_of("stem_ends_level", NOT_TIED, applies=False)
    ends = ends_below(view)
    if len(ends) < 4:
        return missing_of("stem_ends_level", "too few stem ends show below the tie")
    along, side = view.place(ends)
    slope, level = np.polyfit(side, along, 1)
    off = along - (slope * side + level)
    spread = float(np.sqrt(np.mean(off**2)) / view.container_height)
    marks = (
        EvidenceMark(
            "outline", tuple((float(x), float(y)) for x, y in ends), "ends", "The stem ends."
        ),
    )
    return finding_of(
        "stem_ends_level",
        spread,
        0.01,
        f"{spread * view.container_height:.0f} px from one cut ÷ {view.container_height:.0f} px"
        " below the tie",
        marks,
    )
