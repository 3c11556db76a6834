"""Petals that were counted to a bloom of another colour, where two blooms overlap, go to the colour
they are plainly of.
"""

from __future__ import annotations

import cv2
import numpy as np

from juniper.colour.palette import BY_HUE, BY_SATURATION, across_and_out, lit, on_disc

# of the picture's longer side: breadth of what is looked at together, so that a shaded fold is no
# other flower
ABOUT = 0.0115
# distance from its own colour, from another one, and of that to this, at which petals go to it
OFF, LIKE, NEARER = 1.2, 1.0, 0.5
FARTHEST = 4.0  # what is further from a colour than this is none of it, however far
# What saturation counts beside hue, to how it counts between blooms: light thrown from petal to
# petal changes it most.
PALER = 0.7
COARSE, NOTHING = 2, 1e-6  # every so many pixels are enough; what no petal lies about
# Lightness at which a petal tells nothing; how much more tells all; what even the darkest counts.
BLACK, TELLS, LEAST = 5.0, 10.0, 0.05


def with_overlaps_put_right(lab: np.ndarray, index: np.ndarray, petals: np.ndarray) -> np.ndarray:
    """Colours of petals (bool h x w), whose pixels are `lab` (n, 3) CIELAB and of the colours
    `index` (n,) row by row, with those put right that are plainly another of these: (n,). Each
    pixel is judged with those about it, bright ones first of all, in hue and saturation.
    """
    held = np.flatnonzero(np.bincount(index))
    if len(held) < 2:
        return index
    colours = np.array([lit(lab[index == k]) for k in held])
    breadth = (max(3, round(ABOUT * max(petals.shape) / COARSE)),) * 2
    petals = _about_them(petals)
    place = np.full(petals.shape, -1)
    place[petals] = np.arange(len(lab))
    place = place[::COARSE, ::COARSE]
    here = place >= 0
    own = lab[place[here]]
    across, out = across_and_out(on_disc(own)[:, None], on_disc(colours)[None])
    away = np.minimum(BY_HUE * across + PALER * BY_SATURATION * out, FARTHEST)
    weight = np.clip((own[:, 0] - BLACK) / TELLS, LEAST, 1.0)

    def about(values: np.ndarray) -> np.ndarray:
        laid = np.zeros(here.shape, np.float32)
        laid[here] = values
        return cv2.blur(laid, breadth, borderType=cv2.BORDER_CONSTANT)

    there = tuple(at // COARSE for at in np.nonzero(petals))
    whole = about(weight)[there]
    seen = whole > NOTHING
    away = np.stack([about(weight * away[:, k])[there] for k in range(len(held))]) / np.maximum(
        whole, NOTHING
    )
    nearest, every = away.argmin(axis=0), np.arange(len(lab))
    mine, least = away[np.searchsorted(held, index), every], away[nearest, every]
    moved = seen & (mine > OFF) & (least < LIKE) & (least < NEARER * mine)
    return np.where(moved, held[nearest], index)


def _about_them(petals: np.ndarray) -> np.ndarray:
    """The part of a picture (bool h x w) that holds all petals, from a pixel that is looked at."""
    left, top, wide, high = cv2.boundingRect(petals.astype(np.uint8))
    return petals[top // COARSE * COARSE : top + high, left // COARSE * COARSE : left + wide]
