"""What the network that sees petals is taught with: cuttings of invented pieces, recoloured,
turned, blurred and dimmed.

Flowers are recoloured by their hue, green and white more often than they grow, and leaves a little,
so that shape has to be learnt and colour alone never tells.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.camera.random_pieces import Lesson
from juniper.scene.petals import LEAF, LONG, OTHER, PETAL, ROOM, STEP, STRIDE

SIDE = 256  # pixels of a cutting
# groups of hue in which flowers are recoloured together; one more for those without much of one
HUES = 9
SMALLEST = 8  # pixels of the grid of a bloom that has a middle worth learning
USUAL = 12.0  # pixels of the grid across a bloom; smaller ones weigh more at each pixel


@dataclass(frozen=True, eq=False)
class Page:
    """One cutting: `picture` float32 (3, SIDE, SIDE); on the grid `parts` int64 (n, n), `middle`
    (n, n), `toward` (2, n, n) in steps, and `weight` (n, n) of each petal's step.
    """

    picture: np.ndarray
    parts: np.ndarray
    middle: np.ndarray
    toward: np.ndarray
    weight: np.ndarray


class Book:
    """Lessons, and the middle and size of each of their blooms, from which pages are cut at
    random.
    """

    def __init__(self, lessons: list[Lesson], rng: np.random.Generator):
        self.lessons, self.rng = lessons, rng
        self.middles = [_middles(one.blooms) for one in lessons]
        self.pieces = [np.nonzero((one.labels == 2) | (one.labels == 3)) for one in lessons]

    def page(self) -> Page:
        """A cutting about some place of some piece."""
        rng = self.rng
        which = int(rng.integers(len(self.lessons)))
        one, (ys, xs) = self.lessons[which], self.pieces[which]
        scale = LONG / (1 + 2 * ROOM) / max(np.ptp(ys), np.ptp(xs)) * np.exp(rng.normal(0, 0.22))
        at = int(rng.integers(len(ys)))
        cx, cy = xs[at] + rng.normal(0, 40), ys[at] + rng.normal(0, 40)
        move = cv2.getRotationMatrix2D((float(cx), float(cy)), rng.normal(0, 4), scale)
        move[:, 2] += SIDE / 2 - np.array([cx, cy])
        if rng.random() < 0.5:
            move = np.array([[-1.0, 0, SIDE - 1], [0, 1, 0]]) @ np.vstack([move, [0, 0, 1]])
        size, near = (SIDE, SIDE), cv2.INTER_NEAREST
        picture = cv2.warpAffine(
            one.picture, move, size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
        )
        labels = cv2.warpAffine(one.labels, move, size, flags=near, borderMode=cv2.BORDER_REPLICATE)
        blooms = cv2.warpAffine(one.blooms.astype(np.float32), move, size, flags=near).astype(
            np.int32
        )
        picture = (
            recoloured(picture, labels, blooms, rng)
            if rng.random() < 0.85
            else picture.astype(np.float32) / 255
        )
        parts = np.where(labels == 3, LEAF, np.where(labels == 4, OTHER, labels)).astype(np.int64)
        parts[blooms > 0] = PETAL
        grid = np.s_[STRIDE // 2 :: STRIDE, STRIDE // 2 :: STRIDE]
        middle, toward, weight = self._targets(which, blooms[grid], move, scale)
        return Page(_taken(picture, rng), parts[grid], middle, toward, weight)

    def _targets(self, which: int, blooms: np.ndarray, move: np.ndarray, scale: float):
        n = len(blooms)
        y, x = np.mgrid[0:n, 0:n].astype(np.float32)
        middle, toward, weight = (
            np.zeros((n, n), np.float32),
            np.zeros((2, n, n), np.float32),
            np.zeros((n, n), np.float32),
        )
        for k in np.unique(blooms[blooms > 0]):
            column, row, size = self.middles[which][int(k)]
            px, py = move @ [column, row, 1.0] / STRIDE
            own = blooms == k
            toward[0][own], toward[1][own] = (px - x[own]) / STEP, (py - y[own]) / STEP
            area = size * scale**2 / STRIDE**2
            weight[own] = 1 / max(1.0, np.sqrt(area) / USUAL)
            if area >= SMALLEST:
                wide = max(1.3, 0.28 * np.sqrt(area / np.pi))
                middle = np.maximum(
                    middle, np.exp(-((x - round(px)) ** 2 + (y - round(py)) ** 2) / (2 * wide**2))
                )
        return middle, toward, weight


def _middles(blooms: np.ndarray) -> dict[int, tuple[float, float, int]]:
    """Middle (column, row) and pixels of each bloom."""
    out = {}
    for k in np.unique(blooms[blooms > 0]):
        ys, xs = np.nonzero(blooms == k)
        out[int(k)] = (float(xs.mean()), float(ys.mean()), len(ys))
    return out


def recoloured(
    picture: np.ndarray, labels: np.ndarray, blooms: np.ndarray, rng: np.random.Generator
) -> np.ndarray:
    """A cutting with other colours, its light and shade kept: float32 (h, w, 3) sRGB 0..1."""
    lab = cv2.cvtColor(picture.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    present = np.unique(blooms[blooms > 0])
    count = np.maximum(np.bincount(blooms.ravel()), 1)
    light, a, b = (np.bincount(blooms.ravel(), lab[..., i].ravel()) / count for i in range(3))
    group = ((np.degrees(np.arctan2(b, a)) // (360 / HUES)) % HUES).astype(int)
    group[np.hypot(a, b) < 10] = HUES
    turn = np.radians(rng.normal(0, 1, HUES + 1) * rng.choice([8, 60, 180]))
    chroma, lightness = np.exp(rng.normal(0, 0.25, HUES + 1)), np.exp(rng.normal(0, 0.12, HUES + 1))
    tint = rng.normal(0, 1, (HUES + 1, 2)) * rng.choice([0, 0, 12, 30])
    groups = np.unique(group[present])
    if len(groups) and rng.random() < 0.2:  # green flowers
        k = rng.choice(groups)
        own = present[group[present] == k]
        turn[k] = np.radians(rng.normal(118, 12)) - np.arctan2(b[own].mean(), a[own].mean())
        chroma[k] = np.exp(rng.normal(-0.1, 0.3))
    if len(groups) and rng.random() < 0.35:  # white ones
        for k in groups if rng.random() < 0.5 else [rng.choice(groups)]:
            own = present[group[present] == k]
            chroma[k], tint[k] = rng.uniform(0.03, 0.25), rng.normal(0, 3, 2)
            lightness[k] = np.clip(rng.uniform(55, 88) / max(20.0, light[own].mean()), 0.7, 3.5)
    whose = np.where(blooms > 0, group[blooms], -1)
    for k in groups:
        _repaint(lab, whose == k, turn[k], chroma[k], tint[k], lightness[k])
    leaf = (labels == 3) & (blooms == 0)
    silver = rng.random() < 0.12  # leaves as pale and grey as many a petal
    deep, bright = (
        (rng.uniform(0.2, 0.6), rng.uniform(1.0, 1.6))
        if silver
        else np.exp(rng.normal(0, (0.3, 0.18)))
    )
    _repaint(lab, leaf, np.radians(rng.normal(0, 14)), deep, rng.normal(0, 2, 2), bright)
    for k in (0, 1, 2, 4):
        about = rng.uniform(0, 2 * np.pi) if rng.random() < 0.5 else 0.0
        tinge = rng.normal(0, 1, 2) * rng.choice([0, 4, 14])
        _repaint(
            lab, labels == k, about, np.exp(rng.normal(0, 0.3)), tinge, np.exp(rng.normal(0, 0.15))
        )
    return np.clip(cv2.cvtColor(lab, cv2.COLOR_LAB2RGB), 0, 1)


def _repaint(
    lab: np.ndarray, where: np.ndarray, turn: float, chroma: float, tint, lightness: float
) -> None:
    """Turn the hue, stretch the chroma and lightness, and tinge a part of a CIELAB picture in
    place; lights run out softly.
    """
    if not where.any():
        return
    light, a, b = lab[where].T
    brighter = light * lightness
    brighter = np.where(brighter > 80, 80 + 19 * np.tanh((brighter - 80) / 30), brighter)
    tinge = np.asarray(tint)[:, None] * light / 100
    lab[where] = np.stack(
        [
            brighter,
            chroma * (np.cos(turn) * a - np.sin(turn) * b) + tinge[0],
            chroma * (np.sin(turn) * a + np.cos(turn) * b) + tinge[1],
        ]
    ).T


def _taken(picture: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """As a phone would take it: exposure, light, blur and noise; float32 (3, h, w)."""
    out = np.clip(
        picture * np.exp(rng.normal(0, 0.18)) * np.exp(rng.normal(0, 0.07, 3)), 0, 1
    ) ** np.exp(rng.normal(0, 0.15))
    if rng.random() < 0.5:
        out = cv2.GaussianBlur(out, (0, 0), rng.uniform(0.3, 1.1))
    out = out + rng.normal(0, rng.uniform(0, 0.02), out.shape)
    return out.transpose(2, 0, 1).astype(np.float32)
