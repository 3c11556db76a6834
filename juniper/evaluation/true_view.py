"""A piece as it truly stands in a picture whose truth is known: what its measures would be if
everything were seen rightly.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

from juniper.assessment import PieceView
from juniper.evaluation.truth import Truth, truth_beside
from juniper.measures import stems_under, surface_of
from juniper.photograph import Photograph
from juniper.scene import Bloom, Label, Raster, Scene, given_datum
from juniper.scene.blooms import BLOOM, focal_point
from juniper.scene.container.pose import Pose

SLIVER = 0.00025  # of the picture: a bloom of which less is visible counts for nothing


def true_view(picture: Path, photograph: Photograph, truth: Truth | None = None) -> PieceView:
    """The view of a picture by its mask, datum, blooms and camera. Raises ValueError for a truth
    without a mask.
    """
    truth = truth or truth_beside(picture)
    if truth.mask is None:
        raise ValueError("The measures of a piece need a picture's mask.")
    high, wide = photograph.pixels.shape[:2]
    labels = np.where(truth.mask > Label.PLANT, 0, truth.mask).astype(np.uint8)
    # Each pixel of the working size is what most of it is.
    likely = [
        cv2.resize((labels == k).astype(np.float32), (wide, high), interpolation=cv2.INTER_AREA)
        for k in range(Label.PLANT + 1)
    ]
    light = np.clip(
        np.round(
            cv2.cvtColor(photograph.pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)[..., 0]
        ),
        0,
        100,
    )
    raster = Raster(
        np.argmax(likely, axis=0).astype(np.uint8),
        np.zeros((high, wide), np.uint8),
        light.astype(np.uint8),
        photograph.scale,
    )
    datum = given_datum(truth.rim, truth.base, truth.rim_left, truth.rim_right)
    blooms = _blooms(truth)
    scene = Scene(
        datum,
        focal_point(blooms),
        blooms,
        (),
        photograph.width,
        photograph.height,
        pose=_pose(truth, photograph),
    )
    surface = surface_of(raster)
    return PieceView(
        "front", scene, raster, surface, datum, scene.focal, stems_under(surface, datum)
    )


def _blooms(truth: Truth) -> tuple[Bloom, ...]:
    if truth.mask is None:
        return ()
    shown = [b for b in truth.blooms if b["visible_px"] >= SLIVER * truth.mask.size]
    kinds = {kind: n for n, kind in enumerate(dict.fromkeys(b["sort"] for b in shown), 1)}
    return tuple(
        Bloom(
            tuple(b["centre"]),
            b["radius"],
            b["hex"],
            b["sort"],
            kinds[b["sort"]],
            b["role"],
            BLOOM.slender if b["role"] == "line" else 1.0,
        )
        for b in shown
    )


def _pose(truth: Truth, photograph: Photograph) -> Pose | None:
    if truth.pitch is None or truth.focal is None:
        return None
    return Pose(truth.pitch, 0.0, truth.focal, 0.0, (photograph.width / 2, photograph.height / 2))
