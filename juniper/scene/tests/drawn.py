"""Drawn pictures of a vase with a plant in it, whose truth is known by construction."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

SIZE = (480, 640)

# Half widths from foot to rim, pixels.
SHAPES = {
    "cylinder": (56, 56, 56, 56, 56),
    "flared": (40, 40, 46, 56, 70),
    "jar": (44, 66, 78, 66, 46, 44),
    "urn": (50, 24, 22, 50, 76, 80, 74),
}


@dataclass(frozen=True, eq=False)
class Drawn:
    """CIELAB picture (float32 h x w x 3), true masks (h, w) of container and plant, and the axis's
    base and rim points.
    """

    lab: np.ndarray
    container: np.ndarray
    plant: np.ndarray
    base: tuple[float, float]
    rim: tuple[float, float]
    half: tuple[float, ...]

    @property
    def pixels(self) -> np.ndarray:
        """The picture as sRGB (uint8 h x w x 3)."""
        return np.clip(np.round(255 * cv2.cvtColor(self.lab, cv2.COLOR_LAB2RGB)), 0, 255).astype(
            np.uint8
        )


def drawn(
    shape="cylinder", glaze=(48, 4, -22), wall=(78, 1, 6), lean=0.0, height=190, leaves=True, seed=3
) -> Drawn:
    """A vase of a shape, lit from the left, with round flowers and leaves above it, some before its
    rim; leaning by degrees.
    """
    rng = np.random.default_rng(seed)
    w, h = SIZE
    base, rim, half = (w / 2, 560.0), (w / 2, 560.0 - height), SHAPES[shape]
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    lab = np.zeros((h, w, 3), np.float32)
    lab[:] = wall
    lab[..., 0] -= 0.01 * x
    lab[470:] = (56, 9, 22)
    reach = np.interp(y[:, 0], np.linspace(rim[1], base[1], len(half)), half[::-1])
    across = (x - base[0]) / reach[:, None]
    container = (np.abs(across) <= 1) & (y >= rim[1]) & (y <= base[1])
    ellipse = np.zeros((h, w), np.uint8)
    cv2.ellipse(
        ellipse, (int(base[0]), int(base[1])), (half[0], round(0.16 * half[0])), 0, 0, 180, 1, -1
    )
    container |= ellipse > 0
    shade = 1.08 - 0.34 * np.clip((across + 1) / 2, 0, 1)
    lab[container] = (np.array(glaze, np.float32) * shade[..., None])[container]
    plant = np.zeros((h, w), np.uint8)
    greens, petals = (
        [(40, -18, 22), (52, -14, 26), (30, -12, 14)],
        [(45, 58, 30), (74, 14, 66), (86, 2, 4)],
    )
    for k in range(230 if leaves else 120):
        a, far = rng.uniform(0, np.pi), np.sqrt(rng.uniform(0, 1))
        at = (int(base[0] + 120 * far * np.cos(a)), int(rim[1] - 8 - 190 * far * np.sin(a)))
        colour = np.array(greens[k % 3] if k % 4 else petals[k % 3], float) * rng.uniform(0.8, 1.15)
        size = (
            (int(rng.integers(5, 13)), int(rng.integers(3, 7)))
            if k % 4
            else (int(rng.integers(10, 20)),) * 2
        )
        spot = np.zeros((h, w), np.uint8)
        cv2.ellipse(spot, at, size, float(rng.uniform(0, 180)), 0, 360, 1, -1)
        lab[spot > 0] = colour + rng.normal(0, 3, (int((spot > 0).sum()), 3))
        plant |= spot
    for k in range(9 if leaves else 0):
        at = (int(base[0] + rng.uniform(-1, 1) * half[-1]), int(rim[1] + rng.uniform(0, 14)))
        spot = np.zeros((h, w), np.uint8)
        cv2.ellipse(spot, at, (6, 15), float(rng.uniform(-30, 30)), 0, 360, 1, -1)
        lab[spot > 0] = np.array(greens[k % 3], float) + rng.normal(
            0, 3, (int((spot > 0).sum()), 3)
        )
        plant |= spot
    container &= plant == 0
    lab = cv2.GaussianBlur(lab, (0, 0), 0.8) + rng.normal(0, 0.7, lab.shape).astype(np.float32)
    masks = [container.astype(np.uint8), plant]
    if lean:
        turn = cv2.getRotationMatrix2D(base, -lean, 1)
        lab = cv2.warpAffine(
            lab, turn, SIZE, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        )
        masks = [cv2.warpAffine(m, turn, SIZE, flags=cv2.INTER_NEAREST) for m in masks]
        base, rim = (tuple(float(v) for v in turn @ [*p, 1]) for p in (base, rim))
    return Drawn(lab.astype(np.float32), masks[0] > 0, masks[1] > 0, base, rim, half)
