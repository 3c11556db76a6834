"""A picture in which no piece was found: a person draws over the container, and it goes to the
bench like any other.
"""

import math

from django.db import transaction
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from heath.assessment.models import Correction, Photograph, Piece, places_of
from heath.assessment.photographs import kept_copy, see_photograph
from heath.bench.changing import obstacle, record_change
from heath.jobs.models import Job
from heath.jobs.work import NotDone, handles, start
from heath.people.policy import find
from juniper.scene import ContainerDrag, placed_by_drag

NAMES = ("start_x", "start_y", "end_x", "end_y")
DRAWN = "container-drawn"
DRAG_FIRST = (
    "Drag over the container first: from one end of the rim to the opposite end of the foot."
)
NO_PLACE = "This drag has no place. Draw over the container again."


@require_http_methods(["GET", "HEAD", "POST"])
def draw_container(request, pk):
    """The picture, over which the container is drawn in one drag; then it is looked at anew by
    that.
    """
    piece = find(request.user, Piece, "brief__course__school", "student", pk=pk)
    photograph = piece.photograph
    if photograph is None or not photograph.fault:
        seen = photograph is not None and photograph.scene
        return redirect("bench" if seen else "brief", piece.pk if seen else piece.brief_id)
    fault = ""
    if request.method == "POST":
        drag, fault = _drag(request, photograph)
        fault = obstacle(piece, request.user, request.POST.get("seen", "")) or fault
        if drag and not fault:
            given = {"photograph": photograph.pk, "start": drag.start, "end": drag.end}
            title, school = f"{piece.shown_name}, by the container drawn", piece.brief.course.school
            back = reverse("draw-container", args=[pk])
            job = start(DRAWN, school, request.user, title, given, back=back)
            return redirect("job", job.secret)
    context = {"piece": piece, "brief": piece.brief, "photo": photograph, "fault": fault}
    return render(request, "bench/placing.html", context, status=422 if fault else 200)


def _drag(request, photograph: Photograph) -> tuple[ContainerDrag | None, str]:
    """What was drawn, held inside the picture; or None and why it makes no sense."""
    try:
        at = [float(request.POST[name]) for name in NAMES]
    except (KeyError, ValueError):
        return None, DRAG_FIRST
    if not all(map(math.isfinite, at)):
        return None, NO_PLACE
    most = (photograph.width, photograph.height) * 2
    at = [min(max(v, 0.0), float(m)) for v, m in zip(at, most, strict=True)]
    return ContainerDrag((at[0], at[1]), (at[2], at[3])), ""


@handles(DRAWN)
def look_by_drag(job: Job) -> None:
    """Keep what was drawn and look at the picture by it."""
    photograph = Photograph.objects.select_related("piece").get(pk=job.given["photograph"])
    drag = ContainerDrag(tuple(job.given["start"]), tuple(job.given["end"]))
    read = kept_copy(photograph)
    try:
        datum = placed_by_drag(drag, read.pixels, read.scale)
    except ValueError as error:
        raise NotDone(str(error)) from None
    with transaction.atomic():
        photograph.corrections.filter(kind=Correction.Kind.CONTAINER).update(undone=True)
        Correction.objects.create(
            photograph=photograph,
            gesture=f"drawn-{photograph.corrections.count() + 1:04d}",
            kind=Correction.Kind.CONTAINER,
            what={"start": drag.start, "end": drag.end, "places": places_of(datum)},
            made_by=job.asked_by,
        )
    see_photograph(photograph)
    photograph.refresh_from_db()
    if photograph.fault:
        raise NotDone(photograph.fault)
    record_change(Piece.objects.get(pk=photograph.piece_id), job.asked_by)
    job.to = reverse("bench", args=[photograph.piece_id])
