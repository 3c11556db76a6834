"""A term's mark out of a student's marks for its briefs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

ON_TIME, LATE, EXCUSED, MISSING = "on time", "late", "excused", "missing"
COUNTED, DROPPED, LEFT_OUT = "counted", "dropped", "left out"
OUT_OF = 100.0


@dataclass(frozen=True)
class Entry:
    """A student's part in one brief: its number, the mark out of 100 (None where none was given),
    the brief's weight, and how the piece came: ON_TIME, LATE, EXCUSED or MISSING. A `corrected`
    mark stands in the place of the given one, and nothing is taken off it.
    """

    brief: int
    mark: float | None
    weight: float = 1.0
    came: str = ON_TIME
    corrected: float | None = None


@dataclass(frozen=True)
class GradebookRules:
    """How a term's mark is made: the `best` so many marks count (None: all), a late piece loses
    `late_off` points, and a missing one counts as nought where `missing_is_nought`, else not.
    """

    best: int | None = None
    late_off: float = 0.0
    missing_is_nought: bool = False


@dataclass(frozen=True)
class TermMark:
    """The weighted mean of what counts, None where nothing does. `marks` are what each brief gives,
    by its number, after what is taken off; `uses` whether it is COUNTED, DROPPED (not among the
    best) or LEFT_OUT.
    """

    mark: float | None
    marks: dict[int, float | None]
    uses: dict[int, str]


USUAL = GradebookRules()


def term_mark(entries: Sequence[Entry], rules: GradebookRules = USUAL) -> TermMark:
    """A term's mark of one student.

    Args:
        entries: the student's part in each brief.
        rules: how the mark is made.

    Returns:
        The mark, what each brief gives, and whether that counts. Excused pieces are always left
        out; of equal marks the heavier brief's counts first, then the earlier one's. A brief of
        weight 0 never counts.

    >>> term_mark([Entry(1, 60.0), Entry(2, 80.0), Entry(3, 40.0)], GradebookRules(best=2)).mark
    70.0
    """
    marks = {e.brief: _given(e, rules) for e in entries}
    uses = {e.brief: LEFT_OUT for e in entries}
    able = [e for e in entries if marks[e.brief] is not None and e.weight > 0]
    ranked = sorted(able, key=lambda e: (-(marks[e.brief] or 0.0), -e.weight))
    counted = ranked if rules.best is None else ranked[: rules.best]
    uses |= {e.brief: DROPPED for e in able} | {e.brief: COUNTED for e in counted}
    weight = sum(e.weight for e in counted)
    mark = sum((marks[e.brief] or 0.0) * e.weight for e in counted) / weight if weight else None
    return TermMark(mark, marks, uses)


def _given(entry: Entry, rules: GradebookRules) -> float | None:
    """What a brief gives to the term."""
    if entry.came == EXCUSED:
        return None
    if entry.corrected is not None:
        return entry.corrected
    if entry.mark is None:
        return 0.0 if entry.came == MISSING and rules.missing_is_nought else None
    off = rules.late_off if entry.came == LATE else 0.0
    return min(OUT_OF, max(0.0, entry.mark - off))
