"""What goes into a piece, and how many: stems by role from the plan's own outline, shared out over
the kinds that are wanted.

The arithmetic is that of areas: the rules say how full the outline is to be and how much of it is
leaf, a head covers what it covers (see the catalogue). A thrifty piece keeps to the lower edges of
the same bands, a lavish one to the upper: all three are as taught. Counts are odd, since three,
five and seven read as a group (common practice); leaf and filler are not counted by the eye.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from dataclasses import dataclass

import cv2
import numpy as np

from juniper.colour import hue_name, lab_from_srgb, scheme_of, srgb_from_lab, to_hex
from juniper.colour.circle import NEUTRALS, gap, place_of
from juniper.colour.palette import Swatch, among_others
from juniper.colour.ratios import SPLIT, parts_of, picks_up, setting_swatch, split_distance
from juniper.colour.spaces import from_hex
from juniper.lengths import area, length
from juniper.planning.materials import ACROSS, COLOURS, PLANT_ROLES, ROLES, Material
from juniper.planning.stems import StemPlan
from juniper.rules import Brief, RuleSet
from juniper.rules.band import Band
from juniper.rules.written import per_cent
from juniper.values import triple

VARIANTS = ("thrifty", "usual", "lavish")
# of its disc that a stem shows (from memory)
SEEN = {"line": 0.6, "focal": 0.9, "mass": 0.75, "filler": 0.45, "foliage": 0.55, "part": 0.9}
# for what stands behind what is seen (from memory)
BEHIND = {"front only": 1.3, "all round": 2.0, "seated at a table": 2.0}
FILLER = 0.15  # of the flowers' area (from memory)
# of the flowers' area that a group of three focal flowers may hold: where it would hold more,
# there is one (from memory)
FOCAL = 1 / 3
# heads of a ring, from middle to middle, in their own breadth
APART = {"thrifty": 1.6, "usual": 1.25, "lavish": 1.0}
READS = 8  # from nine up nobody counts whether they are odd
SHARED = {1: (1.0,), 2: (0.6, 0.4), 3: (0.5, 0.3, 0.2)}  # of a role's stems, over its kinds
# where a rule set names none
NO_FILL, NO_FOLIAGE = Band(0.3, 0.6, 0.8, 1.0), Band(0.1, 0.3, 0.5, 0.7)
# how the patterns' names begin in which some schools put filler, and how much (from memory)
THREE_STEMS, SOME_FILLER = "three-stem", (1, 3, 5)
# steps of twelve at which two colours are neither neighbours nor opposites (handbook, "Colour")
NEITHER = {
    3: "a quarter of the circle apart, neither neighbours nor opposites",
    4: "a third of the circle apart, two of a triad",
}
MOST = 999  # stems of one kind in a piece


@dataclass(frozen=True)
class Count:
    """How many stems of a role go into one piece, and how that was worked out."""

    role: str
    stems: int
    why: str


@dataclass(frozen=True)
class Wanted:
    """A material that is to be used: in which role and colour (a key of COLOURS), and how many
    stems, None to have that worked out.
    """

    material: Material
    role: str
    colour: str
    stems: int | None = None


@dataclass(frozen=True)
class Item:
    """A line of the recipe: so many stems of a material in one piece."""

    material: Material
    role: str
    colour: str
    stems: int
    typed: bool = False

    @property
    def area(self) -> float:
        """cm² that its stems show."""
        return self.stems * shown(self.role, self.material.across)


def shown(role: str, across: float) -> float:
    """cm² that a stem of a role shows whose head or spray is `across` cm."""
    return math.pi / 4 * across**2 * SEEN[role]


def counts(
    plan: StemPlan,
    rules: RuleSet,
    brief: Brief,
    variant: str = "usual",
    across: dict[str, float] | None = None,
    ways: dict[str, str] | None = None,
) -> tuple[Count, ...]:
    """Stems of each role for one piece, in the order of PLANT_ROLES, none left out; `across` is the
    breadth of a head by role, cm, the usual one where it is not told, `ways` those that a school
    has chosen. Raises ValueError for a variant that is not known.
    """
    if variant not in VARIANTS:
        raise ValueError(f"A recipe is one of: {', '.join(VARIANTS)}.")
    wide = ACROSS | (across or {})
    if ring_counts(plan):
        found = _of_rings(plan, brief, variant, wide["mass"])
    else:
        found = _of_mass(plan, rules, brief, variant, wide)
    for role, stems in plan.pattern.counts:
        found[role] = Count(role, stems[VARIANTS.index(variant)], f"as {_said(plan)} sets it")
    if (ways or {}).get("filler") == "filler" and plan.pattern.slug.startswith(THREE_STEMS):
        why = "of differing lengths, some of it behind: the school's way"
        found["filler"] = Count("filler", SOME_FILLER[VARIANTS.index(variant)], why)
    return tuple(found[role] for role in PLANT_ROLES)


def _said(plan: StemPlan) -> str:
    return f"the pattern “{plan.pattern.name}”"


def _of_rings(plan: StemPlan, brief: Brief, variant: str, head: float) -> dict[str, Count]:
    rings = ring_counts(plan, variant, head, brief.rings)
    words = "; ".join(
        f"{name} {n}, round {length(2 * math.pi * plan.by_name[name].side, 0)}"
        for name, n in rings.items()
    )
    collar = plan.half * 2 * math.pi / (ACROSS["foliage"] * APART[variant])
    return {
        "line": Count("line", 0, "none: one flower makes the rings"),
        "focal": Count("focal", 1, "the tallest, last, in the middle"),
        "mass": Count(
            "mass", sum(rings.values()), f"{words}; heads {APART[variant]:g} of their breadth apart"
        ),
        "filler": Count("filler", 3 if variant == "lavish" else 0, "what the dome still wants"),
        "foliage": Count("foliage", max(3, round(collar)), "the collar, round the rim"),
    }


def ring_counts(
    plan: StemPlan,
    variant: str = "usual",
    head: float = ACROSS["mass"],
    asked: tuple[int, ...] = (),
) -> dict[str, int]:
    """Flowers in each ring of a piece, by the stem's name: those that the brief has `asked` for,
    the outermost first, else an odd number of heads, `head` cm across, as its circle takes; empty
    for a piece without rings.
    """
    rings = sorted((s for s in plan.stems if s.ring), key=lambda s: -abs(s.side))
    fitting = {s.name: odd(2 * math.pi * abs(s.side) / (head * APART[variant]), 3) for s in rings}
    return fitting | {s.name: n for s, n in zip(rings, asked, strict=False)}


def _of_mass(
    plan: StemPlan, rules: RuleSet, brief: Brief, variant: str, wide: dict[str, float]
) -> dict[str, Count]:
    bands = {r.measure: r.under(brief).band for r in rules.rules if r.measure and r.applies(brief)}
    inside = outline_area(plan, brief.form)
    fill = _edge(bands.get("outline_fill", NO_FILL), variant)
    leaf = _edge(
        bands.get("foliage_share", NO_FOLIAGE),
        {"thrifty": "lavish", "lavish": "thrifty"}.get(variant, "usual"),
    )
    behind = BEHIND.get(brief.viewpoint, 1.3)
    covered = inside * fill * behind
    flower = covered * (1 - leaf)
    tips = sum(s.count for s in plan.stems if s.role == "line")
    line = odd(tips, 3)
    focal = 0
    if "focal" in plan.by_name:
        focal = 3 if 3 * shown("focal", wide["focal"]) <= FOCAL * flower else 1
    filler = FILLER * flower
    left = (
        flower - filler - line * shown("line", wide["line"]) - focal * shown("focal", wide["focal"])
    )
    head = shown("mass", wide["mass"])
    return {
        "line": Count("line", line, f"the outline's {tips} tips"),
        "focal": Count(
            "focal",
            focal,
            "one, or a group of three" if focal else "none: these rules ask for no focal point",
        ),
        "mass": Count(
            "mass",
            odd(left / head, 3),
            f"flowers cover {area(flower)}: {area(inside)} of outline, {per_cent(fill)} filled,"
            f" {per_cent(leaf)} of that leaf, {behind:g} times for the depth."
            f" {area(max(0.0, left))} are left for heads that show {area(head)} each",
        ),
        "filler": Count(
            "filler",
            max(1, round(filler / shown("filler", wide["filler"]))),
            f"{per_cent(FILLER)} of the flowers' area",
        ),
        "foliage": Count(
            "foliage",
            max(3, round(covered * leaf / shown("foliage", wide["foliage"]))),
            f"{per_cent(leaf)} of what is covered",
        ),
    }


def outline_area(plan: StemPlan, form: str) -> float:
    """cm² inside the outline that a plan draws, its parts together."""
    parts = plan.outline(form)
    low = np.min([p.min(axis=0) for p in parts], axis=0)
    per_cm = 8.0
    size = np.ceil((np.max([p.max(axis=0) for p in parts], axis=0) - low) * per_cm).astype(int) + 1
    inside = np.zeros(size[::-1], np.uint8)
    for part in parts:
        cv2.fillPoly(inside, [np.round((part - low) * per_cm).astype(np.int32)], 1)
    return float(inside.sum() / per_cm**2)


def odd(number: float, least: int = 1) -> int:
    """The odd whole number next to a figure, `least` at least.

    >>> odd(4.2), odd(0.3)
    (5, 1)
    """
    return max(least, 2 * round((number - 1) / 2) + 1)


def recipe(wanted: tuple[Wanted, ...], counted: tuple[Count, ...]) -> tuple[Item, ...]:
    """The stems of one piece: those typed as they were typed, the rest of each role shared out over
    its kinds, odd where the eye counts. A role for which no material is wanted is left out; mass
    flowers then take the place of line, focal flowers and filler, area for area. Of what is no
    plant there is one, if no number was typed.
    """
    total = {c.role: c.stems for c in counted}
    mass = [w.material.across for w in wanted if w.role == "mass"]
    if mass:
        absent = [r for r in ("line", "focal", "filler") if not any(w.role == r for w in wanted)]
        area = sum(total.get(r, 0) * shown(r, ACROSS[r]) for r in absent)
        total["mass"] = total.get("mass", 0) + round(area / shown("mass", sum(mass) / len(mass)))
    items = []
    for role in ROLES:
        own = [w for w in wanted if w.role == role]
        free = [w for w in own if w.stems is None]
        left = total.get(role, 0) - sum(w.stems for w in own if w.stems is not None)
        parts = iter(_shared(max(left, 0), len(free), role in ("line", "focal", "mass")))
        items += [
            Item(
                w.material,
                role,
                w.colour,
                w.stems if w.stems is not None else next(parts),
                w.stems is not None,
            )
            for w in own
        ]
    return tuple(items)


def _shared(total: int, kinds: int, counted: bool) -> list[int]:
    """A number of stems over kinds, the first with the most, each at least one and odd where they
    are `counted` by the eye.
    """
    shares = SHARED.get(kinds, (1 / kinds,) * kinds if kinds else ())
    return [odd(total * s) if counted else max(1, round(total * s)) for s in shares]


def swatches(items: tuple[Item, ...], count_parts: bool = False) -> tuple[Swatch, ...]:
    """The recipe's flower colours, with the share of the flowers' area that each holds, the largest
    first; leaf, if there is any, last. What is no plant counts among them only if it is said.
    """
    area: defaultdict[tuple[str, str], float] = defaultdict(float)
    for item in items:
        if item.role != "part" or count_parts:
            area["foliage" if item.role == "foliage" else "flower", item.colour] += item.area
    out = []
    for part in ("flower", "foliage"):
        own = {colour: a for (p, colour), a in area.items() if p == part and a > 0}
        whole = sum(own.values())
        out += [
            _swatch(part, colour, a / whole)
            for colour, a in sorted(own.items(), key=lambda x: -x[1])
        ]
    return tuple(out)


def _swatch(part: str, colour: str, share: float) -> Swatch:
    lab = lab_from_srgb(from_hex(COLOURS[colour]))
    # Held against the circle like a colour read from a photograph, of petals among others.
    seen = to_hex(srgb_from_lab(among_others(lab))) if part == "flower" else COLOURS[colour]
    return Swatch(part, triple(lab), COLOURS[colour], hue_name(lab), share, seen, colour)


def values_of(items: tuple[Item, ...], brief: Brief) -> dict[str, float]:
    """What a piece after the recipe would measure, by the names of the measures; what it says
    nothing of is left out.
    """
    items = tuple(i for i in items if i.role != "part" or brief.count_parts)
    flowers = [i for i in items if i.role != "foliage" and i.stems]
    if not any(i.role != "part" for i in flowers):
        return {}
    kinds: Counter = Counter()
    for item in flowers:
        if item.role not in ("filler", "part"):
            kinds[item.material.slug] += item.stems
    few = [n for n in kinds.values() if n <= READS]
    palette = swatches(items, brief.count_parts)
    parts = parts_of(palette)
    found = {
        "foliage_share": (
            sum(i.area for i in items if i.role == "foliage") / sum(i.area for i in items)
        ),
        "flower_kinds": float(len(kinds)),
        "flower_colours": float(sum(p.share >= 0.05 for p in parts)),
        "dominant_share": parts[0].share,
    }
    if few:
        found["odd_counts"] = sum(n % 2 for n in few) / len(few)
    if len(parts) > 1:
        found["colour_split"] = split_distance(parts, brief.split or SPLIT)
    if len(parts) > 2:
        found["accent_share"] = sum(p.share for p in parts[2:])
    if brief.setting:
        found["setting_share"] = picks_up(setting_swatch(brief.setting), palette)[1]
    return found


def scheme_planned(items: tuple[Item, ...], brief: Brief):
    """The colour scheme (juniper.colour.Scheme) that the recipe's flowers make, None without
    flowers.
    """
    return scheme_of(swatches(items, brief.count_parts), brief.with_green)


def scheme_words(flowers: tuple[Swatch, ...], scheme) -> str:
    """The scheme that flower colours make, by its name; of two colours that are neither neighbours
    nor opposites on the artists' circle how far apart they lie; "no scheme" without flowers.
    """
    if scheme is None:
        return "no scheme"
    hues = [s for s in flowers if s.hue not in NEUTRALS]
    if len(hues) != 2:
        return scheme.name
    first, second = (float(place_of(s.own)) for s in hues)
    steps = round(float(gap(first, second)))
    if steps not in NEITHER:
        return scheme.name
    return f"no taught scheme of two: {hues[0].called} and {hues[1].called} lie {NEITHER[steps]}"


def _edge(band: Band, variant: str) -> float:
    """The place in a band of shares that a variant keeps to."""
    low = band.low if math.isfinite(band.low) else 0.0
    high = min(band.high, 1.0)
    return {"thrifty": low, "usual": (low + high) / 2, "lavish": high}[variant]
