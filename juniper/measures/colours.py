"""Colour: how much of each there is, how they stand together, and where they are."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from juniper.colour.circle import gap, place_of
from juniper.colour.harmony import Harmony, palette_harmony
from juniper.colour.palette import Swatch, apart
from juniper.colour.ratios import (
    SPLIT,
    Extension,
    Part,
    extension_of,
    parts_of,
    picks_up,
    relation,
    setting_swatch,
    share_unsure,
    split_distance,
)
from juniper.colour.schemes import Scheme, relit, scheme_of
from juniper.measures.catalogue import DEFINITIONS
from juniper.measures.finding import EvidenceMark, Finding, finding_of, missing_of
from juniper.measures.placing import blocks
from juniper.measures.surface import View
from juniper.photograph import adaptation
from juniper.scene.blooms import Bloom
from juniper.scene.scene import Scene
from juniper.values import point


@dataclass(frozen=True)
class ColourSettings:
    """When a colour counts, and where it is carried across.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    counted: float = 0.05  # share of the flowers from which a colour is counted
    few: float = 0.15  # of a colour's area: less on one side of the axis is not carried across
    block: float = 0.05  # of plant height: blooms of one colour no further apart make a block
    # share of a bloom that each of two colours must hold: an undertone is enough (common practice)
    two: float = 0.1
    beside: float = 0.5  # of the radii together, that a bloom beside a bridge may stand off it
    # distance of two colours, 1 the limit between one and two, that another light from behind
    # may make
    same_behind: float = 1.4
    plain_shade: float = 0.2  # share from which even these are a colour of the flowers


COLOURS = ColourSettings()


NOT_COUNTED = {"grey", "black", "brown"}  # shade, stalk and eye, unless they hold much
FACING = ("complementary", "split-complementary")  # the schemes with two poles


def told_scheme(scene: Scene, with_green: bool = False) -> Scheme | None:
    """The scheme of a scene's palette; None without a flower colour.

    A light that was only guessed may be the wall's own colour instead: of the scheme under the
    guess and that of the picture as it was taken the one that is less off its shape is told, with
    the other as what it would be under other light. When this was chosen it named 117 of 120
    simulated pictures under neutral light rightly (the guess alone 115), of 72 under casts without
    a card 59 (61).
    """
    found = scheme_of(scene.palette, with_green)
    if scene.light != "guess" or scene.white is None or found is None:
        return found
    other = scheme_of(_as_taken(scene.palette, scene.white), with_green)
    if other is None or other.name == found.name:
        return found
    first, second = sorted((found, other), key=lambda s: s.off_degrees)
    return replace(first, under_other_light=second.name)


@lru_cache(maxsize=64)
def _as_taken(palette: tuple[Swatch, ...], white: tuple[float, float, float]) -> tuple[Swatch, ...]:
    """A palette in the light that was taken out of it, whose grey is `white`."""
    matrix = tuple(map(tuple, adaptation(np.array(white)).tolist()))
    return tuple(relit(s, matrix) for s in palette)


@dataclass(frozen=True)
class Colours:
    """What a palette tells by itself: its parts, the contrast of extension if it has two poles, its
    harmony and pairs, how the container stands to it, and the blooms of each part, by its place in
    `parts`.
    """

    parts: tuple[Part, ...]
    extension: Extension | None
    harmony: float
    pairs: tuple[tuple[Swatch, Swatch, Harmony], ...]
    relation: tuple[str, str]
    blooms: tuple[tuple[Bloom, ...], ...]

    def heads(self, measure: str, value: float, low: float, high: float) -> str:
        """How many heads to take out or to add so that a share comes inside its band, in words; ''
        where none can be told.
        """
        own, name = self._meant(measure)
        if not own:
            return ""
        area = sum(b.radius**2 for own in self.blooms for b in own) or 1.0
        each = sum(b.radius**2 for b in own) / len(own) / area
        if value > high:
            out = _whole((value - high) / (each * (1 - high)))
            chief = 1 if measure == "dominant_share" else 0
            words = (
                f"Take {_number(out)} of the {_number(len(own))} {name} heads out"
                if out < len(own)
                else ""
            )
            if len(self.parts) > 1 and self.blooms[chief]:
                more = self.blooms[chief]
                ones = sum(b.radius**2 for b in more) / len(more) / area
                join = _whole((value / high - 1) / ones)
                other = self.parts[chief].swatches[0].name
                if join <= 3 * len(more) + 3:  # nobody adds hundreds
                    words += f"{', or let' if words else 'Let'} {_number(join)} more {other} join"
            return words + "." if words else ""
        join = _whole((low - value) / (each * (1 - low))) if low < 1 else 0
        return f"Let {_number(join)} more {name} join." if 0 < join <= 3 * len(own) + 3 else ""

    def _meant(self, measure: str) -> tuple[tuple[Bloom, ...], str]:
        """The blooms that a share is of, and what they are called: of the accents, where there are
        several, the share is of all together.
        """
        at = {
            "dominant_share": 0,
            "supporting_share": 1,
            "accent_share": max(2, len(self.parts) - 1),
        }.get(measure)
        if at is None or at >= len(self.parts):
            return (), ""
        if measure == "accent_share" and at > 2:
            return tuple(b for own in self.blooms[2:] for b in own), "accent"
        return self.blooms[at], self.parts[at].swatches[0].name


NUMBERS = (
    "no",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
)


def _whole(heads: float) -> int:
    return math.ceil(heads - 1e-9)


def _number(n: int) -> str:
    return NUMBERS[n] if n < len(NUMBERS) else str(n)


@lru_cache(maxsize=128)  # no handle changes it
def colours_of(palette: tuple[Swatch, ...], blooms: tuple[Bloom, ...]) -> Colours:
    """What a palette tells by itself, and which blooms are of which of its parts."""
    parts = tuple(
        p for p in parts_of(palette) if p.hue not in NOT_COUNTED or p.share >= COLOURS.plain_shade
    )
    harmony, pairs = palette_harmony(palette)
    scheme = scheme_of(palette)
    vessel = next((s for s in palette if s.part == "container"), None)
    flowers = [s for s in palette if s.part == "flower"]
    of = {flowers.index(s) + 1: i for i, p in enumerate(parts) for s in p.swatches}
    held: list[list[Bloom]] = [[] for _ in parts]
    for b in blooms:
        if b.swatch in of:
            held[of[b.swatch]].append(b)
    return Colours(
        parts,
        extension_of(palette) if scheme is not None and scheme.name in FACING else None,
        harmony,
        tuple(pairs),
        relation(vessel, palette) if vessel else ("", ""),
        tuple(map(tuple, held)),
    )


@dataclass(frozen=True)
class Asked:
    """What a brief asks of the colours: whether green foliage belongs to the scheme, how much of
    the flowers the first, second and other colours should hold, and the colour of the wall or cloth
    behind, #rrggbb, '' where none is told.
    """

    with_green: bool = False
    split: tuple[float, ...] = SPLIT
    setting: str = ""


ASKED = Asked()


def colour_findings(view: View, scene: Scene, asked: Asked = ASKED) -> dict[str, Finding]:
    """Every measure of colour; `view` tells where they lie. How uncertain shares are follows from
    how much of them hangs on near things.
    """
    names = [n for n, d in DEFINITIONS.items() if d.family == "colour" and n != "scheme"]
    if not scene.has_colour:
        return {n: missing_of(n, "the picture has no colour") for n in names}
    surface, plant = view.surface, len(view.surface.x)
    out = {
        "foliage_share": finding_of(
            "foliage_share",
            1 - surface.petals / plant if plant else 1.0,
            0.03,
            f"{plant - surface.petals} of {plant} plant pixels are leaf or stem",
        )
    }
    colours = colours_of(scene.palette, scene.blooms)
    counted = [p for p in colours.parts if p.share >= COLOURS.counted]
    out["flower_colours"] = finding_of(
        "flower_colours",
        float(len(counted)),
        0.0,
        "colours on the circle holding 5 % or more: " + ", ".join(p.hue for p in counted),
    )
    if colours.parts:
        out |= _shares(scene, colours, surface, asked.split)
        out |= _places(view, scene, colours)
        if asked.setting:
            out["setting_share"] = _from_the_cloth(scene, asked.setting)
    for name in names:
        out.setdefault(
            name,
            (
                missing_of(name, MISSING.get(name, NO_COLOUR), applies=name not in NO_OCCASION)
                if colours.parts
                else missing_of(name, NO_COLOUR)
            ),
        )
    return out


def _from_the_cloth(scene: Scene, setting: str) -> Finding:
    cloth = setting_swatch(setting)
    found, share = picks_up(cloth, scene.palette)
    names = ", ".join(f"{s.name} {100 * s.share:.0f} %" for s in found)
    return finding_of(
        "setting_share",
        share,
        share_unsure(found, scene.palette) if found else 0.03,
        f"the wall or cloth is {cloth.name}; {names or 'no flower colour'} picks it up",
    )


MISSING = {
    "setting_share": "the brief tells of no wall or cloth",
    "supporting_share": "there is one flower colour only",
    "accent_share": "it takes three flower colours",
    "colour_split": "there is one flower colour only",
    "extension": "the palette has no two poles that face each other",
    "harmony": "it takes two flower colours",
    "colours_behind": "it needs the back view",
    "container_chroma": "no container was found",
    "bridge_blooms": "the palette has no two poles that face each other",
    "bridge_beside": "the palette has no two poles that face each other",
}
NO_COLOUR = "no flower colour was found"
# Measures whose lack, where there are flower colours, means that the piece gives no occasion for
# them.
NO_OCCASION = frozenset(
    {
        "supporting_share",
        "accent_share",
        "colour_split",
        "extension",
        "harmony",
        "bridge_blooms",
        "bridge_beside",
        "setting_share",
    }
)


def _shares(
    scene: Scene, colours: Colours, surface, split: tuple[float, ...]
) -> dict[str, Finding]:
    parts, out = colours.parts, []
    chief = parts[0]
    groups = [(p,) for p in parts[:2]] + ([parts[2:]] if parts[2:] else [])
    unsure = [
        share_unsure(tuple(s for p in some for s in p.swatches), scene.palette) for some in groups
    ]
    out.append(
        finding_of("dominant_share", chief.share, unsure[0], _holds(chief), _rings(colours, 0))
    )
    if len(parts) > 1:
        out.append(
            finding_of(
                "supporting_share", parts[1].share, unsure[1], _holds(parts[1]), _rings(colours, 1)
            )
        )
        ranked = ", ".join(f"{p.hue} {100 * p.share:.0f}" for p in parts)
        out.append(
            finding_of(
                "colour_split",
                split_distance(parts, split),
                # Half the sum of the parts' differences, which are independent but that what one
                # gains another loses.
                float(np.sqrt(np.sum(np.square(unsure)) / 2)),
                f"{ranked}, held against {', '.join(f'{100 * v:.0f}' for v in split)}: half the sum"
                " of differences",
            )
        )
    if len(parts) > 2:
        rest = sum(p.share for p in parts[2:])
        out.append(
            finding_of(
                "accent_share",
                rest,
                unsure[2],
                "; ".join(map(_holds, parts[2:])),
                _rings(colours, *range(2, len(parts))),
            )
        )
    if colours.extension is not None:
        e = colours.extension
        out.append(
            finding_of(
                "extension",
                abs(e.share - e.wanted),
                e.unsure,
                f"{e.first} holds {100 * e.share:.0f} % of {e.first} and {e.second}; by"
                f" their light values it should hold {100 * e.wanted:.0f} %",
            )
        )
    if np.isfinite(colours.harmony):
        worst = colours.pairs[0]
        out.append(
            finding_of(
                "harmony",
                colours.harmony,
                0.1,
                f"mean over {len(colours.pairs)} pairs, by area; the least harmonious is"
                f" {worst[0].name} with {worst[1].name}: chroma {worst[2].chroma:+.2f}, lightness"
                f" {worst[2].lightness:+.2f}, hue {worst[2].hue:+.2f}",
            )
        )
    light, dark = surface.light, surface.dark
    out.append(
        finding_of(
            "lightness_range",
            float(light - dark),
            3.0,
            f"light parts L* {light:.0f} less dark parts L* {dark:.0f} (nine tenths of the plant"
            " lie between)",
        )
    )
    return {f.name: f for f in out}


def _holds(part: Part) -> str:
    return f"{part.hue} holds {100 * part.share:.0f} % of the flowers"


def _rings(colours: Colours, *places: int) -> tuple[EvidenceMark, ...]:
    return tuple(
        EvidenceMark("ring", (b.centre,), "", f"A bloom of {colours.parts[at].hue}.", size=b.radius)
        for at in places
        for b in colours.blooms[at]
    )


def _places(view: View, scene: Scene, colours: Colours) -> dict[str, Finding]:
    """Where the colours are: carried across and up, in blocks, bridged; and the container beside
    them.
    """
    surface = view.surface
    at, ys, xs = surface.petal_places
    along, side = view.place(np.column_stack([xs, ys]) / surface.scale + 0.5 / surface.scale)
    total, carried, marks, words = 0.0, 0.0, [], []
    third = np.clip((3 * along / view.plant_height).astype(int), 0, 2)
    flowers = [s for s in scene.palette if s.part == "flower"]
    of = np.zeros(len(flowers) + 1, int)
    for k, part in enumerate(colours.parts, 1):
        of[[1 + flowers.index(s) for s in part.swatches]] = k
    part_at = of[at]
    for k, part in enumerate(colours.parts, 1):
        if part.share < COLOURS.counted:
            continue
        own = part_at == k
        if not own.any():
            continue
        left, levels = (
            float((side[own] < 0).mean()),
            np.bincount(third[own], minlength=3) / own.sum(),
        )
        across, up = COLOURS.few <= left <= 1 - COLOURS.few, (levels >= COLOURS.few).sum() >= 2
        total += part.share
        carried += part.share * (across and up)
        if not (across and up):
            where = (
                "on the left only"
                if left > 1 - COLOURS.few
                else "on the right only"
                if left < COLOURS.few
                else "at one height only"
            )
            words.append(f"{part.hue} shows {where}")
            middle = view.at(float(np.median(along[own])), float(np.median(side[own])))
            marks.append(
                EvidenceMark(
                    "cross",
                    (middle,),
                    f"{part.hue} here only",
                    f"{part.hue.capitalize()} shows {where}.",
                )
            )
    held = "; ".join(words) or "every colour shows on both sides and at two heights or more"
    out = {
        "colours_carried": finding_of(
            "colours_carried",
            carried / total if total else float("nan"),
            0.05,
            held,
            tuple(marks),
            "it cannot be told",
        ),
        "colours_grouped": _grouped(view, colours),
    }
    vessel = next((s for s in scene.palette if s.part == "container"), None)
    if vessel is not None and len(surface.wall_hull):
        # Of what is seen, not of the hull.
        wall = surface.wall_px
        petals = surface.petals / surface.scale**2
        chroma = [float(np.hypot(*s.own[1:])) for s in flowers]
        flower = petals * sum(s.share * c for s, c in zip(flowers, chroma, strict=True))
        container = wall * float(np.hypot(*vessel.own[1:]))
        word, nearest = colours.relation
        out["container_chroma"] = finding_of(
            "container_chroma",
            container / (container + flower) if container + flower else 0.0,
            0.05,
            f"chroma times area: container {container / 1e5:.0f}, flowers {flower / 1e5:.0f}; the"
            f" container is {word}" + (f" to {nearest}" if word != "neutral" else ""),
        )
    if colours.extension is not None:
        out |= {f.name: f for f in _bridged(view, scene, flowers, colours.extension)}
    return out


def _grouped(view: View, colours: Colours) -> Finding:
    """Share of the blooms' area that stands in the largest block of its colour."""
    reach, whole, inside, marks = COLOURS.block * view.plant_height, 0.0, 0.0, []
    for part, blooms in zip(colours.parts, colours.blooms, strict=True):
        if len(blooms) < 2:
            continue
        spots, radius = np.array([b.centre for b in blooms]), np.array([b.radius for b in blooms])
        near = (
            np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1))
            - radius[:, None]
            - radius[None]
            < reach
        )
        count, label = blocks(near)
        areas = np.bincount(label, weights=radius**2, minlength=count)
        whole += float(areas.sum())
        inside += float(areas.max())
        for i in np.flatnonzero(label == int(areas.argmax())):
            marks.append(
                EvidenceMark(
                    "ring",
                    (point(spots[i]),),
                    "",
                    f"In the block of {part.hue}.",
                    size=float(radius[i]),
                )
            )
    if not whole:
        return missing_of("colours_grouped", "no colour has two blooms", applies=False)
    return finding_of(
        "colours_grouped",
        inside / whole,
        0.05,
        "area of the largest block of each colour ÷ area of all its blooms",
        tuple(marks),
    )


def _bridged(
    view: View, scene: Scene, flowers: list[Swatch], extension: Extension
) -> tuple[Finding, Finding]:
    """Blooms that hold both colours of two that face each other, and what share of them stands
    beside one of either colour.
    """
    surface = view.surface
    at, ys, xs = surface.petal_places
    places = [float(place_of(s.own)) for s in flowers]
    chief = next(p for s, p in zip(flowers, places, strict=True) if s.hue == extension.first)
    pole = np.array(
        [0, *(1 if gap(p, chief) < 2 else 2 if gap(p, chief) > 4 else 0 for p in places)]
    )
    bridges = []
    for b in scene.blooms:
        (x, y), radius = np.multiply(b.centre, surface.scale), b.radius * surface.scale
        rows = slice(*np.searchsorted(ys, (y - radius, y + radius)))  # they run from the top
        inside = np.hypot(xs[rows] - x, ys[rows] - y) < radius
        held = np.bincount(pole[at[rows][inside]], minlength=3)[1:]
        if held.sum() and held.min() >= COLOURS.two * held.sum():
            bridges.append(b)
    marks = tuple(
        EvidenceMark(
            "ring", (b.centre,), "bridge", "A bloom that holds both colours.", size=b.radius
        )
        for b in bridges
    )
    both = f"{extension.first} and {extension.second}"
    count = finding_of(
        "bridge_blooms",
        float(len(bridges)),
        0.0,
        f"blooms of which {both} each hold a tenth",
        marks,
    )
    if not bridges:
        return count, missing_of("bridge_beside", "no bloom holds both poles", applies=False)
    of_pole = [
        b for b in scene.blooms if b not in bridges and 0 < b.swatch < len(pole) and pole[b.swatch]
    ]
    beside = [
        b
        for b in bridges
        if any(
            math.dist(b.centre, o.centre) < (1 + COLOURS.beside) * (b.radius + o.radius)
            for o in of_pole
        )
    ]
    words = f"{len(beside)} of {len(bridges)} bridge blooms stand beside one of {both}"
    return count, finding_of("bridge_beside", len(beside) / len(bridges), 0.0, words, marks)


def seen_from_behind(front: Scene, back: Scene) -> Finding:
    """Share of the front's flowers whose colour shows from behind as well."""
    if not (front.has_colour and back.has_colour):
        return missing_of("colours_behind", "the picture has no colour")
    here = [s for s in front.palette if s.part == "flower" and s.share >= COLOURS.counted]
    there = np.array(
        [s.own for s in back.palette if s.part == "flower" and s.share >= COLOURS.counted / 2]
    ).reshape(-1, 3)
    if not here:
        return missing_of("colours_behind", NO_COLOUR)
    shows = [
        len(there) > 0 and float(apart(np.array(s.own), there).min()) < COLOURS.same_behind
        for s in here
    ]
    lacks = ", ".join(s.name for s, shown in zip(here, shows, strict=True) if not shown)
    value = sum(s.share for s, shown in zip(here, shows, strict=True) if shown) / sum(
        s.share for s in here
    )
    words = (
        f"not seen from behind: {lacks}" if lacks else "every colour of the front shows from behind"
    )
    return finding_of("colours_behind", value, 0.05, words, view="back")
