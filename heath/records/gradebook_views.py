"""The gradebook's pages and files."""

from __future__ import annotations

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Piece
from heath.classes.models import Course, Student
from heath.people.policy import find
from heath.records.forms import (
    AttendanceForm,
    CorrectionForm,
    GradebookForm,
    ReasonedForm,
    weights_from,
)
from heath.records.gradebook import book_of, gradebook_of
from heath.records.gradebook_files import table_of
from heath.records.models import CAME, Attendance, MarkCorrection
from heath.records.school_list import SchoolListForm, take_over
from heath.web.plain import whole
from heath.web.tables import SHEET, as_csv, as_xlsx
from juniper.records import EXCUSED, MISSING


def _course(request, pk) -> Course:
    return find(request.user, Course, "school", pk=pk)


def _page(request, course: Course, status: int = 200, **more):
    context = {
        "course": course,
        "book": book_of(course),
        "came": CAME,
        "form": GradebookForm(instance=gradebook_of(course)),
        "list_form": SchoolListForm(),
        "faults": [],
        "open": whole(request.GET.get("open")),
    }
    return render(request, "records/gradebook.html", context | more, status=status)


def gradebook(request, pk):
    """The gradebook; what is sent is how the term's mark is made."""
    course = _course(request, pk)
    if request.method != "POST":
        return _page(request, course)
    form = GradebookForm(request.POST, instance=gradebook_of(course))
    briefs = list(course.briefs.filter(deleted_at=None).select_related("weight"))
    weights, faults = weights_from(request.POST, briefs)
    if not form.is_valid() or faults:
        return _page(request, course, 422, form=form, faults=faults, settings_open=True)
    with transaction.atomic():
        form.save()
        for one in weights.values():
            one.save()
    messages.info(request, "Saved. The term's marks are worked out anew.")
    return redirect("gradebook", pk=pk)


@require_POST
def cell(request, pk):
    """What an instructor says of one student's mark: how the piece came, or a corrected mark."""
    course = _course(request, pk)
    student = find(request.user, Student, pk=whole(request.POST.get("student")) or 0)
    number = whole(request.POST.get("piece"))
    piece = find(request.user, Piece, pk=number, brief__course=course) if number else None
    own = student.course_id == course.pk if piece is None else piece.student_id == student.pk
    if not own:
        raise Http404
    done = _say(request, student, piece)
    if done:
        typed = {name: request.POST.get(name, "") for name in ("mark", "reason", "came")}
        at = {"student": student.pk, "piece": number, "fault": done, "typed": typed}
        return _page(request, course, 422, said=at, open=student.pk)
    return redirect(reverse("gradebook", args=[pk]) + f"?open={student.pk}#student-{student.pk}")


def _say(request, student: Student, piece: Piece | None) -> str:
    """Write down what was sent; a sentence where it cannot be, else ''."""
    what = request.POST.get("do")
    if what == "take back":
        MarkCorrection.objects.filter(student=student, piece=piece, taken_back=False).update(
            taken_back=True
        )
        return ""
    if what == "correct":
        form = CorrectionForm(request.POST)
        if form.is_valid():
            form.kept(student, piece, request.user)
        return _fault(form)
    if piece is None:
        raise Http404
    return _say_how_it_came(request, piece)


def _say_how_it_came(request, piece: Piece) -> str:
    """Write down how a piece came; as its closing time tells where nothing is chosen."""
    if request.POST.get("came") == "":
        Attendance.objects.filter(piece=piece).delete()
        return ""
    kept = Attendance.objects.filter(piece=piece).first() or Attendance(piece=piece)
    said = AttendanceForm(request.POST, instance=kept)
    fault = _fault(said)
    if not fault and said.cleaned_data["came"] in (EXCUSED, MISSING):
        fault = _fault(ReasonedForm(request.POST))
    if not fault:
        said.instance.made_by = request.user
        said.save()
    return fault


def _fault(form) -> str:
    """What is wrong with a form, in sentences; '' where nothing is."""
    return " ".join(error for errors in form.errors.values() for error in errors)


@require_safe
def download(request, pk, layout, suffix):
    """The gradebook as CSV or as a spreadsheet, a row a student or a row a mark."""
    course = _course(request, pk)
    head, rows = table_of(book_of(course), layout)
    if suffix == "csv":
        answer = HttpResponse(as_csv(head, rows), content_type="text/csv; charset=utf-8")
    else:
        answer = HttpResponse(as_xlsx(course.name, head, rows), content_type=SHEET)
    name = f"gradebook-{course.pk}-{layout}.{suffix}"
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


@require_POST
def school_list(request, pk):
    """Take names, numbers and addresses over from the school's own list."""
    course = _course(request, pk)
    form = SchoolListForm(request.POST, request.FILES)
    if form.is_valid():
        done = take_over(course, form.cleaned_data["entries"])
        if not done.faults:
            messages.info(request, done.words)
            return redirect("gradebook", pk=pk)
        for fault in done.faults:
            form.add_error(None, fault)
    return _page(request, course, 422, list_form=form, list_open=True)
