"""The return sheet as PDF, from the same parts as the screen; one, or those of a class together."""

from heath.assessment.models import Photograph
from heath.web.paper import INSIDE, laid_out, pdf


def _parts(sheet) -> tuple[str, dict, dict]:
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


def pdf_of(sheet) -> bytes:
    """PDF bytes of a return sheet."""
    return pdf(*_parts(sheet))


def pdf_of_all(sheets, done) -> bytes:
    """PDF bytes of several sheets, one after the other; `done` is told how many are laid out after
    each.
    """
    documents = []
    for number, sheet in enumerate(sheets, 1):
        documents.append(laid_out(*_parts(sheet)))
        done(number)
    return documents[0].copy([page for d in documents for page in d.pages]).write_pdf()


def file_name(sheet) -> str:
    """A file name that says whose sheet it is, without its ending."""
    name = "".join(
        c if c.isalnum() else "-" for c in f"{sheet.figures['student']} {sheet.figures['brief']}"
    ).strip("-")
    return name.encode("ascii", "ignore").decode() or "sheet"
