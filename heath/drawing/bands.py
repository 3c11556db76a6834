"""A rule's band, with the value in it, as SVG."""

import math

from django.utils.html import format_html

from juniper.measures import Missing
from juniper.rules.written import edge_words

WIDTH, MARGIN = 260.0, 8.0
ABREAST = 34.0  # apart, in units of the drawing: two figures of four letters fit below two edges


BAND = (
    '<svg class="band" viewBox="0 0 260 30" role="img" aria-label="{}"><path class="rule" d="M8'
    ' 14H252" stroke="#b3afa3"/><rect class="limit" x="{}" y="12" width="{}" height="4"'
    ' fill="#ccd8d2"/><rect class="ideal" x="{}" y="9" width="{}" height="10" fill="#a9beb6"'
    ' stroke="#24564a" stroke-width=".6"/><rect class="spread" x="{}" y="12.5" width="{}"'
    ' height="3" fill="#5d6a64"/><path class="value" d="M{} 4V24" stroke="#1d2623"'
    ' stroke-width="2"/>{}{}</svg>'
)


EDGE = (
    '<text x="{}" y="29" text-anchor="{}" font-family="Alegreya Sans" font-size="10"'
    ' fill="#4e5a54">{}</text>'
)


def band_drawing(line):
    """A line's band as figures for SVG: ideal and limit spans, the value and its uncertainty.

    None for a line without a value, or for a count or fit without a scale worth drawing.
    """
    finding, band = line.finding, line.rule.band
    if isinstance(finding, Missing):
        return None
    edges = [e for e in band.edges if math.isfinite(e)]
    value, spread = finding.value, finding.uncertainty
    span = max(edges) - min(edges) or 1.0
    start, end = min(edges) - 0.25 * span, max(edges) + 0.25 * span
    if finding.unit in ("share", "fit", "count"):
        start = max(start, min(0.0, value))
    if finding.unit in ("share", "fit"):
        end = min(end, max(1.0, value))

    def place(x):
        inside = min(max((x - start) / (end - start), 0.0), 1.0)
        return round(MARGIN + inside * (WIDTH - 2 * MARGIN), 1)

    low_limit, low, high, high_limit = (
        place(e) if math.isfinite(e) else (MARGIN if e < 0 else WIDTH - MARGIN) for e in band.edges
    )
    left, right = place(value - spread), place(value + spread)
    return {
        "low_limit": low_limit,
        "low": low,
        "high": high,
        "high_limit": high_limit,
        "span": round(high_limit - low_limit, 1),
        "ideal": round(max(high - low, 1.5), 1),
        "value": place(value),
        "from": left,
        "spread": round(max(right - left, 1.0), 1),
        "low_text": edge_words(band.low, finding.unit),
        "high_text": edge_words(band.high, finding.unit),
    }


def anchors(low: float, high: float) -> tuple[str, str]:
    """How the figures below two edges are set, so that they do not run into one another.

    >>> anchors(40, 100), anchors(40, 60)
    (('middle', 'middle'), ('end', 'start'))
    """
    return ("middle", "middle") if high - low >= ABREAST else ("end", "start")


def band_svg(b, says):
    """A band as SVG from the figures of band_drawing(); nothing for a line without one.

    Written out here because a page holds it twenty times and it is drawn anew with each move.
    """
    if not b:
        return ""
    words, places = (b["low_text"], b["high_text"]), (b["low"], b["high"])
    both = all(words) and words[0] != words[1]
    ways = anchors(*places) if both else ("middle", "middle")
    low = format_html(EDGE, places[0], ways[0], words[0]) if words[0] else ""
    high = (
        format_html(EDGE, places[1], ways[1], words[1]) if words[1] and words[1] != words[0] else ""
    )
    return format_html(
        BAND,
        says,
        b["low_limit"],
        b["span"],
        b["low"],
        b["ideal"],
        b["from"],
        b["spread"],
        b["value"],
        low,
        high,
    )
