"""What a person says of petal and leaf with the brush: what lies under a stroke, and what is like
it in the rest of the piece.

A florist points at one floret of a cloud of filler, not at three hundred. So the colours under the
stroke are held against those of what is surely the other, and what was a near thing by itself goes
along where its colour says so.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.colour.circle import saturation
from juniper.colour.palette import Swatch, apart, lit, palette_of, swatch_of
from juniper.colour.spaces import from_hex, lab_from_srgb, srgb_from_lab, to_hex
from juniper.scene.amending import looked_at, plant_colours, seen_again, under_brush
from juniper.scene.material import MATERIAL, more_usual, petal_odds
from juniper.scene.parts import Label
from juniper.scene.scene import FEWER, Raster, Scene
from juniper.values import Point, triple


@dataclass(frozen=True)
class BrushSettings:
    """What goes along with what was painted.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    alike: float = 1.5  # nats, of colour, from which anything goes along with what was painted
    unlike: float = (
        -0.7
    )  # under which even what lies under the brush is a gap between what was meant
    rounds: int = 4  # in which florets under the brush are told from what shows between them
    weighty: float = 20.0  # what a pixel under the brush counts for: a click tells enough
    # lightness counts so much less than it does among petals of all kinds; saturation as chroma
    shade: float = 0.4
    deep: float = 110.0
    margin: float = 0.7  # nats that colour, place and what was seen have to outweigh doubt by
    beside: float = 1.5  # nats that what lies beside the stroke has more
    partly: float = 0.2  # of what lies under the brush, that a colour has to hold there already
    same_step: float = 2.0  # times as far apart may be what was painted and a colour of its step
    most_colours: int = 12  # of flowers in a palette


BRUSH = BrushSettings()


@dataclass(frozen=True)
class PetalStroke:
    """A stroke of the brush: plant that lies under it is `petal`, or leaf and stem. `points` and
    `radius` in the photograph's pixels. What is like it goes along, unless it stands `alone`.
    """

    points: tuple[Point, ...]
    radius: float
    petal: bool
    alone: bool = False


def paint(
    scene: Scene, raster: Raster, pixels: np.ndarray, stroke: PetalStroke
) -> tuple[Scene, Raster]:
    """Scene and raster after a stroke of petal or leaf. `pixels` is the picture (h, w, 3) uint8
    sRGB at the raster's size.

    Raises ValueError, with a sentence for the user, where no plant lies under it.
    """
    plant, under = raster.labels == Label.PLANT, plant_under(scene, raster, stroke)
    look = looked_at(pixels, raster.labels)
    number, odds = raster.flowers[plant], petal_odds(look, plant, pixels)
    other = (number > 0) != stroke.petal
    taken = meant = under & other
    if not stroke.alone:
        near = _nearness(under, plant, max(1.0, stroke.radius * raster.scale))
        alike, meant = _alike(pixels[plant], odds if stroke.petal else -odds, under, other, near)
        taken, meant = other & alike, other & meant
    if not taken.any():
        return scene, raster
    lab = plant_colours(scene, raster, pixels)
    flowers = [s for s in scene.palette if s.part == "flower"]
    if stroke.petal:
        found = (
            np.bincount(number[under], minlength=len(flowers) + 1)[1:] >= BRUSH.partly * under.sum()
        )
        which = _likest(flowers, found, lab[meant if meant.any() else taken])
        flowers[which:] = [
            _joined(flowers[which : which + 1], (number == which + 1).sum(), lab[taken]),
            *flowers[which + 1 :],
        ]
        number = np.where(taken, which + 1, number)
    else:
        number = np.where(taken, 0, number)
    leaves = palette_of(lab[number == 0][::FEWER], "foliage", most=2)[0]
    palette = (
        *flowers,
        *leaves,
        *(s for s in scene.palette if s.part not in ("flower", "foliage")),
    )
    raster = replace(raster, flowers=raster.flowers.copy())
    raster.flowers[plant] = number
    return seen_again(replace(scene, palette=palette), raster, look, odds, lab), raster


def plant_under(scene: Scene, raster: Raster, stroke: PetalStroke) -> np.ndarray:
    """Which of the plant's pixels lie under a stroke: bool (n,). Raises ValueError, with a sentence
    for the user, where none does, or where petals are not told from leaves at all.
    """
    if not scene.has_colour:
        raise ValueError("The picture has no colour, so petals and leaves cannot be told apart.")
    plant = raster.labels == Label.PLANT
    under = under_brush(stroke, plant.shape, raster.scale)[0][plant] > 0
    if not under.any():
        raise ValueError("There is no plant under this stroke. Brush it as plant first.")
    return under


def _alike(
    pixels: np.ndarray, odds: np.ndarray, under: np.ndarray, other: np.ndarray, near: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Which pixels (n, 3) sRGB of the plant are like what lies `under` the brush, as against the
    surest of what is taken for the `other` (bool n): by their colour, their own `odds` (n,) of
    being what was painted, and how `near` they are; and which of those under it show what was
    meant.
    """
    lab = cv2.cvtColor(pixels[None].astype(np.float32) / 255, cv2.COLOR_RGB2LAB)[0]
    surely = np.clip(1 / (1 + np.exp(odds)) - MATERIAL.sure, 0, None) * (other & ~under)
    places, meant, beside = _out_of_shade(lab), under.astype(float), BRUSH.beside * near
    for _ in range(BRUSH.rounds):
        # Between florets leaf shows, under the brush as well (expectation and maximisation;
        # Dempster, Laird & Rubin 1977).
        like = more_usual(places, BRUSH.weighty * meant, surely)
        meant = under / (1 + np.exp(-like))
    alike = (like + beside > BRUSH.alike) & (
        like + beside + np.minimum(odds, 0) * (1 - near) > BRUSH.margin
    )
    return alike | (under & (like > BRUSH.unlike)), under & (like > np.median(like[under]))


def _nearness(under: np.ndarray, plant: np.ndarray, radius: float) -> np.ndarray:
    """How near each plant pixel (of bool h x w) is to what lies `under` the brush (n,): 1 beside
    it, falling over its `radius` in pixels.
    """
    raster = np.ones(plant.shape, np.uint8)
    raster[plant] = ~under
    away = cv2.distanceTransform(raster, cv2.DIST_L2, 3)[plant]
    return np.exp(-0.5 * (away / radius) ** 2)


def _out_of_shade(lab: np.ndarray) -> np.ndarray:
    """Colours (n, 3) so laid out for counting that light and shade of one petal lie near each
    other.
    """
    deep, hue = saturation(lab), np.arctan2(lab[:, 2], lab[:, 1])
    return np.column_stack(
        [BRUSH.shade * lab[:, 0], BRUSH.deep * deep * np.cos(hue), BRUSH.deep * deep * np.sin(hue)]
    )


def _likest(flowers: list[Swatch], found: np.ndarray, shown: np.ndarray) -> int:
    """Place of the colour that petals (n, 3) CIELAB are of: the likest one's, or the next after the
    last. Tints of one step are taken for one sooner, and so is what was `found` (bool k) at the
    same place.
    """
    if not flowers:
        return 0
    own = swatch_of(shown, "flower", 0.0)
    step = "white" if own.hue == "grey" else own.hue  # white in deep shade
    away = apart(np.array([lab_from_srgb(from_hex(s.chip)) for s in flowers]), lit(shown))
    away = away / np.where(np.array([s.hue == step for s in flowers]) | found, BRUSH.same_step, 1.0)
    return (
        int(away.argmin()) if away.min() < 1 or len(flowers) >= BRUSH.most_colours else len(flowers)
    )


def _joined(old: list[Swatch], count: int, taken: np.ndarray) -> Swatch:
    """The swatch of petals (n, 3) CIELAB, joined to one that stands for `count` of them if there is
    an `old` one. Its share is counted later.
    """
    if not old:
        return swatch_of(taken, "flower", 0.0)
    mean = (count * np.array(old[0].lab) + taken.sum(axis=0)) / (count + len(taken))
    return replace(old[0], lab=triple(mean), hex=to_hex(srgb_from_lab(mean)))
