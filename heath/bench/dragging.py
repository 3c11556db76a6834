"""A piece while one of its handles is dragged.

A drag asks some ten times a second. What it needs of the piece is kept by the process between two
moves of a gesture for as long as nobody changes the piece; only whether the person may still see it
and whether it has changed is asked each time.
"""

from __future__ import annotations

from threading import Lock

from cachetools import TTLCache
from django.db.models import prefetch_related_objects

from heath.assessment.models import Photograph, Piece
from heath.bench.context import piece_on_bench
from heath.people.policy import visible

KEPT = 64  # drags of a process at once
# seconds that a change of the brief, which counts no revision of its pieces, may go unseen by a
# drag; once the handle rests everything is read anew
UNSEEN = 3.0
# what of a piece, its brief and its class ends what is kept
FACTS = ("revision", "state", "brief__locked_at", "brief__course__archived_at")

_kept: TTLCache[tuple, tuple[tuple | None, Piece]] = TTLCache(KEPT, UNSEEN)
_lock = Lock()


def piece_dragged(request, pk: int, gesture: str) -> Piece:
    """The piece that a gesture drags a handle of, as piece_on_bench() has it, with corrections,
    words, caps and answers. Raises what that raises.
    """
    key = (request.user.pk, pk, gesture, request.GET.get("view"))
    facts = visible(request.user, Piece, second=True).filter(pk=pk).values_list(*FACTS).first()
    with _lock:
        before, piece = _kept.get(key, (None, None))
    if piece is not None and before == facts:
        return piece
    piece = piece_on_bench(request, pk)
    prefetch_related_objects([piece], "photographs__corrections", "overrides", "caps", "answers")
    with _lock:
        _kept[key] = (facts, piece)
    return piece


def note_move(photograph: Photograph, gesture: str, made: dict) -> None:
    """Lay a move that was written over the correction of its gesture, as it is kept."""
    for correction in photograph.corrections.all():
        if correction.gesture == gesture:
            for name, value in made.items():
                setattr(correction, name, value)
