"""Blooms by kind: how many of each, how large, on which side, and what stands alone.

A kind is a group of like blooms: one colour, full or slender, of about one breadth
(juniper.scene.like_blooms). Two flowers of one colour and size are one kind to a photograph, and
are told apart by hand.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np

from juniper.colour.palette import Swatch
from juniper.colour.palette import apart as petals_apart
from juniper.colour.spaces import ciede2000, from_hex, lab_from_srgb
from juniper.measures.finding import EvidenceMark
from juniper.measures.placing import rank_correlation
from juniper.measures.surface import View
from juniper.scene.blooms import BLOOM, Bloom, like_blooms

Kinds = tuple[tuple[Bloom, ...], ...]


@dataclass(frozen=True)
class KindSettings:
    """When a kind of bloom counts, rivals or stands alone.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    main: float = 0.05  # share of the blooms' area from which a kind is a main one
    reads: int = 8  # from nine up nobody counts whether they are odd (common practice)
    rival: float = 0.8  # times as broad as the focal bloom: it asks for the eye as well
    # CIEDE2000 from every other bloom, from which one is unlike everything else
    strange: float = 18.0
    large: float = 0.2  # of all flower material: as much in one bloom is no accent
    alone: float = 0.5  # share of all flower material like it that a stray accent holds by itself
    away: float = 0.25  # of plant height from the focal point
    # of half the plant's width: so near the axis a bloom belongs to both sides
    middle: float = 0.12


KIND = KindSettings()


def main_kinds(blooms: tuple[Bloom, ...]) -> Kinds:
    """The kinds that hold `main` of the blooms' area, the largest first; filler is none."""
    counted = tuple(b for b in blooms if b.role != "filler")
    total = sum(b.radius**2 for b in counted)
    return tuple(
        g for g in like_blooms(counted) if sum(b.radius**2 for b in g) >= KIND.main * total
    )


def odd_share(kinds: Kinds) -> float:
    """Share of the kinds whose count is odd, of those few enough to be counted; nan when none
    is.
    """
    counted = [len(g) for g in kinds if len(g) <= KIND.reads]
    return sum(n % 2 for n in counted) / len(counted) if counted else float("nan")


def largest_bloom(view: View, blooms: tuple[Bloom, ...]) -> float:
    """Diameter of the broadest full bloom over the container's width; nan without one."""
    chief = broadest(blooms)
    return 2 * chief[0].radius / view.container_width if chief else float("nan")


def focal_group(blooms: tuple[Bloom, ...]) -> tuple[Bloom, ...]:
    """The blooms that play the focal part."""
    return tuple(b for b in blooms if b.role == "focal")


def rivals(blooms: tuple[Bloom, ...]) -> tuple[Bloom, ...]:
    """Full blooms outside the focal group that are about as broad as its broadest."""
    chief = max((b.radius for b in focal_group(blooms)), default=None)
    if chief is None:
        return ()
    return tuple(
        b
        for b in blooms
        if b.role not in ("focal", "filler")
        and b.slender < BLOOM.slender
        and b.radius >= KIND.rival * chief
    )


def strays(view: View, blooms: tuple[Bloom, ...], palette: tuple[Swatch, ...]) -> tuple[Bloom, ...]:
    """Single blooms unlike everything else, away from the focal point: stray accents. Their colour
    (`palette` of the piece) shows in hardly any other flower material either, or they would be the
    largest of a scattered filler; it is not the leaves', among which a green bloom does not stray;
    and they are small, for a large one is a mass of its own.
    """
    flowers = [s for s in palette if s.part == "flower"]
    material = view.surface.petals / view.surface.scale**2
    full = [b for b in blooms if b.role != "filler"]
    if view.focal is None or len(full) < 4:
        return ()
    leaves = tuple(s.lab for s in palette if s.part == "foliage")
    out = []
    for bloom, (own, nearest, leaf) in zip(
        full, _likenesses(tuple(b.hex for b in full), leaves), strict=True
    ):
        if leaf or np.pi * bloom.radius**2 > KIND.large * material:
            continue
        far = np.hypot(*np.subtract(bloom.centre, view.focal)) > KIND.away * view.plant_height
        if nearest > KIND.strange and far and bloom.role != "focal":
            like = material * sum(
                s.share for s in flowers if ciede2000(own, np.array(s.lab)) < KIND.strange
            )
            if np.pi * bloom.radius**2 > KIND.alone * like:
                out.append(bloom)
    return tuple(out)


@lru_cache(maxsize=32)  # the same for every place of the handles
def _likenesses(colours: tuple[str, ...], leaves: tuple) -> list[tuple[np.ndarray, float, bool]]:
    """Of each colour: its CIELAB, how far the nearest other is (CIEDE2000), and whether it is one
    of the leaves' (CIELAB).
    """
    lab = lab_from_srgb(np.array([from_hex(c) for c in colours]))
    apart = ciede2000(lab[:, None], lab[None]) + np.diag(np.full(len(lab), np.inf))
    leafy = np.any(petals_apart(lab[:, None], np.reshape(leaves, (1, -1, 3))) < 1, axis=1)
    return list(zip(lab, apart.min(axis=1), leafy, strict=True))


def sequence(view: View, blooms: tuple[Bloom, ...]) -> float:
    """How far sizes fall from the focal point outward: minus the rank correlation of breadth and
    distance (Spearman 1904); nan under five.
    """
    full = [b for b in blooms if b.slender < BLOOM.slender and b.role != "filler"]
    if view.focal is None or len(full) < 5:
        return float("nan")
    away = np.array([np.hypot(*np.subtract(b.centre, view.focal)) for b in full])
    return -rank_correlation(away, np.array([b.radius for b in full]))


def sides(view: View, group: tuple[Bloom, ...]) -> tuple[float, float]:
    """Area of a group's blooms left and right of the axis; one near the axis counts by half on
    each.
    """
    _, side = view.place(np.array([b.centre for b in group]))
    area = np.array([b.radius**2 for b in group])
    right = np.clip(0.5 + side / (2 * KIND.middle * max(view.plant_width / 2, 1.0)), 0, 1)
    return float((area * (1 - right)).sum()), float((area * right).sum())


def carried_through(view: View, kinds: Kinds) -> float:
    """Share of the kinds' area whose kind shows on both sides of the axis; one in a single spot
    reads as an accident.
    """
    total = carried = 0.0
    for group in kinds:
        area = sum(sides(view, group))
        total += area
        carried += area * (min(sides(view, group)) > 0.1 * area)
    return carried / total if total else float("nan")


def like_opposite(view: View, kinds: Kinds) -> float:
    """Share of the kinds' area that has its like opposite: twice the lesser side of each kind over
    all.
    """
    pairs = [sides(view, g) for g in kinds]
    total = sum(map(sum, pairs))
    return 2 * sum(map(min, pairs)) / total if total else float("nan")


def twins_beside(view: View, blooms: tuple[Bloom, ...]) -> list[tuple[Bloom, Bloom]]:
    """Pairs near the focal point that are of one size and at one height: equal lengths leave the
    eye undecided.
    """
    chief = max(focal_group(blooms), key=lambda b: b.radius, default=None)
    if chief is None:
        return []
    near = [
        b
        for b in blooms
        if b.slender < BLOOM.slender
        and np.hypot(*np.subtract(b.centre, chief.centre)) < 3.5 * chief.radius
    ]
    heights = {id(b): float(view.place(np.array([b.centre]))[0][0]) for b in near}
    return [
        (a, b)
        for a, b in combinations(near, 2)
        if chief in (a, b)
        and min(a.radius, b.radius) > 0.9 * max(a.radius, b.radius)
        and abs(heights[id(a)] - heights[id(b)]) < 0.04 * view.plant_height
    ]


def ringed(blooms, label: str, says: str) -> tuple[EvidenceMark, ...]:
    """A ring round each bloom."""
    return tuple(
        EvidenceMark(
            "ring", (b.centre,), label if i == 0 else "", f"{says}, {b.hue}.", size=b.radius
        )
        for i, b in enumerate(blooms)
    )


def counted(kinds: Kinds) -> tuple[EvidenceMark, ...]:
    """A ring round each bloom of the main kinds, with the count on the first."""
    return tuple(m for g in kinds for m in ringed(g, f"{len(g)} {g[0].hue}", "One of a kind"))


def broadest(blooms: tuple[Bloom, ...]) -> tuple[Bloom, ...]:
    """The broadest full bloom, if there is one."""
    full = [b for b in blooms if b.slender < BLOOM.slender]
    return (max(full, key=lambda b: b.radius),) if full else ()


def joined(view: View, kinds: Kinds) -> tuple[EvidenceMark, ...]:
    """A ring round each bloom of the kinds that show on one side only."""
    alone = [g for g in kinds if min(sides(view, g)) <= 0.1 * sum(sides(view, g))]
    return tuple(
        m for g in alone for m in ringed(g, f"{g[0].hue}, one side", "A kind on one side only")
    )
