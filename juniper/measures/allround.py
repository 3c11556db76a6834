"""A piece seen all round: front and back speak together, and where they differ the worse view
speaks.
"""

from __future__ import annotations

import math
from dataclasses import replace

from juniper.measures.finding import Finding, Measured
from juniper.measures.measuring import Findings

# How far from well a view is, for what a walk round the piece would show; the further one speaks.
STRAYS = {
    "left_area_share": lambda v: abs(v - 0.5),
    "left_weight_share": lambda v: abs(v - 0.5),
    "heavier_share": lambda v: v,
    "moment_ratio": lambda v: abs(math.log(v)) if v > 0 else math.inf,
    "weight_offset": lambda v: v,
    "weight_height": lambda v: v,
    "outline_symmetry": lambda v: -v,
    "twin_tips": lambda v: v,
    "stray_accents": lambda v: v,
    "outline_fill": lambda v: -v,
    "largest_gap": lambda v: v,
    "rim_cover": lambda v: -v,
    "bare_stem": lambda v: v,
    "form_overlap": lambda v: -v,
    "form_fit": lambda v: -v,
}
# What is to the left from behind is to the right from in front.
TURNED = {
    "left_area_share": lambda v: 1 - v,
    "left_weight_share": lambda v: 1 - v,
    "moment_ratio": lambda v: 1 / v if v > 0 else math.inf,
}
# of these a view from the side tells as well
SIDEWAYS = frozenset({"weight_offset", "outline_fill", "largest_gap", "rim_cover", "bare_stem"})
WORDS = {"back": "from behind", "side": "from the side"}


def all_round(front: Findings, others: dict[str, Findings]) -> Findings:
    """The findings of the front with those of `others` (by view: back, side) in the place of what
    is worse there. Sides are the front viewer's.
    """
    out = dict(front.by_name)
    for view, found in others.items():
        for name, strays in STRAYS.items():
            there = found.by_name.get(name)
            if view == "side" and name not in SIDEWAYS:
                continue
            if not isinstance(there, Measured):
                continue
            here = out.get(name)
            if not isinstance(here, Measured) or strays(there.value) > strays(here.value):
                out[name] = _from(view, there, here)
    return replace(front, by_name=out)


def _from(view: str, there: Measured, here: Finding | None) -> Measured:
    turn = TURNED.get(there.name, lambda v: v)
    value = turn(there.value)
    spread = there.uncertainty
    if there.name == "moment_ratio" and there.value > 0:
        spread *= value / there.value
    beside = f"; from in front {here.value:.2f}" if isinstance(here, Measured) else ""
    words = f"seen {WORDS[view]}, where it is worse{beside}: {there.arithmetic}"
    return replace(there, value=value, uncertainty=spread, arithmetic=words, view=view)
