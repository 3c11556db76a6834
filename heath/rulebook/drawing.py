"""Bands drawn against real pieces, and an example of every measure."""

from __future__ import annotations

import math

from django.utils.html import format_html, format_html_join

from juniper.rules import Band

WIDTH, MARGIN = 260.0, 8.0
SVG = (
    '<svg class="band" viewBox="0 0 260 34" role="img" aria-label="{}"><path class="rule" d="M8'
    ' 18H252"/><rect class="limit" x="{}" y="16" width="{}" height="4"/><rect class="ideal" x="{}"'
    ' y="13" width="{}" height="10"/>{}{}</svg>'
)


def span_of(bands: list[Band], values: list[float]) -> tuple[float, float]:
    """The scale on which bands and values are drawn together."""
    edges = [e for b in bands for e in b.edges if math.isfinite(e)]
    low, high = min(edges), max(edges)
    room = 0.25 * ((high - low) or 1.0)
    inside = [v for v in values if low - 3 * room <= v <= high + 3 * room]
    return min([low - room, *inside]), max([high + room, *inside])


def band_on_scale(band: Band, span: tuple[float, float], values: list[float], says: str) -> str:
    """A band as SVG on a given scale, with a dot for each value of a marked piece."""

    def place(x: float) -> float:
        if math.isinf(x):
            return MARGIN if x < 0 else WIDTH - MARGIN
        return round(
            MARGIN + min(max((x - span[0]) / (span[1] - span[0]), 0.0), 1.0) * (WIDTH - 2 * MARGIN),
            1,
        )

    low_limit, low, high, high_limit = map(place, band.edges)
    dots = format_html_join(
        "",
        '<circle class="piece" cx="{}" cy="{}" r="2.2"/>',
        ((place(v), 8 - 2.5 * (i % 3)) for i, v in enumerate(values)),
    )
    texts = format_html_join(
        "",
        '<text x="{}" y="33" text-anchor="middle">{}</text>',
        ((place(e), f"{e:g}") for e in dict.fromkeys((band.low, band.high)) if math.isfinite(e)),
    )
    return format_html(
        SVG,
        says,
        low_limit,
        round(high_limit - low_limit, 1),
        low,
        round(max(high - low, 1.5), 1),
        dots,
        texts,
    )
