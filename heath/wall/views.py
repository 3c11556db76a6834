"""The line-up of a brief's pieces."""

from django.shortcuts import render
from django.utils.http import urlencode
from django.views.decorators.http import require_safe

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.people.policy import find, visible
from heath.wall.arranging import MARK, READY, STUDENT, arrange, choices, snapshots
from heath.web.plain import whole


@require_safe
def line_up(request, pk):
    """Every piece of a brief on one wall; asked by htmx, the wall alone."""
    brief = find(request.user, Brief, "course", pk=pk)
    pieces = [
        p
        for p in (
            visible(request.user, Piece)
            .filter(brief=brief, state__in=READY)
            .select_related("brief__course", "student")
            .prefetch_related("photographs")
        )
        if p.photograph is not None and p.photograph.scene
    ]
    kept = snapshots(pieces)
    measures = choices(pieces, kept)
    by = request.GET.get("by", STUDENT)
    if by not in (STUDENT, MARK, *(name for name, *_ in measures)):
        by = STUDENT
    way = {
        "by": by,
        "group": "1" if request.GET.get("group") == "1" else "",
        "in": "cm" if request.GET.get("in") == "cm" else "",
        "show": "photo" if request.GET.get("show") == "photo" else "",
    }
    wall = arrange(brief, pieces, kept, by, bool(way["group"]), bool(way["in"]))
    arranged = {h.piece.pk: h for _, own in wall.groups for h in own}
    over = [n for n in map(whole, request.GET.get("over", "").split(",")) if n in arranged][:2]
    context = {
        "brief": brief,
        "wall": wall,
        "way": way,
        "measures": measures,
        "query": urlencode({k: v for k, v in way.items() if v}),
        "over": over,
        "pair": [arranged[n] for n in over] if len(over) == 2 else [],
        "count": len(pieces),
    }
    return render(request, "wall/_wall.html" if request.htmx else "wall/line_up.html", context)
