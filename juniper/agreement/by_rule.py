"""On which rules two markers agree, and on which nobody does."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from statistics import fmean

from juniper.agreement.kappa import Kappa, weighted_kappa

STATES = ("missed", "near", "met")
# A rule whose marks lie further apart, of ten, in the mean: it is to be talked over (common
# practice: a mark of ten more than one step apart is another judgement).
APART = 1.0
FEW = 3  # pieces under which nothing is said of a rule


@dataclass(frozen=True)
class RuleAgreement:
    """One rule in `pieces` marked twice: how far the marks of ten lie apart in the mean (`apart`),
    by how much the second is the higher (`lean`), and the agreement on met, near and missed.
    """

    rule: str
    pieces: int
    apart: float
    lean: float
    kappa: Kappa

    @property
    def in_dispute(self) -> bool:
        """Whether it is to be talked over."""
        return self.pieces >= FEW and self.apart >= APART


def by_rule(rows: Iterable[tuple[str, float, float]]) -> tuple[RuleAgreement, ...]:
    """Agreement rule by rule, the one that is furthest apart first.

    Args:
        rows: of each rule in each piece, its code and its marks of ten by both markers.

    >>> [(r.rule, r.apart) for r in by_rule([("rim", 4.0, 9.0), ("height", 8.0, 8.0)])]
    [('rim', 5.0), ('height', 0.0)]
    """
    marks: dict[str, list[tuple[float, float]]] = defaultdict(list)
    for rule, first, second in rows:
        marks[rule].append((first, second))
    out = [
        RuleAgreement(
            rule,
            len(pairs),
            fmean(abs(b - a) for a, b in pairs),
            fmean(b - a for a, b in pairs),
            weighted_kappa(
                [state_of(a) for a, _ in pairs], [state_of(b) for _, b in pairs], STATES
            ),
        )
        for rule, pairs in marks.items()
    ]
    return tuple(sorted(out, key=lambda r: (-r.apart, r.rule)))


def state_of(mark: float) -> str:
    """What a mark of ten says: met, near or missed, as a mark set by hand is read.

    >>> state_of(10.0), state_of(4.0), state_of(0.0)
    ('met', 'near', 'missed')
    """
    return "met" if mark >= 9.95 else "near" if mark > 0 else "missed"
