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
    ("violet", 314.0, "dioxazine violet"),
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


def neutral_name(lab) -> str | None:
    """Name of a neutral colour (white, cream, grey, black, brown), or None for a hue.

    Thresholds are common practice: petals in soft shade keep a lightness of 45 and more.
    """
    light, a, b = (float(v) for v in lab)
    chroma, hue = float(np.hypot(a, b)), float(np.degrees(np.arctan2(b, a)) % 360)
    if light < 14 and chroma < 10:
        return "black"
    if chroma < 9:
        return "white" if light >= 48 else "grey"
    if 65 <= hue <= 110 and light >= 55 and chroma < 26:
        return "cream" if chroma > 12 else "white"
    if 25 <= hue <= 85 and light < 42 and chroma < 24:
        return "brown"
    return None


def hue_name(lab) -> str:
    """Trade name of a CIELAB colour: a neutral, or the nearest of the twelve steps."""
    neutral = neutral_name(lab)
    if neutral:
        return neutral
    hue = float(np.degrees(np.arctan2(float(lab[2]), float(lab[1]))) % 360)
    return STEPS[round(float(position(hue))) % 12]
