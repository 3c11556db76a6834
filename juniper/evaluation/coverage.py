"""Whether stated uncertainties hold: how often the truth lies within one and two of them (JCGM 100:2008, G.1.3: 68 and 95 in a hundred)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from juniper.assessment import analyse, measured_view
from juniper.evaluation.true_view import true_view
from juniper.evaluation.truth import truth_beside
from juniper.measures import DEFINITIONS
from juniper.photograph import UnusablePhotograph
from juniper.rules import Brief
from juniper.scene import NothingFound

FORM = "symmetrical triangle"  # whose outline every piece is held against, so that the measure of form is tried as well
LEAST = 1e-9  # an uncertainty below which none is stated


@dataclass(frozen=True)
class Held:
    """One measure of one picture: its name, how far it is off, and its stated uncertainty, in its own unit."""

    picture: str
    measure: str
    true: float
    value: float
    uncertainty: float
    needs_check: bool


def held_to_truth(picture: Path) -> list[Held]:
    """Every measure of a picture that both the automatic reading and the truth have."""
    truth = truth_beside(picture)
    if truth.mask is None:
        return []
    try:
        seen = analyse(picture.read_bytes())
    except (UnusablePhotograph, NothingFound):
        return []
    brief = Brief(form=FORM, container_height_cm=truth.height_cm)
    found = seen.measured(brief).by_name
    true = {n: f.value for n, f in measured_view(true_view(picture, seen.photograph, truth), brief).by_name.items() if f.measured}
    if truth.foliage_share is not None:
        true["foliage_share"] = truth.foliage_share
    return [
        Held(picture.stem, name, true[name], found[name].value, found[name].uncertainty, seen.scene.datum.needs_check)
        for name in DEFINITIONS
        if name in true and name in found and found[name].measured
    ]


@dataclass(frozen=True)
class Coverage:
    """Of `n` readings of a measure the share within one and two of their uncertainties, their root mean square error, and that
    which was stated."""

    n: int
    one_u: float
    two_u: float
    error: float
    stated: float


def coverage(rows: Iterable[Held]) -> dict[str, Coverage]:
    """The coverage of each measure, over readings whose datum was not flagged."""
    by_measure: dict[str, list[Held]] = defaultdict(list)
    for row in rows:
        if not row.needs_check:
            by_measure[row.measure].append(row)
    out = {}
    for name in DEFINITIONS:
        if own := by_measure.get(name):
            off = np.abs([r.value - r.true for r in own])
            stated = np.array([r.uncertainty for r in own])
            one, two = (float((off <= k * stated + LEAST).mean()) for k in (1, 2))
            out[name] = Coverage(
                len(own), round(one, 3), round(two, 3), *(round(float(np.sqrt((v**2).mean())), 4) for v in (off, stated))
            )
    return out
