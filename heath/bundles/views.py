"""A term's bundle: making one, and taking one in."""

from __future__ import annotations

from django import forms
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from heath.bundles.jobs import MAKE, TAKE
from heath.classes.models import Course
from heath.jobs.work import start
from heath.people.policy import visible

LARGEST = 4_000_000_000  # bytes of a bundle that is sent


class TakeInForm(forms.Form):
    """A bundle that is brought."""

    bundle = forms.FileField(
        label="A bundle (.zip)",
        widget=forms.FileInput(attrs={"accept": ".zip,application/zip"}),
        error_messages={"required": "Choose a bundle first."},
    )

    def clean_bundle(self):
        """A file of a size that can be taken in."""
        file = self.cleaned_data["bundle"]
        if file.size > LARGEST:
            raise forms.ValidationError(
                f"The bundle has more than {LARGEST // 1_000_000_000} GB. Make one of each class,"
                " and bring them one after another."
            )
        return file


def _page(request, form: forms.Form, fault: str = "", status: int = 200):
    courses = list(visible(request.user, Course).order_by("-made_at"))
    terms = [c.term for c in courses if c.term]
    context = {
        "courses": courses,
        "terms": sorted(set(terms), key=terms.index),
        "form": form,
        "fault": fault,
    }
    return render(request, "bundles/bundles.html", context, status=status)


def bundles(request):
    """Where bundles are made and brought; what is sent asks for one."""
    if request.method != "POST":
        return _page(request, TakeInForm())
    of = request.POST.get("of", "")
    courses = [
        c.pk
        for c in visible(request.user, Course)
        if of == f"class:{c.pk}" or (c.term and of == f"term:{c.term}")
    ]
    if not courses:
        return _page(request, TakeInForm(), "Choose a term or a class.", 422)
    given = {"courses": courses, "named": request.POST.get("names") == "1"}
    job = start(
        MAKE, request.user.school, request.user, "The bundle", given, back=reverse("bundles")
    )
    return redirect("job", job.secret)


@require_POST
def take_in(request):
    """Take a bundle in, in the background."""
    form = TakeInForm(request.POST, request.FILES)
    if not form.is_valid():
        return _page(request, form, status=422)
    job = start(
        TAKE,
        request.user.school,
        request.user,
        "Taking the bundle in",
        sent=form.cleaned_data["bundle"],
        back=reverse("bundles"),
    )
    return redirect("job", job.secret)
