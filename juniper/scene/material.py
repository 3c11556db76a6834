"""Telling flower from foliage among the plant's pixels."""

from __future__ import annotations

import cv2
import numpy as np

from juniper.scene.petals import LEAF, PETAL, Look


def flower_mask(look: Look, plant: np.ndarray) -> np.ndarray:
    """Which plant pixels are petals: bool (h, w), from what was seen and the plant mask. Stems, leaves and bare twigs are none."""
    # Where the plant's own mask and the look differ, what is not clearly leaf still has to be one of the two.
    rather = look.onto(look.parts[PETAL] - look.parts[LEAF], plant.shape, cv2.INTER_LINEAR)
    return plant & (rather > 0)
