"""The shelf of containers."""

from django.contrib import messages
from django.http import FileResponse, Http404
from django.shortcuts import redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from heath.assessment.decoding import decoding
from heath.assessment.photographs import read_upload
from heath.people.policy import find, visible
from heath.shelf.adding import add_container
from heath.shelf.drawing import drawn
from heath.shelf.forms import ContainerForm
from heath.shelf.models import Container
from juniper.photograph import UnusablePhotograph
from juniper.scene import NothingFound

TOO_MANY = 20  # pictures at a time


def shelf(request):
    """All containers of the school; photographs sent here set new ones on it."""
    faults = []
    if request.method == "POST":
        pictures = request.FILES.getlist("pictures")
        if not pictures:
            faults.append("No picture came with it: choose a photograph of the empty container.")
        if len(pictures) > TOO_MANY:
            faults.append(
                f"{TOO_MANY} pictures at a time are the most; the first {TOO_MANY} were taken."
            )
        new = None
        for upload in pictures[:TOO_MANY]:
            try:
                with decoding():
                    new = add_container(
                        request.user.school, read_upload(upload), upload.name or "", request.user
                    )
            except (UnusablePhotograph, NothingFound) as error:
                faults.append(f"{upload.name}: {error}")
        if not faults:
            return redirect("container", pk=new.pk) if len(pictures) == 1 else redirect("shelf")
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
