"""Single blooms among the petals of one colour, and the part each plays."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.colour.palette import Swatch
from juniper.scene.datum import Datum

CREVICE = 7  # pixels: dark gaps between the petals of one bloom, closed before it is measured
ONE_HUE = 25.0  # degrees of CIELAB hue within which two colours may be sides of one bloom
APART = 1.6  # times a bloom's depth: how far the middle of the next one lies off
GLIMPSE, THIN = 0.45, 0.2  # of the typical bloom's radius: what is smaller, or less deep, is a glimpse between leaves
SPECK, ROUND, ALONE = 0.22, 0.6, 1.6  # a smaller one counts if it is round, and this many radii from any larger
ROLES = ("focal", "mass", "line", "filler", "foliage")


@dataclass(frozen=True)
class Bloom:
    """A visible bloom: centre and equivalent radius in pixels, its colour and proposed role.

    `swatch` is its place in the flower palette; `role` is one of ROLES. As an ellipse its axes are in the ratio `slender`, the longer one
    `angle` degrees from level, clockwise in the picture.
    """

    centre: tuple[float, float]
    radius: float
    hex: str
    hue: str
    swatch: int
    role: str = "mass"
    slender: float = 1.0
    angle: float = 0.0

    @property
    def half_axes(self) -> tuple[float, float]:
        """Longer and shorter half axis of its ellipse, pixels; their product is the radius squared."""
        return self.radius * self.slender**0.5, self.radius / self.slender**0.5

    def scaled(self, factor: float) -> Bloom:
        """The same bloom in a picture enlarged by `factor`."""
        return replace(self, centre=(self.centre[0] * factor, self.centre[1] * factor), radius=self.radius * factor)


def find_blooms(flowers: np.ndarray, palette: tuple[Swatch, ...]) -> tuple[Bloom, ...]:
    """Blooms in a raster of flower colours (int h x w; 0 none, i the palette's i-th swatch).

    Colours of one hue are taken together, since a bloom has a light and a shaded side. Their parts are cut at their
    narrows: peaks of the distance transform, the deepest first, each keeping others off as far as it is deep; every pixel
    goes to the peak in whose disc it lies deepest (power diagram; Aurenhammer 1987). Parts much smaller than the
    typical bloom of the picture are glimpses between leaves, and left out.
    """
    found = []
    for family in _families(palette):
        mask = np.isin(flowers, family).astype(np.uint8)
        found += [(_bloom(xs, ys, flowers, family, palette), depth) for xs, ys, depth in _parts(mask)]
    if not found:
        return ()
    typical = _typical(np.array([b.radius for b, _ in found]))
    large = [b for b, depth in found if b.radius > GLIMPSE * typical and depth > THIN * typical]
    small = [b for b, depth in found if SPECK * typical < b.radius <= GLIMPSE * typical and depth > ROUND * b.radius]
    return tuple(large + [b for b in small if all(_clear_of(b, other) for other in large)])


def _clear_of(small: Bloom, large: Bloom) -> bool:
    """Whether a small bloom stands by itself, and is no glimpse of a larger one."""
    return np.hypot(*np.subtract(small.centre, large.centre)) > ALONE * (small.radius + large.radius)


def _families(palette: tuple[Swatch, ...]) -> list[list[int]]:
    """Numbers of the swatches that may belong to one bloom: alike in hue, or all without much of one."""
    lab = np.array([s.lab for s in palette]).reshape(-1, 3)
    hue, chroma = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])), np.hypot(lab[:, 1], lab[:, 2])
    family = np.arange(len(palette))
    for i in range(len(palette)):
        for k in range(i):
            apart = abs((hue[i] - hue[k] + 180) % 360 - 180)
            alike = apart < ONE_HUE and min(chroma[i], chroma[k]) > 10 and abs(lab[i, 0] - lab[k, 0]) < 45
            if alike or max(chroma[i], chroma[k]) < 14:
                family[family == family[i]] = family[k]
    return [[int(i) + 1 for i in np.flatnonzero(family == f)] for f in np.unique(family)]


def _typical(radii: np.ndarray) -> float:
    """Radius of the bloom in which the middle petal lies: the median by area."""
    order = np.argsort(radii)
    share = np.cumsum(radii[order] ** 2)
    return float(radii[order][np.searchsorted(share, 0.5 * share[-1])])


def _parts(mask: np.ndarray):
    """Yield (columns, rows, depth) of each bloom in a mask of one colour family."""
    left, top, wide, high = cv2.boundingRect(mask)
    if wide == 0:
        return
    part = np.pad(mask[top : top + high, left : left + wide], CREVICE)
    part = cv2.morphologyEx(part, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (CREVICE, CREVICE)))
    part = cv2.morphologyEx(part, cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    depth = cv2.GaussianBlur(cv2.distanceTransform(part, cv2.DIST_L2, 5), (0, 0), 1.5)
    ys, xs = np.nonzero((depth == cv2.dilate(depth, np.ones((5, 5), np.uint8))) & (depth > 2))
    peaks: list[tuple[int, int, float]] = []
    for k in np.argsort(-depth[ys, xs], kind="stable"):
        x, y, deep = int(xs[k]), int(ys[k]), float(depth[ys[k], xs[k]])
        if all((x - a) ** 2 + (y - b) ** 2 > (APART * c + 2) ** 2 for a, b, c in peaks):
            peaks.append((x, y, deep))
    if not peaks:
        return
    at = np.array(peaks)
    ys, xs = np.nonzero(part)
    power = (xs[:, None] - at[:, 0]) ** 2 + (ys[:, None] - at[:, 1]) ** 2 - at[:, 2] ** 2
    nearest = np.argmin(power, axis=1)
    deep = at[nearest, 2]
    far = np.sqrt(np.maximum(0, power[np.arange(len(xs)), nearest] + deep**2))
    near = far < 3 * deep + 3  # a long tail of petals is no part of a bloom
    for k in range(len(at)):
        own = near & (nearest == k)
        if own.sum() >= 12:
            yield xs[own] + left - CREVICE, ys[own] + top - CREVICE, float(at[k, 2])


def _bloom(xs: np.ndarray, ys: np.ndarray, flowers: np.ndarray, family: list[int], palette) -> Bloom:
    height, width = flowers.shape
    inside = (xs >= 0) & (ys >= 0) & (xs < width) & (ys < height)
    count = np.bincount(flowers[ys[inside], xs[inside]], minlength=len(palette) + 1)
    index = max(family, key=lambda i: count[i])
    swatch = palette[index - 1]
    spread = np.cov(np.stack([xs, ys]))
    values, vectors = np.linalg.eigh(spread)
    small, large = np.sqrt(np.maximum(values, 0.25))
    return Bloom(
        centre=(float(xs.mean()), float(ys.mean())),
        radius=float(np.sqrt(len(xs) / np.pi)),
        hex=swatch.hex,
        hue=swatch.hue,
        swatch=index,
        slender=float(large / small),
        angle=float(np.degrees(np.arctan2(vectors[1, 1], vectors[0, 1]))) % 180,
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
