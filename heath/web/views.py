"""Pages for what cannot be found or has gone wrong."""

import sys

from django.shortcuts import render

from heath.web.faults import database_unreachable

AGAIN = 5  # seconds after which a visitor may ask again


def not_found(request, exception):
    """404 in the house's words."""
    return render(request, "web/not_found.html", status=404)


def broken(request):
    """500, or 503 where the database cannot be reached, for which a proxy asks another machine;
    nothing that needs the database.
    """
    if not database_unreachable(sys.exc_info()[1]):
        return render(request, "web/broken.html", status=500)
    answer = render(request, "web/broken.html", {"unreachable": True}, status=503)
    answer["Retry-After"] = str(AGAIN)
    return answer
