"""Addresses that a proxy or a monitor asks, and the page of those who look after the server."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from heath.operations.checks import QUICK, as_document, examined
from heath.operations.state import state

UNREADY = 503


@login_not_required
@never_cache
@require_safe
def live(request):
    """The process answers; nothing else is asked."""
    return HttpResponse("alive\n", content_type="text/plain")


@login_not_required
@never_cache
@require_safe
def ready(request):
    """Whether pages can be answered: 200, or 503 with the parts that are not well."""
    told = as_document(examined(QUICK))
    return JsonResponse(told, status=200 if told["ready"] else UNREADY)


@require_safe
def server(request):
    """How the server is, for those who look after it; for others there is no such page."""
    if not request.user.is_superuser:
        raise Http404
    now = state()
    faults = [one for one in now.checks if not one.well]
    return render(request, "operations/server.html", {"state": now, "faults": faults})
