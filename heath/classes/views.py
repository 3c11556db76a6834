"""Classes: their names, terms and students."""

from django.db import transaction
from django.shortcuts import redirect, render

from heath.classes.forms import CourseForm
from heath.classes.models import Course, Student
from heath.people.once import once
from heath.people.policy import find


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
