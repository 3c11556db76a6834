"""Lengths in inches for those who want them: every length is worked out and kept in centimetres,
and turned on its way to the reader.
"""

import re

CM = 2.54  # to the international inch (ISO 80000-3)
# What somebody wrote stays as it was written: in a field, in a phrase to be put into one, and where
# it is shown (<bdi>).
WRITTEN = (
    r'<textarea\b.*?</textarea>|<bdi>.*?</bdi>|\b(?:value|data-phrase)="[^"]*"|aria-label="Remark'
    r' [^"]*"|'
)
LENGTH = re.compile(
    WRITTEN + r"(\d+(?:\.\d+)?)(?: to (\d+(?:\.\d+)?))? cm( \(±)?(?(3)(\d+(?:\.\d+)?))(?![\w²])",
    re.S,
)


def in_inches(text: str) -> str:
    """A text with each "12.5 cm", "3 to 4 cm" and "4.5 cm (±0.8" in it told in inches, to a
    tenth.
    """

    def turned(found: re.Match) -> str:
        low, high, open_, spread = found.groups()
        if low is None:
            return found[0]
        out = f"{float(low) / CM:.1f}" + (f" to {float(high) / CM:.1f}" if high else "") + " in"
        return out + (f"{open_}{float(spread) / CM:.1f}" if open_ else "")

    return LENGTH.sub(turned, text)


class Lengths:
    """Middleware: pages and figures for somebody who has asked for inches."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        response = self.get_response(request)
        user = getattr(request, "user", None)
        kind = response.headers.get("Content-Type", "")
        if user is None or not user.is_authenticated or not user.inches or response.streaming:
            return response
        if kind.startswith(("text/html", "application/json")):
            response.content = in_inches(response.content.decode()).encode()
            if "Content-Length" in response.headers:
                response.headers["Content-Length"] = str(len(response.content))
        return response
