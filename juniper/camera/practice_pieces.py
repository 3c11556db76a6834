"""Pieces for eye practice, made on demand from a number: a known scheme, a height by chance, and
one fault or none (all invented).

Each stands in an opaque container against a plain wall and fills the picture alike, so that nothing
but the piece tells what is to be seen.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.camera.arranging import Piece, arrange
from juniper.camera.containers import SHELF

# Which fault a number has; those without one are what "there is none" is asked of.
CYCLE = (
    "",
    "twin tips",
    "off-balance",
    "stray accent",
    "",
    "gap",
    "focal too high",
    "bare stem",
    "top heavy",
    "crossing stems",
)
SCALE = 0.8  # of the studio's 900 x 1200 pixels
FORM_FOR = {
    "twin tips": "symmetrical triangle",
    "gap": "round",
    "top heavy": "fan",
    "off-balance": "symmetrical triangle",
    "bare stem": "round",
    "crossing stems": "round",
}
FORMS = ("symmetrical triangle", "round", "fan", "vertical")
CONTAINERS = (
    "tall cylinder",
    "flared vase",
    "urn on a foot",
    "ginger jar",
    "tapered bucket",
    "jug",
)
HEADS = ("rose", "peony", "dahlia", "carnation", "ranunculus", "anemone", "gerbera")
# Colours by scheme, as the twelve-step artists' circle has them; the first leads.
SCHEMES = {
    "monochromatic": (("crimson", "pink", "rose pink"), ("violet", "lilac"), ("blue", "sky")),
    "analogous": (
        ("flame", "orange", "apricot"),
        ("magenta", "violet", "indigo"),
        ("yellow", "amber", "orange"),
    ),
    "complementary": (
        ("violet", "yellow", "lilac"),
        ("orange", "blue", "sky"),
        ("yellow", "violet", "primrose"),
    ),
    "split-complementary": (
        ("yellow", "indigo", "magenta"),
        ("blue", "amber", "flame"),
        ("orange", "indigo", "blue"),
    ),
    "triadic": (("yellow", "red", "blue"), ("blue", "yellow", "crimson")),
    "polychromatic": (
        ("magenta", "orange", "yellow", "blue", "violet"),
        ("red", "amber", "indigo", "orchid", "blue"),
    ),
    "white-green": (("white", "cream", "lime"), ("white", "green", "cream")),
}


@dataclass(frozen=True, eq=False)
class PracticePicture:
    """A picture (h, w, 3) uint8 sRGB, its label raster (h, w), and its truth (see
    juniper.camera.truth).
    """

    pixels: np.ndarray
    labels: np.ndarray
    truth: dict

    @property
    def jpeg(self) -> bytes:
        """The picture as a file."""
        good, data = cv2.imencode(".jpg", self.pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
        if not good:
            raise ValueError("The picture could not be written.")
        return data.tobytes()


def practice_piece(number: int) -> Piece:
    """A piece by its number; the same number, the same piece. Raises ValueError below 0."""
    if number < 0:
        raise ValueError("Practice pieces are numbered from 0.")
    rng = np.random.default_rng((20261, number))

    def one_of(some):
        return some[int(rng.integers(len(some)))]

    fault = CYCLE[number % len(CYCLE)]
    # a stray accent is one among few colours that lie near one another
    scheme = one_of(["monochromatic", "analogous"] if fault == "stray accent" else list(SCHEMES))
    colours = one_of(SCHEMES[scheme])
    kinds = [str(kind) for kind in rng.permutation(HEADS)]
    container = one_of(CONTAINERS)
    kept = SHELF[container]
    form = FORM_FOR.get(fault) or one_of(FORMS)
    # of the governing dimension: heights on both sides of the taught 1.5 to 2
    ratio = float(rng.uniform(1.0, 2.7)) if not fault else float(rng.uniform(1.4, 2.1))
    if ratio > 2.2 and form in ("round", "fan"):
        form = "symmetrical triangle"
    spread = {"vertical": 0.5, "round": 1.0, "fan": 1.1}.get(form, float(rng.uniform(0.7, 1.0)))
    return Piece(
        container=container,
        glaze=one_of(("#4d5a63", "#8c7a66", "#6b7a6f", "#c9c1b0", "#31506f")),
        form=form,
        height=ratio * max(kept.height_cm, kept.widest_cm) / kept.height_cm,
        spread=spread,
        scheme=scheme,
        focal=(kinds[0], colours[0]),
        mass=tuple(zip(kinds[1:], colours[1:], strict=False)),
        foliage=("ruscus", one_of(("eucalyptus", "pittosporum", "olive"))),
        mirror=bool(rng.random() < 0.5),
        faults=(fault,) if fault else (),
        table=one_of(("oak", "slate", "walnut", "pale ash")),
        wall=one_of(("plaster grey", "plaster white", "plaster warm", "plaster blue")),
        light=float(one_of((-1.0, 1.0)) * rng.uniform(0.5, 1.0)),
        lead=1.3,
        amount=1.6 if fault in ("gap", "stray accent") else float(rng.uniform(1.0, 1.6)),
    )


def picture(number: int) -> PracticePicture:
    """Photograph a practice piece by daylight; some ten seconds."""
    from juniper.camera import daylight, tracing

    stage = tracing.staged_as(
        arrange(practice_piece(number), 400 + number),
        "front",
        np.random.default_rng((20262, number)),
        SCALE,
    )
    pixels = daylight.photograph(stage)
    labels, truth = tracing.truth(stage, pixels)
    return PracticePicture(pixels, labels, truth)
