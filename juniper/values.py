"""Points and triples of plain floats, out of whatever numpy gives."""

from __future__ import annotations

from collections.abc import Iterable

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
