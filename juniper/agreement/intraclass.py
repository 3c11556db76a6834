"""Agreement of markers on marks: intraclass correlations of a two-way layout."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import fdtri

from juniper.values import Triple

SURE = 0.95  # of the intervals; common practice


@dataclass(frozen=True)
class Intraclass:
    """The share of all variance in marks that is the pieces' own, for a single marker, each with
    its 95 % interval.

    `absolute` is ICC(2,1): markers are a sample, and a stricter one disagrees. `consistent` is
    ICC(3,1): these markers alone, and being stricter throughout is no disagreement. Both are None
    where no two marks differ.
    """

    absolute: float | None
    absolute_low: float | None
    absolute_high: float | None
    consistent: float | None
    consistent_low: float | None
    consistent_high: float | None
    pieces: int
    markers: int


def intraclass(marks: ArrayLike) -> Intraclass:
    """ICC(2,1) and ICC(3,1) of every piece marked by every marker.

    Args:
        marks: marks, a row a piece and a column a marker; two of each at the least.

    Returns:
        Both correlations with their intervals.

    Raises:
        ValueError: fewer than two pieces or markers, or a mark that is missing.

    References:
        P. E. Shrout and J. L. Fleiss, "Intraclass correlations: uses in assessing rater
        reliability", Psychological Bulletin 86 (1979); intervals by the same, and as K. O. McGraw
        and S. P. Wong, Psychological Methods 1 (1996), table 7.

    >>> round(intraclass([[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8]]).consistent, 2)
    0.67
    """
    x = np.asarray(marks, float)
    if x.ndim != 2 or min(x.shape) < 2 or not np.isfinite(x).all():
        raise ValueError("two pieces and two markers at least, and every mark, are needed")
    n, k = x.shape
    own = x.mean(axis=1, keepdims=True)
    lean = x.mean(axis=0, keepdims=True)
    between = k * float(((own - x.mean()) ** 2).sum()) / (n - 1)
    markers = n * float(((lean - x.mean()) ** 2).sum()) / (k - 1)
    error = float(((x - own - lean + x.mean()) ** 2).sum()) / ((n - 1) * (k - 1))
    if between + markers + error < 1e-18:
        return Intraclass(None, None, None, None, None, None, n, k)
    absolute, low, high = _absolute(between, markers, error, n, k)
    consistent, least, most = _consistent(between, error, n, k)
    return Intraclass(absolute, low, high, consistent, least, most, n, k)


def _absolute(between: float, markers: float, error: float, n: int, k: int) -> Triple:
    """ICC(2,1) and its interval, by Satterthwaite's degrees of freedom."""
    value = (between - error) / (between + (k - 1) * error + k * (markers - error) / n)
    if error < 1e-18:  # the markers differ by a constant alone: nothing is left to chance
        return value, value, value
    ratio = markers / error
    weight = n * (1 + (k - 1) * value) - k * value
    top = (k - 1) * (n - 1) * (k * value * ratio + weight) ** 2
    freedom = top / ((n - 1) * (k * value * ratio) ** 2 + weight**2)
    up = fdtri(n - 1, freedom, (1 + SURE) / 2)
    down = fdtri(freedom, n - 1, (1 + SURE) / 2)
    rest = k * markers + (k * n - k - n) * error
    low = n * (between - up * error) / (up * rest + n * between)
    high = n * (down * between - error) / (rest + n * down * between)
    return value, float(low), float(high)


def _consistent(between: float, error: float, n: int, k: int) -> Triple:
    """ICC(3,1) and its interval."""
    value = (between - error) / (between + (k - 1) * error)
    if error < 1e-18:
        return value, value, value
    ratio, rest = between / error, (n - 1) * (k - 1)
    low = ratio / fdtri(n - 1, rest, (1 + SURE) / 2)
    high = ratio * fdtri(rest, n - 1, (1 + SURE) / 2)
    return value, float((low - 1) / (low + k - 1)), float((high - 1) / (high + k - 1))
