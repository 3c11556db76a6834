"""Bands drawn against real pieces, and an example of every measure."""

from __future__ import annotations

import math

from django.utils.html import format_html, format_html_join

from heath.drawing.bands import anchors
from heath.web.names import FAMILY_NAMES
from juniper.rules import FAMILIES, Band, RuleSet
from juniper.rules.written import edge_words

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


BAR = 300.0  # px: all weights of a rule set end to end
NAMED = 34.0  # px: a part that is broader carries its name


def weights_bar(rule_set: RuleSet) -> str:
    """What counts in a rule set: the families' shares of the weight end to end, as SVG."""
    total = sum(r.weight for r in rule_set.rules) or 1.0
    parts, x = [], 0.0
    for number, family in enumerate(FAMILIES):
        share = sum(r.weight for r in rule_set.rules if r.family == family) / total
        if not share:
            continue
        wide = BAR * share
        name = FAMILY_NAMES[family].split()[0]
        parts.append((number % 2, x, wide, x + 3, name if wide > NAMED else "", 100 * share))
        x += wide
    said = ", ".join(
        f"{FAMILY_NAMES[f].lower()} {100 * s:.0f} %"
        for f in FAMILIES
        if (s := sum(r.weight for r in rule_set.rules if r.family == f) / total)
    )
    body = format_html_join(
        "",
        '<g class="part-{}"><rect x="{}" width="{}" height="16"/><text x="{}" y="29">{}</text></g>',
        ((odd, f"{x:.1f}", f"{w:.1f}", f"{at:.1f}", f"{n} {s:.0f} %" if n else "")
         for odd, x, w, at, n, s in parts),
    )  # fmt: skip
    return format_html(
        '<svg class="weights" viewBox="0 0 300 32" role="img" aria-label="{}">{}</svg>', said, body
    )


def band_on_scale(
    band: Band, span: tuple[float, float], values: list[float], says: str, unit: str = ""
) -> str:
    """A band as SVG on a given scale, with a dot for each value of a marked piece; edges of a unit
    of shares are written as per cent.
    """

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
    written = [e for e in dict.fromkeys((band.low, band.high)) if math.isfinite(e)]
    ways = anchors(low, high) if len(written) > 1 else ("middle",)
    texts = format_html_join(
        "",
        '<text x="{}" y="33" text-anchor="{}">{}</text>',
        ((place(e), way, edge_words(e, unit)) for e, way in zip(written, ways, strict=False)),
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
