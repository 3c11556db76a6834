"""The artists' circle of twelve steps, on which yellow faces violet, orange blue and red green.

A measured hue angle is mapped to it, never read straight off: each step is anchored at the CIELAB
hue of a pigment colour commonly shown for it, and angles between anchors are interpolated. The
anchors are common practice; the pigment beside each is the colour whose hue was taken.
"""

from __future__ import annotations

import numpy as np

# Step name, CIELAB hue in degrees, pigment colour of about that hue.
ANCHORS = (
    ("yellow", 88.0, "cadmium yellow"),
    ("yellow-orange", 73.0, "deep cadmium yellow"),
    ("orange", 58.0, "cadmium orange"),
    ("red-orange", 43.0, "vermilion"),
    ("red", 25.0, "cadmium red deep"),
    ("red-violet", 350.0, "quinacridone magenta"),
    ("violet", 311.0, "dioxazine violet"),
    ("blue-violet", 298.0, "ultramarine violet"),
    ("blue", 277.0, "ultramarine to cobalt blue"),
    ("blue-green", 205.0, "turquoise"),
    ("green", 140.0, "permanent green"),
    ("yellow-green", 108.0, "chartreuse"),
)
STEPS = tuple(name for name, _, _ in ANCHORS)
NEUTRALS = ("white", "cream", "grey", "black", "brown")

# Unrolled so that the angle falls as the step rises: 88 .. -252, then once more round.
_ANGLES = np.array([a if a <= 88 else a - 360 for _, a, _ in ANCHORS] + [88.0 - 360])


def position(hue) -> np.ndarray:
    """Place on the circle, 0 (yellow) up to 12, of CIELAB hue angles in degrees."""
    turned = (np.asarray(hue, float) - 88.0) % 360 - 360 + 88.0
    turned = np.where(turned <= 88.0 - 360, turned + 360, turned)
    return np.interp(-turned, -_ANGLES, np.arange(13.0)) % 12


def gap(first: float, second: float) -> float:
    """Steps between two places on the circle, 0 to 6."""
    away = abs(first - second) % 12
    return min(away, 12 - away)


def saturation(lab) -> np.ndarray:
    """How deep a colour is apart from how brightly it is lit: C* / (L* + 16).

    Above the linear part of CIELAB (L* > 8) shading scales L* + 16, a* and b* alike, so that hue angle and saturation of a petal stay as
    they are from its lit side to its shaded one. White has under .13, cream .13 to .36, a pale pink .35, a red rose 1.2.
    """
    lab = np.asarray(lab, float)
    return np.hypot(lab[..., 1], lab[..., 2]) / (np.maximum(lab[..., 0], 0.0) + 16)


def neutral_name(lab) -> str | None:
    """Name of a neutral colour (white, cream, grey, black, brown), or None for a hue.

    Thresholds were set by flower colours named by hand, as they show in 104 simulated pictures.
    """
    light, a, b = (float(v) for v in lab)
    deep, hue = float(saturation(lab)), float(np.degrees(np.arctan2(b, a)) % 360)
    if light < 14 and np.hypot(a, b) < 10:
        return "black"
    if deep < 0.13:
        return "white" if light >= 48 else "grey"
    if 62 <= hue <= 112 and deep < 0.36 and light >= 42:
        return "cream"
    if 38 <= hue <= 85 and light < 42 and deep < 0.5:
        return "brown"
    return None


def hue_name(lab) -> str:
    """Trade name of a CIELAB colour: a neutral, or the nearest of the twelve steps."""
    neutral = neutral_name(lab)
    if neutral:
        return neutral
    hue = float(np.degrees(np.arctan2(float(lab[2]), float(lab[1]))) % 360)
    return STEPS[round(float(position(hue))) % 12]
