"""Addresses that a proxy or a monitor asks: whether a process answers, and whether it can work."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse, JsonResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe

from heath.operations.checks import QUICK, as_document, examined

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
