"""A stem plan with other lengths than the rules give: a tip set elsewhere by hand, or stems that
are no longer than can be had.
"""

from __future__ import annotations

import math
from dataclasses import replace

from juniper.lengths import length
from juniper.planning.stems import LARGEST, STEP, ContainerSize, PlannedStem, StemPlan, stem_to


def moved(plan: StemPlan, container: ContainerSize, name: str, side: float, up: float) -> StemPlan:
    """The plan with the tip of a stem set elsewhere, cm to the right of the rim's middle and over
    it: what hangs on it is worked out anew.

    Raises ValueError with a sentence for a stem that the plan does not have, or a place that no
    stem reaches.
    """
    if name not in plan.by_name:
        raise ValueError(f"This plan has no stem called {name}.")
    if not all(map(math.isfinite, (side, up))) or math.hypot(side, up) > 2 * LARGEST:
        raise ValueError(f"A tip stands no further than {length(2 * LARGEST, 0)} from the rim.")
    old, to = plan.by_name[name], stem_to(name, side, up, container, plan.pattern.kind)
    if to.length < STEP:
        raise ValueError("A stem has to show: set its tip over the rim or beside it.")
    new = replace(to, toward=old.toward, role=old.role, count=old.count, ring=old.ring)
    return _with(plan, tuple(new if s.name == name else s for s in plan.stems))


def within(plan: StemPlan, longest: float) -> StemPlan:
    """The plan with no stem cut to more than `longest` cm: those that would be are shorter as they
    show. Raises ValueError where even the part under the rim asks for more.
    """
    if any(s.hidden + STEP > longest for s in plan.stems):
        raise ValueError(
            f"Stems of {length(longest, None)} do not reach over this rim: take a lower container."
        )

    def cut(stem: PlannedStem) -> PlannedStem:
        shows = (longest - stem.hidden) * math.cos(math.radians(stem.toward))
        return replace(stem, length=shows) if stem.cut > longest else stem

    return _with(plan, tuple(cut(s) for s in plan.stems))


def _with(plan: StemPlan, stems: tuple[PlannedStem, ...]) -> StemPlan:
    """The plan with other lengths of the same stems: as tall as its tallest tip, as broad by as
    much as its tips are.
    """

    def span(of) -> float:
        return max(0.0, *(s.side for s in of)) - min(0.0, *(s.side for s in of))

    old = span(plan.stems)
    half = plan.half * span(stems) / old if old > 1e-9 else plan.half
    tall = max(STEP, *(s.height for s in stems))
    return replace(
        plan, stems=tuple(sorted(stems, key=lambda s: -s.length)), height=tall, half=max(half, STEP)
    )
