"""The return sheet as PDF, from the same parts as the screen."""

from heath.intake.models import Photograph
from heath.interface.paper import INSIDE, pdf


def pdf_of(sheet) -> bytes:
    """PDF bytes of a return sheet."""
    photograph = Photograph.objects.get(pk=sheet.figures["photograph"])

    def picture():
        with photograph.screen.open("rb") as file:
            return "image/jpeg", file.read()

    address = f"{INSIDE}photograph/{photograph.pk}"
    return pdf("returns/paper.html", {"sheet": sheet, "f": sheet.figures, "photo_url": address}, {address: picture})
