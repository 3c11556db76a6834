"""What is printed before the photographs are taken: reference cards, and the brief's handout."""

from functools import partial

from django.template.loader import render_to_string
from django.utils import timezone

from heath.intake.links import as_symbol
from heath.web.letters import printable
from heath.web.paper import INSIDE, Pictures
from juniper.photograph.card_layout import card_svg

# The printer's engine styles a drawing only by what stands inside it.
STYLE = (
    "<style>.rule,.axis{stroke:#56635c;fill:none}"
    ".wanted{fill:#e4ece6;stroke:#24564a;stroke-width:1.5;stroke-dasharray:6 4}"
    ".pot{fill:#efece3;stroke:#1d2623;stroke-width:1.5}"
    ".bandline{stroke:#87366f;fill:none}text{font-size:12px;font-family:sans-serif}</style>"
)
Page = tuple[str, dict, Pictures]  # template, context, own pictures
SHEETS = {
    "a4": ("A6", 4, "four on A4, to be cut"),
    "a6": ("A6", 1, "A6, one a page"),
    "a5": ("A5", 1, "A5, one a page"),
}


def _card_picture(svg: bytes) -> tuple[str, bytes]:
    return "image/svg+xml", svg


def cards(brief, pieces, sheet: str = "a4") -> Page:
    """The reference cards of some pieces of a brief, true to size; a name that the type cannot
    print is left out, and the piece's code tells whose card it is.
    """
    size, on_page, _ = SHEETS[sheet]
    pictures: Pictures = {}
    places: list[str] = []
    for piece in pieces:
        address = f"{INSIDE}card/{piece.pk}.svg"
        name = piece.student.name if printable(piece.student.name) else ""
        svg = card_svg(piece.code, brief.name, name, size).encode()
        pictures[address] = partial(_card_picture, svg)
        places.append(address)
    pages = [places[i : i + on_page] for i in range(0, len(places), on_page)]
    return "intake/cards.html", {"pages": pages, "sheet": sheet, "size": size}, pictures


def handout(brief, drawing, address: str, closes) -> Page:
    """What the students are given: the brief, how to photograph, and the link as address and
    symbol.
    """
    symbol, picture = f"{INSIDE}link.svg", f"{INSIDE}drawing.svg"
    drawn = (
        render_to_string("briefs/_target_svg.html", {"drawing": drawing})
        .replace("<svg", '<svg xmlns="http://www.w3.org/2000/svg"', 1)
        .replace(">", f">{STYLE}", 1)
    )
    context = {
        "brief": brief,
        "picture": picture if drawing else "",
        "address": address,
        "closes": closes,
        "symbol": symbol if address else "",
        "today": timezone.localdate(),
    }
    own = {
        symbol: lambda: ("image/svg+xml", as_symbol(address)),
        picture: lambda: ("image/svg+xml", drawn.encode()),
    }
    return "intake/handout.html", context, own
