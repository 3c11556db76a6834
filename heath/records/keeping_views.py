"""Archiving a term, and deleting a person's data with a receipt."""

from __future__ import annotations

from django.contrib import messages
from django.http import FileResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from heath.classes.models import Course, Student
from heath.people.policy import find, visible
from heath.records.erasing import erase, held_on, same_person
from heath.records.models import Erasure
from heath.records.person_export import export


@require_POST
def archive_term(request):
    """Archive all classes of a term, so that they can be read and not changed, or use them
    again.
    """
    term = request.POST.get("term", "")
    again = request.POST.get("do") == "unarchive"
    if term:
        many = (
            visible(request.user, Course)
            .filter(term=term, archived_at__isnull=not again)
            .update(archived_at=None if again else timezone.now())
        )
        what = "can be changed again" if again else "can be read now, and not changed"
        messages.info(request, f"{many} class{'es' * (many != 1)} of {term} {what}.")
    return redirect("records")


@require_http_methods(["GET", "HEAD", "POST"])
def student_erase(request, pk):
    """What is held on a person; sent, it is deleted for good."""
    one = find(request.user, Student, "course__school", pk=pk)
    every = same_person(request.user, one)
    wanted = set(request.POST.getlist("student"))
    chosen = [s for s in every if str(s.pk) in wanted] if request.method == "POST" else every
    fault = ""
    if request.method == "POST":
        if not chosen:
            fault = "Choose at least one of the places in classes."
        elif request.POST.get("sure") != "1":
            fault = "Tick that you are sure: this cannot be undone."
        else:
            receipt = erase(chosen, request.user)
            messages.info(request, f"All that was held on {one.name} is deleted.")
            return redirect("erasure", receipt.code)
    context = {
        "student": one,
        "course": one.course,
        "places": every,
        "chosen": chosen,
        "held": held_on(every),
        "fault": fault,
    }
    status = 422 if fault else 200
    return render(request, "records/erase.html", context, status=status)


@require_safe
def student_held(request, pk):
    """Everything that is held on a person, as a ZIP."""
    one = find(request.user, Student, "course__school", pk=pk)
    name = f"held-{timezone.localdate():%Y-%m-%d}.zip"
    return FileResponse(export(same_person(request.user, one)), as_attachment=True, filename=name)


@require_safe
def erasure(request, code):
    """The receipt, as a page or as JSON."""
    receipt = find(request.user, Erasure, "school", "made_by", code=code)
    if request.GET.get("as") != "json":
        return render(request, "records/erasure.html", {"receipt": receipt})
    answer = JsonResponse(
        {
            "receipt": receipt.code,
            "school": receipt.school.name,
            "deleted_at": receipt.made_at.isoformat(),
            "deleted": receipt.counts,
            "photographs_sha256": receipt.digests,
        },
        json_dumps_params={"indent": 1, "ensure_ascii": False},
    )
    answer["Content-Disposition"] = f'attachment; filename="receipt-{receipt.pk}.json"'
    return answer
