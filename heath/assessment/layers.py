"""Layers that are laid over a photograph: what draws the eye, what counts as petal."""

from __future__ import annotations

import cv2
import numpy as np

from heath.assessment.reading import Reading
from juniper.measures.saliency import eye_map
from juniper.scene import Label

VEIL = (112, 112, 112, 215)  # a grey between most leaves and most petals
DIM = 140  # of 255: how dark the eye's layer is where the eye does not go


def eye_layer(reading: Reading) -> bytes:
    """Black by how little the eye is drawn to each place, as a PNG of the raster's size."""
    raster = reading.raster
    drawn = cv2.GaussianBlur(
        eye_map(raster.light.astype(np.float32), raster.labels == Label.PLANT), (0, 0), 3
    )
    alpha = DIM * (1 - np.clip(drawn / max(float(drawn.max()), 1e-6), 0, 1) ** 0.6)
    black = np.zeros((*alpha.shape, 3), np.uint8)
    return cv2.imencode(".png", np.dstack([black, alpha.astype(np.uint8)]))[1].tobytes()


def petals_layer(reading: Reading) -> bytes:
    """The plant veiled in grey but for what counts as petal, as a PNG of the raster's size."""
    raster = reading.raster
    leaf = (raster.labels == Label.PLANT) & (raster.flowers == 0)
    veil = np.where(leaf[..., None], VEIL, 0).astype(np.uint8)
    return cv2.imencode(".png", veil)[1].tobytes()
