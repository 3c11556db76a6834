"""Adding photographs and showing them."""

from django.http import FileResponse, Http404
from django.shortcuts import redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_POST

from heath.intake.adding import add_photograph, read_upload
from heath.intake.models import Photograph, Piece
from heath.people.policy import find
from juniper.photograph import UnusablePhotograph


@require_POST
def add(request, pk):
    """Add a photograph to a piece. The answer is the piece's row; a fault stands in it in words."""
    piece = find(request.user, Piece, pk=pk)
    upload = request.FILES.get("photograph")
    fault = remark = ""
    if upload is None:
        fault = "No file came with it. Choose the photograph again."
    else:
        try:
            _, remark = add_photograph(piece, read_upload(upload), upload.name or "", request.user)
        except UnusablePhotograph as error:
            fault = str(error)
    piece = find(request.user, Piece, pk=pk)
    if not request.htmx:
        if fault:
            return render(request, "intake/refused.html", {"piece": piece, "fault": fault}, status=422)
        return redirect("brief", pk=piece.brief_id)
    return render(request, "intake/_row.html", {"piece": piece, "fault": fault, "remark": remark})


def row(request, pk):
    """A piece's row, asked for while it is being measured."""
    piece = find(request.user, Piece, pk=pk)
    return render(request, "intake/_row.html", {"piece": piece})


@cache_control(private=True, max_age=86400, immutable=True)
def picture(request, pk):
    """The screen-size copy of a photograph, to those who may see it."""
    photograph = find(request.user, Photograph, pk=pk)
    try:
        return FileResponse(photograph.screen.open("rb"), content_type="image/jpeg")
    except FileNotFoundError as error:
        raise Http404 from error
