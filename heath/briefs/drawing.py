"""The target drawn over the chosen container: outline of the form and the height band, to scale."""

from __future__ import annotations

from dataclasses import dataclass

from heath.drawing.evidence import container_path
from juniper.lengths import length
from juniper.planning import MAIN, ContainerSize, plan_stems
from juniper.rules import FORMS, Brief, RuleSet, school, school_slugs
from juniper.scene import ContainerShape

HEIGHT, WIDTH = 440, 400
# cm: the container that stands in while a brief's own sizes are not filled in (common practice)
EXAMPLE = (20.0, 12.0)
MARGIN = 96  # of WIDTH, for the words beside the drawing
NEAREST = 15.0  # between two lines of words


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
    example: bool
    tips: tuple[tuple[float, float, str], ...] = ()

    @property
    def margin(self) -> float:
        """Where the words beside the drawing begin."""
        return self.width - MARGIN + 8

    @property
    def words(self) -> tuple[tuple[float, float, str], ...]:
        """What stands beside the drawing: (the line's place, the words' place, words), from the
        top, no two closer than NEAREST.
        """
        rows = [(self.high, length(self.high_cm)), (self.low, length(self.low_cm))]
        out: list[tuple[float, float, str]] = []
        for y, words in sorted([*rows, (self.rim, "rim")]):
            out.append((y, max(y, out[-1][1] + NEAREST) if out else y, words))
        return tuple(out)


def _sizes(values) -> tuple[float, float, bool]:
    """Height and width of the container in cm, and whether they are the example's."""
    try:
        tall = float(values.get("container_height_cm") or "x")
        wide = float(values.get("container_width_cm") or "x")
    except (TypeError, ValueError):
        return *EXAMPLE, True
    return (tall, wide, False) if 1 <= tall <= 300 and 1 <= wide <= 300 else (*EXAMPLE, True)


def target(values, shape: ContainerShape | None = None, rules: RuleSet | None = None) -> Target:
    """The drawing for a brief's values (a mapping) over a container of a shape, straight-sided
    without one, by `rules` (those of the shipped school that is named, if None). What makes no
    sense or is not there yet is drawn with an example's values.
    """
    tall, wide, example = _sizes(values)
    slug = values.get("rule_set")
    if rules is None:
        rules = school(slug if slug in school_slugs() else next(iter(school_slugs())))
    form = values.get("form") if values.get("form") in FORMS else FORMS[0]
    plan = plan_stems(
        rules,
        ContainerSize(tall, wide),
        Brief(form=form, container_height_cm=tall, container_width_cm=wide),
    )
    low_cm, high_cm, top_cm, half_cm = plan.low, plan.high, plan.height, max(plan.half, wide * 0.55)
    three = "main" in plan.by_name
    room = WIDTH - MARGIN
    scale = min((HEIGHT - 40) / (tall + max(high_cm, top_cm)), (room - 40) / max(2 * half_cm, wide))
    middle, base = room / 2, HEIGHT - 14.0
    rim = base - tall * scale
    tips = (
        [
            (middle + t.side * scale, rim - t.height * scale, f"{t.name} {length(t.length, 0)}")
            for t in plan.stems
            if t.name in MAIN
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
        example,
        tuple(tips),
    )
