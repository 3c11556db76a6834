"""Changes tried on a piece's picture: measured and scored as the piece is, and never kept with
it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from threading import RLock
from typing import Annotated, Literal

import cv2
import numpy as np
from cachetools import LRUCache, cached
from pydantic import BaseModel, Field, TypeAdapter

from heath.assessment.corrected import Corrections, corrected, laid_over, pixels_of
from heath.assessment.models import Photograph
from heath.assessment.reading import Reading, anew, brief_in_force, view_in_force
from heath.drawing.lines import figure
from heath.shelf.models import Container
from juniper import lengths as written
from juniper.assessment import PieceView
from juniper.colour.names import flower_name
from juniper.colour.spaces import from_hex, lab_from_srgb
from juniper.measures import View
from juniper.rules import Brief as CoreBrief
from juniper.rules import Line
from juniper.scene import ContainerShape, NoBloom, NoStem
from juniper.scene.amending import bloom_at
from juniper.scene.trying import (
    Cut,
    Move,
    Recolour,
    Swap,
    TakeOut,
    Trial,
    apply_change,
    cut_to,
    stem_meant,
)

STEPS = 12  # trials kept by a process, each of some MB
MOST = 20  # changes tried at once
SAME = 0.05  # of ten: a mark that changes by less is the same on screen
STRAIGHT = (0.5, 0.5)

Place = tuple[
    Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)],
    Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)],
]


class CutWish(BaseModel):
    """A stem cut shorter by centimetres, or so that its tip comes down to a place."""

    act: Literal["cut"]
    at: Place
    to: Place | None = None
    cm: Annotated[float, Field(gt=0, le=300)] | None = None


class MoveWish(BaseModel):
    """A bloom moved, or one more like it set."""

    act: Literal["move", "another"]
    at: Place
    to: Place


class OutWish(BaseModel):
    """A bloom taken out."""

    act: Literal["out"]
    at: Place


class SwapWish(BaseModel):
    """The piece set in another container of the shelf."""

    act: Literal["swap"]
    which: int


class ColourWish(BaseModel):
    """A colour of the palette swapped for another."""

    act: Literal["colour"]
    which: Annotated[int, Field(ge=1, le=40)]
    hex: Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]


Wish = CutWish | MoveWish | OutWish | SwapWish | ColourWish
WISHES = TypeAdapter(
    Annotated[list[Annotated[Wish, Field(discriminator="act")]], Field(max_length=MOST)]
)


@dataclass(frozen=True)
class Said:
    """One change in words; `fault` says why it could not be made."""

    words: str
    fault: str = ""


@dataclass(frozen=True)
class Change:
    """How one line of the verdict changes."""

    before: Line
    after: Line

    @property
    def better(self) -> bool:
        """Whether its mark rises."""
        return (self.after.score or 0) > (self.before.score or 0) + SAME

    @property
    def worse(self) -> bool:
        """Whether its mark falls."""
        return (self.after.score or 0) < (self.before.score or 0) - SAME


@dataclass(frozen=True, eq=False)
class Tried:
    """A piece's reading as it is and as it would be."""

    before: Reading
    after: Reading
    said: tuple[Said, ...]
    trial: Trial

    @property
    def changes(self) -> list[Change]:
        """Lines whose mark changes, those that weigh most first."""
        marks = [c for c in self._pairs if c.better or c.worse]
        return sorted(
            marks,
            key=lambda c: -abs((c.after.score or 0) - (c.before.score or 0)) * c.after.rule.weight,
        )

    @property
    def figures(self) -> list[Change]:
        """Lines whose figure changes and whose mark does not."""
        return [
            c
            for c in self._pairs
            if not c.better and not c.worse and figure(c.before.finding) != figure(c.after.finding)
        ]

    @cached_property
    def _pairs(self) -> list[Change]:
        was = {x.rule.code: x for x in self.before.verdict.lines}
        return [Change(was[x.rule.code], x) for x in self.after.verdict.lines if x.rule.code in was]

    @property
    def same(self) -> int:
        """How many lines stay as they are."""
        return len(self._pairs) - len(self.changes) - len(self.figures)

    @property
    def gain(self) -> float | None:
        """Change of the total."""
        if self.after.verdict.score is None or self.before.verdict.score is None:
            return None
        return round(self.after.verdict.score) - round(self.before.verdict.score)


def try_on(piece, reading: Reading, wishes: list[Wish]) -> Tried:
    """The piece with changes tried one after the other; one that cannot be made is passed over and
    says why.
    """
    view = reading.assessment.views[0]
    trial, said, brief = _made(piece, view, reading.laid_over, reading.brief, wishes)
    after = anew(
        piece, reading, trial.scene, trial.raster, trial.datum, trial.focal, trial.stems, brief
    )
    return Tried(reading, after, said, trial)


def picture_of(piece, wishes: list[Wish]) -> Trial:
    """The picture with changes tried on it; nothing is measured for that."""
    view, over = view_in_force(piece.photograph), laid_over(piece.photograph.corrections.all())
    return _made(piece, view, over, brief_in_force(piece, view), wishes)[0]


def _made(
    piece, view: PieceView, over: Corrections, brief: CoreBrief, wishes: list[Wish]
) -> tuple[Trial, tuple[Said, ...], CoreBrief]:
    """The picture after the changes that can be made, what became of each, and the brief that the
    piece is then held against.
    """
    start = _Start(piece.photograph, over, view)
    seen = View(view.surface, view.datum, None, pose=view.scene.pose)
    cm = brief.container_height_cm or float(piece.brief.container_height_cm)
    scale = cm / seen.container_height
    done: tuple = ()
    said: list[Said] = []
    for wish in wishes:
        trial = _trial(start, done)
        try:
            change, words, brief = _meant(wish, trial, scale, brief, piece)
            _trial(start, (*done, change))
        except (NoBloom, NoStem, ValueError) as error:
            said.append(Said("Not done", str(error)))
            continue
        done, said = (*done, change), [*said, Said(words)]
    return _trial(start, done), tuple(said), brief


@dataclass(frozen=True, eq=False)
class _Start:
    """The picture that changes are tried on."""

    photograph: Photograph
    laid_over: Corrections
    view: PieceView

    def key(self, done: tuple) -> tuple:
        """What a trial of some changes is known by."""
        over, view = tuple(c.pk for c in self.laid_over), self.view
        picture = (self.photograph.pk, self.photograph.raster.name, over)
        return (*picture, view.scene, view.datum, view.focal, view.stems, done)


@cached(LRUCache(STEPS), key=_Start.key, lock=RLock())
def _trial(start: _Start, done: tuple) -> Trial:
    """The picture after some changes; each step is kept for the next."""
    if done:
        return apply_change(_trial(start, done[:-1]), done[-1])
    view = start.view
    raster = corrected(start.photograph, start.laid_over)[1]
    pixels = pixels_of(start.photograph)
    return Trial.of(view.scene, raster, pixels, view.datum, view.focal, view.stems)


def _meant(wish: Wish, trial: Trial, scale: float, brief, piece):
    """What the core is asked to do, in words, and the brief it is then held against; `scale` in cm
    per pixel.
    """
    if isinstance(wish, CutWish):
        stem = stem_meant(trial.stems, wish.at, trial.datum, trial.scene.height)
        length = wish.cm / scale if wish.cm else cut_to(stem, wish.to or wish.at)
        return Cut(wish.at, length), f"Stem cut by {written.length(length * scale)}", brief
    if isinstance(wish, SwapWish):
        one = Container.objects.filter(
            school_id=piece.brief.course.school_id, pk=wish.which
        ).first()
        if one is None or not one.measured:
            raise ValueError(
                "This container is no longer on the shelf, or its sizes are not known."
            )
        high, wide = float(one.height_cm), float(one.width_cm)
        half = one.container_shape.half if one.container_shape else STRAIGHT
        # As wide as it was measured, whatever the picture of it shows.
        shape = ContainerShape(tuple(h * wide / (2 * max(half) * high) for h in half))
        brief = replace(brief, container_height_cm=high, container_width_cm=wide)
        words = f"Set in {one.name}, {written.length(high, None)} high"
        return Swap(shape, high / scale), words, brief
    if isinstance(wish, ColourWish):
        flowers = [s for s in trial.scene.palette if s.part == "flower"]
        if wish.which > len(flowers):
            raise ValueError("This colour is no longer in the palette.")
        new = flower_name(lab_from_srgb(from_hex(wish.hex)))
        return (
            Recolour(wish.which, wish.hex.lower()),
            f"{flowers[wish.which - 1].name.capitalize()} made {new}",
            brief,
        )
    bloom = trial.scene.blooms[bloom_at(trial.scene.blooms, wish.at)]
    if isinstance(wish, OutWish):
        return TakeOut(bloom.centre), f"{bloom.hue.capitalize()} bloom taken out", brief
    apart = math.dist(bloom.centre, wish.to) * scale
    words = (
        f"Another {bloom.hue} bloom set"
        if wish.act == "another"
        else f"{bloom.hue.capitalize()} bloom moved {written.length(apart)}"
    )
    return Move(bloom.centre, wish.to, wish.act == "another"), words, brief


def overlay(trial: Trial) -> bytes:
    """What differs from the photograph as a PNG, clear elsewhere."""
    alpha = cv2.GaussianBlur(np.where(trial.touched, 255, 0).astype(np.uint8), (3, 3), 0)
    return cv2.imencode(
        ".png", np.dstack([trial.pixels[..., ::-1], alpha]), [cv2.IMWRITE_PNG_COMPRESSION, 4]
    )[1].tobytes()
