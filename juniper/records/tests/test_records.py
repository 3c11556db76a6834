"""Course, misses and a term's mark, by hand; common practice where no source is named."""

import itertools
import unittest

from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import ttest_ind, ttest_rel

from juniper.records import (
    COUNTED,
    DROPPED,
    EXCUSED,
    LATE,
    MISSING,
    Entry,
    GradebookRules,
    Outcome,
    Taken,
    change,
    first_and_last_sure,
    most_missed,
    shipped_levels,
    taken,
    term_mark,
)
from juniper.records.gradebook import LEFT_OUT
from juniper.rules import school, school_slugs

MARKS = st.lists(st.floats(0, 100), min_size=1, max_size=8)


class TermMarks(unittest.TestCase):
    def test_weights(self):
        entries = [Entry(1, 60.0, 1.0), Entry(2, 90.0, 2.0), Entry(3, 10.0, 0.0)]
        found = term_mark(entries)
        self.assertAlmostEqual(found.mark, 80)
        self.assertEqual(found.uses, {1: COUNTED, 2: COUNTED, 3: LEFT_OUT})

    def test_best_two_of_four_the_heavier_of_equal_marks_first(self):
        entries = [Entry(1, 70.0), Entry(2, 50.0), Entry(3, 70.0, 3.0), Entry(4, 80.0)]
        found = term_mark(entries, GradebookRules(best=2))
        self.assertAlmostEqual(found.mark, (70 * 3 + 80) / 4)
        self.assertEqual(found.uses, {1: DROPPED, 2: DROPPED, 3: COUNTED, 4: COUNTED})

    def test_late_excused_missing(self):
        entries = [
            Entry(1, 80.0, came=LATE),
            Entry(2, 20.0, came=EXCUSED),
            Entry(3, None, came=MISSING),
            Entry(4, None),
        ]
        found = term_mark(entries, GradebookRules(late_off=10))
        self.assertEqual(found.marks, {1: 70.0, 2: None, 3: None, 4: None})
        self.assertAlmostEqual(found.mark, 70)
        self.assertAlmostEqual(
            term_mark(entries, GradebookRules(late_off=10, missing_is_nought=True)).mark, 35
        )

    def test_a_late_piece_is_never_below_nought(self):
        self.assertEqual(term_mark([Entry(1, 4.0, came=LATE)], GradebookRules(late_off=10)).mark, 0)

    def test_a_correction_stands_whatever_came_late_but_not_against_an_excuse(self):
        rules = GradebookRules(late_off=10)
        self.assertEqual(term_mark([Entry(1, 60.0, came=LATE, corrected=64.0)], rules).mark, 64)
        self.assertEqual(term_mark([Entry(1, None, corrected=50.0)]).mark, 50)
        self.assertIsNone(term_mark([Entry(1, 60.0, came=EXCUSED, corrected=64.0)]).mark)

    def test_nothing_that_counts_is_no_mark(self):
        self.assertIsNone(term_mark([]).mark)
        self.assertIsNone(term_mark([Entry(1, 60.0, 0.0)]).mark)

    @given(marks=MARKS, best=st.integers(1, 8))
    def test_the_best_so_many_are_never_worse_than_one_more_of_them(self, marks, best):
        entries = [Entry(n, m) for n, m in enumerate(marks)]
        fewer, more = (term_mark(entries, GradebookRules(best=b)).mark for b in (best, best + 1))
        self.assertGreaterEqual(fewer, more - 1e-9)
        self.assertLessEqual(fewer, max(marks) + 1e-9)


class Progress(unittest.TestCase):
    def test_first_and_last_time_that_a_rule_was_surely_held(self):
        course = [Outcome(10, True), Outcome(9.0), Outcome(None), Outcome(3), Outcome(9.5)]
        self.assertEqual(first_and_last_sure(course), (1, 4))
        self.assertEqual(first_and_last_sure([Outcome(8.9), Outcome(10, True)]), (None, None))

    def test_what_became_of_a_cut(self):
        for before, after, what in (
            (4.0, 9.0, Taken.TAKEN),
            (4.0, 8.9, Taken.PARTLY),
            (4.0, 5.0, Taken.PARTLY),
            (4.0, 4.9, Taken.NOT_TAKEN),
            (4.0, 2.0, Taken.NOT_TAKEN),
            (None, 9.0, Taken.NOT_JUDGED),
            (4.0, None, Taken.NOT_JUDGED),
        ):
            self.assertEqual(taken(Outcome(before), Outcome(after)), what)
        self.assertEqual(taken(None, Outcome(9.0)), Taken.NOT_JUDGED)


class MostMissed(unittest.TestCase):
    def test_cost_is_by_weight_and_the_worst_piece_first(self):
        rows = [
            ("rim", 1, 4.0, 0.1),
            ("rim", 2, 2.0, 0.1),
            ("rim", 3, 9.0, 0.1),
            ("height", 1, 5.0, 0.4),
            ("height", 2, 10.0, 0.4),
            ("shown", 1, 0.0, 0.0),
            ("held", 1, 9.0, 0.3),
        ]
        height, rim = most_missed(rows)
        # height: 5 lost of ten at 40 % of the weight is 20 points of 100, over two pieces.
        self.assertEqual((height.rule, height.pieces, height.judged), ("height", (1,), 2))
        self.assertAlmostEqual(height.lost, 10)
        self.assertAlmostEqual(height.share, 0.5)
        self.assertEqual(rim.pieces, (2, 1))
        self.assertAlmostEqual(rim.lost, (6 + 8 + 1) / 3)


class Changes(unittest.TestCase):
    BEFORE, AFTER = (61.0, 55.0, 70.0, 48.0), (66.0, 63.0, 71.0, 60.0)

    def test_two_groups_against_scipy(self):
        after = (*self.AFTER, 90.0)
        low, high = ttest_ind(after, self.BEFORE, equal_var=False).confidence_interval()
        found = change(self.BEFORE, after)
        self.assertAlmostEqual(found.difference - found.reach, low, 9)
        self.assertAlmostEqual(found.difference + found.reach, high, 9)

    def test_pairs_against_scipy(self):
        low, high = ttest_rel(self.AFTER, self.BEFORE).confidence_interval()
        found = change(self.BEFORE, self.AFTER, paired=True)
        self.assertAlmostEqual(found.difference - found.reach, low, 9)
        self.assertAlmostEqual(found.difference + found.reach, high, 9)

    def test_one_of_each_tells_no_interval_and_none_nothing(self):
        self.assertIsNone(change([50], [60]).reach)
        self.assertFalse(change([50], [60]).sure)
        self.assertIsNone(change([], [60]))
        self.assertEqual(change([50, 50], [60, 60]).reach, 0)


class Levels(unittest.TestCase):
    def test_every_step_up_marks_all_that_was_marked_before(self):
        shown = [level.shown for level in shipped_levels()]
        for before, after in itertools.pairwise(shown):
            self.assertLess(after, before)
        self.assertEqual(shown[-1], frozenset())

    def test_rules_that_are_only_shown_are_rules_of_some_school_and_none_of_safety(self):
        rules = {r.code: r for slug in school_slugs() for r in school(slug).rules}
        for level in shipped_levels():
            self.assertLessEqual(level.shown, set(rules))
            self.assertFalse([c for c in level.shown if rules[c].safety is not None])
