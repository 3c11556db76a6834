"""A plan held against the rules that will mark the piece, and what is lost when stems are shorter
than planned.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from juniper.planning.moving import within
from juniper.planning.stems import ContainerSize, StemPlan, plan_stems
from juniper.rules import Brief, Rule, RuleSet
from juniper.rules.written import band_words, value_words

OUT_OF, MET = 10.0, 9.95


@dataclass(frozen=True)
class Held:
    """A rule that a plan can be held against, what the finished piece would measure, and its score
    out of ten.
    """

    rule: Rule
    value: float
    score: float

    @property
    def state(self) -> str:
        """'met', 'near' or 'missed', as the score shows to a tenth."""
        return "met" if self.score >= MET else self.rule.band.state(self.value)

    @property
    def figure(self) -> str:
        """The value as it is written."""
        return value_words(self.value, self.rule.unit)

    @property
    def band(self) -> str:
        """The band as it is written, in the same unit."""
        return band_words(self.rule.band, self.rule.unit)


def held_by(rules: RuleSet, values: dict[str, float], brief: Brief) -> tuple[Held, ...]:
    """Every rule in force that speaks of what is settled, in the rule set's order; `values` by the
    names of the measures.
    """
    own = (
        rule.under(brief) for rule in rules.rules if rule.applies(brief) and rule.measure in values
    )
    return tuple(
        Held(rule, values[rule.measure], OUT_OF * rule.band.score(values[rule.measure]))
        for rule in own
    )


@dataclass(frozen=True)
class Shortage:
    """Stems of `longest` cm where longer ones were planned: the plan that they allow (None where
    they do not reach over the rim), what each rule loses of the mark's 100 points by it (title,
    points), and where they would do: containers and schools by their names, and how high a
    container of this one's shape may be, cm (None where none of a fifth of its size does).
    """

    longest: float
    plan: StemPlan | None
    lost: tuple[tuple[str, float], ...]
    containers: tuple[str, ...]
    schools: tuple[str, ...]
    like_this: float | None = None

    @property
    def points(self) -> float:
        """All that the mark loses of 100, if the rest of the piece is as taught."""
        return sum(points for _, points in self.lost)


def shortage(
    plan: StemPlan,
    longest: float,
    rules: RuleSet,
    container: ContainerSize,
    brief: Brief,
    containers: dict[str, ContainerSize],
    schools: tuple[RuleSet, ...],
) -> Shortage | None:
    """What stems that can be cut to `longest` cm at most mean for a plan; None when they are long
    enough. `containers` are others by their names, `schools` other rule sets for this one.
    """
    if all(s.cut <= longest for s in plan.stems):
        return None
    try:
        cut = within(plan, longest)
    except ValueError:
        cut = None
    lost = []
    if cut is not None:
        whole = sum(r.weight for r in rules.rules if r.applies(brief))
        for before, after in zip(
            held_by(rules, plan.values(container), brief),
            held_by(rules, cut.values(container), brief),
            strict=True,
        ):
            points = 100 * before.rule.weight * (before.score - after.score) / (OUT_OF * whole)
            if points > 0.05:
                lost.append((before.rule.title, points))
    return Shortage(
        longest,
        cut,
        tuple(sorted(lost, key=lambda x: -x[1])),
        tuple(
            name for name, other in containers.items() if _suffices(rules, other, brief, longest)
        ),
        tuple(
            r.name
            for r in schools
            if r.slug != rules.slug
            and r.suits(brief)
            and _suffices(r, container, brief, longest, plan)
        ),
        next(
            (
                h
                for h in _smaller(container)
                if _suffices(rules, _of_height(container, h), brief, longest)
            ),
            None,
        ),
    )


def _smaller(container: ContainerSize) -> list[float]:
    """Heights of smaller containers, in half centimetres, the largest first, down to a fifth."""
    first = math.floor(2 * container.height - 1e-9)
    return [h / 2 for h in range(first, max(1, math.ceil(0.4 * container.height)) - 1, -1)]


def _of_height(container: ContainerSize, height: float) -> ContainerSize:
    by = height / container.height
    return ContainerSize(
        height, container.width * by, None if container.depth is None else container.depth * by
    )


def _suffices(
    rules: RuleSet,
    container: ContainerSize,
    brief: Brief,
    longest: float,
    like: StemPlan | None = None,
) -> bool:
    """Whether stems of a length are enough for the plan of a rule set in a container, which holds
    every one of its bands and, if it is to be `like` another plan, has the same stems.
    """
    plan = plan_stems(rules, container, brief)
    if like is not None and set(plan.by_name) - {"focal"} != set(like.by_name) - {"focal"}:
        return False
    if any(s.cut > longest for s in plan.stems):
        return False
    return all(h.state == "met" for h in held_by(rules, plan.values(container), brief))
