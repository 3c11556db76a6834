"""One press, one effect: a form that makes something carries a key, and what a key has made is not
made again.
"""

import hashlib
from datetime import timedelta
from functools import wraps

from django.db import transaction
from django.shortcuts import redirect
from django.utils import timezone

from heath.people.models import Press

KEPT = timedelta(days=1)


def _key(request) -> str:
    """A digest of the form's key and of all that was sent with it, so that what was changed after
    going back counts as new.
    """
    sent = sorted(
        (name, value)
        for name in request.POST
        if name != "csrfmiddlewaretoken"
        for value in request.POST.getlist(name)
    )
    files = sorted((name, file.name, file.size) for name, file in request.FILES.items())
    return hashlib.sha256(repr((sent, files)).encode("utf-8", "surrogatepass")).hexdigest()[:40]


def once(view):
    """A view whose effect comes once for each key `once` that a form sends with it; pressed again
    it leads where the first press led.

    The second press waits for the first. What led nowhere, because something was wrong with it, may
    be sent again.
    """

    @wraps(view)
    def within(request, *args, **more):
        if request.method != "POST" or request.htmx or not request.POST.get("once"):
            return view(request, *args, **more)
        key = _key(request)
        with transaction.atomic():
            press, new = Press.objects.get_or_create(user=request.user, key=key)
            if not new:
                return redirect(press.to or "term")
            answer = view(request, *args, **more)
            if answer.status_code in (301, 302):
                press.to = answer.url[:200]
                press.save(update_fields=["to"])
                Press.objects.filter(user=request.user, made_at__lt=timezone.now() - KEPT).delete()
            else:
                press.delete()
            return answer

    return within
