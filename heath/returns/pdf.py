"""The return sheet as PDF, from the same template as the screen, fetching nothing from outside."""

from django.contrib.staticfiles import finders
from django.template.loader import render_to_string
from weasyprint import HTML

from heath.intake.models import Photograph


class _Inside:
    """Answers the sheet's own photograph and the site's style and fonts; nothing else."""

    def __init__(self, photograph: Photograph):
        self.photograph = photograph

    def __call__(self, url: str, **_):
        if url == f"heath:photograph/{self.photograph.pk}":
            with self.photograph.screen.open("rb") as file:
                return {"string": file.read(), "mime_type": "image/jpeg"}
        if url.startswith("heath:static/"):
            path = finders.find("interface/" + url.removeprefix("heath:static/").lstrip("./"))
            if path and ".." not in url:
                with open(path, "rb") as file:
                    kind = "text/css" if path.endswith(".css") else "font/woff2"
                    return {"string": file.read(), "mime_type": kind}
        raise ValueError("a sheet fetches nothing from outside")


def pdf_of(sheet) -> bytes:
    """PDF bytes of a return sheet."""
    photograph = Photograph.objects.get(pk=sheet.figures["photograph"])
    text = render_to_string("returns/paper.html", {"sheet": sheet, "f": sheet.figures, "photo_url": f"heath:photograph/{photograph.pk}"})
    return HTML(string=text, base_url="heath:static/", url_fetcher=_Inside(photograph)).write_pdf()
