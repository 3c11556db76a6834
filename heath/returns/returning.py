"""The place where a brief's pieces are returned: all sheets, all links, and the marks' lock."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Piece
from heath.briefs.models import Brief
from heath.jobs.work import start
from heath.people.once import once
from heath.people.policy import find
from heath.returns.mailing import MAIL, as_csv, in_order, links_of
from heath.web.letters import unprinted


def _links(request, brief, pieces):
    def address(key: str) -> str:
        return request.build_absolute_uri(reverse("own-sheet", args=[key]))

    return links_of(brief, pieces, address)


@require_safe
def returning(request, pk):
    """What is marked and what is returned of a brief, and all links of it."""
    brief = find(request.user, Brief, "course__school", pk=pk)
    pieces = in_order(brief)
    links = _links(request, brief, pieces)
    states = [p.state for p in pieces]
    context = {
        "brief": brief,
        "pieces": [p for p in pieces if p.state in (Piece.State.MARKED, Piece.State.RETURNED)],
        "to_mark": states.count(Piece.State.MARKING),
        "marked": states.count(Piece.State.MARKED),
        "returned": states.count(Piece.State.RETURNED),
        "links": links,
        "text": "\n".join(f"{one.name}: {one.address}" for one in links),
        "mailed": sum(one.sheet.mailed_at is not None for one in links),
        "to_mail": sum(bool(one.email) and one.sheet.mailed_at is None for one in links),
        "without": [one.name for one in links if not one.email],
        "bundle": brief.bundles.first(),
        "unprinted": unprinted(one.name for one in links),
    }
    return render(request, "returns/returning.html", context)


@require_safe
def links_csv(request, pk):
    """All students' links of a brief as CSV."""
    brief = find(request.user, Brief, "course", pk=pk)
    answer = HttpResponse(
        as_csv(brief, _links(request, brief, in_order(brief))),
        content_type="text/csv; charset=utf-8",
    )
    answer["Content-Disposition"] = f'attachment; filename="links-{brief.pk}.csv"'
    return answer


@require_POST
@once
def links_mail(request, pk):
    """Mail each student their own link."""
    brief = find(request.user, Brief, "course__school", pk=pk)
    back = reverse("returning", args=[pk])
    given = {
        "brief": brief.pk,
        "root": request.build_absolute_uri("/").rstrip("/"),
        "reply": request.user.email,
    }
    title = f"Letters to the students of {brief.name}"
    job = start(MAIL, brief.course.school, request.user, title, given, back=back)
    return redirect("job", job.secret)
