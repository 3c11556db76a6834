"""The conditioning timetable of a class, and the timer at the bench."""

from datetime import datetime, timedelta

from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.http import urlencode
from django.views.decorators.http import require_POST, require_safe

from heath.jobs.printing import print_later
from heath.planner.planned import Planned, too_late
from heath.planner.views import planned_of
from heath.web.plain import moment, whole
from juniper.planning.calendar import as_ics
from juniper.planning.conditioning import MOST_PEOPLE, SETTLE, Need, countdown, entries, timetable
from juniper.planning.materials import CAUTIONS

MOST_STEMS, MOST_NEEDS = 999, 40
USUAL_TIME = (18, 30)


def _asked(request, planned: Planned) -> dict:
    """What the address asks for: materials with their stems, the class's time, how many hands; what
    makes no sense is left out.
    """
    needs = {}
    for raw in request.GET.getlist("have")[:MOST_NEEDS]:
        slug, _, stems = raw.partition(":")
        if slug in planned.materials and 1 <= (whole(stems) or 0) <= MOST_STEMS:
            needs[slug] = Need(planned.materials[slug], int(stems))
    usual = (timezone.localtime() + timedelta(days=1)).replace(
        hour=USUAL_TIME[0], minute=USUAL_TIME[1], second=0, microsecond=0
    )
    at = moment(request.GET.get("at"))
    if at is None and planned.ready_by is not None:
        # With a lesson planned all is ready before it is counted into bags.
        usual = planned.ready_by + timedelta(minutes=SETTLE)
    at = timezone.make_aware(at) if at else usual
    people = (
        min(MOST_PEOPLE, int(request.GET["people"]))
        if request.GET.get("people", "") in ("1", "2")
        else planned.plan.people
    )
    return {"needs": needs, "at": at, "people": people}


def _address(needs: dict, at: datetime, people: int) -> str:
    """The query that asks for the same again."""
    have = [("have", f"{slug}:{need.stems}") for slug, need in needs.items()]
    return urlencode([*have, ("at", at.strftime("%Y-%m-%dT%H:%M")), ("people", people)])


def _table(planned: Planned, asked: dict) -> dict:
    """The timetable as the page and the paper show it."""
    ways = planned.workshop.ways
    jobs = timetable(tuple(asked["needs"].values()), asked["at"], asked["people"], ways)
    seared = [
        (j.material.common, countdown(j.material, ways))
        for j in jobs
        if countdown(j.material, ways)
    ]
    return asked | {
        "brief": planned.brief,
        "p": planned,
        "jobs": jobs,
        "query": _address(**asked),
        "seared": urlencode([("t", f"{name}:{seconds}") for name, seconds in seared]),
        "cautions": [
            (words, ", ".join(j.material.common for j in jobs if code in j.material.cautions))
            for code, words in CAUTIONS.items()
            if any(code in j.material.cautions for j in jobs)
        ],
        "past": asked["at"] < timezone.now(),
        "late": too_late(jobs) if jobs and asked["at"] > timezone.now() else "",
        "boiling": any("just-boiled" in step for j in jobs for step in j.what),
        "bleach": any("bleach" in step for j in jobs for step in j.what),
    }


@require_safe
def conditioning(request, pk):
    """When each material is made ready, backwards from class time. Everything asked for is in the
    address, so it can be kept and sent on; without it the recipe's materials are taken.
    """
    planned = planned_of(request, pk)
    asked = _asked(request, planned)
    needs, fault = asked["needs"], ""
    if request.GET.get("add"):
        words, stems = request.GET["add"].strip().lower(), request.GET.get("stems", "")
        one = next(
            (
                m
                for m in planned.materials.values()
                if words in (m.slug, m.common.lower(), m.botanical.lower())
            ),
            None,
        )
        if one is None:
            fault = (
                f"No material is called “{words}” in the catalogue. Choose one of those that are"
                " offered while you type."
            )
        elif not 1 <= (whole(stems) or 0) <= MOST_STEMS:
            fault = f"How many stems of {one.spoken}? A whole number from 1 to {MOST_STEMS}."
        else:
            needs[one.slug] = Need(one, int(stems))
            return redirect(f"{request.path}?{_address(**asked)}")
    elif not request.GET and planned.items:
        asked["needs"] = planned.needs
    context = _table(planned, asked)
    rows = [
        (
            job,
            _address(
                {k: v for k, v in asked["needs"].items() if k != job.material.slug},
                asked["at"],
                asked["people"],
            ),
        )
        for job in context["jobs"]
    ]
    return render(request, "planner/conditioning.html", context | {"rows": rows, "fault": fault})


@require_POST
def conditioning_pdf(request, pk):
    """The timetable on A4, to hang up."""
    planned = planned_of(request, pk)
    context = _table(planned, _asked(request, planned))
    school = planned.brief.course.school
    template, name = "planner/conditioning_paper.html", f"conditioning-{pk}"
    return print_later(request, school, template, context, name)


@require_safe
def conditioning_ics(request, pk):
    """The timetable as a calendar."""
    planned = planned_of(request, pk)
    asked = _asked(request, planned)
    jobs = timetable(
        tuple(asked["needs"].values()), asked["at"], asked["people"], planned.workshop.ways
    )
    return calendar(as_ics(entries(jobs), planned.brief.name, timezone.now()), f"conditioning-{pk}")


def calendar(text: str, name: str) -> HttpResponse:
    """A calendar to keep."""
    answer = HttpResponse(text, content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}.ics"'
    return answer


@login_not_required
@require_safe
def timer(request):
    """Countdowns at the bench: nothing of a school, so anybody may open it; once loaded it needs no
    server.
    """
    return render(request, "planner/timer.html")


@login_not_required
@require_safe
def timer_worker(request):
    """The script that keeps the timer's page for when the server is out of reach."""
    return render(request, "planner/worker.js", content_type="text/javascript; charset=utf-8")
