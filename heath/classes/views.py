"""Classes: their names, terms and students."""

from django.contrib import messages
from django.db import transaction
from django.db.models import Count, Q
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Mark, Piece
from heath.classes.forms import CourseForm
from heath.classes.models import Course, Student
from heath.classes.naming import sorting_key
from heath.classes.people import NotMoved, StudentForm, give_places, move, remove, take_back
from heath.people.keeping import WAY_BACK, keep, meant
from heath.people.once import once
from heath.people.policy import deleted, find, visible
from heath.web.letters import unprinted

RECENT = 20  # classes that a student may be moved to, the newest first


@require_safe
def classes(request):
    """All classes, those in use first, and those that can be brought back."""
    present = Count("students", filter=Q(students__removed_at=None), distinct=True)
    open_briefs = Count(
        "briefs", filter=Q(briefs__deleted_at=None, briefs__archived_at=None), distinct=True
    )
    every = list(
        visible(request.user, Course)
        .annotate(size=present, set_briefs=open_briefs)
        .order_by("-made_at")
    )
    context = {
        "courses": [c for c in every if c.archived_at is None],
        "archived": [c for c in every if c.archived_at is not None],
        "deleted": deleted(request.user, Course) if request.user.instructs else [],
    }
    return render(request, "classes/classes.html", context)


@once
def course(request, pk=None):
    """Make a class, or see one and add to it."""
    instance = find(request.user, Course, pk=pk) if pk else None
    form = CourseForm(
        request.POST or None, request.FILES or None, instance=instance, school=request.user.school
    )
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            saved = form.save()
            Student.objects.bulk_create(
                [
                    Student(
                        course=saved,
                        name=e.name,
                        email=e.email,
                        number=e.number,
                        sorting=sorting_key(e.name, e.family),
                    )
                    for e in form.cleaned_data["entries"]
                ],
                ignore_conflicts=True,
            )
            give_places(saved)
        return redirect("course", pk=saved.pk)
    return _page(request, instance, form)


def _page(request, course: Course | None, form, faulty: StudentForm | None = None):
    context = {"form": form, "course": course, "faulty": faulty}
    if course:
        made = Count("pieces", filter=~Q(pieces__state=Piece.State.WAITING))
        every = list(course.students.annotate(made=made).order_by("sorting", "name"))
        context |= {
            "students": [s for s in every if s.removed_at is None],
            "removed": [s for s in every if s.removed_at is not None],
            "unprinted": unprinted(s.name for s in every if s.removed_at is None),
            "briefs": course.briefs.filter(deleted_at=None),
            "others": visible(request.user, Course)
            .filter(archived_at=None)
            .exclude(pk=course.pk)
            .order_by("-made_at")[:RECENT],
        }
    return render(request, "classes/course.html", context, status=422 if faulty else 200)


@require_POST
def student(request, pk):
    """Change a student's name or address, move, remove or take back."""
    one = find(request.user, Student, "course", pk=pk)
    course, what = one.course, request.POST.get("do")
    if what == "remove":
        remove(one)
        messages.info(
            request, f"{one.name} is removed. The pieces stay; Take back brings the name back."
        )
    elif what == "back":
        take_back(one)
    elif what == "move":
        to = find(request.user, Course, pk=request.POST.get("to") or 0)
        try:
            move(one, to)
            messages.info(request, f"{one.name} is now in {to.name}.")
        except NotMoved as error:
            messages.error(request, str(error))
    else:
        form = StudentForm(request.POST, instance=one)
        if not form.is_valid():
            return _page(request, course, CourseForm(instance=course), form)
        form.save()
    return redirect("course", pk=course.pk)


def course_keep(request, pk):
    """Archive a class, delete it, or bring it back; before deleting, what goes with it is shown."""
    what = request.POST.get("do", "")
    one = meant(request.user, Course, pk, what)
    if one is None:
        return redirect("classes")
    if request.method == "POST":
        keep(one, what)
        return redirect("course", pk=pk) if what == "restore" else redirect("classes")
    pieces = Piece.objects.filter(brief__course=one)
    context = {
        "title": one.name,
        "kind": "class",
        "back": one.get_absolute_url(),
        "days": WAY_BACK.days,
        "lost": [
            ("student", one.students.count()),
            ("brief", one.briefs.filter(deleted_at=None).count()),
            ("photographed piece", pieces.exclude(state=Piece.State.WAITING).count()),
            ("mark", Mark.objects.filter(piece__in=pieces).count()),
            ("returned sheet", pieces.filter(state=Piece.State.RETURNED).count()),
        ],
    }
    return render(request, "web/delete.html", context)
