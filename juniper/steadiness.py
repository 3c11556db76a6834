"""How steadily a piece is seen: the picture is changed in small ways that change nothing about the
piece, and what is measured then is compared.

The spread of a measure over such changes is the part of its uncertainty that comes from seeing:
outline, container and blooms (test-time augmentation as in Wang et al. 2019, "Aleatoric uncertainty
estimation with test-time augmentation", from memory). What comes from the datum is carried by
itself.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np

from juniper.assessment import FRONT, Analysis, PieceView, measured_view
from juniper.measures import DEFINITIONS, Finding, Measured, WarmStart, stems_under, surface_of
from juniper.measures.allround import TURNED
from juniper.measures.seeing import SEEING
from juniper.photograph import Photograph
from juniper.rules import KINDS, Brief
from juniper.scene import ContainerShape, CutOut, Datum, NothingFound, Raster, Scene, see
from juniper.scene.container.pose import Pose
from juniper.values import Point

HANDLES = ("rim", "base", "rim_left", "rim_right")
LEAST = 2  # pictures of which a spread can be told: more than that


@dataclass(frozen=True)
class Change:
    """A small change of the picture: mirrored or not, made smaller (`scale`), turned (degrees),
    cropped (share of each side's length), and lighter by a factor in linear light, warmer by one on
    red over blue.
    """

    mirrored: bool = False
    scale: float = 1.0
    degrees: float = 0.0
    crop: float = 0.0
    light: float = 1.0
    warm: float = 1.0


# As a second photograph of the same piece would differ: each way by about as much.
CHANGES = (
    Change(mirrored=True),
    Change(scale=0.8),
    Change(degrees=1.2, light=1.12),
    Change(degrees=-1.2, crop=0.04),
    Change(mirrored=True, crop=0.07, warm=1.06),
    Change(scale=0.65, light=0.9),
)


def changed(photograph: Photograph, change: Change) -> tuple[Photograph, np.ndarray]:
    """The photograph with a change made, and the map (2, 3) from its pixels to those of the changed
    one.
    """
    high, wide = photograph.pixels.shape[:2]
    cut = np.array([wide, high]) * change.crop / 2
    size = np.maximum(np.round((np.array([wide, high]) - 2 * cut) * change.scale), 2).astype(int)
    turn = np.vstack(
        [cv2.getRotationMatrix2D((wide / 2, high / 2), change.degrees, 1.0), [0, 0, 1]]
    )
    shift = np.array(
        [
            [change.scale, 0, -cut[0] * change.scale],
            [0, change.scale, -cut[1] * change.scale],
            [0, 0, 1],
        ]
    )
    flip = np.array([[-1, 0, size[0]], [0, 1, 0], [0, 0, 1]]) if change.mirrored else np.eye(3)
    full = flip @ shift @ turn
    # OpenCV counts from the middle of the first pixel, the maps here from its corner.
    middle = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
    warp = np.linalg.inv(middle) @ full @ middle
    pixels = cv2.warpAffine(
        photograph.pixels,
        warp[:2],
        tuple(map(int, size)),
        flags=cv2.INTER_AREA,
        borderMode=cv2.BORDER_REFLECT,
    )
    pixels = _relit(pixels, change)
    back = 1 / photograph.scale
    in_full = np.diag([back, back, 1]) @ full @ np.diag([photograph.scale, photograph.scale, 1])
    shrunk = Photograph(
        pixels=pixels,
        width=round(size[0] * back),
        height=round(size[1] * back),
        scale=photograph.scale,
        format=photograph.format,
        has_colour=photograph.has_colour,
        focal=photograph.focal / (1 - change.crop) if photograph.knows_focal else photograph.focal,
    )
    return shrunk, in_full[:2]


def _relit(pixels: np.ndarray, change: Change) -> np.ndarray:
    if change.light == 1 and change.warm == 1:
        return pixels
    by = change.light * np.array([change.warm**0.5, 1.0, change.warm**-0.5])
    return np.clip(np.round(pixels * by ** (1 / 2.2)), 0, 255).astype(np.uint8)


def placed(matrix: np.ndarray, point: Point) -> Point:
    """A point carried by a map (2, 3)."""
    x, y = matrix @ (*point, 1.0)
    return float(x), float(y)


def datum_under(datum: Datum, matrix: np.ndarray) -> Datum:
    """A datum carried by a map (2, 3); mirrored, its rim ends change sides."""
    moved: dict[str, Any] = {name: placed(matrix, getattr(datum, name)) for name in HANDLES}
    if np.linalg.det(matrix[:, :2]) < 0:
        moved["rim_left"], moved["rim_right"] = moved["rim_right"], moved["rim_left"]
    by = float(np.sqrt(abs(np.linalg.det(matrix[:, :2]))))
    spread = replace(
        datum.spread, **{n: getattr(datum.spread, n) * by for n in ("rim", "base", "across")}
    )
    return replace(datum, **moved, spread=spread)


@dataclass(frozen=True, eq=False)
class Again:
    """What was seen of a piece in a changed picture: its scene and raster there, and the map (2, 3)
    of full pixels to it.
    """

    scene: Scene
    raster: Raster
    matrix: np.ndarray

    @property
    def datum(self) -> Datum:
        """Its datum in the unchanged picture."""
        return datum_under(self.scene.datum, cv2.invertAffineTransform(self.matrix))


def seen_again(
    photograph: Photograph,
    known: ContainerShape | None = None,
    cutout: CutOut | None = None,
    container_height_cm: float | None = None,
    view: str = FRONT,
    changes: tuple[Change, ...] = CHANGES,
    vessels: int | None = 1,
    kind: str = KINDS[0],
    fall: float | None = None,
) -> tuple[Again, ...]:
    """The piece as seen in each changed picture, with what was known of it when it was looked at
    first (see juniper.assessment.analyse); one in which nothing is made out is left out.
    """
    out = []
    for change in changes:
        shrunk, matrix = changed(photograph, change)
        try:
            scene, raster = see(
                shrunk,
                None,
                known,
                cutout,
                container_height_cm,
                view=view,
                vessels=vessels,
                kind=kind,
                fall=fall,
            )
        except NothingFound:
            continue
        out.append(Again(scene, raster, matrix))
    return tuple(out)


def _values(view: PieceView, brief: Brief) -> dict[str, Finding]:
    """What a view measures; only values are compared, so that their own uncertainties are not
    worked out.
    """
    return measured_view(view, brief, WarmStart(dict.fromkeys(DEFINITIONS, 0.0))).by_name


def findings_again(base: PieceView, again: Again, brief: Brief) -> dict[str, Finding]:
    """What a changed picture measures under the datum and camera of the unchanged one, and the
    focal point that is found in it, turned back to its viewer's sides.
    """
    matrix = again.matrix
    datum = datum_under(base.datum, matrix)
    surface = surface_of(again.raster)
    scene = replace(again.scene, pose=_pose_under(base.scene.pose, matrix))
    view = PieceView(
        base.name, scene, again.raster, surface, datum, scene.focal, stems_under(surface, datum)
    )
    found = _values(view, brief)
    if np.linalg.det(matrix[:, :2]) < 0:
        turned = {
            n: replace(one, value=turn(one.value))
            for n, turn in TURNED.items()
            if isinstance(one := found.get(n), Measured)
        }
        found = {**found, **turned}
    return found


def _pose_under(pose: Pose | None, matrix: np.ndarray) -> Pose | None:
    if pose is None:
        return None
    by = float(np.sqrt(abs(np.linalg.det(matrix[:, :2]))))
    return replace(pose, focal=pose.focal * by, centre=placed(matrix, pose.centre))


def steadied(analysis: Analysis, brief: Brief, again: tuple[Again, ...]) -> Analysis:
    """The analysis with the standard deviation of each measure over its picture and the changed
    ones, all under one datum, kept with its scene.
    """
    base = analysis.as_view()
    own = _values(base, brief)
    others = [findings_again(base, one, brief) for one in again]
    unsteady = []
    for name, finding in own.items():
        every = (f.get(name) for f in (own, *others))
        values = [one.value for one in every if isinstance(one, Measured)]
        if name in SEEING and isinstance(finding, Measured) and len(values) > LEAST:
            unsteady.append((name, float(np.std(values, ddof=1))))
    return replace(analysis, scene=replace(analysis.scene, unsteady=tuple(unsteady)))
