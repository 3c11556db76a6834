"""Term at a glance, and classes."""

from django.db import transaction
from django.db.models import Count, Q
from django.shortcuts import redirect, render

from heath.briefs.models import Brief
from heath.classes.forms import CourseForm
from heath.classes.models import Course, Student
from heath.intake.models import Piece
from heath.people.policy import find, visible


def term(request):
    """Classes and briefs, and what waits for a photograph, for marking, for return."""
    states = {state: Count("pieces", filter=Q(pieces__state=state)) for state in Piece.State.values}
    briefs = visible(request.user, Brief).select_related("course").annotate(made=Count("pieces"), **states)
    courses = visible(request.user, Course).annotate(size=Count("students"))
    first = (
        visible(request.user, Piece)
        .filter(state=Piece.State.MARKING)
        .select_related("brief", "student")
        .order_by("brief__made_at", "student__name")
        .first()
    )
    return render(request, "classes/term.html", {"courses": courses, "briefs": briefs, "first": first})


def course(request, pk=None):
    """Make a class, or see one and add to it."""
    instance = find(request.user, Course, pk=pk) if pk else None
    form = CourseForm(request.POST or None, request.FILES or None, instance=instance, school=request.user.school)
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            saved = form.save()
            Student.objects.bulk_create(
                [Student(course=saved, name=name) for name in form.cleaned_data["names"]], ignore_conflicts=True
            )
            for brief in saved.briefs.all():
                brief.give_pieces()
        return redirect("course", pk=saved.pk)
    context = {"form": form, "course": instance}
    if instance:
        context["students"] = instance.students.all()
        context["briefs"] = instance.briefs.all()
    return render(request, "classes/course.html", context)
