"""Drawing the pieces that are marked a second time, and setting them before their markers."""

from __future__ import annotations

import random
from collections import defaultdict
from collections.abc import Sequence

from django.db import transaction

from heath.assessment.models import GIVEN, Mark, Piece
from heath.assessment.snapshot import keep_later
from heath.briefs.models import Brief
from heath.moderation.models import Round, SecondMark
from heath.people.models import User
from juniper.agreement import sample_by_mark
from juniper.photograph.code import new_code


class NothingToMark(ValueError):
    """A second marking that would have no piece; the message says why and what to do."""


def free_marks(brief: Brief) -> list[Mark]:
    """The given marks of a brief whose pieces are in no second marking yet."""
    return list(
        Mark.objects.filter(
            piece__brief=brief,
            piece__state__in=GIVEN,
            piece__second_marks=None,
            score__isnull=False,
        ).select_related("piece")
    )


@transaction.atomic
def set_round(
    brief: Brief, markers: Sequence[User], share: float, again: int, seed: int, by: User
) -> Round:
    """Draw pieces of a brief and give each to a marker, unseen.

    Args:
        brief: whose marked pieces they are.
        markers: who marks; each gets about as many as the others, and none that they marked first.
        share: how many of the marked pieces, 0..1.
        again: how many of each marker's own marked pieces come back to them among the others.
        seed: the same seed draws the same pieces.
        by: who asks for it.

    Raises:
        NothingToMark: no piece is marked, or none by somebody else than the markers.
    """
    Brief.every.select_for_update().get(pk=brief.pk)  # one round at a time
    marks = {m.piece_id: m for m in free_marks(brief)}
    if not marks:
        raise NothingToMark(
            "Every marked piece of this brief is in a second marking already, or none is marked"
            " yet. Mark some first."
        )
    chance = random.Random(seed)  # noqa: S311 - a draw that anybody may repeat
    drawn = sample_by_mark({p: m.score or 0.0 for p, m in marks.items()}, share, seed)
    given = _given_out([marks[p] for p in drawn], markers, chance)
    taken = {m.piece_id for every in given.values() for m in every}
    own = {
        user.pk: [m for p, m in marks.items() if m.accepted_by_id == user.pk and p not in taken]
        for user in markers
    }
    if not any(given.values()) and not (again and any(own.values())):
        raise NothingToMark(
            "The pieces drawn were all marked first by the people you chose. Choose another marker."
        )
    one = Round.objects.create(brief=brief, seed=seed, share=share, again=again, made_by=by)
    for user in markers:
        back = chance.sample(own[user.pk], min(again, len(own[user.pk])))
        _set_before(one, user, given[user.pk], back)
    return one


def _given_out(marks: Sequence[Mark], markers: Sequence[User], chance) -> dict[int, list[Mark]]:
    """Who marks which: nobody their own, and each about as many as the others."""
    out: dict[int, list[Mark]] = defaultdict(list)
    shuffled = sorted(marks, key=lambda m: m.piece_id)
    chance.shuffle(shuffled)
    for mark in shuffled:
        able = [u for u in markers if u.pk != mark.accepted_by_id]
        if able:
            out[min(able, key=lambda u: (len(out[u.pk]), u.pk)).pk].append(mark)
    return out


def _set_before(one: Round, user: User, marks: Sequence[Mark], back: Sequence[Mark]) -> None:
    """A brief of its own with copies of the pieces, seen by their marker only."""
    if not marks and not back:
        return
    brief = Brief.every.get(pk=one.brief_id)
    brief.pk, brief._state.adding = None, True
    brief.second_of_id, brief.marker = one.brief_id, user
    brief.name = f"Second marking: {brief.name}"[:120]
    brief.names_hidden, brief.locked_at, brief.closes_at, brief.exemplar = True, None, None, None
    brief.archived_at = None
    brief.save()
    for mark in (*marks, *back):
        copy = _copied(mark.piece, brief)
        SecondMark.objects.create(
            round=one, first=mark.piece, copy=copy, marker=user, again=mark in back
        )
        keep_later(copy.pk)


def _copied(piece: Piece, brief: Brief) -> Piece:
    """A piece with the same photographs in force as they were found, nothing put right."""
    copy = Piece.objects.create(
        brief=brief,
        student_id=piece.student_id,
        state=Piece.State.MARKING,
        code=new_code(),
        dominant=piece.dominant,
    )
    for photograph in piece.photographs.filter(current=True):
        photograph.pk, photograph._state.adding, photograph.piece = None, True, copy
        photograph.save()
    return copy
