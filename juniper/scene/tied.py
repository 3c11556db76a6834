"""A hand-tied bunch: its datum, read off the narrowest place between its dome and its stem ends.

It has no container. The binding point stands for the rim, the middle of the stem ends for the base,
and the stems below the tie for the container: so the same measures hold, and plant to whole is the
dome's share of the bunch.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.container.datum import Datum, HandleUncertainty
from juniper.scene.parts import Label
from juniper.scene.segment.segmentation import chief_patch
from juniper.values import point

LYING = (
    "The bunch lies on the table. Stand it on its stems, or hold it upright before a plain wall,"
    " and take the picture again."
)
NO_TIE = (
    "No binding point was found: the bunch narrows nowhere between its flowers and its stem ends."
    " Take the picture so that all of the stems show, or put the four handles by hand."
)


@dataclass(frozen=True)
class TiedSettings:
    """How a bunch is read. By trial on traced bunches (docs/seeing.md)."""

    smooth: float = 0.02  # of the bunch's height: over which its breadth is smoothed
    # of the height: between which the tie lies, from the stem ends up
    lowest: float = 0.08
    highest: float = 0.62
    # of the dome's breadth: the tie is no broader
    narrow: float = 0.55
    # of its own breadth: how much broader a level may be and still be the tie's
    alike: float = 0.3
    upper: float = 0.35  # of the waist, from above: where the tie lies in it
    ends: float = 0.05  # of the height: what is looked at as stem ends
    outer: float = 0.2  # of their spread, on each side: the ends that stand level with the middle
    flat: float = 1.1  # times its height: a bunch that is broader lies


TIED = TiedSettings()


class NoTie(ValueError):
    """A picture of no bunch that stands; the message says what to do."""


def read_tied(labels: np.ndarray, settings: TiedSettings = TIED) -> tuple[np.ndarray, Datum]:
    """The labels (h, w) with the stems below the tie as container, and the datum in their pixels.
    Raises NoTie, with a sentence for the user.
    """
    bunch = chief_patch(np.isin(labels, (Label.PLANT, Label.CONTAINER)))
    if bunch.sum() < 50:
        raise NoTie(NO_TIE)
    if _lies(bunch, settings):
        raise NoTie(LYING)
    rows = np.flatnonzero(bunch.any(axis=1))
    top, low = int(rows[0]), int(rows[-1])
    high = low - top + 1
    left, right = _sides(bunch, top, low)
    breadth = right - left + 1
    reach = max(1, round(settings.smooth * high)) | 1
    smooth = cv2.GaussianBlur(breadth.astype(np.float32)[:, None], (1, reach), reach / 3)[:, 0]
    at = np.arange(high)  # from the top down
    between = (at > (1 - settings.highest) * high) & (at < (1 - settings.lowest) * high)
    dome = float(smooth[at < (1 - settings.highest) * high].max(initial=0.0))
    dome = max(dome, float(smooth[: int(at[between][0])].max(initial=0.0)) if between.any() else 0)
    if not between.any() or dome <= 0:
        raise NoTie(NO_TIE)
    tie = int(at[between][smooth[between].argmin()])
    if smooth[tie] > settings.narrow * dome:
        raise NoTie(NO_TIE)
    # what binds the stems is a little broader than they are right under it, and over it the bunch
    # opens at once: the tie lies in the upper part of the waist
    alike = smooth < (1 + settings.alike) * smooth[tie]
    first, last = tie, tie
    while first > 0 and alike[first - 1]:
        first -= 1
    while last < high - 1 and alike[last + 1]:
        last += 1
    tie = round(first + settings.upper * (last - first))
    level = max(1.0, (last - first) / 2 / np.sqrt(3))
    middle = (left + right) / 2
    ends = slice(int(high * (1 - settings.ends)), high)
    foot = np.array([float(middle[ends].mean()) + 0.5, _level_of_ends(bunch, top + tie, settings)])
    rim = np.array([float(middle[tie]) + 0.5, top + tie + 0.5])
    up = (rim - foot) / max(1e-6, float(np.hypot(*(rim - foot))))
    across = np.array([-up[1], up[0]])
    half = float(breadth[tie]) / 2
    out = labels.copy()
    out[np.isin(labels, (Label.PLANT, Label.CONTAINER)) & ~bunch] = Label.BACKDROP
    ys, xs = np.nonzero(bunch)
    along = (np.column_stack([xs, ys]) + 0.5 - rim) @ up
    out[ys, xs] = np.where(along > 0, Label.PLANT, Label.CONTAINER)
    stems = max(1.0, float(np.hypot(*(rim - foot))))
    confidence = _confidence(float(smooth[tie]) / dome, level / stems)
    doubts = () if confidence >= 0.65 else ("the binding point is hard to see",)
    datum = Datum(
        point(rim),
        point(foot),
        point(rim - half * across),
        point(rim + half * across),
        confidence=confidence,
        spread=HandleUncertainty(max(1.0, 0.5 * level), max(1.0, 0.012 * high), 1.0 + 0.02 * half),
        doubts=doubts,
    )
    return out, datum


def cut_at_tie(labels: np.ndarray, datum: Datum) -> np.ndarray:
    """The labels (h, w) with all of the bunch over a datum's rim (in their pixels) as plant, and
    all below it as container.
    """
    out = labels.copy()
    ys, xs = np.nonzero(np.isin(labels, (Label.PLANT, Label.CONTAINER)))
    along = (np.column_stack([xs, ys]) + 0.5 - np.array(datum.rim)) @ datum.up
    out[ys, xs] = np.where(along > 0, Label.PLANT, Label.CONTAINER)
    return out


def _level_of_ends(bunch: np.ndarray, tie: int, settings: TiedSettings) -> float:
    """The level, in rows, on which a bunch stands: that of its outermost stem ends, which stand as
    far from the camera as its middle; those in front reach lower in a picture from above.
    """
    stems = bunch[tie:]
    columns = np.flatnonzero(stems.any(axis=0))
    lowest = tie + stems.shape[0] - stems[::-1, columns].argmax(axis=0).astype(float)
    deep = lowest > tie + 0.6 * (lowest.max() - tie)
    columns, lowest = columns[deep], lowest[deep]
    left, right = columns[0], columns[-1]
    room = settings.outer * (right - left + 1)
    sides = [lowest[columns <= left + room].max(), lowest[columns >= right - room].max()]
    return float(np.mean(sides))


def _confidence(narrow: float, level: float) -> float:
    """How surely a tie is told: the narrower it is beside the dome, and the fewer levels are as
    narrow (of the stems' length), the surer.
    """
    return float(np.clip(1.25 - 0.9 * narrow - 1.6 * level, 0.05, 0.97))


def _lies(bunch: np.ndarray, settings: TiedSettings) -> bool:
    """Whether a bunch is broader than high."""
    *_, wide, high = cv2.boundingRect(bunch.astype(np.uint8))
    return wide > settings.flat * high


def _sides(bunch: np.ndarray, top: int, low: int) -> tuple[np.ndarray, np.ndarray]:
    """Left and right ends of each row from the top down; of an empty row as in its neighbours."""
    part = bunch[top : low + 1]
    filled = part.any(axis=1)
    left = part.argmax(axis=1).astype(float)
    right = part.shape[1] - 1.0 - part[:, ::-1].argmax(axis=1)
    rows = np.arange(len(part))
    known = rows[filled]
    return np.interp(rows, known, left[filled]), np.interp(rows, known, right[filled])
