"""What a student sees of their own record behind their link: their returned pieces, and nothing of
anybody else, nor any private note.
"""

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from heath.exemplars.models import Exemplar
from heath.exemplars.shelf import change_permission
from heath.intake.student import stored_page
from heath.practice.rounds import learner_of_student
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
            "exemplars": Exemplar.objects.filter(piece__student=student).select_related(
                "piece__brief"
            ),
        }
        return render(request, "records/own.html", context)


@login_not_required
@never_cache
@require_safe
def stored(request, key):
    """What the school stores about the student."""
    link = _link(key)
    return stored_page(request, link.student.course.school, reverse("own-record", args=[key]))


@login_not_required
@never_cache
@require_safe
def practice(request, key):
    """To the student's own eye practice."""
    link = _link(key)
    if link.withdrawn_at is not None:
        return render(request, "records/withdrawn.html", status=410)
    return redirect("eye", key=learner_of_student(link.student).key)


@login_not_required
@never_cache
@require_POST
def permission(request, key, pk):
    """The student allows that a piece of theirs is shown as an exemplar, or withdraws that."""
    link = _link(key)
    one = Exemplar.objects.filter(piece=pk, piece__student=link.student).first()
    if link.withdrawn_at is not None or one is None:
        raise Http404
    state = Exemplar.State
    if request.POST.get("do") == "allow":
        change_permission(one, state.ALLOWED, "by the student, on the page of their record")
    else:
        change_permission(one, state.WITHDRAWN)
    return redirect("own-record", key=key)


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
