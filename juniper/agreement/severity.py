"""Which marker is stricter, and whether one becomes so over the term."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

SURE = 0.95  # of the intervals; common practice


@dataclass(frozen=True)
class Severity:
    """How many points of 100 a marker gives more than the mean marker (`lean`, below 0 for a
    strict one), half its 95 % interval (`reach`, None with too few pieces to tell), and from how
    many `pieces` that is known.
    """

    lean: float
    reach: float | None
    pieces: int


@dataclass(frozen=True)
class Drift:
    """By how many points of 100 a marker's lean changes in a unit of time: `slope`, half its 95 %
    interval, and the lean at the first time, `start`. `sure` says that the interval leaves out no
    change at all.
    """

    slope: float
    reach: float
    start: float
    pieces: int

    @property
    def sure(self) -> bool:
        """Whether the change is beyond chance."""
        return abs(self.slope) > self.reach


def severities(pairs: Iterable[tuple[str, float, str, float]]) -> dict[str, Severity]:
    """How strict each of several markers is, from pieces that two of them marked.

    Args:
        pairs: of each piece, a marker and their mark, another marker and theirs. Pairs of one
            marker with themself are left out.

    Returns:
        Each marker's lean about the mean of all markers. Markers whom no chain of common pieces
        joins are compared within their own chain only.

    References:
        Least squares of paired comparisons, each difference being that of two leans: F. Mosteller,
        Psychometrika 16 (1951), for differences that are measured.

    >>> leans = severities([("A", 70, "B", 64), ("A", 80, "B", 74)])
    >>> round(leans["A"].lean, 6), round(leans["B"].lean, 6)
    (3.0, -3.0)
    """
    rows = [(a, b, x - y) for a, x, b, y in pairs if a != b]
    names = sorted({name for a, b, _ in rows for name in (a, b)})
    place = {name: n for n, name in enumerate(names)}
    design = np.zeros((len(rows), len(names)))
    for n, (a, b, _) in enumerate(rows):
        design[n, place[a]], design[n, place[b]] = 1.0, -1.0
    seen = np.asarray([d for *_, d in rows])
    if not rows:
        return {}
    inverse = np.linalg.pinv(design.T @ design)  # the smallest solution: leans add up to none
    leans = inverse @ design.T @ seen
    freedom = len(rows) - int(np.linalg.matrix_rank(design))
    left = float(((seen - design @ leans) ** 2).sum())
    steps = float(stdtrit(freedom, (1 + SURE) / 2)) if freedom > 0 else None
    out = {}
    for name, at in place.items():
        reach = (
            None if steps is None else steps * math.sqrt(max(inverse[at, at], 0) * left / freedom)
        )
        out[name] = Severity(float(leans[at]), reach, sum(name in (a, b) for a, b, _ in rows))
    return out


def drift(times: Sequence[float], differences: Sequence[float]) -> Drift | None:
    """Whether a marker's marks move away from another's over time.

    Args:
        times: when each piece was marked, such as weeks since the term began.
        differences: the marker's mark less the other's, points of 100.

    Returns:
        The straight line of least squares through them, with the interval of its slope (J. Neter et
        al., "Applied linear statistical models", chapter 2); None with fewer than three pieces, or
        all at one time.

    >>> drift([0, 1, 2, 3], [0, -1, -2, -3]).slope
    -1.0
    """
    n = len(times)
    if n < 3:
        return None
    t, d = np.asarray(times, float), np.asarray(differences, float)
    start = float(t.min())
    t = t - start
    spread = float(((t - t.mean()) ** 2).sum())
    if spread < 1e-12:
        return None
    slope = float(((t - t.mean()) * (d - d.mean())).sum() / spread)
    at_first = float(d.mean() - slope * t.mean())
    left = float(((d - at_first - slope * t) ** 2).sum())
    steps = float(stdtrit(n - 2, (1 + SURE) / 2))
    return Drift(slope, steps * math.sqrt(left / (n - 2) / spread), at_first, n)
