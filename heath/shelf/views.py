"""The shelf of containers."""

from django.contrib import messages
from django.http import FileResponse, Http404
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from heath.assessment.photographs import too_large
from heath.jobs.models import Job
from heath.jobs.work import start
from heath.people.policy import find, visible
from heath.shelf.adding import SET, as_sent
from heath.shelf.drawing import drawn
from heath.shelf.forms import ContainerForm
from heath.shelf.models import Container

TOO_MANY = 20  # pictures at a time


def shelf(request):
    """All containers of the school; photographs sent here set new ones on it."""
    faults = []
    if request.method == "POST":
        pictures = request.FILES.getlist("pictures")
        sent = [(p.name or "picture", p.read()) for p in pictures if not too_large(p.size)]
        faults = [f"{p.name}: {words}" for p in pictures if (words := too_large(p.size))]
        if not pictures:
            faults.append("No picture came with it: choose a photograph of the empty container.")
        if len(pictures) > TOO_MANY:
            faults.append(f"{TOO_MANY} pictures at a time are the most. Choose fewer.")
        if not faults:
            title, school = "Containers for the shelf", request.user.school
            job = start(SET, school, request.user, title, sent=as_sent(sent), back=reverse("shelf"))
            return redirect("job", job.secret)
    made = visible(request.user, Job).filter(secret=request.GET.get("made", ""), kind=SET).first()
    if made is not None and made.succeeded:
        faults += made.result["faults"]
    containers = list(visible(request.user, Container))
    return render(request, "shelf/shelf.html", {"drawn": drawn(containers), "faults": faults})


def container(request, pk):
    """One container: the picture with the outline that was followed, its name and sizes."""
    one = find(request.user, Container, pk=pk)
    form = ContainerForm(request.POST or None, instance=one)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, f"{one} stands on the shelf.")
        return redirect(
            "shelf" if not one.differs else "container",
            **({} if not one.differs else {"pk": one.pk}),
        )
    return render(
        request,
        "shelf/container.html",
        {
            "form": form,
            "container": find(request.user, Container, pk=pk),
            "used": one.briefs.count(),
        },
    )


@require_POST
def remove(request, pk):
    """Take a container off the shelf. Briefs keep its name and sizes."""
    one = find(request.user, Container, pk=pk)
    if one.picture:
        one.picture.delete(save=False)
    one.delete()
    messages.success(request, f"{one} was taken off the shelf; briefs keep its name and sizes.")
    return redirect("shelf")


@cache_control(private=True, max_age=86400, immutable=True)
def picture(request, pk):
    """The picture of an empty container, to those who may see it."""
    one = find(request.user, Container, pk=pk)
    if not one.picture:
        raise Http404
    try:
        return FileResponse(one.picture.open("rb"), content_type="image/jpeg")
    except FileNotFoundError as error:
        raise Http404 from error
