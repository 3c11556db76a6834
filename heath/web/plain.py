"""What is asked and sent, made plain before a view sees it: text that can be kept, and whole
numbers.
"""

import re
from datetime import date, datetime

from django.core.exceptions import RequestDataTooBig, TooManyFieldsSent, TooManyFilesSent
from django.shortcuts import render
from django.utils.http import url_has_allowed_host_and_scheme

NUMBER = re.compile(r"[0-9]{1,9}")
YEARS = range(1990, 2200)  # of dates that a person gives
KEPT_OUT = (
    "What was sent holds a character that cannot be kept (NUL). Go back, take it out, and send it"
    " again."
)
TOO_MUCH = "This is more than can be sent at once. Go back and send less of it."


def whole(text) -> int | None:
    """The whole number from 0 to 999,999,999 that a text holds in plain figures, or None."""
    text = str(text or "")
    return int(text) if NUMBER.fullmatch(text) else None


def day(text) -> date | None:
    """The day of a text such as 2026-11-29, or None."""
    try:
        found = date.fromisoformat(str(text or ""))
    except ValueError:
        return None
    return found if found.year in YEARS else None


def moment(text) -> datetime | None:
    """The local time of a text such as 2026-11-29T18:30, without a zone, or None."""
    try:
        found = datetime.fromisoformat(str(text or "")).replace(tzinfo=None)
    except ValueError:
        return None
    return found if found.year in YEARS else None


def path_within(request, to) -> str:
    """The path on this site that a request names as the next one, or ''."""
    to = str(to or "")
    return (
        to
        if to.startswith("/")
        and url_has_allowed_host_and_scheme(to, {request.get_host()}, request.is_secure())
        else ""
    )


class Plain:
    """Middleware: a request with text that the database cannot keep is answered in words."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        if "\0" in request.path or _holds_nul(request.GET):
            return _refused(request, KEPT_OUT, 400)
        return self.get_response(request)

    def process_view(self, request, view, args, kwargs):
        """A refusal, or None where all that was sent is plain."""
        try:
            if _holds_nul(request.POST):
                return _refused(request, KEPT_OUT, 400)
        except (RequestDataTooBig, TooManyFieldsSent, TooManyFilesSent):
            return _refused(request, TOO_MUCH, 413)
        return None


def _holds_nul(sent) -> bool:
    return any(
        "\0" in name or any("\0" in value for value in values) for name, values in sent.lists()
    )


def _refused(request, words, status):
    return render(request, "web/refused.html", {"words": words}, status=status)
