"""What a person corrects in the picture, laid over what was found: strokes of a brush, and single
blooms.

A correction is kept as what the person did, in the photograph's own pixels, and applied in the
order it was made; so it holds whatever the automatic result becomes.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.colour.palette import Swatch
from juniper.scene.blooms import ROLES, Bloom, find_blooms, focal_point, give_roles, tell_apart
from juniper.scene.material import flower_mask, petal_odds
from juniper.scene.parts import Label
from juniper.scene.petals import PetalProbabilities, frame_of, petal_probabilities
from juniper.scene.scene import Raster, Scene
from juniper.scene.share_uncertainty import with_uncertain_shares
from juniper.values import Point, point


@dataclass(frozen=True)
class AmendingSettings:
    """How far a stroke or click reaches.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    reach: float = 2.5  # brush radii about a stroke within which the outline settles anew
    # pixels that are settled at full detail; a longer stroke is settled coarser
    largest: int = 90000
    near: float = 1.3  # radii from a bloom's middle at which a click still means it
    # of the picture's height: radius of a bloom put where there is none to compare with
    usual: float = 0.03


AMENDING = AmendingSettings()


@dataclass(frozen=True)
class Stroke:
    """A stroke of the brush: what lies under it is plant, or is not. `points` and `radius` in the
    photograph's pixels.
    """

    points: tuple[Point, ...]
    radius: float
    plant: bool


@dataclass(frozen=True)
class BloomChange:
    """One bloom added, removed, split, merged with its neighbour, or given another part to play;
    or several at once removed or given a part.

    `act` is one of ACTS; `at` tells which bloom, or where a new one is; `to` the second one of a
    merge; `radius` that of a new one; `role` one of juniper.scene.blooms.ROLES; `others` where the
    further blooms of a group are. Photograph pixels.
    """

    act: str
    at: Point
    to: Point | None = None
    radius: float | None = None
    role: str | None = None
    others: tuple[Point, ...] = ()


TOGETHER = ("remove", "role")  # of ACTS: what may be done to a group at once
ACTS = ("add", "remove", "split", "merge", "role")


class NoBloom(LookupError):
    """No bloom lies where one was pointed at; the message tells what to do."""


def amend(
    scene: Scene, raster: Raster, pixels: np.ndarray, change: Stroke | BloomChange
) -> tuple[Scene, Raster]:
    """Scene and raster after one correction. `pixels` is the picture (h, w, 3) uint8 sRGB at the
    raster's size.

    Raises NoBloom when a bloom is meant where none lies.
    """
    if isinstance(change, BloomChange):
        blooms = change_bloom(scene.blooms, change, scene, pixels)
        return replace(scene, blooms=blooms, focal=focal_point(blooms)), raster
    labels = labels_under_stroke(raster.labels, pixels, change, raster.scale)
    if (labels == raster.labels).all():
        return scene, raster
    look = looked_at(pixels, labels)
    odds = petal_odds(look, labels == Label.PLANT, pixels)
    raster = replace(raster, labels=labels, flowers=_flowers(raster, labels, pixels, scene, odds))
    # How steadily the outline was seen before a person put it right says nothing of it now.
    steady = replace(scene, unsteady=())
    return seen_again(steady, raster, look, odds, plant_colours(scene, raster, pixels)), raster


def prepare(raster: Raster, pixels: np.ndarray) -> None:
    """Look at the picture (uint8 h x w x 3 sRGB) before a stroke asks for it; what was seen is kept
    for a while.
    """
    looked_at(pixels, raster.labels)


def looked_at(pixels: np.ndarray, labels: np.ndarray) -> PetalProbabilities:
    """A look at the piece in a picture (h, w, 3) uint8 sRGB, as its labels (h, w) have it."""
    return petal_probabilities(pixels, frame_of(labels >= Label.CONTAINER))


def under_brush(stroke, shape: tuple[int, int], scale: float) -> tuple[np.ndarray, int]:
    """What lies under a stroke (of `points` and a `radius` in the photograph's pixels) in a raster
    of `shape` and `scale`: uint8 (h, w) of 0 and 1, and the brush's radius in its pixels.
    """
    points = np.round(np.array(stroke.points, float) * scale).astype(np.int32)
    radius = max(1, round(stroke.radius * scale))
    out = np.zeros(shape, np.uint8)
    cv2.polylines(
        out, [points.reshape(-1, 1, 2)], False, 1, thickness=2 * radius, lineType=cv2.LINE_8
    )
    for end in (points[0], points[-1]):
        cv2.circle(out, tuple(map(int, end)), radius, 1, -1)
    return out, radius


def labels_under_stroke(
    labels: np.ndarray, pixels: np.ndarray, stroke: Stroke, scale: float
) -> np.ndarray:
    """Labels (uint8 h x w) with the outline settled anew about a stroke.

    What lies under the stroke is as the person says; about it, within `reach` of its width, each
    pixel goes with plant or with what is behind it by its colour and the edges between (GrabCut;
    Rother, Kolmogorov & Blake 2004), but only what hangs together with the stroke and changes the
    way it says.
    """
    height, width = labels.shape
    painted, radius = under_brush(stroke, labels.shape, scale)
    if not painted.any():
        return labels
    room = max(4, round(AMENDING.reach * radius))
    left, top, wide, high = cv2.boundingRect(painted)
    x0, y0, x1, y1 = (
        max(0, left - 2 * room),
        max(0, top - 2 * room),
        left + wide + 2 * room,
        top + high + 2 * room,
    )
    part = np.s_[y0 : min(height, y1), x0 : min(width, x1)]
    under, was = painted[part] > 0, labels[part] == Label.PLANT
    free = (
        cv2.dilate(
            painted[part],
            cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * room + 1, 2 * room + 1)),
        )
        > 0
    )
    seeds = np.where(
        was, np.where(free, cv2.GC_PR_FGD, cv2.GC_FGD), np.where(free, cv2.GC_PR_BGD, cv2.GC_BGD)
    ).astype(np.uint8)
    seeds[under] = cv2.GC_FGD if stroke.plant else cv2.GC_BGD
    now = _graph_cut(pixels[part], seeds)
    changed = (now != was) & free & (now == stroke.plant) | (under & (was != stroke.plant))
    _, parts = cv2.connectedComponents((changed | under).astype(np.uint8), connectivity=8)
    changed &= np.isin(parts, np.unique(parts[under]))
    out = labels.copy()
    out[part] = (
        np.where(changed, Label.PLANT, labels[part])
        if stroke.plant
        else _given_back(labels[part], changed)
    )
    return out


def _graph_cut(pixels: np.ndarray, seeds: np.ndarray) -> np.ndarray:
    """Plant (bool h x w) by GrabCut from seeds; as they stand when there is only one kind of
    them.
    """
    held = np.isin(seeds, (cv2.GC_FGD, cv2.GC_PR_FGD))
    if held.all() or not held.any():
        return held
    shrink = min(1.0, float(np.sqrt(AMENDING.largest / seeds.size)))
    size = (max(8, round(seeds.shape[1] * shrink)), max(8, round(seeds.shape[0] * shrink)))
    small = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    mask = cv2.resize(seeds, size, interpolation=cv2.INTER_NEAREST)
    if len(np.unique(np.isin(mask, (cv2.GC_FGD, cv2.GC_PR_FGD)))) < 2:
        return held
    cv2.setRNGSeed(7)
    cv2.grabCut(
        np.ascontiguousarray(small),
        mask,
        None,
        np.zeros((1, 65)),
        np.zeros((1, 65)),
        2,
        cv2.GC_INIT_WITH_MASK,
    )
    now = np.isin(mask, (cv2.GC_FGD, cv2.GC_PR_FGD)).astype(np.uint8)
    return cv2.resize(now, seeds.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0


def _given_back(labels: np.ndarray, taken: np.ndarray) -> np.ndarray:
    """Labels in which what was `taken` from the plant is what lies nearest to it: container, table
    or backdrop.
    """
    source = (labels == Label.PLANT).astype(np.uint8)
    if source.all():
        return np.where(taken, 0, labels)
    _, nearest = cv2.distanceTransformWithLabels(
        source, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    table = np.zeros(int(nearest.max()) + 1, np.uint8)
    table[nearest[source == 0]] = labels[source == 0]
    return np.where(taken, table[nearest], labels)


def _flowers(
    raster: Raster, labels: np.ndarray, pixels: np.ndarray, scene: Scene, odds: np.ndarray
) -> np.ndarray:
    """The raster of flower colours for changed labels: new plant is leaf, or petal of the palette's
    nearest colour.
    """
    flowers = np.where(labels == Label.PLANT, raster.flowers, 0).astype(np.uint8)
    new = (labels == Label.PLANT) & (raster.labels != Label.PLANT)
    swatches = [s for s in scene.palette if s.part == "flower"]
    if not new.any() or not swatches or not scene.has_colour:
        return flowers
    petal = flower_mask(labels == Label.PLANT, odds) & new
    if petal.any():
        lab = cv2.cvtColor(
            scene.in_fair_light(pixels[petal][None]).astype(np.float32) / 255, cv2.COLOR_RGB2LAB
        )[0]
        away = np.linalg.norm(
            (lab[:, None] - np.array([s.lab for s in swatches])) * (0.35, 1, 1), axis=2
        )
        flowers[petal] = away.argmin(axis=1) + 1
    return flowers


def plant_colours(scene: Scene, raster: Raster, pixels: np.ndarray) -> np.ndarray:
    """CIELAB (n, 3), in fair light, of the plant's pixels in a picture (h, w, 3) uint8 sRGB."""
    fair = scene.in_fair_light(pixels[raster.labels == Label.PLANT][None])
    return cv2.cvtColor(fair.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)[0]


def seen_again(
    scene: Scene, raster: Raster, look: PetalProbabilities, odds: np.ndarray, lab: np.ndarray
) -> Scene:
    """The scene with shares, blooms and focal point read from an amended raster; `odds` (n,) of its
    plant by petal_odds(), `lab` (n, 3) by plant_colours().
    """
    palette = with_uncertain_shares(
        reshared(scene.palette, raster.flowers),
        odds,
        raster.flowers[raster.labels == Label.PLANT],
        lab,
    )
    blooms = find_blooms(
        tell_apart(look, raster.flowers > 0),
        raster.flowers,
        tuple(s for s in palette if s.part == "flower"),
    )
    datum = scene.datum.scaled(raster.scale)
    ys, xs = np.nonzero(raster.labels == Label.PLANT)
    along = (xs - datum.rim[0]) * datum.up[0] + (ys - datum.rim[1]) * datum.up[1]
    blooms = give_roles(blooms, datum, float(along.max()) if len(along) else 1.0)
    blooms = tuple(b.scaled(1 / raster.scale) for b in blooms)
    return replace(scene, palette=palette, blooms=blooms, focal=focal_point(blooms))


def reshared(palette: tuple[Swatch, ...], flowers: np.ndarray) -> tuple[Swatch, ...]:
    """The palette with the flower colours' shares counted anew on a raster of them (uint8 h x w,
    see Raster).
    """
    count = np.bincount(flowers.ravel(), minlength=1 + sum(s.part == "flower" for s in palette))[1:]
    shares = iter(count / max(1, int(count.sum())))
    return tuple(
        replace(s, share=float(next(shares))) if s.part == "flower" else s for s in palette
    )


def bloom_at(blooms: tuple[Bloom, ...], at: Point) -> int:
    """Number of the bloom meant by a place: the smallest it lies in, else the nearest close by.
    Raises NoBloom.
    """
    away = [float(np.hypot(*np.subtract(b.centre, at))) for b in blooms]
    inside = [i for i, b in enumerate(blooms) if away[i] < AMENDING.near * b.radius]
    if not inside:
        raise NoBloom("No bloom lies there. Point at the middle of one, or add one first.")
    return min(inside, key=lambda i: away[i] / blooms[i].radius)


def change_bloom(
    blooms: tuple[Bloom, ...], change: BloomChange, scene: Scene, pixels: np.ndarray
) -> tuple[Bloom, ...]:
    """The blooms after one change on a picture (uint8 h x w x 3 sRGB). Raises NoBloom, or
    ValueError for a change that cannot be made.
    """
    if change.act == "add":
        return (*blooms, _new(blooms, change, scene, pixels))
    if change.others:
        if change.act not in TOGETHER:
            raise ValueError("A group of blooms can be removed, or renamed together.")
        return _changed_together(blooms, change, scene, pixels)
    which = bloom_at(blooms, change.at)
    one, rest = blooms[which], blooms[:which] + blooms[which + 1 :]
    if change.act == "remove":
        return rest
    if change.act == "role":
        if change.role not in ROLES:
            raise ValueError(f"A bloom is one of {', '.join(ROLES)}.")
        return (*blooms[:which], replace(one, role=change.role), *blooms[which + 1 :])
    if change.act == "split":
        return (*rest, *_halves(one))
    if change.act == "merge":
        other = (
            rest[bloom_at(rest, change.to)]
            if change.to
            else min(rest, key=lambda b: _apart(b, one), default=None)
        )
        if other is None:
            raise NoBloom("There is no other bloom to merge this one with.")
        return (*(b for b in rest if b is not other), _merged(one, other))
    raise ValueError(f"A bloom can be changed by: {', '.join(ACTS)}.")


def _changed_together(
    blooms: tuple[Bloom, ...], change: BloomChange, scene: Scene, pixels: np.ndarray
) -> tuple[Bloom, ...]:
    """The blooms after a change to a group; one that is no longer there is passed over. Raises
    NoBloom where none of them is.
    """
    missed: list[NoBloom] = []
    places = (change.at, *change.others)
    for at in places:
        try:
            blooms = change_bloom(blooms, replace(change, at=at, others=()), scene, pixels)
        except NoBloom as error:
            missed.append(error)
    if len(missed) == len(places):
        raise missed[0]
    return blooms


def _apart(a: Bloom, b: Bloom) -> float:
    return float(np.hypot(*np.subtract(a.centre, b.centre))) - a.radius - b.radius


def _new(blooms, change: BloomChange, scene: Scene, pixels: np.ndarray) -> Bloom:
    radius = change.radius or (
        float(np.median([b.radius for b in blooms])) if blooms else AMENDING.usual * scene.height
    )
    swatches = [s for s in scene.palette if s.part == "flower"]
    if not swatches:
        raise ValueError("No flower colour was found in this picture, so a bloom cannot be added.")
    scale = pixels.shape[1] / scene.width
    x, y, r = (round(v * scale) for v in (*change.at, 0.5 * radius))
    under = pixels[max(0, y - r) : y + r + 1, max(0, x - r) : x + r + 1]
    if under.size == 0:
        raise ValueError("Choose a place inside the picture.")
    lab = np.median(
        cv2.cvtColor(
            scene.in_fair_light(under).astype(np.float32) / 255, cv2.COLOR_RGB2LAB
        ).reshape(-1, 3),
        axis=0,
    )
    place = int(np.argmin([np.linalg.norm((lab - s.lab) * (0.35, 1, 1)) for s in swatches]))
    return Bloom(
        change.at,
        float(radius),
        swatches[place].hex,
        swatches[place].hue,
        place + 1,
        change.role or "mass",
    )


def _halves(one: Bloom) -> tuple[Bloom, Bloom]:
    """Two round blooms side by side along the longer axis, with the area of the one."""
    along = np.array([np.cos(np.radians(one.angle)), np.sin(np.radians(one.angle))])
    radius = one.radius / np.sqrt(2)
    step = along * max(radius, 0.5 * one.radius * np.sqrt(one.slender)) * 0.8
    first, second = (
        replace(one, centre=point(np.add(one.centre, s * step)), radius=float(radius), slender=1.0)
        for s in (-1, 1)
    )
    return first, second


def _merged(one: Bloom, other: Bloom) -> Bloom:
    """One bloom with the area of two, in their middle; it plays the part of the larger."""
    areas = np.array([one.radius**2, other.radius**2])
    centre = (np.array([one.centre, other.centre]) * areas[:, None]).sum(axis=0) / areas.sum()
    step = np.subtract(other.centre, one.centre)
    larger = one if one.radius >= other.radius else other
    radius = float(np.sqrt(areas.sum()))
    long = (float(np.hypot(*step)) + one.radius + other.radius) / 2
    return replace(
        larger,
        centre=point(centre),
        radius=radius,
        slender=float(np.clip((long / radius) ** 2, 1.0, 6.0)),
        angle=float(np.degrees(np.arctan2(step[1], step[0]))) % 180,
    )
