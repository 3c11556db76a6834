"""Changes tried on a piece's picture, of which nothing is kept."""

from __future__ import annotations

from urllib.parse import urlencode

from django.core.exceptions import BadRequest
from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe
from pydantic import ValidationError

from heath.assessment.reading import read
from heath.bench.context import piece_on_bench
from heath.bench.requests import NOT_UNDERSTOOD
from heath.bench.trying import WISHES, Wish, overlay, picture_of, try_on


def _wishes(raw: str) -> list[Wish]:
    """What is to be tried, from JSON. Raises BadRequest."""
    try:
        return WISHES.validate_json(raw or "[]")
    except ValidationError:
        raise BadRequest(NOT_UNDERSTOOD) from None


@require_POST
def try_it(request, pk):
    """What the piece would measure and score with some changes; nothing of it is kept."""
    piece = piece_on_bench(request, pk)
    changes = request.POST.get("changes", "")
    tried = try_on(piece, read(piece), _wishes(changes))
    picture = f"{reverse('tried-picture', args=[pk])}?{urlencode({'changes': changes})}"
    return render(
        request,
        "bench/_tried.html",
        {"piece": piece, "photo": tried.before.photograph, "tried": tried, "picture": picture},
    )


@require_safe
def tried_picture(request, pk):
    """The parts of the picture that a trial changes, clear elsewhere."""
    piece = piece_on_bench(request, pk)
    drawn = overlay(picture_of(piece, _wishes(request.GET.get("changes", ""))))
    return HttpResponse(
        drawn, content_type="image/png", headers={"Cache-Control": "private, max-age=60"}
    )
