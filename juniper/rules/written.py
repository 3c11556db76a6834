"""How values of measures and the bands that they are held against are written: shares as per cent,
lengths in the reader's unit, what is counted as a whole number.
"""

from __future__ import annotations

import math
import re

from juniper.lengths import length
from juniper.rules.band import Band

NO_BREAK = "\u00a0"  # a space at which no line ends
SHARES = ("share", "fit")  # units that are written as per cent
WHOLE = ("count", "L*", "degrees")
SIGNS = {"degrees": "°"}


def per_cent(value: float) -> str:
    """A share as it is written: whole, to a tenth under one per cent; a line never breaks before
    its sign.

    >>> [per_cent(x).replace(NO_BREAK, " ") for x in (0.543, 0.004, -0.04)]
    ['54 %', '0.4 %', '-4 %']
    """
    shown = 100 * value
    return f"{shown:.1f}{NO_BREAK}%" if 0.05 <= abs(shown) < 1 else f"{shown:.0f}{NO_BREAK}%"


def bare_value(value: float, unit: str) -> str:
    """A value of a measure without the sign of its unit, for a sentence that has it already; per
    cent and a length's unit are always there.

    Args:
        value: in the measure's own unit.
        unit: of the measure, as the catalogue names it.

    >>> bare_value(12.3, "degrees"), bare_value(12.3, "cm"), bare_value(1.748, "ratio")
    ('12', '12 cm', '1.75')
    """
    if unit in SHARES:
        return per_cent(value)
    if unit == "cm":
        return length(value, 0)
    return f"{value:.{0 if unit in WHOLE else 2}f}"


def value_words(value: float, unit: str) -> str:
    """A value of a measure as it stands by itself.

    >>> value_words(12.3, "degrees"), value_words(3.0, "count")
    ('12°', '3')
    """
    return bare_value(value, unit) + SIGNS.get(unit, "")


def edge_words(edge: float, unit: str) -> str:
    """An edge of a band, with as many figures as it was taught with; '' for a side without end.

    >>> edge_words(2.75, "ratio"), edge_words(2.5, "cm"), edge_words(math.inf, "ratio")
    ('2.75', '2.5 cm', '')
    """
    if not math.isfinite(edge):
        return ""
    if unit in SHARES:
        return per_cent(edge)
    return length(edge, None) if unit == "cm" else f"{edge:g}"


def band_words(band: Band, unit: str) -> str:
    """A band with its limits as it is written for a measure of a unit, leaving out a side without
    end.

    >>> band_words(Band(0.35, 0.45, 0.55, 0.65), "share").replace(NO_BREAK, " ")
    '45 % to 55 % (limits 35 % and 65 %)'
    >>> band_words(Band(1.0, 1.5, 2.0, 2.5), "ratio")
    '1.5 to 2 (limits 1 and 2.5)'
    """
    limit, low, high, high_limit = (edge_words(e, unit) for e in band.edges)
    if not low:
        return f"up to {high} (limit {high_limit})"
    if not high:
        return f"{low} and over (limit {limit})"
    return f"{low} to {high} (limits {limit} and {high_limit})"


def unit_once(text: str, unit: str) -> str:
    """Advice with blanks, without the unit that comes with the figures that fill them.

    >>> unit_once("It lies {value} cm low.", "cm")
    'It lies {value} low.'
    """
    return re.sub(r"(\{(?:value|low|high)\}) cm\b", r"\1", text) if unit == "cm" else text
