"""Names and numbers for templates."""

from django import template
from django.utils.dates import MONTHS

from juniper import lengths

register = template.Library()


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
def of(mapping, key):
    """What a mapping holds under a key."""
    return mapping.get(key)


@register.filter
def signed(value):
    """A number with its sign; nought has none."""
    shown = f"{value:+.2f}".replace("-", "−")
    return shown[1:] if shown[1:] == "0.00" else shown


@register.filter
def family_name(name):
    """A family's name as it heads a part of the column."""
    return {"focal": "Focal point"}.get(name, name.capitalize())


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
def times(value, factor):
    """Product, for SVG sizes that follow the photograph."""
    return f"{float(value) * float(factor):.2f}"


@register.filter
def cm(value):
    """A length in centimetres as it is written."""
    return f"{float(value):g}"


@register.filter
def share_of(part, whole):
    """A part of a whole as per cent."""
    return f"{100 * float(part) / float(whole):.0f} %" if float(whole) else "0 %"


def _digits(digits) -> int | None:
    return None if digits in ("", None) else int(digits)


@register.filter
def as_length(cm, digits=""):
    """A length of centimetres in the reader's unit, with so many decimals, or as many as it has."""
    return lengths.length(float(cm), _digits(digits))


@register.filter
def as_number(cm, digits=""):
    """The same without its unit, for the first of two."""
    return lengths.number(float(cm), _digits(digits))


@register.filter
def frame_box(frame) -> str:
    """What is shown of a photograph, as an SVG view box."""
    return " ".join(f"{x:.0f}" for x in frame)
