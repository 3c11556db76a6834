"""Single blooms among the petals of one colour, and the part each plays."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import numpy as np

from juniper.colour.palette import Swatch
from juniper.scene.container.datum import Datum
from juniper.scene.petals import LEAF, PETAL, PetalProbabilities


@dataclass(frozen=True)
class BloomSettings:
    """When a spot is a bloom, and which blooms belong together.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    soft: float = 0.7  # pixels of the grid by which likelihoods of a middle are smoothed
    likely: float = 0.1  # from which a middle is looked at
    believed: float = 0.25  # from which a bloom is believed
    astray: float = 6.0  # pixels of the grid by which a petal may point past its bloom's middle
    floret: float = 0.8  # confidence below which a bloom may be a floret of a spike
    strung: float = 2.0  # times their radii: how far apart two florets of a spike lie at most
    # times as broad: blooms of one colour that differ by no more at any step are of one group
    alike: float = 1.7
    least: int = 40  # pixels of a bloom: fewer are a glimpse of one between leaves
    slender: float = 2.6  # longer over shorter axis of a line flower
    group: int = 3  # blooms that a focal group has at most
    rules: float = 1.2  # times as broad as the next colour's: blooms that lead by size, high or low


BLOOM = BloomSettings()


# By logistic regression on 129 simulated pictures: 1, likelihood of the middle, log of radius, log
# of radius to the usual, share of its petals that are of a flower's colour.
TRUE = np.array([-7.8, 12.04, 1.7, -0.88, 2.78])
ROLES = ("focal", "mass", "line", "filler", "foliage")


@dataclass(frozen=True)
class Bloom:
    """A visible bloom: centre and equivalent radius in pixels, its colour and proposed role.

    `swatch` is its place in the flower palette; `role` is one of ROLES. As an ellipse its axes are
    in the ratio `slender`, the longer one `angle` degrees from level, clockwise in the picture.
    `confidence` 0..1 is how likely there is one; 1 for one that a person put.
    """

    centre: tuple[float, float]
    radius: float
    hex: str
    hue: str
    swatch: int
    role: str = "mass"
    slender: float = 1.0
    angle: float = 0.0
    confidence: float = 1.0

    @property
    def half_axes(self) -> tuple[float, float]:
        """Longer and shorter half axis of its ellipse, pixels; their product is the radius
        squared.
        """
        return self.radius * self.slender**0.5, self.radius / self.slender**0.5

    def scaled(self, factor: float) -> Bloom:
        """The same bloom in a picture enlarged by `factor`."""
        return replace(
            self,
            centre=(self.centre[0] * factor, self.centre[1] * factor),
            radius=self.radius * factor,
        )


@dataclass(frozen=True, eq=False)
class Apart:
    """Petals told apart: `number` int (h, w) of the bloom each pixel belongs to (from 1, 0 none),
    and how likely each bloom is one (n,).
    """

    number: np.ndarray
    likely: np.ndarray


def tell_apart(look: PetalProbabilities, petals: np.ndarray) -> Apart:
    """Which bloom each petal pixel (bool h x w) belongs to, by what was seen there.

    Each petal points to the middle of its bloom; where many point, and a middle is likely, there is
    one. A petal that points at none belongs to none.
    """
    petal = (look.parts[PETAL] > look.parts[LEAF]) & (look.parts[PETAL] + look.parts[LEAF] > 0.5)
    middles = _middles(look)
    number = _numbered(look, petal, middles)
    if not number.any():
        return Apart(np.zeros(petals.shape, int), np.zeros(0))
    cells = np.bincount(number.ravel(), minlength=len(middles) + 1)[1:]
    bright = np.bincount(number[_on_grid(look, petals)], minlength=len(middles) + 1)[1:]
    true = _truth(middles[:, 2], cells, bright / np.maximum(cells, 1))
    # The petals of a middle that is not believed go to the next one.
    middles, true = middles[true > BLOOM.believed], true[true > BLOOM.believed]
    number = _numbered(look, petal, middles)
    spread = look.onto(number.astype(np.float32), petals.shape, cv2.INTER_NEAREST).astype(int)
    spread[~petals] = 0
    return Apart(spread, true)


def find_blooms(
    apart: Apart, flowers: np.ndarray, palette: tuple[Swatch, ...]
) -> tuple[Bloom, ...]:
    """Blooms in a raster of flower colours (int h x w; 0 none, i the palette's i-th swatch) whose
    petals are told apart.
    """
    spread, true = apart.number, apart.likely
    at = np.flatnonzero(spread)
    order = at[np.argsort(spread.ravel()[at], kind="stable")]
    starts = np.searchsorted(spread.ravel()[order], np.arange(1, len(true) + 2))
    seen = [order[start:end] for start, end in pairwise(starts)]
    parts = [k for k, own in enumerate(seen) if len(own) >= BLOOM.least]

    def bloom(members):
        ys, xs = np.divmod(np.concatenate([seen[k] for k in members]), flowers.shape[1])
        return replace(
            _bloom(xs, ys, flowers, palette), confidence=float(1 - np.prod(1 - true[members]))
        )

    single = {k: bloom([k]) for k in parts}
    found = []
    for chain in _strung([single[k] for k in parts]):
        members = [parts[i] for i in chain]
        one = bloom(members)
        found += [one] if one.slender >= BLOOM.slender else [single[k] for k in members]
    return tuple(found)


def _on_grid(look: PetalProbabilities, mask: np.ndarray) -> np.ndarray:
    """A mask (bool h x w) of the picture at the middles of the look's grid."""
    rows, columns = (
        ((np.arange(n) + 0.5) * look.pitch + start).astype(int).clip(0, most - 1)
        for n, start, most in zip(look.middle.shape, (look.top, look.left), mask.shape, strict=True)
    )
    return mask[np.ix_(rows, columns)]


def _truth(likely: np.ndarray, cells: np.ndarray, bright: np.ndarray) -> np.ndarray:
    """How likely it is that there is a bloom (n,), by the likelihood of its middle, the cells of
    the grid that point to it, and the share of these that are of a flower's colour.
    """
    radius = np.sqrt(np.maximum(cells, 1) / np.pi)
    usual = float(np.median(radius[cells > 0])) if (cells > 0).any() else 1.0
    odds = TRUE @ [
        np.ones_like(likely),
        likely,
        np.log(radius),
        np.log(np.clip(radius / usual, 0.1, 5)),
        bright,
    ]
    return np.where(cells > 0, 1 / (1 + np.exp(-odds)), 0.0)


def _strung(blooms: list[Bloom]) -> list[list[int]]:
    """Numbers of the blooms that may be florets of one spike, together; each other by itself.
    Florets are unsure by themselves, of one colour, and hang together.
    """
    left, out = set(range(len(blooms))), []
    while left:
        chain, ahead = [], [left.pop()]
        while ahead:
            i = ahead.pop()
            chain.append(i)
            if blooms[i].confidence >= BLOOM.floret:
                continue
            near = [
                j
                for j in left
                if blooms[j].confidence < BLOOM.floret
                and blooms[j].swatch == blooms[i].swatch
                and _between(blooms[i], blooms[j])
                < BLOOM.strung * (blooms[i].radius + blooms[j].radius)
            ]
            left -= set(near)
            ahead += near
        out.append(sorted(chain))
    return sorted(out)


def _between(one: Bloom, other: Bloom) -> float:
    return float(np.hypot(*np.subtract(one.centre, other.centre)))


def _middles(look: PetalProbabilities) -> np.ndarray:
    """Places that may be the middle of a bloom: column and row of the grid, and how likely (n,
    3).
    """
    likely = cv2.GaussianBlur(look.middle, (0, 0), BLOOM.soft)
    ys, xs = np.nonzero(
        (likely == cv2.dilate(likely, np.ones((5, 5), np.uint8))) & (likely > BLOOM.likely)
    )
    return np.column_stack([xs, ys, likely[ys, xs]])


def _numbered(look: PetalProbabilities, petal: np.ndarray, middles: np.ndarray) -> np.ndarray:
    """Number of the middle (from 1) that each petal of the grid points to, 0 for none: int (h,
    w).
    """
    number = np.zeros(petal.shape, int)
    if len(middles) == 0 or not petal.any():
        return number
    rows, columns = np.nonzero(petal)
    at_x, at_y = columns + look.toward[0][petal], rows + look.toward[1][petal]
    to_x, to_y = middles[:, :2].T.astype(np.float32)
    away = np.square(at_x.astype(np.float32)[:, None] - to_x) + np.square(
        at_y.astype(np.float32)[:, None] - to_y
    )
    nearest = away.argmin(axis=1)
    number[petal] = np.where(
        away[np.arange(len(nearest)), nearest] < BLOOM.astray**2, nearest + 1, 0
    )
    return number


def _bloom(xs: np.ndarray, ys: np.ndarray, flowers: np.ndarray, palette) -> Bloom:
    index = int(np.bincount(flowers[ys, xs], minlength=len(palette) + 1)[1:].argmax()) + 1
    swatch = palette[index - 1]
    spread = np.cov(np.stack([xs, ys]))
    values, vectors = np.linalg.eigh(spread)
    small, large = np.sqrt(np.maximum(values, 0.25))
    return Bloom(
        centre=(float(xs.mean()), float(ys.mean())),
        radius=float(np.sqrt(len(xs) / np.pi)),
        hex=swatch.hex,
        hue=swatch.hue,
        swatch=index,
        slender=float(large / small),
        angle=float(np.degrees(np.arctan2(vectors[1, 1], vectors[0, 1]))) % 180,
    )


def give_roles(blooms: tuple[Bloom, ...], datum: Datum, plant_height: float) -> tuple[Bloom, ...]:
    """Propose a role for each bloom: slender ones are line, the largest low one and its likes near
    it focal, those under a third of its breadth filler, the rest mass."""
    if not blooms:
        return ()
    full = [b for b in blooms if b.slender < BLOOM.slender] or list(blooms)
    height = np.array([np.dot(np.subtract(b.centre, datum.rim), datum.up) for b in full]) / max(
        plant_height, 1.0
    )
    low = np.exp(-0.5 * (np.clip(height - 0.33, 0, None) / 0.3) ** 2)
    # A bloom counts with its likes close by: a group of three leads as one.
    spots, area = np.array([b.centre for b in full]), np.array([b.radius**2 for b in full])
    apart = np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1)) / max(
        0.1 * plant_height, 0.1 * float(np.ptp(spots[:, 0])), 1.0
    )
    like = np.array([b.swatch for b in full])
    near = np.exp(-(apart**2)) * np.where(like[:, None] == like[None], 1.0, 0.4)
    appeal = np.sqrt((near * area[None]).sum(axis=1)) * low
    chief = full[int(np.argmax(np.where(_leading(full), appeal, 0.0)))]
    beside = [
        b
        for b in blooms
        if b is not chief
        and b.swatch == chief.swatch
        and b.radius > 0.7 * chief.radius
        and np.hypot(*np.subtract(b.centre, chief.centre)) < 3.2 * chief.radius
    ]
    focal = {id(b) for b in (chief, *sorted(beside, key=lambda b: -b.radius)[: BLOOM.group - 1])}
    out = []
    for bloom in blooms:
        if id(bloom) in focal:
            role = "focal"
        elif bloom.slender >= BLOOM.slender:
            role = "line"
        elif bloom.radius < 0.3 * chief.radius:
            role = "filler"
        else:
            role = "mass"
        out.append(replace(bloom, role=role))
    return tuple(out)


def _leading(full: list[Bloom]) -> np.ndarray:
    """Which blooms (bool n) may lead: those of the colour that rules by size wherever it sits, or
    all where none does.
    """
    broadest: dict[int, float] = {}
    for bloom in full:
        broadest[bloom.swatch] = max(broadest.get(bloom.swatch, 0.0), bloom.radius)
    first, second = (sorted(broadest.items(), key=lambda kind: -kind[1]) + [(0, 0.0)])[:2]
    ruling = [b.swatch == first[0] and b.radius > 0.7 * first[1] for b in full]
    # Many of that size are masses, whatever their breadth.
    if second[1] and first[1] >= BLOOM.rules * second[1] and sum(ruling) <= BLOOM.group:
        return np.array(ruling)
    return np.ones(len(full), bool)


def like_blooms(blooms: tuple[Bloom, ...]) -> tuple[tuple[Bloom, ...], ...]:
    """The blooms in groups of like ones, the largest group first: of one colour, slender or full,
    and of about one breadth.
    """
    kinds: dict[tuple[int, bool], list[Bloom]] = {}
    for bloom in sorted(blooms, key=lambda b: -b.radius):
        kinds.setdefault((bloom.swatch, bloom.slender >= BLOOM.slender), []).append(bloom)
    groups = []
    for kind in kinds.values():
        groups.append([kind[0]])
        for before, bloom in pairwise(kind):
            if before.radius > BLOOM.alike * bloom.radius:
                groups.append([])
            groups[-1].append(bloom)
    return tuple(map(tuple, sorted(groups, key=lambda g: -sum(b.radius**2 for b in g))))


def focal_point(blooms: tuple[Bloom, ...]) -> tuple[float, float] | None:
    """The suggested focal point: the area-weighted middle of the focal bloom or group."""
    focal = [b for b in blooms if b.role == "focal"]
    if not focal:
        return None
    weight = np.array([b.radius**2 for b in focal])
    middle = (np.array([b.centre for b in focal]) * weight[:, None]).sum(axis=0) / weight.sum()
    return float(middle[0]), float(middle[1])
