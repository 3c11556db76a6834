"""A garland along an edge: the line that it lies on, read off the underside of its rope."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.scene.container.datum import Datum, HandleUncertainty
from juniper.scene.parts import Label
from juniper.scene.segment.segmentation import chief_patch
from juniper.values import point

NO_EDGE = (
    "No edge was found under the garland. Take the picture from the front, so that the whole rope"
    " and the edge that it lies on show, or put the four handles by hand."
)


@dataclass(frozen=True)
class EdgeSettings:
    """How an edge is read."""

    middle: tuple[float, float] = (
        0.22,
        0.78,
    )  # of the garland's breadth: where it lies on the edge
    off: float = 0.04  # of its breadth: columns that lie further off the line hang over it
    fewest: int = 12  # columns that tell a line
    fall: float = 0.25  # of its breadth: how far it is taken to fall, where the brief does not say
    sure: float = 0.6  # confidence of an edge at the most: how far a rope hides it is not seen


EDGE = EdgeSettings()


class NoEdge(ValueError):
    """No edge can be made out; the message says what to do."""


def read_edge(
    labels: np.ndarray, fall: float | None = None, settings: EdgeSettings = EDGE
) -> tuple[np.ndarray, Datum]:
    """The labels (h, w) with nothing but the garland as plant, and its datum, in their pixels: its
    rim line is the edge that it lies on, and its base as far below as
    it is to fall (`fall`, of the edge's length). Raises NoEdge, with a sentence for the user.
    """
    plant = chief_patch(labels == Label.PLANT)
    labels = labels.copy()
    labels[(labels == Label.PLANT) & ~plant] = Label.BACKDROP
    labels[labels == Label.CONTAINER] = Label.TABLE  # what it lies on is none
    columns = np.flatnonzero(plant.any(axis=0))
    if len(columns) < settings.fewest:
        raise NoEdge(NO_EDGE)
    first, last = float(columns[0]), float(columns[-1] + 1)
    wide = last - first
    share = (columns + 0.5 - first) / wide
    inner = columns[(share > settings.middle[0]) & (share < settings.middle[1])]
    if len(inner) < settings.fewest:
        raise NoEdge(NO_EDGE)
    under = plant.shape[0] - plant[::-1, inner].argmax(axis=0).astype(float)
    line = np.polyfit(inner + 0.5, under, 1)
    for _ in range(6):  # without what hangs down between
        miss = under - np.polyval(line, inner + 0.5)
        near = np.abs(miss - np.median(miss)) < settings.off * wide
        if near.sum() < settings.fewest:
            raise NoEdge(NO_EDGE)
        line = np.polyfit(inner[near] + 0.5, under[near], 1)
    ends = [np.array([x, float(np.polyval(line, x))]) for x in (first, last)]
    across = (ends[1] - ends[0]) / np.hypot(*(ends[1] - ends[0]))
    up = np.array([across[1], -across[0]])
    rim = (ends[0] + ends[1]) / 2
    long = float(np.hypot(*(ends[1] - ends[0])))
    off = float(np.std((under - np.polyval(line, inner + 0.5))[near]))
    level = max(1.0, off)
    return labels, Datum(
        point(rim),
        point(rim - up * long * (fall or settings.fall)),
        point(ends[0]),
        point(ends[1]),
        confidence=float(np.clip(settings.sure * (1 - 8 * off / wide), 0.05, settings.sure)),
        spread=HandleUncertainty(level, level, 0.01 * wide),
        doubts=("the rope hides the edge that it lies on",),
    )
