"""A marker marks ten known pieces, and sees how they lean."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from heath.people.policy import find
from heath.practice import calibrating, rounds
from heath.practice.models import Calibration, PracticePicture
from heath.web.names import FAMILY_NAMES
from juniper.learning.pictures import SCHOOLS
from juniper.rules import school as rules_of


@require_POST
def begin(request):
    """Draw the pieces."""
    slug = request.POST.get("rules", "")
    if slug not in SCHOOLS:
        slug = SCHOOLS[0]
    try:
        made = calibrating.begin(request.user, slug)
    except calibrating.NoPieces:
        messages.info(request, "The known pieces are being made ready. Try again in a few minutes.")
        return redirect("practice")
    return redirect("calibration", pk=made.pk)


def calibration(request, pk):
    """The piece that waits for marks, or the lean; sent: the marks of one piece."""
    one = find(request.user, Calibration, pk=pk)
    if one.user_id != request.user.pk:
        raise Http404
    place = calibrating.present(one)
    if request.method == "POST":
        return _given(request, one)
    if place is None:
        return render(request, "practice/leans.html", _leans(one))
    picture = PracticePicture.objects.get(pk=one.pictures[place - 1])
    context = {
        "calibration": one,
        "place": place,
        "count": len(one.pictures),
        "picture": picture,
        "study": picture.as_study,
        "rules": rules_of(one.rules),
        "families": [(f, FAMILY_NAMES[f]) for f in calibrating.families_of(one, place)],
        "learner": rounds.learner_of_user(request.user),
    }
    return render(request, "practice/calibration.html", context)


def _given(request, one: Calibration):
    try:
        place = int(request.POST.get("place", ""))
        if not 1 <= place <= len(one.pictures):
            raise ValueError
    except ValueError as error:
        raise Http404 from error
    marks = {}
    for family in calibrating.families_of(one, place):
        try:
            value = float(request.POST.get(family, ""))
        except ValueError:
            value = -1.0
        if not 0 <= value <= 10:
            messages.error(request, "Give each family a mark from 0 to 10.")
            return redirect("calibration", pk=one.pk)
        marks[family] = value
    calibrating.give(one, place, marks)
    return redirect("calibration", pk=one.pk)


def _leans(one: Calibration) -> dict:
    rows = []
    pictures = PracticePicture.objects.in_bulk(one.pictures)
    for given in one.given.all():
        cells = [
            (FAMILY_NAMES[f], given.marks[f], given.known[f])
            for f in given.known
            if f in given.marks
        ]
        rows.append((given.place, pictures.get(one.pictures[given.place - 1]), cells))
    return {
        "calibration": one,
        "leans": [(FAMILY_NAMES.get(x.family, "All"), x) for x in calibrating.leans_of(one)],
        "rows": rows,
        "rules": rules_of(one.rules),
        "learner": rounds.learner_of_user(one.user),
    }
