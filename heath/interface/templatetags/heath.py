"""Small drawn things for templates."""

import math

import numpy as np
from django import template
from django.utils.dates import MONTHS
from django.utils.html import format_html, format_html_join
from django.utils.text import slugify

from heath.interface.circle import bars_of, circle_of, ticks_of
from heath.interface.drawing import crop, lenses
from juniper.colour import flowers_of
from juniper.colour.circle import hue_name
from juniper.colour.deficiency import MATRICES, confused
from juniper.colour.palette import Swatch
from juniper.colour.ratios import relation
from juniper.colour.spaces import ciede2000, from_hex, lab_from_srgb
from juniper.rules import ANSWERS
from juniper.rules.mending import mends

register = template.Library()
WIDTH, MARGIN = 260.0, 8.0
register.filter("lenses", lenses)
register.filter("crop", crop)
register.filter("circle_of", circle_of)
register.filter("bars_of", bars_of)
register.filter("ticks_of", ticks_of)
COUNTED = 0.05  # share from which a colour is looked at by other eyes
LOST = 12.0  # CIEDE2000 to what is behind it under which a colour hardly shows
THERE = 18.0  # CIEDE2000 to the nearest colour of a palette under which a wished one is there


@register.simple_tag
def cone_filters():
    """SVG filters that show a picture as eyes that lack one kind of cone see it."""
    rows = {
        kind: " ".join(" ".join(f"{v:.6f}" for v in row) + " 0 0" for row in matrix) + " 0 0 0 1 0"
        for kind, matrix in MATRICES.items()
    }
    filters = format_html_join(
        "",
        '<filter id="{}" color-interpolation-filters="linearRGB"><feColorMatrix type="matrix"'
        ' values="{}"/></filter>',
        rows.items(),
    )
    return format_html(
        '<svg class="visually-hidden" aria-hidden="true" width="0" height="0">{}</svg>', filters
    )


@register.filter
def confusions(palette):
    """(kind of eye, colour, colour) of a palette's flowers that such an eye can hardly tell
    apart.
    """
    flowers = [s for s in palette if s.part == "flower" and s.share >= COUNTED]
    srgb = np.array([from_hex(s.chip) for s in flowers]).reshape(-1, 3)
    return [
        (kind, flowers[i].name, flowers[j].name)
        for kind in MATRICES
        for i, j in confused(srgb, kind)
    ]


@register.filter
def wished_of(palette, wished):
    """The brief's colours, each with the nearest of a palette's flowers and whether it is there."""
    flowers = flowers_of(palette)
    out = []
    for one in wished:
        lab = lab_from_srgb(from_hex(one["hex"]))
        apart = [
            min(
                float(ciede2000(lab, np.array(c))) for c in (s.own, lab_from_srgb(from_hex(s.chip)))
            )
            for s in flowers
        ]
        at = int(np.argmin(apart)) if apart else None
        out.append(
            {
                **one,
                "nearest": one["hex"] if at is None else flowers[at].chip,
                "there": at is not None and apart[at] < THERE,
            }
        )
    return out


@register.filter
def before_setting(palette, setting):
    """In a sentence, how the flowers stand before the cloth or wall that the brief tells of."""
    lab = lab_from_srgb(from_hex(setting))
    word, nearest = relation(Swatch("setting", tuple(lab), setting, hue_name(lab), 1.0), palette)
    flowers = [s for s in palette if s.part == "flower" and s.share >= COUNTED]
    lost = [
        s.name for s in flowers if float(ciede2000(lab, lab_from_srgb(from_hex(s.chip)))) < LOST
    ]
    if lost:
        return f"Before the brief's cloth or wall {' and '.join(lost)} would hardly show."
    return {
        "neutral": "The brief's cloth or wall is neutral, and every colour shows before it.",
        "echo": f"The brief's cloth or wall echoes {nearest}.",
        "contrast": "The brief's cloth or wall stands in contrast to the flowers.",
    }[word]


STATES = (
    ("returned", "returned"),
    ("marked", "marked"),
    ("marking", "to be marked"),
    ("measuring", "being measured"),
    ("failed", "to take again"),
    ("waiting", "wait for a photograph"),
)
MOST_TICKS, TICK = 60, 9


@register.filter
def tally(brief):
    """A brief's pieces as drawn strokes, one each: struck through when returned, whole when marked,
    half when to be marked, a dot before.
    """
    counts = [(name, words, getattr(brief, name)) for name, words in STATES]
    total = sum(n for *_, n in counts)
    if not total:
        return ""
    says = ", ".join(f"{n} {words}" for _, words, n in counts if n)
    if total > MOST_TICKS:
        return f"{total}"
    shapes, x = [], 4
    for name, _, n in counts:
        for _ in range(n):
            shapes.append((name, TICKS[name].format(x=x, back=x - 3, on=x + 3)))
            x += TICK
    body = format_html_join("", '<path class="{}" d="{}"/>', shapes)
    return format_html(
        '<svg class="tally" viewBox="0 0 {0} 20" width="{0}" height="20" role="img"'
        ' aria-label="{1}">{2}</svg>',
        x,
        says,
        body,
    )


TICKS = {
    "returned": "M{x} 2V18M{back} 14L{on} 6",
    "marked": "M{x} 2V18",
    "marking": "M{x} 10V18",
    "measuring": "M{x} 14V18",
    "failed": "M{back} 13L{on} 18M{on} 13L{back} 18",
    "waiting": "M{x} 17V18",
}


@register.filter
def month(number):
    """A month's name."""
    return MONTHS[number]


@register.filter
def lean_words(degrees):
    """A lean in words: how far, and to which side."""
    return (
        "upright"
        if abs(degrees) < 1
        else f"{abs(degrees):.0f}° to the {'right' if degrees > 0 else 'left'}"
    )


@register.filter
def svg3(value):
    """A factor for SVG."""
    return f"{value:.4g}"


@register.filter
def pair_box(pair, wall):
    """View box that holds two hung pieces."""
    left = min(h.standing.left * h.scale for h in pair)
    right = max(h.standing.right * h.scale for h in pair)
    room = 0.1 * (right - left)
    return f"{left - room:.0f} {wall.top:.0f} {right - left + 2 * room:.0f} {wall.high:.0f}"


@register.filter
def picked_with(picked, one):
    """Numbers of the pieces that are picked once one more is, or once it is put back: two at
    most.
    """
    rest = [p for p in picked if p != one]
    return ",".join(map(str, rest if one in picked else [*rest[-1:], one]))


@register.filter
def of(mapping, key):
    """What a mapping holds under a key."""
    return mapping.get(key)


@register.filter
def signed(value):
    """A number with its sign; nought has none."""
    shown = f"{value:+.2f}".replace("-", "−")
    return shown[1:] if shown[1:] == "0.00" else shown


@register.filter
def band_drawing(line):
    """A line's band as figures for SVG: ideal and limit spans, the value and its uncertainty.

    None for a line without a value, or for a count or fit without a scale worth drawing.
    """
    finding, band = line.finding, line.rule.band
    if not finding.measured:
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
        "low_text": f"{band.low:g}" if math.isfinite(band.low) else "",
        "high_text": f"{band.high:g}" if math.isfinite(band.high) else "",
    }


BAND = (
    '<svg class="band" viewBox="0 0 260 30" role="img" aria-label="{}"><path class="rule" d="M8'
    ' 14H252" stroke="#b3afa3"/><rect class="limit" x="{}" y="12" width="{}" height="4"'
    ' fill="#ccd8d2"/><rect class="ideal" x="{}" y="9" width="{}" height="10" fill="#a9beb6"'
    ' stroke="#24564a" stroke-width=".6"/><rect class="spread" x="{}" y="12.5" width="{}"'
    ' height="3" fill="#5d6a64"/><path class="value" d="M{} 4V24" stroke="#1d2623"'
    ' stroke-width="2"/>{}{}</svg>'
)
EDGE = (
    '<text x="{}" y="29" text-anchor="middle" font-family="Alegreya Sans" font-size="10"'
    ' fill="#4e5a54">{}</text>'
)


@register.simple_tag
def band_svg(b, says):
    """A band as SVG from the figures of band_drawing(); nothing for a line without one.

    Written out here because a page holds it twenty times and it is drawn anew with each move.
    """
    if not b:
        return ""
    low = format_html(EDGE, b["low"], b["low_text"]) if b["low_text"] else ""
    high = (
        format_html(EDGE, b["high"], b["high_text"])
        if b["high_text"] and b["high_text"] != b["low_text"]
        else ""
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


@register.filter
def figure(finding):
    """A finding's value as it is written: two decimals for ratios, whole numbers for counts."""
    if not finding.measured:
        return "not measured" if finding.applies else "–"
    if finding.unit == "answer":
        return ANSWERS[finding.value]
    if finding.unit in ("count", "L*"):
        return f"{finding.value:.0f}"
    if finding.unit == "degrees":
        return f"{finding.value:.0f}°"
    if finding.unit == "cm":
        return f"{finding.value:.0f} cm"
    return f"{finding.value:.2f}"


@register.filter
def spread(finding):
    """A finding's uncertainty, or nothing where it is none."""
    if not finding.measured or finding.uncertainty < 0.005:
        return ""
    return (
        f"±{finding.uncertainty:.0f}"
        if finding.unit in ("L*", "degrees", "cm")
        else f"±{finding.uncertainty:.2f}"
    )


register.filter("mends", mends)


@register.filter
def product(line):
    """A line's mark times its weight."""
    return line.score * line.rule.weight


@register.filter
def products(lines):
    """Sum of the marks times their weights of the lines that count."""
    return sum(product(x) for x in lines if x.score is not None)


def _all_weight(verdict):
    return sum(g.weight for g in verdict.groups if g.score is not None)


@register.filter
def group_points(verdict, group):
    """What a family gives to the total of 100."""
    return 10 * group.score * group.weight / _all_weight(verdict)


@register.filter
def group_share(verdict, group):
    """A family's weight as a share of 100, in whole figures."""
    return f"{100 * group.weight / _all_weight(verdict):.0f}"


@register.filter
def family_name(name):
    """A family's name as it heads a part of the column."""
    return {"focal": "Focal point"}.get(name, name.capitalize())


@register.filter
def mark_of(line):
    """A line's mark as it is written: out of ten, what is proposed, "shown" for a rule without
    marks, or why there is none.
    """
    if line.proposal:
        return f"proposed: {line.proposal}"
    if line.score is None:
        return line.state
    return f"{line.score:.1f}" if line.rule.weight else "shown"


def moving_line(line):
    """What of a line changes on screen while a handle moves: figure, spread, mark, state, band as
    SVG, advice and sums.
    """
    fig = figure(line.finding)
    says = f"{line.rule.title}: {fig}, wanted {line.rule.band.words}"
    mark = mark_of(line)
    shows = line.state != "met" or line.borderline  # the band of a met one is folded away
    band = band_svg(band_drawing(line), says) if shows else ""
    return fig, spread(line.finding), mark, slugify(line.state), band, line.advice, line.arithmetic


@register.filter
def svg(value):
    """A number for SVG: a point as decimal mark whatever the language."""
    return f"{float(value):.1f}"


@register.filter
def unlocalised(value):
    """A number as scripts read it."""
    return f"{float(value):.6g}"


@register.filter
def svg_path(points):
    """Points (n, 2) as an SVG path."""
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


@register.filter
def stem_words(stem, reading):
    """Length and lean of a stem in words."""
    scale, (length, lean) = reading.shown.cm_per_px, reading.run_of(stem)
    long = f"{length * scale:.0f} cm" if scale else f"{length:.0f} px"
    return (
        f"{long}, upright"
        if abs(lean) < 2
        else f"{long}, leans {abs(lean):.0f}° {'right' if lean > 0 else 'left'}"
    )


@register.filter
def times(value, factor):
    """Product, for SVG sizes that follow the photograph."""
    return f"{float(value) * float(factor):.2f}"


@register.filter
def cm(value):
    """A length in centimetres as it is written."""
    return f"{float(value):g}"
