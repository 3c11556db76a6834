"""The measures of a composition read off a picture: each vessel with the plant in it."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np

from juniper.measures.finding import Finding
from juniper.measures.group import (
    VesselColours,
    VesselShape,
    drawn_group,
    group_findings,
    mending_swap,
)
from juniper.scene.container.datum import Datum
from juniper.scene.parts import Label
from juniper.scene.scene import Raster, Scene
from juniper.scene.several import group_datum
from juniper.scene.vessel_plants import tops_of, vessel_of_plant
from juniper.scene.vessels import Vessel
from juniper.values import triple

EDGE = 0.004  # of the whole height: how surely a top's own pixels are told (one of the raster's)
NEAR = 0.03  # of the whole height: what a vessel that stands nearer looks taller (from memory)
KEPT = 6  # compositions whose plant by vessel is kept: those that people move handles on


@lru_cache(maxsize=KEPT)
def _owner(raster: Raster, datums: tuple[Datum, ...]) -> np.ndarray:
    return vessel_of_plant(raster.labels, tuple(d.scaled(raster.scale) for d in datums))


def with_tops(raster: Raster, vessels: tuple[Vessel, ...]) -> tuple[Vessel, ...]:
    """The vessels (photograph pixels), each with the highest point of the plant that stands in it,
    save where a person put that.
    """
    tops = tops_of(_owner(raster, tuple(v.datum for v in vessels)), vessels, raster.scale)
    return tuple(
        v if v.top_put else replace(v, top=top) for v, top in zip(vessels, tops, strict=True)
    )


def measure_group(
    raster: Raster, scene: Scene, vessels: tuple[Vessel, ...], clear: tuple[bool, ...] = ()
) -> tuple[tuple[Finding, ...], str]:
    """The measures of a composition's `vessels` (photograph pixels), from the left and with their
    tops, and which two to exchange so that no neighbours clash ('' where that betters nothing);
    `clear` is which of them the brief has of clear glass, where it lists as many.
    """
    owner = _owner(raster, tuple(v.datum for v in vessels))
    whole = group_datum(vessels)
    tops = tuple(v.top for v in vessels)
    shapes, colours = [], []
    for n, vessel in enumerate(vessels):
        datum = vessel.datum
        side = float(np.subtract(datum.base, whole.base) @ whole.right)
        half = max(vessel.wide, datum.rim_width) / 2
        top = tops[n]
        high = datum.height
        if top is not None:
            high = max(high, float(np.subtract(top, datum.base) @ datum.up))
        shapes.append(VesselShape(side - half, side + half, datum.height, high))
        own = raster.flowers[(owner == n + 1) & (raster.labels == Label.PLANT)]
        colours.append(_colours(own, scene, clear[n] if len(clear) == len(vessels) else False))
    tallest = max(s.top for s in shapes)
    foot = float(np.mean([v.datum.spread.base for v in vessels])) / tallest
    unsure = float(np.sqrt(EDGE**2 + NEAR**2 + foot**2))
    marks = drawn_group(
        tuple(v.datum.base for v in vessels), tuple(v.datum.rim for v in vessels), tops
    )
    swap = mending_swap(tuple(colours))
    words = "" if swap is None else f"vessels {swap[0] + 1} and {swap[1] + 1} from the left"
    return group_findings(tuple(shapes), tuple(colours), unsure, marks), words


def _colours(flowers: np.ndarray, scene: Scene, clear: bool) -> VesselColours:
    """The flower colours among some pixels' swatch numbers (n,), the largest first."""
    swatches = [s for s in scene.palette if s.part == "flower"]
    counts = np.bincount(flowers, minlength=len(swatches) + 1)[1:].astype(float)
    total = counts.sum()
    if total == 0:
        return VesselColours((), clear)
    found = [
        (s.hue, triple(s.lab), float(c / total))
        for s, c in zip(swatches, counts, strict=False)
        if c > 0
    ]
    return VesselColours(tuple(sorted(found, key=lambda f: -f[2])), clear)
