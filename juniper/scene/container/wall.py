"""The container's wall by its colour: a turned wall keeps its colour and shade along each upright
line.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.container.profile import Profile, band_of
from juniper.scene.segment.ground import gradient


@dataclass(frozen=True)
class WallSettings:
    """What belongs to a container's wall.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    above: float = 0.5  # of its height: how far above the end of the sides the rim may lie
    below: float = 0.1  # and how far below their beginning its foot
    # of the wall's colour: upright lines and levels it is read at
    lines: int = 22
    levels: int = 6
    like: float = 10.0  # CIELAB units from the wall's colour, lightness counted less
    tinted: float = 15.0  # CIELAB chroma of a wall with a colour of its own
    darkest: float = 0.35  # of its lightness: the deepest shade on a wall
    clear: float = 0.55  # share of the wall that fits its colour, below which it is seen through


WALLS = WallSettings()


@dataclass(frozen=True, eq=False)
class Wall:
    """The container's wall in a picture: which pixels show it, and whether it is seen through.

    `mask` (h, w) is what is seen of it; `plant` (h, w) what grows before it and over it, within
    `outline` (h, w), which is its own outline carried on upward; its rim lies within that.
    """

    mask: np.ndarray
    plant: np.ndarray
    outline: np.ndarray
    clear: bool


def see_wall(lab: np.ndarray, profile: Profile, standing: np.ndarray) -> Wall:
    """What is seen of the wall within its outline, in a CIELAB picture (float32 h x w x 3) whose
    `standing` pixels are no ground.

    A turned wall keeps its colour and shade along each upright line, so its colour is read line by
    line (medians across leaves), with a slow change up and down. What is unlike it is plant where
    it hangs together with plant beyond the outline; else it is a light or a shade on the wall.
    """
    band, across = band_of(profile, lab.shape[:2], WALLS.above, WALLS.below)
    count = len(profile.half)
    top, foot = profile.rows[-1], profile.foot[1]
    ys, xs = np.nonzero(band)
    y0, y1, x0, x1 = ys.min(), ys.max() + 1, xs.min(), xs.max() + 1
    part = np.s_[y0:y1, x0:x1]
    colours, u, inside = lab[part], across[part], band[part]
    level = (foot - np.arange(y0, y1)) / max(1, count)
    sample = inside & ((level > 0.06) & (level < 0.8))[:, None]
    model = _wall_model(colours, u, level, sample)
    within = (np.arange(y0, y1) >= top)[:, None]
    # On a wall with a colour of its own a shade is told from a dark leaf above the sides' end, too.
    coloured = np.hypot(model[..., 1], model[..., 2]) > WALLS.tinted
    like = inside & (
        _away(colours, model, (within | coloured) & (level > 0.15)[:, None]) < WALLS.like
    )
    like &= standing[part] | (level > 0)[:, None]
    if (sample & like).any():
        # Pale flowers over the rim of a pale vase are told from it by their folds.
        folds = cv2.blur(gradient(np.ascontiguousarray(colours)), (7, 7))
        like &= within | coloured | (folds < 2 * np.median(folds[sample & like]) + 1.0)
    clear = float(like[sample].mean()) < WALLS.clear
    foreground = standing[part]
    if clear:
        mask = inside & within
        growth = inside & foreground & ~within
    else:
        like = (
            cv2.morphologyEx(like.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
        )
        other = inside & ~like
        growth = (
            other
            & foreground
            & _joined(other & foreground, _edge_of_plant(inside, foreground, within, level))
        )
        # Lights and shades on the wall are wall; about the foot only what stands is.
        mask = like | (
            within
            & other
            & ~growth
            & ((foreground & (level > 0)[:, None]) | (level > 0.12)[:, None])
        )
        _, parts, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
        # What looks like wall above a leaf that lies across it is wall, if there is enough of it
        # and it ends at a side.
        kept = stats[:, cv2.CC_STAT_AREA] > 0.015 * mask.sum()
        main = stats[1:, cv2.CC_STAT_AREA].max(initial=0)
        at_side = np.zeros(len(stats), bool)
        at_side[np.unique(parts[np.abs(u) > 0.9])] = True
        near = stats[:, cv2.CC_STAT_TOP] + stats[:, cv2.CC_STAT_HEIGHT] > top - y0 - 0.2 * count
        kept &= (near & at_side) | (stats[:, cv2.CC_STAT_AREA] > 0.3 * main)
        kept[0] = False
        mask = kept[parts]
        growth |= inside & foreground & ~within
        growth &= ~mask
    seen, grown_over = np.zeros(lab.shape[:2], bool), np.zeros(lab.shape[:2], bool)
    seen[part], grown_over[part] = mask, growth
    return Wall(seen, grown_over, band, clear)


def _edge_of_plant(inside, foreground, within, level) -> np.ndarray:
    """Where plant beyond the outline meets it: (h, w). Low down there is only the wall's own edge
    and its shadow.
    """
    beyond = foreground & ~inside & (level > 0.35)[:, None]
    return (cv2.dilate(beyond.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) | ~within


def _joined(mask: np.ndarray, to: np.ndarray) -> np.ndarray:
    """The parts of a mask (h, w) that meet another."""
    number, parts = cv2.connectedComponents(mask.astype(np.uint8), connectivity=4)
    hit = np.bincount(parts[to & mask], minlength=number) > 0
    hit[0] = False
    return hit[parts]


def _away(colours: np.ndarray, model: np.ndarray, shaded: np.ndarray) -> np.ndarray:
    """CIELAB distance of a wall's pixels from its expected colour; leaves throw shades on it, so
    less light counts little where it may be `shaded`.
    """
    light, a, b = cv2.split(np.ascontiguousarray(colours))
    want, want_a, want_b = cv2.split(np.ascontiguousarray(model, dtype=np.float32))
    ratio = np.clip(light / np.maximum(want, 1.0), 0.0, 1.0)
    weight = np.where(
        shaded & (ratio < 1) & (ratio > WALLS.darkest), np.float32(0.16), np.float32(0.42)
    )
    shade = np.minimum(
        cv2.magnitude(a - want_a, b - want_b), cv2.magnitude(a - ratio * want_a, b - ratio * want_b)
    )
    return cv2.magnitude(weight * np.abs(light - want), 1.3 * shade)


def _wall_model(colours, u, level, sample) -> np.ndarray:
    """Expected colour of the wall at each pixel: medians along upright lines and, of what is left,
    along levels.
    """
    model = np.zeros_like(colours)
    lines = np.clip(((u + 1) / 2 * WALLS.lines).astype(int), 0, WALLS.lines - 1)
    table = np.full((WALLS.lines, 3), np.nan, np.float32)
    order = np.argsort(lines[sample], kind="stable")
    ends = np.searchsorted(lines[sample][order], np.arange(WALLS.lines + 1))
    sampled = colours[sample][order]
    for k in range(WALLS.lines):
        seen = sampled[ends[k] : ends[k + 1]]
        if len(seen) >= 8:
            table[k] = np.median(seen, axis=0)
    known = np.flatnonzero(np.isfinite(table[:, 0]))
    if len(known) == 0:
        return np.broadcast_to(
            np.median(colours[sample], axis=0) if sample.any() else colours.mean((0, 1)),
            colours.shape,
        )
    at = np.clip((u + 1) / 2 * WALLS.lines - 0.5, 0, WALLS.lines - 1)
    for c in range(3):
        table[:, c] = np.interp(np.arange(WALLS.lines), known, table[known, c])
        table[:, c] = np.convolve(
            np.pad(table[:, c], 1, mode="edge"), (0.25, 0.5, 0.25), mode="valid"
        )
        model[..., c] = np.interp(at.ravel(), np.arange(WALLS.lines), table[:, c]).reshape(u.shape)
    steps = np.clip((level * WALLS.levels).astype(int), 0, WALLS.levels - 1)
    drift = np.full((WALLS.levels, 3), np.nan, np.float32)
    for k in range(WALLS.levels):
        rows = steps == k
        left = (colours[rows] - model[rows])[sample[rows]]
        if len(left) >= 20:
            drift[k] = np.clip(np.median(left, axis=0), -9, 9)
    known = np.flatnonzero(np.isfinite(drift[:, 0]))
    if len(known):
        for c in range(3):
            model[..., c] += np.interp(level * WALLS.levels - 0.5, known, drift[known, c])[:, None]
    return model
