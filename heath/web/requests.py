"""Each request has a number, which its log line, its errors and its answer carry, and is timed."""

from __future__ import annotations

import logging
import re
import time
from uuid import uuid4

from heath.config.logs import REQUEST
from heath.web.metrics import REQUEST_SECONDS

# as a proxy in front may have given it
NUMBER = re.compile(r"[0-9A-Za-z-]{8,64}")
LOG = logging.getLogger("heath.requests")


class Requests:
    """Middleware: the outermost, so that everything is within the time that it tells."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        given = request.headers.get("X-Request-ID", "")
        number = given if NUMBER.fullmatch(given) else uuid4().hex
        token, began = REQUEST.set(number), time.perf_counter()
        try:
            response = self.get_response(request)
            seconds = time.perf_counter() - began
            match = request.resolver_match
            route = match.view_name if match and match.view_name else "none"
            told = {
                "route": route,
                "method": request.method if request.method in METHODS else "other",
                "status": response.status_code,
            }
            REQUEST_SECONDS.labels(**told).observe(seconds)
            LOG.info("request", extra={"told": told | {"ms": round(1000 * seconds)}})
            response["X-Request-ID"] = number
            return response
        finally:
            REQUEST.reset(token)


METHODS = {"GET", "HEAD", "POST", "OPTIONS", "PUT", "PATCH", "DELETE"}
