"""What a student sees of their own record behind their link: their returned pieces, and nothing of
anybody else, nor any private note.
"""

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from heath.records.models import RecordLink
from heath.records.student_record import pieces_in_time, record_of
from heath.records.views import step_card
from heath.web.lengths import unit_of
from juniper.lengths import shown_in


def _link(key: str) -> RecordLink:
    """The link of an address, withdrawn or not, else Http404."""
    found = (
        RecordLink.objects.filter(key=key)
        .select_related("student__course__school", "student__level")
        .first()
    )
    if found is None or found.student.course.deleted_at is not None:
        raise Http404
    return found


@login_not_required
@never_cache
@require_safe
def record(request, key):
    """The record, for a phone as for a screen."""
    link = _link(key)
    if link.withdrawn_at is not None:
        return render(request, "records/withdrawn.html", status=410)
    student = link.student
    with shown_in(unit_of(student.course.school)):
        context = {
            "student": student,
            "record": record_of(student, pieces_in_time(student, returned_only=True)),
            "card": step_card(student),
            "key": key,
        }
        return render(request, "records/own.html", context)


@login_not_required
@never_cache
@require_safe
def picture(request, key, pk):
    """The photograph of one of the student's returned pieces."""
    link = _link(key)
    if link.withdrawn_at is not None:
        raise Http404
    pieces = pieces_in_time(link.student, returned_only=True)
    photograph = next((p.mark.photograph for p in pieces if p.pk == pk and p.given), None)
    if photograph is None:
        raise Http404
    with (photograph.wall or photograph.screen).open("rb") as file:
        return HttpResponse(file.read(), content_type="image/jpeg")
