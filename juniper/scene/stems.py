"""Main lines of a piece: curves from the rim to the tips that stand clear of the outline.

A stem is drawn as a quadratic Bezier curve through its bend: florists speak of its tip, its foot,
its lean and how it bends.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import cv2
import numpy as np

from juniper.scene.container.datum import Datum
from juniper.scene.parts import Label
from juniper.values import Point, point


@dataclass(frozen=True)
class StemSettings:
    """Where tips and feet of stems are looked for.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    spread: int = 115  # degrees from upright within which tips are looked for, each side
    step: float = 2.5  # degrees
    lowest: float = 0.6  # of the container's height below the rim: as far as a tip may trail
    clear: float = 0.07  # of the longest reach: a tip that stands less clear belongs to the mass
    most: int = 9  # stems
    seen: float = 0.5  # share of a line on which plant must show
    # of the picture's height: how near a place must come to a stem's tip to mean it
    near: float = 0.05
    samples: int = 48  # points along a line


STEM = StemSettings()


FEET = np.linspace(-0.7, 0.7, 7)  # of half the rim: where a stem may leave it
BENDS = np.linspace(-0.24, 0.24, 13)  # of the chord: how far a stem may bend to a side


@dataclass(frozen=True)
class Stem:
    """A main line: `tip` and `foot` (where it leaves the container) and the point `bend` halfway
    along it, pixels.

    `clear` is how far the tip stands clear of the outline beside it (pixels), `confidence` the
    share of the line on which plant shows; both are 0 and 1 for a stem drawn by a person.
    """

    tip: Point
    bend: Point
    foot: Point
    clear: float = 0.0
    confidence: float = 1.0

    @cached_property
    def curve(self) -> np.ndarray:
        """Points (STEM.samples, 2) from foot to tip."""
        t = np.linspace(0, 1, STEM.samples)[:, None]
        foot, middle, tip = (np.asarray(p, float) for p in (self.foot, self.bend, self.tip))
        control = 2 * middle - (foot + tip) / 2
        return (1 - t) ** 2 * foot + 2 * t * (1 - t) * control + t**2 * tip

    @cached_property
    def length(self) -> float:
        """Length of the visible line, pixels."""
        return float(np.hypot(*np.diff(self.curve, axis=0).T).sum())

    def lean(self, datum: Datum) -> float:
        """Degrees of its chord from the container's axis, positive to the viewer's right."""
        chord = np.subtract(self.tip, self.foot)
        return float(np.degrees(np.arctan2(chord @ datum.right, chord @ datum.up)))

    def scaled(self, factor: float) -> Stem:
        """The same stem in a picture enlarged by `factor`."""
        places: dict[str, Any] = {
            n: point(float(v) * factor for v in getattr(self, n)) for n in ("tip", "bend", "foot")
        }
        return replace(self, **places, clear=self.clear * factor)


@dataclass(frozen=True)
class StemChange:
    """One main line drawn, bent or dropped by a person. `line` is one of LINES; `at` the tip of the
    one meant, None for a new one; the other points are where it then runs. Photograph pixels.
    """

    line: str
    at: Point | None = None
    tip: Point | None = None
    bend: Point | None = None
    foot: Point | None = None


LINES = ("draw", "bend", "drop")


class NoStem(LookupError):
    """No main line ends where one was pointed at; the message tells what to do."""


def change_stems(stems: tuple[Stem, ...], change: StemChange, height: float) -> tuple[Stem, ...]:
    """The stems after one change; `height` is the picture's, in the same pixels. Raises NoStem, or
    ValueError for a change that cannot be made.
    """
    if change.line == "drop":
        which = stem_at(stems, change.at, height)
        return stems[:which] + stems[which + 1 :]
    if change.line not in LINES or change.tip is None or change.foot is None:
        raise ValueError("A stem needs a tip and a foot.")
    if np.hypot(*np.subtract(change.tip, change.foot)) < 0.01 * height:
        raise ValueError("Tip and foot are in the same place: draw from the tip down to the rim.")
    bend = change.bend or point(np.add(change.tip, change.foot) / 2)
    new = Stem(change.tip, bend, change.foot)
    if change.line == "draw":
        return (*stems, new)
    which = stem_at(stems, change.at, height)
    return (*stems[:which], replace(new, clear=stems[which].clear), *stems[which + 1 :])


def stem_at(stems: tuple[Stem, ...], at: Point | None, height: float) -> int:
    """Number of the stem whose tip lies nearest to a place. Raises NoStem when none is close."""
    away = [float(np.hypot(*np.subtract(s.tip, at))) for s in stems] if at else []
    if not away or min(away) > STEM.near * height:
        raise NoStem(
            "No stem ends there. Point at a tip, or draw one from its tip down to the rim."
        )
    return int(np.argmin(away))


@dataclass(frozen=True, eq=False)
class Trace:
    """What of a plant its lines are looked for on, whatever the datum: `edge` (n, 2) the middles of
    the pixels at its edge, where tips lie; `solid` (h, w) where plant shows, its cracks closed, and
    `worth` (h, w) what a line is worth there, more in a stem's middle.
    """

    edge: np.ndarray
    solid: np.ndarray
    worth: np.ndarray


def trace_of(labels: np.ndarray, breadth: np.ndarray | None = None) -> Trace:
    """The trace of the plant in a label raster (uint8 h x w); `breadth` (h, w) is each plant
    pixel's distance from the plant's edge, where known.
    """
    plant = (labels == Label.PLANT).astype(np.uint8)
    ys, xs = np.nonzero(plant & (1 - cv2.erode(plant, np.ones((3, 3), np.uint8))))
    solid = cv2.morphologyEx(plant, cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8)).astype(np.float32)
    breadth = cv2.distanceTransform(plant, cv2.DIST_L2, 3) if breadth is None else breadth
    return Trace(
        np.column_stack([xs + 0.5, ys + 0.5]),
        solid,
        solid + 0.05 * np.minimum(breadth, 6).astype(np.float32),
    )


def find_stems(trace: Trace, datum: Datum) -> tuple[Stem, ...]:
    """Main lines of a plant under a datum in the raster's pixels, the longest first.

    Tips are the peaks of the outline's reach about the rim point, direction by direction, that
    stand clear of what parts them from a longer one; each is led down to the rim along the curve on
    which most plant shows.
    """
    if len(trace.edge) < 20 or datum.height < 2:
        return ()
    step = trace.edge - np.asarray(datum.rim)
    along, side = step @ datum.up, step @ datum.right
    reach = np.hypot(along, side)
    bins = int(2 * STEM.spread / STEM.step)
    index = np.floor((np.degrees(np.arctan2(side, along)) + STEM.spread) / STEM.step).astype(int)
    ok = (
        (index >= 0)
        & (index < bins)
        & (reach > 0.5 * datum.rim_width)
        & (along > -STEM.lowest * datum.height)
    )
    if not ok.any():
        return ()
    profile, furthest = np.zeros(bins), np.full(bins, -1)
    order = np.flatnonzero(ok)[np.argsort(reach[ok], kind="stable")]
    profile[index[order]], furthest[index[order]] = reach[order], order
    out = []
    for i, clear in _peaks(profile):
        tip = point(trace.edge[furthest[i]])
        stem = _led_down(tip, clear, datum, trace.worth, trace.solid)
        if stem.confidence > STEM.seen:
            out.append(stem)
    return tuple(sorted(out, key=lambda s: -s.length))


def _peaks(profile: np.ndarray) -> list[tuple[int, float]]:
    """Peaks (bin, how far it stands clear) of the reach by direction: by the drop to the saddle
    that parts each from a longer one.
    """
    out = []
    for i in np.flatnonzero(profile > 0):
        before, after = profile[:i][::-1], profile[i + 1 :]
        if (len(before) and before[0] >= profile[i]) or (len(after) and after[0] > profile[i]):
            continue
        drops = []
        for part in (before, after):
            longer = np.flatnonzero(part > profile[i])
            if len(longer):
                drops.append(profile[i] - part[: longer[0] + 1].min())
        clear = float(min(drops)) if drops else float(profile[i])
        if clear > STEM.clear * profile.max():
            out.append((int(i), clear))
    return sorted(out, key=lambda peak: -peak[1])[: STEM.most]


def _led_down(tip: Point, clear: float, datum: Datum, worth: np.ndarray, solid: np.ndarray) -> Stem:
    """The curve from the rim to a tip on which most plant shows; a slight bend, and a foot near the
    axis, where they cost nothing.
    """
    feet = np.asarray(datum.rim) + 0.5 * datum.rim_width * FEET[:, None] * datum.right
    chord = np.asarray(tip) - feet
    across = np.column_stack([-chord[:, 1], chord[:, 0]])
    bends = (feet + chord / 2)[:, None] + BENDS[None, :, None] * across[:, None]  # feet x bends x 2
    control = 2 * bends - (feet + np.asarray(tip))[:, None] / 2
    t = np.linspace(0, 1, STEM.samples)[:, None]
    curves = (
        (1 - t) ** 2 * feet[:, None, None]
        + 2 * t * (1 - t) * control[:, :, None]
        + t**2 * np.asarray(tip)
    )
    score = _mean(worth, curves) - 0.4 * np.abs(BENDS)[None] - 0.04 * np.abs(FEET)[:, None]
    i, k = np.unravel_index(int(score.argmax()), score.shape)
    found = Stem(tip, point(bends[i, k]), point(feet[i]), clear)
    return replace(found, confidence=float(_mean(solid, found.curve)))


def _mean(raster: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Mean of a raster along lines: points (..., n, 2) to (...)."""
    x = np.clip(points[..., 0].astype(int), 0, raster.shape[1] - 1)
    y = np.clip(points[..., 1].astype(int), 0, raster.shape[0] - 1)
    return raster[y, x].mean(axis=-1)
