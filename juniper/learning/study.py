"""What is known of one picture that eye practice asks about: its datum, where its weight lies, its
colours, its faults and their places, and the measures with what is drawn of them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from juniper.assessment import PieceView
from juniper.measures import EvidenceMark, Findings
from juniper.values import Point, point

# Measures that are kept, with what is drawn of them.
KEPT = (
    "height_ratio",
    "height_ratio_image",
    "governing_ratio",
    "left_area_share",
    "left_weight_share",
    "heavier_share",
    "weight_offset",
    "weight_height",
    "outline_fill",
    "largest_gap",
    "twin_tips",
    "stray_accents",
    "bare_stem",
    "stems_crossing",
    "focal_height",
    "focal_offset",
    "eye_distance",
)
MARGIN = 0.12  # of the piece's height, shown about it
COLOURS = 4  # at the most, whose shares are asked


@dataclass(frozen=True)
class Colour:
    """A flower colour: sRGB as '#b7431f', its step on the artists' circle, and its share of all
    flower, 0 to 1.
    """

    hex: str
    name: str
    share: float


@dataclass(frozen=True)
class Study:
    """One picture; pixels of the picture, x right and y down.

    `top`, `left` and `right` are the plant's furthest points, `weight` the centre of its visual
    weight, `eye` where the eye lands, `focal` the focal flower; None where there is none. `values`
    and `marks` are measures by name and what is drawn of them. `faults` were made on purpose, and
    `spots` are their places. `exact` is whether all of it is known and not measured.
    """

    width: int
    height: int
    rim: Point
    base: Point
    rim_left: Point
    rim_right: Point
    top: Point
    left: Point
    right: Point
    form: str
    weight: Point | None = None
    eye: Point | None = None
    focal: Point | None = None
    scheme: str = ""
    colours: tuple[Colour, ...] = ()
    faults: tuple[str, ...] = ()
    spots: Mapping[str, tuple[Point, ...]] = field(default_factory=dict)
    values: Mapping[str, float] = field(default_factory=dict)
    marks: Mapping[str, tuple[EvidenceMark, ...]] = field(default_factory=dict)
    exact: bool = False

    @property
    def container_px(self) -> float:
        """The container's height, pixels."""
        return math.dist(self.rim, self.base)

    @property
    def up(self) -> Point:
        """Unit vector from base to rim."""
        n = self.container_px
        return (self.rim[0] - self.base[0]) / n, (self.rim[1] - self.base[1]) / n

    @property
    def plant_px(self) -> float:
        """The plant's height over the rim, pixels."""
        return self.along(self.top)

    @property
    def rim_px(self) -> float:
        """The rim's width, pixels."""
        return math.dist(self.rim_left, self.rim_right)

    def along(self, spot: Point) -> float:
        """How far a place lies over the rim, along the axis, pixels."""
        u = self.up
        return (spot[0] - self.rim[0]) * u[0] + (spot[1] - self.rim[1]) * u[1]

    def across(self, spot: Point) -> float:
        """How far a place lies to the right of the axis, pixels."""
        u = self.up
        return -(spot[0] - self.rim[0]) * u[1] + (spot[1] - self.rim[1]) * u[0]

    def at(self, along: float, across: float = 0.0) -> Point:
        """The place so many pixels over the rim and to the right of the axis."""
        u = self.up
        return (
            self.rim[0] + along * u[0] - across * u[1],
            self.rim[1] + along * u[1] + across * u[0],
        )

    def inside(self, spot: Point) -> bool:
        """Whether a place lies in the picture."""
        return 0 <= spot[0] <= self.width and 0 <= spot[1] <= self.height

    def level(self, along: float, half: float | None = None) -> tuple[Point, Point]:
        """Both ends of a line across the axis, so many pixels over the rim."""
        reach = half or 0.5 * max(self.across(self.right) - self.across(self.left), self.rim_px)
        return self.at(along, -reach), self.at(along, reach)

    def frame(self, containers: float = 0.0) -> tuple[float, float, float, float]:
        """The part of the picture that is shown, left, top, width and height: the piece with a
        margin, and at the least so many container heights over the rim.
        """
        spots = [self.base, self.rim, self.rim_left, self.rim_right]
        spots += [self.top, self.left, self.right, self.at(containers * self.container_px)]
        margin = MARGIN * (self.plant_px + self.container_px)
        left = max(0.0, min(x for x, _ in spots) - margin)
        right = min(float(self.width), max(x for x, _ in spots) + margin)
        top = max(0.0, min(y for _, y in spots) - margin)
        foot = min(float(self.height), max(y for _, y in spots) + margin)
        return round(left, 1), round(top, 1), round(right - left, 1), round(foot - top, 1)

    def as_document(self) -> dict[str, Any]:
        """For JSON; from_document() reads it back."""
        return asdict(self)


def from_document(document: Mapping[str, Any]) -> Study:
    """The study of a document that as_document() made."""
    d = dict(document)
    for name in ("rim", "base", "rim_left", "rim_right", "top", "left", "right"):
        d[name] = point(d[name])
    for name in ("weight", "eye", "focal"):
        d[name] = point(d[name]) if d.get(name) else None
    d["colours"] = tuple(Colour(**c) for c in d.get("colours", ()))
    d["faults"] = tuple(d.get("faults", ()))
    d["spots"] = {k: tuple(map(point, v)) for k, v in d.get("spots", {}).items()}
    d["marks"] = {k: tuple(map(_mark, v)) for k, v in d.get("marks", {}).items()}
    return Study(**d)


def _mark(d: Mapping[str, Any]) -> EvidenceMark:
    return EvidenceMark(**{**d, "points": tuple(map(point, d["points"]))})


def study_of(
    view: PieceView,
    findings: Findings,
    form: str,
    scheme: str = "",
    colours: tuple[Colour, ...] | None = None,
    faults: tuple[str, ...] = (),
    spots: Mapping[str, tuple[Point, ...]] | None = None,
    exact: bool = False,
) -> Study:
    """The study of a view with its measures. Without `colours` those of the palette that was seen;
    without a `scheme` the one that was measured.
    """
    datum = view.datum
    measured = {name: f for name in KEPT if (f := findings.measured(name))}
    marks = {name: tuple(map(_plain, f.evidence)) for name, f in measured.items() if f.evidence}
    if colours is None:
        colours = tuple(
            Colour(s.hex, s.hue, s.share) for s in view.scene.palette if s.part == "flower"
        )
    if not scheme and findings.scheme is not None:
        scheme = findings.scheme.name
    return Study(
        width=view.scene.width,
        height=view.scene.height,
        rim=point(datum.rim),
        base=point(datum.base),
        rim_left=point(datum.rim_left),
        rim_right=point(datum.rim_right),
        top=point(findings.top),
        left=point(findings.left),
        right=point(findings.right),
        form=form,
        weight=_cross(marks.get("left_weight_share", ()), "weight"),
        eye=_cross(marks.get("eye_distance", ()), "eye"),
        focal=point(view.focal) if view.focal is not None else None,
        scheme=scheme,
        colours=_main(colours),
        faults=faults,
        spots=spots or {},
        values={name: round(float(f.value), 4) for name, f in measured.items()},
        marks=marks,
        exact=exact,
    )


def _plain(mark: EvidenceMark) -> EvidenceMark:
    points = np.round(np.asarray(mark.points, float), 1)
    return EvidenceMark(
        mark.kind,
        tuple(point(p) for p in points),
        mark.label,
        mark.says,
        round(float(mark.size), 1),
    )


def _cross(marks: tuple[EvidenceMark, ...], label: str) -> Point | None:
    return next((m.points[0] for m in marks if m.kind == "cross" and m.label == label), None)


def _main(colours: tuple[Colour, ...]) -> tuple[Colour, ...]:
    """The colours with the largest shares, which then add up to 1."""
    kept = sorted(colours, key=lambda c: -c.share)[:COLOURS]
    total = sum(c.share for c in kept)
    return tuple(Colour(c.hex, c.name, round(c.share / total, 4)) for c in kept) if total else ()
