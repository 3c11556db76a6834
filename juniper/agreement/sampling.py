"""Which pieces are marked a second time."""

from __future__ import annotations

import math
import random
from collections.abc import Mapping

STRATA = 4  # quarters of the pieces by their mark; common practice of moderation


def sample_by_mark(
    marks: Mapping[int, float], share: float, seed: int, strata: int = STRATA
) -> tuple[int, ...]:
    """A share of the pieces, spread over high and low marks.

    Args:
        marks: each piece's mark, by its number.
        share: how many of them, 0..1; one piece at the least where the share is above 0.
        seed: the same seed takes the same pieces, in whatever order they are given.
        strata: into how many parts, alike in size, the pieces are divided by their marks. Each
            gives as many as its size calls for, within one.

    Returns:
        The numbers of the pieces taken, in their order.

    Raises:
        ValueError: a share outside 0..1.

    References:
        Proportional stratified sampling: W. G. Cochran, "Sampling techniques" (1977), chapter 5.

    >>> sample_by_mark({1: 40.0, 2: 90.0, 3: 60.0, 4: 70.0}, 1.0, 7)
    (1, 2, 3, 4)
    """
    if not 0 <= share <= 1:
        raise ValueError("a share lies between 0 and 1")
    many = math.ceil(share * len(marks) - 1e-9)
    ordered = sorted(marks, key=lambda piece: (marks[piece], piece))
    chance = random.Random(seed)  # noqa: S311 - a draw that anybody may repeat
    taken: list[int] = []
    for n in range(strata):
        first, last = (len(ordered) * m // strata for m in (n, n + 1))
        due = many * (n + 1) // strata - many * n // strata
        taken += chance.sample(ordered[first:last], min(due, last - first))
    # Where a part was smaller than what it was to give, the rest comes from all others.
    rest = sorted(set(ordered) - set(taken))
    taken += chance.sample(rest, many - len(taken))
    return tuple(sorted(taken))
