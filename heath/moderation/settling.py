"""Settling two marks of one piece, with a reason; both are kept."""

from __future__ import annotations

from django.db import transaction

from heath.assessment.models import Mark, MarkChange, Piece
from heath.moderation.models import SecondMark, Settlement
from heath.people.models import User
from juniper.rules.verdict import VERDICT

SAME = 0.05  # of 100: marks that differ by less are one


class NotSettled(ValueError):
    """A settlement that is not made; the message says why and what to do."""


@transaction.atomic
def settle(second: SecondMark, mark: float, reason: str, by: User, seen: int) -> Settlement:
    """Put a settled mark in force on the piece that was marked twice.

    The piece keeps all that its first marker said, the copy all that the second said; the mark, its
    award and the reason change. A piece that was returned becomes one to return, so that the
    student gets a further sheet.

    Args:
        second: the second marking.
        mark: the mark in force from now on, of 100.
        reason: why.
        by: who settles.
        seen: how many settlements of it the person saw when they decided.

    Raises:
        NotSettled: somebody settled it meanwhile, one of the two is not marked, or the marks of the
            brief are locked.
    """
    piece = Piece.objects.select_for_update().get(pk=second.first_id)
    before = list(second.settlements.select_related("made_by"))
    if len(before) != seen:
        last = before[-1]
        who = last.made_by.shown_name if last.made_by else "Somebody"
        raise NotSettled(
            f"{who} settled this piece meanwhile, at {last.mark:g}: {last.reason}. Look at it again"
            " before you change that."
        )
    first = Mark.objects.filter(piece=piece).first()
    other = Mark.objects.filter(piece=second.copy_id).first()
    if first is None or first.score is None or other is None or other.score is None:
        raise NotSettled("Both marks must be given before they are settled.")
    if piece.brief.locked_at is not None:
        raise NotSettled("The marks of this brief are locked. Unlock them, then settle.")
    was, verdict = first.score, first.verdict
    own = before[-1] if before else None
    kept = Settlement.objects.create(
        second=second,
        mark=mark,
        first_mark=own.first_mark if own else was,
        second_mark=other.score,
        first_verdict=own.first_verdict if own else verdict,
        reason=reason,
        made_by=by,
    )
    in_force = dict(verdict) | {
        "score": round(mark, 1),
        "award": _award(piece, verdict, mark),
        "settled": {
            "mark": mark,
            "between": [round(kept.first_mark, 1), round(kept.second_mark, 1)],
            "reason": reason,
        },
    }
    # Not saved, since when the first marker gave it stays as it is.
    Mark.objects.filter(pk=first.pk).update(score=mark, verdict=in_force)
    if abs(was - mark) >= SAME:
        MarkChange.objects.create(
            piece=piece, old=was, new=mark, why=f"settled between two markers: {reason}", made_by=by
        )
    piece.revision += 1
    piece.changed_by = by
    if piece.state == Piece.State.RETURNED and abs(was - mark) >= SAME:
        piece.state = Piece.State.MARKED
    piece.save(update_fields=["revision", "changed_by", "state"])
    return kept


def _award(piece: Piece, verdict: dict, mark: float) -> str:
    """What the settled mark is called; none where the first mark could have none."""
    if verdict.get("unsafe") or verdict.get("to_answer"):
        return ""
    if verdict.get("measured", 0.0) < VERDICT.enough * verdict.get("called_for", 0.0):
        return ""  # too little was measured for any award
    marks = [m for m in (verdict.get("families") or {}).values() if m is not None]
    return piece.brief.rules.award(mark, float(piece.brief.pass_mark), min(marks, default=0.0))
