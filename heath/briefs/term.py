"""Term at a glance, and all briefs of all terms."""

from django.core.paginator import Paginator
from django.db.models import Count, Exists, OuterRef, Q
from django.shortcuts import render

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.classes.models import Course
from heath.people.policy import visible

PAST, MOST = 6, 60  # returned briefs shown beside the open ones, and open ones at most
PAGE = 50  # briefs on a page of all


def _counted(briefs):
    """Briefs with their class and how many of their pieces are in each state."""
    states = {state: Count("pieces", filter=Q(pieces__state=state)) for state in Piece.State.values}
    return (
        briefs.select_related("course")
        .annotate(made=Count("pieces"), **states)
        .order_by("-made_at")
    )


def term(request):
    """Classes and briefs, and what waits for a photograph, for marking, for return."""
    briefs = visible(request.user, Brief).order_by("-made_at")
    waiting = Exists(Piece.objects.filter(brief=OuterRef("pk")).exclude(state=Piece.State.RETURNED))
    open_ = list(briefs.filter(waiting).values_list("pk", flat=True)[:MOST])
    past = list(briefs.exclude(waiting).values_list("pk", flat=True)[:PAST])
    courses = (
        visible(request.user, Course).annotate(size=Count("students")).order_by("-made_at")[:PAST]
    )
    first = (
        visible(request.user, Piece)
        .filter(state=Piece.State.MARKING)
        .select_related("brief", "student")
        .order_by("brief__made_at", "student__name")
        .first()
    )
    shown = _counted(visible(request.user, Brief).filter(pk__in=open_ + past))
    return render(
        request, "briefs/term.html", {"courses": courses, "briefs": shown, "first": first}
    )


def every_brief(request):
    """All briefs of all terms, a page at a time, or those whose name or class holds some words."""
    words = " ".join(request.GET.get("words", "").split())
    briefs = visible(request.user, Brief).order_by("-made_at")
    if words:
        briefs = briefs.filter(Q(name__icontains=words) | Q(course__name__icontains=words))
    page = Paginator(briefs.values_list("pk", flat=True), PAGE).get_page(request.GET.get("page"))
    shown = _counted(visible(request.user, Brief).filter(pk__in=list(page)))
    return render(
        request, "briefs/every_brief.html", {"briefs": shown, "page": page, "words": words}
    )
