"""Making briefs, and the page of one brief with its pieces."""

import json

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import Piece
from heath.assessment.snapshot import keep_later
from heath.assessment.tasks import see_again
from heath.briefs.drawing import target
from heath.briefs.exporting import HEAD, rows
from heath.briefs.forms import BriefForm
from heath.briefs.models import Brief
from heath.briefs.palette import LARGEST, PICK, is_palette, wished_from
from heath.briefs.vessels import read_vessels
from heath.classes.models import Course
from heath.drawing.groups import drawn_group
from heath.jobs.work import start
from heath.people.once import once
from heath.people.policy import find, visible
from heath.rulebook.sets import RULE_SETS
from heath.shelf.models import Container
from heath.web.plain import whole
from heath.web.tables import SHEET, as_csv, as_xlsx
from juniper.colour.formats import NoPalette
from juniper.planning import plan_group
from juniper.rules import Brief as CoreBrief
from juniper.rules import BriefVessel, school

DEFAULT_SCHOOL = Brief._meta.get_field("rule_set").default


@once
def edit(request, pk=None):
    """Make or change a brief. With `draw` an htmx request gets the drawing alone."""
    instance = find(request.user, Brief, pk=pk) if pk else None
    if not visible(request.user, Course).exists():
        messages.info(request, "A brief needs a class. Make the class first.")
        return redirect("course-new")
    initial = (
        {"course": request.GET.get("class")}
        if whole(request.GET.get("class")) is not None
        else None
    )
    form = BriefForm(request.POST or None, instance=instance, initial=initial, user=request.user)
    if request.htmx and request.method == "POST":
        return render(request, "briefs/_target.html", {"drawing": _drawn(request.user, form.data)})
    if request.method == "POST" and form.is_valid():
        brief = form.save()
        brief.give_pieces()
        if "shelf_container" in form.changed_data:
            see_again(brief)
        ready = brief.pieces.filter(photographs__current=True).distinct()
        keep_later(*ready.values_list("pk", flat=True))
        return redirect("brief", pk=brief.pk)
    values = (
        form.data
        if form.is_bound
        else {n: form.get_initial_for_field(f, n) for n, f in form.fields.items()}
    )
    context = {
        "form": form,
        "brief": instance,
        "drawing": _drawn(request.user, values),
        "courses": visible(request.user, Course),
    }
    return render(request, "briefs/edit.html", context)


def _drawn(user, values):
    """The drawing for what is filled in, by a shipped school or one of their own; what is not
    filled in yet is drawn with an example's values.
    """
    try:
        rules = RULE_SETS.in_force(user.school, str(values.get("rule_set") or DEFAULT_SCHOOL))
    except KeyError:
        rules = school(DEFAULT_SCHOOL)
    vessels = _vessels(values, user) if values.get("kind") == "several vessels" else ()
    if vessels:
        return drawn_group(plan_group(rules, CoreBrief(form="free", vessels=vessels)), 400.0, 380.0)
    return target(values, _shape(user, values.get("shelf_container")), rules)


def _vessels(values, user) -> tuple[BriefVessel, ...]:
    """The vessels of a composition as they are filled in; none while they cannot be read."""
    sent = values.get("vessels") or []
    try:
        rows = read_vessels(sent if isinstance(sent, str) else json.dumps(sent), user)
    except ValidationError:
        return ()
    return tuple(
        BriefVessel(r["name"], r["height_cm"], r["width_cm"], r["clear"], r["colour"], r["x_cm"])
        for r in rows
    )


def _shape(user, number):
    """The shape of a container of the shelf by its number as it was sent, or None."""
    one = (
        visible(user, Container).filter(pk=whole(number)).first()
        if whole(number) is not None
        else None
    )
    return one.container_shape if one else None


@require_POST
def palette(request, pk):
    """Take the palette that the brief wishes for from a file or photograph, or leave it out
    again.
    """
    brief = find(request.user, Brief, pk=pk)
    file = request.FILES.get("file")
    if request.POST.get("none"):
        return _wish(brief, [])
    if file is None:
        messages.error(request, "Choose a palette file or a photograph first.")
        return redirect("brief-change", pk=pk)
    data = file.read(LARGEST + 1)
    if not is_palette(file.name) and len(data) <= LARGEST:
        back, given = reverse("brief-change", args=[pk]), {"brief": pk, "name": file.name}
        title = f"Colours for {brief.name}"
        job = start(PICK, brief.course.school, request.user, title, given, data, back)
        return redirect("job", job.secret)
    try:
        return _wish(brief, wished_from(file.name, data))
    except NoPalette as error:
        messages.error(request, str(error))
        return redirect("brief-change", pk=pk)


def _wish(brief: Brief, wished: list[dict]):
    brief.wished = wished
    brief.save(update_fields=["wished"])
    return redirect("brief-change", pk=brief.pk)


def _pieces(brief):
    return (
        brief.pieces.select_related("student", "mark__accepted_by", "brief__course")
        .prefetch_related("photographs", "sheets", "overrides")
        .order_by(brief.order)
    )


@require_safe
def marks(request, pk, suffix):
    """The marks of a brief as CSV or spreadsheet."""
    brief = find(request.user, Brief, pk=pk)

    def link(piece):
        return request.build_absolute_uri(reverse("own-sheet", args=[piece.latest_sheet.key]))

    table = rows(brief, list(_pieces(brief)), link)
    if suffix == "csv":
        answer = HttpResponse(as_csv(HEAD, table), content_type="text/csv; charset=utf-8")
    else:
        answer = HttpResponse(as_xlsx(brief.name, HEAD, table), content_type=SHEET)
    answer["Content-Disposition"] = f'attachment; filename="marks-{brief.pk}.{suffix}"'
    return answer


@require_POST
@once
def copy(request, pk):
    """Set the same brief again: to its class, or to another one, to be changed before the class
    sees it.
    """
    brief = find(request.user, Brief, pk=pk)
    course = find(request.user, Course, pk=request.POST.get("course") or brief.course_id)
    again = Brief.objects.get(pk=brief.pk)
    again.pk, again._state.adding = None, True
    again.course, again.exemplar, again.locked_at, again.closes_at = course, None, None, None
    again.name = f"{brief.name} (copy)"[:120]
    again.save()
    again.give_pieces()
    return redirect("brief-change", pk=again.pk)


@require_POST
def names(request, pk):
    """Hide or show names, lock or unlock the marks of a brief."""
    brief = find(request.user, Brief, pk=pk)
    what = request.POST.get("do")
    if what == "lock":
        if brief.pieces.filter(state=Piece.State.MARKING).exists():
            messages.error(request, "Some pieces are not marked yet. Mark them, then lock.")
            return redirect("returning", pk=pk)
        brief.locked_at = timezone.now()
    elif what == "unlock":
        brief.locked_at = None
    elif what in ("hide", "show"):
        brief.names_hidden = what == "hide"
    brief.save(update_fields=["locked_at", "names_hidden"])
    return redirect("returning", pk=pk)
