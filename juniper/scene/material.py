"""Telling flower from foliage among the plant's pixels."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.petals import LEAF, PETAL, PetalProbabilities

# of colour, in which petals and leaves are counted: by CIELAB lightness, a and b
CELLS = np.array((16, 36, 36))
LOW, HIGH = np.array((0, -110, -110)), np.array((100, 110, 110))  # what these are counted between


@dataclass(frozen=True)
class MaterialSettings:
    """How likelihoods by colour are counted.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    blurred: tuple[float, float, float] = (
        1.2,
        1.0,
        1.0,
    )  # cells, one standard deviation: how far colours lend to their neighbours
    # likeness from which a pixel is counted, by what it has more; less of this in all tells nothing
    sure: float = 0.5
    fewest: float = 20.0
    # likeness, and share of the counted, that anything may have unseen
    floor: float = 0.01
    rare: float = 2e-05
    # How much of what colour tells counts beside what is seen of shape, where it tells of
    # petal and where of leaf: green flowers are few among the petals, and of the colour of
    # many leaves. And the most that it tells, in nats.
    of_petal: float = 1.0
    of_leaf: float = 0.5
    most: float = 4.0


MATERIAL = MaterialSettings()


def flower_mask(plant: np.ndarray, odds: np.ndarray) -> np.ndarray:
    """Which plant pixels (bool h x w) are petals by their petal_odds() (n,): bool (h, w)."""
    out = np.zeros_like(plant)
    out[plant] = odds > 0
    return out


def petal_odds(look: PetalProbabilities, plant: np.ndarray, pixels: np.ndarray) -> np.ndarray:
    """How much likelier each plant pixel (bool h x w) of a picture (uint8 h x w x 3 sRGB) is petal
    than stem, leaf or bare twig: log odds (n,), row by row. Over 0 it is taken for petal.

    What was seen is coarser than the picture, and blurred where petal meets leaf. So the colours of
    what is surely one or the other are counted in this very picture, and each pixel goes by both
    (naive Bayes, colour believed in part only, since neighbours are alike).
    """
    # Where the plant's own mask and the look differ, what is not clearly leaf still has to be one
    # of the two.
    petal, leaf = (look.likeness(plant.shape, part)[plant] for part in (PETAL, LEAF))
    lab = cv2.cvtColor(pixels[plant][None].astype(np.float32) / 255, cv2.COLOR_RGB2LAB)[0]
    sure = [np.clip(likely - MATERIAL.sure, 0, None) for likely in (petal, leaf)]
    return np.log((petal + MATERIAL.floor) / (leaf + MATERIAL.floor)) + more_usual(lab, *sure)


def more_usual(lab: np.ndarray, petal: np.ndarray, leaf: np.ndarray) -> np.ndarray:
    """How much more usual each colour (n, 3) CIELAB is among what counts as petal, by weights (n,),
    than among what counts as leaf: log ratios (n,), as far as believed; 0 where too little counts.
    """
    if min(petal.sum(), leaf.sum()) < MATERIAL.fewest:
        return np.zeros(len(lab))
    cell = np.clip((lab - LOW) / (HIGH - LOW) * CELLS, 0, CELLS - 1).astype(int)
    cell = np.ravel_multi_index(tuple(cell.T), CELLS)
    shares = []
    for weight in (petal, leaf):
        count = np.bincount(cell, weight, CELLS.prod()).reshape(CELLS)
        for axis, breadth in enumerate(MATERIAL.blurred):
            first = np.moveaxis(count, axis, 0)
            lent = cv2.filter2D(
                first.reshape(len(first), -1),
                -1,
                cv2.getGaussianKernel(5, breadth),
                borderType=cv2.BORDER_CONSTANT,
            )
            count = np.moveaxis(lent.reshape(first.shape), 0, axis)
        shares.append(count / count.sum() + MATERIAL.rare)
    ratio = np.clip(np.log(shares[0] / shares[1]), -MATERIAL.most, MATERIAL.most)
    return (ratio * np.where(ratio > 0, MATERIAL.of_petal, MATERIAL.of_leaf)).ravel()[cell]
