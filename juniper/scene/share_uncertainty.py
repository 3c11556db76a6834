"""How much of each flower colour hangs on near things: pixels that only just count as petal, and
those that only just do not.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from juniper.colour.palette import Swatch

LEAST = 0.01  # likeness under which a leaf is not asked what flower it would be


def uncertain_areas(
    odds: np.ndarray, number: np.ndarray, lab: np.ndarray, palette: tuple[Swatch, ...]
) -> np.ndarray:
    """Area that each flower colour of a palette may have too much or too little, as it is to be
    expected by the odds, in parts of all flowers (k,).

    `odds` (n,) are log odds of petal over leaf of the plant's pixels, `number` (n,) the flower
    colour they were given (from 1, 0 leaf), and `lab` (n, 3) their CIELAB. A leaf would be of the
    colour that it is likest to, light and shade apart. What goes against its odds was told by a
    person, or is a silver leaf by its colour, and is sure.
    """
    flowers = [s for s in palette if s.part == "flower"]
    whole = int((number > 0).sum())
    if not flowers or not whole:
        return np.zeros(len(flowers))
    wrong = np.where((odds > 0) == (number > 0), 1 / (1 + np.exp(np.abs(odds))), 0.0)
    leaf = np.flatnonzero((number == 0) & (wrong > LEAST))
    places, own = _in_even_light(lab[leaf]), _in_even_light(np.array([s.lab for s in flowers]))
    likest = ((places[:, None] - own[None]) ** 2).sum(axis=2).argmin(axis=1)
    lost = np.bincount(number, wrong * (number > 0), len(flowers) + 1)[1:]
    return (lost + np.bincount(likest, wrong[leaf], len(flowers))) / whole


def with_uncertain_shares(
    palette: tuple[Swatch, ...], odds: np.ndarray, number: np.ndarray, lab: np.ndarray
) -> tuple[Swatch, ...]:
    """The palette, its flower colours with what uncertain_areas() makes of them, by odds (n,),
    numbers (n,) and CIELAB (n, 3) of the plant's pixels.
    """
    areas = iter(uncertain_areas(odds, number, lab, palette))
    return tuple(replace(s, doubt=float(next(areas))) if s.part == "flower" else s for s in palette)


def _in_even_light(lab: np.ndarray) -> np.ndarray:
    """Hue and saturation of colours (n, 3) as a place (n, 2), the same in light and shade."""
    return lab[:, 1:] / (lab[:, :1] + 16)
