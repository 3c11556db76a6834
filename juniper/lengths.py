"""Lengths as they are written: worked out and kept in centimetres, shown in the reader's unit.

Whoever shows something says for whom, once (`shown_in`); every sentence and figure that is made
meanwhile is written in that unit.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

CM = 2.54  # to the international inch (ISO 80000-3)
CENTIMETRES, INCHES = "cm", "in"
_unit: ContextVar[str] = ContextVar("unit of lengths", default=CENTIMETRES)


@contextmanager
def shown_in(unit: str) -> Iterator[None]:
    """Write lengths in a unit (CENTIMETRES or INCHES) within this block, for this thread or task
    alone.
    """
    token = _unit.set(INCHES if unit == INCHES else CENTIMETRES)
    try:
        yield
    finally:
        _unit.reset(token)


def unit() -> str:
    """The unit in which lengths are written now: what a cache of sentences has to be kept by."""
    return _unit.get()


def number(cm: float, digits: int | None = 1) -> str:
    """A length's figure without its unit.

    Args:
        cm: the length, cm.
        digits: decimals in centimetres, None for as many as it has; inches have one always.

    >>> number(24.5), number(24.0, None)
    ('24.5', '24')
    >>> with shown_in(INCHES): number(24.5, 0)
    '9.6'
    """
    if unit() == INCHES:
        return f"{cm / CM:.1f}"
    return f"{cm:g}" if digits is None else f"{cm:.{digits}f}"


def length(cm: float, digits: int | None = 1) -> str:
    """A length with its unit; see number().

    >>> length(30.0, 0)
    '30 cm'
    >>> with shown_in(INCHES): length(30.48)
    '12.0 in'
    """
    return f"{number(cm, digits)} {unit()}"


def lengths(low: float, high: float, digits: int | None = 1) -> str:
    """Two lengths as a span, the unit once.

    >>> lengths(36, 48, 0)
    '36 to 48 cm'
    """
    return f"{number(low, digits)} to {length(high, digits)}"


def area(cm2: float) -> str:
    """An area with its unit, whole.

    >>> area(120.4)
    '120 cm²'
    >>> with shown_in(INCHES): area(64.516)
    '10 in²'
    """
    return f"{cm2 / CM**2:.0f} in²" if unit() == INCHES else f"{cm2:.0f} cm²"
