"""Whether marks differ before and after a lesson, or between two classes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev, variance

from scipy.special import stdtrit

SURE = 0.95  # of the interval; common practice


@dataclass(frozen=True)
class Change:
    """The mean of a later group less that of an earlier one, with half its 95 % interval (None
    with fewer than two in a group, or of pairs fewer than two).
    """

    before: float
    after: float
    reach: float | None

    @property
    def difference(self) -> float:
        """After less before."""
        return self.after - self.before

    @property
    def sure(self) -> bool:
        """Whether the difference is beyond chance."""
        return self.reach is not None and abs(self.difference) > self.reach


def change(before: Sequence[float], after: Sequence[float], paired: bool = False) -> Change | None:
    """How far the means of two groups lie apart.

    Args:
        before: the marks of the one group.
        after: those of the other; where they are `paired`, of the same people in the same order.
        paired: whether they are.

    Returns:
        The change, by Welch's interval for two groups or Student's for pairs; None where a group is
        empty.

    References:
        B. L. Welch, "The generalization of Student's problem when several different population
        variances are involved", Biometrika 34 (1947).

    >>> change([60, 70], [70, 80], paired=True).difference
    10.0
    """
    if not before or not after:
        return None
    first, second = fmean(before), fmean(after)
    if min(len(before), len(after)) < 2:
        return Change(first, second, None)
    if paired:
        steps = [b - a for a, b in zip(before, after, strict=True)]
        error, freedom = stdev(steps) / math.sqrt(len(steps)), float(len(steps) - 1)
    else:
        parts = [variance(g) / len(g) for g in (before, after)]
        error = math.sqrt(sum(parts))
        below = sum(p**2 / (len(g) - 1) for p, g in zip(parts, (before, after), strict=True))
        freedom = sum(parts) ** 2 / below if below else 1.0
    return Change(first, second, float(stdtrit(freedom, (1 + SURE) / 2)) * error)
