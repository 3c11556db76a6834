"""A verdict's lines as they are written on page and paper."""

from django.utils.text import slugify

from heath.drawing.bands import band_drawing, band_svg
from juniper.lengths import length
from juniper.measures import Missing
from juniper.rules import ANSWERS
from juniper.rules.observations import seen_and_taught
from juniper.rules.written import SHARES, band_words, per_cent, value_words
from juniper.values import adding_up


def figure(finding):
    """A finding's value as it is written, or why there is none."""
    if isinstance(finding, Missing):
        return "not measured" if finding.applies else "–"
    if finding.unit == "answer":
        return ANSWERS[finding.value]
    return value_words(finding.value, finding.unit)


def spread(finding):
    """A finding's uncertainty, or nothing where it is none."""
    if isinstance(finding, Missing) or finding.uncertainty < 0.005:
        return ""
    if finding.unit in SHARES:
        return f"±{per_cent(finding.uncertainty)}"
    return (
        f"±{finding.uncertainty:.0f}"
        if finding.unit in ("L*", "degrees", "cm")
        else f"±{finding.uncertainty:.2f}"
    )


def mark_of(line):
    """A line's mark as it is written: out of ten, what is proposed, "shown" for a rule without
    marks, or why there is none.
    """
    if line.proposal:
        return f"proposed: {line.proposal}"
    if line.score is None:
        return line.state
    return f"{line.score:.1f}" if line.rule.weight else "shown"


def product(line):
    """A line's mark times its weight."""
    return line.score * line.rule.weight


def products_shown(group):
    """(line, its product as it is written) of a family's lines that count; they add up to the
    products' sum as it is written.
    """
    lines = [x for x in group.lines if x.score is not None and x.rule.weight]
    return list(zip(lines, adding_up([product(x) for x in lines]), strict=True))


def points_shown(verdict):
    """(family, what it gives to the total as it is written or None) of each family; they add up to
    the total of the families as it is written.
    """
    counted = [g for g in verdict.groups if g.score is not None]
    shown = dict(
        zip(
            (g.family for g in counted),
            adding_up([group_points(verdict, g) for g in counted]),
            strict=True,
        )
    )
    return [(g, shown.get(g.family)) for g in verdict.groups]


def products(lines):
    """Sum of the marks times their weights of the lines that count."""
    return sum(product(x) for x in lines if x.score is not None)


def _all_weight(verdict):
    return sum(g.weight for g in verdict.groups if g.score is not None)


def group_points(verdict, group):
    """What a family gives to the total of 100."""
    return 10 * group.score * group.weight / _all_weight(verdict)


def group_share(verdict, group):
    """A family's weight as a share of 100, in whole figures."""
    return f"{100 * group.weight / _all_weight(verdict):.0f}"


def stem_words(stem, reading):
    """Length and lean of a stem in words."""
    scale, (run, lean) = reading.shown.cm_per_px, reading.run_of(stem)
    long = length(run * scale, 0) if scale else f"{run:.0f} px"
    return (
        f"{long}, upright"
        if abs(lean) < 2
        else f"{long}, leans {abs(lean):.0f}° {'right' if lean > 0 else 'left'}"
    )


def band_text(line):
    """A line's band with its limits, as it is written."""
    return band_words(line.rule.band, line.finding.unit)


def moving_line(line):
    """What of a line changes on screen while a handle moves: figure, spread, mark, state, band as
    SVG, advice and sums.
    """
    fig = figure(line.finding)
    says = f"{line.rule.title}: {fig}, wanted {band_words(line.rule.band, line.finding.unit)}"
    mark = mark_of(line)
    shows = line.state != "met" or line.borderline  # the band of a met one is folded away
    band = band_svg(band_drawing(line), says) if shows else ""
    return (
        fig,
        spread(line.finding),
        mark,
        slugify(line.state),
        band,
        line.to_do,
        line.arithmetic,
        seen_and_taught(line),
    )
