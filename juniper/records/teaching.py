"""What to teach a class again, in three sentences."""

from __future__ import annotations

from dataclasses import dataclass

from juniper.records.missed import Missed
from juniper.rules.written import per_cent

# An exercise for the eye by family of rules, done before the class's own pieces (common practice).
EXERCISES = {
    "proportion": "cover the figures, and ask each student where one and a half and two containers"
    " reach on six of these pieces",
    "balance": "cover the figures, and ask each student which side of six of these pieces is the"
    " heavier, and by how much",
    "focal": "show six of these pieces for two seconds each, and ask where the eye came to rest",
    "colour": "ask each student to name the scheme of six of these pieces, and the shares of its"
    " colours, before the figures are shown",
    "line": "ask each student to find twin tips and crossing stems on six of these pieces before"
    " the figures are shown",
    "finish": "ask each student to find the gap, the bare stem and the uncovered rim on six of"
    " these pieces before the figures are shown",
}


@dataclass(frozen=True)
class TeachAgain:
    """What costs most, how it is taught, and an exercise for it: three sentences; `rule` is the
    code of the rule, `family` its family.
    """

    rule: str
    family: str
    sentences: tuple[str, str, str]


def teach_again(missed: Missed, title: str, family: str, taught: str) -> TeachAgain:
    """Three sentences on one rule that a class keeps missing.

    Args:
        missed: the rule over the class's pieces.
        title: its title.
        family: its family, one of the core's families.
        taught: the rule as it is taught, a sentence; '' where it is not known.

    Returns:
        How many pieces fall short of it and what that costs; the rule; an exercise.
    """
    many = len(missed.pieces)
    cost = (
        f"{title}: {many} of {missed.judged} piece{'s' * (missed.judged != 1)}"
        f" ({per_cent(missed.share)}) fall{'s' * (many == 1)} short of it, which costs"
        f" {missed.lost:.1f} of 100 a piece."
    )
    again = f"{taught.rstrip('.')}." if taught else ""
    exercise = f"Exercise: {EXERCISES[family]}."
    return TeachAgain(missed.rule, family, (cost, again, exercise))
