"""How blooms are set among each other: evenly or not, by size from below to above, and in groups
with room between.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View
from juniper.scene.blooms import BLOOM, Bloom


@dataclass(frozen=True)
class PlacingSettings:
    """Which blooms make a group, and from how many on a row is told.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    fewest: int = 5  # blooms, under which neither evenness nor gradation is told
    # of a bloom's mean breadth: blooms no further apart, edge to edge, are of one group (common
    # practice)
    touch: float = 0.35
    clear: float = 0.6  # of that breadth, from which there is a space between two groups
    most: int = 3  # blooms of a group that reads at a glance: one, two or three (common practice)
    # of a bloom's mean breadth: a group no further from the axis weighs on neither side
    on_axis: float = 0.5


PLACING = PlacingSettings()


def full_blooms(blooms: tuple[Bloom, ...]) -> tuple[Bloom, ...]:
    """Blooms that are neither filler nor slender."""
    return tuple(b for b in blooms if b.slender < BLOOM.slender and b.role != "filler")


def _centres(blooms) -> np.ndarray:
    return np.array([b.centre for b in blooms], float).reshape(-1, 2)


def _apart(blooms) -> np.ndarray:
    """Distances of the blooms' middles (n, n), infinite to itself."""
    spots = _centres(blooms)
    away = np.hypot(*(spots[:, None] - spots[None]).transpose(2, 0, 1))
    np.fill_diagonal(away, np.inf)
    return away


def rank_correlation(first: np.ndarray, second: np.ndarray) -> float:
    """Spearman's rank correlation of two rows of figures (n,), ties at their mean rank; nan where
    either is all of one figure.

    >>> round(rank_correlation(np.array([1.0, 2.0, 3.0]), np.array([3.0, 5.0, 4.0])), 2)
    0.5
    """
    if np.ptp(first) == 0 or np.ptp(second) == 0:
        return float("nan")
    return float(np.corrcoef(_ranks(first), _ranks(second))[0, 1])


def _ranks(values: np.ndarray) -> np.ndarray:
    """Ranks with ties at their mean."""
    _, inverse, counts = np.unique(values, return_inverse=True, return_counts=True)
    last = counts.cumsum()
    return (last - (counts - 1) / 2)[inverse]


def blocks(near: np.ndarray) -> tuple[int, np.ndarray]:
    """(count, number of each): what hangs together in a symmetric matrix (bool n x n) whose
    diagonal is true.

    >>> count, number = blocks(np.array([[1, 1, 0], [1, 1, 0], [0, 0, 1]], bool))
    >>> count, number.tolist()
    (2, [0, 0, 1])
    """
    label = np.arange(len(near))
    while True:
        new = np.where(near, label[None], len(near)).min(axis=1)
        if (new == label).all():
            numbers, label = np.unique(label, return_inverse=True)
            return len(numbers), label
        label = new


@lru_cache(maxsize=32)  # the same for every place of the handles
def spacing(blooms: tuple[Bloom, ...]) -> float:
    """Coefficient of variation of the distance to the nearest neighbour: 0 for blooms set evenly;
    nan under PLACING.fewest.
    """
    full = full_blooms(blooms)
    if len(full) < PLACING.fewest:
        return float("nan")
    nearest = _apart(full).min(axis=1)
    return float(nearest.std() / nearest.mean())


def gradation(view: View, blooms: tuple[Bloom, ...]) -> float:
    """Minus the rank correlation of breadth and height over the rim (Spearman 1904): 1 where the
    largest stand lowest; nan under PLACING.fewest, or where all are of one size or height.
    """
    full = full_blooms(blooms)
    if len(full) < PLACING.fewest:
        return float("nan")
    along, _ = view.place(_centres(full))
    radius = np.array([b.radius for b in full])
    return -rank_correlation(along, radius)


def rise(view: View, blooms: tuple[Bloom, ...]) -> float:
    """How much higher the highest tenth of the heads stands than the lowest, over container height;
    nan under PLACING.fewest.
    """
    full = full_blooms(blooms)
    if len(full) < PLACING.fewest:
        return float("nan")
    along, _ = view.place(_centres(full))
    low, high = np.percentile(along, (10, 90))
    return float(high - low) / view.container_height


@lru_cache(maxsize=32)  # the same for every place of the handles
def groups_of(blooms: tuple[Bloom, ...]) -> tuple[tuple[Bloom, ...], ...]:
    """Full blooms that stand together, the largest group first."""
    full = full_blooms(blooms)
    if not full:
        return ()
    radius = np.array([b.radius for b in full])
    near = _apart(full) - radius[:, None] - radius[None] < PLACING.touch * 2 * radius.mean()
    np.fill_diagonal(near, True)
    count, label = blocks(near)
    found = [tuple(b for b, own in zip(full, label, strict=True) if own == k) for k in range(count)]
    return tuple(sorted(found, key=lambda g: (-len(g), g[0].centre)))


@lru_cache(maxsize=32)
def clear_groups(groups: tuple[tuple[Bloom, ...], ...]) -> float:
    """Share of the blooms' area in groups of `most` or fewer with a space round them, as in two, a
    space, one, a space, two; 0 for one heap, and for blooms that all stand alone; nan without two
    blooms.
    """
    every = [b for g in groups for b in g]
    if len(every) < 2:
        return float("nan")
    if len(groups) < 2 or all(len(g) == 1 for g in groups):
        return 0.0
    breadth = 2 * float(np.mean([b.radius for b in every]))
    inside = 0.0
    for group in groups:
        others = [b for g in groups if g is not group for b in g]
        gap = min(
            np.hypot(*np.subtract(a.centre, b.centre)) - a.radius - b.radius
            for a in group
            for b in others
        )
        inside += sum(b.radius**2 for b in group) * (
            len(group) <= PLACING.most and gap >= PLACING.clear * breadth
        )
    return inside / sum(b.radius**2 for b in every)


def groups_answer(view: View, groups: tuple[tuple[Bloom, ...], ...]) -> float:
    """How groups of two and more counterweigh each other about the axis: the lesser sum of area
    times distance over the greater one; nan where there are no two such groups.
    """
    pairs = [g for g in groups if len(g) > 1]
    if len(pairs) < 2:
        return float("nan")
    breadth = 2 * float(np.mean([b.radius for g in groups for b in g]))
    turns = []
    for group in pairs:
        area = np.array([b.radius**2 for b in group])
        _, side = view.place(_centres(group))
        middle = float(area @ side / area.sum())
        turns.append(float(area.sum()) * middle if abs(middle) > PLACING.on_axis * breadth else 0.0)
    left, right = -sum(t for t in turns if t < 0), sum(t for t in turns if t > 0)
    return min(left, right) / max(left, right) if max(left, right) > 0 else 1.0


@lru_cache(maxsize=64)
def drawn_groups(groups: tuple[tuple[Bloom, ...], ...]) -> tuple[EvidenceMark, ...]:
    """A ring round each bloom, with the count on the first of each group."""
    return tuple(
        EvidenceMark(
            "ring",
            (b.centre,),
            str(len(g)) if i == 0 else "",
            f"One of a group of {len(g)}.",
            size=b.radius,
        )
        for g in groups
        for i, b in enumerate(g)
    )


@lru_cache(maxsize=32)
def drawn_nearest(blooms: tuple[Bloom, ...]) -> tuple[EvidenceMark, ...]:
    """Each full bloom joined to its nearest neighbour."""
    full = full_blooms(blooms)
    if len(full) < 2:
        return ()
    return tuple(
        EvidenceMark(
            "dashed",
            (full[i].centre, full[int(j)].centre),
            "",
            "From a bloom to its nearest neighbour.",
        )
        for i, j in enumerate(_apart(full).argmin(axis=1))
    )
