"""A change tried on the picture before anybody takes up the shears: a stem cut, a bloom moved or
taken out, another container or colour.

A stem is cut at its foot, so what is seen is its head sliding down along its line. What a head
leaves open is filled with a like part of the same picture, pixels and labels together, so that
everything can be measured anew just as it was measured first.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.scene.amending import bloom_at, reshared
from juniper.scene.blooms import Bloom, focal_point, give_roles
from juniper.scene.colour_changes import swapped_colour
from juniper.scene.container.datum import Datum
from juniper.scene.container.pose import Plane
from juniper.scene.container.shape import ContainerShape
from juniper.scene.parts import Label
from juniper.scene.scene import Raster, Scene
from juniper.scene.stems import NoStem, Stem, stem_at
from juniper.values import Point, point


@dataclass(frozen=True)
class TryingSettings:
    """What moves with a tip or bloom, and how its place is filled.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    about: float = 1.12  # times a bloom's half axes: what moves with it
    fringe: int = 2  # pixels about a part that still hold some of its colour
    edge: int = 3  # pixels beyond them over which a filled part fades in
    head: float = 0.3  # of the plant's width: as broad as what moves with a tip may be
    gaps: int = 4  # pixels by which what is seen of a blade may lie apart
    # of the picture's height: as broad as a stem that holds a head may be, `gaps` on both sides
    # included
    thin: float = 0.016
    # places down a stem at which it is tried how much of the outline hangs by its tip alone
    levels: int = 24
    # directions and distances, in sizes of a hole, in which a part to fill it is looked for
    ways: int = 16
    reaches: tuple[float, float, float] = (1.05, 1.5, 2.2)
    # pixels of one thing about a hole and about what fills it that tell their shades apart
    same: int = 12
    # what a wrong label or a bloom in such a part costs, in steps of sRGB
    other_label: float = 40.0
    other_part: float = 30.0


TRYING = TryingSettings()


@dataclass(frozen=True)
class Cut:
    """The stem whose tip lies at `at` cut shorter by `length`. Photograph pixels."""

    at: Point
    length: float


@dataclass(frozen=True)
class Move:
    """The bloom at `at` set at `to`; with `another` it stays, and one more like it is set there.
    Photograph pixels.
    """

    at: Point
    to: Point
    another: bool = False


@dataclass(frozen=True)
class TakeOut:
    """The bloom at `at` taken out. Photograph pixels."""

    at: Point


@dataclass(frozen=True)
class Swap:
    """The piece set in another container: its shape, and its height in photograph pixels."""

    vessel: ContainerShape
    height: float


@dataclass(frozen=True)
class Recolour:
    """The palette's flower colour number `which`, from 1, swapped for '#rrggbb', its shading
    kept.
    """

    which: int
    hex: str


@dataclass(frozen=True, eq=False)
class Trial:
    """A piece with changes tried on it. `pixels` (h, w, 3) uint8 sRGB at the raster's size,
    `touched` (bool h x w) where they differ from the photograph; the rest as in a reading, in
    photograph pixels.
    """

    scene: Scene
    raster: Raster
    pixels: np.ndarray
    datum: Datum
    focal: Point | None
    stems: tuple[Stem, ...]
    touched: np.ndarray

    @staticmethod
    def of(
        scene: Scene,
        raster: Raster,
        pixels: np.ndarray,
        datum: Datum,
        focal: Point | None,
        stems: tuple[Stem, ...],
    ) -> Trial:
        """A piece on which nothing has been tried yet."""
        return Trial(
            scene, raster, pixels, datum, focal, stems, np.zeros(raster.labels.shape, bool)
        )


def apply_change(trial: Trial, change: Cut | Move | TakeOut | Swap | Recolour) -> Trial:
    """The piece after one change. Raises NoBloom or NoStem when none lies where one is meant,
    ValueError when it cannot be done; each says what to do.
    """
    if isinstance(change, Cut):
        return _with_stem_cut(trial, change)
    if isinstance(change, Move):
        return _moved(trial, change)
    if isinstance(change, TakeOut):
        return _taken_out(trial, change)
    if isinstance(change, Recolour):
        scene, raster, pixels = swapped_colour(
            trial.scene, trial.raster, trial.pixels, change.which, change.hex
        )
        return replace(
            trial,
            scene=scene,
            raster=raster,
            pixels=pixels,
            touched=trial.touched | (raster.flowers == change.which),
        )
    return _swapped(trial, change)


def cut_to(stem: Stem, to: Point) -> float:
    """How much is cut from a stem whose tip is to come down to the place of its line nearest to
    `to`, in its pixels.
    """
    curve = stem.curve[::-1]
    nearest = int(np.hypot(*(curve - np.asarray(to)).T).argmin())
    return float(np.hypot(*np.diff(curve[: nearest + 1], axis=0).T).sum())


def stem_meant(stems: tuple[Stem, ...], at: Point, datum: Datum, height: float) -> Stem:
    """The main line that ends at a place, or, where none was made out, a straight one from there to
    the rim.
    """
    try:
        return stems[stem_at(stems, at, height)]
    except NoStem:
        middle = point(np.add(at, datum.rim) / 2)
        return Stem(at, middle, datum.rim)


def _with_stem_cut(trial: Trial, change: Cut) -> Trial:
    stem = stem_meant(trial.stems, change.at, trial.datum, trial.scene.height)
    curve = stem.curve[::-1]
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(curve, axis=0).T))])
    if not 0 < change.length < 0.95 * run[-1]:
        raise ValueError(
            "A stem can be cut shorter, down to the rim at most; it cannot be made longer."
        )

    def place(length: float) -> Point:
        return point(np.interp(length, run, curve[:, i]) for i in (0, 1))

    tip = place(change.length)
    shorter = replace(
        stem,
        tip=tip,
        bend=place((change.length + run[-1]) / 2),
        clear=max(0.0, stem.clear - change.length),
    )
    head = _head(trial, stem)
    stems = tuple(shorter if s is stem else s for s in trial.stems)
    step = np.subtract(tip, stem.tip)
    return replace(_slid(trial, head, step, behind=True), stems=stems)


def _head(trial: Trial, stem: Stem) -> np.ndarray:
    """What hangs by a stem's tip alone (bool h x w): as far down its line as it is held by a thin
    stem, or at least stays slender, and clear of the other tips.
    """
    scale, plant = trial.raster.scale, (trial.raster.labels == Label.PLANT).astype(np.uint8)
    # A blade is often seen in pieces.
    whole = cv2.dilate(plant, np.ones((2 * TRYING.gaps + 1,) * 2, np.uint8))
    ys, xs = np.nonzero(whole)
    curve = stem.curve[::-1] * scale
    down = (curve[-1] - curve[0]) / max(float(np.hypot(*(curve[-1] - curve[0]))), 1e-6)
    broad = TRYING.head * float(np.ptp(xs * trial.datum.right[0] + ys * trial.datum.right[1]))
    seed = int(np.hypot(xs - curve[0][0], ys - curve[0][1]).argmin())
    others = [np.asarray(s.tip) * scale for s in trial.stems if s is not stem]
    slender, held, thin = None, None, np.inf
    for at in curve[np.linspace(3, len(curve) - 3, TRYING.levels).astype(int)]:
        below = (xs - at[0]) * down[0] + (ys - at[1]) * down[1]
        if below[seed] >= 0:
            continue
        part = np.zeros_like(plant)
        part[ys[below < 0], xs[below < 0]] = 1
        _, numbers = cv2.connectedComponents(part, connectivity=8)
        own = numbers == numbers[ys[seed], xs[seed]]
        y, x = np.nonzero(own)
        across = y * down[0] - x * down[1]
        if np.ptp(across) > broad or any(np.hypot(x - o[0], y - o[1]).min() < 4 for o in others):
            break
        slender = own
        last = (x - at[0]) * down[0] + (y - at[1]) * down[1] > -2
        waist = float(np.ptp(across[last])) if last.any() else 0.0
        if waist <= max(1.3 * thin, TRYING.thin * scale * trial.scene.height):
            held, thin = own, min(thin, max(waist, 1.0))
    best = held if held is not None else slender
    if best is not None:
        return best & (plant > 0)
    # A tip within the mass: its bloom, or what lies close about it.
    near = [
        b for b in trial.scene.blooms if np.hypot(*np.subtract(b.centre, stem.tip)) < 1.5 * b.radius
    ]
    if near:
        return _ellipse(trial, min(near, key=lambda b: b.radius))
    disc = cv2.circle(
        np.zeros_like(plant),
        tuple(map(round, curve[0])),
        max(3, round(0.03 * plant.shape[0])),
        1,
        -1,
    )
    return (disc & plant) > 0


def _moved(trial: Trial, change: Move) -> Trial:
    which = bloom_at(trial.scene.blooms, change.at)
    bloom = trial.scene.blooms[which]
    step = np.subtract(change.to, bloom.centre)
    mask = _ellipse(trial, bloom)
    if change.another:
        after = _set(trial, trial, mask, step, behind=False)
        new = replace(
            bloom,
            centre=point(np.add(bloom.centre, step)),
            role="mass" if bloom.role == "focal" else bloom.role,
        )
        return _seen(after, (*after.scene.blooms, new), after.focal)
    return _slid(trial, mask, step, behind=False, only=which)


def _taken_out(trial: Trial, change: TakeOut) -> Trial:
    which = bloom_at(trial.scene.blooms, change.at)
    bloom, rest = (
        trial.scene.blooms[which],
        trial.scene.blooms[:which] + trial.scene.blooms[which + 1 :],
    )
    after = _filled(trial, _ellipse(trial, bloom))
    if bloom.role != "focal" and not _rests_on(trial.focal, bloom):
        return _seen(after, rest, trial.focal)
    if not any(b.role == "focal" for b in rest):
        rest = give_roles(rest, trial.datum, _plant_height(after))
    return _seen(after, rest, focal_point(rest))


def _plant_height(trial: Trial) -> float:
    ys, xs = np.nonzero(trial.raster.labels == Label.PLANT)
    at = np.column_stack([xs, ys]) / trial.raster.scale - trial.datum.rim
    return float((at @ trial.datum.up).max()) if len(xs) else 1.0


def _rests_on(focal: Point | None, bloom: Bloom) -> bool:
    return focal is not None and float(np.hypot(*np.subtract(focal, bloom.centre))) < bloom.radius


def _on_axis_plane(trial: Trial, along: np.ndarray, side: np.ndarray) -> np.ndarray:
    """Photograph pixels (n, 2) of places above the rim and aside of the axis, in the pixels that
    measures are made in.
    """
    datum = trial.datum
    if trial.scene.pose is None:
        return np.asarray(datum.rim) + along[:, None] * datum.up + side[:, None] * datum.right
    plane = Plane(trial.scene.pose, datum.up)
    height, across = plane.of(np.array([datum.rim]))
    return plane.at(height + along, across + side)


def _swapped(trial: Trial, change: Swap) -> Trial:
    """The piece at its rim, in another container that stands below it: drawn in the colour of the
    one it replaces.
    """
    scale, was = trial.raster.scale, trial.raster.labels == Label.CONTAINER
    if change.height * scale < 4:
        raise ValueError("This container is too small to be drawn on the picture.")
    tone = np.median(trial.pixels[was], axis=0) if was.any() else np.array([120.0, 120.0, 115.0])
    after = _filled(trial, was) if was.any() else trial
    datum, vessel = trial.datum, change.vessel
    levels = change.height * (np.linspace(0, 1, len(vessel.half)) - 1)
    half = change.height * np.asarray(vessel.half)
    edge = (
        np.concatenate(
            [_on_axis_plane(trial, levels, -half), _on_axis_plane(trial, levels, half)[::-1]]
        )
        * scale
    )
    shape = cv2.fillPoly(np.zeros(was.shape, np.uint8), [np.round(edge).astype(np.int32)], 1) > 0
    shape &= after.raster.labels != Label.PLANT
    # A little lighter on one side, so that it reads as round.
    ys, xs = np.nonzero(shape)
    side = (
        (xs / scale - datum.rim[0]) * datum.right[0] + (ys / scale - datum.rim[1]) * datum.right[1]
    ) / max(change.height * max(vessel.half), 1.0)
    pixels, labels, flowers, light = (
        a.copy()
        for a in (after.pixels, after.raster.labels, after.raster.flowers, after.raster.light)
    )
    pixels[ys, xs] = np.clip(tone * (1.0 - 0.18 * side[:, None]), 0, 255).astype(np.uint8)
    labels[shape], flowers[shape] = Label.CONTAINER, 0
    base, left, right = _on_axis_plane(
        trial, np.array([-change.height, 0, 0]), half[-1] * np.array([0, -1, 1])
    )
    there = replace(datum, base=point(base), rim_left=point(left), rim_right=point(right))
    raster = replace(after.raster, labels=labels, flowers=flowers, light=light)
    return replace(
        after, raster=raster, pixels=pixels, datum=there, touched=after.touched | shape | was
    )


def _ellipse(trial: Trial, bloom: Bloom) -> np.ndarray:
    """The plant within a bloom's ellipse and a little about it (bool h x w)."""
    scale = trial.raster.scale
    mask = np.zeros(trial.raster.labels.shape, np.uint8)
    axes = tuple(max(2, round(TRYING.about * a * scale)) for a in bloom.half_axes)
    cv2.ellipse(
        mask, tuple(round(v * scale) for v in bloom.centre), axes, bloom.angle, 0, 360, 1, -1
    )
    return (mask > 0) & (trial.raster.labels == Label.PLANT)


def _slid(
    trial: Trial, mask: np.ndarray, step: np.ndarray, behind: bool, only: int | None = None
) -> Trial:
    """A part lifted and set down a step (photograph pixels) away, with the blooms in it, or `only`
    the one.
    """
    after = _set(_filled(trial, mask), trial, mask, step, behind)
    scale, blooms, focal = trial.raster.scale, [], trial.focal
    for number, bloom in enumerate(trial.scene.blooms):
        x, y = (
            int(np.clip(v * scale, 0, n - 1))
            for v, n in zip(bloom.centre, mask.shape[::-1], strict=True)
        )
        if number == only or (only is None and mask[y, x]):
            if trial.focal is not None and _rests_on(trial.focal, bloom):
                focal = point(np.add(trial.focal, step))
            bloom = replace(bloom, centre=point(np.add(bloom.centre, step)))  # noqa: PLW2901
        blooms.append(bloom)
    return _seen(after, tuple(blooms), focal)


def _seen(trial: Trial, blooms: tuple[Bloom, ...], focal: Point | None) -> Trial:
    palette = reshared(trial.scene.palette, trial.raster.flowers)
    return replace(trial, scene=replace(trial.scene, blooms=blooms, palette=palette), focal=focal)


def _set(onto: Trial, source: Trial, mask: np.ndarray, step: np.ndarray, behind: bool) -> Trial:
    """A masked part of `source` laid a step (photograph pixels) away; `behind` the plant that is
    there already, save its petals.
    """
    dx, dy = (round(float(v) * source.raster.scale) for v in step)
    ys, xs = np.nonzero(mask)
    to_y, to_x = ys + dy, xs + dx
    high, wide = mask.shape
    inside = (to_y >= 0) & (to_y < high) & (to_x >= 0) & (to_x < wide)
    if inside.mean() < 0.5:
        raise ValueError("That is outside the picture.")
    if behind:
        shown = inside.copy()
        shown[inside] = (onto.raster.labels[to_y[inside], to_x[inside]] != Label.PLANT) | (
            source.raster.flowers[ys[inside], xs[inside]] > 0
        )
        inside = shown
    ys, xs, to_y, to_x = ys[inside], xs[inside], to_y[inside], to_x[inside]
    labels, flowers, light, pixels = (
        a.copy() for a in (onto.raster.labels, onto.raster.flowers, onto.raster.light, onto.pixels)
    )
    labels[to_y, to_x] = Label.PLANT
    flowers[to_y, to_x] = source.raster.flowers[ys, xs]
    light[to_y, to_x] = source.raster.light[ys, xs]
    laid = np.zeros(mask.shape, np.float32)
    laid[to_y, to_x] = 1
    soft = cv2.GaussianBlur(laid, (3, 3), 0)[to_y, to_x, None]
    pixels[to_y, to_x] = (
        soft * source.pixels[ys, xs] + (1 - soft) * onto.pixels[to_y, to_x]
    ).astype(np.uint8)
    return replace(
        onto,
        raster=replace(onto.raster, labels=labels, flowers=flowers, light=light),
        pixels=pixels,
        touched=onto.touched | (laid > 0),
    )


def _filled(trial: Trial, hole: np.ndarray) -> Trial:
    """The picture with a hole (bool h x w) filled from that part of it which fits best about the
    hole's edge, pixels and labels alike.
    """
    if not hole.any():
        return trial
    raster = trial.raster
    wide, high = cv2.boundingRect(hole.astype(np.uint8))[2:]
    full = _grown(hole, TRYING.fringe) & (hole | (raster.labels != Label.PLANT))
    whole = _grown(full, TRYING.edge)
    ring = np.column_stack(np.nonzero(_grown(whole, TRYING.edge) & ~whole))
    inside, within = np.column_stack(np.nonzero(hole)), np.column_stack(np.nonzero(whole))
    best, least, shade = None, np.inf, 0.0
    for reach in TRYING.reaches:
        for way in np.linspace(0, 2 * np.pi, TRYING.ways, endpoint=False):
            step = np.round((reach * high * np.sin(way), reach * wide * np.cos(way))).astype(int)
            low, far = ring.min(axis=0) + step, ring.max(axis=0) + step
            if (low < 0).any() or (far >= hole.shape).any():
                continue
            there, from_there = tuple((ring + step).T), tuple((inside + step).T)
            here = tuple(ring.T)
            differs = trial.pixels[here].astype(np.float32) - trial.pixels[there]
            cost = float(np.abs(differs).mean())
            cost += TRYING.other_label * float((raster.labels[here] != raster.labels[there]).mean())
            extra = float((raster.flowers[from_there] > 0).mean()) - float(
                (raster.flowers[here] > 0).mean()
            )
            cost += TRYING.other_part * max(0.0, extra)
            cost += TRYING.other_part * float(
                hole[from_there].mean() + 4 * (raster.labels[from_there] == Label.CONTAINER).mean()
            )
            if cost < least:
                # Only what is the same thing in both places tells how much lighter one is.
                same = (raster.labels[here] == raster.labels[there]) & (
                    raster.labels[here] != Label.PLANT
                )
                shade = (
                    np.clip(np.median(differs[same], axis=0), -25, 25)
                    if same.sum() > TRYING.same
                    else 0.0
                )
                best, least = step, cost
    labels, flowers, light, pixels = (
        a.copy() for a in (raster.labels, raster.flowers, raster.light, trial.pixels)
    )
    if best is None:
        labels[hole], flowers[hole] = Label.BACKDROP, 0
        pixels = cv2.inpaint(pixels, whole.astype(np.uint8), 5, cv2.INPAINT_TELEA)
    else:
        there, over = tuple((inside + best).T), tuple((within + best).T)
        labels[hole], flowers[hole], light[hole] = (
            raster.labels[there],
            raster.flowers[there],
            raster.light[there],
        )
        soft = cv2.GaussianBlur(full.astype(np.float32), (2 * TRYING.edge + 1,) * 2, 0)[whole][
            :, None
        ]
        soft[full[whole]] = 1
        pixels[whole] = np.clip(
            soft * (trial.pixels[over] + shade) + (1 - soft) * trial.pixels[whole], 0, 255
        ).astype(np.uint8)
    new = replace(raster, labels=labels, flowers=flowers, light=light)
    return replace(trial, raster=new, pixels=pixels, touched=trial.touched | whole)


def _grown(mask: np.ndarray, by: int) -> np.ndarray:
    return cv2.dilate(mask.astype(np.uint8), np.ones((2 * by + 1,) * 2, np.uint8)) > 0
