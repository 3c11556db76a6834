"""The palette that a brief wishes for: read from a palette's file, or picked from a photograph."""

from __future__ import annotations

import cv2
import numpy as np

from heath.briefs.models import Brief
from heath.jobs.models import Job
from heath.jobs.work import NotDone, handles
from juniper.assessment import analyse
from juniper.colour.formats import Colour, NoPalette, read
from juniper.colour.palette import palette_of
from juniper.photograph import UnusablePhotograph, read_photograph
from juniper.scene import NothingFound

LARGEST = 25 * 2**20  # bytes
TEXT = 256 * 2**10  # bytes of a palette's file
MOST = 8  # colours picked from a photograph
SHOWS = 0.04  # share from which a colour of a photograph is picked


def is_palette(name: str) -> bool:
    """Whether a file is a palette by its name; any other is taken for a photograph."""
    return name.lower().endswith((".gpl", ".csv", ".svg"))


PICK = "palette"


@handles(PICK)
def pick(job: Job) -> None:
    """Take the palette that a brief wishes for from a photograph."""
    with job.sent.open("rb") as file:
        data = file.read()
    try:
        wished = wished_from(job.given["name"], data)
    except NoPalette as error:
        raise NotDone(str(error)) from None
    of_school = Brief.objects.filter(pk=job.given["brief"], course__school=job.school)
    of_school.update(wished=wished)
    job.to = job.back


def wished_from(name: str, data: bytes) -> list[dict]:
    """[{name, hex}] from a file. Raises NoPalette, with a sentence for the user."""
    if len(data) > LARGEST:
        raise NoPalette(
            "The file is larger than 25 MB. Choose a smaller picture, or a palette file."
        )
    if is_palette(name):
        if len(data) > TEXT:
            raise NoPalette("The file is too large for a palette. Choose one of 256 kB at most.")
        try:
            colours = read(data.decode("utf-8"))
        except UnicodeDecodeError:
            raise NoPalette(
                "The file is not text in UTF-8. Save the palette again as UTF-8."
            ) from None
    else:
        colours = _picked(data, name)
    return [{"name": c.name, "hex": c.hex} for c in colours]


def _picked(data: bytes, name: str) -> tuple[Colour, ...]:
    """The flowers' colours in a photograph of a piece; of any other picture its main colours."""
    try:
        return _seen(data, name)
    except UnusablePhotograph as error:
        raise NoPalette(str(error)) from None


def _seen(data: bytes, name: str) -> tuple[Colour, ...]:
    try:
        swatches = [s for s in analyse(data, name).scene.palette if s.part == "flower"]
    except NothingFound:
        swatches = []
    if not swatches:
        pixels = read_photograph(data, name).pixels
        lab = cv2.cvtColor(pixels[::3, ::3].astype(np.float32) / 255, cv2.COLOR_RGB2LAB).reshape(
            -1, 3
        )
        swatches = list(palette_of(lab, "flower", MOST)[0])
    picked = [s for s in swatches if s.share >= SHOWS][:MOST]
    if not picked:
        raise NoPalette(
            "No colour stands out in this picture. Choose a picture of the flowers, or a palette"
            " file."
        )
    return tuple(Colour(s.name, s.chip) for s in picked)
