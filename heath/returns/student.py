"""What a student sees behind the link to their sheet: that sheet and its picture, and nothing of
anybody else.
"""

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Photograph
from heath.jobs.printing import print_later
from heath.planner.caring import card_of_piece, days_of_piece
from heath.planner.planned import Planned
from heath.returns.links import in_force, sheet_at
from heath.returns.marked_up import marked_up
from heath.returns.pdf import file_name, parts
from heath.web.lengths import unit_of
from juniper.lengths import shown_in


def _own(view):
    """A page of the one sheet at an address; a withdrawn or ended one says so."""

    @login_not_required
    @never_cache
    def within(request, text, **more):
        sheet = sheet_at(text)
        if sheet is None:
            raise Http404
        if not in_force(sheet):
            return render(
                request, "returns/withdrawn.html", {"ended": sheet.withdrawn_at is None}, status=410
            )
        with shown_in(unit_of(sheet.piece.brief.course.school)):
            return view(request, sheet, text, **more)

    return within


@_own
@require_safe
def sheet(request, sheet, text):
    """The sheet, for a phone as for a screen."""
    context = {
        "sheet": sheet,
        "f": sheet.figures,
        "token": text,
        "care": bool(Planned(sheet.piece.brief).items),
    }
    return render(request, "returns/student.html", context)


@_own
@require_POST
def sheet_pdf(request, sheet, text):
    """The sheet on A4."""
    template, context, pictures = parts(sheet)
    school, name = sheet.piece.brief.course.school, file_name(sheet)
    return print_later(request, school, template, context, name, pictures)


@_own
@require_safe
def sheet_svg(request, sheet, text):
    """The marked-up picture as one SVG."""
    answer = HttpResponse(marked_up(sheet), content_type="image/svg+xml")
    answer["Content-Disposition"] = f'attachment; filename="{file_name(sheet)}.svg"'
    return answer


@_own
@require_safe
def care(request, sheet, text):
    """The aftercare of the piece as a calendar."""
    return days_of_piece(sheet.piece)


@_own
@require_POST
def care_pdf(request, sheet, text):
    """The aftercare card of the piece, as PDF."""
    return card_of_piece(request, sheet.piece)


@_own
@require_safe
def picture(request, sheet, text):
    """The photograph under the measures."""
    photograph = Photograph.objects.get(pk=sheet.figures["photograph"])
    with photograph.screen.open("rb") as file:
        return HttpResponse(file.read(), content_type="image/jpeg")
