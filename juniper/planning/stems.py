"""The stem plan: how long each main stem stands and is cut, worked out from the container by the
very rules that will mark the piece.

Three lengths are told apart. A stem's *visible length* lies along it over the rim, as it shows in
the picture; its *height* is how far its tip stands over the rim; and it is *cut* longer than it
shows, by the part below the rim and by what its turn toward the viewer takes from sight.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.lengths import length, number
from juniper.measures.form import DRAWN, HEAVY_SIDE, joined_outline
from juniper.patterns import Pattern, PatternStem, usual_pattern
from juniper.rules import Brief, Rule, RuleSet
from juniper.rules.band import Band
from juniper.values import point

STEP = 0.5  # cm that cuts are rounded up to
# of the container's height: how deep a stem goes, so that it stands well in water that fills three
# quarters (common practice)
REACH = 0.8
# Degrees toward the viewer (minus: away) of stems that are neither tallest nor ends of the outline,
# where their pattern names none, in turns, so that flowers stand in and out
# (common practice; the degrees from memory).
IN_AND_OUT = (18.0, -18.0)
# degrees at which stems run on below the tie of a hand-tied bunch, at the most (from memory)
SLANT = 25.0
OPEN_END = 1.1  # times a lower edge: the height where a band has no upper one
MAIN = ("main", "second", "third")  # the three stems that a three-stem piece is measured by
LARGEST = 300.0  # cm of a container's side
RESERVE = (
    "Keep one stem in ten in reserve, and make the first cut of each generous: what is cut short"
    " cannot be lengthened."
)

BREADTH = {
    "vertical": 0.25,
    "round": 0.55,
    "horizontal": 1.6,
    "fan": 0.9,
}  # half the breadth over the height, where no rule names one
HALF = 0.45  # the same for any other form


@dataclass(frozen=True)
class ContainerSize:
    """A container's height, greatest width and depth in cm; `depth` is the width where it is not
    known. Raises ValueError with a sentence.
    """

    height: float
    width: float
    depth: float | None = None

    def __post_init__(self):
        for name in ("height", "width", "depth"):
            value = getattr(self, name)
            if value is not None and not 0 < value <= LARGEST:
                raise ValueError(
                    f"A container's {name} lies between 0 and {length(LARGEST, 0)};"
                    f" {number(value, None)} does not."
                )

    @property
    def governing(self) -> float:
        """The larger of height and width, by which a piece's height is taught."""
        return max(self.height, self.width)


@dataclass(frozen=True)
class PlannedStem:
    """One main stem, or `count` alike: visible `length` along it in cm, lean from upright in
    degrees (right positive) and toward the viewer, and the part `hidden` below the rim in cm; its
    `role`, and whether they stand in a `ring`; `foot` is how far from the middle it springs, cm
    (right positive): what lies along an edge springs where it lies.
    """

    name: str
    length: float
    lean: float
    toward: float = 0.0
    hidden: float = 0.0
    role: str = "line"
    count: int = 1
    ring: bool = False
    foot: float = 0.0

    @property
    def height(self) -> float:
        """How far its tip stands over the rim, cm."""
        return self.length * math.cos(math.radians(self.lean))

    @property
    def side(self) -> float:
        """How far its tip stands to the side, cm, right positive."""
        return self.foot + self.length * math.sin(math.radians(self.lean))

    @property
    def depth(self) -> float:
        """How far its tip stands before the container's middle (minus: behind it), cm."""
        return self.length * math.tan(math.radians(self.toward))

    @property
    def cut(self) -> float:
        """What to cut it to, cm, rounded up to half of one: never less than what shows."""
        return _up(self.length / math.cos(math.radians(self.toward)) + self.hidden)


@dataclass(frozen=True)
class StemPlan:
    """The stems, the longest first; the taught band of the tallest tip's height over the rim in cm;
    half the breadth; what to know; and the pattern that it is made after.
    """

    stems: tuple[PlannedStem, ...]
    low: float
    high: float
    height: float
    half: float
    notes: tuple[str, ...]
    pattern: Pattern

    @property
    def by_name(self) -> dict[str, PlannedStem]:
        """The stems by what they are called."""
        return {s.name: s for s in self.stems}

    @property
    def over(self) -> str:
        """What heights are measured over, in words."""
        return {"hand-tied": "over the tie", "on an edge": "over the edge"}.get(
            self.pattern.kind, "over the rim"
        )

    def values(self, container: ContainerSize) -> dict[str, float]:
        """What the finished piece would measure, by the names of the measures."""
        found = {
            "height_ratio": self.height / container.height,
            "governing_ratio": self.height / container.governing,
            "plant_share": self.height / (self.height + container.height),
            "table_height": self.height + container.height,
            "width_ratio": 2 * self.half / container.width,
            "spread": 2 * self.half / self.height,
        }
        own = self.by_name
        if MAIN[0] in own:
            main, second, third = (own[n] for n in MAIN)
            found |= {
                "main_stem_width": main.length / container.width,
                "second_main": second.length / main.length,
                "third_second": third.length / second.length,
                "third_main": third.length / main.length,
                "main_lean": abs(main.lean),
                "second_lean": abs(second.lean),
                "third_lean": abs(third.lean),
            }
        if "focal" in own:
            found |= {
                "focal_height": own["focal"].height / self.height,
                "focal_offset": abs(own["focal"].side) / self.half,
            }
        return found

    def outline(self, form: str) -> tuple[np.ndarray, ...]:
        """The parts (m, 2) of the form's outline, cm to the right of the rim's middle and over it;
        where the pattern makes another form, or measures its stems by their length, the hull of
        their tips and of the rim's middle.
        """
        placed = all(s.side is not None for s in self.pattern.stems if not s.ring)
        if form not in DRAWN or form not in self.pattern.forms or not placed:
            tips = np.array([(s.side, s.height) for s in self.stems] + [(0.0, 0.0)])
            return (_hull(tips),)
        low, high = -self.half, self.half
        if form in HEAVY_SIDE:  # these stand off the container's middle
            low, high = min(s.side for s in self.stems), max(s.side for s in self.stems)
        return tuple(
            part * ((high - low) / 2, self.height) + ((low + high) / 2, 0)
            for part in joined_outline(form)
        )


def plan_stems(
    rules: RuleSet,
    container: ContainerSize,
    brief: Brief | None = None,
    pattern: Pattern | None = None,
) -> StemPlan:
    """The stems of a piece in a container under a rule set, for a brief's form and traits, after a
    pattern (the usual one of form and school where none is named).

    Every length stands in the middle of its band; where two bands cannot both be held in this
    container the weightier rule decides, and a note says what the other would lose.
    """
    brief = brief or Brief()
    pattern = pattern or usual_pattern(brief.form, rules.slug, brief.kind)
    own = [rule.under(brief) for rule in rules.rules if rule.applies(brief)]
    bands = {rule.measure: rule.band for rule in own if rule.measure}
    lead = pattern.stems[0]
    if lead.of == "container width" and lead.measure in bands:
        return _by_width(pattern, bands, container)
    if pattern.kind == "on an edge":
        return _on_an_edge(pattern, bands, container)
    low, high, notes = _height(own, container)
    tall = (low + high) / 2
    half = _breadth(bands, container, tall, brief.form)
    stems = _stems(pattern, bands, container, tall, half)
    if any(s.whole for s in pattern.stems):
        notes.append("Lengths of the rings are taught by the whole stem.")
    if pattern.kind == "hand-tied":
        notes.append(
            f"Every stem is cut level {length(container.height)} below the tie when it is tied."
        )
    return StemPlan(tuple(stems), low, high, tall, half, (*notes, RESERVE), pattern)


def hidden(container: ContainerSize, lean: float) -> float:
    """How much of a stem of some lean (degrees) stands below the rim, cm: down into the water from
    the middle of the rim, or to the wall.
    """
    turn = math.radians(abs(lean))
    down = REACH * container.height / max(math.cos(turn), 1e-9)
    across = container.width / 2 / math.sin(turn) if turn > 1e-9 else math.inf
    return min(down, across)


def _stems(
    pattern: Pattern, bands: dict[str, Band], container: ContainerSize, tall: float, half: float
) -> list[PlannedStem]:
    """A pattern's stems for a height over the rim and half a breadth, cm, the longest first."""
    out: dict[str, PlannedStem] = {}
    for one in pattern.stems:
        if one.side is not None and one.up is not None:
            up = max(0.02, _middle(bands[one.measure])) if one.measure in bands else one.up
            stem = stem_to(one.name, one.side * half, up * tall, container, pattern.kind)
        else:
            stem = _by_length(one, bands, container, out, pattern.kind, tall)
        out[one.name] = replace(
            stem, toward=one.toward or 0.0, role=one.role, count=one.count, ring=one.ring
        )
    still = {s.name for s in pattern.stems if s.toward is not None or s.ring}
    return sorted(_in_and_out(list(out.values()), still), key=lambda s: -s.length)


def _by_length(
    one: PatternStem,
    bands: dict[str, Band],
    container: ContainerSize,
    before: dict[str, PlannedStem],
    kind: str,
    tall: float,
) -> PlannedStem:
    """A stem that is as long as some times something else; in a piece `tall` cm over the rim the
    focal flower is as high as its band says, and the first stem, where no band is for it, as the
    piece.
    """
    of = {"container height": container.height, "container width": container.width}
    base = of[one.of] if one.of in of else before[one.of].length
    times = _middle(bands[one.measure]) if one.measure in bands else float(one.times or 1.0)
    lean = one.lean
    if one.lean_measure in bands:
        lean = math.copysign(_middle(bands[one.lean_measure]), one.lean)
    below = _hidden(container, lean, kind)
    shows = max(1.0, times * base - below) if one.whole else times * base
    upright = math.cos(math.radians(lean))
    if one.measure == "focal_height" and one.measure in bands:
        shows = max(0.02, _middle(bands[one.measure])) * tall / upright
    elif not before and one.measure and one.measure not in bands:
        shows = tall / upright
    return PlannedStem(one.name, shows, lean, hidden=below)


def _by_width(pattern: Pattern, bands: dict[str, Band], container: ContainerSize) -> StemPlan:
    """A plan whose first stem hangs on the container's width, and the others on it: main, second
    and third of a three-stem piece.
    """
    first = pattern.stems[0]
    band = bands[first.measure]
    lean = _middle(bands[first.lean_measure]) if first.lean_measure in bands else first.lean
    upright = math.cos(math.radians(lean))
    stems = _stems(pattern, bands, container, _middle(band) * container.width * upright, 0.0)
    lead = next(s for s in stems if s.name == first.name)
    notes = [
        f"Main, second and third are brought about {lead.toward:.0f}° toward the viewer, from one"
        " narrow foot."
    ]
    if container.depth is not None:
        both = _middle(band) * (container.width + container.depth)
        notes.append(
            f"Some take width and depth together: the main stem would then show {length(both, 0)}."
        )
    return StemPlan(
        tuple(stems),
        band.low * container.width * upright,
        band.high * container.width * upright,
        lead.height,
        max(abs(s.side) for s in stems if s.role == "line"),
        (*notes, RESERVE),
        pattern,
    )


def _on_an_edge(pattern: Pattern, bands: dict[str, Band], container: ContainerSize) -> StemPlan:
    """A rope along an edge as long as the container is wide, that falls as far as it is high."""
    half, fall = container.width / 2, container.height
    stems = _stems(pattern, bands, container, fall, half)
    high = max(STEP, *(s.height for s in stems))
    down = sum(-s.height for s in stems if s.height < 0)
    notes = (
        f"Bind a rope of {length(container.width + down, 0)}: along the edge and down its falls.",
        "Some bind half as much again as the edge, to lay it in swags.",
    )
    return StemPlan(tuple(stems), 0.0, high, high, half, (*notes, RESERVE), pattern)


def _height(rules: list[Rule], container: ContainerSize) -> tuple[float, float, list[str]]:
    """The heights over the rim (cm) at which the rules are met, the weightier first, and what
    cannot be met besides.
    """
    spans = [(rule, span) for rule in rules if (span := _span(rule, container)) is not None]
    spans.sort(key=lambda pair: -pair[0].weight)
    notes: list[str] = []
    low, high = 0.0, math.inf
    for rule, (least, most) in spans:
        if max(low, least) <= min(high, most):
            low, high = max(low, least), min(high, most)
        else:
            notes.append(
                f"In this container “{rule.title}” cannot be held as well: it asks for {least:.0f}"
                f" to {length(most, 0)} over the rim."
            )
    if not spans:
        low, high = container.governing, 2 * container.governing
        notes.append("These rules name no height: one to two times the container is taken.")
    low = max(low, 0.5)
    return low, high if math.isfinite(high) else OPEN_END * low, notes


def _span(rule: Rule, container: ContainerSize) -> tuple[float, float] | None:
    """The heights over the rim that a rule's band asks for, cm; None for a rule of something
    else.
    """
    low, high = rule.band.low, rule.band.high
    if rule.measure == "plant_share":
        return point(
            container.height * e / (1 - e) if 0 <= e < 1 else math.inf if e >= 1 else 0.0
            for e in (low, high)
        )
    unit = {"governing_ratio": container.governing, "height_ratio": container.height}.get(
        rule.measure
    )
    if unit is not None:
        return max(0.0, low * unit), high * unit
    if rule.measure == "table_height":
        return max(0.0, low - container.height), high - container.height
    return None


def _breadth(bands: dict[str, Band], container: ContainerSize, tall: float, form: str) -> float:
    """Half the breadth of the plant, cm."""
    if "width_ratio" in bands:
        return _middle(bands["width_ratio"]) * container.width / 2
    if "spread" in bands:
        return _middle(bands["spread"]) * tall / 2
    return BREADTH.get(form, HALF) * tall


def _in_and_out(stems: list[PlannedStem], still: set[str]) -> list[PlannedStem]:
    """The stems with their depth: the tallest and the ends of the outline stay in its plane, as do
    those (by name) that stand `still` as their pattern has them; the rest stand in and out by
    turns.
    """
    ends = {
        min(stems, key=lambda s: s.side).name,
        max(stems, key=lambda s: s.side).name,
        max(stems, key=lambda s: s.height).name,
    }
    turns, out = 0, []
    for stem in stems:
        if stem.name in still or stem.name in ends:
            out.append(stem)
        else:
            out.append(replace(stem, toward=IN_AND_OUT[turns % 2]))
            turns += 1
    return out


def _hull(points: np.ndarray) -> np.ndarray:
    """Corners (m, 2) of the convex hull of points (n, 2)."""
    return cv2.convexHull(points.astype(np.float32)).reshape(-1, 2).astype(float)


def stem_to(
    name: str, side: float, up: float, container: ContainerSize, kind: str = "one vessel"
) -> PlannedStem:
    """A stem from the middle of the rim to a place beside and over it, cm; `kind` is that of the
    piece: along an edge it springs from under its tip, and a fall beyond the edge from its end.
    """
    half = container.width / 2
    foot = min(max(side, -half), half) if kind == "on an edge" else 0.0
    lean = math.degrees(math.atan2(side - foot, up))
    below = _hidden(container, lean, kind)
    return PlannedStem(name, math.hypot(side - foot, up), lean, hidden=below, foot=foot)


def _hidden(container: ContainerSize, lean: float, kind: str) -> float:
    """How much of a stem lies below the rim, cm; of a hand-tied bunch below its tie, where it runs
    on at its slant, and of what lies on an edge nothing.
    """
    if kind == "hand-tied":
        return container.height / math.cos(math.radians(min(abs(lean), SLANT)))
    return 0.0 if kind == "on an edge" else hidden(container, lean)


def _middle(band: Band) -> float:
    low, high = band.low, band.high
    if not math.isfinite(low):
        return high / 2
    return (low + high) / 2 if math.isfinite(high) else OPEN_END * low


def _up(length: float) -> float:
    return math.ceil(length / STEP - 1e-9) * STEP
