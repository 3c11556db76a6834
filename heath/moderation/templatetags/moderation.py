"""Words of agreement for the templates."""

from django import template

from heath.assessment.models import GIVEN
from heath.moderation.agreement import Between
from juniper.agreement import Drift, Kappa, Severity, icc_words, kappa_words

register = template.Library()


def _figure(value: float) -> str:
    return f"{value:.2f}".replace("-", "−")


def _within(low: float | None, high: float | None) -> str:
    return "" if low is None or high is None else f" ({_figure(low)} to {_figure(high)})"


def _icc_said(value: float | None, low: float | None, high: float | None) -> str:
    if value is None:
        return "not to be told: no two marks differ"
    return f"{_figure(value)}{_within(low, high)}, {icc_words(value)}"


@register.filter
def kappa_said(kappa: Kappa) -> str:
    """A weighted kappa with its interval and what it is called."""
    if kappa.value is None:
        return "not to be told: both gave one award throughout"
    return f"{_figure(kappa.value)}{_within(kappa.low, kappa.high)}, {kappa_words(kappa.value)}"


@register.filter
def absolute_said(between: Between) -> str:
    """ICC(2,1) with its interval and what it is called."""
    icc = between.intraclass
    return _icc_said(icc.absolute, icc.absolute_low, icc.absolute_high)


@register.filter
def consistent_said(between: Between) -> str:
    """ICC(3,1) with its interval and what it is called."""
    icc = between.intraclass
    return _icc_said(icc.consistent, icc.consistent_low, icc.consistent_high)


@register.filter
def lean_said(severity: Severity) -> str:
    """How strict a marker is, in words."""
    reach = "" if severity.reach is None else f" ± {severity.reach:.1f}"
    more = "more" if severity.lean >= 0 else "less"
    sure = severity.reach is not None and abs(severity.lean) > severity.reach
    told = "" if sure else ", which may be chance"
    return f"{abs(severity.lean):.1f}{reach} {more} than the mean marker{told}"


@register.filter
def drift_said(course: Drift, names: tuple[str, str]) -> str:
    """How the difference of two markers changes over the term, in words."""
    change = f"{course.slope:+.1f} ± {course.reach:.1f}".replace("-", "−")
    if not course.sure:
        return f"It changes by {change} a week, which may be chance."
    way = "stricter" if course.slope < 0 else "milder"
    return (
        f"It changes by {change} of 100 a week, beyond chance: {names[1]} becomes {way} beside"
        f" {names[0]}."
    )


@register.filter
def signed_figure(value: float) -> str:
    """A figure with its sign."""
    return f"{value:+.1f}".replace("-", "−")


@register.filter
def mean_mark(sides) -> float:
    """The mean of two sides' marks, to a tenth."""
    return round(sum(side.mark for side in sides) / len(sides), 1)


@register.filter
def progress_words(one) -> str:
    """Who has marked how many of a second marking's pieces, in words."""
    counts: dict[str, list[int]] = {}
    for second in one.seconds.all():
        done = counts.setdefault(second.marker.shown_name, [0, 0])
        done[0] += second.copy.state in GIVEN
        done[1] += 1
    return "; ".join(f"{name}: {done} of {many} marked" for name, (done, many) in counts.items())


@register.filter
def part(length, parts) -> str:
    """A part of a length, for SVG."""
    return f"{length / parts:.1f}"


@register.simple_tag
def cross(x, y, height) -> str:
    """A cross at a point, sized by the picture's height, as an SVG path."""
    arm = height / 70
    wide = 2 * arm
    return (
        f"M{x - arm:.1f} {y - arm:.1f}l{wide:.1f} {wide:.1f}m0 {-wide:.1f}l{-wide:.1f} {wide:.1f}"
    )
