"""Lengths in the reader's unit: chosen once for each request, and everything is written in it."""

from juniper.lengths import CENTIMETRES, INCHES, shown_in


def unit_of(chosen) -> str:
    """The unit that a person or a school has chosen (`inches`), or centimetres for nobody."""
    return INCHES if getattr(chosen, "inches", False) else CENTIMETRES


class Lengths:
    """Middleware: pages and figures in the unit of the person who is signed in."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        user = getattr(request, "user", None)
        with shown_in(unit_of(user if user is not None and user.is_authenticated else None)):
            return self.get_response(request)
