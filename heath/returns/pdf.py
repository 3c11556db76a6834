"""The return sheet as PDF, from the same parts as the screen; one, or those of a class together."""

import re

from django.template.loader import render_to_string

from heath.assessment.models import Photograph
from heath.web.paper import INSIDE, Pictures, laid_out


def parts(sheet) -> tuple[str, dict, Pictures]:
    """A sheet on paper: template, context and its own pictures."""
    photograph = Photograph.objects.get(pk=sheet.figures["photograph"])

    def picture():
        with photograph.screen.open("rb") as file:
            return "image/jpeg", file.read()

    address = f"{INSIDE}photograph/{photograph.pk}"
    return (
        "returns/paper.html",
        {"sheet": sheet, "f": sheet.figures, "photo_url": address},
        {address: picture},
    )


def pdf_of_all(sheets, done) -> bytes:
    """PDF bytes of several sheets, one after the other; `done` is told how many are laid out after
    each.
    """
    documents = []
    for number, sheet in enumerate(sheets, 1):
        template, context, pictures = parts(sheet)
        documents.append(laid_out(render_to_string(template, context), pictures))
        done(number)
    return documents[0].copy([page for d in documents for page in d.pages]).write_pdf()


def file_name(sheet) -> str:
    """A file name that says whose sheet it is, without its ending."""
    whose = f"{sheet.figures['student']} {sheet.figures['brief']}"
    name = re.sub(r"[^\w]+", "-", whose).strip("-")
    return name.encode("ascii", "ignore").decode() or "sheet"
