"""What can be laid faintly over the photograph: the piece as it was found, the form that the brief
asks for, the brief's exemplar.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from heath.assessment.corrected import DATUM_HANDLES, outline
from heath.assessment.reading import Reading, read
from heath.planner.planned import stem_plan
from juniper.assessment import BACK, FRONT, SEATED, SIDE, PieceView
from juniper.lengths import length
from juniper.measures import View
from juniper.measures.matching import front_over
from juniper.measures.stages import (
    StageChange,
    changes_between,
    doubt_of_order,
    laid_over,
    overlaid,
)
from juniper.rules.document import STAGE_WORDS, STAGES
from juniper.rules.written import per_cent, value_words
from juniper.scene import Datum
from juniper.values import point

FINISHED = STAGES[-1]
LINE = 0.75  # of the plant's breadth: how far a band line reaches to each side


@dataclass(frozen=True)
class LaidOver:
    """SVG paths in the photograph's pixels, level lines with their words (x, y, words), and what it
    all is, in a sentence.
    """

    says: str
    paths: tuple[str, ...] = ()
    lines: tuple[tuple[str, float, float, str], ...] = ()
    spots: tuple[tuple[float, float], ...] = ()


def as_found(piece, reading: Reading) -> LaidOver:
    """The outline and the handles as they were found, before any correction."""
    photograph, datum = reading.photograph, reading.photograph.core_scene().datum
    spots = tuple(getattr(datum, name) for name in DATUM_HANDLES)
    return LaidOver("As it was found, before any correction.", (outline(photograph),), spots=spots)


def wanted_form(piece, reading: Reading) -> LaidOver:
    """The brief's form over the rim, or its three main stems, as planned, and the two lines of the
    taught band.
    """
    brief, datum = piece.brief, reading.datum
    plan, container = stem_plan(brief, reading.brief)
    px = datum.height / container.height
    low, high, half = (v * px for v in (plan.low, plan.high, plan.half))
    paths = tuple(_path(_at(datum, *(part * px).T)) for part in plan.outline(brief.form))
    if "main" in plan.by_name:
        foot = np.zeros(1)
        paths = tuple(
            _path(
                _at(datum, np.append(foot, s.side * px), np.append(foot, s.height * px)),
                closed=False,
            )
            for s in plan.stems
        )
    lines = []
    for along, cm in ((low, plan.low), (high, plan.high)):
        ends = _at(
            datum, np.array([-LINE, LINE]) * max(half, datum.rim_width), np.array([along, along])
        )
        x, y = point(ends[1])
        lines.append((_path(ends, closed=False), x, y, length(cm, 0)))
    return LaidOver(
        f"The form asked for, {brief.form}, as planned, and the taught band of its height.",
        paths,
        tuple(lines),
    )


def exemplar_over(piece, reading: Reading) -> LaidOver:
    """The outline of the brief's exemplar, its container laid on this one's."""
    exemplar = piece.brief.exemplar
    if exemplar is None or exemplar.photograph is None or not exemplar.photograph.scene:
        return LaidOver(
            "This brief has no exemplar yet. Open the piece that you want as the exemplar, and"
            " press “Make it the exemplar”."
        )
    other = read(exemplar)
    edge = other.outer
    along, side = (
        (edge - other.datum.rim) @ other.datum.up,
        (edge - other.datum.rim) @ other.datum.right,
    )
    scale = reading.datum.height / other.datum.height
    own = (
        "This piece is the exemplar."
        if exemplar.pk == piece.pk
        else f"The exemplar, {exemplar.shown_name}, scaled to this container."
    )
    return LaidOver(own, (_path(_at(reading.datum, side * scale, along * scale)),))


def front_laid(piece, reading: Reading) -> LaidOver:
    """The front matched to a view from the side, behind or a seat by the container's height: its
    outline, or from the side its tip.
    """
    front = reading.assessment.views[0]
    name = reading.view
    seen = View(front.surface, front.datum, front.focal)
    if name in (BACK, SEATED):
        turned = ", turned left to right" if name == BACK else ""
        return LaidOver(
            f"The outline from in front{turned}, scaled to this container.",
            (_path(front_over(name, seen, reading.datum)),),
        )
    if name != SIDE:
        return LaidOver("The front is laid over views from the side, behind and a seat.")
    datum = reading.datum
    tip = seen.plant_height / front.datum.height
    half = np.array([-LINE, LINE]) * max(datum.rim_width, datum.height)
    ends = _at(datum, half, np.full(2, tip * datum.height))
    x, y = point(ends[1])
    return LaidOver(
        "The height of the tip from in front, scaled to this container. From the side it is the"
        " same tip.",
        lines=((_path(ends, closed=False), x, y, "tip in front"),),
    )


def stage_before(piece, reading: Reading) -> LaidOver:
    """The plant of the stage before the one that is shown, laid over it by the container, and what
    the addition changed.
    """
    making = reading.assessment.staged
    front = reading.assessment.views[0]
    order = [(name, making[name]) for name in STAGES if name in making] + [(FINISHED, front)]
    shown = reading.view if reading.view in making else FINISHED
    place = next(n for n, (name, _) in enumerate(order) if name == shown)
    if place == 0:
        return LaidOver("No photograph of an earlier stage was added.")
    (name, before), (_, after) = order[place - 1], order[place]
    lay = laid_over((before.raster, before.datum), (after.raster, after.datum))
    doubt = doubt_of_order(overlaid(before.raster, after.raster, lay))
    if doubt == "twice":
        return LaidOver(
            f"This picture and that of the stage “{STAGE_WORDS[name]}” show the same plant: was one"
            " photographed twice? Put the right picture in its place on the page of photographs."
        )
    if doubt == "order":
        return LaidOver(
            f"The stage “{STAGE_WORDS[name]}” shows more than this one: are the pictures in the"
            " wrong order? Change them on the page of photographs."
        )
    edge = before.surface.outline
    laid = np.column_stack([edge, np.ones(len(edge))]) @ lay.T
    added = _added(before, after, lay)
    found = {**reading.assessment.stages, FINISHED: reading.assessment.own[FRONT]}
    changes = [c for c in changes_between(found[name], found[shown]) if c.sure]
    said = "; ".join([added, *(_changed_words(c) for c in changes)])
    return LaidOver(f"Since {STAGE_WORDS[name]}: {said}.", (_path(laid),))


def _added(before: PieceView, after: PieceView, lay: np.ndarray) -> str:
    """How much plant was added, beside what stood before."""
    scale = float(np.hypot(lay[0, 0], lay[1, 0]))
    more = after.surface.area_px / max(1.0, before.surface.area_px * scale**2) - 1
    return f"{per_cent(abs(more))} {'more' if more >= 0 else 'less'} plant"


def _changed_words(change: StageChange) -> str:
    before, after = (value_words(v, change.unit) for v in (change.before, change.after))
    return f"{change.title.lower()} {before} to {after}"


def _at(datum: Datum, side: np.ndarray, along: np.ndarray) -> np.ndarray:
    """Places (n, 2) in the photograph, `side` and `along` (n,) pixels from the rim point."""
    return np.asarray(datum.rim) + side[:, None] * datum.right + along[:, None] * datum.up


def _path(points: np.ndarray, closed: bool = True) -> str:
    return "M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in points) + ("Z" if closed else "")
