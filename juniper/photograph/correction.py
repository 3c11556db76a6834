"""Correcting a picture by its reference card: white balance, and the card itself laid aside."""

from __future__ import annotations

import cv2
import numpy as np

from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.photograph.card import Card, White

_MARGIN = 1.07  # of the card painted out with it, for its edge and shadow


def balanced(pixels: np.ndarray, white: White, keep_exposure: bool = True) -> np.ndarray:
    """The picture (h, w, 3) uint8 with its greys made neutral (von Kries factors on linear sRGB).

    With `keep_exposure` the lightness stays as it was taken.
    """
    gains = np.array(white.gains)
    if keep_exposure:
        gains = gains / (gains @ [0.2126, 0.7152, 0.0722])
    light = linear_from_srgb(np.arange(256) / 255)
    out = np.empty_like(pixels)
    for channel, gain in enumerate(gains):
        level = srgb_from_linear(np.clip(light * gain, 0, 1))
        out[..., channel] = cv2.LUT(np.ascontiguousarray(pixels[..., channel]), np.round(level * 255).astype(np.uint8))
    return out


def without_card(pixels: np.ndarray, card: Card, scale: float) -> np.ndarray:
    """The picture with the card painted over from what lies left and right of it, so that it is taken for nothing else."""
    corners = np.array(card.corners) * scale
    middle = corners.mean(0)
    shape = np.round(middle + (corners - middle) * _MARGIN).astype(np.int32)
    mask = cv2.fillConvexPoly(np.zeros(pixels.shape[:2], np.uint8), shape, 1) > 0
    out = pixels.copy()
    width = pixels.shape[1]
    for y in np.flatnonzero(mask.any(1)):
        xs = np.flatnonzero(mask[y])
        low, high = xs[0], xs[-1]
        left = pixels[y, max(0, low - 5) : low].astype(np.float32)
        right = pixels[y, high + 1 : min(width, high + 6)].astype(np.float32)
        ends = [side.mean(0) for side in (left, right) if len(side)]
        t = np.linspace(0, 1, len(xs))[:, None]
        out[y, xs] = np.round(ends[0] * (1 - t) + ends[-1] * t) if ends else 128
    return out
