"""Texture: how fine or how broad the material reads, by how densely its lightness changes.

Edge density, the share of pixels with a steep gradient in a small window, is a common measure of
texture (Rosenfeld & Thurston 1971, "Edge and curve detection for visual scene analysis", IEEE
Transactions on Computers).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.measures.finding import EvidenceMark


@dataclass(frozen=True)
class TextureSettings:
    """How texture is read.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    # CIELAB lightness from one pixel to the next (1/500 of the piece's longer side), from
    # which there is an edge (common practice)
    steep: float = 5.0
    long: int = 500  # pixels: to what size of the piece's longer side its picture is brought
    window: int = 25  # pixels of that, square: a twentieth of the piece
    full: float = 0.7  # share of a window that must be plant
    fewest: int = 12  # windows, under which nothing is told


TEXTURE = TextureSettings()


@dataclass(frozen=True)
class Texture:
    """Edge density of the finest and of the broadest tenth of the windows (0..1), the middle
    (column, row) of one of each in pixels of what was given, and a window's side in these.
    """

    fine: float
    broad: float
    fine_at: tuple[float, float]
    broad_at: tuple[float, float]
    window: float

    @property
    def contrast(self) -> float:
        """How much finer the finest tenth is."""
        return self.fine - self.broad


def texture_of(light: np.ndarray, plant: np.ndarray) -> Texture | None:
    """Texture of the plant (bool h x w) in a picture's lightness (h, w), 0..100; None where there
    is too little plant.
    """
    if not plant.any():
        return None
    left, top, wide, high = cv2.boundingRect(plant.astype(np.uint8))
    part = np.s_[top : top + high, left : left + wide]
    scale = min(1.0, TEXTURE.long / max(wide, high))
    size = (max(1, round(wide * scale)), max(1, round(high * scale)))
    tone = cv2.resize(light[part].astype(np.float32), size, interpolation=cv2.INTER_AREA)
    own = cv2.resize(plant[part].astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.99
    # The outline itself is no texture of what lies inside it.
    inner = cv2.erode(own.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    across, down = (cv2.Sobel(tone, cv2.CV_32F, *way, ksize=3) / 8 for way in ((1, 0), (0, 1)))
    steep = (np.hypot(across, down) >= TEXTURE.steep) & inner
    rows, columns = size[1] // TEXTURE.window, size[0] // TEXTURE.window

    def by_window(mask: np.ndarray) -> np.ndarray:
        cut = mask[: rows * TEXTURE.window, : columns * TEXTURE.window].astype(float)
        return cut.reshape(rows, TEXTURE.window, columns, TEXTURE.window).mean(axis=(1, 3))

    if not rows or not columns:
        return None
    share = by_window(inner)
    full = share >= TEXTURE.full
    if full.sum() < TEXTURE.fewest:
        return None
    density = np.where(full, by_window(steep) / np.maximum(share, 1e-9), np.nan)
    fine, broad = np.nanpercentile(density, (90, 10))

    def middle(value: float) -> tuple[float, float]:
        row, column = np.unravel_index(int(np.nanargmin(np.abs(density - value))), density.shape)
        return left + (column + 0.5) * TEXTURE.window / scale, top + (
            row + 0.5
        ) * TEXTURE.window / scale

    return Texture(float(fine), float(broad), middle(fine), middle(broad), TEXTURE.window / scale)


def drawn(texture: Texture, scale: float) -> tuple[EvidenceMark, ...]:
    """A finest and a broadest window, in photograph pixels (`scale` is the raster's over the
    photograph's size).
    """
    out = []
    for (x, y), label, says in (
        (texture.fine_at, "fine", "Here the material is finest."),
        (texture.broad_at, "broad", "Here it is broadest."),
    ):
        half = texture.window / 2
        box = [
            ((x + a * half) / scale, (y + b * half) / scale)
            for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))
        ]
        out.append(EvidenceMark("outline", tuple(box), label, says))
    return tuple(out)
