"""Why a mark is what it is, and what would raise it: each line that loses marks brought inside its
band, alone and one after the other.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from juniper.rules.verdict import OUT_OF, Group, Line, Verdict, group_of, under

LEAST = 0.05  # of ten: a mark that rises by less is the same on screen


@dataclass(frozen=True)
class Improvement:
    """What its family's mark would be with one line inside its band: `alone`, and `so_far` with
    those before it as well; `points` is what the total of 100 gains by it alone.
    """

    line: Line
    alone: float
    so_far: float
    points: float


def improvements(verdict: Verdict, group: Group) -> tuple[Improvement, ...]:
    """The lines of a family that would raise its mark, those that raise it most first; none while a
    cap holds it whatever they do.
    """
    if group.score is None:
        return ()
    weight = sum(g.weight for g in verdict.groups if g.score is not None)

    def mark(lines: tuple[Line, ...]) -> float:
        changed = group_of(group.family, lines)
        if changed is None:
            raise ValueError(f"{group.family} has no lines")
        return under(changed, verdict.ceilings).marks

    def mended(lines: tuple[Line, ...], one: Line) -> tuple[Line, ...]:
        return tuple(replace(x, score=OUT_OF) if x.rule.code == one.rule.code else x for x in lines)

    losing = [x for x in group.lines if x.score is not None and x.score < OUT_OF - LEAST]
    alone = {x.rule.code: mark(mended(group.lines, x)) for x in losing}
    # Under a cap no single line may help: then the capping one comes first.
    order = sorted(
        losing,
        key=lambda x: (
            -alone[x.rule.code],
            x.rule.title != group.capped_by,
            -(OUT_OF - x.marks) * x.rule.weight,
        ),
    )
    out, lines = [], group.lines
    for line in order:
        lines = mended(lines, line)
        gain = 100 * (alone[line.rule.code] - group.score) * group.weight / (OUT_OF * weight)
        out.append(Improvement(line, alone[line.rule.code], mark(lines), gain))
    return tuple(out)
