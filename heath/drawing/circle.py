"""The artists' circle with a piece's colours on it, and how much of each there is, as figures for
SVG.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

import numpy as np

from juniper.colour.circle import ANCHORS, STEPS, place_of
from juniper.colour.palette import PALETTE, Swatch
from juniper.colour.ratios import share_unsure
from juniper.colour.spaces import lab_from_oklab, srgb_from_lab, to_hex

SIZE = 150.0  # radius of the circle; the drawing is centred on 0 0
INNER = 104.0  # of the disc on which the colours lie
BREADTH = 300.0  # of the bars
DOUBTFUL = 5  # parts of a hundred: a standard uncertainty from which a look is worth it
SHOWN = 0.02  # share from which a colour is shown
PALETTES = 256  # of which a process keeps what is drawn: a palette does not change
NUMBER = 7.0  # radius of a number, to keep clear of smaller discs


def _at(place: float, radius: float) -> tuple[float, float]:
    """A place of the circle, yellow at the top, onward clockwise."""
    turn = math.radians(30 * place)
    return round(radius * math.sin(turn), 2), round(-radius * math.cos(turn), 2)


def _step(number: int) -> dict:
    """A step of the ring: its path, a colour of its hue, its name and where that stands."""
    inner, outer, half = INNER + 6, INNER + 24, 0.46
    corners = [
        _at(number + s, r)
        for s, r in ((-half, outer), (half, outer), (half, inner), (-half, inner))
    ]
    path = "M{} {}A{r} {r} 0 0 1 {} {}L{} {}A{q} {q} 0 0 0 {} {}Z".format(
        *(v for c in corners for v in c), r=outer, q=inner
    )
    light = np.interp(number, (0, 3, 6, 9, 12), (0.86, 0.64, 0.46, 0.6, 0.86))
    turn = math.radians(ANCHORS[number][1])
    x, y = _at(number, outer + 9)
    fill = to_hex(
        srgb_from_lab(lab_from_oklab((light, 0.13 * math.cos(turn), 0.13 * math.sin(turn))))
    )
    return {
        "path": path,
        "fill": fill,
        "name": STEPS[number],
        "x": x,
        "y": round(y + 3, 2),
        "side": "middle" if abs(x) < 20 else "start" if x > 0 else "end",
    }


RING = [_step(n) for n in range(12)]


@lru_cache(maxsize=PALETTES)
def circle_of(palette: tuple[Swatch, ...]) -> dict:
    """Ring and dots: a colour lies by its hue, further out the deeper it is, and is as large as its
    share; numbered as the list beside it.
    """
    dots: list[dict[str, Any]] = []
    flowers = [s for s in palette if s.part == "flower"]
    for number, s in enumerate(flowers, 1):
        if s.share < SHOWN:
            continue
        light, a, b = s.own
        deep = math.hypot(a, b) / (light + 16)
        place = float(place_of(s.own))
        x, y = _at(place, INNER * deep / (deep + PALETTE.half_deep))
        tick = _at(place, INNER + 4)
        dots.append(
            {
                "number": number,
                "swatch": s,
                "x": x,
                "y": y,
                "r": round(6 + 26 * math.sqrt(s.share), 1),
                "to_x": tick[0],
                "to_y": tick[1],
                "dark": light < 60,
                "hue": deep > 0.13,
                "percent": round(100 * s.share),
                "unsure": max(1, round(100 * share_unsure((s,), palette))),
            }
        )
    drawn = sorted(dots, key=lambda d: d["r"], reverse=True)
    for k, dot in enumerate(drawn):
        dot["number_x"], dot["number_y"] = _clear_of(dot, drawn[k + 1 :])
    return {"ring": RING, "dots": drawn, "rows": dots, "inner": INNER, "doubtful": _doubtful(dots)}


def _clear_of(dot: dict, above: list[dict]) -> tuple[float, float]:
    """Where on a dot its number stands: in its middle, or as near by as the dots laid `above` it
    leave it readable.
    """

    def clearance(place: tuple[float, float]) -> float:
        return min((math.dist(place, (o["x"], o["y"])) - o["r"] for o in above), default=math.inf)

    places = [(dot["x"], dot["y"])]
    for out in (0.25, 0.5, 0.75):
        away = out * dot["r"]
        places += [
            (round(dot["x"] + x, 2), round(dot["y"] + y, 2))
            for x, y in (_at(turn, away) for turn in range(12))
        ]
    return max(places, key=lambda place: min(clearance(place), NUMBER))


def _doubtful(dots: list[dict]) -> dict | None:
    """The colour of which most may be leaf, or leaf it, if the shares are the less sure for it."""
    if max((d["unsure"] for d in dots), default=0) < DOUBTFUL:
        return None
    return max(dots, key=lambda d: d["swatch"].doubt)


def ticks_of(split) -> dict:
    """Where the wanted parts (three shares) of the flowers end on the bars, and what is written
    over them.
    """
    first, second = BREADTH * split[0], BREADTH * (split[0] + split[1])
    middles = (first / 2, (first + second) / 2, (second + BREADTH) / 2)
    return {
        "path": f"M0-4H{BREADTH:.0f}M{first:.1f}-9V1M{second:.1f}-9V1",
        "words": [
            {"x": round(x, 1), "says": f"{100 * part:.0f}"}
            for x, part in zip(middles, split, strict=True)
        ],
    }


def bars_of(parts) -> list[dict]:
    """The parts of the flowers laid end to end, as far as each goes: x, width, colour and words."""
    out, x = [], 0.0
    total = sum(p.share for p in parts) or 1.0
    for p in parts:
        wide = BREADTH * p.share / total
        out.append(
            {
                "x": round(x, 1),
                "wide": round(max(wide, 0.5), 1),
                "fill": p.swatches[0].chip,
                "hue": p.hue,
                "percent": round(100 * p.share),
            }
        )
        x += wide
    return out


BESIDE = 0.72  # of a bloom's radius, right and down: its number stands clear of the handles


def tints_drawn(reading) -> list[dict]:
    """The blooms of a reading ringed in their colours, as the colour lens draws them: place,
    radius, colour, and on the largest bloom of each colour its number in the list.
    """
    rows = {d["number"]: d["swatch"].chip for d in circle_of(reading.scene.palette)["rows"]}
    numbered: set[int] = set()
    out = []
    for bloom in sorted(reading.scene.blooms, key=lambda b: -b.radius):
        if bloom.role == "foliage" or bloom.swatch not in rows:
            continue
        first = bloom.swatch not in numbered
        numbered.add(bloom.swatch)
        out.append(
            {
                "x": bloom.centre[0],
                "y": bloom.centre[1],
                "r": bloom.radius,
                "chip": rows[bloom.swatch],
                "number": bloom.swatch if first else 0,
                "number_x": bloom.centre[0] + BESIDE * bloom.radius,
                "number_y": bloom.centre[1] + BESIDE * bloom.radius,
            }
        )
    return out
