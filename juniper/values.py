"""Points and triples of plain floats, out of whatever numpy gives, and figures that add up."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

Point = tuple[float, float]
Triple = tuple[float, float, float]


def point(values: Iterable[float]) -> Point:
    """Two numbers as a point of plain floats. Raises ValueError for more or fewer.

    >>> point([1, 2])
    (1.0, 2.0)
    """
    x, y = values
    return float(x), float(y)


def triple(values: Iterable[float]) -> Triple:
    """Three numbers, such as a colour, as plain floats. Raises ValueError for more or fewer.

    >>> triple([0.5, 1, 2])
    (0.5, 1.0, 2.0)
    """
    a, b, c = values
    return float(a), float(b), float(c)


def adding_up(values: Sequence[float], step: float = 0.1) -> list[float]:
    """Values rounded so that they add up to their rounded sum (largest remainder; Hamilton).

    Args:
        values: not negative.
        step: what they are rounded to.

    Returns:
        As many values, each less than a step from its own.

    >>> adding_up([33.34, 33.33, 33.33], 1.0)
    [34.0, 33.0, 33.0]
    >>> adding_up([0.06, 0.06, 0.06])
    [0.1, 0.1, 0.0]
    """
    steps = [v / step for v in values]
    whole = [math.floor(s + 1e-9) for s in steps]
    short = round(sum(steps)) - sum(whole)
    order = sorted(range(len(steps)), key=lambda i: whole[i] - steps[i])
    for i in order[:short]:
        whole[i] += 1
    return [round(w * step, 10) for w in whole]
