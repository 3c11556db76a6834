"""All measures of one photograph, with uncertainties carried from the datum.

A measure m depends on the datum through four small shifts: of the rim and the base along the
axis, of the base across it, and of the whole axis across. Its variance is the sum of the squares
of (dm/dshift x the shift's standard uncertainty), to first order (JCGM 100:2008, 5.1.2).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from juniper.colour.schemes import Scheme, scheme_of
from juniper.measures import balance, focal, outline, proportion
from juniper.measures.finding import Finding, Mark
from juniper.measures.surface import Surface, View
from juniper.scene.datum import Datum
from juniper.scene.scene import Scene

Point = tuple[float, float]
# Outline pixels sit within about one raster pixel of the edge a person would draw.
EDGE = 1.0


@dataclass(frozen=True)
class Findings:
    """The measures of one photograph by name, its scheme, and the scale in cm per pixel if known."""

    by_name: dict[str, Finding]
    scheme: Scheme | None
    cm_per_px: float | None
    top: Point
    left: Point
    right: Point
    area_px: float

    def __getitem__(self, name: str) -> Finding:
        return self.by_name[name]


GEOMETRY: dict[str, tuple[str, str, Callable[[View], float]]] = {
    "height_ratio": ("proportion", "ratio", proportion.height_ratio),
    "governing_ratio": ("proportion", "ratio", proportion.governing_ratio),
    "plant_share": ("proportion", "share", proportion.plant_share),
    "width_ratio": ("proportion", "ratio", proportion.width_ratio),
    "spread": ("proportion", "ratio", proportion.spread),
    "left_area_share": ("balance", "share", balance.left_area_share),
    "left_weight_share": ("balance", "share", balance.left_weight_share),
    "moment_ratio": ("balance", "ratio", balance.moment_ratio),
    "weight_height": ("balance", "share", balance.weight_height),
    "weight_offset": ("balance", "ratio", balance.weight_offset),
    "outline_symmetry": ("balance", "share", balance.outline_symmetry),
    "rim_cover": ("finish", "share", outline.rim_cover),
    "focal_height": ("focal", "share", focal.focal_height),
    "focal_offset": ("focal", "share", focal.focal_offset),
}
NEEDS_FOCAL = {"focal_height", "focal_offset"}
FOCAL_HAND = 0.02  # of plant height: two people name a focal point this far apart (common practice)


def measure(
    surface: Surface, scene: Scene, datum: Datum, focal_at: Point | None, container_height_cm: float | None = None
) -> Findings:
    """Every measure of a piece under a datum and focal point (both in photograph pixels).

    Nothing is decoded or separated here: a moved handle costs only this call.
    """
    view = View(surface, datum, focal_at)
    cm = container_height_cm / datum.height if container_height_cm else None
    found: dict[str, Finding] = {}
    if view.plant_height <= 0.02 * datum.height:
        reason = "no plant stands above the rim: check the rim handle"
        for name, (family, unit, _) in GEOMETRY.items():
            found[name] = Finding.missing(name, family, unit, reason)
    else:
        found.update(_geometry(view, cm, scene))
    found.update(_outline(view))
    found.update(_colour(surface, scene))
    found["focal_dominance"] = _dominance(scene, focal_at)
    left, right = view.extremes
    return Findings(found, scheme_of(scene.palette) if scene.has_colour else None, cm, view.top, left, right, surface.area_px)


def _geometry(view: View, cm: float | None, scene: Scene) -> dict[str, Finding]:
    spread = view.datum.spread
    shifts = [
        (view.shifted(rim=spread.rim), view.shifted(rim=-spread.rim)),
        (view.shifted(base=spread.base), view.shifted(base=-spread.base)),
        (view.shifted(lean=spread.across), view.shifted(lean=-spread.across)),
        (view.shifted(sideways=spread.across), view.shifted(sideways=-spread.across)),
    ]
    edge = EDGE / view.surface.scale / view.plant_height
    words = {**proportion.arithmetic(view, cm), **balance.arithmetic(view)}
    marks = _marks(view, scene)
    out = {}
    for name, (family, unit, function) in GEOMETRY.items():
        if name in NEEDS_FOCAL and view.focal is None:
            out[name] = Finding.missing(name, family, unit, "no focal point: put its handle where the eye should rest")
            continue
        value = function(view)
        if not np.isfinite(value):
            out[name] = Finding.missing(name, family, unit, "nothing lies on one side of the axis")
            continue
        with np.errstate(all="ignore"):
            halves = [(function(a) - function(b)) / 2 for a, b in shifts]
        variance = sum(h * h for h in halves if np.isfinite(h))
        if name in NEEDS_FOCAL:
            across = view.plant_height / max(view.plant_width / 2, 1) if name == "focal_offset" else 1.0
            variance += (FOCAL_HAND * across) ** 2
            place = view.place(np.array([view.focal]))
            if name == "focal_height":
                words[name] = f"{float(place[0][0]):.0f} px above the rim ÷ plant height {view.plant_height:.0f} px"
            else:
                words[name] = f"{abs(float(place[1][0])):.0f} px from the axis ÷ half of plant width {view.plant_width:.0f} px"
        elif family == "proportion":
            variance += (value * edge) ** 2
        if name == "rim_cover":
            words[name] = f"plant shows along {100 * value:.0f} of 100 parts of the rim line"
        out[name] = Finding(
            name, family, value, unit, float(np.sqrt(variance)), arithmetic=words.get(name, ""), evidence=marks.get(name, ())
        )
    return out


def _marks(view: View, scene: Scene) -> dict[str, tuple[Mark, ...]]:
    height, width, weight = proportion.drawn_height(view), proportion.drawn_width(view), balance.drawn(view)
    marks = {
        "height_ratio": height,
        "governing_ratio": height,
        "plant_share": height,
        "width_ratio": width,
        "spread": width,
        "outline_symmetry": outline.drawn_outline(view),
    }
    for name in ("left_area_share", "left_weight_share", "moment_ratio", "weight_height", "weight_offset"):
        marks[name] = weight
    if view.focal is not None:
        marks["focal_height"] = marks["focal_offset"] = focal.drawn(view, scene.blooms)
    return marks


def _outline(view: View) -> dict[str, Finding]:
    surface = view.surface
    twins = outline.twin_tips(view) if view.plant_height > 0 else []
    return {
        "outline_fill": Finding(
            "outline_fill", "finish", surface.fill, "share", 0.02,
            arithmetic="plant area ÷ area inside the closed outline", evidence=outline.drawn_outline(view),
        ),
        "largest_gap": Finding(
            "largest_gap", "finish", surface.hole, "share", 0.004,
            arithmetic="largest opening inside the outline ÷ area inside the outline", evidence=outline.drawn_gap(view),
        ),
        "twin_tips": Finding(
            "twin_tips", "line", float(len(twins)), "count", 0.0,
            arithmetic="pairs of tips within .04 of plant height, one each side, standing clear",
            evidence=outline.drawn_twins(view),
        ),
    }  # fmt: skip


def _colour(surface: Surface, scene: Scene) -> dict[str, Finding]:
    if not scene.has_colour:
        reason = "the picture has no colour"
        return {
            "foliage_share": Finding.missing("foliage_share", "colour", "share", reason),
            "flower_colours": Finding.missing("flower_colours", "colour", "count", reason),
            "dominant_share": Finding.missing("dominant_share", "colour", "share", reason),
            "lightness_range": Finding.missing("lightness_range", "colour", "L*", reason),
        }
    plant = len(surface.x)
    share = 1 - surface.petals / plant if plant else 1.0
    flowers = [s for s in scene.palette if s.part == "flower" and s.share >= 0.05]
    names = sorted({s.hue for s in flowers} - {"grey", "black", "brown"})
    out = {
        "foliage_share": Finding(
            "foliage_share", "colour", float(share), "share", 0.03,
            arithmetic=f"{plant - surface.petals} of {plant} plant pixels are leaf or stem",
        ),
        "flower_colours": Finding(
            "flower_colours", "colour", float(len(names)), "count", 0.0, arithmetic="named colours holding 5 in 100 or more: " + ", ".join(names),
        ),
    }  # fmt: skip
    if flowers:
        totals: dict[str, float] = {}
        for swatch in flowers:
            totals[swatch.hue] = totals.get(swatch.hue, 0) + swatch.share
        chief = max(totals, key=totals.get)
        out["dominant_share"] = Finding(
            "dominant_share",
            "colour",
            totals[chief],
            "share",
            0.04,
            arithmetic=f"{chief} holds {100 * totals[chief]:.0f} of 100 parts of the flowers",
        )
        light, dark = surface.light, surface.dark
        out["lightness_range"] = Finding(
            "lightness_range", "colour", float(light - dark), "L*", 3.0,
            arithmetic=f"light parts L* {light:.0f} less dark parts L* {dark:.0f} (nine tenths of the plant lie between)",
        )  # fmt: skip
    else:
        for name, unit in (("dominant_share", "share"), ("lightness_range", "L*")):
            out[name] = Finding.missing(name, "colour", unit, "no flower colour was found")
    return out


def _dominance(scene: Scene, focal_at: Point | None) -> Finding:
    if focal_at is None:
        return Finding.missing("focal_dominance", "focal", "ratio", "no focal point")
    found = focal.focal_dominance(focal_at, scene.blooms)
    if found is None:
        return Finding.missing("focal_dominance", "focal", "ratio", "fewer than two kinds of bloom were told apart")
    ratio, chief, rival = found
    return Finding(
        "focal_dominance", "focal", float(ratio), "ratio", 0.08 * float(ratio),
        arithmetic=f"focal bloom {2 * chief.radius:.0f} px across ÷ next kind ({rival.hue}) {2 * rival.radius:.0f} px across",
        evidence=(
            Mark("ring", (chief.centre,), "", f"The focal bloom, {chief.hue}.", size=chief.radius),
            Mark("ring", (rival.centre,), "next", f"The largest of the next kind, {rival.hue}.", size=rival.radius),
        ),
    )  # fmt: skip
