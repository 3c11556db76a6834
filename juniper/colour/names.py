"""Plain names of flower colours, on top of the artists' circle."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from juniper.colour.circle import neutral_name, saturation
from juniper.colour.spaces import ok_hue
from juniper.values import point

SOURCE = Path(__file__).with_name("flower_names.toml")


@dataclass(frozen=True)
class Named:
    """A name and its range: hue in degrees of OKLab (`to` may pass 360), lightness L*, saturation
    C* / (L* + 16); and the neutrals of the artists' circle that it may be a name of.
    """

    name: str
    hue: tuple[float, float]
    light: tuple[float, float]
    deep: tuple[float, float]
    neutral: frozenset[str] = frozenset()

    def away(self, hue: float, light: float, deep: float) -> float:
        """How far a colour lies from the range's middle, 1 at its edge; hue counts for less the
        paler the colour is.
        """
        middle, half = sum(self.hue) / 2, (self.hue[1] - self.hue[0]) / 2
        turn = abs((hue - middle + 180) % 360 - 180) * min(1.0, deep / 0.12)
        out = [turn / half]
        for value, (low, high) in ((light, self.light), (deep, self.deep)):
            out.append(abs(value - (low + high) / 2) / ((high - low) / 2))
        return max(out)


@cache
def names() -> tuple[Named, ...]:
    """All names, as flower_names.toml has them."""
    table = tomllib.loads(SOURCE.read_text())["names"]
    return tuple(
        Named(
            name,
            point(one["hue"]),
            point(one["light"]),
            point(one["deep"]),
            frozenset(one.get("neutral", ())),
        )
        for name, one in table.items()
    )


def flower_name(lab) -> str:
    """What a florist would call a CIELAB colour (3,), taken as of the material by itself in even
    light. What is neutral on the artists' circle has a neutral's name, so that white petals in a
    blue shade are never blue.

    >>> flower_name([45.0, 62.0, 20.0])
    'red'
    """
    hue, light, deep = float(ok_hue(lab)), float(lab[0]), float(saturation(lab))
    neutral = neutral_name(lab)
    fitting = [n for n in names() if neutral is None or neutral in n.neutral]
    return min(fitting, key=lambda n: n.away(hue, light, deep)).name
