"""Pages, scripts and figures go out compressed; photographs and papers are so already."""

from __future__ import annotations

from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.middleware.gzip import GZipMiddleware

TEXT = ("text/", "application/json", "image/svg+xml")


class Compressed(GZipMiddleware):
    """Django's middleware for what is text; the rest keeps its length, and costs no work."""

    def process_response(self, request: HttpRequest, response: HttpResponseBase):
        """The answer, compressed where it is text and the browser takes it so."""
        if not response.get("Content-Type", "").startswith(TEXT):
            return response
        return super().process_response(request, response)
