"""The target drawn over the chosen container: outline of the form and the height band, to scale."""

from __future__ import annotations

from dataclasses import dataclass

from heath.drawing.evidence import container_path
from juniper.planning import ContainerSize, plan_stems
from juniper.rules import FORMS, Brief, RuleSet, school, school_slugs
from juniper.scene import ContainerShape

HEIGHT = 420
WIDTH = 360


@dataclass(frozen=True)
class Target:
    """Pixels of a drawing WIDTH x HEIGHT, and the lengths in cm it stands for."""

    width: float
    height: float
    container: str
    outline: str
    low: float
    high: float
    low_cm: float
    high_cm: float
    rim: float
    middle: float
    tips: tuple[tuple[float, float, str], ...] = ()


def target(
    values, shape: ContainerShape | None = None, rules: RuleSet | None = None
) -> Target | None:
    """The drawing for a brief's values (a mapping) over a container of a shape, straight-sided
    without one, by `rules` (those of the shipped school that is named, if None); None while the
    sizes make no sense.
    """
    try:
        tall = float(values.get("container_height_cm") or "x")
        wide = float(values.get("container_width_cm") or "x")
    except (TypeError, ValueError):
        return None
    slug = values.get("rule_set")
    if rules is None and slug in school_slugs():
        rules = school(slug)
    if rules is None or not (1 <= tall <= 300 and 1 <= wide <= 300):
        return None
    form = values.get("form") or FORMS[0]
    plan = plan_stems(
        rules,
        ContainerSize(tall, wide),
        Brief(form=form, container_height_cm=tall, container_width_cm=wide),
    )
    low_cm, high_cm, top_cm, half_cm = plan.low, plan.high, plan.height, max(plan.half, wide * 0.55)
    three = "main" in plan.by_name
    scale = min(
        (HEIGHT - 40) / (tall + max(high_cm, top_cm)), (WIDTH - 60) / max(2 * half_cm, wide)
    )
    middle, base = WIDTH / 2, HEIGHT - 14.0
    rim = base - tall * scale
    tips = (
        [
            (middle + t.side * scale, rim - t.height * scale, f"{t.name} {t.length:.0f} cm")
            for t in plan.stems
        ]
        if three
        else []
    )
    if three:
        path = "".join(
            f"M{middle:.1f} {rim:.1f}L{x:.1f} {y:.1f}m-3 0a3 3 0 1 0 6 0a3 3 0 1 0 -6 0"
            for x, y, _ in tips
        )
    else:
        path = "".join(
            "M" + "L".join(f"{middle + x * scale:.1f} {rim - y * scale:.1f}" for x, y in part) + "Z"
            for part in plan.outline(form)
        )
    return Target(
        WIDTH,
        HEIGHT,
        container_path(shape, middle, base, tall * scale, wide * scale),
        path,
        rim - low_cm * scale,
        rim - high_cm * scale,
        low_cm,
        high_cm,
        rim,
        middle,
        tuple(tips),
    )
