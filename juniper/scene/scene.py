"""A photograph understood: datum, labels, flower colours, blooms."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.aside import aside
from juniper.colour.circle import saturation
from juniper.colour.palette import Swatch, flower_colours, palette_of, swatches_of
from juniper.photograph import Photograph, adaptation, adapted, guessed_light
from juniper.scene.blooms import Bloom, find_blooms, focal_point, give_roles, tell_apart
from juniper.scene.cutout import CutOut, amended
from juniper.scene.datum import Datum, NoContainer, Spread, Told, find_datum
from juniper.scene.doubt import with_doubts
from juniper.scene.material import flower_mask, petal_odds
from juniper.scene.petals import LEAF, PETAL, WALL, closer
from juniper.scene.separation import CONTAINER, PLANT, Separation, separate
from juniper.scene.settling import settled
from juniper.scene.vessel import Vessel

Point = tuple[float, float]
DEFAULT, AMENDED = "default", "default, amended by the network"  # what made an outline
LIGHTS = {
    "": 6.0,
    "guess": 4.5,
    "card": 1.5,
    "hand": 2.5,
}  # what the light's colour is told by, and what white may still be off by, in CIELAB b*
FEWER = 11  # of leaf and wall every so many pixels are enough to tell their colours
LOOKS = 0.5  # likeness of plant that is believed above the outline's top
MISSED = 0.05  # of the plant's height
HIDDEN, UNDER = (
    0.82,
    0.04,
)  # of the rim under leaves, looked at so far below it in container heights, from which it may lie elsewhere
UNSURE = 0.06  # of the height ratio, one standard uncertainty, from which that is worth a look
DOUBTED = 0.55  # what each such doubt leaves of the confidence
SAGE, SAGE_DEEP, MOSTLY = (
    (125.0, 165.0),
    (0.1, 0.38),
    0.35,
)  # CIELAB hue and saturation of silver leaves; a share of the flowers that is no mistake
FAINT_PLANT = 0.5  # confidence in the outline below which it is looked at twice


@dataclass(frozen=True)
class Raster:
    """What a photograph's pixels are, at working size; all that re-measuring needs.

    `labels` uint8 (h, w), see juniper.scene.separation; `flowers` uint8, 0 or the number of the
    swatch in the flower palette; `light` uint8, CIELAB lightness 0..100; `scale` is working size
    over the photograph's size.
    """

    labels: np.ndarray
    flowers: np.ndarray
    light: np.ndarray
    scale: float

    def labels_at(self, size: tuple[int, int]) -> np.ndarray:
        """The labels (uint8 h x w) of a picture of `size` (width, height); edges run smoothly between the raster's pixels."""
        likely = [
            cv2.resize((self.labels == k).astype(np.float32), size, interpolation=cv2.INTER_LINEAR) for k in range(PLANT + 1)
        ]
        return np.argmax(likely, axis=0).astype(np.uint8)

    def packed(self) -> bytes:
        """The raster as one lossless PNG (labels, flowers, light as its three channels)."""
        done, data = cv2.imencode(".png", np.dstack([self.labels, self.flowers, self.light]))
        if not done:
            raise ValueError("the raster could not be packed")
        return data.tobytes()

    @staticmethod
    def unpacked(data: bytes, scale: float) -> Raster:
        """Inverse of packed()."""
        stack = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
        if stack is None:
            raise ValueError("the raster is damaged")
        return Raster(*(np.ascontiguousarray(stack[..., i]) for i in range(3)), scale)


@dataclass(frozen=True)
class Scene:
    """The datum, blooms and palette found in a photograph, in its full pixels.

    `focal` is the suggested focal point or None; `doubts` are plain sentences; `has_colour` is
    False for a grey picture, whose colours are not judged; `engine` is what made the outline; `light` is what its colour was
    told by, one of LIGHTS, and `white` the linear red, green and blue of a grey under it, where that is still to be taken out of the picture.
    """

    datum: Datum
    focal: Point | None
    blooms: tuple[Bloom, ...]
    palette: tuple[Swatch, ...]
    width: int
    height: int
    has_colour: bool = True
    plant_confidence: float = 1.0
    engine: str = DEFAULT
    light: str = ""
    white: tuple[float, float, float] | None = None

    def in_fair_light(self, pixels: np.ndarray) -> np.ndarray:
        """Pixels of the picture (..., n, 3) uint8 sRGB with the colour of the light taken out of them, as its colours are judged."""
        return pixels if self.white is None else adapted(pixels, adaptation(1 / np.array(self.white)))

    @property
    def seen_twice(self) -> bool:
        """Whether the second engine had its say."""
        return self.engine == AMENDED

    @property
    def doubtful(self) -> bool:
        """Whether a second engine is worth its time."""
        return self.datum.needs_check or self.plant_confidence < FAINT_PLANT


class NothingFound(ValueError):
    """The picture shows no arrangement that can be measured; the message tells what to do."""


def see(
    photograph: Photograph,
    given: Datum | None = None,
    known: Vessel | None = None,
    cutout: CutOut | None = None,
    container_height_cm: float | None = None,
) -> tuple[Scene, Raster]:
    """Find the piece in a photograph. With `given`, that datum is used instead of the automatic; `known` is the container's shape,
    `cutout` a network that amends the outline. With the container's true height the reference card, if it shows, tells where a hidden rim lies.

    Raises NothingFound when no container or no plant can be made out, NoCutOut when the network cannot be run.
    """
    lab = cv2.cvtColor(photograph.pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    parts = separate(lab, photograph.pixels)
    if cutout is not None:
        parts = amended(parts, cutout.foreground(photograph.pixels))
    plant = parts.labels == PLANT
    if plant.sum() < 0.002 * plant.size:
        raise NothingFound(
            "No flowers or foliage stand out from the background. Take the picture against a plain wall, "
            "with the whole piece in the frame."
        )
    scale = photograph.scale
    focal = photograph.focal * max(lab.shape[:2])
    read = None if given else aside(_automatic, parts, focal, known, _told(photograph, container_height_cm))
    told = photograph.card is not None and photograph.card.white is not None
    lit = aside(_in_fair_light, photograph, lab, parts.labels < CONTAINER, told)
    look = closer(photograph.pixels, parts.look, parts.labels >= CONTAINER)
    odds = petal_odds(look, plant, photograph.pixels)
    petals = flower_mask(plant, odds) if photograph.has_colour else np.zeros_like(plant)
    apart = tell_apart(look, petals)
    white, judged = lit.result()
    flowers, palette = _colours(judged, parts.labels, petals, apart.number)
    palette = with_doubts(palette, odds, flowers[plant], judged[plant])
    blooms = find_blooms(apart, flowers, tuple(s for s in palette if s.part == "flower"))
    datum = given.scaled(scale) if read is None else read.result()
    ys, xs = np.nonzero(plant)
    along = (xs - datum.rim[0]) * datum.up[0] + (ys - datum.rim[1]) * datum.up[1]
    blooms = give_roles(blooms, datum, float(along.max()))
    back = 1 / scale
    focal = focal_point(blooms)
    scene = Scene(
        datum=given or datum.scaled(back),
        focal=(focal[0] * back, focal[1] * back) if focal else None,
        blooms=tuple(b.scaled(back) for b in blooms),
        palette=palette,
        width=photograph.width,
        height=photograph.height,
        has_colour=photograph.has_colour,
        plant_confidence=parts.plant_confidence,
        light="card" if told else "guess",
        white=white,
        engine=DEFAULT if cutout is None else AMENDED,
    )
    light = np.clip(np.round(lab[..., 0]), 0, 100).astype(np.uint8)
    return scene, Raster(parts.labels, flowers, light, scale)


def _in_fair_light(photograph: Photograph, lab: np.ndarray, ground: np.ndarray, told: bool) -> tuple:
    """The guess at the light's colour from what of the picture is ground (bool h x w), and the picture in CIELAB without it; no guess,
    and the picture as it is, where a card has `told` it."""
    if told or not photograph.has_colour:
        return None, lab
    white = guessed_light(photograph.pixels, ground)
    fair = adapted(photograph.pixels, adaptation(1 / np.array(white)))
    return white, cv2.cvtColor(fair.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)


def _told(photograph: Photograph, height_cm: float | None) -> Told | None:
    """The container's height in pixels of the working picture by the reference card, if that tells a scale."""
    card = photograph.card
    if height_cm is None or card is None or card.px_per_cm is None:
        return None
    return Told(height_cm * card.px_per_cm * photograph.scale, card.scale_uncertainty)


def _automatic(parts: Separation, focal: float, known: Vessel | None, told: Told | None) -> Datum:
    try:
        datum = find_datum(parts.labels, parts.profile, parts.wall, focal, parts.horizon, known, _likely(parts), told)
    except NoContainer:
        datum = _standing_on(parts.labels)
    return _doubted(datum, parts)


def _doubted(datum: Datum, parts: Separation) -> Datum:
    """A datum with the doubts that two ways of seeing raise: they have the container, or the plant's top, in different places."""
    doubts = []
    if not parts.agreed:
        doubts.append("what looks like the container is not what its edges show")
    if parts.others:
        doubts.append("several vessels show, and the handles are on one of them")
    if parts.look is not None:
        plant = parts.labels == PLANT
        seen = parts.look.likeness(plant.shape, LEAF, PETAL) > LOOKS
        tops = [np.column_stack(np.nonzero(mask)[::-1]) for mask in (plant, seen | plant)]
        high, higher = (float(((at - datum.rim) @ datum.up).max()) for at in tops)
        if higher - high > MISSED * max(high, 1.0):
            doubts.append("fine flowers or grass at the top may have been missed")
    if _rim_hidden(datum, parts.labels):
        doubts.append("leaves hide nearly all of the rim, and the heights hang on where it lies")
    if not doubts:
        return datum
    return replace(datum, confidence=datum.confidence * DOUBTED ** len(doubts), doubts=(*datum.doubts, *doubts))


def _rim_hidden(datum: Datum, labels: np.ndarray) -> bool:
    """Whether plant covers nearly all of the rim, and the height ratio is uncertain for that."""
    ys, xs = np.nonzero(labels == PLANT)
    high = float(((np.column_stack([xs, ys]) - datum.rim) @ datum.up).max()) if len(xs) else 0.0
    if high <= 0:
        return False
    # To first order: a rim set higher makes the plant shorter and the container taller.
    unsure = np.hypot(datum.spread.rim * (1 / high + 1 / datum.height), datum.spread.base / datum.height)
    line = np.linspace(datum.rim_left, datum.rim_right, 60)[3:-3] - UNDER * datum.height * datum.up
    at = np.clip(line.round().astype(int), 0, np.array(labels.shape[::-1]) - 1)
    return unsure > UNSURE and float((labels[at[:, 1], at[:, 0]] == PLANT).mean()) > HIDDEN


def _likely(parts: Separation) -> np.ndarray | None:
    """What looks like wall (bool h x w), if anything was looked at."""
    return None if parts.look is None else parts.look.likeness(parts.labels.shape, WALL) > 0.5


def _standing_on(labels: np.ndarray) -> Datum:
    """No container was made out: offer the lowest fifth of the piece as one, in plain doubt.

    Raises NothingFound when the piece leaves no room for one.
    """
    ys, xs = np.nonzero(labels >= CONTAINER)
    low, high = float(np.percentile(ys, 99.5)), float(np.percentile(ys, 0.5))
    if low - high < 12:
        raise NothingFound("No container can be made out. Take the picture so that the whole container shows.")
    rim = low - 0.2 * (low - high)
    foot = xs[ys > rim]
    middle, half = float(np.median(foot)), max(4.0, float(np.percentile(np.abs(foot - np.median(foot)), 90)))
    doubt = 0.15 * (low - high)
    return Datum(
        (middle, rim),
        (middle, low),
        (middle - half, rim),
        (middle + half, rim),
        confidence=0.05,
        spread=Spread(doubt, doubt, half / 2),
        doubts=("no container can be made out: put the four handles where it is",),
    )


def _colours(lab, labels, petals, number) -> tuple[np.ndarray, tuple[Swatch, ...]]:
    plant = labels == PLANT
    leaves = aside(_palette_under, lab, plant & ~petals, "foliage", 2)
    vessel = aside(_palette_under, lab, labels == CONTAINER, "container", 1)
    flower, index = _colours_of_petals(lab, petals, number)
    grey = [k for k, s in enumerate(flower) if s.share < MOSTLY and _is_sage(s.lab)]
    if grey:
        petals = petals.copy()
        petals[petals] = ~np.isin(index, grey)
        leaves = aside(_palette_under, lab, plant & ~petals, "foliage", 2)
        flower, index = _colours_of_petals(lab, petals, number)
    raster = np.zeros(labels.shape, np.uint8)
    raster[petals] = index + 1
    return raster, flower + leaves.result() + vessel.result()


def _colours_of_petals(lab, petals, number) -> tuple[tuple[Swatch, ...], np.ndarray]:
    inner = cv2.erode(petals.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    own = lab[petals]
    index = settled(own, flower_colours(own, number[petals]), petals)
    return swatches_of(own, index, "flower", inner[petals])


def _is_sage(lab) -> bool:
    """Whether a CIELAB colour (3,) that was taken for petals is the greyish green of silver leaves: greyer than a green flower, greener than a
    white one."""
    low, high = SAGE_DEEP
    return SAGE[0] < np.degrees(np.arctan2(lab[2], lab[1])) % 360 < SAGE[1] and low < float(saturation(lab)) < high


def _palette_under(lab: np.ndarray, mask: np.ndarray, part: str, most: int) -> tuple[Swatch, ...]:
    """The colours of a part of the piece, from every so many of the pixels of a mask."""
    return palette_of(lab.reshape(-1, 3)[np.flatnonzero(mask)[::FEWER]], part, most=most)[0]
