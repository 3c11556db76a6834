"""Agreement of two markers on ordered awards beyond chance: Cohen's weighted kappa."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

LINEAR, QUADRATIC = "linear", "quadratic"
SURE = 0.95  # of the interval; common practice


@dataclass(frozen=True)
class Kappa:
    """Weighted kappa of `pieces` marked twice, with its 95 % interval (None for both where the
    markers leave nothing to chance), and the share `agreed` on the very same category.

    `value` is None where both markers put every piece into one category: then chance alone agrees
    as much, and kappa is 0 / 0.
    """

    value: float | None
    low: float | None
    high: float | None
    agreed: float
    pieces: int
    table: tuple[tuple[int, ...], ...]


def weighted_kappa(
    first: Sequence[str], second: Sequence[str], categories: Sequence[str], weights: str = LINEAR
) -> Kappa:
    """Cohen's weighted kappa with its large-sample interval.

    Args:
        first: each piece's category by the first marker.
        second: the same pieces' categories by the second, in the same order.
        categories: all categories, in their order.
        weights: LINEAR counts a disagreement by the steps between two categories, QUADRATIC by
            their square.

    Returns:
        Kappa, its interval and the table of counts, rows by the first marker.

    Raises:
        ValueError: markers with different numbers of pieces, none, or a category not named.

    References:
        J. Cohen, "Weighted kappa", Psychological Bulletin 70 (1968); its standard error by J. L.
        Fleiss, J. Cohen and B. S. Everitt, "Large sample standard errors of kappa and weighted
        kappa", Psychological Bulletin 72 (1969), equation 13.

    >>> round(weighted_kappa("aabbcc", "aabbcb", "abc").value, 3)
    0.8
    """
    if len(first) != len(second) or not first:
        raise ValueError("two markers' categories of the same pieces are needed, one at least")
    place = {name: n for n, name in enumerate(categories)}
    strange = (set(first) | set(second)) - set(place)
    if strange:
        raise ValueError(f"not among the categories: {', '.join(sorted(strange))}")
    table = np.zeros((len(place), len(place)), int)
    for a, b in zip(first, second, strict=True):
        table[place[a], place[b]] += 1
    share = table / len(first)
    steps = np.abs(np.subtract.outer(np.arange(len(place)), np.arange(len(place)))) / max(
        len(place) - 1, 1
    )
    agreeing = 1 - steps ** (2 if weights == QUADRATIC else 1)
    rows, columns = share.sum(axis=1), share.sum(axis=0)
    seen = float((agreeing * share).sum())
    by_chance = float((agreeing * np.outer(rows, columns)).sum())
    counts = tuple(tuple(int(n) for n in row) for row in table)
    agreed = float(np.trace(share))
    if by_chance >= 1 - 1e-12:
        return Kappa(None, None, None, agreed, len(first), counts)
    value = (seen - by_chance) / (1 - by_chance)
    mean = np.add.outer(agreeing @ columns, rows @ agreeing)
    square = share * (agreeing * (1 - by_chance) - mean * (1 - seen)) ** 2
    variance = (square.sum() - (seen * by_chance - 2 * by_chance + seen) ** 2) / (
        len(first) * (1 - by_chance) ** 4
    )
    reach = float(ndtri((1 + SURE) / 2) * np.sqrt(max(variance, 0.0)))
    return Kappa(
        value, max(-1.0, value - reach), min(1.0, value + reach), agreed, len(first), counts
    )
