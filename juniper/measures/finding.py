"""What a measure yields: a value with its unit, uncertainty, arithmetic and drawable evidence."""

from __future__ import annotations

import math
from dataclasses import dataclass

from juniper.measures.catalogue import DEFINITIONS

Point = tuple[float, float]


@dataclass(frozen=True)
class Mark:
    """One thing to draw on the photograph, in its pixels.

    `kind` is line, dashed, bracket, point, ring, cross, outline or label; `points` its vertices
    (a ring has its centre, and `size` its radius). `says` is the sentence a screen reader speaks.
    """

    kind: str
    points: tuple[Point, ...]
    label: str = ""
    says: str = ""
    size: float = 0.0


@dataclass(frozen=True)
class Finding:
    """A named measure of one photograph.

    `value` is None when `measured` is False, and `reason` says why in words. `uncertainty` is one
    standard deviation in the unit of the value. `arithmetic` shows how the figure was made, `view`
    from which photograph: `evidence` lies in the pixels of that one. `confirmed` is what the
    uncertainty would be were the handles confirmed where they stand, and `unsure_of` the handle
    that it rests on most. `calm` is what it would be were the picture seen as steadily as most;
    None where it is. `applies` is False for a measure that this piece gives no occasion for, as the
    balance of two poles in a piece of one colour.
    """

    name: str
    family: str
    value: float | None
    unit: str
    uncertainty: float = 0.0
    measured: bool = True
    reason: str | None = None
    arithmetic: str = ""
    evidence: tuple[Mark, ...] = ()
    view: str = "front"
    confirmed: float | None = None
    calm: float | None = None
    unsure_of: str = ""
    applies: bool = True

    @staticmethod
    def missing(name: str, family: str, unit: str, reason: str, applies: bool = True) -> Finding:
        """A measure that could not be made, or that the piece gives no occasion for, and why."""
        return Finding(name, family, None, unit, measured=False, reason=reason, applies=applies)


def missing_of(name: str, reason: str, applies: bool = True, view: str = "front") -> Finding:
    """A measure of the catalogue that could not be made, with the family and unit of its
    definition. Raises KeyError for another name.
    """
    d = DEFINITIONS[name]
    return Finding(
        name, d.family, None, d.unit, measured=False, reason=reason, view=view, applies=applies
    )


def finding_of(
    name: str,
    value: float,
    uncertainty: float,
    words: str,
    marks: tuple[Mark, ...] = (),
    reason: str = "",
    applies: bool = True,
    view: str = "front",
) -> Finding:
    """A measure of the catalogue with the family and unit of its definition; missing, for `reason`,
    where the value is no number, and then `applies` tells whether the piece gave occasion for it.
    Raises KeyError for another name.
    """
    if not math.isfinite(value):
        return missing_of(name, reason, applies, view)
    d = DEFINITIONS[name]
    return Finding(
        name,
        d.family,
        float(value),
        d.unit,
        uncertainty,
        arithmetic=words,
        evidence=marks,
        view=view,
    )
