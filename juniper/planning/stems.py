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
from juniper.measures.form import HEAVY_SIDE, joined_outline
from juniper.rules import Brief, Rule, RuleSet
from juniper.rules.band import Band
from juniper.values import point

STEP = 0.5  # cm that cuts are rounded up to
# of the container's height: how deep a stem goes, so that it stands well in water that fills three
# quarters (common practice)
REACH = 0.8
# degrees that the stems of a three-stem piece are brought toward the viewer (from memory)
TOWARD = 15.0
# Degrees toward the viewer (minus: away) of stems that are neither tallest nor ends of the outline,
# in turns, so that flowers stand in and out; and of the focal flowers, which come forward over the
# rim (common practice; the degrees from memory).
IN_AND_OUT, FORWARD = (18.0, -18.0), 30.0
# degrees, where the rules name none (from memory)
LEANS = {"main_lean": 12.0, "second_lean": 45.0, "third_lean": 75.0}
OPEN_END = 1.1  # times a lower edge: the height where a band has no upper one
LARGEST = 300.0  # cm of a container's side
RESERVE = (
    "Keep one stem in ten in reserve, and make the first cut of each generous: what is cut short"
    " cannot be lengthened."
)

# Tips of the main stems by form: name, place to the side (of half the breadth) and height (of the
# tallest). No two on the two sides stand at one height, or they would be twin tips.
FORMS = {
    "symmetrical triangle": (
        ("tallest", 0.0, 1.0),
        ("left edge", -1.0, 0.1),
        ("right edge", 1.0, 0.04),
        ("left shoulder", -0.45, 0.56),
        ("right shoulder", 0.45, 0.48),
    ),
    "right-angle L": (
        ("tallest", -0.3, 1.0),
        ("long side", 1.4, 0.1),
        ("upright second", -0.1, 0.62),
        ("side second", 0.7, 0.26),
    ),
    "crescent": (
        ("upper tip", -0.75, 1.0),
        ("lower tip", 0.85, 0.38),
        ("upper curve", -0.8, 0.55),
        ("lower curve", 0.6, 0.14),
    ),
    "S-curve": (
        ("upper tip", 0.45, 1.0),
        ("lower tip", 0.6, -0.35),
        ("upper curve", -0.5, 0.55),
        ("lower curve", 0.75, 0.1),
    ),
    "vertical": (("tallest", 0.0, 1.0), ("left second", -0.7, 0.68), ("right third", 0.7, 0.5)),
    "horizontal": (
        ("tallest", 0.0, 1.0),
        ("left end", -1.0, 0.2),
        ("right end", 1.0, 0.12),
        ("left shoulder", -0.55, 0.66),
        ("right shoulder", 0.55, 0.56),
    ),
    "round": (
        ("tallest", 0.0, 1.0),
        ("left side", -0.95, 0.3),
        ("right side", 0.95, 0.22),
        ("left shoulder", -0.6, 0.78),
        ("right shoulder", 0.6, 0.7),
    ),
    "fan": (
        ("tallest", 0.0, 1.0),
        ("left edge", -1.0, 0.3),
        ("right edge", 1.0, 0.22),
        ("left ray", -0.6, 0.78),
        ("right ray", 0.6, 0.7),
    ),
}
USUAL = "symmetrical triangle"
BREADTH = {
    "vertical": 0.25,
    "round": 0.55,
    "horizontal": 1.6,
    "fan": 0.9,
}  # half the breadth over the height, where no rule names one
HALF = 0.45  # the same for any other form
# whole stem over container height, lean (common practice)
RINGS = (("lower ring", 1.5, 45.0), ("upper ring", 2.0, 25.0))


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
    """One main stem: visible `length` along it in cm, lean from upright in degrees (right positive)
    and toward the viewer, and the part `hidden` below the rim in cm.
    """

    name: str
    length: float
    lean: float
    toward: float = 0.0
    hidden: float = 0.0

    @property
    def height(self) -> float:
        """How far its tip stands over the rim, cm."""
        return self.length * math.cos(math.radians(self.lean))

    @property
    def side(self) -> float:
        """How far its tip stands to the side, cm, right positive."""
        return self.length * math.sin(math.radians(self.lean))

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
    half the breadth; what to know.
    """

    stems: tuple[PlannedStem, ...]
    low: float
    high: float
    height: float
    half: float
    notes: tuple[str, ...]

    @property
    def by_name(self) -> dict[str, PlannedStem]:
        """The stems by what they are called."""
        return {s.name: s for s in self.stems}

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
        if "main" in own:
            main, second, third = (own[n] for n in ("main", "second", "third"))
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
        of stems without a form, the hull of their tips and of the rim's middle.
        """
        if "main" in self.by_name or form not in FORMS:
            tips = np.array([(s.side, s.height) for s in self.stems] + [(0.0, 0.0)])
            return (_hull(tips),)
        low, high = -self.half, self.half
        if form in HEAVY_SIDE:  # these stand off the container's middle
            low, high = min(s.side for s in self.stems), max(s.side for s in self.stems)
        return tuple(
            part * ((high - low) / 2, self.height) + ((low + high) / 2, 0)
            for part in joined_outline(form)
        )


def plan_stems(rules: RuleSet, container: ContainerSize, brief: Brief | None = None) -> StemPlan:
    """The stems of a piece in a container under a rule set, for a brief's form and traits.

    Every length stands in the middle of its band; where two bands cannot both be held in this
    container the weightier rule decides, and a note says what the other would lose.
    """
    brief = brief or Brief()
    own = [rule.under(brief) for rule in rules.rules if rule.applies(brief)]
    bands = {rule.measure: rule.band for rule in own if rule.measure}
    if "main_stem_width" in bands and "second_main" in bands:
        return _three(bands, container)
    low, high, notes = _height(own, container)
    tall = (low + high) / 2
    half = _breadth(bands, container, tall, brief.form)
    if rules.slug.startswith("layered-round"):
        return StemPlan(
            _rings(container, tall),
            low,
            high,
            tall,
            half,
            (*notes, "Lengths of the rings are taught by the whole stem.", RESERVE),
        )
    stems = [
        stem_to(name, side * half, up * tall, container)
        for name, side, up in FORMS.get(brief.form, FORMS[USUAL])
    ]
    focal = bands.get("focal_height")
    if focal is not None:
        stems.append(stem_to("focal", 0.0, max(0.02, _middle(focal)) * tall, container))
    stems = sorted(_in_and_out(stems), key=lambda s: -s.length)
    return StemPlan(tuple(stems), low, high, tall, half, (*notes, RESERVE))


def hidden(container: ContainerSize, lean: float) -> float:
    """How much of a stem of some lean (degrees) stands below the rim, cm: down into the water from
    the middle of the rim, or to the wall.
    """
    turn = math.radians(abs(lean))
    down = REACH * container.height / max(math.cos(turn), 1e-9)
    across = container.width / 2 / math.sin(turn) if turn > 1e-9 else math.inf
    return min(down, across)


def _three(bands: dict[str, Band], container: ContainerSize) -> StemPlan:
    """Main, second and third of a three-stem piece, whose lengths hang on the container's width;
    the second on the main one's side.
    """
    main = _middle(bands["main_stem_width"]) * container.width
    second = main * _middle(bands["second_main"])
    third = (
        second * _middle(bands["third_second"])
        if "third_second" in bands
        else main * _middle(bands["third_main"])
    )
    leans = [_middle(bands[n]) if n in bands else usual for n, usual in LEANS.items()]
    stems = tuple(
        PlannedStem(name, length, side * lean, TOWARD, hidden(container, lean))
        for name, length, lean, side in zip(
            ("main", "second", "third"), (main, second, third), leans, (-1, -1, 1), strict=True
        )
    )
    upright = math.cos(math.radians(leans[0]))
    band = bands["main_stem_width"]
    notes = [f"All three are brought about {TOWARD:.0f}° toward the viewer, from one narrow foot."]
    if container.depth is not None:
        both = _middle(band) * (container.width + container.depth)
        notes.append(
            f"Some take width and depth together: the main stem would then show {length(both, 0)}."
        )
    half = max(abs(s.side) for s in stems)
    return StemPlan(
        stems,
        band.low * container.width * upright,
        band.high * container.width * upright,
        stems[0].height,
        half,
        (*notes, RESERVE),
    )


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


def _rings(container: ContainerSize, tall: float) -> tuple[PlannedStem, ...]:
    """Rings of one flower, told by the whole stem, and the tallest last in the middle."""
    out = [PlannedStem("tallest, last", tall, 0.0, hidden=hidden(container, 0.0))]
    for name, whole, lean in reversed(RINGS):
        below = hidden(container, lean)
        out.append(
            PlannedStem(name, max(1.0, whole * container.height - below), lean, hidden=below)
        )
    return tuple(sorted(out, key=lambda s: -s.length))


def _in_and_out(stems: list[PlannedStem]) -> list[PlannedStem]:
    """The stems with their depth: the tallest and the ends of the outline stay in its plane, the
    focal flowers come forward, the rest stand in and out by turns.
    """
    ends = {
        min(stems, key=lambda s: s.side).name,
        max(stems, key=lambda s: s.side).name,
        max(stems, key=lambda s: s.height).name,
    }
    turns, out = 0, []
    for stem in stems:
        if stem.name == "focal":
            out.append(replace(stem, toward=FORWARD))
        elif stem.name in ends:
            out.append(stem)
        else:
            out.append(replace(stem, toward=IN_AND_OUT[turns % 2]))
            turns += 1
    return out


def _hull(points: np.ndarray) -> np.ndarray:
    """Corners (m, 2) of the convex hull of points (n, 2)."""
    return cv2.convexHull(points.astype(np.float32)).reshape(-1, 2).astype(float)


def stem_to(name: str, side: float, up: float, container: ContainerSize) -> PlannedStem:
    """A stem from the middle of the rim to a place beside and over it, cm."""
    lean = math.degrees(math.atan2(side, up))
    return PlannedStem(name, math.hypot(side, up), lean, hidden=hidden(container, lean))


def _middle(band: Band) -> float:
    low, high = band.low, band.high
    if not math.isfinite(low):
        return high / 2
    return (low + high) / 2 if math.isfinite(high) else OPEN_END * low


def _up(length: float) -> float:
    return math.ceil(length / STEP - 1e-9) * STEP
