"""The piece's outline at the picture's own fineness: what the network saw, and what the colours
about each pixel say.

The network's grid is coarser than a stem. About each place the colours of what is likely ground,
container and plant are read as normal distributions (normalised convolution; Knutsson & Westin
1993), and each pixel goes by both (Bayes), as in Bayesian matting (Chuang et al. 2001).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.parts import Part

GROUND, VESSEL, PLANT = range(3)


@dataclass(frozen=True)
class Colours:
    """How colours are read and believed."""

    shrink: int = 4  # pixels of the picture to one at which colours are averaged
    near: float = 5.0  # of those pixels: one standard deviation of what counts as about a place
    far: float = 24.0  # the same where nothing of a kind is near
    lent: float = 0.02  # what far colours weigh beside near ones
    grain: float = 3.0  # CIELAB units: spread that any surface has
    light: float = 0.8  # what lightness counts beside a* and b*: shade changes it most
    believed: float = 1.0  # of the colours' log likelihood, since neighbours are alike
    most: float = 5.0  # nats that colour may say either way
    surest: float = 0.004  # probability that any kind has at the least
    sure: float = 0.97  # probability from which a pixel is not asked


COLOURS = Colours()


def outlined(likely: np.ndarray, lab: np.ndarray, settings: Colours = COLOURS) -> np.ndarray:
    """Probability (3, h, w) of ground, container and plant at each pixel, from those of each Part
    (6, h, w) and the picture in CIELAB (float32 h x w x 3).
    """
    kinds = np.stack(
        [
            likely[Part.NOT_PIECE] + likely[Part.SUPPORT] + likely[Part.OTHER_VESSEL],
            likely[Part.CONTAINER],
            likely[Part.LEAF] + likely[Part.PETAL],
        ]
    )
    unsure = kinds.max(0) < settings.sure
    if not unsure.any():
        return kinds
    unsure = cv2.dilate(unsure.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    ys, xs = np.nonzero(unsure)
    own = lab[ys, xs]
    told = np.stack([-_misfit(kinds[k], lab, own, ys, xs, settings) for k in range(3)])
    told = np.clip(settings.believed * (told - told.max(0)), -settings.most, 0)
    log = np.log(np.maximum(kinds[:, ys, xs], settings.surest)) + told
    now = np.exp(log - log.max(0))
    out = kinds.copy()
    out[:, ys, xs] = now / now.sum(0)
    return out


def _misfit(
    weight: np.ndarray,
    lab: np.ndarray,
    own: np.ndarray,
    ys: np.ndarray,
    xs: np.ndarray,
    settings: Colours,
) -> np.ndarray:
    """Minus the log density of pixels' colours `own` (n, 3) at (ys, xs) among those about them that
    are likely of a kind (`weight`, h x w).
    """
    s = settings.shrink
    size = (max(1, lab.shape[1] // s), max(1, lab.shape[0] // s))
    weight = weight**2  # what is half likely counts a quarter
    at = ((xs + 0.5) / s - 0.5).astype(np.float32), ((ys + 0.5) / s - 0.5).astype(np.float32)
    # remap takes no more than 32767 rows or columns.
    rows = -(-len(xs) // 16384) * 16384
    grid = [np.pad(a, (0, rows - len(a))).reshape(-1, 16384) for a in at]

    def about(plane: np.ndarray) -> np.ndarray:
        small = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
        coarse = cv2.resize(
            small, (max(1, size[0] // 4), max(1, size[1] // 4)), interpolation=cv2.INTER_AREA
        )
        coarse = cv2.GaussianBlur(coarse, (0, 0), settings.far / 4)
        total = cv2.GaussianBlur(small, (0, 0), settings.near) + settings.lent * cv2.resize(
            coarse, size, interpolation=cv2.INTER_LINEAR
        )
        return cv2.remap(
            total, grid[0], grid[1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        ).ravel()[: len(xs)]

    looked = np.stack(
        [about(weight * c) for c in cv2.split(lab)]
        + [about(weight * c * c) for c in cv2.split(lab)]
        + [about(weight)],
        1,
    )
    total = np.maximum(looked[:, 6:], 1e-9)
    mean = looked[:, :3] / total
    spread = np.maximum(looked[:, 3:6] / total - mean**2, 0) + settings.grain**2
    scale = np.array([settings.light, 1.0, 1.0], np.float32)
    return (scale * (0.5 * (own - mean) ** 2 / spread + 0.5 * np.log(spread))).sum(1)
