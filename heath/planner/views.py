"""The stem plan of a brief, on screen and on paper."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from heath.briefs.models import Brief
from heath.interface.paper import pdf
from heath.people.policy import find
from heath.planner.drawing import drawn
from juniper.planning import Pot, cautions_for, choose_holding, order_of_placing, plan_stems


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
