"""Records: all classes, a class's picture and students, a student's record, levels."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.db import transaction
from django.db.models import Count, Q
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import GIVEN, Piece
from heath.classes.models import Course, Level, Student, levels_of
from heath.jobs.printing import print_later
from heath.people.once import once
from heath.people.policy import find, visible
from heath.practice.results import class_eye
from heath.practice.rounds import renew_address
from heath.records.class_picture import class_picture
from heath.records.comparing import compare, sides
from heath.records.erasing import same_person
from heath.records.forms import LessonForm, LevelForm, NoteForm
from heath.records.models import Lesson, Note, RecordLink
from heath.records.student_record import pieces_in_time, record_of
from heath.records.titles import known_rules
from heath.web.plain import whole


@dataclass(frozen=True)
class StepCard:
    """What is asked of a student at their level, and the titles of the rules that are shown and not
    marked yet.
    """

    level: str
    asks: tuple[str, ...]
    shown: tuple[str, ...]


def step_card(student: Student) -> StepCard | None:
    """The step card of a student; None without a level."""
    level = student.level
    if level is None:
        return None
    rules = known_rules(student.course.school)
    shown = tuple(sorted(rules[c].title for c in level.shown if c in rules))
    return StepCard(level.name, tuple(level.asks), shown)


@require_safe
def records(request):
    """All classes with what their records hold, and two of them beside one another."""
    courses = list(
        visible(request.user, Course)
        .annotate(size=Count("students", filter=Q(students__removed_at=None)))
        .order_by("-made_at")
    )
    marks = dict(
        visible(request.user, Piece)
        .filter(state__in=GIVEN)
        .order_by()
        .values_list("brief__course")
        .annotate(many=Count("pk"))
    )
    for one in courses:
        one.marks = marks.get(one.pk, 0)
    first, second = (request.GET.get(name, "") for name in ("this", "with"))
    choices = sides(courses)
    terms: dict[str, list[Course]] = {}
    for one in courses:
        if one.term:
            terms.setdefault(one.term, []).append(one)
    context = {
        "courses": courses,
        "terms": [
            (term, sum(c.archived_at is not None for c in own), len(own))
            for term, own in terms.items()
        ],
        "choices": choices,
        "this": first,
        "with": second,
        "compared": compare(courses, first, second),
    }
    return render(request, "records/records.html", context)


def _course(request, pk) -> Course:
    return find(request.user, Course, "school", pk=pk)


@require_safe
def picture(request, pk):
    """The class picture."""
    course = _course(request, pk)
    context = {
        "course": course,
        "picture": class_picture(course),
        "eye": class_eye(course),
        "form": LessonForm(school=course.school),
    }
    return render(request, "records/class_picture.html", context)


@require_POST
def picture_pdf(request, pk):
    """The class picture on A4, for a meeting."""
    course = _course(request, pk)
    context = {
        "course": course,
        "picture": class_picture(course),
        "eye": class_eye(course),
        "made": timezone.localtime(),
    }
    name = f"class-picture-{course.pk}"
    return print_later(request, course.school, "records/class_paper.html", context, name)


@require_POST
@once
def lesson(request, pk):
    """Note a lesson of a class, or remove one."""
    course = _course(request, pk)
    if (number := whole(request.POST.get("remove"))) is not None:
        Lesson.objects.filter(course=course, pk=number).delete()
        return redirect("class-picture", pk=pk)
    form = LessonForm(request.POST, school=course.school)
    if not form.is_valid():
        context = {
            "course": course,
            "picture": class_picture(course),
            "eye": class_eye(course),
            "form": form,
        }
        return render(request, "records/class_picture.html", context, status=422)
    one = form.save(commit=False)
    one.course, one.made_by = course, request.user
    one.save()
    return redirect(reverse("class-picture", args=[pk]) + "#lessons")


@require_safe
def students(request, pk):
    """The students of a class with the way to each record."""
    course = _course(request, pk)
    given = Q(pieces__state__in=("marked", "returned"), pieces__brief__deleted_at=None)
    rows = (
        course.students.select_related("level")
        .annotate(marks=Count("pieces", filter=given, distinct=True))
        .order_by("removed_at", "sorting", "name")
    )
    return render(request, "records/students.html", {"course": course, "students": rows})


def _student(request, pk) -> Student:
    return find(request.user, Student, "course__school", "level", pk=pk)


def _student_page(request, one: Student, form: NoteForm, status: int = 200):
    links = list(one.record_links.filter(withdrawn_at=None)[:1])
    context = {
        "student": one,
        "course": one.course,
        "record": record_of(one, pieces_in_time(one)),
        "card": step_card(one),
        "levels": levels_of(one.course.school),
        "notes": one.notes.select_related("made_by") if request.user.instructs else [],
        "form": form,
        "link": links[0] if links else None,
        "address": request.build_absolute_uri(reverse("own-record", args=[links[0].key]))
        if links
        else "",
        "elsewhere": [s for s in same_person(request.user, one) if s.pk != one.pk],
    }
    return render(request, "records/student.html", context, status=status)


@require_safe
def student(request, pk):
    """A student's record."""
    return _student_page(request, _student(request, pk), NoteForm())


@require_POST
@once
def note(request, pk):
    """Write a private note on a student, or remove one."""
    one = _student(request, pk)
    if (number := whole(request.POST.get("remove"))) is not None:
        Note.objects.filter(student=one, pk=number).delete()
        return redirect("student-record", pk=pk)
    form = NoteForm(request.POST)
    if not form.is_valid():
        return _student_page(request, one, form, 422)
    written = form.save(commit=False)
    written.student, written.made_by = one, request.user
    written.save()
    return redirect("student-record", pk=pk)


@require_POST
def level_of(request, pk):
    """Set a student's level; pieces that are not marked yet are judged by it."""
    one = _student(request, pk)
    number = whole(request.POST.get("level"))
    one.level = find(request.user, Level, pk=number) if number else None
    one.save(update_fields=["level"])
    return redirect("student-record", pk=pk)


@require_POST
def link(request, pk):
    """Make a student's own link to their record, or withdraw it."""
    one = _student(request, pk)
    with transaction.atomic():
        one.record_links.filter(withdrawn_at=None).update(withdrawn_at=timezone.now())
        if request.POST.get("do") != "withdraw":
            RecordLink.objects.create(student=one, made_by=request.user)
    renew_address(one)
    if request.POST.get("do") == "withdraw":
        messages.info(request, "The link is withdrawn. Whoever opens it is told so.")
    return redirect("student-record", pk=pk)


@once
def levels(request):
    """The levels of a school, and adding one."""
    school = request.user.school
    form = LevelForm(request.POST or None, school=school)
    every = levels_of(school)
    if request.method == "POST" and form.is_valid():
        form.instance.place = 1 + max((x.place for x in every), default=0)
        form.save()
        return redirect("levels")
    rules = known_rules(school)
    context = {
        "form": form,
        "levels": [
            (x, sorted(rules[c].title for c in x.shown if c in rules), x.students.count())
            for x in every
        ],
    }
    return render(
        request, "records/levels.html", context, status=422 if request.method == "POST" else 200
    )


def level(request, pk):
    """Change a level, or remove it."""
    one = find(request.user, Level, pk=pk)
    if request.method == "POST" and request.POST.get("do") == "remove":
        one.delete()
        messages.info(
            request, f"{one.name} is removed. All rules are marked for students who had it."
        )
        return redirect("levels")
    form = LevelForm(request.POST or None, instance=one, school=one.school)
    if request.method == "POST" and form.is_valid():
        form.save()
        return redirect("levels")
    status = 422 if request.method == "POST" else 200
    return render(request, "records/level.html", {"form": form, "level": one}, status=status)
