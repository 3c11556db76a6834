"""One way through the house: bytes in, scene, findings and verdict out."""

from __future__ import annotations

from dataclasses import dataclass

from juniper.aside import aside
from juniper.measures import Findings, Surface, measure, surface_of
from juniper.photograph import Advice, Photograph, read_photograph
from juniper.scene import CutOut, Datum, Raster, Scene, Vessel, framing, framing_advice, see


@dataclass(frozen=True, eq=False)
class Measured:
    """A photograph taken all the way to its findings."""

    photograph: Photograph
    scene: Scene
    raster: Raster
    surface: Surface
    findings: Findings
    advice: tuple[Advice, ...]


def measure_photograph(
    data: bytes,
    name: str = "",
    given: Datum | None = None,
    container_height_cm: float | None = None,
    known: Vessel | None = None,
    cutout: CutOut | None = None,
    form: str = "",
) -> Measured:
    """Read, see and measure; `known` is the container's shape from the shelf, `cutout` the second engine,
    `form` the one that the brief asks for. Raises UnusablePhotograph, NothingFound or NoCutOut, with a sentence for the user."""
    photograph = read_photograph(data, name)
    scene, raster = see(photograph, given, known, cutout, container_height_cm)
    datum = scene.datum.scaled(raster.scale)
    framed = aside(framing, raster.labels, photograph.pixels, datum, photograph.focal, photograph.card)
    surface = surface_of(raster)
    findings = measure(surface, scene, scene.datum, scene.focal, container_height_cm, form)
    return Measured(photograph, scene, raster, surface, findings, photograph.advice + framing_advice(framed.result()))
