"""The plan on a student's phone, behind the link of the class: what to cut, in which order, what to
mind; no marks, no rules' scores.
"""

from django.contrib.auth.decorators import login_not_required
from django.http import Http404
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_POST, require_safe

from heath.intake.links import link_of
from heath.jobs.printing import print_later
from heath.planner.planned import Planned
from heath.planner.views import shown
from heath.web.lengths import unit_of
from juniper.lengths import shown_in


def _link(text):
    """The link that a token stands for; Http404 for one that is not ours."""
    link = link_of(text)
    if link is None:
        raise Http404
    return link


@login_not_required
@never_cache
@require_safe
def plan(request, text):
    """The plan, for the bench."""
    link = _link(text)
    if not link.open:
        return render(
            request, "intake/student_closed.html", {"link": link, "brief": link.brief}, status=410
        )
    with shown_in(unit_of(link.brief.course.school)):
        return render(request, "planner/student.html", shown(Planned(link.brief)) | {"token": text})


@login_not_required
@never_cache
@require_POST
def plan_pdf(request, text):
    """The same on paper."""
    link = _link(text)
    if not link.open:
        raise Http404
    school = link.brief.course.school
    with shown_in(unit_of(school)):
        context = shown(Planned(link.brief))
    return print_later(request, school, "planner/paper.html", context, "plan")
