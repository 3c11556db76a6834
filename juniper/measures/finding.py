"""What a measure yields: a value with its unit, uncertainty, arithmetic and drawable evidence,
or why there is none.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from juniper.measures.catalogue import DEFINITIONS
from juniper.values import Point


@dataclass(frozen=True)
class EvidenceMark:
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
class Measured:
    """A named measure of one photograph.

    `uncertainty` is one standard deviation in the unit of the value. `arithmetic` shows how the
    figure was made, `view` from which photograph: `evidence` lies in the pixels of that one.
    `confirmed` is what the uncertainty would be were the handles confirmed where they stand, and
    `unsure_of` the handle that it rests on most. `calm` is what it would be were the picture seen
    as steadily as most; None where it is.
    """

    name: str
    family: str
    value: float
    unit: str
    uncertainty: float = 0.0
    arithmetic: str = ""
    evidence: tuple[EvidenceMark, ...] = ()
    view: str = "front"
    confirmed: float | None = None
    calm: float | None = None
    unsure_of: str = ""

    measured: ClassVar[bool] = True
    applies: ClassVar[bool] = True
    reason: ClassVar[str] = ""


@dataclass(frozen=True)
class Missing:
    """A measure that could not be made, and why in words (`reason`).

    `applies` is False for one that this piece gives no occasion for, as the balance of two poles in
    a piece of one colour.
    """

    name: str
    family: str
    unit: str
    reason: str
    applies: bool = True
    view: str = "front"

    measured: ClassVar[bool] = False
    arithmetic: ClassVar[str] = ""
    evidence: ClassVar[tuple[EvidenceMark, ...]] = ()


Finding = Measured | Missing


def missing_of(name: str, reason: str, applies: bool = True, view: str = "front") -> Missing:
    """A measure of the catalogue that could not be made, with the family and unit of its
    definition. Raises KeyError for another name.
    """
    d = DEFINITIONS[name]
    return Missing(name, d.family, d.unit, reason, applies, view)


def finding_of(
    name: str,
    value: float,
    uncertainty: float,
    words: str,
    marks: tuple[EvidenceMark, ...] = (),
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
    return Measured(
        name,
        d.family,
        float(value),
        d.unit,
        uncertainty,
        arithmetic=words,
        evidence=marks,
        view=view,
    )
