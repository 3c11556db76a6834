"""The page behind the students' link: no account, nobody else's work, until the brief closes."""

import secrets

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control, never_cache
from django.views.decorators.http import require_POST, require_safe

from heath.assessment.models import View
from heath.intake.arriving import receive
from heath.intake.links import link_of
from heath.intake.models import Arrival
from heath.intake.quotas import link_full
from heath.intake.views import _file
from juniper.photograph import LARGEST_BYTES

AT_ONCE = 12


def _link(text):
    link = link_of(text)
    if link is None:
        raise Http404
    return link


def _phone(request) -> str:
    """What tells this phone from others: a random word kept in its session, given on first sight of
    the page.
    """
    if "phone" not in request.session:
        request.session["phone"] = secrets.token_urlsafe(18)
    return request.session["phone"]


def _own(request, link):
    """The pictures sent from this phone by this link."""
    return Arrival.objects.filter(link=link, phone=_phone(request))


@login_not_required
@never_cache
@require_safe
def stored(request, text):
    """What the school stores about a student, for how long, and what they can ask for."""
    link = _link(text)
    back = reverse("student-add", args=[text])
    return stored_page(request, link.brief.course.school, back)


def stored_page(request, school, back: str):
    """The page of what a school stores, for students; `back` the address that they came from."""
    context = {"school": school, "originals_days": settings.ORIGINALS_DAYS, "back": back}
    return render(request, "intake/stored.html", context)


def _context(request, link, text):
    sent = list(_own(request, link))
    busy = any(
        a.state == Arrival.State.WAITING
        or (a.photograph and not a.photograph.scene and not a.photograph.fault)
        for a in sent
    )
    return {
        "largest": LARGEST_BYTES,
        "link": link,
        "brief": link.brief,
        "token": text,
        "sent": sent,
        "busy": busy,
        "asked": [v for v in View if v.value in link.brief.views],
        "view": request.GET.get("view", ""),
    }


@login_not_required
@never_cache
def add(request, text):
    """Add pictures, and see what became of those sent from here."""
    link = _link(text)
    if not link.open:
        return render(
            request, "intake/student_closed.html", {"link": link, "brief": link.brief}, status=410
        )
    if request.method != "POST":
        return render(request, "intake/student.html", _context(request, link, text))
    uploads = request.FILES.getlist("photographs")
    fault = ""
    if not uploads:
        fault = "No picture came with it. Choose the pictures again."
    elif len(uploads) > AT_ONCE:
        fault = f"These are {len(uploads)} pictures; {AT_ONCE} at once is the most. Choose fewer."
    else:
        fault = link_full(link, len(uploads), sum(u.size for u in uploads))
    if fault:
        if request.headers.get("X-Each"):
            return HttpResponse(fault, status=422, content_type="text/plain")
        return render(
            request,
            "intake/student.html",
            _context(request, link, text) | {"fault": fault},
            status=422,
        )
    said = " ".join(request.POST.get("said", "").split())
    asked = request.POST.get("view", "")
    view = asked if asked in link.brief.views else ""
    for upload in uploads:
        receive(link.brief, upload, link=link, said=said, phone=_phone(request), view=view)
    return (
        HttpResponse(status=204) if request.headers.get("X-Each") else redirect("student-add", text)
    )


@login_not_required
@never_cache
def sent(request, text):
    """What became of the pictures sent from this phone."""
    link = _link(text)
    return render(request, "intake/_student_sent.html", _context(request, link, text))


@login_not_required
@cache_control(private=True, max_age=3600)
def sent_picture(request, text, pk):
    """A picture sent from this phone."""
    arrival = _own(request, _link(text)).filter(pk=pk).first()
    if arrival is None:
        raise Http404
    return _file(arrival.thumb)


@login_not_required
@require_POST
def take_back(request, text, pk):
    """A student takes back a picture that is not sorted to a piece yet."""
    from heath.intake.arriving import put_aside

    arrival = _own(request, _link(text)).filter(pk=pk).first()
    if arrival is None:
        raise Http404
    put_aside(arrival)
    return redirect("student-add", text)
