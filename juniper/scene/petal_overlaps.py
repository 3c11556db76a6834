"""Petals that were counted to a bloom of another colour, where two blooms overlap, go to the colour
they are plainly of.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.colour.palette import PALETTE, across_and_out, lit, on_disc


@dataclass(frozen=True)
class OverlapSettings:
    """When petals that were counted to one bloom belong to another's colour.

    Where no source is named: set by trial on the colours of simulated pictures (bin/trials colour).
    """

    # of the picture's longer side: breadth of what is looked at together, so that a shaded
    # fold is no other flower
    about: float = 0.0115
    # distance from its own colour, from another one, and of that to this, at which petals go to it
    off: float = 1.2
    like: float = 1.0
    nearer: float = 0.5
    farthest: float = 4.0  # what is further from a colour than this is none of it, however far
    # What saturation counts beside hue, to how it counts between blooms: light thrown from petal to
    # petal changes it most.
    paler: float = 0.7
    # every so many pixels are enough; what no petal lies about
    coarse: int = 2
    nothing: float = 1e-06
    # Lightness at which a petal tells nothing; how much more tells all; what even the darkest
    # counts.
    black: float = 5.0
    tells: float = 10.0
    least: float = 0.05


OVERLAP = OverlapSettings()


def with_overlaps_put_right(lab: np.ndarray, index: np.ndarray, petals: np.ndarray) -> np.ndarray:
    """Colours of petals (bool h x w), whose pixels are `lab` (n, 3) CIELAB and of the colours
    `index` (n,) row by row, with those put right that are plainly another of these: (n,). Each
    pixel is judged with those about it, bright ones first of all, in hue and saturation.
    """
    held = np.flatnonzero(np.bincount(index))
    if len(held) < 2:
        return index
    colours = np.array([lit(lab[index == k]) for k in held])
    breadth = (max(3, round(OVERLAP.about * max(petals.shape) / OVERLAP.coarse)),) * 2
    petals = _about_them(petals)
    place = np.full(petals.shape, -1)
    place[petals] = np.arange(len(lab))
    place = place[:: OVERLAP.coarse, :: OVERLAP.coarse]
    here = place >= 0
    own = lab[place[here]]
    across, out = across_and_out(on_disc(own)[:, None], on_disc(colours)[None])
    away = np.minimum(
        PALETTE.by_hue * across + OVERLAP.paler * PALETTE.by_saturation * out, OVERLAP.farthest
    )
    weight = np.clip((own[:, 0] - OVERLAP.black) / OVERLAP.tells, OVERLAP.least, 1.0)

    def about(values: np.ndarray) -> np.ndarray:
        laid = np.zeros(here.shape, np.float32)
        laid[here] = values
        return cv2.blur(laid, breadth, borderType=cv2.BORDER_CONSTANT)

    there = tuple(at // OVERLAP.coarse for at in np.nonzero(petals))
    whole = about(weight)[there]
    seen = whole > OVERLAP.nothing
    away = np.stack([about(weight * away[:, k])[there] for k in range(len(held))]) / np.maximum(
        whole, OVERLAP.nothing
    )
    nearest, every = away.argmin(axis=0), np.arange(len(lab))
    mine, least = away[np.searchsorted(held, index), every], away[nearest, every]
    moved = seen & (mine > OVERLAP.off) & (least < OVERLAP.like) & (least < OVERLAP.nearer * mine)
    return np.where(moved, held[nearest], index)


def _about_them(petals: np.ndarray) -> np.ndarray:
    """The part of a picture (bool h x w) that holds all petals, from a pixel that is looked at."""
    left, top, wide, high = cv2.boundingRect(petals.astype(np.uint8))
    return petals[
        top // OVERLAP.coarse * OVERLAP.coarse : top + high,
        left // OVERLAP.coarse * OVERLAP.coarse : left + wide,
    ]
