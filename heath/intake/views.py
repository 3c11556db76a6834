"""Adding photographs, sorting them to pieces, and showing them."""

from django.conf import settings
from django.contrib import messages
from django.core.exceptions import BadRequest
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from heath.assessment.models import Photograph, Piece, View
from heath.assessment.photographs import LOCKED, remove_photograph
from heath.briefs.drawing import target
from heath.briefs.models import Brief
from heath.intake.arriving import put_aside, receive, sort_by_hand, try_again
from heath.intake.board import board
from heath.intake.links import link_in_force, make_link, token, withdraw
from heath.intake.models import Arrival
from heath.intake.papers import SHEETS, cards, handout
from heath.jobs.printing import print_later
from heath.people.once import once
from heath.people.policy import find
from heath.web.letters import unprinted
from heath.web.plain import whole
from juniper.photograph import LARGEST_BYTES, UnusablePhotograph


def _view(request) -> str:
    view = request.POST.get("view") or str(View.FRONT)
    if view not in View.values:
        raise BadRequest("There is no such view. Load the page again.")
    return view


@require_POST
def add(request, pk):
    """Add a photograph to a piece: it is read in the background. Asked by htmx, the answer is one
    sentence, and the wall is told that it has changed.
    """
    piece = find(request.user, Piece, "brief__course__school", pk=pk)
    upload, fault = request.FILES.get("photograph"), ""
    if piece.brief.locked_at:
        fault = LOCKED
    elif upload is None:
        fault = "No file came with it. Choose the photograph again."
    else:
        view = _view(request)
        receive(piece.brief, upload, user=request.user, piece=piece, view=view)
    if request.htmx:
        answer = render(request, "intake/_sent.html", {"fault": fault})
        if not fault:
            answer["HX-Trigger"] = "wall-changed"
        return answer
    if fault:
        messages.error(request, fault)
    return redirect("brief", pk=piece.brief_id)


@require_POST
def remove(request, pk):
    """Take a photograph out of force; it is kept with what was marked on it."""
    photograph = find(request.user, Photograph, pk=pk)
    try:
        remove_photograph(photograph)
    except UnusablePhotograph as error:
        messages.error(request, str(error))
    else:
        messages.info(
            request, "The photograph is removed. If you add it again, it comes back with its marks."
        )
    return redirect("intake", pk=photograph.piece.brief_id)


def intake(request, pk):
    """Where photographs of a brief come in; asked by htmx it gives the changing part alone."""
    brief = find(request.user, Brief, pk=pk)
    context = (
        {"days": settings.ORIGINALS_DAYS, "largest": LARGEST_BYTES}
        | board(brief)
        | _link(request, brief)
        | {"sheets": [(k, v[2]) for k, v in SHEETS.items()]}
        | {"unprinted": _unprinted(brief)}
    )
    return render(request, "intake/_board.html" if request.htmx else "intake/intake.html", context)


def _unprinted(brief) -> list[str]:
    """Names on the brief's cards that the type cannot print."""
    names = brief.pieces.order_by("student__sorting").values_list("student__name", flat=True)
    return [] if brief.hides_names else unprinted(names)


def _link(request, brief) -> dict:
    link = link_in_force(brief)
    address = request.build_absolute_uri(reverse("student-add", args=[token(link)])) if link else ""
    return {"link": link, "address": address}


@require_POST
def arrive(request, pk):
    """Pictures were dropped: keep each as sent and look at it in the background."""
    brief = find(request.user, Brief, pk=pk)
    uploads = request.FILES.getlist("photographs")
    for upload in uploads:
        receive(brief, upload, user=request.user)
    if request.headers.get("X-Each"):
        return HttpResponse(status=204 if uploads else 400)
    if not uploads:
        messages.error(request, "No file came with it. Choose the photographs again.")
    return redirect("intake", pk=brief.pk)


@require_POST
def sort(request, pk):
    """Sort a picture by hand, try it again, or put it aside."""
    arrival = find(request.user, Arrival, pk=pk)
    what = request.POST.get("do")
    if what == "aside":
        put_aside(arrival)
    elif what == "again":
        try_again(arrival)
    else:
        piece = find(request.user, Piece, pk=request.POST.get("piece") or 0, brief=arrival.brief_id)
        sort_by_hand(arrival, piece, _view(request))
    brief = arrival.brief
    return (
        render(request, "intake/_board.html", board(brief))
        if request.htmx
        else redirect("intake", pk=brief.pk)
    )


@require_POST
@once
def link(request, pk):
    """Make the students' link, or withdraw it."""
    brief = find(request.user, Brief, pk=pk)
    if request.POST.get("do") == "withdraw":
        withdraw(brief)
        messages.info(request, "The students' link is withdrawn; pictures that came by it stay.")
    else:
        make_link(brief, request.user)
    return redirect("intake", pk=brief.pk)


@require_POST
def cards_pdf(request, pk, sheet):
    """The reference cards of a brief, or of one piece of it."""
    brief = find(request.user, Brief, pk=pk)
    if sheet not in SHEETS:
        raise Http404
    pieces = brief.pieces.select_related("student").order_by("student__sorting")
    one = whole(request.GET.get("piece", ""))
    pieces = pieces if one is None else pieces.filter(pk=one)
    if not pieces:
        raise Http404
    template, context, pictures = cards(brief, pieces, sheet)
    school = brief.course.school
    return print_later(request, school, template, context, "reference-cards", pictures)


@require_POST
def handout_pdf(request, pk):
    """The brief's handout with the students' link."""
    brief = find(request.user, Brief, pk=pk)
    found = _link(request, brief)
    closes = found["link"].closes_at if found["link"] else None
    template, context, pictures = handout(brief, target(brief.__dict__), found["address"], closes)
    return print_later(request, brief.course.school, template, context, "handout", pictures)


def _file(field):
    if not field:
        raise Http404
    try:
        return FileResponse(field.open("rb"), content_type="image/jpeg")
    except FileNotFoundError as error:
        raise Http404 from error


@cache_control(private=True, max_age=86400, immutable=True)
def picture(request, pk, size="screen"):
    """A copy of a photograph, to those who may see it."""
    photograph = find(request.user, Photograph, second=True, pk=pk)
    return _file(getattr(photograph, size) or photograph.screen)


@cache_control(private=True, max_age=3600)
def arrival_picture(request, pk):
    """The small copy of a picture that is not sorted yet."""
    return _file(find(request.user, Arrival, pk=pk).thumb)
