"""The plan of a brief: its stems, on screen and on paper."""

from django import forms
from django.contrib import messages
from django.http import HttpResponseBadRequest
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from heath.briefs.models import Brief
from heath.jobs.printing import print_later
from heath.people.policy import find
from heath.planner.drawing import drawn
from heath.planner.models import DEPTH, LONGEST, Plan
from heath.planner.planned import Planned, made_for, own_workshop
from heath.web.length_field import LengthField
from heath.web.plain import path_within
from juniper.planning import moved
from juniper.planning.holding import STEMS
from juniper.planning.ways import BY_SLUG


class StemsForm(forms.ModelForm):
    """What a plan is told of the stems that can be had, and of what holds them."""

    depth_cm = LengthField(label="Container's depth", required=False, validators=DEPTH)
    longest_cm = LengthField(label="Longest stems you can get", required=False, validators=LONGEST)

    class Meta:
        model = Plan
        fields = ("depth_cm", "longest_cm")


class HoldingForm(forms.ModelForm):
    """What holds the stems depends on these."""

    stems = forms.MultipleChoiceField(
        label="Stems that go in",
        required=False,
        choices=[(s, s) for s in STEMS],
        widget=forms.CheckboxSelectMultiple,
    )
    clear = forms.NullBooleanField(
        label="Clear glass",
        required=False,
        widget=forms.Select(
            choices=[("unknown", "as its picture shows"), ("true", "yes"), ("false", "no")]
        ),
    )

    class Meta:
        model = Plan
        fields = ("stems", "clear")


def planned_of(request, pk) -> Planned:
    """The plan of a brief that the person may see, or Http404."""
    return Planned(find(request.user, Brief, "course__school", "shelf_container", pk=pk))


def keep(planned: Planned, user) -> None:
    """Save a plan that somebody changed."""
    planned.plan.changed_by = user
    planned.plan.save()


def _drawn(planned: Planned) -> dict:
    """What the drawing's templates are given: all that answers while a tip moves."""
    shape = planned.brief.shelf_container.container_shape if planned.brief.shelf_container else None
    drawing = drawn(
        planned.stems, planned.container, planned.core, planned.rules, shape, planned.rings
    )
    return {"p": planned, "brief": planned.brief, "drawing": drawing}


def _at_rest(planned: Planned) -> dict:
    """What is drawn once no tip moves: the water hangs on the recipe, and not on the tips."""
    context = _drawn(planned)
    return context | {"water": _water(planned, context["drawing"])}


def _water(planned: Planned, drawing) -> dict[str, float] | None:
    """Where the fill line is drawn, and where its words stand beside the container."""
    line = planned.fill_line
    if line is None or not line.height:
        return None
    height = line.height * drawing.per_cm
    beside = planned.container.width / 2 * drawing.per_cm + 8
    return {"x": drawing.middle + beside, "y": drawing.table - height, "height": height}


def shown(planned: Planned) -> dict:
    """What the plan's templates are given."""
    return _at_rest(planned) | {"holding": planned.holdings[0], "others": planned.holdings[1:]}


def plan(request, pk):
    """The plan, drawn to scale, with what to cut; what is told of stems and holding is kept."""
    planned = planned_of(request, pk)
    preparing, holding = (
        StemsForm(instance=planned.plan),
        HoldingForm(instance=planned.plan, initial={"stems": planned.kinds_of_stem}),
    )
    if request.method == "POST":
        form = HoldingForm if request.POST.get("what") == "holding" else StemsForm
        sent = form(request.POST, instance=planned.plan)
        if sent.is_valid():
            keep(planned, request.user)
            return redirect(f"{request.path}#{'holding' if form is HoldingForm else 'stems'}")
        planned = planned_of(request, pk)  # without what was wrong
        preparing, holding = (sent, holding) if form is StemsForm else (preparing, sent)
    return render(
        request,
        "planner/plan.html",
        shown(planned) | {"preparing": preparing, "holding_form": holding},
    )


@require_POST
def move(request, pk):
    """A tip that is being dragged, or was let go (`keep`): the drawing, lengths and bands with it.
    `back` puts all tips where the rules have them.
    """
    planned = planned_of(request, pk)
    mark = made_for(planned.brief, planned.rules)
    if request.POST.get("back"):
        planned.plan.tips, planned.plan.tips_for = {}, ""
        keep(planned, request.user)
        return redirect("plan", pk=pk)
    name, plain = request.POST.get("stem", ""), "text/plain; charset=utf-8"
    try:
        side, up = (float(request.POST.get(n, "")) for n in ("side", "up"))
    except ValueError:
        return HttpResponseBadRequest(
            "No place for the tip was sent. Load the page again.", content_type=plain
        )
    try:
        planned.stems = moved(planned.stems, planned.container, name, side, up)
    except ValueError as error:
        return HttpResponseBadRequest(str(error), content_type=plain)
    if request.POST.get("keep"):
        tips = planned.plan.tips if planned.tips_stand else {}
        planned.plan.tips, planned.plan.tips_for = (
            tips | {name: [round(side, 2), round(up, 2)]},
            mark,
        )
        planned.tips_stand = True
        keep(planned, request.user)
        return render(request, "planner/_live.html", _at_rest(planned))
    return render(request, "planner/_live.html", _drawn(planned))


@require_POST
def plan_pdf(request, pk):
    """The students' handout: the plan on A4, without any marks."""
    planned = planned_of(request, pk)
    school = planned.brief.course.school
    return print_later(request, school, "planner/paper.html", shown(planned), f"plan-{pk}")


@require_POST
def ways(request):
    """Choose the school's way where schools disagree."""
    workshop = own_workshop(request.user)
    for question, one in BY_SLUG.items():
        if one.way(request.POST.get(question, "")) is not None:
            workshop.ways[question] = request.POST[question]
            messages.info(request, f"{one.asks}: the school's way is kept.")
    workshop.save()
    return redirect(path_within(request, request.POST.get("next")) or "term")
