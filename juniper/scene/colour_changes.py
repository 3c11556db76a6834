"""What a person corrects about a picture's colours: what is neutral in it, and which colours of the
palette are one, or two, and what they are called.

Like every correction it is kept as what the person did, and applied in the order it was made.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from juniper.colour.palette import Swatch, lit, on_disc, swatch_of
from juniper.colour.spaces import from_hex, linear_from_srgb, to_hex
from juniper.photograph import adaptation, adapted
from juniper.scene.blooms import Bloom
from juniper.scene.scene import Raster, Scene
from juniper.values import Point, triple


@dataclass(frozen=True)
class ColourChangeSettings:
    """What a person may change of colours.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    # of the picture's longer side: radius of what is looked at about a neutral spot
    spot: float = 0.008
    # of linear light, between which a spot tells the light's colour
    darkest: float = 0.02
    brightest: float = 0.97
    # times the weakest channel: no neutral under a usual light has as much of another
    reddest: float = 4.0
    longest: int = 40  # characters of a name


COLOUR_CHANGE = ColourChangeSettings()


TINTS = ("neutral", "merge", "split", "name")


@dataclass(frozen=True)
class ColourChange:
    """`tint` is one of TINTS: what lies at `at` (photograph pixels) is white or grey; the palette's
    colour number `which` is one with `to`, is two, or is called `name`. Flower colours are numbered
    from 1, as the raster has them.
    """

    tint: str
    at: Point | None = None
    which: int | None = None
    to: int | None = None
    name: str | None = None


def with_colours_changed(
    scene: Scene, raster: Raster, pixels: np.ndarray, change: ColourChange
) -> tuple[Scene, Raster]:
    """Scene and raster after a change of colours. `pixels` is the picture (h, w, 3) uint8 sRGB at
    the raster's size.

    Raises ValueError, with a sentence for the user, for what cannot be done.
    """
    if not scene.has_colour:
        raise ValueError("The picture has no colour.")
    if change.tint == "neutral":
        return _neutral(scene, raster, pixels, change.at)
    flowers = [s for s in scene.palette if s.part == "flower"]
    if change.which is None or not 1 <= change.which <= len(flowers):
        raise ValueError(
            "This colour is no longer in the palette. Choose one of those that are shown."
        )
    if change.tint == "name":
        name = " ".join((change.name or "").split())[: COLOUR_CHANGE.longest]
        return (
            _with(
                scene,
                [
                    replace(s, called=name) if i == change.which else s
                    for i, s in enumerate(flowers, 1)
                ],
            ),
            raster,
        )
    if change.tint == "merge":
        if change.to is None or change.to == change.which or not 1 <= change.to <= len(flowers):
            raise ValueError("Choose another colour of the palette to join this one with.")
        number = np.arange(len(flowers) + 1)
        number[change.which] = change.to
    elif change.tint == "split":
        return _split(scene, raster, pixels, change.which)
    else:
        raise ValueError(f"Colours can be changed by: {', '.join(TINTS)}.")
    raster = replace(raster, flowers=number[raster.flowers].astype(np.uint8))
    doubt = flowers[change.to - 1].doubt + flowers[change.which - 1].doubt
    return _renumbered(
        scene, raster, pixels, {change.to: flowers[change.to - 1].called}, {change.to: doubt}
    )


def _lab(pixels: np.ndarray) -> np.ndarray:
    return cv2.cvtColor(np.ascontiguousarray(pixels, np.float32)[None] / 255, cv2.COLOR_RGB2LAB)[0]


def _neutral(
    scene: Scene, raster: Raster, pixels: np.ndarray, at: Point | None
) -> tuple[Scene, Raster]:
    if at is None:
        raise ValueError("Click on a spot of the picture that is white or grey.")
    x, y = (
        int(np.clip(v * raster.scale, 0, n - 1))
        for v, n in zip(at, pixels.shape[1::-1], strict=True)
    )
    reach = max(2, round(COLOUR_CHANGE.spot * max(pixels.shape)))
    spot = pixels[max(0, y - reach) : y + reach + 1, max(0, x - reach) : x + reach + 1].reshape(
        -1, 3
    )
    grey = linear_from_srgb(np.median(spot, axis=0) / 255)
    if grey.max() > COLOUR_CHANGE.brightest or grey.min() < COLOUR_CHANGE.darkest:
        raise ValueError(
            "This spot is too bright or too dark to show the light. Click on white or grey in"
            " even light."
        )
    if grey.max() > COLOUR_CHANGE.reddest * grey.min():
        raise ValueError(
            "This spot is coloured, not white or grey. Click on white cloth, a wall or the card."
        )
    before, scene = scene, replace(scene, light="hand", white=triple(grey))
    whole = scene.in_fair_light(pixels)
    labs = cv2.cvtColor(whole.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    raster = replace(raster, light=np.clip(np.round(labs[..., 0]), 0, 100).astype(np.uint8))
    flowers = [s for s in scene.palette if s.part == "flower"]
    new = []
    for i, s in enumerate(flowers, 1):
        own = labs[raster.flowers == i]
        new.append(
            replace(swatch_of(own, "flower", s.share), called=s.called, doubt=s.doubt)
            if len(own)
            else s
        )
    scene = _with(scene, new)
    # Leaf and container are led on from what they were judged to be.
    was = np.eye(3) if before.white is None else adaptation(1 / np.array(before.white))
    onward = adaptation(1 / grey) @ np.linalg.inv(was)
    rest = []
    for s in scene.palette:
        if s.part != "flower":
            chip = np.round(255 * from_hex(s.chip)).astype(np.uint8)
            s = swatch_of(_lab(adapted(chip[None, None], onward)[0]), s.part, s.share)  # noqa: PLW2901
        rest.append(s)
    return replace(scene, palette=tuple(rest)), raster


def _split(scene: Scene, raster: Raster, pixels: np.ndarray, which: int) -> tuple[Scene, Raster]:
    here = raster.flowers == which
    lab = _lab(scene.in_fair_light(pixels[here][None])[0])
    places = np.column_stack([on_disc(lab), lab[:, 0] / 200]).astype(np.float32)
    if len(places) < 40:
        raise ValueError("Too little of this colour shows to divide it in two.")
    cv2.setRNGSeed(7)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.001)
    _, index, _ = cv2.kmeans(places, 2, None, criteria, 2, cv2.KMEANS_PP_CENTERS)
    flowers = raster.flowers.copy()
    old = [s for s in scene.palette if s.part == "flower"]
    flowers[here] = np.where(index[:, 0] == 0, which, len(old) + 1)
    return _renumbered(
        scene, replace(raster, flowers=flowers), pixels, {}, {len(old) + 1: old[which - 1].doubt}
    )


def _renumbered(
    scene: Scene,
    raster: Raster,
    pixels: np.ndarray,
    called: dict[int, str],
    doubt: dict[int, float],
) -> tuple[Scene, Raster]:
    """The palette read anew from a raster whose numbers changed, its colours by falling share and
    without gaps; the blooms with it. `called` and `doubt` tell of numbers that are no longer what
    they were.
    """
    old = [s for s in scene.palette if s.part == "flower"]
    count = np.bincount(raster.flowers.ravel(), minlength=len(old) + 2)
    count[0] = 0
    kept = [int(i) for i in np.argsort(-count, kind="stable") if count[i]]
    number = np.zeros(len(count), np.uint8)
    number[kept] = np.arange(1, len(kept) + 1)
    total, new = count.sum(), []
    for i in kept:
        was = old[i - 1] if i <= len(old) else None
        name, unsure = (
            called.get(i, was.called if was else ""),
            doubt.get(i, was.doubt if was else 0.0),
        )
        own = scene.in_fair_light(pixels[raster.flowers == i][None])[0]
        new.append(
            replace(
                swatch_of(_lab(own), "flower", float(count[i] / total)), called=name, doubt=unsure
            )
        )
    raster = replace(raster, flowers=number[raster.flowers])
    scene = _with(scene, new)
    blooms = tuple(_recoloured(b, raster, new, number) for b in scene.blooms)
    return replace(scene, blooms=blooms), raster


def _recoloured(bloom: Bloom, raster: Raster, palette: list[Swatch], number: np.ndarray) -> Bloom:
    x, y, r = (round(v * raster.scale) for v in (*bloom.centre, 0.7 * bloom.radius))
    seen = raster.flowers[max(0, y - r) : y + r + 1, max(0, x - r) : x + r + 1]
    count = np.bincount(seen.ravel(), minlength=len(palette) + 1)[1:]
    at = int(count.argmax()) + 1 if count.any() else int(number[bloom.swatch]) or 1
    return replace(bloom, swatch=at, hex=palette[at - 1].hex, hue=palette[at - 1].hue)


def _with(scene: Scene, flowers: list[Swatch]) -> Scene:
    """The scene with its flower colours changed, and the blooms' with them."""
    palette = (*flowers, *(s for s in scene.palette if s.part != "flower"))
    blooms = tuple(
        (
            replace(b, hex=flowers[b.swatch - 1].hex, hue=flowers[b.swatch - 1].hue)
            if b.swatch <= len(flowers)
            else b
        )
        for b in scene.blooms
    )
    return replace(scene, palette=palette, blooms=blooms)


def recolour(pixels: np.ndarray, mask: np.ndarray, hexa: str) -> np.ndarray:
    """The picture (h, w, 3) uint8 with its masked petals in another colour, their shading kept: hue
    turned, saturation and lightness scaled so that what is lit shows the colour '#rrggbb'.
    """
    lab = _lab(pixels[mask])
    was, wish = lit(lab), _lab(255 * from_hex(hexa)[None])[0]
    deep = np.hypot(lab[:, 1], lab[:, 2]) / (lab[:, 0] + 16)
    had, want = np.hypot(*was[1:]) / (was[0] + 16), np.hypot(*wish[1:]) / (wish[0] + 16)
    hue = np.arctan2(lab[:, 2], lab[:, 1])
    # About a pale colour hue is noise: what is turned is the wanted one.
    own = (
        np.where(deep > 0.1, hue - np.arctan2(was[2], was[1]), 0.0)
        if had > 0.1
        else np.zeros(len(lab))
    )
    turned = np.arctan2(wish[2], wish[1]) + (own + np.pi) % (2 * np.pi) - np.pi
    light = np.clip((lab[:, 0] + 16) * (wish[0] + 16) / (was[0] + 16) - 16, 0, 100)
    chroma = np.clip(deep * want / max(had, 0.08), 0, 1.3 * want + 0.02) * (light + 16)
    new = np.column_stack([light, chroma * np.cos(turned), chroma * np.sin(turned)]).astype(
        np.float32
    )
    out = pixels.copy()
    out[mask] = np.clip(
        np.round(255 * cv2.cvtColor(new[None], cv2.COLOR_LAB2RGB)[0]), 0, 255
    ).astype(np.uint8)
    return out


def swapped_colour(
    scene: Scene, raster: Raster, pixels: np.ndarray, which: int, hexa: str
) -> tuple[Scene, Raster, np.ndarray]:
    """Scene, raster and picture (uint8 h x w x 3) with the palette's colour number `which` swapped
    for another ('#rrggbb'). Raises ValueError.
    """
    mask = raster.flowers == which
    if not mask.any():
        raise ValueError("Nothing of this colour is left in the picture.")
    shown = np.round(255 * from_hex(hexa)).astype(np.uint8)[None, None]
    if scene.white is not None:
        # painted under the light of the picture, so that it is judged to be what was wished
        shown = adapted(shown, np.linalg.inv(adaptation(1 / np.array(scene.white))))
    pixels = recolour(pixels, mask, to_hex(shown[0, 0] / 255))
    flowers = [s for s in scene.palette if s.part == "flower"]
    lab = _lab(scene.in_fair_light(pixels[mask][None])[0])
    flowers[which - 1] = replace(
        swatch_of(lab, "flower", flowers[which - 1].share), doubt=flowers[which - 1].doubt
    )
    light = raster.light.copy()
    light[mask] = np.clip(np.round(lab[:, 0]), 0, 100).astype(np.uint8)
    return _with(scene, flowers), replace(raster, light=light), pixels
