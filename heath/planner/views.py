"""The stem plan of a brief, on screen and on paper, and the conditioning timetable of its class."""

from datetime import datetime, timedelta

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.utils.http import urlencode
from django.views.decorators.http import require_safe

from heath.briefs.models import Brief
from heath.interface.paper import pdf
from heath.people.policy import find
from heath.planner.drawing import drawn
from juniper.planning import Pot, cautions_for, choose_holding, order_of_placing, plan_stems
from juniper.planning.conditioning import MOST_PEOPLE, Need, as_ics, timetable
from juniper.planning.materials import CAUTIONS, as_csv, as_json, catalogue


def _planned(request, pk) -> dict:
    brief = find(request.user, Brief, "course", "stands", pk=pk)
    pot = Pot(float(brief.container_height_cm), float(brief.container_width_cm))
    made = plan_stems(brief.rule_set, pot, brief.as_core())
    shape = brief.stands.vessel if brief.stands else None
    clear = bool(shape and shape.clear)
    first, *others = choose_holding(pot, clear=clear)
    return {
        "brief": brief,
        "plan": made,
        "drawing": drawn(made, pot, shape),
        "rules": brief.rule_set,
        "holding": first,
        "others": others,
        "steps": order_of_placing(brief.form, brief.rule_set.slug),
        "cautions": cautions_for(pot, made, first, clear),
    }


@require_safe
def plan(request, pk):
    """The plan, drawn to scale, with what to cut."""
    return render(request, "planner/plan.html", _planned(request, pk))


@require_safe
def plan_pdf(request, pk):
    """The students' handout: the plan on A4, without any marks."""
    context = _planned(request, pk)
    answer = HttpResponse(pdf("planner/paper.html", context, {}), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="plan-{pk}.pdf"'
    return answer


MOST_STEMS, MOST_NEEDS = 999, 40
USUAL_TIME = (18, 30)


def _asked(request) -> dict:
    """What the address asks for: materials with their stems, the class's time, how many hands; what makes no sense is left out."""
    known = {m.slug: m for m in catalogue()}
    needs = {}
    for raw in request.GET.getlist("have")[:MOST_NEEDS]:
        slug, _, stems = raw.partition(":")
        if slug in known and stems.isdigit() and 1 <= int(stems) <= MOST_STEMS:
            needs[slug] = Need(known[slug], int(stems))
    usual = (timezone.localtime() + timedelta(days=1)).replace(hour=USUAL_TIME[0], minute=USUAL_TIME[1], second=0, microsecond=0)
    try:
        at = timezone.make_aware(datetime.fromisoformat(request.GET.get("at", "")).replace(tzinfo=None))
    except ValueError:
        at = usual
    people = min(MOST_PEOPLE, int(request.GET["people"])) if request.GET.get("people", "") in ("1", "2") else 1
    return {"needs": needs, "at": at, "people": people}


def _address(needs: dict, at: datetime, people: int) -> str:
    """The query that asks for the same again."""
    have = [("have", f"{slug}:{need.stems}") for slug, need in needs.items()]
    return urlencode([*have, ("at", at.strftime("%Y-%m-%dT%H:%M")), ("people", people)])


@require_safe
def conditioning(request, pk):
    """When each material is made ready, backwards from class time. Everything asked for is in the address, so it can be kept and sent on."""
    brief = find(request.user, Brief, "course", pk=pk)
    asked = _asked(request)
    needs, fault = asked["needs"], ""
    if request.GET.get("add"):
        words, stems = request.GET["add"].strip().lower(), request.GET.get("stems", "")
        one = next((m for m in catalogue() if words in (m.slug, m.common.lower(), m.botanical.lower())), None)
        if one is None:
            fault = f"No material is called “{words}” in the catalogue. Choose one of those that are offered while you type."
        elif not (stems.isdigit() and 1 <= int(stems) <= MOST_STEMS):
            fault = f"How many stems of {one.common.lower()}? A whole number from 1 to {MOST_STEMS}."
        else:
            needs[one.slug] = Need(one, int(stems))
            return redirect(f"{request.path}?{_address(**asked)}")
    jobs = timetable(tuple(needs.values()), asked["at"], asked["people"])
    rows = [
        (job, _address({k: v for k, v in needs.items() if k != job.material.slug}, asked["at"], asked["people"])) for job in jobs
    ]
    context = asked | {
        "brief": brief,
        "rows": rows,
        "fault": fault,
        "query": _address(**asked),
        "materials": catalogue(),
        "cautions": [
            (words, ", ".join(j.material.common for j in jobs if code in j.material.cautions))
            for code, words in CAUTIONS.items()
            if any(code in j.material.cautions for j in jobs)
        ],
        "boiling": any("just-boiled" in step for j in jobs for step in j.what),
    }
    return render(request, "planner/conditioning.html", context)


@require_safe
def conditioning_ics(request, pk):
    """The timetable as a calendar."""
    brief, asked = find(request.user, Brief, pk=pk), _asked(request)
    jobs = timetable(tuple(asked["needs"].values()), asked["at"], asked["people"])
    answer = HttpResponse(as_ics(jobs, brief.name, timezone.now()), content_type="text/calendar; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="conditioning-{pk}.ics"'
    return answer


@require_safe
def materials(request):
    """The catalogue, those whose name holds some words."""
    words = " ".join(request.GET.get("words", "").lower().split())
    found = [m for m in catalogue() if words in f"{m.common} {m.botanical} {m.role}".lower()]
    return render(request, "planner/materials.html", {"materials": found, "words": words, "cautions": CAUTIONS})


@require_safe
def materials_file(request, suffix):
    """The catalogue as CSV or JSON."""
    text, kind = (as_csv(catalogue()), "text/csv") if suffix == "csv" else (as_json(catalogue()), "application/json")
    answer = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="materials.{suffix}"'
    return answer
