"""The return sheet on screen and as PDF; a class's sheets together."""

from datetime import datetime, time

from django import forms
from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.jobs.printing import print_later
from heath.people.once import once
from heath.people.policy import find
from heath.returns.issuing import NamesHidden, NotToReturn, issue_sheet, withdraw_sheet
from heath.returns.marked_up import marked_up
from heath.returns.models import Bundle, ReturnSheet
from heath.returns.pdf import file_name, parts
from heath.returns.tasks import make_bundle


@require_POST
@once
def issue(request, pk):
    """Make the sheet of a marked piece, in a new version."""
    piece = find(request.user, Piece, pk=pk)
    if piece.state not in (Piece.State.MARKED, Piece.State.RETURNED):
        return redirect("bench", pk=piece.pk)
    try:
        issue_sheet(piece, request.user)
    except NotToReturn as error:
        messages.error(request, str(error))
        # Marks are locked where pieces are returned; a question is answered on the bench.
        return (
            redirect("returning", pk=piece.brief_id)
            if isinstance(error, NamesHidden)
            else redirect("bench", pk=piece.pk)
        )
    return redirect("sheet", pk=piece.pk)


def _latest(request, pk):
    newest = find(request.user, Piece, pk=pk).latest_sheet_version()
    found = find(
        request.user, ReturnSheet, "piece__brief", "piece__student", piece=pk, version=newest
    )
    if found.piece.brief.hides_names:  # an earlier sheet, on the school's own pages
        found.figures = found.figures | {"student": found.piece.shown_name}
    return found


def sheet(request, pk):
    """The latest sheet of a piece, on screen."""
    latest = _latest(request, pk)
    own = request.build_absolute_uri(reverse("own-sheet", args=[latest.key]))
    context = {"sheet": latest, "f": latest.figures, "piece": latest.piece, "own": own}
    return render(request, "returns/sheet.html", context)


@require_POST
def withdraw(request, pk):
    """Take the latest sheet of a piece back."""
    withdraw_sheet(_latest(request, pk), request.user)
    messages.info(
        request,
        "The sheet is withdrawn: the student's link says so. Returning the piece again makes a new"
        " version at a new address.",
    )
    return redirect("sheet", pk=pk)


@require_POST
def ends(request, pk):
    """Set the last day on which a piece's latest sheet is shown at its address, or none."""
    latest = _latest(request, pk)
    try:
        day = forms.DateField(required=False, input_formats=["%Y-%m-%d"]).clean(
            request.POST.get("ends", "")
        )
    except forms.ValidationError:
        messages.error(
            request, "This is no day. Write it as year, month and day, such as 2027-01-31."
        )
    else:
        latest.ends_at = timezone.make_aware(datetime.combine(day, time.max)) if day else None
        latest.save(update_fields=["ends_at"])
    return redirect("sheet", pk=pk)


@require_POST
def sheet_pdf(request, pk):
    """The latest sheet of a piece, as PDF (A4)."""
    latest = _latest(request, pk)
    template, context, pictures = parts(latest)
    school, name = latest.piece.brief.course.school, file_name(latest)
    return print_later(request, school, template, context, name, pictures)


def sheet_svg(request, pk):
    """The marked-up picture of the latest sheet, as one SVG."""
    latest = _latest(request, pk)
    answer = HttpResponse(marked_up(latest), content_type="image/svg+xml")
    answer["Content-Disposition"] = f'attachment; filename="{file_name(latest)}.svg"'
    return answer


@require_POST
@once
def return_all(request, pk):
    """Return every marked piece of a brief and make one PDF of all its sheets, in the
    background.
    """
    brief = find(request.user, Brief, pk=pk)
    if brief.hides_names:
        messages.error(request, "Names are hidden: lock the marks first, then return the sheets.")
        return redirect("returning", pk=pk)
    for old in brief.bundles.all():
        old.file.delete(save=False)
        old.delete()
    bundle = Bundle.objects.create(brief=brief, made_by=request.user)
    make_bundle.defer(bundle_id=bundle.pk)
    return redirect("returning", pk=pk)


@require_safe
def bundle(request, pk):
    """How far a class's PDF is."""
    return render(request, "returns/_bundle.html", {"bundle": find(request.user, Bundle, pk=pk)})


@require_safe
def bundle_file(request, pk):
    """A class's PDF."""
    one = find(request.user, Bundle, "brief", pk=pk)
    if not one.ready:
        raise Http404
    return FileResponse(
        one.file.open("rb"), content_type="application/pdf", filename=f"sheets-{one.brief_id}.pdf"
    )
