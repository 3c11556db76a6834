"""How heavy a colour weighs upon the eye, by published experiments on single colours.

Ou, Luo, Woodcock & Wright 2004, "A study of colour emotion and colour preference. Part I: Colour
emotions for single colours", Color Research & Application 29(3), 232-240. Their scales run from
about -2.5 to 2.5 and are turned here into positive weights of a unit area.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from juniper.colour.palette import Swatch
from juniper.colour.spaces import chroma_hue

LIGHTNESS, COLOUR = "lightness", "colour"
WEIGHINGS = (LIGHTNESS, COLOUR)  # what visual weight is read from; a rule set chooses
# weight to a unit of each scale, so that black on the scale of heaviness weighs 2.25 where white
# weighs 1
PER_UNIT = 0.25
LEAST = 0.25  # weight that no area goes under


def heavy_light(lightness) -> np.ndarray:
    """Heaviness by CIELAB lightness: -2.1 for white to 2.9 for black (Ou et al. 2004).

    >>> float(heavy_light(100.0).round(1)), float(heavy_light(0.0).round(1))
    (-2.1, 2.9)
    """
    return -2.1 + 0.05 * (100 - np.asarray(lightness, float))


def warm_cool(lab) -> np.ndarray:
    """Warmth of CIELAB colours (..., 3): warmest at a hue of 50 degrees, coolest opposite (Ou et
    al. 2004).
    """
    chroma, hue = chroma_hue(lab)
    return -0.5 + 0.02 * chroma**1.07 * np.cos(np.radians(hue - 50))


def active_passive(lab) -> np.ndarray:
    """Activity of CIELAB colours (..., 3): how far each stands from a medium grey (Ou et al.
    2004).
    """
    lab = np.asarray(lab, float)
    return -1.1 + 0.03 * np.sqrt(chroma_hue(lab)[0] ** 2 + ((lab[..., 0] - 50) / 1.5) ** 2)


def visual_weight(lightness) -> np.ndarray:
    """Positive weight of a unit area by its CIELAB lightness: 1 for white up to 2.25 for black.

    >>> [float(visual_weight(lightness).round(2)) for lightness in (100, 50, 0)]
    [1.0, 1.62, 2.25]
    """
    return 1 + PER_UNIT * (heavy_light(lightness) + 2.1)


def pull(lab) -> np.ndarray:
    """What warmth and activity add to the weight of a unit area of CIELAB colours (..., 3), 0 for a
    medium grey; a deep blue adds little, an orange of the same depth nearly a whole unit.
    """
    return PER_UNIT * ((warm_cool(lab) + 0.5) + (active_passive(lab) + 1.1))


@lru_cache(maxsize=64)  # a palette does not change while handles move
def pulls_of(palette: tuple[Swatch, ...]) -> tuple[float, ...]:
    """pull() of a piece's leaves, by their shares, and then of each of its flower colours in their
    order.
    """
    leaves = [s for s in palette if s.part == "foliage"]
    whole = sum(s.share for s in leaves)
    green = sum(s.share * float(pull(s.lab)) for s in leaves) / whole if whole else 0.0
    return (green, *(float(pull(s.lab)) for s in palette if s.part == "flower"))
