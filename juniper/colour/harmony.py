"""Two-colour harmony of a published experiment, and the harmony of a palette."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from juniper.colour.palette import Swatch
from juniper.colour.spaces import chroma_hue


@dataclass(frozen=True)
class Harmony:
    """Harmony of a pair, from about -1.3 to 1.3, and its parts: of chroma, of lightness, of hue."""

    chroma: float
    lightness: float
    hue: float

    @property
    def value(self) -> float:
        """Their sum."""
        return self.chroma + self.lightness + self.hue


def pair_harmony(first, second) -> Harmony:
    """Colour harmony CH of two CIELAB colours (3,) (Ou & Luo 2006, "A colour harmony model for
    two-colour combinations", Color Research & Application 31(3), 191-204).
    """
    first, second = np.asarray(first, float), np.asarray(second, float)
    (c1, h1), (c2, h2) = (map(float, chroma_hue(lab)) for lab in (first, second))
    d_chroma = c1 - c2
    d_hue2 = max(0.0, float(((first[1:] - second[1:]) ** 2).sum() - d_chroma**2))
    of_chroma = 0.04 + 0.53 * np.tanh(0.8 - 0.045 * np.sqrt(d_hue2 + (d_chroma / 1.46) ** 2))
    of_light = 0.28 + 0.54 * np.tanh(-3.88 + 0.029 * (first[0] + second[0]))
    of_light += 0.14 + 0.15 * np.tanh(-2 + 0.2 * abs(first[0] - second[0]))
    return Harmony(
        float(of_chroma), float(of_light), _of_hue(first[0], c1, h1) + _of_hue(second[0], c2, h2)
    )


def _of_hue(light: float, chroma: float, hue: float) -> float:
    """What one colour's hue adds: the more chroma, the more its hue matters; bright yellows
    please.
    """
    much = 0.5 + 0.5 * np.tanh(-2 + 0.5 * chroma)
    by_hue = -0.08 - 0.14 * np.sin(np.radians(hue + 50)) - 0.07 * np.sin(np.radians(2 * hue + 90))
    turn = (90 - hue) / 10
    yellow = (0.22 * light - 12.8) / 10 * np.exp(turn - np.exp(turn))
    return float(much * (by_hue + yellow))


def palette_harmony(
    swatches: tuple[Swatch, ...],
) -> tuple[float, list[tuple[Swatch, Swatch, Harmony]]]:
    """(harmony of a palette's flowers, its pairs the least harmonious first): the mean over the
    pairs, each weighed by the product of the two shares; nan with fewer than two colours.
    """
    flowers = [s for s in swatches if s.part == "flower" and s.share >= 0.04]
    pairs = [(a, b, pair_harmony(a.own, b.own)) for a, b in combinations(flowers, 2)]
    if not pairs:
        return float("nan"), []
    weight = np.array([a.share * b.share for a, b, _ in pairs])
    mean = float(weight @ [h.value for _, _, h in pairs] / weight.sum())
    return mean, sorted(pairs, key=lambda p: p[2].value)
