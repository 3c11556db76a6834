"""What marks say over time: a student's course, a class's misses, a term's mark."""

from juniper.records.changes import Change, change
from juniper.records.gradebook import (
    COUNTED,
    DROPPED,
    EXCUSED,
    LATE,
    MISSING,
    ON_TIME,
    Entry,
    GradebookRules,
    TermMark,
    term_mark,
)
from juniper.records.levels import Level, shipped_levels
from juniper.records.missed import Missed, most_missed
from juniper.records.progress import Outcome, Taken, first_and_last_sure, taken
from juniper.records.teaching import TeachAgain, teach_again

__all__ = [
    "COUNTED",
    "DROPPED",
    "EXCUSED",
    "LATE",
    "MISSING",
    "ON_TIME",
    "Change",
    "Entry",
    "GradebookRules",
    "Level",
    "Missed",
    "Outcome",
    "Taken",
    "TeachAgain",
    "TermMark",
    "change",
    "first_and_last_sure",
    "most_missed",
    "shipped_levels",
    "taken",
    "teach_again",
    "term_mark",
]
