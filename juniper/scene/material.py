"""Telling flower from foliage among the plant's pixels by their colour."""

from __future__ import annotations

import cv2
import numpy as np


def flower_mask(lab: np.ndarray, plant: np.ndarray) -> np.ndarray:
    """Which plant pixels are petals: bool (h, w), from CIELAB (h, w, 3) and the plant mask.

    Leaves and stems are green (hab 100 to 200) of low or middling lightness; petals are any other
    hue, or pale. Lone pixels follow their neighbours (a majority over 5 x 5).
    """
    left, top, wide, high = cv2.boundingRect(plant.astype(np.uint8))
    whole, part = np.zeros(plant.shape, bool), np.s_[top : top + high, left : left + wide]
    lab, plant = lab[part], plant[part]
    light, a, b = (np.ascontiguousarray(lab[..., i]) for i in range(3))
    chroma, hue = cv2.cartToPolar(a, b, angleInDegrees=True)
    greenish = (hue > 100) & (hue < 205)
    bright = light > np.percentile(light[plant], 60) if plant.any() else light > 50
    coloured = ~greenish & (chroma > 14) & ~((hue > 55) & (hue <= 100) & (light < 30))
    pale = (chroma < 14) & (light > 46) & bright & ~((hue > 110) & (hue < 230) & (chroma > 5))
    lime = (hue > 95) & (hue < 118) & (chroma > 42) & (light > 55)
    dark_petal = ~greenish & (chroma > 9) & (light < 30) & ((hue < 50) | (hue > 270))
    petal = (coloured | pale | lime | dark_petal) & plant
    some = cv2.boxFilter(petal.astype(np.float32), -1, (5, 5), normalize=False)
    all_ = cv2.boxFilter(plant.astype(np.float32), -1, (5, 5), normalize=False)
    whole[part] = plant & (some > 0.5 * np.maximum(all_, 1))
    return whole
