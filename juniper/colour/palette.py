"""The palette of a piece: its main colours and their share of visible area."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np

from juniper.colour.circle import hue_name
from juniper.colour.spaces import srgb_from_lab, to_hex

LIGHTNESS_WEIGHT = 0.35  # shade within one flower must not split it
SMALLEST_SHARE = 0.03
MERGE_BELOW = 17.0


@dataclass(frozen=True)
class Swatch:
    """One colour of a palette: CIELAB mean, its name on the artists' circle, share of its part."""

    part: str
    lab: tuple[float, float, float]
    hex: str
    hue: str
    share: float


def palette_of(lab: np.ndarray, part: str, most: int = 7) -> tuple[tuple[Swatch, ...], np.ndarray]:
    """Main colours of pixels (n, 3) in CIELAB: (swatches by falling share, index (n,) into them).

    k-means (Lloyd 1982, seeded by k-means++) on a fixed sample with lightness weighed down, then
    clusters of one name, or nearer than MERGE_BELOW, are made one. Shares sum to 1.
    """
    count = len(lab)
    if count == 0:
        return (), np.zeros(0, np.int32)
    points = (lab * (LIGHTNESS_WEIGHT, 1.0, 1.0)).astype(np.float32)
    step = max(1, count // 6000)
    sample = points[::step]
    distinct = np.unique(sample.round() @ np.array([1e6, 1e3, 1.0]))  # one number for each colour
    clusters = min(most + 3, len(distinct))
    cv2.setRNGSeed(7)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 25, 0.3)
    if clusters > 1:
        _, _, centres = cv2.kmeans(sample, clusters, None, criteria, 2, cv2.KMEANS_PP_CENTERS)
    else:  # OpenCV takes a single pixel for three points of one value
        centres = sample.mean(axis=0, keepdims=True)
    index = _nearest(points, centres)
    groups = _merge(lab[::step], index[::step], clusters)
    index = groups[index]
    return _swatches(lab, index, part)


def _nearest(points: np.ndarray, centres: np.ndarray) -> np.ndarray:
    # |p-c|^2 = |p|^2 - 2 p.c + |c|^2; the first term does not choose.
    return np.argmin((centres**2).sum(1)[None, :] - 2 * points @ centres.T, axis=1)


def _merge(lab, index, clusters) -> np.ndarray:
    """Group number of each cluster."""
    group = np.arange(clusters)
    parts = {g: lab[index == g] for g in group if (index == g).any()}
    colour, name = {}, {}

    def settle(g):
        # The brightest half carries the flower's own colour; the rest is its shade.
        bright = parts[g][parts[g][:, 0] >= np.median(parts[g][:, 0])]
        colour[g] = bright.mean(axis=0)
        name[g] = hue_name(colour[g])

    def apart(a, b) -> float:
        away = float(np.linalg.norm((colour[a] - colour[b]) * (LIGHTNESS_WEIGHT, 1, 1)))
        limit = 2.6 * MERGE_BELOW if name[a] == name[b] else 0.55 * MERGE_BELOW
        if min(len(parts[a]), len(parts[b])) < SMALLEST_SHARE * len(lab):
            limit = max(limit, 4 * MERGE_BELOW)
        return away / limit

    for g in parts:
        settle(g)
    while len(parts) > 1:
        score, a, b = min((apart(a, b), a, b) for a, b in combinations(parts, 2))
        if score >= 1:
            break
        parts[a] = np.concatenate([parts[a], parts.pop(b)])
        settle(a)
        group[group == b] = a
    return group


def _swatches(lab, index, part) -> tuple[tuple[Swatch, ...], np.ndarray]:
    names, counts = np.unique(index, return_counts=True)
    order = np.argsort(-counts)
    out = []
    renamed = np.zeros(names.max() + 1, np.int32)
    for place, which in enumerate(order):
        pixels = lab[index == names[which]]
        renamed[names[which]] = place
        typical = pixels[pixels[:, 0] >= np.percentile(pixels[:, 0], 35)].mean(axis=0)
        out.append(
            Swatch(
                part=part,
                lab=tuple(float(v) for v in typical),
                hex=to_hex(srgb_from_lab(typical)),
                hue=hue_name(typical),
                share=float(counts[which] / len(lab)),
            )
        )
    return tuple(out), renamed[index]
