"""What a page that is made into a PDF may fetch: nothing from outside. Imported only where a PDF is
made: the maker takes a second to load.
"""

from collections.abc import Callable
from io import BytesIO
from pathlib import Path

from django.contrib.staticfiles import finders
from PIL import ImageFile
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

from heath.web.paper import INSIDE

# The PDF maker tells Pillow to take half a picture for a whole one; intake must not.
ImageFile.LOAD_TRUNCATED_IMAGES = False
KINDS = {".css": "text/css", ".woff2": "font/woff2"}


class Inside(URLFetcher):
    """Answers the page's own pictures and the site's style and fonts; nothing else."""

    def __init__(self, pictures: dict[str, Callable[[], tuple[str, bytes]]]):
        super().__init__(allowed_protocols=["https"], allow_redirects=False)
        self.pictures = pictures

    def fetch(self, url, headers=None):
        kind, body = self._body(url)
        return URLFetcherResponse(url, BytesIO(body), {"Content-Type": kind})

    def _body(self, url: str) -> tuple[str, bytes]:
        if url in self.pictures:
            return self.pictures[url]()
        name = url.removeprefix(f"{INSIDE}static/")
        path = finders.find(f"web/{name}") if name != url and ".." not in name else None
        if path and Path(path).suffix in KINDS:
            return KINDS[Path(path).suffix], Path(path).read_bytes()
        raise ValueError("a page fetches nothing from outside")


def rendered(html: str, pictures: dict[str, Callable[[], tuple[str, bytes]]]):
    """A page laid out on paper; see heath.web.paper.laid_out()."""
    return HTML(string=html, base_url=f"{INSIDE}static/", url_fetcher=Inside(pictures)).render()
