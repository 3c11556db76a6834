"""Where everything is on the reference card, in millimetres, and the card drawn as SVG and as
pixels.

Four ArUco markers (4 x 4 cells; Garrido-Jurado et al. 2014) in a frame, the piece's code as a QR
symbol (ISO/IEC 18004), six neutral greys, a centimetre scale. A6 and A5 differ in size and in their
markers' numbers, so that one marker alone tells size and place.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from html import escape

import cv2
import numpy as np
import segno

from juniper.colour.spaces import linear_from_srgb, srgb_from_lab
from juniper.photograph.code import payload, shown

PAPER = 0.86  # reflectance of plain white paper
GREY_LIGHTNESS = (86.0, 73.0, 60.0, 48.0, 36.0, 25.0)
_DICTIONARY = cv2.aruco.DICT_4X4_50


@dataclass(frozen=True)
class Layout:
    """A card of one size; places and lengths in mm from its upper left corner."""

    name: str
    factor: float
    first_marker: int

    @property
    def width(self) -> float:
        """Width in mm."""
        return 105.0 * self.factor

    @property
    def height(self) -> float:
        """Height in mm."""
        return 148.0 * self.factor

    @property
    def markers(self) -> dict[int, tuple[float, float, float]]:
        """Marker number: (x, y, side)."""
        places = ((6.0, 6.0), (77.0, 6.0), (77.0, 100.0), (6.0, 100.0))
        return {
            self.first_marker + i: (x * self.factor, y * self.factor, 22.0 * self.factor)
            for i, (x, y) in enumerate(places)
        }

    @property
    def qr(self) -> tuple[float, float, float]:
        """The QR symbol with its quiet margin: (x, y, side)."""
        return 26.5 * self.factor, 31.0 * self.factor, 52.0 * self.factor

    @property
    def greys(self) -> list[tuple[float, float, float, float]]:
        """The grey steps, light to dark: (x, y, width, height)."""
        w, h = 14.0, 11.0
        return [
            (
                (31.5 + (i % 3) * w) * self.factor,
                (100.0 + (i // 3) * h) * self.factor,
                w * self.factor,
                h * self.factor,
            )
            for i in range(6)
        ]


LAYOUTS = {"A6": Layout("A6", 1.0, 0), "A5": Layout("A5", 210 / 148, 4)}


def layout_of(marker: int) -> Layout | None:
    """The layout a marker belongs to, or None when it is none of the card's."""
    return next((x for x in LAYOUTS.values() if marker in x.markers), None)


def grey_value(lightness: float) -> int:
    """The sRGB level (0..255) of a neutral of CIELAB lightness L* (CIE 15; IEC 61966-2-1).

    >>> round(grey_value(50.0))
    119
    """
    return round(255 * float(srgb_from_lab(np.array([lightness, 0.0, 0.0]))[1]))


@lru_cache(maxsize=16)
def marker_cells(number: int) -> np.ndarray:
    """The cells (6, 6) of a marker with its black border; True is black."""
    dictionary = cv2.aruco.getPredefinedDictionary(_DICTIONARY)
    return cv2.aruco.generateImageMarker(dictionary, number, 6, borderBits=1) < 128


def qr_cells(code: str) -> np.ndarray:
    """The modules (k, k) of a code's QR symbol with a quiet margin of two; True is black."""
    symbol = segno.make(payload(code), error="q", micro=False, boost_error=False)
    return np.pad(np.array([list(row) for row in symbol.matrix], bool), 2)


def _runs(cells: np.ndarray, x: float, y: float, side: float) -> str:
    step = side / len(cells)
    out = []
    for row, line in enumerate(cells):
        col = 0
        while col < len(line):
            if line[col]:
                end = col
                while end < len(line) and line[end]:
                    end += 1
                wide = (end - col) * step
                out.append(f"M{x + col * step:.3f} {y + row * step:.3f}")
                out.append(f"h{wide:.3f}v{step:.3f}h{-wide:.3f}z")
                col = end
            col += 1
    return "".join(out)


# The house's type by script, where it is at hand.
TYPE = (
    "Alegreya Sans, Alegreya Sans Ext, Alegreya Sans Greek, Alegreya Sans Cyrillic,"
    " Alegreya Sans Viet, Liberation Sans, sans-serif"
)
TITLE_ROWS = (16.0, 19.6, 23.2, 26.8)  # mm from the top of an A6 card
NAME_ROWS = (94.0, 97.8)
SMALL = 2.9  # mm: size of the small words on an A6 card
# of the size: how far a letter reaches, a little more than the type's own mean; capitals and wide
# scripts reach further
LETTER, CAPITAL, WIDE = 0.5, 0.66, 1.0


def _reach(text: str) -> float:
    """About how long a text is, in mm on an A6 card."""
    return SMALL * sum(
        WIDE if ord(c) > 0x2E80 else CAPITAL if c.isupper() else LETTER for c in text
    )


def wrapped(text: str, wide: float, most: int) -> list[str]:
    """A text in lines that are no longer than `wide` (mm on an A6 card), `most` of them; what does
    not fit is left out, with an ellipsis.

    >>> wrapped("Low bowls for the captains' table in the foyer", 47.0, 4)
    ["Low bowls for the captains'", 'table in the foyer']
    >>> wrapped("x" * 80, 47.0, 2)[1][-1]
    '…'
    """
    rows: list[str] = []
    for word in text.split():
        if rows and _reach(f"{rows[-1]} {word}") <= wide:
            rows[-1] += f" {word}"
            continue
        rest = word
        while _reach(rest) > wide:  # a word longer than a line is broken
            size = next(n for n in range(len(rest), 0, -1) if _reach(rest[:n]) <= wide)
            rows.append(rest[:size])
            rest = rest[size:]
        rows.append(rest)
    if len(rows) > most:
        last = rows[most - 1]
        while _reach(f"{last}…") > wide:
            last = last[:-1]
        rows = [*rows[: most - 1], f"{last}…"]
    return rows


def card_svg(code: str, title: str = "", name: str = "", size: str = "A6") -> str:
    """The card as one SVG of its true size. `title` is the brief, `name` whom the piece is from;
    both may be empty. The title keeps between the markers, in several lines where it is long.
    """
    card = LAYOUTS[size]
    f = card.factor
    black = "".join(_runs(marker_cells(n), *place) for n, place in card.markers.items()) + _runs(
        qr_cells(code), *card.qr
    )
    greys = "".join(
        f'<rect x="{x:.2f}" y="{y:.2f}" width="{w:.2f}" height="{h:.2f}" fill="rgb({v},{v},{v})"/>'
        for (x, y, w, h), v in zip(card.greys, map(grey_value, GREY_LIGHTNESS), strict=True)
    )
    ticks = "".join(
        f"M{(12.5 + i) * f:.2f}"
        f" {130 * f:.2f}v{-(4.5 if i % 10 == 0 else 3.2 if i % 5 == 0 else 2) * f:.2f}"
        for i in range(81)
    )
    if f != 1:  # the scale is in true centimetres on every size
        ticks = "".join(
            f"M{12.5 * f + i:.2f}"
            f" {130 * f:.2f}v{-(6.4 if i % 10 == 0 else 4.5 if i % 5 == 0 else 2.8):.2f}"
            for i in range(111)
        )
    step, count = (10.0, 8) if f == 1 else (10.0, 11)
    figures = "".join(
        f'<text x="{12.5 * f + i * step:.2f}" y="{134.2 * f:.2f}" font-family="{TYPE}"'
        f' font-size="{2.9 * f:.2f}" text-anchor="middle">{i}</text>'
        for i in range(count + 1)
    )
    text = [
        (52.5, 11, "m", "Reference card"),
        *((52.5, y, "s", t) for y, t in zip(TITLE_ROWS, wrapped(title, 47.0, 4), strict=False)),
        (52.5, 89, "c", shown(code)),
        *((52.5, y, "s", t) for y, t in zip(NAME_ROWS, wrapped(name, 90.0, 2), strict=False)),
        (52.5, 141, "s", "Stand this card upright beside the container, level with its middle,"),
        (52.5, 144.5, "s", "facing the camera. Centimetres below the greys."),
    ]
    sizes = {"s": SMALL, "m": 3.6, "c": 7.0}
    words = "".join(
        f'<text x="{x * f:.2f}" y="{y * f:.2f}" font-family="{TYPE}"'
        f' font-size="{sizes[c] * f:.2f}" font-weight="{"bold" if c != "s" else "normal"}"'
        f' text-anchor="middle">{escape(t)}</text>'
        for x, y, c, t in text
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{card.width:.2f}mm"'
        f' height="{card.height:.2f}mm" viewBox="0 0 {card.width:.2f} {card.height:.2f}"><rect'
        f' width="{card.width:.2f}" height="{card.height:.2f}" fill="#fff"/><path'
        f' d="{black}"/>{greys}<path d="{ticks}" stroke="#000" stroke-width="{0.25 * f:.2f}"'
        f' fill="none"/>{figures}{words}</svg>'
    )


def card_reflectance(code: str, size: str = "A6", per_mm: int = 6) -> np.ndarray:
    """The printed card as reflectance 0..1 (h, w) relative to its paper, `per_mm` pixels a
    millimetre.
    """
    card = LAYOUTS[size]
    out = np.ones((round(card.height * per_mm), round(card.width * per_mm)), np.float32)

    def put(cells, x, y, side):
        n = round(side * per_mm)
        big = cv2.resize(cells.astype(np.uint8), (n, n), interpolation=cv2.INTER_NEAREST).astype(
            bool
        )
        top, left = round(y * per_mm), round(x * per_mm)
        out[top : top + n, left : left + n][big] = 0.035

    for number, place in card.markers.items():
        put(marker_cells(number), *place)
    put(qr_cells(code), *card.qr)
    for (x, y, w, h), value in zip(card.greys, map(grey_value, GREY_LIGHTNESS), strict=True):
        part = np.s_[
            round(y * per_mm) : round((y + h) * per_mm), round(x * per_mm) : round((x + w) * per_mm)
        ]
        out[part] = linear_from_srgb(np.array(value / 255))
    f = card.factor * per_mm
    for i in range(81 if size == "A6" else 111):
        x = round((12.5 * card.factor + i) * per_mm)
        out[
            round((125.5 if i % 10 == 0 else 128) * f) : round(130 * f), x : x + max(1, per_mm // 4)
        ] = 0.05
    cv2.putText(
        out,
        shown(code),
        (round(30 * f), round(89 * f)),
        cv2.FONT_HERSHEY_SIMPLEX,
        0.23 * f,
        0.05,
        max(1, round(0.6 * f)),
        cv2.LINE_AA,
    )
    return out
