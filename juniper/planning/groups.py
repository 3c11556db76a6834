"""The plan of a composition of several vessels: what stands in each, how high, in what it is held
and how much water it takes, so that the group meets the rules that will mark it.
"""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, replace
from itertools import pairwise

from juniper.lengths import length
from juniper.measures.group import VesselShape, of_lengths
from juniper.patterns import Pattern, PatternStem, usual_pattern
from juniper.planning.holding import Holding, choose_holding
from juniper.planning.materials import PLANT_ROLES
from juniper.planning.recipe import Count
from juniper.planning.stems import RESERVE, ContainerSize, PlannedStem, stem_to
from juniper.rules import Brief, BriefVessel, Rule, RuleSet
from juniper.rules.band import Band

# visible height over a vessel's own height, by turns: an anchor, and its lower neighbour (from
# memory); and the least and most that a stem stands well at
BY_TURNS = (1.45, 0.85)
LEAST, MOST = 0.45, 1.9
# of the group's height: a step between neighbours where the rules name none; by how much more than
# the least a plan keeps to; and by how much the tallest may stand over the next
STEP, MORE, DETACHED = 0.06, 1.25, 0.2
NARROW = 0.25  # of the height over the rim: half the breadth of what stands in one vessel
ROOMY = 6.0  # cm: a vessel as wide holds a second kind (from memory)
FULL = 0.75  # of a vessel's height that is filled with water (common practice)
WALL = 0.9  # of a vessel's greatest width: its inside, as far as water goes (from memory)
GAP = 0.45  # of the mean width: how far apart vessels stand where the brief sets them on no place


@dataclass(frozen=True)
class PlannedVessel:
    """One vessel of a composition: its `number` from the left, where its middle stands (cm right
    of the composition's), the stems in it, how high its highest tip stands over the table (cm),
    what holds them, and its water in millilitres.
    """

    number: int
    vessel: BriefVessel
    x: float
    stems: tuple[PlannedStem, ...]
    top: float
    holding: Holding
    water_ml: float

    @property
    def shape(self) -> VesselShape:
        """Its lengths as the group's measures read them, cm."""
        half = self.vessel.width_cm / 2
        return VesselShape(self.x - half, self.x + half, self.vessel.height_cm, self.top)


@dataclass(frozen=True)
class GroupPlan:
    """The vessels from the left, the order of their pattern, and what to know."""

    vessels: tuple[PlannedVessel, ...]
    pattern: Pattern
    notes: tuple[str, ...]

    @property
    def height(self) -> float:
        """How high the whole stands over the table, cm."""
        return max(v.top for v in self.vessels)

    @property
    def by_name(self) -> dict[str, PlannedStem]:
        """The first stem of each name, as a step of the pattern speaks of it."""
        return {s.name: s for v in reversed(self.vessels) for s in v.stems}

    @property
    def half(self) -> float:
        """Half the breadth of the whole, cm."""
        return (self.vessels[-1].shape.right - self.vessels[0].shape.left) / 2

    @property
    def outline(self) -> tuple[tuple[float, float], ...]:
        """What joins the tops, from the first vessel's foot to the last one's, cm (x, up)."""
        first, last = self.vessels[0].shape, self.vessels[-1].shape
        tops = tuple((v.x, v.top) for v in self.vessels)
        return ((first.left, 0.0), *tops, (last.right, 0.0))

    def values(self) -> dict[str, float]:
        """What the finished group would measure, by the names of the measures."""
        found = of_lengths(tuple(v.shape for v in self.vessels))
        glass = sum(v.vessel.clear for v in self.vessels) / len(self.vessels)
        return {k: v for k, v in found.items() if math.isfinite(v)} | (
            {"tied_by_colour": 1.0} if glass == 1 else {}
        )


def plan_group(rules: RuleSet, brief: Brief, pattern: Pattern | None = None) -> GroupPlan:
    """The plan of a brief's vessels under a rule set. Raises ValueError with a sentence where the
    brief lists none, or one whose size makes no sense.
    """
    if not brief.vessels:
        raise ValueError("The brief lists no vessels: add two or more, and set them out.")
    pattern = pattern or usual_pattern(brief.form, rules.slug, "several vessels")
    placed = set_out(brief.vessels)
    for vessel, _ in placed:
        ContainerSize(vessel.height_cm, vessel.width_cm)
    own: list[Rule] = [r.under(brief) for r in rules.rules if r.applies(brief)]
    bands = {r.measure: r.band for r in own if r.measure}
    tops = _tops([v for v, _ in placed], bands)
    vessels = tuple(
        _planned(n, vessel, x, top, pattern)
        for n, ((vessel, x), top) in enumerate(zip(placed, tops, strict=True), 1)
    )
    plan = GroupPlan(vessels, pattern, ())
    return replace(plan, notes=(*_notes(plan, bands), RESERVE))


def counts_of_group(plan: GroupPlan) -> tuple[Count, ...]:
    """Stems of each role for the whole composition, in the order of PLANT_ROLES: those that its
    vessels hold.
    """
    held: Counter[str] = Counter()
    for vessel in plan.vessels:
        for stem in vessel.stems:
            held[stem.role] += stem.count
    words = f"in {len(plan.vessels)} vessels"
    return tuple(Count(role, held[role], words) for role in PLANT_ROLES)


def set_out(vessels: tuple[BriefVessel, ...]) -> tuple[tuple[BriefVessel, float], ...]:
    """Vessels from the left with the place of each, cm right of the composition's middle: as the
    brief sets them out, or, where all stand on one place, in a row.
    """
    if len({round(v.x_cm, 1) for v in vessels}) == 1 and len(vessels) > 1:
        gap = GAP * sum(v.width_cm for v in vessels) / len(vessels)
        at, row = 0.0, []
        for vessel in vessels:
            row.append((vessel, at + vessel.width_cm / 2))
            at += vessel.width_cm + gap
        middle = (at - gap) / 2
        return tuple((v, x - middle) for v, x in row)
    return tuple(sorted(((v, v.x_cm) for v in vessels), key=lambda p: p[1]))


def _tops(vessels: list[BriefVessel], bands: dict[str, Band]) -> list[float]:
    """How high the tips in each vessel stand over the table, cm: anchors and their neighbours by
    turns, then each moved until no two neighbours are alike and the tallest leaves nobody.
    """
    spans = [((1 + LEAST) * v.height_cm, (1 + MOST) * v.height_cm) for v in vessels]
    tops = [v.height_cm * (1 + BY_TURNS[n % 2]) for n, v in enumerate(vessels)]
    step = bands["tops_differ"].low if "tops_differ" in bands else STEP
    apart = bands["tallest_detached"].high if "tallest_detached" in bands else DETACHED
    for _ in range(60):
        whole = max(tops)
        need, moved = MORE * step * whole, False
        for n in range(1, len(tops)):
            if abs(tops[n] - tops[n - 1]) < need:
                tops[n] = _stepped(tops, spans, n, need)
                moved = True
        order = sorted(range(len(tops)), key=lambda n: -tops[n])
        if len(tops) > 1 and (tops[order[0]] - tops[order[1]]) / whole > apart:
            first, second = order[:2]
            tops[first] = max(spans[first][0], tops[second] / (1 - 0.9 * apart))
            if (tops[first] - tops[second]) / tops[first] > apart:
                tops[second] = min(spans[second][1], tops[first] * (1 - 0.9 * apart))
            moved = True
        if not moved:
            break
    return tops


def _stepped(tops: list[float], spans: list[tuple[float, float]], n: int, need: float) -> float:
    """A top that lies `need` from that of the vessel before it, within what its vessel allows: the
    one of the two that differs more from the next as well, and moves it less.
    """
    low, high = spans[n]
    after = tops[n + 1] if n + 1 < len(tops) else None
    tries = [t for t in (tops[n - 1] + need, tops[n - 1] - need) if low <= t <= high]
    if not tries:
        return min(max(tops[n], low), high)
    return max(
        tries,
        key=lambda t: (0.0 if after is None else min(abs(t - after), need), -abs(t - tops[n])),
    )


def _planned(
    number: int, vessel: BriefVessel, x: float, top: float, pattern: Pattern
) -> PlannedVessel:
    size = ContainerSize(vessel.height_cm, vessel.width_cm)
    tall = top - vessel.height_cm
    own = [s for s in pattern.stems if _goes_in(s, number, vessel)]
    highest = max(s.up or 1.0 for s in own)
    stems = tuple(
        replace(
            stem_to(s.name, NARROW * (s.side or 0.0) * tall, (s.up or 1.0) / highest * tall, size),
            role=s.role,
            count=s.count,
        )
        for s in own
    )
    holding = choose_holding(size, (), vessel.clear, pattern=pattern)[0]
    water = math.pi * (WALL * vessel.width_cm / 2) ** 2 * FULL * vessel.height_cm
    return PlannedVessel(
        number, vessel, x, tuple(sorted(stems, key=lambda s: -s.length)), top, holding, water
    )


def _goes_in(stem: PatternStem, number: int, vessel: BriefVessel) -> bool:
    """Whether a stem of the pattern goes into a vessel: anchors of foliage into every second one,
    companions where the vessel is wide enough for two kinds.
    """
    if stem.role == "foliage":
        return number % 2 == 1
    return stem.role != "mass" or vessel.width_cm >= ROOMY


def _notes(plan: GroupPlan, bands: dict[str, Band]) -> list[str]:
    """What cannot be met with these vessels on these places."""
    values, notes = plan.values(), []
    for name, words in (
        (
            "vessels_differ",
            "Two neighbouring vessels are nearly alike: exchange one of them, or raise it.",
        ),
        (
            "tops_differ",
            "With these vessels two neighbours reach nearly one height: change their places.",
        ),
        (
            "tallest_detached",
            "The tallest vessel leaves the others: take one that lies between them.",
        ),
        ("vessel_spacing", "Two neighbours stand far apart: the group reads as two."),
    ):
        if name in bands and name in values and bands[name].score(values[name]) < 0.5:
            notes.append(words)
    for a, b in pairwise(plan.vessels):
        if b.shape.left - a.shape.right < -0.6 * min(a.vessel.width_cm, b.vessel.width_cm):
            notes.append(
                f"Vessels {a.number} and {b.number} stand before one another: set them"
                f" {length(max(1.0, (a.vessel.width_cm + b.vessel.width_cm) / 2), 0)} apart,"
                " or one behind the other on purpose."
            )
    return notes
