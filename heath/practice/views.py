"""Eye practice as instructors and assistants see it: their own rounds, their classes, the rounds
set for them, and how it is taught.
"""

from __future__ import annotations

import segno
from django.contrib import messages
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from heath.classes.models import Course
from heath.people.once import once
from heath.people.policy import find, visible
from heath.practice import rounds
from heath.practice.calibrating import leans_of
from heath.practice.forms import ClassRoundForm, PracticeSettingsForm
from heath.practice.learner_views import NO_PICTURES
from heath.practice.models import Calibration, ClassRound, PracticePicture
from heath.practice.results import class_eye, skill_rows, taken_part
from juniper.learning import SKILL, SKILLS


@require_safe
def practice(request):
    """The place: one's own practice, the classes, calibration before an evening."""
    one = rounds.learner_of_user(request.user)
    courses = visible(request.user, Course).filter(archived_at=None)
    latest = Calibration.objects.filter(user=request.user, school=request.user.school).first()
    context = {
        "learner": one,
        "rows": skill_rows(one),
        "skills": SKILLS,
        "courses": [(c, c.practice_rounds.filter(withdrawn_at=None).count()) for c in courses],
        "calibration": latest,
        "leans": leans_of(latest) if latest else [],
        "pictures": PracticePicture.objects.filter(number__isnull=False).count(),
        "form": PracticeSettingsForm(instance=rounds.settings_of(request.user.school)),
    }
    return render(request, "practice/practice.html", context)


@require_POST
def start_own(request):
    """Begin a round of one's own."""
    one = rounds.learner_of_user(request.user)
    skills = tuple(s for s in request.POST.getlist("skill") if s in SKILL)
    try:
        made = rounds.start(one, skills)
    except rounds.NothingToAsk:
        messages.info(request, NO_PICTURES)
        return redirect("practice")
    return redirect("eye-round", key=one.key, pk=made.pk)


@require_POST
def settings(request):
    """By which rules it is taught, and whether past pieces are shown."""
    own = rounds.settings_of(request.user.school)
    form = PracticeSettingsForm(request.POST, instance=own)
    if form.is_valid():
        form.save()
        messages.info(request, "Kept. Pieces that are shown from now on are there in some minutes.")
    else:
        messages.error(request, "Choose one of the rule sets.")
    return redirect("practice")


@once
def of_class(request, pk):
    """A class by skill over time, and the rounds set for it; sent: a new one."""
    course = find(request.user, Course, "school", pk=pk)
    form = ClassRoundForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        made = form.save(commit=False)
        made.course, made.made_by = course, request.user
        made.save()
        messages.info(request, f"{made.name} is set. Give the class its link.")
        return redirect("practice-round", pk=made.pk)
    context = {
        "course": course,
        "form": form,
        "eye": class_eye(course),
        "set_rounds": taken_part(course.practice_rounds.all()),
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "practice/class.html", context, status=status)


def set_round(request, pk):
    """A round set for a class: its link to hand out; sent: withdrawn, or opened again."""
    found = find(request.user, ClassRound, "course", pk=pk)
    if request.method == "POST":
        withdrawn = request.POST.get("do") == "withdraw"
        found.withdrawn_at = timezone.now() if withdrawn else None
        found.save(update_fields=["withdrawn_at"])
        messages.info(request, "The link is closed." if withdrawn else "The link is open again.")
        return redirect("practice-round", pk=pk)
    address = request.build_absolute_uri(f"/look/{found.key}/")
    context = {
        "course": found.course,
        "set_round": found,
        "address": address,
        "code": segno.make(address, error="m").svg_inline(scale=4, border=2, omitsize=True),
        "taken": taken_part([found])[0],
        "skills": [SKILL[c].title for c in found.skills if c in SKILL],
    }
    return render(request, "practice/set_round.html", context)
