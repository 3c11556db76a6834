"""Why a piece does not have the next award."""

from __future__ import annotations

from juniper.rules.verdict import Verdict


def why_not_next(verdict: Verdict, pass_mark: float, names: dict[str, str]) -> str:
    """What a piece lacks for the next award above the one it has.

    Args:
        verdict: of a piece.
        pass_mark: of its brief, of 100.
        names: what each family is called.

    Returns:
        One sentence; '' where there is no higher award, or no award can be given yet.
    """
    score = verdict.score
    if score is None or not verdict.enough or verdict.unsafe or verdict.to_answer:
        return ""
    awards = [a for a in verdict.rule_set.awards if a.at >= pass_mark]  # from the highest down
    if not awards:
        return ""
    had = [a.name for a in awards]
    at = had.index(verdict.award) if verdict.award in had else len(awards)
    if at == 0:
        return ""
    above = awards[at - 1]
    start = max(above.at, pass_mark)
    if score < start:
        lacks = start - score
        more = f"{lacks:.0f} more" if lacks >= 0.5 else "a little more"
        return f"{above.name.capitalize()} begins at {start:g}: {more} of 100."
    low = min((g for g in verdict.groups if g.score is not None), key=lambda g: g.marks)
    return (
        f"{above.name.capitalize()} needs at least {above.each:g} of 10 in every family:"
        f" {names[low.family].lower()} has {low.marks:.1f}."
    )
