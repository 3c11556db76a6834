"""Whatever a person corrects about what was seen, laid over it."""

from __future__ import annotations

import numpy as np

from juniper.scene.amending import BloomChange, Stroke, amend
from juniper.scene.colour_changes import ColourChange, with_colours_changed
from juniper.scene.painting import PetalStroke, paint
from juniper.scene.scene import Raster, Scene

Change = Stroke | PetalStroke | BloomChange | ColourChange


def correct(
    scene: Scene, raster: Raster, pixels: np.ndarray, change: Change
) -> tuple[Scene, Raster]:
    """Scene and raster after one correction. `pixels` is the picture (h, w, 3) uint8 sRGB at the
    raster's size.

    Raises NoBloom or ValueError, with a sentence for the user, for what cannot be done.
    """
    if isinstance(change, ColourChange):
        return with_colours_changed(scene, raster, pixels, change)
    if isinstance(change, PetalStroke):
        return paint(scene, raster, pixels, change)
    return amend(scene, raster, pixels, change)
