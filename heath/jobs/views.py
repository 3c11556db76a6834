"""Where somebody waits for a job, and is given what came of it."""

from django.contrib.auth.decorators import login_not_required
from django.http import FileResponse, Http404
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_safe
from django_htmx.http import HttpResponseClientRedirect

from heath.jobs.models import Job
from heath.people.policy import find

KINDS = {".pdf": "application/pdf"}


def _job(request, secret: str) -> Job:
    """The job at an address: of the person's school, or one that was asked for without an
    account, which whoever has its address may see. Raises Http404.
    """
    job = Job.objects.filter(secret=secret, asked_by=None).first()
    return job or find(request.user, Job, secret=secret)


@login_not_required
@never_cache
@require_safe
def job(request, secret):
    """How far a job is; asked by htmx, it leads on as soon as it has ended."""
    one = _job(request, secret)
    if not request.htmx:
        if one.succeeded and one.to:
            return redirect(one.to)
        return render(request, "jobs/job.html", {"job": one})
    if one.succeeded:
        return HttpResponseClientRedirect(one.to or reverse("job-file", args=[secret]))
    return render(request, "jobs/_job.html", {"job": one})


@login_not_required
@never_cache
@require_safe
def job_file(request, secret):
    """What came of a job."""
    one = _job(request, secret)
    if not one.file:
        raise Http404
    try:
        file = one.file.open("rb")
    except FileNotFoundError as error:
        raise Http404 from error
    ending = one.name[one.name.rfind(".") :]
    return FileResponse(
        file, filename=one.name, content_type=KINDS.get(ending, "application/octet-stream")
    )
