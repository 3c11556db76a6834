"""How far two markers' marks of one piece lie apart: limits of agreement."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from scipy.special import stdtrit

SURE = 0.95  # of the intervals, and of the differences between the limits; common practice
REACH = 1.96  # standard deviations that hold so many of normal differences


@dataclass(frozen=True)
class Limits:
    """Second mark less first: their `mean` difference, standard deviation `sd`, and the limits
    `low` and `high` between which 95 % of the differences lie. `mean_reach` and `limit_reach` are
    half the 95 % intervals of the mean and of either limit. All in points of 100.
    """

    mean: float
    sd: float
    low: float
    high: float
    mean_reach: float
    limit_reach: float
    pieces: int


def limits_of_agreement(first: Sequence[float], second: Sequence[float]) -> Limits:
    """Limits of agreement of two markers.

    Args:
        first: each piece's mark by the first marker.
        second: the same pieces' marks by the second.

    Returns:
        The mean difference (second less first) and the limits about it.

    Raises:
        ValueError: markers with different numbers of pieces, or fewer than two.

    References:
        J. M. Bland and D. G. Altman, "Statistical methods for assessing agreement between two
        methods of clinical measurement", The Lancet 327 (1986); the standard error of a limit as
        by the same, Statistical Methods in Medical Research 8 (1999), section 2.

    >>> limits_of_agreement([60, 70, 80], [62, 71, 85]).mean
    2.6666666666666665
    """
    if len(first) != len(second) or len(first) < 2:
        raise ValueError("two markers' marks of the same pieces are needed, two at least")
    differences = [b - a for a, b in zip(first, second, strict=True)]
    n, mean, sd = len(differences), fmean(differences), stdev(differences)
    steps = float(stdtrit(n - 1, (1 + SURE) / 2))
    return Limits(
        mean,
        sd,
        mean - REACH * sd,
        mean + REACH * sd,
        steps * sd / math.sqrt(n),
        steps * sd * math.sqrt(1 / n + REACH**2 / (2 * (n - 1))),
        n,
    )
