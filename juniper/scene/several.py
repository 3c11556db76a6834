"""A picture read as a composition of several vessels: all walls, the plant of the whole, and the
datum that stands for it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from juniper.scene.container.datum import HANDLES, Datum, HandleUncertainty
from juniper.scene.parts import Label
from juniper.scene.segment.segmentation import Segmentation
from juniper.scene.vessel_plants import of_the_vessels, tops_of, vessel_of_plant
from juniper.scene.vessels import Vessel, find_vessels
from juniper.values import point


@dataclass(frozen=True)
class SeveralSettings:
    """When a picture is one of a composition, and what belongs to it."""

    # of all plant: what stands in a vessel of less is no piece of a composition
    planted: float = 0.04
    fewest: int = 3  # vessels with plant in them, which by themselves tell a composition


SEVERAL_SETTINGS = SeveralSettings()


@dataclass(frozen=True, eq=False)
class GroupReading:
    """A composition in pixels of the working picture: its vessels from the left; the labels (h, w)
    of the whole, or of the main vessel where only that is measured; and the datum in force.
    """

    vessels: tuple[Vessel, ...]
    labels: np.ndarray
    datum: Datum


def find_group(
    pixels: np.ndarray,
    parts: Segmentation,
    focal: float,
    asked: int | None,
    settings: SeveralSettings = SEVERAL_SETTINGS,
) -> GroupReading | None:
    """The composition in a picture, sRGB uint8 (h, w, 3); `asked` is how many vessels the brief
    lists, None where nobody says. None where the picture shows no composition, or no network saw
    it.
    """
    if parts.look is None:
        return None
    found, walls = find_vessels(pixels, parts.look, focal, asked)
    if len(found) < 2:
        return None
    labels = with_walls(parts.labels, walls)
    datums = tuple(v.datum for v in found)
    owner = vessel_of_plant(labels, datums)
    strange = (labels == Label.PLANT) & ~of_the_vessels(labels, datums)
    labels[strange], owner[strange] = Label.BACKDROP, 0
    shares = np.bincount(owner[owner > 0], minlength=len(found) + 1)[1:].astype(float)
    shares /= max(1.0, shares.sum())
    planted = [n for n, share in enumerate(shares) if share >= settings.planted]
    if asked is None and len(planted) < settings.fewest:
        return None
    areas = [shares[n] * v.datum.height * v.wide for n, v in enumerate(found)]
    main = int(np.argmax(areas))
    vessels = tuple(
        replace(v, main=n == main, top=top)
        for n, (v, top) in enumerate(zip(found, tops_of(owner, found), strict=True))
    )
    if asked is None:
        return GroupReading(vessels, _of_one(labels, owner, vessels[main]), vessels[main].datum)
    return GroupReading(vessels, labels, group_datum(vessels))


def with_walls(labels: np.ndarray, walls: np.ndarray) -> np.ndarray:
    """A label raster (h, w) in which exactly the vessels' walls (bool h x w) are container, but for
    the plant before them.
    """
    out = labels.copy()
    out[out == Label.CONTAINER] = Label.BACKDROP
    out[walls & (labels != Label.PLANT)] = Label.CONTAINER
    return out


def _of_one(labels: np.ndarray, owner: np.ndarray, vessel: Vessel) -> np.ndarray:
    """The labels with nothing but one vessel and its plant in them."""
    out = labels.copy()
    out[(labels == Label.PLANT) & (owner != vessel.number)] = Label.BACKDROP
    datum, high = vessel.datum, vessel.datum.height
    ys, xs = np.nonzero(labels == Label.CONTAINER)
    step = np.column_stack([xs, ys]) - np.array(datum.base)
    away = np.abs(step @ datum.right) > 0.6 * max(vessel.wide, datum.rim_width)
    far = (step @ datum.up > 1.15 * high) | (step @ datum.up < -0.3 * high)
    out[ys[away | far], xs[away | far]] = Label.BACKDROP
    return out


def group_datum(vessels: tuple[Vessel, ...]) -> Datum:
    """The datum of a composition: upright through the middle between its outer walls; the base at
    the mean of the feet, the rim at the mean of the rims, as wide as the whole.
    """
    up = np.mean([v.datum.up * v.datum.height for v in vessels], axis=0)
    up /= np.hypot(*up)
    across = np.array([-up[1], up[0]])
    feet, rims = (np.array([getattr(v.datum, n) for v in vessels]) for n in ("base", "rim"))
    half = np.array([max(v.wide, v.datum.rim_width) / 2 for v in vessels])
    sides = feet @ across
    left, right = float((sides - half).min()), float((sides + half).max())
    foot, rim = float((feet @ up).mean()), float((rims @ up).mean())
    middle = (left + right) / 2

    def at(side: float, along: float) -> tuple[float, float]:
        return point(side * across + along * up)

    spread = HandleUncertainty(
        *(
            float(np.sqrt(np.mean([getattr(v.datum.spread, n) ** 2 for v in vessels])))
            for n in ("rim", "base", "across")
        )
    )
    open_ = [v for v in vessels if not v.datum.put >= HANDLES] or list(vessels)
    worst = min(open_, key=lambda v: v.datum.confidence)
    return Datum(
        at(middle, rim),
        at(middle, foot),
        at(left, rim),
        at(right, rim),
        confidence=worst.datum.confidence,
        spread=spread,
        doubts=tuple(f"vessel {worst.number}: {words}" for words in worst.datum.doubts),
        put=HANDLES if all(v.datum.put >= HANDLES for v in vessels) else frozenset(),
    )
