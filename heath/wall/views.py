"""The wall of a brief, and the line-up: the same wall with measures and bands on it."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.http import urlencode
from django.views.decorators.http import require_safe

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.intake.models import Arrival
from heath.people.policy import find, visible
from heath.wall.arranging import MARK, STUDENT, Way, arrange, choices, hang, snapshots
from heath.wall.spread import spread_of
from heath.wall.steps import ONLY, shown_by
from heath.web.plain import whole

FIRST = ("governing_ratio", "height_ratio", "main_stem_width")  # what a line-up is sorted by


def _pieces(user, brief) -> list[Piece]:
    return list(
        visible(user, Piece, second=True)
        .filter(brief=brief)
        .select_related("brief__course", "brief__shelf_container", "student__level", "mark")
        .prefetch_related("photographs", "arrivals")
    )


@require_safe
def wall(request, pk, line_up=False):
    """Every piece of a brief on one wall; asked by htmx, the wall alone."""
    brief = find(request.user, Brief, "course", "shelf_container", second=True, pk=pk)
    pieces = _pieces(request.user, brief)
    kept, older = snapshots(pieces)
    measures = choices(kept)
    names = [name for name, *_ in measures]
    usual = next((n for n in FIRST if n in names), STUDENT) if line_up else STUDENT
    by = request.GET.get("by", usual)
    if by not in (STUDENT, MARK, *names):
        by = usual
    only = request.GET.get("only", "")
    only = only if only in dict(ONLY) else ""
    asked = {
        "by": by,
        "only": only,
        "group": "1" if request.GET.get("group") == "1" else "",
        "in": "cm" if request.GET.get("in") == "cm" else "",
        "show": "outline" if request.GET.get("show") == "outline" else "",
    }
    way = Way(by, bool(asked["group"]), bool(asked["in"]))
    every = hang(brief, pieces, kept, way, request.user)
    shown = [h for h in every if shown_by(only, h.piece, h.snapshot)]
    if line_up:
        shown = [h for h in shown if h.snapshot]
    arranged = arrange(brief, shown, way)
    hung = {h.piece.pk: h for h in arranged.pieces if h.snapshot}
    over = [n for n in map(whole, request.GET.get("over", "").split(",")) if n in hung][:2]
    to_mark = [h for h in every if h.piece.state == Piece.State.MARKING]
    context = {
        "brief": brief,
        "wall": arranged,
        "older": older,
        "line_up": line_up,
        "asked": asked,
        "measures": measures,
        "query": urlencode({k: v for k, v in asked.items() if v}),
        "filters": [
            (name, words, sum(shown_by(name, h.piece, h.snapshot) for h in every))
            for name, words in ONLY
        ],
        "over": over,
        "pair": [hung[n] for n in over] if len(over) == 2 else [],
        "spread": spread_of(every, float(brief.pass_mark)),
        "first": to_mark[0].piece if to_mark else None,
        "to_mark": len(to_mark),
        "to_return": sum(h.piece.state == Piece.State.MARKED for h in every),
        "count": len(every),
    }
    return render(request, "wall/_wall.html" if request.htmx else "wall/wall.html", context)


@require_safe
def state(request, pk):
    """Whether a piece that was being measured still is: nothing while so, else word to the wall to
    draw itself anew.
    """
    piece = find(request.user, Piece, second=True, pk=pk)
    sent = piece.latest_arrival
    if piece.state == Piece.State.MEASURING or (sent and sent.state == Arrival.State.WAITING):
        return HttpResponse(status=204)
    return HttpResponse(status=204, headers={"HX-Trigger": "wall-changed"})
