"""How much of each colour there is: sixty, thirty and ten, the contrast of extension, and the
container's part.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.colour.circle import NEUTRALS, gap, hue_name, place_of
from juniper.colour.palette import Swatch
from juniper.colour.spaces import ciede2000, from_hex, lab_from_srgb
from juniper.values import triple

# of the first, the second and all other colours; some teach .65, .25 and .10
SPLIT = (0.6, 0.3, 0.1)
# Light values of the circle's steps from yellow on: Goethe's for the six that he gives, as Itten
# (The Art of Color) has them, halfway between.
LIGHT_VALUES = (9.0, 8.5, 8.0, 7.0, 6.0, 4.5, 3.0, 3.5, 4.0, 5.0, 6.0, 7.5)
ECHO = 20.0  # CIEDE2000 of a container's colour to one of the palette's, under which it echoes it
SHADE = ("grey", "black", "brown")  # of the palette: mostly eyes and shade, unless they hold much
# Standard uncertainty of a share of the flowers: what half of them always has, and how much counts
# of what is in doubt; so that of 130 simulated pictures seven tenths of the errors are smaller.
STEADY, DOUBTED = 0.025, 0.85
PLAIN = 0.22  # saturation under which a container is neutral


@dataclass(frozen=True)
class Part:
    """One step's part in the flowers: its name, share, and the swatches that make it, the largest
    first.
    """

    hue: str
    share: float
    swatches: tuple[Swatch, ...]


def parts_of(swatches: tuple[Swatch, ...]) -> tuple[Part, ...]:
    """The flowers' colours by name on the circle, tints of one step together, the largest first."""
    held: dict[str, list[Swatch]] = {}
    for s in swatches:
        if s.part == "flower":
            held.setdefault(s.hue, []).append(s)
    return tuple(
        sorted(
            (Part(h, sum(s.share for s in own), tuple(own)) for h, own in held.items()),
            key=lambda p: -p.share,
        )
    )


def share_unsure(some: tuple[Swatch, ...], swatches: tuple[Swatch, ...]) -> float:
    """Standard uncertainty of the share that some of the swatches have of the flowers."""
    own, whole = (sum(s.doubt for s in of if s.part == "flower") for of in (some, swatches))
    return _unsure(sum(s.share for s in some), own, whole - own)


def _unsure(share: float, own: float, others: float) -> float:
    """Standard uncertainty of a share of a whole, of which the part itself, and what else there is,
    may have some area (in parts of the whole) too much or too little, taken as independent.
    """
    steady = STEADY * 2 * np.sqrt(np.clip(share * (1 - share), 0.0, 0.25))
    return float(np.hypot(steady, DOUBTED * np.hypot(own * (1 - share), others * share)))


def split_distance(parts: tuple[Part, ...], split: tuple[float, ...] = SPLIT) -> float:
    """Share of the flowers that would have to be of another colour for the wanted split: half the
    sum of differences, the largest part held against the largest wanted, and all after the second
    against the accent. nan with fewer than two parts.
    """
    shares = [p.share for p in parts]
    if len(shares) < 2:
        return float("nan")
    ranked = np.array([shares[0], shares[1], sum(shares[2:])])
    return float(np.abs(ranked / ranked.sum() - np.array(split)).sum() / 2)


def light_value(place: float) -> float:
    """Goethe's light value at a place on the circle (0 yellow .. 12), between its steps by
    proportion.

    >>> light_value(0), light_value(6)
    (9.0, 3.0)
    """
    return float(np.interp(place % 12, np.arange(13), (*LIGHT_VALUES, LIGHT_VALUES[0])))


@dataclass(frozen=True)
class Extension:
    """Two opposite poles of a palette: their names, the first one's share of both, and the share
    that the contrast of extension wants; `unsure` is the standard uncertainty of the share.
    """

    first: str
    second: str
    share: float
    wanted: float
    unsure: float = STEADY


def extension_of(swatches: tuple[Swatch, ...]) -> Extension | None:
    """The contrast of extension of a palette with two poles that face each other; None for any
    other. Areas are wanted in inverse proportion to the light values: yellow to violet 1 : 3,
    orange to blue 1 : 2, red to green 1 : 1 (Itten).
    """
    chromatic = [
        (s, _place(s))
        for s in swatches
        if s.part == "flower" and s.hue not in NEUTRALS and s.share >= 0.04
    ]
    if len(chromatic) < 2:
        return None
    chief, at = max(chromatic, key=lambda h: h[0].share)
    facing = [(s, p) for s, p in chromatic if gap(p, at) > 4.5]
    own = [(s, p) for s, p in chromatic if gap(p, at) < 2]
    if not facing or len(facing) + len(own) < len(chromatic):
        return None
    second = max(facing, key=lambda h: h[0].share)
    areas = [sum(s.share for s, _ in side) for side in (own, facing)]
    values = [
        sum(s.share * light_value(p) for s, p in side) / area
        for side, area in zip((own, facing), areas, strict=True)
    ]
    share = areas[0] / sum(areas)
    unsure = _unsure(share, *(sum(s.doubt for s, _ in side) / sum(areas) for side in (own, facing)))
    return Extension(chief.hue, second[0].hue, share, values[1] / sum(values), unsure)


def _place(swatch: Swatch) -> float:
    return float(place_of(swatch.own))


def picks_up(setting: Swatch, swatches: tuple[Swatch, ...]) -> tuple[tuple[Swatch, ...], float]:
    """The flower colours that pick up a coloured wall or cloth, and the share of the flowers that
    they hold: within ECHO of it by CIEDE2000, or of its own step of the circle.
    """
    own = np.array(setting.own)
    flowers = [s for s in swatches if s.part == "flower"]
    found = tuple(
        s
        for s in flowers
        if float(ciede2000(own, np.array(s.own))) < ECHO
        or (s.hue not in NEUTRALS and s.hue == setting.hue)
    )
    whole = sum(s.share for s in flowers)
    return found, sum(s.share for s in found) / whole if whole else 0.0


def is_plain(swatch: Swatch) -> bool:
    """Whether a container, wall or cloth is a neutral: of less than PLAIN saturation."""
    lightness, a, b = swatch.own
    return float(np.hypot(a, b) / (lightness + 16)) < PLAIN


def setting_swatch(colour: str) -> Swatch:
    """A wall or cloth, by its colour #rrggbb, as a swatch that holds all of itself."""
    lab = lab_from_srgb(from_hex(colour))
    return Swatch("setting", triple(lab), colour, hue_name(lab), 1.0)


def relation(container: Swatch, swatches: tuple[Swatch, ...]) -> tuple[str, str]:
    """How a container stands to the flowers, neutral, echo or contrast, and the colour of the
    palette it is nearest to.
    """
    flowers = [
        s for s in swatches if s.part == "flower" and s.share >= (0.2 if s.hue in SHADE else 0.04)
    ]
    if not flowers:
        return "neutral", ""
    own = np.array(container.own)
    apart = [float(ciede2000(own, np.array(s.own))) for s in flowers]
    nearest = flowers[int(np.argmin(apart))]
    same_step = nearest.hue not in NEUTRALS and nearest.hue == container.hue
    if is_plain(container):
        return (
            ("echo", nearest.name)
            if min(apart) < ECHO and nearest.hue in NEUTRALS
            else ("neutral", nearest.name)
        )
    return ("echo" if min(apart) < ECHO or same_step else "contrast"), nearest.name
