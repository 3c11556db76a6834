"""What a request meets that nobody is signed in for, or that comes from before the last sign-in.

A script that sends in the background is never led to the sign-in page: it would take that page
for its answer, and what it sent would be lost.
"""

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpResponse
from django.shortcuts import render

SIGNED_OUT = "You are signed out. Sign in again: what you changed here is kept."
OLDER = (
    "This page is older than your last sign-in. Load it again and send it again: what you typed is"
    " kept."
)


def in_background(request) -> bool:
    """Whether a script sent this request and not the browser for a page of its own.

    Browsers name what a request is for (Fetch Metadata, W3C working draft of 2021).
    """
    return "HX-Request" in request.headers or request.headers.get("Sec-Fetch-Dest") == "empty"


class SignedIn(LoginRequiredMiddleware):
    """Middleware: nobody is signed in; a page leads to the sign-in, a script is answered 401."""

    def handle_no_permission(self, request, view_func):
        if in_background(request):
            return _words(SIGNED_OUT)
        return super().handle_no_permission(request, view_func)


def older(request, reason=""):
    """The view of a request whose token (CSRF) is missing or of another sign-in."""
    if in_background(request):
        return _words(OLDER)
    return render(request, "web/refused.html", {"words": OLDER}, status=403)


def _words(words):
    return HttpResponse(words, status=401, content_type="text/plain; charset=utf-8")
