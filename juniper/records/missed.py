"""Which rules a class keeps missing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from juniper.records.progress import HELD


@dataclass(frozen=True)
class Missed:
    """One rule over many pieces: of `judged` pieces those that did not hold it, the worst first;
    `lost` is how many points of a piece's 100 it cost the mean piece.
    """

    rule: str
    pieces: tuple[int, ...]
    judged: int
    lost: float

    @property
    def share(self) -> float:
        """The share of the judged pieces that missed it."""
        return len(self.pieces) / self.judged


def most_missed(rows: Iterable[tuple[str, int, float, float]]) -> tuple[Missed, ...]:
    """The rules that cost a class most.

    Args:
        rows: of each judged line its rule, the piece, its mark of ten, and its weight as a share of
            the piece's whole weight, 0..1.

    Returns:
        One entry a rule, the dearest first; rules that every piece held are left out.

    >>> [m.rule for m in most_missed([("rim", 1, 4.0, 0.1), ("height", 1, 9.0, 0.5)])]
    ['rim']
    """
    by_rule: dict[str, list[tuple[float, int, float]]] = defaultdict(list)
    for rule, piece, mark, share in rows:
        by_rule[rule].append((mark, piece, share))
    out = []
    for rule, lines in by_rule.items():
        missed = sorted((mark, piece) for mark, piece, share in lines if mark < HELD and share > 0)
        lost = sum(10 * (10 - mark) * share for mark, _, share in lines) / len(lines)
        if missed:
            out.append(Missed(rule, tuple(piece for _, piece in missed), len(lines), lost))
    return tuple(sorted(out, key=lambda m: (-m.lost, m.rule)))
