"""Agreement of a class's markers, setting a second marking, and settling what differs."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from heath.assessment.models import GIVEN, Photograph, Piece
from heath.assessment.reading import Reading, read
from heath.briefs.models import Brief
from heath.classes.models import Course
from heath.moderation.agreement import agreement_of
from heath.moderation.forms import RoundForm, SettleForm
from heath.moderation.models import Round, SecondMark
from heath.moderation.rounds import NothingToMark, set_round
from heath.moderation.settling import NotSettled, settle
from heath.people.models import User
from heath.people.once import once
from heath.people.policy import find, visible
from heath.practice.calibrating import leans_of, recent
from heath.web.names import FAMILY_NAMES

DIFFERENT = 0.05  # of ten: marks of a rule that differ by less are the same


def _form(request, course: Course, data=None) -> RoundForm:
    return RoundForm(
        data,
        briefs=visible(request.user, Brief).filter(course=course).order_by("-made_at"),
        people=User.objects.filter(
            memberships__school=request.user.school, memberships__has_access=True, is_active=True
        ).order_by("first_name", "last_name", "username"),
    )


def _page(request, course: Course, form: RoundForm, status: int = 200):
    context = {
        "course": course,
        "agreement": agreement_of(course),
        "form": form,
        "rounds": Round.objects.filter(brief__course=course)
        .select_related("brief", "made_by")
        .prefetch_related("seconds__marker", "seconds__copy"),
        "done": GIVEN,
        "calibrations": _calibrated(course),
    }
    return render(request, "moderation/agreement.html", context, status=status)


def _calibrated(course: Course) -> list[tuple]:
    """Of each marker who marked known pieces lately: the calibration, the lean over all, and those
    of families that are beyond chance.
    """
    out = []
    for one in recent(course.school):
        leans = leans_of(one)
        sure = [(FAMILY_NAMES[x.family], x) for x in leans if x.family and x.sure]
        out.append((one, next((x for x in leans if not x.family), None), sure))
    return out


@require_safe
def agreement(request, pk):
    """How far the markers of a class agree."""
    course = find(request.user, Course, "school", pk=pk)
    return _page(request, course, _form(request, course))


@require_POST
@once
def set_before(request, pk):
    """Draw pieces for a second marking and set them before their markers."""
    course = find(request.user, Course, "school", pk=pk)
    form = _form(request, course, request.POST)
    if form.is_valid():
        told = form.cleaned_data
        try:
            made = set_round(
                told["brief"],
                list(told["markers"]),
                told["share"] / 100,
                told["again"],
                told["seed"],
                request.user,
            )
        except NothingToMark as error:
            form.add_error(None, str(error))
        else:
            many = made.seconds.count()
            messages.info(
                request,
                f"Set for a second marking: {many} piece{'s' * (many != 1)} of {made.brief.name}."
                " Each marker finds them on their term page, without names or marks.",
            )
            return redirect("agreement", pk=pk)
    return _page(request, course, form, 422)


@dataclass(frozen=True)
class Side:
    """One marker's view of a piece: who, the mark, the reading and what is drawn of it."""

    name: str
    mark: float
    reading: Reading
    handles: tuple[dict, ...]


@dataclass(frozen=True)
class RuleBeside:
    """A rule's marks of ten by both markers, and what each said by hand ('' where nothing)."""

    title: str
    family: str
    marks: tuple[float | None, float | None]
    said: tuple[str, str]

    @property
    def apart(self) -> float:
        """How far the marks lie apart."""
        first, second = self.marks
        return abs((second or 0.0) - (first or 0.0))


HANDLES = ("rim", "base", "rim_left", "rim_right")


def _side(piece: Piece, name: str, mark: float) -> Side:
    reading = read(piece)
    places = [(h, getattr(reading.datum, h)) for h in HANDLES]
    if reading.focal is not None:
        places.append(("focal", reading.focal))
    return Side(name, mark, reading, tuple({"name": h, "x": at[0], "y": at[1]} for h, at in places))


def _beside(first: dict, second: dict) -> list[RuleBeside]:
    """The rules on which two verdicts differ, the furthest apart first."""
    rows = {x["rule"]: x for x in second["lines"]}
    out = []
    for line in first["lines"]:
        other = rows.get(line["rule"])
        if other is None or not line["weight"]:
            continue
        marks = line["score"], other["score"]
        said = line.get("overridden", ""), other.get("overridden", "")
        row = RuleBeside(
            line.get("title", line["rule"]), FAMILY_NAMES.get(line.get("family"), ""), marks, said
        )
        if row.apart >= DIFFERENT or (None in marks and marks != (None, None)) or any(said):
            out.append(row)
    return sorted(out, key=lambda r: -r.apart)


@require_http_methods(["GET", "HEAD", "POST"])
@once
def second(request, pk):
    """Both markings of one piece side by side on its picture, and settling them."""
    one = find(
        request.user,
        SecondMark,
        "first__brief__course__school",
        "first__student__level",
        "first__mark__accepted_by",
        "copy__brief__course",
        "copy__student__level",
        "marker",
        pk=pk,
    )
    course = one.first.brief.course
    before = list(one.settlements.select_related("made_by"))
    settled = before[-1] if before else None
    if one.copy.state not in GIVEN or one.first.state not in GIVEN:
        messages.info(request, "This piece is not marked by both yet.")
        return redirect("agreement", pk=course.pk)
    form = SettleForm(request.POST or None, initial={"seen": len(before)})
    if request.method == "POST" and form.is_valid():
        told = form.cleaned_data
        try:
            settle(one, told["mark"], told["reason"], request.user, told["seen"])
        except NotSettled as error:
            form.add_error(None, str(error))
        else:
            messages.info(request, f"{one.first.shown_name} is settled at {told['mark']:g}.")
            return redirect("agreement", pk=course.pk)
    first, other = one.first.mark, one.copy.mark
    verdict = settled.first_verdict if settled else first.verdict
    photo: Photograph = one.first.photograph
    sides = (
        _side(
            one.first,
            first.accepted_by.shown_name if first.accepted_by else "First marker",
            settled.first_mark if settled else first.score,
        ),
        _side(one.copy, one.marker.shown_name, other.score),
    )
    context = {
        "course": course,
        "second": one,
        "piece": one.first,
        "photo": photo,
        "sides": sides,
        "outlines_differ": sides[0].reading.outline != sides[1].reading.outline,
        "rules": _beside(verdict, other.verdict),
        "settlements": before,
        "form": form,
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "moderation/second.html", context, status=status)
