"""Pieces put together by chance, to teach from: any container, form, flowers, colours and room (all invented).

They share nothing with the roll but the tools that make them, so the roll stays a test of what was learnt.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from juniper.photobooth import room
from juniper.photobooth.arranging import COLOURS, FORMS, Piece
from juniper.photobooth.containers import SHELF
from juniper.photobooth.flowers import HEADS, SPIKES
from juniper.photobooth.greenery import FILLERS, FOLIAGE
from juniper.photobooth.pieces import PIECES

PALE_OR_GREEN = ("white", "cream", "green", "lime")  # the flowers that are hardest to tell from leaf and wall
FLAWS = ("off-balance", "twin tips", "no focal", "focal too high", "bare rim", "gap")


@dataclass(frozen=True, eq=False)
class Lesson:
    """A traced picture (uint8 h x w x 3 sRGB), its label raster, and the number of the bloom at each pixel (0 none), both (h, w)."""

    picture: np.ndarray
    labels: np.ndarray
    blooms: np.ndarray

    def keep(self, path: Path) -> None:
        """Write it."""
        np.savez_compressed(path, picture=self.picture, labels=self.labels, blooms=self.blooms.astype(np.uint16))

    @staticmethod
    def kept(path: Path) -> Lesson:
        """Read what keep() wrote."""
        with np.load(path) as held:
            return Lesson(held["picture"], held["labels"], held["blooms"].astype(np.int32))


def invented(number: int) -> Piece:
    """A piece by its number; the same number, the same piece."""
    rng = np.random.default_rng(90000 + number)

    def one_of(some):
        some = list(some)
        return some[int(rng.integers(len(some)))]

    form, container = one_of(FORMS), one_of(SHELF)
    height = one_of([p for p in PIECES if p.container == container]).height * rng.uniform(0.85, 1.15)
    spread = one_of([p for p in PIECES if p.form == form]).spread * rng.uniform(0.85, 1.15)
    colours = [one_of(COLOURS) for _ in range(4)]
    if rng.random() < 0.35:
        colours = [colours[0]] * 4
    if rng.random() < 0.15:
        colours[int(rng.integers(4))] = one_of(PALE_OR_GREEN)
    glaze = np.clip(rng.uniform(40, 225) + rng.normal(0, 18, 3), 20, 240).astype(int)
    return Piece(
        container=container,
        glaze="#" + "".join(f"{v:02x}" for v in glaze),
        form=form,
        height=height * (0.8 if form == "horizontal low" else 1.0),
        spread=1.0 if container == "shallow tray" else spread,
        scheme="",
        focal=(one_of(HEADS), colours[0]),
        mass=tuple((one_of(HEADS), colours[1 + i % 3]) for i in range(int(rng.integers(1, 5)))),
        line=(one_of(SPIKES), one_of(colours)) if rng.random() < 0.5 else None,
        foliage=tuple(one_of(FOLIAGE) for _ in range(int(rng.integers(1, 4)))),
        filler=(one_of(FILLERS), one_of(colours)) if rng.random() < 0.35 else None,
        air=one_of([0, 0, 0.3, 0.5, 0.8]),
        mirror=bool(rng.random() < 0.5),
        faults=(one_of(FLAWS),) if rng.random() < 0.3 else (),
        table=one_of(room.TABLES),
        wall=one_of(room.WALLS),
        clutter=bool(rng.random() < 0.25),
        camera=(float(rng.normal(0, 4)), 0.0),
        light=one_of([-1.0, 1.0]),
    )


def lesson(number: int, scale: float = 0.55, samples: int = 6) -> Lesson:
    """Trace an invented piece from the front, the side or behind; needs what bin/roll installs."""
    from juniper.photobooth import tracing
    from juniper.photobooth.arranging import arrange

    piece, rng = invented(number), np.random.default_rng(70000 + number)
    done = arrange(piece, 300 + number)
    stage = tracing.staged_as(done, ("front", "front", "side", "back")[number % 4], rng, scale)
    picture = tracing.photograph(stage, samples)
    labels, items, petal = tracing.what_is_seen(stage)
    of_a_flower = np.array([bool(i.hue) for i in done.items] + [False])
    blooms = np.where(petal & (items >= 0) & (labels == tracing.PLANT) & of_a_flower[items], items + 1, 0)
    return Lesson(picture, labels, blooms)
