"""What a browser sends when the picture is changed, checked before anything is done."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from heath.assessment.models import Correction, Photograph
from juniper.scene import (
    ACTS,
    ROLES,
    TINTS,
    BloomChange,
    ColourChange,
    ContainerDrag,
    PetalStroke,
    StemChange,
    Stroke,
)
from juniper.scene.amending import TOGETHER
from juniper.scene.colour_changes import COLOUR_CHANGE
from juniper.scene.stems import LINES


@dataclass(frozen=True)
class VesselRemoval:
    """A vessel of a composition, by its key, that is none of it."""

    without: int


Change = (
    Stroke | PetalStroke | BloomChange | StemChange | ColourChange | ContainerDrag | VesselRemoval
)
CHANGE = TypeAdapter(Change)
KINDS = {
    Stroke: Correction.Kind.BRUSH,
    PetalStroke: Correction.Kind.BRUSH,
    BloomChange: Correction.Kind.BLOOM,
    StemChange: Correction.Kind.STEM,
    ColourChange: Correction.Kind.COLOUR,
    ContainerDrag: Correction.Kind.CONTAINER,
    VesselRemoval: Correction.Kind.VESSEL,
}
MOST_POINTS = 400  # of one stroke of the brush
WIDEST = 0.2  # of the picture's height: radius of a brush or a bloom
NOT_UNDERSTOOD = "This move could not be understood. Load the page again."

HANDLE = r"^(?:focal|(?:rim|base|rim_left|rim_right)(?:@\d{1,4})?|top@\d{1,4})$"
Gesture = Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{6,40}$")]
GESTURE = TypeAdapter(Gesture)
Pixel = Annotated[float, Field(allow_inf_nan=False)]


class HandleMove(BaseModel):
    """A handle that was dragged or nudged to a place (photograph pixels), with its vessel's key
    behind its name where it is one of several; it `rests` when it was let go, and `lens` is what is
    drawn meanwhile.
    """

    handle: Annotated[str, Field(pattern=HANDLE)]
    gesture: Gesture
    x: Pixel
    y: Pixel
    rests: bool = False
    lens: str = ""

    @property
    def name(self) -> str:
        """Which handle it is: one of the five, or the top of a vessel's plant."""
        return self.handle.partition("@")[0]

    @property
    def vessel(self) -> int | None:
        """The key of the vessel of a composition that it belongs to; None for a single one."""
        key = self.handle.partition("@")[2]
        return int(key) if key else None

    def within(self, photograph: Photograph) -> tuple[float, float]:
        """The place, held inside the picture."""
        return (
            min(max(self.x, 0.0), float(photograph.width)),
            min(max(self.y, 0.0), float(photograph.height)),
        )


class Made(BaseModel):
    """A change that was made to the picture, under the name of the gesture that made it."""

    gesture: Gesture
    change: Change


def made_from(sent, photograph: Photograph) -> Made:
    """The change that a form holds. Raises ValueError (pydantic's ValidationError is one) where it
    makes no sense for this photograph.
    """
    change = CHANGE.validate_json(sent.get("change", ""))
    gesture = GESTURE.validate_python(sent.get("gesture", ""))
    if not _within(change, photograph) or not CHECKS.get(type(change), _sound)(change):
        raise ValueError(NOT_UNDERSTOOD)
    return Made.model_construct(gesture=gesture, change=change)


def _points(change: Change) -> list[tuple[float, float]]:
    if isinstance(change, Stroke | PetalStroke):
        return list(change.points)
    points = [p for n, p in vars(change).items() if isinstance(p, tuple) and n != "others"]
    return [*points, *getattr(change, "others", ())]


def _within(change: Change, photograph: Photograph) -> bool:
    """Whether all points of a change lie in the picture, and its radius is one of a brush."""
    points, radius = _points(change), getattr(change, "radius", None) or 0.0
    if not points:
        return isinstance(change, ColourChange | VesselRemoval)
    return (
        len(points) <= MOST_POINTS
        and all(0 <= x <= photograph.width and 0 <= y <= photograph.height for x, y in points)
        and math.isfinite(radius)
        and 0 <= radius <= WIDEST * photograph.height
    )


def _sound(change: Change) -> bool:
    return True


def _sound_bloom(change: BloomChange) -> bool:
    asks_role = change.act == "role" or bool(change.role)
    together = not change.others or change.act in TOGETHER
    return change.act in ACTS and together and (not asks_role or change.role in ROLES)


def _sound_colour(change: ColourChange) -> bool:
    placed = change.tint == "neutral"
    return (
        change.tint in TINTS
        and (change.at is not None) == placed
        and len(change.name or "") <= COLOUR_CHANGE.longest
    )


def _sound_stem(change: StemChange) -> bool:
    return change.line in LINES


CHECKS: dict[type, Callable[..., bool]] = {
    BloomChange: _sound_bloom,
    ColourChange: _sound_colour,
    StemChange: _sound_stem,
}

__all__ = [
    "KINDS",
    "NOT_UNDERSTOOD",
    "Change",
    "HandleMove",
    "Made",
    "ValidationError",
    "VesselRemoval",
    "made_from",
]
