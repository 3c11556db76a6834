"""Pages of people who are signed in are kept by nobody's cache; a full disk is told in words."""

from django.shortcuts import render

from heath.web.faults import full

FULL = (
    "The disk of the site is full, so nothing was kept. Tell whoever runs it; what was there"
    " already is safe."
)
INSUFFICIENT_STORAGE = 507  # RFC 4918, 11.5


class Private:
    """Middleware: Cache-Control for signed-in pages that say nothing of it themselves, and an
    answer for a full disk.
    """

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        answer = self.get_response(request)
        if request.user.is_authenticated and not answer.has_header("Cache-Control"):
            answer["Cache-Control"] = "private, no-store"
        return answer

    def process_exception(self, request, error):
        """An answer in words where the disk is full; None for any other fault."""
        if not full(error):
            return None
        return render(request, "web/refused.html", {"words": FULL}, status=INSUFFICIENT_STORAGE)
