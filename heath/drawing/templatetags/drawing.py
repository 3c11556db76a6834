"""Drawings and figures of measures for templates."""

from django import template

from heath.drawing import bands, circle, evidence, lines, palettes, plots, tally
from juniper.rules.improvements import improvements

register = template.Library()
for one in (
    bands.band_drawing,
    circle.bars_of,
    circle.circle_of,
    circle.ticks_of,
    circle.tints_drawn,
    evidence.card_cover,
    evidence.crop,
    evidence.lenses,
    lines.band_text,
    lines.figure,
    lines.seen_and_taught,
    lines.group_points,
    lines.group_share,
    lines.mark_of,
    lines.points_shown,
    lines.product,
    lines.products_shown,
    lines.products,
    lines.spread,
    lines.stem_words,
    improvements,
    palettes.before_setting,
    palettes.confusions,
    palettes.wished_of,
    plots.table_of,
    tally.state_counts,
    tally.tally,
):
    register.filter(one.__name__, one)
register.simple_tag(tally.tally_key)
register.simple_tag(bands.band_svg)
register.simple_tag(palettes.cone_filters)
