"""The roll: photographs traced once, with their exact truth, that ship with the product."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import numpy as np
from PIL import Image

FOLDER = Path(__file__).resolve().parents[2] / "roll"
VIEWS = ("front", "side", "back", "top", "seated")
EMPTY = "empty"  # a container of the shelf by itself; its number is its place there
STAGES = ("foliage", "lines", "before")  # of the making, from the front
TRIALS = ("above", "below", "crowded")  # fronts taken badly on purpose
# degrees by which the piece is turned before the camera for each view
TURNS = dict.fromkeys((*VIEWS, *STAGES, *TRIALS, EMPTY), 0.0) | {"side": 90.0, "back": 180.0}


@dataclass(frozen=True, eq=False)
class Frame:
    """One photograph of the roll: piece number and view; or one that was traced into another
    place.
    """

    piece: int
    view: str
    place: Path | None = None

    @property
    def _stem(self) -> Path:
        return self.place or FOLDER / f"{self.piece:02d}-{self.view}"

    @property
    def jpeg(self) -> bytes:
        """The photograph as it was taken, on the roll 900 x 1200."""
        return self._stem.with_suffix(".jpg").read_bytes()

    @cached_property
    def truth(self) -> dict:
        """What is truly there; see truth_of."""
        return json.loads(self._stem.with_suffix(".json").read_text())

    @cached_property
    def labels(self) -> np.ndarray:
        """Label raster (h, w) uint8: 0 backdrop, 1 table, 2 container, 3 plant, 4 things behind or
        beside.
        """
        return np.asarray(Image.open(self._stem.with_suffix(".mask.png")))


def frame_at(path: Path) -> Frame:
    """The photograph NAME.jpg of any folder, with NAME.json and NAME.mask.png beside it; its number
    is what its name has of figures.
    """
    number, _, view = path.stem.partition("-")
    return Frame(
        int("".join(c for c in number if c.isdigit()) or 0), view or "front", path.with_suffix("")
    )


def composition(name: str) -> Frame:
    """A composition of the roll by its name (see juniper.camera.compositions). Raises LookupError
    for another name.
    """
    one = Frame(0, "front", FOLDER / "compositions" / name)
    if not one._stem.with_suffix(".jpg").exists():
        raise LookupError(f"no composition is called {name}")
    return one


def compositions() -> list[str]:
    """The names of all compositions of the roll, in order."""
    return sorted(p.stem for p in (FOLDER / "compositions").glob("*.jpg"))


def frames(view: str | None = None) -> list[Frame]:
    """All photographs of pieces on the roll in order, or those of one view."""
    found = sorted(p.stem.split("-") for p in FOLDER.glob("*.jpg"))
    return [Frame(int(n), v) for n, v in found if view == v or (view is None and v != EMPTY)]


def frame(piece: int, view: str = "front") -> Frame:
    """The photograph of a piece, counted round the roll's front views; or of a container of the
    shelf, "empty".

    Raises LookupError when the roll holds no such view of it.
    """
    count = len(frames(EMPTY if view == EMPTY else "front"))
    one = Frame(piece % count, view)
    if not one._stem.with_suffix(".jpg").exists():
        raise LookupError(f"piece {one.piece} was not photographed from the {view}")
    return one
