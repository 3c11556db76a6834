"""Words and small helps for the records' templates."""

from django import template

from heath.records.class_picture import Taught
from heath.records.comparing import Comparison
from juniper.records import Change

register = template.Library()


def _beyond_chance(change: Change) -> str:
    """How far two means lie apart, and whether that is beyond chance."""
    if change.reach is None:
        return "too few to tell whether that is chance"
    spread = f"{change.difference:+.1f} ± {change.reach:.1f}".replace("-", "−")
    told = "beyond chance" if change.sure else "which may be chance"
    return f"{spread} (95 % interval), {told}"


@register.filter
def lesson_words(taught: Taught) -> str:
    """What a lesson changed, in a sentence."""
    if taught.change is None:
        return "nobody has marks both before and after it yet."
    many = f"{taught.students} student{'s' * (taught.students != 1)}"
    before, after = taught.change.before, taught.change.after
    return (
        f"mean mark {before:.1f} of 10 before, {after:.1f} after: {_beyond_chance(taught.change)},"
        f" over {many}."
    )


@register.filter
def comparison_words(compared: Comparison) -> str:
    """How two sides' means differ, in a sentence."""
    change, (one, other) = compared.change, compared.names
    if change is None:
        return ""
    return (
        f"Mean mark {change.before:.1f} of 100 in {one}, {change.after:.1f} in {other}:"
        f" {_beyond_chance(change)}."
    )


@register.filter
def beside(these, those):
    """Pairs of two rows alike in length: those with these."""
    return list(zip(those, these, strict=True))


@register.simple_tag
def typed(said, student, piece):
    """What was typed into the refused form of a cell; nothing for any other cell."""
    if not said or said["student"] != student or said["piece"] != piece:
        return {}
    return said["typed"]


@register.simple_tag
def typed_weight(request, column):
    """A brief's weight as it was typed, else as it is kept."""
    kept = plain_figure(column.weight)
    return request.POST.get(f"weight-{column.brief.pk}", kept)


@register.filter
def plain_figure(value) -> str:
    """A figure without noughts at its end."""
    return f"{float(value):g}"
