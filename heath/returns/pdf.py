"""The return sheet as PDF, from the same parts as the screen, fetching nothing from outside."""

from io import BytesIO
from pathlib import Path

from django.contrib.staticfiles import finders
from django.template.loader import render_to_string
from PIL import ImageFile
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

from heath.intake.models import Photograph

# The PDF maker tells Pillow to take half a picture for a whole one; intake must not.
ImageFile.LOAD_TRUNCATED_IMAGES = False
# An address that cannot exist (RFC 2606): joined like any other, answered only from within.
KINDS = {".css": "text/css", ".woff2": "font/woff2"}


class _Inside(URLFetcher):
    """Answers the sheet's own photograph and the site's style and fonts; nothing else."""

    def __init__(self, photograph: Photograph):
        super().__init__(allowed_protocols=["https"], allow_redirects=False)
        self.photograph = photograph

    def fetch(self, url, headers=None):
        kind, body = self._body(url)
        return URLFetcherResponse(url, BytesIO(body), {"Content-Type": kind})

    def _body(self, url: str) -> tuple[str, bytes]:
        if url == f"https://sheet.invalid/photograph/{self.photograph.pk}":
            with self.photograph.screen.open("rb") as file:
                return "image/jpeg", file.read()
        name = url.removeprefix("https://sheet.invalid/static/")
        path = finders.find(f"interface/{name}") if name != url and ".." not in name else None
        if path and Path(path).suffix in KINDS:
            return KINDS[Path(path).suffix], Path(path).read_bytes()
        raise ValueError("a sheet fetches nothing from outside")


def pdf_of(sheet) -> bytes:
    """PDF bytes of a return sheet."""
    photograph = Photograph.objects.get(pk=sheet.figures["photograph"])
    context = {"sheet": sheet, "f": sheet.figures, "photo_url": f"https://sheet.invalid/photograph/{photograph.pk}"}
    text = render_to_string("returns/paper.html", context)
    return HTML(string=text, base_url="https://sheet.invalid/static/", url_fetcher=_Inside(photograph)).write_pdf()
