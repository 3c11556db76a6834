"""What the wall's templates need."""

from django import template

register = template.Library()


@register.filter
def pair_box(pair, wall):
    """View box that holds two hung pieces."""
    left = min(h.snapshot.left * h.scale for h in pair)
    right = max(h.snapshot.right * h.scale for h in pair)
    room = 0.1 * (right - left)
    return f"{left - room:.0f} {wall.top:.0f} {right - left + 2 * room:.0f} {wall.high:.0f}"


@register.filter
def picked_with(picked, one):
    """Numbers of the pieces that are picked once one more is, or once it is put back: two at
    most.
    """
    rest = [p for p in picked if p != one]
    return ",".join(map(str, rest if one in picked else [*rest[-1:], one]))
