"""All measures of one photograph, with uncertainties carried from the datum.

A measure m depends on the datum through four small shifts: of the rim and the base along the
axis, of the base across it, and of the whole axis across. Its variance is the sum of the squares
of (dm/dshift x the shift's standard uncertainty), to first order (JCGM 100:2008, 5.1.2).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from juniper.colour.heaviness import COLOUR, LIGHTNESS, pulls_of
from juniper.colour.schemes import Scheme, in_doubt
from juniper.lengths import length
from juniper.measures import (
    balance,
    focal,
    group,
    kinds,
    lines,
    outline,
    placing,
    proportion,
    rings,
    space,
    texture,
    tied,
)
from juniper.measures.catalogue import DEFINITIONS
from juniper.measures.colours import ASKED, Asked, Colours, colour_findings, colours_of, told_scheme
from juniper.measures.counterweight import Scales, scales_of
from juniper.measures.finding import (
    EvidenceMark,
    Finding,
    Measured,
    Missing,
    finding_of,
    missing_of,
)
from juniper.measures.form import ASPECTS, FormFit, drawn_fit, held_to_form
from juniper.measures.seeing import DATUM_HOLDS, SEEING
from juniper.measures.surface import Surface, View, stems_under
from juniper.scene.container.datum import HANDLES, Datum
from juniper.scene.scene import LIGHTS, Scene
from juniper.scene.stems import Stem
from juniper.values import Point


@dataclass(frozen=True)
class MeasuringSettings:
    """Uncertainties that belong to a measure rather than to a handle.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    # Outline pixels sit within about one raster pixel of the edge a person would draw.
    edge: float = 1.0
    # of the rim: how far its cover is off where leaves hide the lip itself (against 56 simulated
    # pictures)
    lip: float = 0.12
    # times as uncertain as usual by seeing alone, from which a picture is told to be seen
    # unsteadily
    unsteady: float = 2.0
    at_top: float = 0.1  # of plant height: a stem whose tip lies no further from the top carries it
    # of plant height: two people name a focal point this far apart (common practice)
    focal_hand: float = 0.02
    read: float = 0.02  # of the overlap, and of the aspect: what an outline a pixel off changes


MEASURING = MeasuringSettings()


@dataclass(frozen=True, eq=False)
class WarmStart:
    """What was found where the handles lately were, to be taken over while one of them moves: the
    uncertainty of each measure, and how the form that is asked for was laid on the piece.
    """

    unsure: Mapping[str, float] = field(default_factory=dict)
    held: FormFit | None = None


@dataclass(frozen=True)
class Findings:
    """The measures of one photograph by name, its scheme, the scale in cm per pixel if known, the
    two sides of the piece, and the heights of its tips over the rim in container heights, the
    tallest first; `colours` is what its palette tells by itself. `needs_check` is whether the datum
    is doubtful, `lean` by how many degrees the tallest stem leans, either way, and `tip_spots`
    where each of `tips` is, and `weighing` what visual weight was read from; `swap` names the two
    vessels of a composition whose exchange mends a clash, '' where none does.
    """

    by_name: dict[str, Finding]
    scheme: Scheme | None
    cm_per_px: float | None
    top: Point
    left: Point
    right: Point
    area_px: float
    scales: Scales | None = None
    tips: tuple[float, ...] = ()
    colours: Colours | None = None
    needs_check: bool = False
    lean: float = 0.0
    tip_spots: tuple[Point, ...] = ()
    weighing: str = LIGHTNESS
    swap: str = ""

    def __getitem__(self, name: str) -> Finding:
        return self.by_name[name]

    def measured(self, name: str) -> Measured | None:
        """A measure that was made; None for one that was not, or is not known."""
        found = self.by_name.get(name)
        return found if isinstance(found, Measured) else None

    def joined(self, *more: Finding) -> Findings:
        """These findings with those of another view of the piece in the place of their names."""
        return replace(self, by_name=self.by_name | {f.name: f for f in more})

    def in_words_of(self, kind: str) -> Findings:
        """These findings with what is drawn called as in a piece of a `kind` (see juniper.rules): a
        bunch has no container, and a garland none either.
        """
        words = OTHER_WORDS.get(kind)
        if not words:
            return self
        return self.joined(
            *(
                replace(f, evidence=tuple(_said_as(mark, words) for mark in f.evidence))
                for f in self.by_name.values()
                if isinstance(f, Measured)
            )
        )


# What stands for plant, container and rim in pieces without a container, by kind of piece.
OTHER_WORDS = {
    "hand-tied": {"plant": "dome", "container": "stems", "rim": "tie"},
    "on an edge": {"container": "fall", "rim": "edge"},
}


def _said_as(mark: EvidenceMark, words: dict[str, str]) -> EvidenceMark:
    says = mark.says
    for old, new in words.items():
        says = says.replace(f" {old}", f" {new}").replace(old.capitalize(), new.capitalize())
    return replace(mark, label=words.get(mark.label, mark.label), says=says)


# Measures of the view alone, whose uncertainty is carried from the datum.
GEOMETRY: dict[str, Callable[[View], float]] = {
    "height_ratio": proportion.height_ratio,
    "height_ratio_image": proportion.height_ratio_image,
    "governing_ratio": proportion.governing_ratio,
    "plant_share": proportion.plant_share,
    "width_ratio": proportion.width_ratio,
    "spread": proportion.spread,
    "left_area_share": balance.left_area_share,
    "left_weight_share": balance.left_weight_share,
    "heavier_share": balance.heavier_share,
    "moment_ratio": balance.moment_ratio,
    "weight_height": balance.weight_height,
    "weight_offset": balance.weight_offset,
    "outline_symmetry": balance.outline_symmetry,
    "rim_cover": outline.rim_cover,
    "hanging": space.hanging,
    "hangs_to": space.hangs_to,
    "focal_height": focal.focal_height,
    "focal_offset": focal.focal_offset,
    "eye_distance": focal.eye_distance,
}
UNTOLD = {"rim_cover": "no wall was found under the rim: it may be glass"}
NEEDS_FOCAL = {"focal_height", "focal_offset", "eye_distance"}


def measure(
    surface: Surface,
    scene: Scene,
    datum: Datum,
    focal_at: Point | None,
    container_height_cm: float | None = None,
    form: str = "",
    stems: tuple[Stem, ...] | None = None,
    asked: Asked = ASKED,
    start: WarmStart | None = None,
    focal_put: bool = False,
    weighing: str = LIGHTNESS,
) -> Findings:
    """Every measure of a piece under a datum and focal point (both in photograph pixels); `form` is
    the one the brief asks for, and `stems` the main lines in force (those found under this datum,
    if None); `asked` what the brief asks of the colours. `start` is given while a handle
    moves, and what to add opposite is then not looked for; `focal_put` is whether a person put the
    focal point, and `weighing` what visual weight is read from, one of
    juniper.colour.heaviness.WEIGHINGS.

    Nothing is decoded or separated here: a moved handle costs only this call.
    """
    if stems is None:
        stems = stems_under(surface, datum)
    view = View(
        surface,
        datum,
        focal_at,
        pose=scene.pose,
        pulls=pulls_of(scene.palette) if weighing == COLOUR else (),
    )
    cm = container_height_cm / view.container_height if container_height_cm else None
    near = start or WarmStart()
    found: dict[str, Finding] = {}
    scales = None
    stands = view.plant_height > 0.02 * view.container_height
    if not stands:
        reason = "no plant stands above the rim: check the rim handle"
        found.update(
            {
                name: missing_of(name, reason)
                for name, d in DEFINITIONS.items()
                if d.family != "colour"
            }
        )
    else:
        found.update(_geometry(view, cm, scene, near.unsure))
        # what to add opposite waits until the handle rests
        scales = scales_of(view, scene) if start is None else None
        found.update(_outline(view))
        found.update(_form(view, form, near.held))
        found.update(_of_blooms(view, scene))
        found.update(_of_stems(view, stems))
        found["table_height"] = _table_height(view, cm)
        found["focal_dominance"] = _dominance(scene, focal_at)
        found["stem_ends_level"] = tied.stem_ends(view, scene)
        found["behind_share"] = missing_of("behind_share", "it needs the side view")
        found |= {name: missing_of(name, rings.NEEDS) for name in rings.RINGED}
        found |= {name: missing_of(name, group.ALONE, applies=False) for name in group.GROUPED}
        found |= {
            d.name: missing_of(d.name, f"it needs the {VIEWS_NEEDED[d.view]}", view=d.view)
            for d in DEFINITIONS.values()
            if d.view in VIEWS_NEEDED and d.name not in found
        }
    found.update(colour_findings(view, scene, asked))
    unsteady = dict(scene.unsteady)
    found = {name: _seen(f, unsteady, near.unsure, focal_put) for name, f in found.items()}
    if cm:
        found = {
            name: replace(f, arithmetic=_with_centimetres(f.arithmetic, cm))
            if isinstance(f, Measured)
            else f
            for name, f in found.items()
        }
    left, right = view.extremes
    scheme = told_scheme(scene, asked.with_green) if scene.has_colour else None
    if scheme is not None and not scheme.under_other_light:
        scheme = _steady(scheme, scene.palette, LIGHTS[scene.light], asked.with_green)
    colours = colours_of(scene.palette, scene.blooms) if scene.has_colour else None
    tips = tuple(along / view.container_height for along, _, _ in view.tips) if stands else ()
    lean = _lean_of_tallest(view, stems) if stands else 0.0
    spots = tuple(view.at(along, side) for along, side, _ in view.tips) if stands else ()
    return Findings(
        found,
        scheme,
        cm,
        view.top,
        left,
        right,
        surface.area_px,
        scales,
        tips,
        colours,
        datum.needs_check,
        lean,
        spots,
        weighing,
    )


def _seen(
    found: Finding, unsteady: Mapping[str, float], unsure: Mapping[str, float], focal_put: bool
) -> Finding:
    """A finding with the uncertainty of seeing added to that of the datum; one that was taken over
    has it already.
    """
    seeing = SEEING.get(found.name)
    if (
        seeing is None
        or isinstance(found, Missing)
        or found.name in unsure
        or (focal_put and found.name in NEEDS_FOCAL)
    ):
        return found
    own, usual = (
        seeing.uncertainty(found.value, spread) for spread in (unsteady.get(found.name), None)
    )
    whole = float(np.hypot(found.uncertainty, own))
    if own > MEASURING.unsteady * usual:
        found = replace(found, calm=float(np.hypot(found.uncertainty, usual)))
    if found.name in NEEDS_FOCAL:
        # which bloom is the focal point is what is not sure: putting or confirming it ends that
        first = (
            found.unsure_of
            if found.confirmed is not None and own < found.uncertainty
            else "focal point"
        )
        return replace(
            found,
            uncertainty=whole,
            confirmed=found.uncertainty if found.confirmed is None else found.confirmed,
            unsure_of=first,
        )
    return replace(
        found,
        uncertainty=whole,
        confirmed=None if found.confirmed is None else float(np.hypot(found.confirmed, own)),
    )


def _lean_of_tallest(view: View, stems: tuple[Stem, ...]) -> float:
    """Degrees by which the stem that ends nearest to the plant's top leans, either way; 0 where
    none ends there.
    """
    near = min(stems, key=lambda s: float(np.hypot(*np.subtract(s.tip, view.top))), default=None)
    if (
        near is None
        or np.hypot(*np.subtract(near.tip, view.top)) > MEASURING.at_top * view.plant_height
    ):
        return 0.0
    return abs(lines.stem_lean(view, near))


PIXELS = re.compile(r"(\d+) px(?! =)")


def _with_centimetres(words: str, cm: float) -> str:
    """Arithmetic in which each length in pixels is told in centimetres as well; `cm` is those to a
    pixel.
    """
    return PIXELS.sub(lambda found: f"{found[0]} ({length(float(found[1]) * cm)})", words)


def warm_start(
    surface: Surface, scene: Scene, datum: Datum, focal_at: Point | None, form: str = ""
) -> WarmStart:
    """What to take over while the handles move from this datum and focal point (photograph pixels)
    on, for a piece that is to be of a `form`.
    """
    found = measure(surface, scene, datum, focal_at, stems=())
    unsure = {name: f.uncertainty for name, f in found.by_name.items() if isinstance(f, Measured)}
    held = None
    if form in ASPECTS:
        with suppress(ValueError):
            held = held_to_form(View(surface, datum, focal_at, pose=scene.pose), form)
    return WarmStart(unsure, held)


@dataclass(frozen=True)
class _Shift:
    """A part of the datum or the camera that may be off: what it is called, the view off one way
    and the other, and by what share of that it still may be off once a person has confirmed the
    handles.
    """

    name: str
    views: tuple[View, View]
    left: float


def _shifts(view: View) -> list[_Shift]:
    spread, hand = view.datum.spread, view.datum.by_hand

    def both(name: str, left: float, **how: float) -> _Shift:
        return _Shift(
            name, (view.shifted(**how), view.shifted(**{n: -v for n, v in how.items()})), left
        )

    ways = [
        ("rim", spread.rim, "rim"),
        ("base", spread.base, "foot"),
        ("lean", spread.across, "axis"),
        ("sideways", spread.across, "axis"),
    ]
    out = [both(called, min(1.0, hand / max(by, 1e-9)), **{way: by}) for way, by, called in ways]
    if view.pose is not None:
        out += [
            both("camera", 1.0, pitch=view.pose.doubt),
            both("camera", 1.0, focal=view.pose.focal_doubt),
        ]
    return out


def _to_the_eye(view: View, value: float) -> str:
    apart = value * view.plant_height
    return (
        f"{apart:.0f} px from the most salient spot to the focal point ÷ plant height"
        f" {view.plant_height:.0f} px"
    )


def _focal_above_rim(view: View, value: float) -> str:
    along = float(view.place(np.array([view.focal]))[0][0])
    return f"{along:.0f} px above the rim ÷ plant height {view.plant_height:.0f} px"


def _focal_from_axis(view: View, value: float) -> str:
    side = abs(float(view.place(np.array([view.focal]))[1][0]))
    return f"{side:.0f} px from the axis ÷ half of plant width {view.plant_width:.0f} px"


def _below_the_rim(view: View, value: float) -> str:
    below = int((view.along < -space.SPACE.below * view.container_height).sum())
    return f"{below} of {len(view.along)} plant pixels hang below the rim"


def _lowest_below_rim(view: View, value: float) -> str:
    below = value * view.container_height
    return f"{below:.0f} px below the rim ÷ container height {view.container_height:.0f} px"


def _along_the_rim(view: View, value: float) -> str:
    return f"plant shows along {100 * value:.0f} % of the rim line"


# How a value was worked out, in words; proportion and balance bring theirs along.
ARITHMETIC: dict[str, Callable[[View, float], str]] = {
    "eye_distance": _to_the_eye,
    "focal_height": _focal_above_rim,
    "focal_offset": _focal_from_axis,
    "hanging": _below_the_rim,
    "hangs_to": _lowest_below_rim,
    "rim_cover": _along_the_rim,
}


def _geometry(
    view: View, cm: float | None, scene: Scene, unsure: Mapping[str, float]
) -> dict[str, Finding]:
    shifts: list[_Shift] = []
    edge = MEASURING.edge / view.surface.scale / view.plant_height
    words = {**proportion.arithmetic(view, cm), **balance.arithmetic(view)}
    marks = _marks(view, scene)
    out: dict[str, Finding] = {}
    for name, function in GEOMETRY.items():
        family, unit = DEFINITIONS[name].family, DEFINITIONS[name].unit
        if name in NEEDS_FOCAL and view.focal is None:
            out[name] = missing_of(name, "no focal point: put its handle where the eye should rest")
            continue
        value = function(view)
        if not np.isfinite(value):
            out[name] = missing_of(name, UNTOLD.get(name, "nothing lies on one side of the axis"))
            continue
        parts = []
        if name not in unsure:
            shifts = shifts or _shifts(view)
            parts = _variances(function, shifts)
        rest = 0.0
        if name in NEEDS_FOCAL:
            half_width = max(view.plant_width / 2, 1)
            across = view.plant_height / half_width if name == "focal_offset" else 1.0
            rest += (MEASURING.focal_hand * across) ** 2
        elif family == "proportion":
            rest += (value * edge) ** 2
        elif name == "rim_cover":
            rest += MEASURING.lip**2
        if name in ARITHMETIC:
            words[name] = ARITHMETIC[name](view, value)
        doubt = unsure.get(name, float(np.sqrt(sum(v for v, _ in parts) + rest)))
        sure = float(np.sqrt(sum(v * s.left**2 for v, s in parts) + rest)) if parts else None
        chief = max(parts, key=lambda p: p[0] * (1 - p[1].left ** 2), default=None)
        out[name] = Measured(
            name,
            family,
            value,
            unit,
            doubt,
            arithmetic=words.get(name, ""),
            evidence=marks.get(name, ()),
            confirmed=sure if view.datum.put < HANDLES else None,
            unsure_of=chief[1].name if chief else "",
        )
    return out


def _variances(
    function: Callable[[View], float], shifts: list[_Shift]
) -> list[tuple[float, _Shift]]:
    """Variance of a measure by each part that may be off one way or the other, to first order (JCGM
    100:2008, 5.1).
    """
    with np.errstate(all="ignore"):
        halves = [
            (DATUM_HOLDS * (function(s.views[0]) - function(s.views[1])) / 2, s) for s in shifts
        ]
    return [(h * h, s) for h, s in halves if np.isfinite(h)]


def _marks(view: View, scene: Scene) -> dict[str, tuple[EvidenceMark, ...]]:
    height, width, weight = (
        proportion.drawn_height(view),
        proportion.drawn_width(view),
        balance.drawn(view),
    )
    marks = {
        "height_ratio": height,
        "height_ratio_image": height,
        "governing_ratio": height,
        "plant_share": height,
        "width_ratio": width,
        "spread": width,
        "outline_symmetry": outline.drawn_outline(view),
        "rim_cover": outline.drawn_rim(view),
        "hanging": space.drawn_hanging(view),
        "hangs_to": space.drawn_hanging(view),
    }
    for name in (
        "left_area_share",
        "left_weight_share",
        "heavier_share",
        "moment_ratio",
        "weight_height",
        "weight_offset",
    ):
        marks[name] = weight
    if view.focal is not None:
        marks["focal_height"] = marks["focal_offset"] = focal.drawn(view, scene.blooms)
        marks["eye_distance"] = focal.drawn_eye(view)
    return marks


_steady = lru_cache(maxsize=64)(in_doubt)  # a palette does not change while handles move


# what a measure of another view needs
VIEWS_NEEDED = {"top": "view from above", "seated": "view from a seat", "back": "view from behind"}
FORM = ("form_overlap", "form_fit", "aspect")
FEW_BLOOMS = "it takes five full blooms and a focal point"


def _outline(view: View) -> dict[str, Finding]:
    surface, high = view.surface, view.plant_height
    step, levels, clear = lines.tip_step(view), lines.level_count(view), lines.clearance(view)
    room, one, at = space.open_space(view)
    grain = surface.texture
    found = [
        finding_of(
            "outline_fill",
            surface.fill,
            0.02,
            "plant area ÷ area inside the closed outline",
            outline.drawn_outline(view),
        ),
        finding_of(
            "largest_gap",
            surface.hole,
            0.004,
            "largest opening inside the outline ÷ area inside the outline",
            outline.drawn_gap(view),
        ),
        finding_of(
            "twin_tips",
            float(len(outline.twin_tips(view))),
            0.0,
            "pairs of tips within 4 % of plant height, one on each side, clear of the rest",
            outline.drawn_twins(view),
        ),
        finding_of(
            "tip_step",
            step,
            MEASURING.edge / surface.scale / high,
            f"{step * high:.0f} px between the two tips nearest to one height ÷ plant height"
            f" {high:.0f} px",
            lines.drawn_tips(view),
            "fewer than two tips stand in the upper half",
            applies=False,
        ),
        finding_of(
            "levels",
            levels,
            0.0,
            "heights of the tips, a tenth of plant height or more apart",
            lines.drawn_tips(view),
            "no tip stands clear",
        ),
        finding_of(
            "clearance",
            clear,
            0.02,
            f"{clear * high:.0f} px no broader than a quarter of the plant's width ÷ plant height"
            f" {high:.0f} px",
            lines.drawn_clearance(view, clear),
            "no full part",
        ),
        finding_of(
            "open_space",
            room,
            0.03,
            "room between the tips that the closed outline leaves open ÷ all that they span over"
            " the rim",
            space.drawn_open(at),
            "the piece has no outline",
        ),
        finding_of(
            "one_space",
            one,
            0.05,
            "its largest piece ÷ all of the open room",
            space.drawn_open(at),
            "the tips leave hardly any room open",
            applies=False,
        ),
        finding_of(
            "hanging_flow",
            space.hanging_flow(view),
            0.12,
            f"of {space.SPACE.levels - 1} levels below the rim, those no broader than the one over"
            " them",
            space.drawn_hanging(view),
            "hardly anything hangs below the rim",
            applies=False,
        ),
        finding_of(
            "echo",
            space.echo(view),
            0.03,
            "plant and container, each stretched to one square: common area ÷ joint area",
            outline.drawn_outline(view),
            UNTOLD["rim_cover"],
        ),
        finding_of(
            "texture_contrast",
            grain.contrast if grain else float("nan"),
            0.04,
            (
                f"{100 * grain.fine:.0f} % of the pixels are on an edge where the plant is finest,"
                f" {100 * grain.broad:.0f} % where it is broadest"
                if grain
                else ""
            ),
            texture.drawn(grain, surface.scale) if grain else (),
            "too little plant shows",
        ),
    ]
    return {f.name: f for f in found}


def _form(view: View, form: str, near: FormFit | None = None) -> dict[str, Finding]:
    if not form:
        return {
            name: missing_of(name, "the brief asks for no form", applies=False) for name in FORM
        }
    try:
        held = held_to_form(view, form, near)
    except (KeyError, ValueError):
        return {
            name: missing_of(
                name, f"no outline is taught for the form '{form}'", applies=form != "free"
            )
            for name in FORM
        }
    words = (
        f"the {form} fitted to the piece against its closed outline: common area ÷ joint area ="
        f" {held.fit.overlap:.2f}"
    )
    marks = drawn_fit(view, held.fit)
    low, high = ASPECTS[form][1:3]
    off = (
        held.aspect / low
        if held.aspect < low
        else held.aspect / high
        if held.aspect > high
        else 1.0
    )
    wide = (
        f"{view.plant_width:.0f} px wide ÷ {view.plant_height:.0f} px high = {held.aspect:.2f};"
        f" {low:g} to {high:g} is taught for the {form}"
    )
    return {
        "form_overlap": finding_of("form_overlap", held.fit.overlap, MEASURING.read, words, marks),
        "form_fit": finding_of("form_fit", held.value, MEASURING.read, held.words, marks),
        "aspect": finding_of(
            "aspect", off, MEASURING.read * off, wide, proportion.drawn_width(view)
        ),
    }


def _of_blooms(view: View, scene: Scene) -> dict[str, Finding]:
    """Measures that count and compare the blooms. Their uncertainty is that of the counting: a
    bloom in ten is missed or taken amiss.
    """
    blooms = scene.blooms
    groups = kinds.main_kinds(blooms)
    none = "no bloom was told apart"
    counts = ", ".join(f"{len(g)} {g[0].hue}" for g in groups)
    wide, chief = kinds.largest_bloom(view, blooms), kinds.focal_group(blooms)
    odd, through, like = (
        kinds.odd_share(groups),
        kinds.carried_through(view, groups),
        kinds.like_opposite(view, groups),
    )
    rivals, strays, twins = (
        kinds.rivals(blooms),
        kinds.strays(view, blooms, scene.palette),
        kinds.twins_beside(view, blooms),
    )
    falls, graded = kinds.sequence(view, blooms), placing.gradation(view, blooms)
    together = placing.groups_of(blooms)
    sizes = ", ".join(str(len(g)) for g in together)
    no_focal = float("nan") if not chief else 0.0
    found = [
        finding_of(
            "largest_bloom",
            wide,
            0.06 * wide,
            f"{wide * view.container_width:.0f} px across ÷ container"
            f" {view.container_width:.0f} px",
            kinds.ringed(kinds.broadest(blooms), "largest", "The broadest bloom"),
            none,
        ),
        finding_of(
            "odd_counts",
            odd,
            0.0,
            f"counted: {counts}; those of eight or fewer that are odd, over all such",
            kinds.counted(groups),
            "no kind is few enough to be counted",
        ),
        finding_of(
            "flower_kinds",
            float(len(groups)) if groups else float("nan"),
            0.0,
            f"kinds holding 5 % or more: {counts}",
            kinds.counted(groups),
            none,
        ),
        finding_of(
            "carried_through",
            through,
            0.05,
            "area of the kinds that show on both sides of the axis ÷ area of all",
            kinds.joined(view, groups),
            none,
        ),
        finding_of(
            "like_opposite",
            like,
            0.05,
            "twice the lesser side of each kind ÷ all their area",
            kinds.joined(view, groups),
            none,
        ),
        finding_of(
            "focal_count",
            len(chief) + no_focal,
            0.0,
            "blooms that play the focal part",
            kinds.ringed(chief, "focal", "A focal bloom"),
            none,
        ),
        finding_of(
            "focal_rivals",
            len(rivals) + no_focal,
            0.0,
            f"blooms of another part, {100 * kinds.KIND.rival:.0f} % or more of the focal"
            " bloom's breadth",
            kinds.ringed(rivals, "as large", "A rival of the focal bloom"),
            none,
        ),
        finding_of(
            "focal_twins",
            len(twins) + no_focal,
            0.0,
            "blooms beside the focal bloom, of its size and at its height",
            tuple(m for pair in twins for m in kinds.ringed(pair, "equal", "One of two equals")),
            none,
        ),
        finding_of(
            "stray_accents",
            float(len(strays)) if blooms else float("nan"),
            0.0,
            f"single blooms, {kinds.KIND.strange:.0f} or more (CIEDE2000) from every other,"
            f" {kinds.KIND.away} of plant height from the focal point",
            kinds.ringed(strays, "stray accent", "A bloom unlike all others"),
            none,
        ),
        finding_of(
            "sequence",
            falls,
            0.15,
            "minus the rank correlation of breadth and distance from the focal point",
            kinds.ringed(blooms, "", "A bloom"),
            FEW_BLOOMS,
            applies=False,
        ),
        finding_of(
            "gradation",
            graded,
            0.15,
            "minus the rank correlation of breadth and height over the rim",
            kinds.ringed(blooms, "", "A bloom"),
            FEW_BLOOMS,
            applies=False,
        ),
        finding_of(
            "spacing",
            placing.spacing(blooms),
            0.08,
            "standard deviation of the distances to the nearest neighbour ÷ their mean",
            placing.drawn_nearest(blooms),
            FEW_BLOOMS,
            applies=False,
        ),
        finding_of(
            "ring_rise",
            placing.rise(view, blooms),
            0.06,
            "height of the highest tenth of the heads less that of the lowest tenth ÷ container"
            " height",
            kinds.ringed(blooms, "", "A bloom"),
            FEW_BLOOMS,
            applies=False,
        ),
        finding_of(
            "groups",
            float(len(together)) if together else float("nan"),
            0.0,
            f"blooms of each group: {sizes}",
            placing.drawn_groups(together),
            none,
        ),
        finding_of(
            "clear_groups",
            placing.clear_groups(together),
            0.1,
            f"groups of {sizes}: area of those of three or fewer with a space round them ÷ area"
            " of all",
            placing.drawn_groups(together),
            "there are no two blooms",
            applies=False,
        ),
        finding_of(
            "groups_answer",
            placing.groups_answer(view, together),
            0.12,
            f"groups of {sizes}: area × distance from the axis, lesser side ÷ greater",
            placing.drawn_groups(tuple(g for g in together if len(g) > 1)),
            "there are no two groups of two or more",
            applies=False,
        ),
    ]
    return {f.name: f for f in found}


def _of_stems(view: View, stems: tuple[Stem, ...]) -> dict[str, Finding]:
    """Measures of the main lines; lengths are read to about a fiftieth of plant height, leans to
    three degrees (tests on drawn stems).
    """
    main = lines.main_stems(stems)
    drawn, few = (
        lines.drawn_stems(stems),
        "fewer than {} main lines were made out: draw them with the stem tool",
    )
    reach = 0.02 * view.plant_height
    lengths = [lines.stem_length(view, s) for s in main]
    out = {}
    if main:
        value = lengths[0] / view.container_width
        out["main_stem_width"] = finding_of(
            "main_stem_width",
            value,
            reach / view.container_width,
            f"{lengths[0]:.0f} px along the stem ÷ container {view.container_width:.0f} px ="
            f" {value:.2f}",
            drawn,
        )
    for name, short, long in (("second_main", 1, 0), ("third_second", 2, 1), ("third_main", 2, 0)):
        if len(main) > short:
            value = lengths[short] / lengths[long]
            spread = value * reach * float(np.hypot(1 / lengths[short], 1 / lengths[long]))
            out[name] = finding_of(
                name,
                value,
                spread,
                f"{lengths[short]:.0f} px ÷ {lengths[long]:.0f} px = {value:.2f}",
                drawn,
            )
    for name, stem in zip(("main_lean", "second_lean", "third_lean"), main, strict=False):
        lean = lines.stem_lean(view, stem)
        out[name] = finding_of(
            name,
            abs(lean),
            3.0,
            f"tip to foot leans {abs(lean):.0f}° to the {'right' if lean > 0 else 'left'} of the"
            " axis",
            drawn,
        )
    crossed = lines.crossing_stems(view, stems)
    binding, runs = lines.drawn_binding(view, stems), lines.bare_runs(view, stems)
    bare = lines.bare_stem(view, runs) if stems else float("nan")
    spread, height, foot = (
        lines.radiation(view, stems),
        lines.binding_height(view, stems),
        lines.foot_spread(view, stems),
    )
    # Lines that run side by side give no occasion to tell where they spring from.
    beside = len(stems) > 1
    crossing = (
        "the main lines run side by side, and do not tell where they spring from"
        if beside
        else few.format("two")
    )
    found = [
        finding_of(
            "radiation",
            spread,
            0.03,
            "median distance of the crossings from the binding point ÷ container width",
            binding,
            crossing,
            applies=not beside,
        ),
        finding_of(
            "binding_height",
            height,
            0.05,
            "binding point above the rim ÷ container height",
            binding,
            crossing,
            applies=not beside,
        ),
        finding_of(
            "foot_spread",
            foot,
            0.05,
            "breadth over which the stems leave the rim ÷ container width",
            drawn,
            few.format("two"),
        ),
        finding_of(
            "stems_crossing",
            float(len(crossed)) if len(stems) > 1 else float("nan"),
            0.0,
            "pairs of main lines that cross over the rim",
            lines.drawn_crossing(crossed),
            few.format("two"),
        ),
        finding_of(
            "bare_stem",
            bare,
            0.02,
            "longest naked stretch of a main line ÷ plant height",
            lines.drawn_bare(runs),
            few.format("one"),
        ),
    ]
    out |= {f.name: f for f in found}
    for name, count in (
        ("main_stem_width", "one"),
        ("main_lean", "one"),
        ("second_main", "two"),
        ("second_lean", "two"),
        ("third_second", "three"),
        ("third_main", "three"),
        ("third_lean", "three"),
    ):
        out.setdefault(name, missing_of(name, few.format(count)))
    return out


def _table_height(view: View, cm: float | None) -> Finding:
    if cm is None:
        return missing_of("table_height", "the container's height in centimetres is not known")
    whole = view.plant_height + view.container_height
    spread = cm * float(np.hypot(view.datum.spread.rim, view.datum.spread.base))
    return finding_of(
        "table_height",
        whole * cm,
        spread,
        f"{whole:.0f} px from table to top = {length(whole * cm)}",
        proportion.drawn_height(view),
    )


def seen_from_the_side(surface: Surface, datum: Datum, front_is_right: bool = True) -> Finding:
    """Share of the plant behind the axis, from a side view whose front lies to the right, or
    left.
    """
    view = View(surface, datum, None)
    if view.plant_height <= 0.02 * datum.height:
        return missing_of("behind_share", "no plant stands above the rim in the side view")
    left = balance.left_area_share(view)
    value = left if front_is_right else 1 - left
    halves = [
        balance.left_area_share(view.shifted(sideways=s * datum.spread.across)) for s in (1, -1)
    ]
    words = (
        f"{round(value * len(view.side))} of {len(view.side)} plant pixels of the side view lie"
        " behind the axis"
    )
    found = finding_of(
        "behind_share", value, abs(halves[0] - halves[1]) / 2, words, balance.drawn(view)
    )
    return replace(found, view="side")


def _dominance(scene: Scene, focal_at: Point | None) -> Finding:
    if focal_at is None:
        return missing_of("focal_dominance", "no focal point")
    found = focal.focal_dominance(focal_at, scene.blooms)
    if found is None:
        return missing_of("focal_dominance", "no other bloom was told apart")
    ratio, chief, rival = found
    return Measured(
        "focal_dominance",
        "focal",
        float(ratio),
        "ratio",
        0.08 * float(ratio),
        arithmetic=(
            f"focal bloom {2 * chief.radius:.0f} px across ÷ next kind ({rival.hue})"
            f" {2 * rival.radius:.0f} px across"
        ),
        evidence=(
            EvidenceMark(
                "ring", (chief.centre,), "", f"The focal bloom, {chief.hue}.", size=chief.radius
            ),
            EvidenceMark(
                "ring",
                (rival.centre,),
                "next",
                f"The largest of the next kind, {rival.hue}.",
                size=rival.radius,
            ),
        ),
    )
