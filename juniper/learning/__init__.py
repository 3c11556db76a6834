"""Eye practice: what a learner is asked of a picture, how their answer is judged, how much they err
in each skill, and what comes next.
"""

from juniper.learning.choosing import ROUND, Standing, next_kind, wanted_strength
from juniper.learning.estimate import Estimate, Lean, lean_of
from juniper.learning.exercises import DoesNotSuit, Question, ask, prompt, rule_for, suits
from juniper.learning.judging import BadAnswer, Outcome, judge, plain_answer, same_measure
from juniper.learning.kinds import KIND, KINDS, SKILL, SKILLS, Kind, Skill, kinds_of
from juniper.learning.study import Study, from_document, study_of

__all__ = [
    "KIND",
    "KINDS",
    "ROUND",
    "SKILL",
    "SKILLS",
    "BadAnswer",
    "DoesNotSuit",
    "Estimate",
    "Kind",
    "Lean",
    "Outcome",
    "Question",
    "Skill",
    "Standing",
    "Study",
    "ask",
    "from_document",
    "judge",
    "kinds_of",
    "lean_of",
    "next_kind",
    "plain_answer",
    "prompt",
    "rule_for",
    "same_measure",
    "study_of",
    "suits",
    "wanted_strength",
]
