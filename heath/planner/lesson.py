"""The lesson of a brief: a bag for each student, what is bought and when, who does what in which
minute, on screen, on paper, as a table and as a calendar.
"""

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from heath.jobs.printing import print_later
from heath.planner.models import Plan
from heath.planner.planned import Planned
from heath.planner.preparing import calendar
from heath.planner.views import keep, planned_of
from heath.web.tables import as_csv
from juniper.planning import conditioning, lesson
from juniper.planning.calendar import as_ics

SHOPPING = (
    *("buy_on", "material", "botanical", "stage", "stems"),
    *("bunches", "stems_in_a_bunch", "cost"),
)


class LessonForm(forms.ModelForm):
    """When the lesson is, who helps, and how the finished pieces come to their place."""

    lesson_at = forms.DateTimeField(
        label="Begins",
        widget=forms.DateTimeInput(attrs={"type": "datetime-local"}, format="%Y-%m-%dT%H:%M"),
        error_messages={"required": "When does the lesson begin? Choose a day and a time."},
    )
    people = forms.TypedChoiceField(
        label="People", coerce=int, choices=[(1, "one"), (2, "two: a helper as well")]
    )

    class Meta:
        model = Plan
        fields = ("lesson_at", "lesson_minutes", "people", "transport", "way_minutes")
        labels = {
            "lesson_minutes": "Minutes",
            "transport": "The finished pieces",
            "way_minutes": "Minutes on the way",
        }


def _pupils(planned: Planned) -> list:
    """(name, code) of everybody who has a bag; names are hidden where the brief hides them."""
    pieces = planned.brief.pieces.select_related("student").order_by(planned.brief.order)
    return [(p.shown_name, p.code) for p in pieces]


def shown(planned: Planned) -> dict:
    """What the lesson's templates are given."""
    rows, fault = planned.run_sheet
    begins = planned.plan.lesson_at
    return {
        "p": planned,
        "brief": planned.brief,
        "rows": rows,
        "no_time": fault,
        "late": bool(begins and begins < timezone.now()),
        "who": dict(enumerate(("everybody", *lesson.WHO))),
    }


def plan(request, pk):
    """The lesson; what is told of it is kept."""
    planned, status = planned_of(request, pk), 200
    form = LessonForm(instance=planned.plan)
    if request.method == "POST":
        form = LessonForm(request.POST, instance=planned.plan)
        if form.is_valid():
            keep(planned, request.user)
            return redirect("lesson-plan", pk=pk)
        planned, status = planned_of(request, pk), 422  # without what was wrong
    return render(request, "planner/lesson.html", shown(planned) | {"form": form}, status=status)


@require_POST
def paper(request, pk):
    """The lesson sheet: run-sheet, board, shopping list and a label for each bag."""
    planned = planned_of(request, pk)
    context = shown(planned) | {"pupils": _pupils(planned)}
    school = planned.brief.course.school
    return print_later(request, school, "planner/lesson_paper.html", context, f"lesson-{pk}")


@require_safe
def shopping(request, pk):
    """The shopping list as CSV: day, material, stage, stems, bunches and their size."""
    planned = planned_of(request, pk)
    rows = [
        (
            one.on.isoformat(),
            one.material.common,
            one.material.botanical,
            one.stage,
            one.stems,
            line.bunches,
            size,
            line.cost,
        )
        for one, line, size in planned.purchases
    ]
    answer = HttpResponse(as_csv(SHOPPING, rows), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="shopping-{pk}.csv"'
    return answer


@require_safe
def days(request, pk):
    """Conditioning and lesson as one calendar."""
    planned = planned_of(request, pk)
    entries = (*conditioning.entries(planned.jobs), *lesson.entries(planned.run_sheet[0]))
    return calendar(as_ics(entries, planned.brief.name, timezone.now()), f"lesson-{pk}")
