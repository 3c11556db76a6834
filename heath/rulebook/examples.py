"""An example of every measure, drawn on a piece of the simulated roll.

The drawings are made once for each version of the core (manage.py draw_measures) and kept beside
this module, so that no picture is read when the page is asked for.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path

import cv2
import numpy as np

from heath.drawing.evidence import drawable
from juniper import VERSION
from juniper.assessment import analyse
from juniper.camera import frame
from juniper.measures import DEFINITIONS, Definition
from juniper.measures.finding import Measured
from juniper.rules import Brief
from juniper.scene import Label

KEPT = Path(__file__).with_name("examples.json")
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
ROOM = 60.0  # pixels of the photograph left free about the piece


@dataclass(frozen=True)
class Picture:
    """A piece that measures are shown on: paths of its plant and container, the photograph's size,
    and the part of it that is shown (an SVG view box).
    """

    plant: str
    container: str
    width: int
    height: int
    box: str


@dataclass(frozen=True)
class Shown:
    """A measure with the drawing it is shown by, and what it came to there."""

    definition: Definition
    picture: Picture
    marks: list[dict]
    value: float | None
    arithmetic: str


def drawn_examples() -> dict:
    """Every measure drawn anew, as it is kept: the core's version, the pictures, and for each
    measure its picture's number, marks, value and arithmetic.
    """
    pictures, found = [], []
    for piece, form in EXAMPLES:
        done = analyse(frame(piece, "front").jpeg)
        pictures.append(asdict(_picture(done)))
        found.append(done.measured(Brief(form=form, container_height_cm=24.0)))
    rows = {}
    for name in DEFINITIONS:
        number = int(name in STEMS)
        finding = found[number].by_name.get(name)
        rows[name] = {
            "picture": number,
            "marks": [drawable(m) for m in finding.evidence] if finding else [],
            "value": finding.value if isinstance(finding, Measured) else None,
            "arithmetic": finding.arithmetic if finding else "",
        }
    return {"core": VERSION, "pictures": pictures, "measures": rows}


def _picture(done) -> Picture:
    labels, scale = done.raster.labels, done.raster.scale
    places = (
        np.column_stack(np.nonzero(np.isin(labels, (Label.PLANT, Label.CONTAINER)))[::-1]) / scale
    )
    (x0, y0), (x1, y1) = places.min(0) - ROOM, places.max(0) + ROOM
    wide = max(x1 - x0, 0.8 * (y1 - y0))
    x0 -= (wide - (x1 - x0)) / 2
    return Picture(
        _path(labels == Label.PLANT, scale),
        _path(labels == Label.CONTAINER, scale),
        done.photograph.width,
        done.photograph.height,
        f"{x0:.0f} {y0:.0f} {wide:.0f} {y1 - y0:.0f}",
    )


def _path(mask: np.ndarray, scale: float) -> str:
    """A mask (h, w) as an SVG path in the photograph's pixels."""
    edges, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    parts = [
        cv2.approxPolyDP(e, 1.0, True).reshape(-1, 2) / scale
        for e in edges
        if cv2.contourArea(e) > 12
    ]
    return "".join("M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in part) + "Z" for part in parts)


@cache
def shown_measures() -> tuple[Shown, ...]:
    """Every measure in the order of its family, with its kept drawing."""
    kept = json.loads(KEPT.read_text())
    pictures = [Picture(**row) for row in kept["pictures"]]
    out = []
    for name, definition in DEFINITIONS.items():
        row = kept["measures"].get(name)
        if row is not None:
            picture = pictures[row["picture"]]
            out.append(Shown(definition, picture, row["marks"], row["value"], row["arithmetic"]))
    return tuple(out)
