"""Making briefs, and the page of one brief with its pieces."""

from django.contrib import messages
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from heath.briefs.drawing import target
from heath.briefs.forms import BriefForm
from heath.briefs.models import Brief
from heath.briefs.palette import LARGEST, wished_from
from heath.classes.models import Course
from heath.intake.tasks import see_again
from heath.people.policy import find, visible
from heath.shelf.models import Container
from juniper.colour.formats import NoPalette


def edit(request, pk=None):
    """Make or change a brief. With `draw` an htmx request gets the drawing alone."""
    instance = find(request.user, Brief, pk=pk) if pk else None
    if not visible(request.user, Course).exists():
        messages.info(request, "A brief is set to a class: make the class first.")
        return redirect("course-new")
    initial = {"course": request.GET.get("class")} if request.GET.get("class", "").isdigit() else None
    form = BriefForm(request.POST or None, instance=instance, initial=initial, user=request.user)
    if request.htmx and request.method == "POST":
        return render(
            request, "briefs/_target.html", {"drawing": target(form.data, _shape(request.user, form.data.get("stands")))}
        )
    if request.method == "POST" and form.is_valid():
        brief = form.save()
        brief.give_pieces()
        if "stands" in form.changed_data:
            see_again(brief)
        return redirect("brief", pk=brief.pk)
    values = form.data if form.is_bound else {n: form.get_initial_for_field(f, n) for n, f in form.fields.items()}
    drawing = target(values, _shape(request.user, values.get("stands")))
    return render(request, "briefs/edit.html", {"form": form, "brief": instance, "drawing": drawing})


def _shape(user, number):
    """The shape of a container of the shelf by its number as it was sent, or None."""
    one = visible(user, Container).filter(pk=number).first() if str(number or "").isdigit() else None
    return one.vessel if one else None


@require_POST
def palette(request, pk):
    """Take the palette that the brief wishes for from a file or photograph, or leave it out again."""
    brief = find(request.user, Brief, pk=pk)
    file = request.FILES.get("file")
    if request.POST.get("none"):
        brief.wished = []
    elif file is None:
        messages.error(request, "Choose a palette's file or a photograph first.")
        return redirect("brief", pk=pk)
    else:
        try:
            brief.wished = wished_from(file.name, file.read(LARGEST + 1))
        except NoPalette as error:
            messages.error(request, str(error))
            return redirect("brief", pk=pk)
    brief.save(update_fields=["wished"])
    return redirect("brief", pk=pk)


def detail(request, pk):
    """A brief and all its pieces."""
    brief = find(request.user, Brief, pk=pk)
    pieces = (
        brief.pieces.select_related("student", "mark", "brief")
        .prefetch_related("photographs", "sheets")
        .order_by("student__name")
    )
    drawing = target(brief.__dict__, brief.stands.vessel if brief.stands else None)
    return render(request, "briefs/detail.html", {"brief": brief, "pieces": pieces, "drawing": drawing})
