"""In what order a piece is put together, by its form (handbook sections 1 and 3, common
practice).
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Step:
    """One step of the making: what is placed, and what to mind."""

    what: str
    mind: str


LOOK = Step(
    "Turn it, step back, correct",
    "Look at every side that will be seen: holes, equal heights, bare stems, anything that holds"
    " and shows.",
)
_REST = (
    Step(
        "Filler into the holes",
        "Small and light, deep as well as at the edge; leave space where the form wants it.",
    ),
    Step("Last accents", "Long and light, a few; each colour in more than one place."),
    LOOK,
)
_MASS = (
    Step("Foliage", "It sets the outline and hides what holds; let some hang over the rim."),
    Step("Tallest line", "Over the middle of the rim, as long as planned; look, then cut again."),
    Step(
        "Lines to the sides", "They set the breadth; no two tips opposite each other at one height."
    ),
    Step("Focal flowers", "Low, over the rim, one or three; the largest and fullest."),
    Step(
        "Mass flowers", "At differing depths, none beside another of its length; larger ones lower."
    ),
    *_REST,
)
_THREE = (
    Step("Main stem", "Nearly upright, bent a little toward you; never dead straight."),
    Step("Second stem", "From the same foot, to the same side, about halfway to level."),
    Step("Third stem", "To the other side, low, brought forward."),
    Step(
        "Helpers", "Shorter than the stem they stand by, in odd numbers, one narrow foot for all."
    ),
    Step(
        "The foot",
        "Cover pins and mechanics with low leaves, moss or pebbles; leave the water to be seen.",
    ),
    LOOK,
)
_RINGS = (
    Step("Foliage collar", "Round the rim, so that no edge shows."),
    Step("Lower ring", "An odd number, all leaning alike, pointing to one binding point."),
    Step("Upper ring", "In the gaps of the lower one, longer, leaning less."),
    Step("The tallest, last", "Upright, in the middle."),
    Step("Fill the dome", "Between the rings, at differing depths; turn it with every flower."),
    LOOK,
)
_TABLE = (
    Step(
        "Foliage to both ends",
        "Low over the rim, longest to the ends; the two ends not quite alike.",
    ),
    Step("Height in the middle", "Below the guests' eyes: look across it from a chair."),
    Step("Focal flowers", "Just above the bowl, along its middle, seen from both sides."),
    Step("Mass flowers", "Stepping down from the middle to the ends, at differing depths."),
    *_REST,
)


def order_of_placing(form: str, rules: str = "") -> tuple[Step, ...]:
    """The steps for a form under a rule set (its slug)."""
    if rules.startswith("layered-round"):
        return _RINGS
    if form == "three-stem" or rules.startswith("three-stem"):
        return _THREE
    if form == "horizontal" or rules.startswith("low-table"):
        return _TABLE
    return _MASS
