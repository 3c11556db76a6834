"""A photograph with what people corrected laid over it.

What is worked out here is kept by the process. The name of a photograph's raster is random and
never written twice, and a correction never changes: so their numbers stand for what they hold, and
nothing is asked of the database to make sure of it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import wraps
from threading import RLock

import cv2
import numpy as np
from cachetools import LRUCache, cached

from heath.assessment.models import Correction, Photograph
from juniper.measures import Surface, stems_under, surface_of
from juniper.scene import (
    Datum,
    Label,
    NoBloom,
    Raster,
    Scene,
    Stem,
    StemChange,
    Vessel,
    VesselChange,
    change_vessels,
    correct,
)

Corrections = tuple[Correction, ...]

# pieces that people have on the bench at once, as a process keeps them: 10 MB of surface each
OPEN = 32
DATUM_HANDLES = ("rim", "base", "rim_left", "rim_right")
SEEN = (Correction.Kind.BRUSH, Correction.Kind.BLOOM, Correction.Kind.COLOUR)
SPECK = 6.0  # square pixels of the raster: a smaller part of the outline is not drawn
SMOOTH = 0.7  # pixels of the raster: how far a simplified outline may lie from the true one


def _key(photograph: Photograph, corrections: Corrections = ()) -> tuple:
    return (photograph.pk, photograph.raster.name, tuple(c.pk for c in corrections))


def kept(most: int) -> Callable:
    """A function of a photograph and the corrections laid over it, of which the process keeps the
    `most` last used results.
    """

    def decorated(function):
        return wraps(function)(cached(LRUCache(most), key=_key, lock=RLock())(function))

    return decorated


def laid_over(corrections: Iterable[Correction]) -> Corrections:
    """The corrections in force that change what is seen: strokes and changes of colours as they
    were made, then changes of blooms, since a stroke finds the blooms anew and these are laid over
    them.
    """
    in_force = [c for c in corrections if c.kind in SEEN and not c.undone]
    return tuple(sorted(in_force, key=lambda c: c.kind == Correction.Kind.BLOOM))


def handles_put(corrections: Iterable[Correction]) -> dict[str, tuple[float, float]]:
    """Where a person last put each handle, by its name (photograph pixels)."""
    last: dict[str, tuple[float, float]] = {}
    for correction in corrections:
        if not correction.undone:
            last |= correction.places
    return last


@kept(2 * OPEN)
def corrected(photograph: Photograph, corrections: Corrections = ()) -> tuple[Scene, Raster]:
    """Scene and raster with strokes and changes laid over them, one after the other."""
    if not corrections:
        return photograph.core_scene(), photograph.core_raster()
    scene, raster = corrected(photograph, corrections[:-1])
    change = corrections[-1].as_core()
    if isinstance(change, StemChange | VesselChange):
        return scene, raster  # these are laid over the outline, not put into it
    try:
        return correct(scene, raster, pixels_of(photograph), change)
    except (NoBloom, ValueError):
        return scene, raster  # the bloom that was meant is found no more


@kept(OPEN // 2)
def pixels_of(photograph: Photograph) -> np.ndarray:
    """The picture at its raster's size: sRGB (h, w, 3) uint8."""
    with photograph.screen.open("rb") as file:
        picture = cv2.imdecode(np.frombuffer(file.read(), np.uint8), cv2.IMREAD_COLOR_RGB)
    size = corrected(photograph)[1].labels.shape[::-1]
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA)


@kept(OPEN)
def surface(photograph: Photograph, corrections: Corrections = ()) -> Surface:
    """What measures of the plant rest on."""
    return surface_of(corrected(photograph, corrections)[1])


@kept(OPEN)
def outline(photograph: Photograph, corrections: Corrections = ()) -> str:
    """The plant's outline and its openings as an SVG path in the photograph's pixels."""
    raster = corrected(photograph, corrections)[1]
    plant = (raster.labels == Label.PLANT).astype(np.uint8)
    edges, _ = cv2.findContours(plant, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
    parts = []
    for edge in edges:
        if cv2.contourArea(edge) >= SPECK:
            line = (cv2.approxPolyDP(edge, SMOOTH, True).reshape(-1, 2) + 0.5) / raster.scale
            parts.append("M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in line) + "Z")
    return "".join(parts)


@kept(2 * OPEN)
def first_stems(photograph: Photograph, corrections: Corrections = ()) -> tuple[Stem, ...]:
    """The main lines under the datum that was found automatically."""
    found = corrected(photograph, corrections)[0].datum
    return stems_under(surface(photograph, corrections), found)


@kept(8 * OPEN)
def found_vessels(photograph: Photograph) -> tuple[Vessel, ...]:
    """The vessels of a composition that were found automatically; no picture is opened for it."""
    scene = photograph.core_scene()
    return scene.vessels if scene.of_group else ()


@kept(8 * OPEN)
def found_datum(photograph: Photograph) -> Datum:
    """The datum that was found automatically; no picture is opened for it."""
    return photograph.core_scene().datum


def vessels_of(photograph: Photograph) -> tuple[Vessel, ...]:
    """The vessels in force of a composition, without measuring anything."""
    changes = photograph.corrections.filter(kind=Correction.Kind.VESSEL, undone=False)
    return change_vessels(found_vessels(photograph), tuple(c.as_core() for c in changes))


def datum_of(photograph: Photograph) -> Datum:
    """The datum in force, without measuring anything."""
    found = found_datum(photograph)
    put = handles_put(photograph.corrections.all())
    own = {name: at for name, at in put.items() if name in DATUM_HANDLES}
    return found.moved(**own) if own else found
