"""Words and figures of the planner's pages."""

from django import template
from django.utils.dates import MONTHS

from juniper.lengths import length
from juniper.planning.conditioning import in_use, steps_of
from juniper.planning.treatment import STAGES

register = template.Library()
PLACES = (
    ("plan", "Stems"),
    ("recipe", "Recipe"),
    ("lesson-plan", "Lesson"),
    ("conditioning", "Conditioning"),
    ("care", "Aftercare"),
)


@register.inclusion_tag("planner/_nav.html")
def planner_places(brief, here):
    """The places of a brief's plan, the one where one is marked."""
    return {"brief": brief, "here": here, "places": PLACES}


@register.filter
def made_ready(material, ways):
    """How a material is made ready by a school's ways: its steps, what is done in use, the stage at
    which it is bought.
    """
    return {
        "steps": steps_of(material, ways),
        "in_use": in_use(material),
        "stage": STAGES[material.treatment.stage],
    }


@register.filter
def depth_words(cm):
    """How far a tip stands before or behind the container's middle."""
    if abs(cm) < 0.5:
        return "in line"
    return f"{length(abs(cm), 0)} {'before' if cm > 0 else 'behind'}"


@register.filter
def side_words(cm):
    """How far from the middle of an edge something lies."""
    if abs(cm) < 0.5:
        return "in the middle"
    return f"{length(abs(cm), 0)} {'right' if cm > 0 else 'left'}"


@register.filter
def reach_words(cm):
    """How far something on an edge stands over it or hangs below it."""
    return f"{length(abs(cm), 0)} {'over it' if cm > 0 else 'down'}"


@register.filter
def side_by_side(swatches, across=400):
    """Each swatch with where its part of a bar begins."""
    out, at = [], 0.0
    for swatch in swatches:
        out.append((swatch, at))
        at += across * swatch.share
    return out


@register.filter
def months_words(months, south=False):
    """When a material is cut, in the hemisphere of the school."""
    if len(months) == 12:
        return "all year"
    first, last = ((m + 5) % 12 + 1 if south else m for m in (months[0], months[-1]))
    return MONTHS[first] if first == last else f"{MONTHS[first]} to {MONTHS[last]}"
