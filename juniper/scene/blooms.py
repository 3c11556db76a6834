"""Single blooms among the petals of one colour, and the part each plays."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.colour.palette import Swatch
from juniper.scene.datum import Datum

CREVICE = 9  # pixels: dark gaps between the petals of one bloom, closed before it is measured


@dataclass(frozen=True)
class Bloom:
    """A visible bloom: centre and equivalent radius in pixels, its colour and proposed role.

    `swatch` is its place in the flower palette; `role` is focal, mass, line or filler.
    """

    centre: tuple[float, float]
    radius: float
    hex: str
    hue: str
    swatch: int
    role: str = "mass"
    slender: float = 1.0

    def scaled(self, factor: float) -> Bloom:
        """The same bloom in a picture enlarged by `factor`."""
        return replace(self, centre=(self.centre[0] * factor, self.centre[1] * factor), radius=self.radius * factor)


def find_blooms(flowers: np.ndarray, palette: tuple[Swatch, ...]) -> tuple[Bloom, ...]:
    """Blooms in a raster of flower colours (int h x w; 0 none, i the palette's i-th swatch).

    Each colour's parts are cut at their narrows: every pixel goes to the peak of the distance
    transform in whose disc it lies deepest (power diagram; Aurenhammer 1987). Parts below 1 in
    700 of all petals are left out.
    """
    total = int((flowers > 0).sum())
    if total == 0:
        return ()
    out = []
    smallest = max(12, total / 700)
    for index, swatch in enumerate(palette, start=1):
        mask = (flowers == index).astype(np.uint8)
        mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (CREVICE, CREVICE)))
        mask = cv2.morphologyEx(mask, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
        for part in _parts(mask):
            area = int(part[0].sum())
            if area >= smallest:
                out.append(_bloom(*part, index, swatch))
    return tuple(out)


def _parts(mask: np.ndarray):
    """Yield (mask of one bloom, x offset, y offset)."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
    for i in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[i])
        if area < 12:
            continue
        piece = np.pad((labels[y : y + h, x : x + w] == i).astype(np.uint8), 2)
        filled = cv2.morphologyEx(piece, cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
        depth = cv2.GaussianBlur(cv2.distanceTransform(filled, cv2.DIST_L2, 5), (0, 0), 1.5)
        widest = float(depth.max())
        reach = max(3, int(0.9 * widest)) | 1
        peaks = (depth == cv2.dilate(depth, np.ones((reach, reach), np.uint8))) & (depth > max(2.0, 0.45 * widest))
        found, _, _, middles = cv2.connectedComponentsWithStats(peaks.astype(np.uint8))
        if found <= 2:
            yield piece, x - 2, y - 2
            continue
        ys, xs = np.nonzero(piece)
        at = middles[1:]
        deep = depth[np.round(at[:, 1]).astype(int), np.round(at[:, 0]).astype(int)]
        power = (xs[:, None] - at[:, 0]) ** 2 + (ys[:, None] - at[:, 1]) ** 2 - deep**2
        nearest = np.argmin(power, axis=1)
        for k in range(found - 1):
            part = np.zeros_like(piece)
            part[ys[nearest == k], xs[nearest == k]] = 1
            yield part, x - 2, y - 2


def _bloom(part: np.ndarray, x: int, y: int, index: int, swatch: Swatch) -> Bloom:
    ys, xs = np.nonzero(part)
    spread = np.cov(np.stack([xs, ys])) if len(xs) > 2 else np.eye(2)
    small, large = np.sqrt(np.maximum(np.linalg.eigvalsh(spread), 0.25))
    return Bloom(
        centre=(float(xs.mean()) + x, float(ys.mean()) + y),
        radius=float(np.sqrt(len(xs) / np.pi)),
        hex=swatch.hex,
        hue=swatch.hue,
        swatch=index,
        slender=float(large / small),
    )


def give_roles(blooms: tuple[Bloom, ...], datum: Datum, plant_height: float) -> tuple[Bloom, ...]:
    """Propose a role for each bloom: slender ones are line, the largest low one and its likes near
    it focal, those under a third of its breadth filler, the rest mass."""
    if not blooms:
        return ()
    full = [b for b in blooms if b.slender < 2.6] or list(blooms)
    height = np.array([np.dot(np.subtract(b.centre, datum.rim), datum.up) for b in full]) / max(plant_height, 1.0)
    low = np.exp(-0.5 * (np.clip(height - 0.33, 0, None) / 0.3) ** 2)
    # A bloom counts with its likes close by: a group of three leads as one.
    spots, area = np.array([b.centre for b in full]), np.array([b.radius**2 for b in full])
    apart = np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1)) / max(
        0.1 * plant_height, 0.1 * float(np.ptp(spots[:, 0])), 1.0
    )
    like = np.array([b.swatch for b in full])
    near = np.exp(-(apart**2)) * np.where(like[:, None] == like[None], 1.0, 0.4)
    appeal = np.sqrt((near * area[None]).sum(axis=1)) * low
    chief = full[int(np.argmax(appeal))]
    out = []
    for bloom in blooms:
        near = np.hypot(*np.subtract(bloom.centre, chief.centre)) < 3.2 * chief.radius
        if bloom is chief or (near and bloom.swatch == chief.swatch and bloom.radius > 0.7 * chief.radius):
            role = "focal"
        elif bloom.slender >= 2.6:
            role = "line"
        elif bloom.radius < 0.3 * chief.radius:
            role = "filler"
        else:
            role = "mass"
        out.append(replace(bloom, role=role))
    return tuple(out)


def focal_point(blooms: tuple[Bloom, ...]) -> tuple[float, float] | None:
    """The suggested focal point: the area-weighted middle of the focal bloom or group."""
    focal = [b for b in blooms if b.role == "focal"]
    if not focal:
        return None
    weight = np.array([b.radius**2 for b in focal])
    middle = (np.array([b.centre for b in focal]) * weight[:, None]).sum(axis=0) / weight.sum()
    return float(middle[0]), float(middle[1])
