"""Rings of one flower, as they show from above: how many heads each has, how evenly they stand
round, and how round the ring is.

The counts are the brief's, the outermost ring first (the taught example for eighteen roses: six,
six, and five about the tallest, common practice).
"""

from __future__ import annotations

from functools import partial

import numpy as np

from juniper.measures.finding import EvidenceMark, Finding, finding_of, missing_of
from juniper.measures.placing import full_blooms
from juniper.scene.blooms import Bloom

RINGED = ("ring_counts", "ring_gaps", "ring_round")
FEW = 3  # heads, under which a ring has neither gaps nor roundness to be told
NEEDS = "it needs the view from above"
NO_RINGS = "the brief sets no rings"


def rings_of(blooms: tuple[Bloom, ...], counts: tuple[int, ...]) -> tuple[tuple[Bloom, ...], ...]:
    """The heads seen from above by ring, the outermost first: parted at the widest steps of their
    distance from the middle, so that a ring that lacks a head is still told from the next.
    """
    full = full_blooms(blooms)
    if len(full) < len(counts) or not counts:
        return ()
    spots = np.array([b.centre for b in full])
    away = np.hypot(*(spots - spots.mean(axis=0)).T)
    order = np.argsort(-away)
    steps = -np.diff(away[order])
    cuts = np.sort(np.argsort(-steps)[: len(counts) - 1]) + 1
    return tuple(tuple(full[i] for i in part) for part in np.split(order, cuts))


def gaps(ring: tuple[Bloom, ...], middle: np.ndarray) -> float:
    """Standard deviation of the angles between neighbours of a ring about its `middle` (2,) over
    their mean, 0 for an even
    one; nan under FEW.
    """
    if len(ring) < FEW:
        return float("nan")
    step = np.array([b.centre for b in ring]) - middle
    turns = np.sort(np.arctan2(step[:, 1], step[:, 0]))
    between = np.diff(np.append(turns, turns[0] + 2 * np.pi))
    return float(between.std() / between.mean())


def roundness(ring: tuple[Bloom, ...], middle: np.ndarray) -> float:
    """Standard deviation of a ring's distances from its `middle` (2,) over their mean, 0 for a
    circle; nan under FEW.
    """
    if len(ring) < FEW:
        return float("nan")
    away = np.hypot(*(np.array([b.centre for b in ring]) - middle).T)
    return float(away.std() / away.mean())


def from_above(blooms: tuple[Bloom, ...], counts: tuple[int, ...]) -> tuple[Finding, ...]:
    """The measures of the rings in a view from above, under the counts of the brief; each missing
    where there are none to be told.
    """
    if not counts:
        return tuple(missing_of(name, NO_RINGS, applies=False, view="top") for name in RINGED)
    found = rings_of(blooms, counts)
    if not found:
        return tuple(
            missing_of(
                name, f"{len(full_blooms(blooms))} heads were made out for {len(counts)} rings"
            )
            for name in RINGED
        )
    middle = np.array([b.centre for ring in found for b in ring]).mean(axis=0)
    seen = [len(ring) for ring in found]
    off = sum(abs(a - b) for a, b in zip(seen, counts, strict=True))
    uneven, round_ = ([f(ring, middle) for ring in found] for f in (gaps, roundness))
    words = (
        f"counted from outside in: {', '.join(map(str, seen))}; the brief sets"
        f" {', '.join(map(str, counts))}"
    )
    seen_above = partial(
        finding_of, marks=_drawn(found), reason=f"no ring has {FEW} heads", view="top"
    )
    return (
        seen_above("ring_counts", float(off), 0.0, words),
        seen_above(
            "ring_gaps",
            _worst(uneven),
            0.1,
            f"of each ring, outermost first: {_listed(uneven)}; the most uneven counts",
        ),
        seen_above(
            "ring_round",
            _worst(round_),
            0.05,
            f"of each ring, outermost first: {_listed(round_)}; the least round counts",
        ),
    )


def _worst(values: list[float]) -> float:
    known = [v for v in values if np.isfinite(v)]
    return max(known, default=float("nan"))


def _listed(values: list[float]) -> str:
    return ", ".join(f"{v:.2f}" if np.isfinite(v) else "–" for v in values)


def _drawn(rings: tuple[tuple[Bloom, ...], ...]) -> tuple[EvidenceMark, ...]:
    return tuple(
        EvidenceMark(
            "ring",
            (b.centre,),
            str(len(ring)) if i == 0 else "",
            f"A head of ring {n}.",
            size=b.radius,
        )
        for n, ring in enumerate(rings, 1)
        for i, b in enumerate(ring)
    )
