"""Bands drawn against real pieces, and an example of every measure."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from django.utils.html import format_html, format_html_join

from heath.drawing.evidence import drawable
from juniper.assessment import analyse
from juniper.measures import DEFINITIONS, Definition
from juniper.photobooth import frame
from juniper.rules import Band, Brief
from juniper.scene import Label

WIDTH, MARGIN = 260.0, 8.0
SVG = (
    '<svg class="band" viewBox="0 0 260 34" role="img" aria-label="{}"><path class="rule" d="M8'
    ' 18H252"/><rect class="limit" x="{}" y="16" width="{}" height="4"/><rect class="ideal" x="{}"'
    ' y="13" width="{}" height="10"/>{}{}</svg>'
)
# pieces of the simulated roll that the measures are shown on
EXAMPLES = ((0, "symmetrical triangle"), (4, "three-stem"))
STEMS = {
    "main_stem_width",
    "second_main",
    "third_second",
    "third_main",
    "main_lean",
    "second_lean",
    "third_lean",
    "foot_spread",
}


def span_of(bands: list[Band], values: list[float]) -> tuple[float, float]:
    """The scale on which bands and values are drawn together."""
    edges = [e for b in bands for e in b.edges if math.isfinite(e)]
    low, high = min(edges), max(edges)
    room = 0.25 * ((high - low) or 1.0)
    inside = [v for v in values if low - 3 * room <= v <= high + 3 * room]
    return min([low - room, *inside]), max([high + room, *inside])


def band_on_scale(band: Band, span: tuple[float, float], values: list[float], says: str) -> str:
    """A band as SVG on a given scale, with a dot for each value of a marked piece."""

    def place(x: float) -> float:
        if math.isinf(x):
            return MARGIN if x < 0 else WIDTH - MARGIN
        return round(
            MARGIN + min(max((x - span[0]) / (span[1] - span[0]), 0.0), 1.0) * (WIDTH - 2 * MARGIN),
            1,
        )

    low_limit, low, high, high_limit = map(place, band.edges)
    dots = format_html_join(
        "",
        '<circle class="piece" cx="{}" cy="{}" r="2.2"/>',
        ((place(v), 8 - 2.5 * (i % 3)) for i, v in enumerate(values)),
    )
    texts = format_html_join(
        "",
        '<text x="{}" y="33" text-anchor="middle">{}</text>',
        ((place(e), f"{e:g}") for e in dict.fromkeys((band.low, band.high)) if math.isfinite(e)),
    )
    return format_html(
        SVG,
        says,
        low_limit,
        round(high_limit - low_limit, 1),
        low,
        round(max(high - low, 1.5), 1),
        dots,
        texts,
    )


@dataclass(frozen=True)
class Shown:
    """A measure with the drawing it is shown by: path of the plant, of the container, marks, size
    of the picture, and what it came to there.
    """

    definition: Definition
    plant: str
    container: str
    marks: list[dict]
    width: int
    height: int
    box: str
    value: float | None
    unit: str
    arithmetic: str


@cache
def _example(piece: int, form: str):
    data = frame(piece, "front").jpeg
    done = analyse(data)
    found = done.measured(Brief(form=form, container_height_cm=24.0))
    paths = []
    for label in (Label.PLANT, Label.CONTAINER):
        edges, _ = cv2.findContours(
            (done.raster.labels == label).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE
        )
        parts = [
            cv2.approxPolyDP(e, 1.0, True).reshape(-1, 2) / done.raster.scale
            for e in edges
            if cv2.contourArea(e) > 12
        ]
        paths.append(
            "".join("M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in part) + "Z" for part in parts)
        )
    return done, found, paths


def shown_measures() -> list[Shown]:
    """Every measure in the order of its family, drawn on a piece of the simulated roll."""
    out = []
    for name, definition in DEFINITIONS.items():
        done, measured, (plant, container) = _example(*EXAMPLES[name in STEMS])
        found = measured.by_name.get(name)
        labels = (
            np.column_stack(
                np.nonzero(np.isin(done.raster.labels, (Label.PLANT, Label.CONTAINER)))[::-1]
            )
            / done.raster.scale
        )
        (x0, y0), (x1, y1) = labels.min(0) - 60, labels.max(0) + 60
        wide = max(x1 - x0, 0.8 * (y1 - y0))
        x0 -= (wide - (x1 - x0)) / 2
        out.append(
            Shown(
                definition,
                plant,
                container,
                [drawable(m) for m in found.evidence] if found else [],
                done.photograph.width,
                done.photograph.height,
                f"{x0:.0f} {y0:.0f} {wide:.0f} {y1 - y0:.0f}",
                found.value if found else None,
                definition.unit,
                found.arithmetic if found else "",
            )
        )
    return out
