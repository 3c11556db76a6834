"""Pieces put together by chance, to teach from: any container, form, flowers, colours and room (all
invented).

They share nothing with the roll but the tools that make them, so the roll stays a test of what was
learnt.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from juniper.camera import room
from juniper.camera.arranging import COLOURS, FORMS, Piece
from juniper.camera.containers import SHELF, Container
from juniper.camera.flowers import HEADS, MORE_HEADS, MORE_SPIKES, SPIKES
from juniper.camera.greenery import FILLERS, FOLIAGE, MORE_FILLERS
from juniper.camera.pieces import PIECES

# the flowers that are hardest to tell from leaf and wall
PALE_OR_GREEN = ("white", "cream", "green", "lime")
SILVER = ("eucalyptus", "olive")
HARDER = 6000  # from this number on flowers are more often like leaf or wall, and of more kinds
# and from this one on each has airy filler, white more often than not, and often green flowers
AIRY = 7000
FLAWS = ("off-balance", "twin tips", "no focal", "focal too high", "bare rim", "gap")


@dataclass(frozen=True, eq=False)
class Lesson:
    """A traced picture (uint8 h x w x 3 sRGB), its label raster, and the number of the bloom at
    each pixel (0 none), both (h, w).
    """

    picture: np.ndarray
    labels: np.ndarray
    blooms: np.ndarray

    def keep(self, path: Path) -> None:
        """Write it."""
        np.savez_compressed(
            path, picture=self.picture, labels=self.labels, blooms=self.blooms.astype(np.uint16)
        )

    @staticmethod
    def kept(path: Path) -> Lesson:
        """Read what keep() wrote."""
        with np.load(path) as held:
            return Lesson(held["picture"], held["labels"], held["blooms"].astype(np.int32))


def _hex(rng: np.random.Generator) -> str:
    tone = np.clip(rng.uniform(25, 235) + rng.normal(0, 30, 3), 10, 245).astype(int)
    return "#" + "".join(f"{v:02x}" for v in tone)


def shaped(rng: np.random.Generator, like: Container) -> Container:
    """A container of any shape: one of the shelf, one near it, one turned freely, or a box; glass,
    painted or oval now and then.
    """
    kind = rng.random()
    if kind < 0.15:
        return like
    high, profile, depth = like.height_cm, np.array(like.profile), like.depth_cm
    if kind < 0.5:
        high *= rng.uniform(0.75, 1.3)
        profile = (
            profile * rng.uniform(0.8, 1.25) * np.exp(0.08 * rng.standard_normal(len(profile)))
        )
    elif kind < 0.85:
        high, depth = rng.uniform(7, 32), None
        walk = np.exp(np.cumsum(rng.normal(0, 0.22, int(rng.integers(4, 9)))))
        profile = rng.uniform(3.0, 8.0) * walk / np.median(walk) * (1.5 if high < 12 else 1.0)
    else:
        high, depth = rng.uniform(5, 22), rng.uniform(8, 18)
        profile = np.full(2, rng.uniform(5, 14))
    profile = np.clip(profile, 1.5, 15.0)
    material = (
        like.material
        if kind < 0.5
        else ("glaze", "matt", "metal", "glass")[int(rng.choice(4, p=[0.4, 0.3, 0.15, 0.15]))]
    )
    if depth is not None:
        material = "matt"
    bands: tuple[tuple[float, float, str], ...] = ()
    if material != "glass" and rng.random() < 0.25:
        edges = np.sort(rng.uniform(0, 1, 4))
        bands = tuple(
            (float(a), float(b), _hex(rng))
            for a, b in (edges[:2], edges[2:])[: int(rng.integers(1, 3))]
        )
    return Container(
        f"{like.name}, changed",
        float(high),
        tuple(float(v) for v in profile),
        material,
        None if depth is None else float(depth),
        like.handle and kind < 0.5,
        float(rng.uniform(0.55, 1.0)) if rng.random() < 0.2 else 1.0,
        bands,
    )


def random_piece(number: int) -> Piece:
    """A piece by its number; the same number, the same piece."""
    rng = np.random.default_rng(90000 + number)

    def one_of(some):
        some = list(some)
        return some[int(rng.integers(len(some)))]

    form, container = one_of(FORMS), one_of(SHELF)
    shape = shaped(rng, SHELF[container])
    height = rng.uniform(1.0, 2.2) * max(shape.height_cm, shape.widest_cm) / shape.height_cm
    spread = one_of([p for p in PIECES if p.form == form]).spread * rng.uniform(0.85, 1.15)
    colours = [one_of(COLOURS) for _ in range(4)]
    if rng.random() < 0.35:
        colours = [colours[0]] * 4
    if rng.random() < 0.15:
        colours[int(rng.integers(4))] = one_of(PALE_OR_GREEN)
    piece = Piece(
        container=container,
        glaze="#d5e2dd" if shape.material == "glass" else _hex(rng),
        form=form,
        height=height * (0.7 if form == "horizontal low" else 1.0),
        spread=spread,
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
        clutter=bool(rng.random() < 0.15),
        camera=(float(rng.normal(0, 4)), 0.0),
        light=float(one_of([-1.0, 1.0]) * rng.uniform(0.3, 1.1)),
        shape=shape,
        jumble=bool(rng.random() < 0.35),
    )
    if number >= HARDER:
        piece = _harder(piece, rng)
    return piece if number < AIRY else _airy(piece, rng)


def _airy(piece: Piece, rng: np.random.Generator) -> Piece:
    """The piece with a cloud of fine filler in it, and now and then green flowers among the
    others.
    """
    kind = str(rng.choice(["gypsophila", "waxflower", "statice", "plume"], p=[0.6, 0.2, 0.1, 0.1]))
    colour = str(rng.choice(["white", "cream", piece.focal[1]], p=[0.65, 0.1, 0.25]))
    mass = piece.mass
    if rng.random() < 0.4:
        mass = (
            *mass[1:],
            (str(rng.choice(list(HEADS | MORE_HEADS))), str(rng.choice(["green", "lime"]))),
        )
    return replace(piece, filler=(kind, colour), mass=mass)


def _harder(piece: Piece, rng: np.random.Generator) -> Piece:
    """The piece with what is hard to tell in it: green or white flowers, silver leaves beside them,
    airy filler, kinds that are not on the roll.
    """
    heads, spikes, fillers = (
        list(HEADS | MORE_HEADS),
        list(SPIKES | MORE_SPIKES),
        list(FILLERS | MORE_FILLERS),
    )
    pale = str(rng.choice(["", "green", "lime", "white", "cream"], p=[0.3, 0.25, 0.1, 0.2, 0.15]))

    def coloured(colour: str) -> str:
        return pale if pale and rng.random() < 0.4 else colour

    line = None
    if rng.random() < 0.6:
        line = (str(rng.choice(spikes)), coloured(piece.line[1] if piece.line else piece.focal[1]))
    filler = None
    if rng.random() < 0.55:
        filler = (
            str(rng.choice(fillers)),
            "white" if rng.random() < 0.45 else coloured(piece.focal[1]),
        )
    return replace(
        piece,
        focal=(
            str(rng.choice(heads)) if rng.random() < 0.5 else piece.focal[0],
            coloured(piece.focal[1]),
        ),
        mass=tuple(
            (str(rng.choice(heads)) if rng.random() < 0.5 else kind, coloured(colour))
            for kind, colour in piece.mass
        ),
        line=line,
        filler=filler,
        foliage=(
            (*piece.foliage[:2], str(rng.choice(SILVER))) if rng.random() < 0.4 else piece.foliage
        ),
    )


def staged_by_chance(piece: Piece, number: int, scale: float, view: str = "front"):
    """Set up a piece that is not on the roll before the camera, as
    juniper.camera.tracing.Stage; placed and lit by its number.
    """
    from juniper.camera import tracing
    from juniper.camera.arranging import arrange

    return tracing.staged_as(
        arrange(piece, 300 + number), view, np.random.default_rng(70000 + number), scale
    )


def lesson(number: int, scale: float = 0.9, samples: int = 4) -> Lesson:
    """Trace an invented piece from the front, the side or behind; needs what bin/roll installs."""
    from juniper.camera import tracing

    yaw = (
        None if number % 3 else 10 * float(np.random.default_rng(60000 + number).standard_normal())
    )
    piece = replace(random_piece(number), card_yaw=yaw)
    stage = staged_by_chance(piece, number, scale, ("front", "front", "side", "back")[number % 4])
    done = stage.done
    picture = tracing.photograph(stage, samples)
    labels, items, petal = tracing.what_is_seen(stage)
    of_a_flower = np.array([bool(i.hue) for i in done.items] + [False])
    blooms = np.where(
        petal & (items >= 0) & (labels == tracing.PLANT) & of_a_flower[items], items + 1, 0
    )
    return Lesson(picture, labels, blooms)
