"""The artists' circle of twelve steps, on which yellow faces violet, orange blue and red green.

A measured hue is mapped to it, never read straight off: each step is anchored at an OKLab hue, and
so are the edges between steps; what lies between is interpolated. OKLab (Ottosson 2020) is used
because CIELAB turns a blue towards violet as it deepens, so that ultramarine would be named violet
there. Anchors and edges are common practice; the pigments beside them are colours that a painter
calls so.
"""

from __future__ import annotations

import numpy as np

from juniper.colour.spaces import ok_hue

# Step name, OKLab hue in degrees of its middle and of its edge to the next step, and a pigment or
# dye that is called so.
ANCHORS = (
    ("yellow", 99.0, 83.0, "cadmium yellow"),
    ("yellow-orange", 74.0, 64.0, "Indian yellow"),
    ("orange", 56.0, 47.0, "cadmium orange"),
    ("red-orange", 38.0, 28.5, "vermilion"),
    ("red", 22.0, 6.0, "cadmium red, alizarin"),
    ("red-violet", 354.0, 329.0, "quinacridone magenta"),
    ("violet", 312.0, 294.0, "dioxazine violet"),
    ("blue-violet", 285.0, 277.0, "ultramarine violet"),
    ("blue", 260.0, 230.0, "ultramarine, cobalt blue"),
    ("blue-green", 204.0, 173.0, "turquoise"),
    ("green", 144.0, 131.0, "permanent green"),
    ("yellow-green", 121.0, 113.0, "chartreuse"),
)
STEPS = tuple(name for name, *_ in ANCHORS)
NEUTRALS = ("white", "cream", "grey", "black", "brown")

_FIRST = ANCHORS[0][1]
# Middles and edges in turn, unrolled so that the angle falls as the place rises: once round from
# yellow to yellow.
_ANGLES = np.array(
    [a if a <= _FIRST else a - 360 for _, *both, _ in ANCHORS for a in both] + [_FIRST - 360]
)
_PLACES = np.arange(len(_ANGLES)) / 2


def position(hue) -> np.ndarray:
    """Place on the circle, 0 (yellow) up to 12, of OKLab hue angles (...,) in degrees."""
    turned = (np.asarray(hue, float) - _FIRST) % 360 - 360 + _FIRST
    turned = np.where(turned <= _FIRST - 360, turned + 360, turned)
    return np.interp(-turned, -_ANGLES, _PLACES) % 12


def place_of(lab) -> np.ndarray:
    """Place on the circle, 0 (yellow) up to 12, of CIELAB colours (..., 3)."""
    return position(ok_hue(lab))


def gap(first: float, second: float) -> float:
    """Steps between two places on the circle, 0 to 6.

    >>> float(gap(11, 1))
    2.0
    """
    away = abs(first - second) % 12
    return min(away, 12 - away)


def saturation(lab) -> np.ndarray:
    """How deep a colour is apart from how brightly it is lit: C* / (L* + 16).

    Above the linear part of CIELAB (L* > 8) shading scales L* + 16, a* and b* alike, so that hue
    angle and saturation of a petal stay as they are from its lit side to its shaded one. White has
    under .13, cream .13 to .29, a pale pink .35, a red rose 1.2.

    >>> float(saturation([64.0, 30.0, 40.0]))
    0.625
    """
    lab = np.asarray(lab, float)
    return np.hypot(lab[..., 1], lab[..., 2]) / (np.maximum(lab[..., 0], 0.0) + 16)


CREAM = 0.29  # saturation of cream at the most: a yellow diluted by half with white has .32


def neutral_name(lab) -> str | None:
    """Name of a neutral colour (white, cream, grey, black, brown), or None for a hue.

    Thresholds were set by flower colours named by hand, as they show in 104 simulated pictures.

    >>> neutral_name([95.0, 0.0, 2.0])
    'white'
    """
    light, a, b = (float(v) for v in lab)
    deep, hue = float(saturation(lab)), float(np.degrees(np.arctan2(b, a)) % 360)
    if light < 14 and np.hypot(a, b) < 10:
        return "black"
    if deep < 0.13:
        return "white" if light >= 48 else "grey"
    if 73 <= hue <= 112 and deep < CREAM and light >= 42:
        return "cream"
    if 38 <= hue <= 85 and light < 42 and deep < 0.5:
        return "brown"
    return None


def hue_name(lab) -> str:
    """Trade name of a CIELAB colour: a neutral, or the nearest of the twelve steps.

    >>> hue_name([62.0, 45.0, 65.0])
    'orange'
    """
    neutral = neutral_name(lab)
    if neutral:
        return neutral
    return STEPS[round(float(place_of(lab))) % 12]
