"""What can be laid faintly over the photograph: the piece as it was found, the form that the brief asks for, the brief's exemplar."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from heath.bench.reading import DATUM_HANDLES, Reading, outline_of, read
from juniper.measures.form import outlines
from juniper.scene import Datum

WIDE = 0.45  # of its height: half the breadth of a form whose rule set names no spread
LINE = 0.75  # of the plant's breadth: how far a band line reaches to each side


@dataclass(frozen=True)
class LaidOver:
    """SVG paths in the photograph's pixels, level lines with their words (x, y, words), and what it all is, in a sentence."""

    says: str
    paths: tuple[str, ...] = ()
    lines: tuple[tuple[str, float, float, str], ...] = ()
    spots: tuple[tuple[float, float], ...] = ()


def as_found(piece, reading: Reading) -> LaidOver:
    """The outline and the handles as they were found, before any correction."""
    photograph, datum = reading.photograph, reading.photograph.core_scene().datum
    spots = tuple(getattr(datum, name) for name in DATUM_HANDLES)
    return LaidOver("As it was found, before any correction.", (outline_of(photograph, ()),), spots=spots)


def wanted_form(piece, reading: Reading) -> LaidOver:
    """The brief's form over the rim, as tall as the middle of the taught band, and the band's two lines."""
    rules = [rule.under(piece.brief.as_core(piece.dominant)) for rule in piece.brief.rule_set.rules]
    band = next((r.band for r in rules if r.measure in ("governing_ratio", "height_ratio")), None)
    datum = reading.datum
    if band is None or not np.isfinite([band.low, band.high]).all():
        return LaidOver("The rules of this brief name no height.")
    governing = datum.height * max(1.0, float(piece.brief.container_width_cm / piece.brief.container_height_cm))
    low, high = band.low * governing, band.high * governing
    tall = (low + high) / 2
    spread = next((r.band for r in rules if r.measure == "spread"), None)
    half = tall * ((spread.low + spread.high) / 4 if spread and np.isfinite([spread.low, spread.high]).all() else WIDE)
    try:
        parts = outlines(piece.brief.form)
    except KeyError:
        parts = ()
    paths = tuple(_path(_at(datum, part[:, 0] * half, part[:, 1] * tall)) for part in parts)
    lines = []
    for along, word in ((low, f"{band.low:g}"), (high, f"{band.high:g}")):
        ends = _at(datum, np.array([-LINE, LINE]) * max(half, datum.rim_width), np.array([along, along]))
        lines.append((_path(ends, closed=False), *map(float, ends[1]), word))
    return LaidOver(f"The form asked for, {piece.brief.form}, and the taught band of its height.", paths, tuple(lines))


def exemplar_over(piece, reading: Reading) -> LaidOver:
    """The outline of the brief's exemplar, its container laid on this one's."""
    exemplar = piece.brief.exemplar
    if exemplar is None or exemplar.photograph is None or not exemplar.photograph.scene:
        return LaidOver("This brief has no exemplar yet: open the piece that is to be it, and press “Make it the exemplar”.")
    other = read(exemplar)
    outline = other.outer
    along, side = (outline - other.datum.rim) @ other.datum.up, (outline - other.datum.rim) @ other.datum.right
    scale = reading.datum.height / other.datum.height
    own = (
        "This piece is the exemplar."
        if exemplar.pk == piece.pk
        else f"The exemplar, {exemplar.shown_name}, scaled to this container."
    )
    return LaidOver(own, (_path(_at(reading.datum, side * scale, along * scale)),))


def _at(datum: Datum, side: np.ndarray, along: np.ndarray) -> np.ndarray:
    """Places (n, 2) in the photograph, `side` and `along` (n,) pixels from the rim point."""
    return np.asarray(datum.rim) + side[:, None] * datum.right + along[:, None] * datum.up


def _path(points: np.ndarray, closed: bool = True) -> str:
    return "M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in points) + ("Z" if closed else "")
