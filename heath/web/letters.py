"""Which names the shipped type can print."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from pathlib import Path

from fontTools.ttLib import TTFont

FONTS = Path(__file__).with_name("static") / "web" / "vendor"


@cache
def _covered() -> frozenset[int]:
    """The code points of the regular type, all scripts together."""
    points: set[int] = set()
    for path in FONTS.glob("alegreya-sans-*-400-normal.woff2"):
        with TTFont(path, lazy=True) as font:
            points |= set(font.getBestCmap())
    return frozenset(points)


def printable(text: str) -> bool:
    """Whether every letter of a text is in the type that cards and sheets are printed with.

    >>> printable("Zoë Dvořák"), printable("Ελένη"), printable("李小龙")
    (True, True, False)
    """
    return all(ord(c) in _covered() or c.isspace() for c in text)


def unprinted(names: Iterable[str]) -> list[str]:
    """Those names, in their order, that the type cannot print.

    >>> unprinted(["Zoë Dvořák", "李小龙"])
    ['李小龙']
    """
    return [name for name in names if not printable(name)]
