"""Term at a glance, and classes."""

from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import Count, Exists, OuterRef, Q
from django.shortcuts import redirect, render

from heath.briefs.models import Brief
from heath.classes.forms import CourseForm
from heath.classes.models import Course, Student
from heath.intake.models import Piece
from heath.people.once import once
from heath.people.policy import find, visible

PAST, MOST = 6, 60  # returned briefs shown beside the open ones, and open ones at most
PAGE = 50  # briefs on a page of all


def _counted(briefs):
    """Briefs with their class and how many of their pieces are in each state."""
    states = {state: Count("pieces", filter=Q(pieces__state=state)) for state in Piece.State.values}
    return (
        briefs.select_related("course")
        .annotate(made=Count("pieces"), **states)
        .order_by("-made_at")
    )


def term(request):
    """Classes and briefs, and what waits for a photograph, for marking, for return."""
    briefs = visible(request.user, Brief).order_by("-made_at")
    waiting = Exists(Piece.objects.filter(brief=OuterRef("pk")).exclude(state=Piece.State.RETURNED))
    open_ = list(briefs.filter(waiting).values_list("pk", flat=True)[:MOST])
    past = list(briefs.exclude(waiting).values_list("pk", flat=True)[:PAST])
    courses = (
        visible(request.user, Course).annotate(size=Count("students")).order_by("-made_at")[:PAST]
    )
    first = (
        visible(request.user, Piece)
        .filter(state=Piece.State.MARKING)
        .select_related("brief", "student")
        .order_by("brief__made_at", "student__name")
        .first()
    )
    shown = _counted(visible(request.user, Brief).filter(pk__in=open_ + past))
    return render(
        request, "classes/term.html", {"courses": courses, "briefs": shown, "first": first}
    )


def every_brief(request):
    """All briefs of all terms, a page at a time, or those whose name or class holds some words."""
    words = " ".join(request.GET.get("words", "").split())
    briefs = visible(request.user, Brief).order_by("-made_at")
    if words:
        briefs = briefs.filter(Q(name__icontains=words) | Q(course__name__icontains=words))
    page = Paginator(briefs.values_list("pk", flat=True), PAGE).get_page(request.GET.get("page"))
    shown = _counted(visible(request.user, Brief).filter(pk__in=list(page)))
    return render(
        request, "classes/every_brief.html", {"briefs": shown, "page": page, "words": words}
    )


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
                [Student(course=saved, name=name) for name in form.cleaned_data["names"]],
                ignore_conflicts=True,
            )
            for brief in saved.briefs.all():
                brief.give_pieces()
        return redirect("course", pk=saved.pk)
    context = {"form": form, "course": instance}
    if instance:
        context["students"] = instance.students.all()
        context["briefs"] = instance.briefs.all()
    return render(request, "classes/course.html", context)
