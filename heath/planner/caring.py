"""Aftercare cards: for a brief's pieces, for one, and for the student who made it."""

from datetime import date

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Piece
from heath.jobs.printing import print_later
from heath.people.policy import find
from heath.planner.planned import Planned
from heath.planner.preparing import calendar
from heath.planner.views import planned_of
from heath.web.plain import day
from juniper.planning.aftercare import aftercare, entries
from juniper.planning.calendar import as_ics


def _made(request) -> date:
    """The day that the address names, else today."""
    return day(request.GET.get("made")) or timezone.localdate()


def _care(planned: Planned, made: date):
    """The care of a brief's pieces, None while the recipe names nothing."""
    used = tuple(dict.fromkeys(i.material for i in planned.items))
    return aftercare(used, made, planned.workshop.ways) if used else None


def made_on(piece) -> date:
    """The day a piece was made, as far as it is known: when its first photograph came in, else
    today.
    """
    first = piece.photographs.order_by("pk").first()
    return timezone.localtime(first.added_at).date() if first else timezone.localdate()


@require_safe
def care(request, pk):
    """The card of a brief's pieces, made on a day."""
    planned, made = planned_of(request, pk), _made(request)
    return render(
        request,
        "planner/care.html",
        {"p": planned, "brief": planned.brief, "care": _care(planned, made), "made": made},
    )


@require_POST
def care_pdf(request, pk):
    """One card on A6 for each piece of a class; made on the day that is asked for, else on each
    piece's own.
    """
    planned = planned_of(request, pk)
    pieces = (
        planned.brief.pieces.select_related("student")
        .prefetch_related("photographs")
        .order_by(planned.brief.order)
    )
    own = [
        (p.shown_name, _care(planned, day(request.GET.get("made")) or made_on(p))) for p in pieces
    ]
    nobody = [("", _care(planned, day(request.GET.get("made")) or timezone.localdate()))]
    return cards(request, planned, own or nobody, f"care-{pk}")


def cards(request, planned: Planned, own, name: str) -> HttpResponse:
    """Cards (whose, care) as one PDF of A6 pages; Http404 while the recipe names nothing."""
    if any(c is None for _, c in own):
        raise Http404
    context, school = {"brief": planned.brief, "cards": own}, planned.brief.course.school
    return print_later(request, school, "planner/care_paper.html", context, name)


@require_safe
def care_ics(request, pk):
    """The care of a brief's pieces as a calendar."""
    planned, made = planned_of(request, pk), _made(request)
    return days(planned, made, f"care-{pk}")


def days(planned: Planned, made: date, name: str) -> HttpResponse:
    """A piece's care as a calendar."""
    found = _care(planned, made)
    if found is None:
        raise Http404
    return calendar(as_ics(entries(found), planned.brief.name, timezone.now()), name)


def _piece(request, pk) -> Piece:
    return find(request.user, Piece, "brief__course__school", "student", pk=pk)


@require_safe
def piece_care(request, pk):
    """The care of one piece as a calendar."""
    return days_of_piece(_piece(request, pk))


@require_POST
def piece_care_pdf(request, pk):
    """The card of one piece, as PDF."""
    return card_of_piece(request, _piece(request, pk))


def days_of_piece(piece) -> HttpResponse:
    """The care of a piece as a calendar; Http404 while its brief's recipe names nothing."""
    return days(Planned(piece.brief), made_on(piece), f"care-{piece.code}")


def card_of_piece(request, piece) -> HttpResponse:
    """The card of a piece, as PDF; Http404 while its brief's recipe names nothing."""
    planned = Planned(piece.brief)
    own = [(piece.shown_name, _care(planned, made_on(piece)))]
    return cards(request, planned, own, f"care-{piece.code}")
