"""Where the eye goes first, by the spectral residual of the picture's lightness.

Hou & Zhang 2007 ("Saliency detection: a spectral residual approach", CVPR): the log spectrum less
its local mean, turned back, squared and smoothed, on a picture 64 pixels wide. What lies off the
piece is filled with its mean lightness first, since the question is where on the piece the eye
rests.
"""

from __future__ import annotations

import cv2
import numpy as np

WIDE = 64  # pixels, after the paper
ROOM = 8  # pixels about the piece, where its two sides would else be neighbours to the transform
MEAN = 3  # pixels of the spectrum's local mean
SMOOTH = 8.0  # pixels, standard deviation of the last smoothing, after the paper (from memory)


def spectral_residual(light: np.ndarray) -> np.ndarray:
    """Saliency 0..1 (h, w) float32 of a lightness picture (h, w) of about WIDE pixels."""
    spectrum = np.fft.fft2(light.astype(np.float64))
    log = np.log(np.abs(spectrum) + 1e-9).astype(np.float32)
    residual = log - cv2.blur(log, (MEAN, MEAN), borderType=cv2.BORDER_WRAP)
    back = np.fft.ifft2(np.exp(residual + 1j * np.angle(spectrum)))
    out = cv2.GaussianBlur((np.abs(back) ** 2).astype(np.float32), (0, 0), SMOOTH)
    return out / max(float(out.max()), 1e-12)


def eye_map(light: np.ndarray, plant: np.ndarray) -> np.ndarray:
    """Where the eye goes on the plant (bool h x w) of a picture given as lightness (h, w): 0..1
    float32 (h, w), 0 off the plant.
    """
    if not plant.any():
        return np.zeros(plant.shape, np.float32)
    left, top, wide, high = cv2.boundingRect(plant.astype(np.uint8))
    part = np.s_[top : top + high, left : left + wide]
    own = plant[part]
    calm = np.where(own, light[part], np.float32(light[part][own].mean())).astype(np.float32)
    scale = WIDE / max(wide, high)
    size = (max(8, round(wide * scale)), max(8, round(high * scale)))
    small = cv2.copyMakeBorder(
        cv2.resize(calm, size, interpolation=cv2.INTER_AREA),
        ROOM,
        ROOM,
        ROOM,
        ROOM,
        cv2.BORDER_REPLICATE,
    )
    seen = spectral_residual(small)[ROOM:-ROOM, ROOM:-ROOM]
    out = np.zeros(plant.shape, np.float32)
    # Smoothed so widely, the peak lies between the grid's pixels: a cubic finds it there, and in a
    # mirrored picture in the mirrored place.
    out[part] = cv2.resize(seen, (wide, high), interpolation=cv2.INTER_CUBIC) * own
    return out / max(float(out.max()), 1e-12)
