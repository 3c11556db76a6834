"""Pages as PDF, laid out by a worker: the request only writes down what is to be laid out."""

from __future__ import annotations

import base64
import json
from functools import partial

from django.core.files.base import ContentFile
from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string

from heath.jobs.models import Job
from heath.jobs.work import handles, start
from heath.web.lengths import unit_of
from heath.web.paper import Pictures, pdf
from juniper.lengths import shown_in

PAPER = "paper"


def print_later(
    request, school, template: str, context: dict, name: str, pictures: Pictures | None = None
) -> HttpResponse:
    """Have a template laid out as PDF called `name`; the answer leads to where it will be.

    Lengths are written in the school's unit. `pictures` answer the page's own addresses with
    (media type, bytes); see heath.web.paper.
    """
    drawn = {address: answer() for address, answer in (pictures or {}).items()}
    with shown_in(unit_of(school)):
        html = render_to_string(template, context)
    page = {
        "html": html,
        "pictures": {a: [kind, base64.b64encode(b).decode()] for a, (kind, b) in drawn.items()},
    }
    user = request.user if request.user.is_authenticated else None
    sent = json.dumps(page).encode()
    job = start(PAPER, school, user, "Your PDF", {"name": name}, sent)
    return redirect("job", job.secret)


def _picture(kind: str, body: str) -> tuple[str, bytes]:
    return kind, base64.b64decode(body)


@handles(PAPER)
def lay_out(job: Job) -> None:
    """Lay out what was written down."""
    with job.sent.open("rb") as file:
        page = json.loads(file.read())
    pictures: Pictures = {
        address: partial(_picture, kind, body) for address, (kind, body) in page["pictures"].items()
    }
    job.name = f"{job.given['name']}.pdf"
    job.file.save(job.name, ContentFile(pdf(page["html"], pictures)), save=False)
