"""The return sheet on screen and as PDF."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from heath.intake.models import Piece
from heath.people.policy import find
from heath.returns.issuing import issue_sheet
from heath.returns.models import ReturnSheet
from heath.returns.pdf import pdf_of


@require_POST
def issue(request, pk):
    """Make the sheet of a marked piece, in a new version."""
    piece = find(request.user, Piece, pk=pk)
    if piece.state not in (Piece.State.MARKED, Piece.State.RETURNED):
        return redirect("bench", pk=piece.pk)
    issue_sheet(piece, request.user)
    return redirect("sheet", pk=piece.pk)


def _latest(request, pk):
    return find(request.user, ReturnSheet, piece=pk, version=find(request.user, Piece, pk=pk).latest_sheet_version())


def sheet(request, pk):
    """The latest sheet of a piece, on screen."""
    latest = _latest(request, pk)
    return render(request, "returns/sheet.html", {"sheet": latest, "f": latest.figures, "piece": latest.piece})


def sheet_pdf(request, pk):
    """The latest sheet of a piece, as PDF (A4)."""
    latest = _latest(request, pk)
    name = "".join(c if c.isalnum() else "-" for c in f"{latest.figures['student']} {latest.figures['brief']}").strip("-")
    answer = HttpResponse(pdf_of(latest), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{name.encode("ascii", "ignore").decode() or "sheet"}.pdf"'
    return answer
