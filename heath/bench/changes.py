"""How a piece is changed: under its lock, not while its marks are given or locked, and not over
what somebody else did meanwhile.
"""

from __future__ import annotations

from collections.abc import Callable

from django.db import transaction
from django.http import HttpResponse

from heath.assessment.models import Piece
from heath.bench.changing import obstacle, record_change
from heath.bench.context import column, piece_on_bench
from heath.people.policy import visible


class Refused(Exception):
    """A change that is not made; `words` say why and what to do, `rule` where they stand, `typed`
    what was written.
    """

    def __init__(self, words: str, rule: str = "", typed: dict | None = None):
        super().__init__(words)
        self.words, self.rule, self.typed = words, rule, typed


def change_piece(
    request, pk: int, write: Callable[[Piece], bool | None], layers: bool = False
) -> HttpResponse:
    """Do `write` to a piece under its lock and answer with the bench's column.

    Two who press at once go one after the other. `write` raises Refused for what cannot be done;
    where it gives back False, nothing was changed and the change is not counted. Pictures are read
    before or after this, never while the lock is held.
    """
    piece, refused = _locked(request, pk, write)
    if refused is None:
        return column(request, piece, layers=layers)
    return column(
        request,
        piece,
        fault=refused.words,
        fault_rule=refused.rule,
        typed=refused.typed,
        layers=layers or not refused.rule,
    )


def _locked(
    request, pk: int, write: Callable[[Piece], bool | None]
) -> tuple[Piece, Refused | None]:
    with transaction.atomic():
        every = visible(request.user, Piece, second=True)
        every.select_for_update(of=("self",)).filter(pk=pk).first()
        piece = piece_on_bench(request, pk)
        if why := obstacle(piece, request.user, request.POST.get("seen", "")):
            return piece, Refused(f"{why}{_written(request)}")
        try:
            if write(piece) is not False:
                record_change(piece, request.user)
        except Refused as refused:
            return piece, refused
    return piece, None


def _written(request) -> str:
    """What somebody wrote along with a change that is not made, so that it is not lost."""
    words = " ".join((request.POST.get("reason") or request.POST.get("words") or "").split())
    return f" You wrote: “{words}”." if words else ""
