"""The piece on the bench, and what its pages show of it."""

from __future__ import annotations

from django.core.exceptions import BadRequest
from django.db.models import prefetch_related_objects
from django.http import Http404, HttpResponse
from django.shortcuts import render

from heath.assessment.models import Piece
from heath.assessment.reading import handles, read
from heath.bench.changing import last_done, last_words
from heath.people.policy import find, visible
from heath.planner.planned import parts_left_out
from juniper.rules import ANSWERS, DOMINANTS
from juniper.scene import ROLES

READY = (Piece.State.MARKING, Piece.State.MARKED, Piece.State.RETURNED)
HISTORY = 41  # corrections listed
PHRASES = 9  # a marker's own, each put in by one key


def piece_on_bench(request, pk: int) -> Piece:
    """A piece with the photograph that is asked for (?view=, else the front) as `on_bench`.

    Raises Http404 for a piece or view that the person may not see or that is not there, and
    BadRequest for one without a photograph that can be marked.
    """
    joined = ("brief__course", "brief__plan", "student__level")
    piece = find(request.user, Piece, *joined, second=True, pk=pk)
    prefetch_related_objects([piece], "photographs")
    if piece.photograph is None or not piece.photograph.scene:
        raise BadRequest("This piece has no photograph that can be marked.")
    piece.on_bench = piece.photograph
    view = request.GET.get("view", piece.photograph.view)
    if view != piece.photograph.view:
        piece.on_bench = piece.view(view)
        if piece.on_bench is None or not piece.on_bench.scene:
            raise Http404
    return piece


def bench_context(
    piece: Piece, fault: str = "", fault_rule: str = "", typed: dict | None = None, layers=False
) -> dict:
    """What the bench shows of a piece: `fault` is told at the top, or at the rule `fault_rule` with
    what was `typed`; with `layers` the drawing over the photograph comes along.
    """
    reading = read(piece, shown=piece.on_bench)
    remarks = list(piece.remarks.filter(taken_back=False).select_related("made_by"))
    done = last_done(reading.corrections, reading.overrides, reading.caps, remarks)
    return {
        "piece": piece,
        "query": "" if piece.on_bench == piece.photograph else f"?view={piece.on_bench.view}",
        "views": [
            (v, name)
            for v, name, photograph, _ in piece.views
            if photograph is not None and photograph.scene
        ],
        "brief": piece.brief,
        "photo": reading.photograph,
        "reading": reading,
        "handles": handles(reading),
        "fault": fault,
        "fault_rule": fault_rule,
        "typed": typed or {},
        "history": reading.corrections[:-HISTORY:-1],
        "layers": layers,
        "roles": ROLES,
        "dominants": DOMINANTS,
        "answers": tuple(ANSWERS.values()),
        "caps": {c.family: c for c in reading.caps},
        "remarks": remarks,
        "last": last_words(done),
        "parts": () if piece.is_closed else parts_left_out(piece.brief),
        "mark_changes": list(piece.mark_changes.select_related("made_by")),
    }


def column(request, piece: Piece, **more) -> HttpResponse:
    """The column and the evidence, after something changed; see bench_context()."""
    context = bench_context(piece, **more) | {"swapped": True, "phrases": phrases(request.user)}
    return render(request, "bench/_reading.html", context)


def phrases(user) -> list:
    """A marker's own phrases that can be put in by a key, the latest used first."""
    return list(user.phrases.all()[:PHRASES])


def queue_of(user, piece: Piece) -> dict:
    """Where a piece is among those of its brief, and which one is to be marked next: the first
    after it that waits, and only then one before it.
    """
    pieces = list(
        visible(user, Piece, second=True)
        .filter(brief=piece.brief_id, state__in=READY)
        .order_by(piece.brief.order)
        .values_list("pk", "state")
    )
    order = [p for p, _ in pieces]
    place = order.index(piece.pk)
    ahead = order[place + 1 :] + order[:place]
    waiting = {p for p, state in pieces if state == Piece.State.MARKING}
    return {
        "next": next((p for p in ahead if p in waiting), None),
        "place": place + 1,
        "count": len(order),
        "previous": order[place - 1] if place else None,
        "following": order[place + 1] if place + 1 < len(order) else None,
    }
