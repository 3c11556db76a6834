"""What a draft would have done to pieces already marked."""

from __future__ import annotations

from dataclasses import dataclass

from heath.bench.reading import read
from heath.intake.models import Piece
from heath.rulebook.models import RuleSetVersion


@dataclass(frozen=True)
class Effect:
    """What a rule set would do to a marked piece."""

    piece: Piece
    old: float | None
    new: float | None
    old_award: str
    new_award: str

    @property
    def step(self) -> float:
        """Change of the total."""
        return (self.new or 0) - (self.old or 0)

    @property
    def moves(self) -> bool:
        """Whether it changes the award."""
        return self.old_award != self.new_award


def effects(draft: RuleSetVersion, pieces) -> list[Effect]:
    """What a draft would have done to pieces already marked, the largest change first. Nothing is
    written.
    """
    out = []
    for piece in pieces:
        new = read(piece).assessment.under(draft.rule_set).verdict
        old = piece.mark
        out.append(Effect(piece, old.score, new.score, old.verdict.get("award", ""), new.award))
    return sorted(out, key=lambda e: -abs(e.step))
