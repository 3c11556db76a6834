"""A picture in which no piece was found: a person draws over the container, and it goes to the
bench like any other.
"""

import math

from django.db import transaction
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from heath.assessment.models import Correction, Piece, places_of
from heath.assessment.photographs import kept_copy, see_photograph
from heath.bench.changing import obstacle, touch
from heath.people.policy import find
from juniper.scene import ContainerDrag, placed_by_drag

NAMES = ("start_x", "start_y", "end_x", "end_y")


@require_http_methods(["GET", "HEAD", "POST"])
def draw_container(request, pk):
    """The picture, over which the container is drawn in one drag; then it is looked at anew by
    that.
    """
    piece = find(request.user, Piece, "brief", "student", pk=pk)
    photograph = piece.photograph
    if photograph is None or not photograph.fault:
        return redirect(
            "bench" if photograph is not None and photograph.scene else "brief",
            piece.pk if photograph and photograph.scene else piece.brief_id,
        )
    fault = ""
    if request.method == "POST":
        fault = obstacle(piece, request.user, request.POST.get("seen", "")) or _drawn(
            request, piece, photograph
        )
        if not fault:
            return redirect("bench", piece.pk)
    context = {"piece": piece, "brief": piece.brief, "photo": photograph, "fault": fault}
    return render(request, "bench/placing.html", context, status=422 if fault else 200)


def _drawn(request, piece, photograph) -> str:
    """Keep what was drawn and look at the picture by it; why that could not be done, in words, or
    ''.
    """
    try:
        at = [float(request.POST[name]) for name in NAMES]
    except (KeyError, ValueError):
        return (
            "Drag over the container first: from one end of the rim to the opposite end of the"
            " foot."
        )
    if not all(map(math.isfinite, at)):
        return "This drag has no place. Draw over the container again."
    at = [
        min(max(v, 0.0), float(most))
        for v, most in zip(at, (photograph.width, photograph.height) * 2, strict=True)
    ]
    drag = ContainerDrag(tuple(at[:2]), tuple(at[2:]))
    read = kept_copy(photograph)
    try:
        datum = placed_by_drag(drag, read.pixels, read.scale)
    except ValueError as error:
        return str(error)
    with transaction.atomic():
        photograph.corrections.filter(kind=Correction.Kind.CONTAINER).update(undone=True)
        Correction.objects.create(
            photograph=photograph,
            gesture=f"drawn-{photograph.corrections.count() + 1:04d}",
            kind=Correction.Kind.CONTAINER,
            what={"start": drag.start, "end": drag.end, "places": places_of(datum)},
            made_by=request.user,
        )
    see_photograph(photograph)
    photograph.refresh_from_db()
    if photograph.fault:
        return photograph.fault
    piece.refresh_from_db()
    touch(piece, request.user)
    return ""
