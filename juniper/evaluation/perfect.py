"""A perfect piece of each school and form, drawn as it is taught, and what that school's own rules
say of it.

What a rule set asks is where its own piece is drawn: its height in the middle of the band for
height, its outline the taught one, its colours in the taught parts. A rule that such a piece misses
contradicts the school's own teaching.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import cv2
import numpy as np

from juniper.colour.circle import hue_name
from juniper.colour.palette import Swatch
from juniper.colour.spaces import from_hex, lab_from_srgb
from juniper.measures import Findings, Measured, measure, surface_of
from juniper.measures.finding import Finding
from juniper.measures.form import ASPECTS, taught_outline
from juniper.measures.group import VesselColours, VesselShape, group_findings
from juniper.rules.document import FORMS, Brief, RuleSet
from juniper.rules.verdict import Line, judge
from juniper.scene import Bloom, Label, Raster, Scene, given_datum
from juniper.scene.stems import Stem
from juniper.values import point, triple

LONG = 560  # pixels from the table to the plant's top
ROOM = 60  # pixels about the piece
GREY = Swatch("container", (62.0, 0.0, 0.0), "#969696", "grey", 1.0)
# One colour for each step of the circle that is used, as florists have it (common practice).
STEPS = {
    0: "#f2d21c",
    2: "#ed872d",
    4: "#d02638",
    5: "#c4307a",
    6: "#8a3aa8",
    7: "#5a4cc0",
    8: "#2f66c4",
    10: "#2f9a4f",
}
SCHEMES = {
    "split-complementary": ((0, 0.6), (5, 0.3), (7, 0.1)),
    "polychromatic": ((0, 0.25), (2, 0.2), (4, 0.2), (6, 0.15), (8, 0.1), (5, 0.1)),
    "analogous": ((4, 0.62), (2, 0.28), (5, 0.1)),
}
VESSELS = {
    "tall": (24.0, 15.0),
    "low": (10.0, 24.0),
    "shallow": (8.0, 28.0),
    "jar": (15.0, 10.0),
    "round": (15.0, 15.0),
}


@dataclass(frozen=True)
class Taught:
    """How a school's own piece is made: its forms, container, scheme, viewpoint, share of leaves,
    fill of the outline, and what of the rim is covered.
    """

    forms: tuple[str, ...]
    vessel: str = "tall"
    scheme: str = "split-complementary"
    viewpoint: str = "front only"
    leaves: float = 0.4
    fill: float = 0.82
    rim: float = 0.65
    made_of: str = "opaque"
    dominant: str = ""
    hangs: float = 0.0
    middling: tuple[str, ...] = ("off-balance", "focal too high", "gap")


FAULTS = (
    "off-balance",
    "too tall",
    "gap",
    "focal too high",
    "no focal",
    "stray accent",
    "bare rim",
    "top heavy",
)
TOO_TALL = 1.6  # times the height that is taught
MASS = tuple(f for f in FORMS if f not in ("free", "three-stem", "cascade", "garland"))
THREE_STEM = Taught(
    ("three-stem",),
    "shallow",
    "analogous",
    leaves=0.5,
    fill=0.6,
    rim=0.2,
    middling=("off-balance", "focal too high", "stray accent"),
)
SCHOOLS = {
    "classical-line-mass": Taught(MASS),
    "thirds-and-golden-section": Taught(MASS),
    "three-stem-thirds": THREE_STEM,
    "three-stem-quarters": THREE_STEM,
    "garden-style": Taught(
        ("free", "round", "symmetrical triangle"),
        "round",
        "analogous",
        leaves=0.7,
        fill=0.45,
        rim=0.75,
        hangs=0.25,
    ),
    "low-table-piece": Taught(
        ("horizontal", "round"),
        "low",
        viewpoint="seated at a table",
        leaves=0.7,
        fill=0.7,
        rim=0.8,
        middling=("off-balance", "no focal"),
    ),
    "modern-line-and-grouping": Taught(
        ("right-angle L", "crescent", "S-curve"),
        fill=0.6,
        rim=0.3,
        dominant="line",
        middling=("off-balance",),
    ),
    "layered-round": Taught(
        ("round",),
        "round",
        "analogous",
        "all round",
        leaves=0.2,
        fill=0.86,
        middling=("off-balance", "gap", "bare rim"),
    ),
    "lavish-polychrome": Taught(
        ("round", "symmetrical triangle"),
        "round",
        "polychromatic",
        leaves=0.2,
        fill=0.88,
        middling=("gap", "focal too high"),
    ),
    "grouped-vessels": Taught(
        ("free",),
        "jar",
        "analogous",
        fill=0.5,
        rim=0.3,
        made_of="clear",
        middling=("stray accent",),
    ),
    "edible-and-herb-bunch": Taught(
        ("round", "free"),
        "jar",
        "analogous",
        leaves=0.75,
        fill=0.82,
        made_of="clear",
        middling=("gap", "stray accent"),
    ),
}


def perfect_lines(
    rules: RuleSet,
    form: str,
    faults: tuple[str, ...] = (),
    vessel: str = "",
    material: str = "flowers",
) -> tuple[Line, ...]:
    """What a school's rules say of its own perfect piece of a form, all its measures taken as
    exact; in its own `vessel` or another of VESSELS, of flowers or without. Raises KeyError for a
    school or form without one.
    """
    found, brief = perfect_piece(rules, form, faults, vessel, material)
    exact = {
        name: replace(f, uncertainty=0.0, confirmed=None, calm=None)
        if isinstance(f, Measured)
        else f
        for name, f in found.by_name.items()
    }
    return judge(replace(found, by_name=exact), rules, brief).lines


def every_school(rule_sets: dict[str, RuleSet]) -> Iterator[tuple[RuleSet, str]]:
    """Each school with each form it teaches."""
    for slug, taught in SCHOOLS.items():
        for form in taught.forms:
            yield rule_sets[slug], form


def mark_of(rules: RuleSet, form: str, faults: tuple[str, ...] = ()) -> float:
    """The mark (out of 100) of a school's own piece of a form with faults of FAULTS put into it."""
    found, brief = perfect_piece(rules, form, faults)
    verdict = judge(found, rules, brief)
    mark = verdict.score if verdict.uncapped is None else verdict.uncapped
    return 0.0 if mark is None else mark


@lru_cache(maxsize=64)  # each is looked at in more than one way
def perfect_piece(
    rules: RuleSet,
    form: str,
    faults: tuple[str, ...] = (),
    vessel: str = "",
    material: str = "flowers",
) -> tuple[Findings, Brief]:
    """The measures of a school's own piece of a form, with faults of FAULTS put into it, and the
    brief it answers. Raises KeyError for a school or form without one.
    """
    taught = SCHOOLS[rules.slug]
    if form not in taught.forms:
        raise KeyError(form)
    container, wide = VESSELS[
        vessel or ("low" if form == "horizontal" and taught.vessel == "tall" else taught.vessel)
    ]
    brief = Brief(
        form,
        taught.viewpoint,
        taught.scheme,
        container_height_cm=container,
        container_width_cm=wide,
        dominant=taught.dominant,
        vessel=taught.made_of,
        material=material,
    )
    bands = {r.measure: r.under(brief).band for r in rules.rules if r.measure and r.applies(brief)}
    high = _height(bands, container, wide, form)
    width = _spread(bands, form, wide, high)
    high *= TOO_TALL if "too tall" in faults else 1.0
    piece = _Piece(
        taught,
        form,
        container,
        wide,
        high,
        width,
        bands,
        frozenset(faults),
        material != "no flowers",
    )
    # Without what to add opposite, which would keep the whole drawing with it.
    found = replace(_drawn(piece, brief, rules.weighing), scales=None)
    if rules.kinds == ("several vessels",):
        found = found.joined(*_group(frozenset(faults)))
    return found, brief


def _group(faults: frozenset[str]) -> tuple[Finding, ...]:
    """The measures of a group of three vessels as it is taught, with faults put into it."""
    wide = 40.0 if "gap" in faults else 4.0
    tallest = 90.0 if "too tall" in faults else 44.0
    low = 24.0 if "off-balance" in faults else 14.0
    shapes = (
        VesselShape(0, 9, 24, tallest),
        VesselShape(9 + wide, 18 + wide, low, 43.0 if "focal too high" in faults else 30.0),
        VesselShape(22 + wide, 30 + wide, 19, 38),
    )
    alike = ((GREY.hue, GREY.lab, 1.0),)
    mixed = tuple(
        (name, lab, 1.0)
        for name, lab in (
            ("red", (40.0, 60, 30)),
            ("orange", (65.0, 40, 65)),
            ("blue", (40.0, 10, -45)),
        )
    )
    held = tuple(
        VesselColours((mixed[n],) if "stray accent" in faults else alike) for n in range(3)
    )
    return group_findings(shapes, held, 0.0)


def _middle(band) -> float:
    low, high = band.low, band.high
    return high if math.isinf(low) else low * 1.1 if math.isinf(high) else (low + high) / 2


def _height(bands, container: float, wide: float, form: str) -> float:
    """Plant height, cm: from the middle of the weightiest band that says one."""
    if "main_stem_width" in bands:
        return _middle(bands["main_stem_width"]) * wide * math.cos(math.radians(12))
    if "table_height" in bands:
        band = bands["table_height"]  # a low dome reaches higher than a long piece
        return (band.low + (0.8 if form == "round" else 0.5) * (band.high - band.low)) - container
    if "governing_ratio" in bands:
        return _middle(bands["governing_ratio"]) * max(container, wide)
    if "height_ratio" in bands:
        return _middle(bands["height_ratio"]) * container
    return 1.5 * max(container, wide)


def _spread(bands, form: str, wide: float, high: float) -> float:
    """Plant width, cm, as the form is taught and a band for it asks."""
    low, most = ASPECTS.get(form, (0, 0.8, 1.4, 2))[1:3]
    width = math.sqrt(low * most) * high
    if "width_ratio" in bands:
        band = bands["width_ratio"]
        width = min(max(width, band.low * wide), band.high * wide)
    return width


@dataclass(frozen=True)
class _Piece:
    """A piece to be drawn: how it is taught, its form, and container and plant in cm."""

    taught: Taught
    form: str
    container: float
    wide: float
    high: float
    width: float
    bands: dict
    faults: frozenset[str] = frozenset()
    flowers: bool = True

    @property
    def scale(self) -> float:
        """Pixels to a centimetre."""
        return LONG / (self.container + self.high)

    @property
    def parts(self) -> tuple[np.ndarray, ...]:
        """The outline, cm to the right of the axis and over the rim."""
        taught = taught_outline("round" if self.form == "free" else self.form)
        points = np.vstack(taught)
        size = self.width / np.ptp(points[:, 0]), self.high / points[:, 1].max()
        return tuple(part * size for part in taught)


def _drawn(piece: _Piece, brief: Brief, weighing: str) -> Findings:
    scale, parts = piece.scale, piece.parts
    points = np.vstack(parts)
    left = max(-points[:, 0].min(), piece.wide / 2) * scale + ROOM
    right = max(points[:, 0].max(), piece.wide / 2) * scale + ROOM
    size = (int(LONG + 2 * ROOM), int(left + right))
    rim = np.array([left, ROOM + piece.high * scale])

    def at(x, y) -> np.ndarray:
        return rim + np.array([x, -y]) * scale

    plant = np.zeros(size, np.uint8)
    for part in parts:
        cv2.fillPoly(plant, [np.round([at(*p) for p in part]).astype(np.int32)], 1)
    _cut_room(plant, piece.taught.fill)
    _at_fault(plant, piece, at)
    labels = np.zeros(size, np.uint8)
    half = piece.wide / 2 * scale
    labels[
        int(rim[1]) : int(rim[1] + piece.container * scale), int(rim[0] - half) : int(rim[0] + half)
    ] = Label.CONTAINER
    labels[plant > 0] = Label.PLANT
    _cover_rim(labels, rim, half, piece)
    blooms = _blooms(piece, at, labels)
    for b in blooms:
        cv2.circle(
            labels, (round(b.centre[0]), round(b.centre[1])), round(b.radius), int(Label.PLANT), -1
        )
    if "gap" in piece.faults:
        hole = at(-0.06 * piece.width, 0.36 * piece.high)
        across = 0.12 * scale * math.sqrt(piece.width * piece.high)
        cv2.circle(
            labels,
            (round(float(hole[0])), round(float(hole[1]))),
            round(across),
            int(Label.BACKDROP),
            -1,
        )
    flowers, palette = _coloured(labels == Label.PLANT, piece.taught, blooms)
    light = _light(labels, flowers, blooms, rim)
    if "top heavy" in piece.faults:
        light = np.where(labels == Label.PLANT, 100 - light, light).astype(np.uint8)
    raster = Raster(labels, flowers, light, 1.0)
    datum = given_datum(
        tuple(rim),
        (rim[0], rim[1] + piece.container * scale),
        (rim[0] - half, rim[1]),
        (rim[0] + half, rim[1]),
    )
    if not piece.flowers:
        raster = replace(raster, flowers=np.zeros_like(flowers))
        palette, blooms = tuple(s for s in palette if s.part != "flower"), ()
    focal = blooms[0].centre if blooms else None
    scene = Scene(datum, focal, blooms, palette, size[1], size[0])
    return measure(
        surface_of(raster),
        scene,
        datum,
        focal,
        piece.container,
        piece.form,
        _stems(piece, at),
        weighing=weighing,
    )


def _at_fault(plant: np.ndarray, piece: _Piece, at) -> None:
    """What faults do to a plant (0 or 1, h x w): a mass on one side, one at the top."""
    unit = piece.scale * math.sqrt(piece.width * piece.high)

    def disc(x: float, y: float, radius: float, value: int) -> None:
        place = at(x * piece.width, y * piece.high)
        cv2.circle(
            plant, (round(float(place[0])), round(float(place[1]))), round(radius * unit), value, -1
        )

    if "off-balance" in piece.faults:
        disc(0.6, 0.28, 0.4, 1)
    if "top heavy" in piece.faults:
        disc(0.0, 0.85, 0.2, 1)


def _cut_room(plant: np.ndarray, fill: float) -> None:
    """Small rooms in a plant (0 or 1, h x w), so that it fills so much of its outline: none so
    large that it is a hole.
    """
    whole = int(plant.sum())
    step = max(24, int(math.sqrt(whole) / 9))
    deep = cv2.distanceTransform(plant, cv2.DIST_L2, 3)
    rows = enumerate(range(0, plant.shape[0], step))
    spots = [
        (x, y)
        for n, y in rows
        for x in range((n % 2) * step // 2, plant.shape[1], step)
        if deep[y, x] > 0.4 * step
    ]
    radius = min(0.44 * step, math.sqrt((1 - fill) * whole / (math.pi * max(1, len(spots)))))
    for spot in spots:
        cv2.circle(plant, spot, round(radius), 0, -1)


def _cover_rim(labels: np.ndarray, rim: np.ndarray, half: float, piece: _Piece) -> None:
    """Leaves over the rim's lip, evenly, and what hangs below it beside the vessel."""
    # over a lip that is seen a little from above
    deep = int(max(0.04 * piece.container * piece.scale, 0.16 * half))
    y = int(rim[1])
    labels[y - 2 : y + deep, int(rim[0] - half) : int(rim[0] + half)] = Label.CONTAINER
    tufts, covered = 8, piece.taught.rim
    if "bare rim" in piece.faults:  # or buried, where it is to show
        covered = 0.0 if covered > 0.4 else 1.0
    for n in range(tufts):
        start = rim[0] - half + (n + 0.5 - covered / 2) * 2 * half / tufts
        labels[y - 2 : y + deep, int(start) : int(start + covered * 2 * half / tufts)] = Label.PLANT
    if piece.taught.hangs:
        low = int(y + piece.taught.hangs * piece.container * piece.scale)
        for side in (-1, 1):
            x = int(rim[0] + side * 0.8 * half)
            labels[y - 2 : low, x - 6 : x + 7] = Label.PLANT


def _blooms(piece: _Piece, at, labels: np.ndarray) -> tuple[Bloom, ...]:
    """A focal bloom low by the axis, and others smaller the further up and out, mirrored for a
    symmetrical form; in groups for a grouped one.
    """
    radius = min(0.15 * piece.wide, 0.14 * piece.high)
    aside = 0.0 if Brief(piece.form).symmetrical or piece.form == "free" else 0.06 * piece.width
    band = piece.bands.get("focal_height")
    level = 0.78 if "focal too high" in piece.faults else _middle(band) if band else 0.2
    focal = (aside, level * piece.high, radius * (0.6 if "no focal" in piece.faults else 1.0))
    if {"clear_groups", "colours_grouped"} & set(piece.bands):
        rest = _grouped(piece, radius)
    else:
        rest = [
            (side * across * piece.width, up * piece.high, size * radius, 1)
            for across, up, size in (
                (0.24, 0.12, 0.75),
                (0.14, 0.42, 0.68),
                (0.06, 0.68, 0.58),
                (0.34, 0.1, 0.6),
            )
            for side in (-1, 1)
        ]
    out = []
    for n, (x, y, r, swatch) in enumerate([(*focal, 1), *rest]):
        place = at(x, y)
        if n and swatch == 1 and not _inside(labels, place):
            continue
        out.append(
            Bloom(
                point(place), r * piece.scale, "#888888", "", swatch, "focal" if n == 0 else "mass"
            )
        )
    if "stray accent" in piece.faults:
        stray = at(0.34 * piece.width, 0.72 * piece.high)
        out.append(Bloom(point(stray), 0.4 * radius * piece.scale, "#18b8a8", "", 1, "mass"))
    return tuple(out)


def _grouped(piece: _Piece, radius: float) -> list[tuple[float, float, float, int]]:
    """Two, a space, one, a space, two with the focal bloom in the middle: a pair high in the
    upright line, a pair at the end of the lower one.
    """
    r = 0.6 * radius
    points = np.vstack(piece.parts)
    upright = points[points[:, 1] > 0.55 * piece.high][:, 0].mean()
    low = points[points[:, 1] < 0.4 * piece.high]
    side = -math.copysign(1, upright)
    across = 0.72 * float(np.abs(low[:, 0][np.sign(low[:, 0]) == side]).max()) * side
    level = float(low[np.abs(low[:, 0] - across) < 0.2 * piece.width][:, 1].mean())
    return [
        (upright, 0.66 * piece.high - r, r, 2),
        (upright, 0.66 * piece.high + r, r, 2),
        (across - r, level, r, 3),
        (across + r, level, r, 3),
    ]


def _inside(labels: np.ndarray, place: np.ndarray) -> bool:
    x, y = (int(v) for v in place)
    return (
        0 <= y < labels.shape[0]
        and 0 <= x < labels.shape[1]
        and labels[max(0, y - 6) : y + 7, max(0, x - 6) : x + 7].max() == Label.PLANT
    )


def _coloured(
    plant: np.ndarray, taught: Taught, blooms: tuple[Bloom, ...]
) -> tuple[np.ndarray, tuple[Swatch, ...]]:
    """Leaves and flower colours scattered over a plant in the taught parts, everywhere alike; and
    their palette.
    """
    parts = SCHEMES[taught.scheme]
    rng = np.random.default_rng(7)
    cells = rng.random((plant.shape[0] // 6 + 1, plant.shape[1] // 6 + 1))
    drawn = np.kron(cells, np.ones((6, 6)))[: plant.shape[0], : plant.shape[1]]
    edges = taught.leaves + (1 - taught.leaves) * np.cumsum([0.0, *(share for _, share in parts)])
    flowers = np.where(plant, np.searchsorted(edges, drawn, side="right"), 0).astype(np.uint8)
    flowers[flowers > len(parts)] = 0
    petals = [_swatch(STEPS[step], share) for step, share in parts]
    leaf = Swatch("foliage", (45.0, -22.0, 28.0), "#557a3c", "green", 1.0)
    return flowers, (*petals, leaf, GREY)


def _swatch(text: str, share: float) -> Swatch:
    lab = lab_from_srgb(from_hex(text))
    return Swatch("flower", triple(lab), text, hue_name(lab), share, shown=text)


def _light(
    labels: np.ndarray, flowers: np.ndarray, blooms: tuple[Bloom, ...], rim: np.ndarray
) -> np.ndarray:
    """Lightness: darker below, and a light focal bloom where the eye is to go."""
    rows = np.arange(labels.shape[0], dtype=float)[:, None]
    top = float(np.nonzero((labels == Label.PLANT).any(axis=1))[0].min())
    light = np.clip(70 - 40 * (rows - top) / max(rim[1] - top, 1), 25, 75) * np.ones(labels.shape)
    # Fine material in the middle third, broad elsewhere.
    third = slice(int(0.4 * labels.shape[1]), int(0.6 * labels.shape[1]))
    light[:, third][:, (np.arange(light[:, third].shape[1]) // 3) % 2 == 0] += 14
    x, y = blooms[0].centre
    cv2.circle(light, (round(x), round(y)), round(blooms[0].radius), 95.0, -1)
    return light.astype(np.uint8)


def _stems(piece: _Piece, at) -> tuple[Stem, ...]:
    """The main lines: main, second and third of a three-stem piece as its bands have them, or lines
    that spring from one point under the rim.
    """
    if piece.form == "three-stem":
        taught = _middle(piece.bands["main_stem_width"]) * piece.wide
        main, second = (
            taught * (TOO_TALL if "too tall" in piece.faults else 1.0),
            taught * _middle(piece.bands["second_main"]),
        )
        third = (
            second * _middle(piece.bands["third_second"])
            if "third_second" in piece.bands
            else taught * _middle(piece.bands["third_main"])
        )
        leans = ((main, -12.0), (second, -45.0), (third, 75.0))
        tips = [(r * math.sin(math.radians(a)), r * math.cos(math.radians(a))) for r, a in leans]
        return tuple(
            Stem(tuple(at(x, y)), tuple(at(x / 2, y / 2)), tuple(at(0, 0))) for x, y in tips
        )
    tips = [
        (0.3 * piece.width * side * step, (0.85 - 0.3 * step) * piece.high)
        for step in (0.4, 1.0)
        for side in (-1, 1)
    ]
    foot = -0.1 * piece.container
    out = []
    for x, y in [(0.0, 0.95 * piece.high), *tips]:
        start = x * -foot / (y - foot)
        out.append(Stem(tuple(at(x, y)), tuple(at((x + start) / 2, y / 2)), tuple(at(start, 0))))
    return tuple(out)
