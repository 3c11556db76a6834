"""What the wall's templates need."""

from django import template
from django.utils.html import format_html

from heath.assessment.models import Piece
from juniper.lengths import length

register = template.Library()

STATES = {
    Piece.State.WAITING: "no photograph yet",
    Piece.State.MEASURING: "being measured",
    Piece.State.FAILED: "photograph not usable",
    Piece.State.MARKING: "to mark",
    Piece.State.MARKED: "marked",
    Piece.State.RETURNED: "returned",
}


@register.filter
def pair_box(pair, wall):
    """View box that holds two hung pieces."""
    left = min(h.snapshot.left * h.scale for h in pair)
    right = max(h.snapshot.right * h.scale for h in pair)
    room = 0.1 * (right - left)
    return f"{left - room:.0f} {wall.top:.0f} {right - left + 2 * room:.0f} {wall.high:.0f}"


@register.simple_tag
def whole_box(box):
    """Attributes by which a picture fills a view box."""
    x, y, wide, high = box.split()
    return format_html('x="{}" y="{}" width="{}" height="{}"', x, y, wide, high)


@register.filter
def width_to(start, end):
    """Width from one place to another, for SVG."""
    return f"{max(end - start, 1.0):.1f}"


@register.filter
def picked_with(picked, one):
    """Numbers of the pieces that are picked once one more is, or once it is put back: two at
    most.
    """
    rest = [p for p in picked if p != one]
    return ",".join(map(str, rest if one in picked else [*rest[-1:], one]))


@register.filter
def state_words(piece, hung):
    """A piece's state in two or three words."""
    if piece.reopened:
        return "mark reopened"
    if (sent := piece.latest_arrival) and sent.state == sent.State.WAITING:
        return "being read"
    return STATES[piece.state]


@register.filter
def in_short(brief):
    """What a brief asks for, in one line."""
    colours = f", {brief.scheme}" if brief.scheme else ""
    return (
        f"{brief.container}, {length(float(brief.container_height_cm), None)} high and"
        f" {length(float(brief.container_width_cm), None)} wide; {brief.form}{colours};"
        f" {brief.viewpoint}; {brief.rules.name}; pass at {float(brief.pass_mark):g}."
    )
