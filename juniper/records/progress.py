"""How a student does on one rule from piece to piece."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

HELD = 9.0  # of ten: a rule whose mark is no less is held; as "met" in words (common practice)
STEP = 1.0  # of ten: a change smaller than this is none that a photograph can tell


@dataclass(frozen=True)
class Outcome:
    """One rule's outcome in one piece: its mark of ten (None where it was not judged), and whether
    the photograph cannot tell on which side of the band it lies.
    """

    score: float | None
    borderline: bool = False

    @property
    def sure(self) -> bool:
        """Whether the rule was held beyond doubt."""
        return self.score is not None and self.score >= HELD and not self.borderline


class Taken(StrEnum):
    """What became of a next cut in the piece after."""

    TAKEN = "taken"
    PARTLY = "partly"
    NOT_TAKEN = "not taken"
    NOT_JUDGED = "not judged"


def first_and_last_sure(outcomes: Sequence[Outcome]) -> tuple[int | None, int | None]:
    """In which pieces, from 0 in time, a rule was surely held for the first and the last time; None
    for both where it never was.

    >>> first_and_last_sure([Outcome(4.0), Outcome(9.6), Outcome(10.0, True)])
    (1, 1)
    """
    held = [n for n, outcome in enumerate(outcomes) if outcome.sure]
    return (held[0], held[-1]) if held else (None, None)


def taken(before: Outcome | None, after: Outcome | None) -> Taken:
    """Whether a student took a next cut to heart: the rule it was about, in the piece for which it
    was given and in the next one where it was judged.

    It is taken where the rule is then held, partly where its mark rose by a whole point of ten at
    least, and not judged where either piece has no mark for it.

    >>> str(taken(Outcome(4.0), Outcome(9.5))), str(taken(Outcome(4.0), Outcome(4.5)))
    ('taken', 'not taken')
    """
    if before is None or after is None or before.score is None or after.score is None:
        return Taken.NOT_JUDGED
    if after.score >= HELD:
        return Taken.TAKEN
    return Taken.PARTLY if after.score - before.score >= STEP else Taken.NOT_TAKEN
