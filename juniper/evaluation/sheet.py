"""A contact sheet: each picture with the outlines and handles that were found, and the true
handles, so that people look.
"""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import cv2
import numpy as np
from PIL import Image, ImageOps

from juniper.scene.parts import Label

if TYPE_CHECKING:
    from juniper.assessment import Analysis
    from juniper.evaluation.truth import Truth

SIDE, WORDS, ACROSS = 380, 30, 5  # pixels of a tile and of the words above it; tiles in a row
PLANT, CONTAINER = (40, 200, 40), (255, 90, 0)  # blue, green, red
FOUND, TRUE = (0, 255, 255), (255, 0, 255)


def tile(data: bytes, words: tuple[str, str], done: Analysis | None, truth: Truth) -> np.ndarray:
    """One picture (its bytes) with what was found, under two lines of words: uint8
    (WORDS + SIDE, SIDE, 3), blue first. Outlines of container and plant are lines, handles found
    are crosses, true ones rings.
    """
    picture = ImageOps.exif_transpose(Image.open(io.BytesIO(data))).convert("RGB")
    scale = SIDE / max(picture.size)
    size = (max(1, round(picture.width * scale)), max(1, round(picture.height * scale)))
    view = np.ascontiguousarray(np.asarray(picture.resize(size, Image.Resampling.BOX))[..., ::-1])
    if done is not None:
        labels = done.raster.labels_at(size)
        for label, colour in ((Label.CONTAINER, CONTAINER), (Label.PLANT, PLANT)):
            lines, _ = cv2.findContours(
                (labels == label).astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE
            )
            cv2.drawContours(view, lines, -1, colour, 1)
    names = ("base", "rim", "rim_left", "rim_right")
    for name in names:
        cv2.circle(view, _at(getattr(truth, name), scale), 5, TRUE, 1, cv2.LINE_AA)
    if done is not None:
        for name in names:
            cv2.drawMarker(
                view, _at(getattr(done.scene.datum, name), scale), FOUND, cv2.MARKER_CROSS, 9, 1
            )
    out = np.zeros((WORDS + SIDE, SIDE, 3), np.uint8)
    out[WORDS : WORDS + size[1], : size[0]] = view
    for number, line in enumerate(words):
        cv2.putText(
            out,
            line,
            (3, 12 + 14 * number),
            cv2.FONT_HERSHEY_SIMPLEX,
            0.4,
            (255, 255, 255),
            1,
            cv2.LINE_AA,
        )
    return out


def _at(point, scale: float) -> tuple[int, int]:
    return round(float(point[0]) * scale), round(float(point[1]) * scale)


def contact_sheet(tiles: list[np.ndarray]) -> np.ndarray:
    """Tiles in rows of ACROSS, uint8 (h, w, 3), blue first."""
    tiles = [*tiles, *[np.zeros_like(tiles[0])] * (-len(tiles) % ACROSS)]
    return np.vstack([np.hstack(tiles[i : i + ACROSS]) for i in range(0, len(tiles), ACROSS)])
