"""In what order a piece is put together: the steps of a plan's pattern, with the plan's own places
and lengths filled into their sentences.
"""

from __future__ import annotations

from dataclasses import dataclass

from juniper.lengths import length
from juniper.patterns import PatternStep
from juniper.patterns.document import BLANK
from juniper.planning.groups import GroupPlan
from juniper.planning.stems import PlannedStem, StemPlan
from juniper.rules import Rule

# degrees: a lean of less is upright, one of more low (common practice)
UPRIGHT, LOW = 6.0, 65.0
IN_LINE = 0.06  # of half the breadth: a tip nearer to the axis stands over the middle


@dataclass(frozen=True)
class Step:
    """One step of the making: what is placed, and what to mind; the stage that is reached with it
    ('' none), the title of the rule that marks it ('' where none in force does), and how many stems
    of the plan it sets (0 where it sets none of them).
    """

    what: str
    mind: str
    stage: str = ""
    marked_by: str = ""
    stems: int = 0


def order_of_placing(
    plan: StemPlan | GroupPlan, rules: tuple[Rule, ...] = (), rings: dict[str, int] | None = None
) -> tuple[Step, ...]:
    """The steps of a plan's pattern. `rules` are those in force, and `rings` how many heads each
    ring has, by its stem's name, where the brief or the plan says so.
    """
    by_measure = {r.measure: r.title for r in reversed(rules) if r.measure}
    return tuple(
        Step(
            step.what,
            _filled(step, plan, rings or {}),
            step.stage,
            next((by_measure[m] for m in step.measures if m in by_measure), ""),
            sum(plan.by_name[n].count for n in step.stems if n in plan.by_name),
        )
        for step in plan.pattern.steps
    )


def _filled(step: PatternStep, plan: StemPlan | GroupPlan, rings: dict[str, int]) -> str:
    """A step's sentence with the figures of its first stem in the plan."""
    own = [plan.by_name[n] for n in step.stems if n in plan.by_name]
    if not own:
        return step.mind
    first = own[0]
    words = {
        "where": where_words(first, plan),
        "cut": length(first.cut),
        "shows": length(abs(first.height), 0),
        "lean": lean_words(first),
        "count": str(rings.get(first.name, first.count)),
    }
    said = BLANK.sub(lambda blank: words[blank[1]], step.mind)
    return said[:1].upper() + said[1:]


def where_words(stem: PlannedStem, plan: StemPlan | GroupPlan) -> str:
    """Where a stem's tip stands, in words.

    >>> from juniper.planning.stems import ContainerSize, plan_stems
    >>> from juniper.rules import Brief, school
    >>> plan = plan_stems(school("classical-line-mass"), ContainerSize(24, 10),
    ...                   Brief(form="right-angle L"))
    >>> where_words(plan.by_name["tallest"], plan)
    'left of the middle of the rim'
    """
    if plan.pattern.kind == "on an edge":
        at = "the middle of the edge"
    elif plan.pattern.kind == "hand-tied":
        at = "the middle of the bunch"
    else:
        at = "the middle of the rim"
    if abs(stem.side) <= IN_LINE * max(plan.half, 1e-9):
        return f"over {at}"
    side = "left" if stem.side < 0 else "right"
    if stem.height < 0:
        return f"down over the rim on the {side}" if "rim" in at else f"at the {side} end"
    return f"low, to the {side} of {at}" if abs(stem.lean) > LOW else f"{side} of {at}"


def lean_words(stem: PlannedStem) -> str:
    """How far a stem leans, in words."""
    lean = abs(stem.lean)
    if lean <= UPRIGHT:
        return "upright"
    side = "left" if stem.lean < 0 else "right"
    return f"leaning {lean:.0f}° to the {side}"
