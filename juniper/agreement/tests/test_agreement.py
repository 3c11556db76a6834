"""Agreement of markers, held against published worked examples and reference libraries."""

import itertools
import math
import random
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from sklearn.metrics import cohen_kappa_score
from statsmodels.stats.inter_rater import cohens_kappa

from juniper.agreement import (
    drift,
    intraclass,
    limits_of_agreement,
    sample_by_mark,
    severities,
    weighted_kappa,
)
from juniper.agreement.kappa import LINEAR, QUADRATIC

# Six targets and four judges: Shrout & Fleiss 1979, table 2.
SIX_BY_FOUR = [[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]]
# Peak flow, the first reading by either meter, l/min: Bland & Altman 1986, table 1.
LARGE = [494, 395, 516, 434, 476, 557, 413, 442, 650, 433, 417, 656, 267, 478, 178, 423, 427]
MINI = [512, 430, 520, 428, 500, 600, 364, 380, 658, 445, 432, 626, 260, 477, 259, 350, 451]
AWARDS = ("refer", "pass", "merit", "distinction")


def pairs_of(table):
    """The two markers' awards that a table of counts tells, rows by the first."""
    cells = [(a, b) for a, row in enumerate(table) for b, n in enumerate(row) for _ in range(n)]
    return [AWARDS[a] for a, _ in cells], [AWARDS[b] for _, b in cells]


class IntraclassCorrelation(unittest.TestCase):
    def test_the_six_targets_and_four_judges(self):
        # Shrout & Fleiss 1979, table 4: ICC(2,1) .29, ICC(3,1) .71. Intervals: the example of a
        # statistics package's manual for the same data, from memory, and pingouin 0.7.
        found = intraclass(SIX_BY_FOUR)
        self.assertAlmostEqual(found.absolute, 0.2898, 4)
        self.assertAlmostEqual(found.absolute_low, 0.0188, 4)
        self.assertAlmostEqual(found.absolute_high, 0.7611, 4)
        self.assertAlmostEqual(found.consistent, 0.7148, 4)
        self.assertAlmostEqual(found.consistent_low, 0.3425, 4)
        self.assertAlmostEqual(found.consistent_high, 0.9459, 4)
        self.assertEqual((found.pieces, found.markers), (6, 4))

    def test_a_marker_who_is_stricter_throughout_is_consistent_but_does_not_agree(self):
        marks = np.array([50.0, 60, 70, 80])
        found = intraclass(np.column_stack([marks, marks - 10]))
        self.assertAlmostEqual(found.consistent, 1)
        # The pieces' variance, 500 / 3, over it and the markers', 50.
        self.assertAlmostEqual(found.absolute, (500 / 3) / (500 / 3 + 50))

    def test_a_shift_or_a_scale_of_all_marks_changes_nothing(self):
        one, other = intraclass(SIX_BY_FOUR), intraclass(10 * np.array(SIX_BY_FOUR) - 3)
        self.assertAlmostEqual(one.absolute_high, other.absolute_high)
        self.assertAlmostEqual(one.consistent, other.consistent)

    def test_no_two_marks_that_differ_tell_nothing(self):
        found = intraclass([[70, 70], [70, 70], [70, 70]])
        self.assertIsNone(found.absolute)
        self.assertIsNone(found.consistent_low)

    def test_what_is_missing_is_refused(self):
        for marks in ([[1, 2]], [[1], [2]], [[1, 2], [3, math.nan]], []):
            with self.assertRaises(ValueError):
                intraclass(marks)


class WeightedKappa(unittest.TestCase):
    TABLE = ((11, 3, 1, 0), (2, 20, 6, 1), (0, 5, 17, 4), (0, 0, 3, 8))

    def test_value_against_scikit_learn(self):
        first, second = pairs_of(self.TABLE)
        for weights in (LINEAR, QUADRATIC):
            found = weighted_kappa(first, second, AWARDS, weights)
            reference = cohen_kappa_score(first, second, labels=AWARDS, weights=weights)
            self.assertAlmostEqual(found.value, reference, 12)

    def test_interval_against_statsmodels(self):
        first, second = pairs_of(self.TABLE)
        for weights in (LINEAR, QUADRATIC):
            found = weighted_kappa(first, second, AWARDS, weights)
            reference = cohens_kappa(np.array(self.TABLE), wt=weights)
            self.assertAlmostEqual(found.low, reference.kappa_low, 9)
            self.assertAlmostEqual(found.high, reference.kappa_upp, 9)
        self.assertEqual(found.table, self.TABLE)
        self.assertAlmostEqual(found.agreed, 56 / 81)

    def test_the_same_awards_throughout(self):
        found = weighted_kappa(["pass", "merit"], ["pass", "merit"], AWARDS)
        self.assertEqual((found.value, found.low, found.high, found.agreed), (1, 1, 1, 1))

    def test_one_category_alone_leaves_kappa_unknown(self):
        found = weighted_kappa(["pass"] * 5, ["pass"] * 5, AWARDS)
        self.assertIsNone(found.value)
        self.assertEqual(found.agreed, 1)

    def test_what_does_not_fit_together_is_refused(self):
        for first, second in (([], []), (["pass"], ["pass", "merit"]), (["pass"], ["credit"])):
            with self.assertRaises(ValueError):
                weighted_kappa(first, second, AWARDS)


class LimitsOfAgreement(unittest.TestCase):
    def test_the_two_peak_flow_meters(self):
        # Bland & Altman 1986: mean difference -2.1 l/min, standard deviation 38.8; with 2 standard
        # deviations the limits are -79.7 and 75.5, with 1.96 as here -78.1 and 73.9.
        found = limits_of_agreement(MINI, LARGE)
        self.assertAlmostEqual(found.mean, -2.1, 1)
        self.assertAlmostEqual(found.sd, 38.8, 1)
        self.assertAlmostEqual(found.mean - 2 * found.sd, -79.7, 0)
        self.assertAlmostEqual(found.low, -78.1, 1)
        self.assertAlmostEqual(found.high, 73.9, 1)
        # 95 % interval of the bias there: -22.0 to 17.8; of a limit, with the 1986 paper's rough
        # root of 3 / n in the place of 1 / n + 1.96^2 / 2(n - 1): half 34.6.
        self.assertAlmostEqual(found.mean - found.mean_reach, -22.0, 1)
        self.assertAlmostEqual(found.mean + found.mean_reach, 17.8, 1)
        self.assertAlmostEqual(found.limit_reach, 34.6, delta=0.4)

    def test_the_other_way_about_turns_the_sign(self):
        one, other = limits_of_agreement(LARGE, MINI), limits_of_agreement(MINI, LARGE)
        self.assertAlmostEqual(one.mean, -other.mean)
        self.assertAlmostEqual(one.low, -other.high)

    def test_one_piece_is_too_few(self):
        with self.assertRaises(ValueError):
            limits_of_agreement([50], [60])


class Severities(unittest.TestCase):
    def test_leans_of_three_markers_come_out_as_they_were_put_in(self):
        lean = {"A": 4.0, "B": -1.0, "C": -3.0}
        rng = np.random.default_rng(5)
        rows = [
            (a, 60 + lean[a] + rng.normal(0, 2), b, 60 + lean[b] + rng.normal(0, 2))
            for a, b in itertools.permutations("ABC", 2)
            for _ in range(20)
        ]
        found = severities(rows)
        for name, put_in in lean.items():
            self.assertLess(abs(found[name].lean - put_in), 2 * found[name].reach)
            self.assertEqual(found[name].pieces, 80)
        self.assertAlmostEqual(sum(s.lean for s in found.values()), 0)

    def test_interval_of_two_markers_is_half_that_of_the_mean_difference(self):
        # With two markers the lean is half the mean difference, so its interval is half Student's.
        rows = [("A", a, "B", b) for a, b in zip(LARGE, MINI, strict=True)]
        found, limits = severities(rows)["A"], limits_of_agreement(MINI, LARGE)
        self.assertAlmostEqual(found.lean, limits.mean / 2)
        self.assertAlmostEqual(found.reach, limits.mean_reach / 2)

    def test_a_marker_beside_themself_tells_nothing(self):
        self.assertEqual(severities([("A", 60, "A", 70)]), {})
        self.assertIsNone(severities([("A", 60, "B", 70)])["A"].reach)


class DriftOverTime(unittest.TestCase):
    def test_slope_and_interval_against_a_worked_example(self):
        # Least squares on (0, 1), (1, 3), (2, 2), (3, 5), (4, 4) by hand: slope 8 / 10, start 1.4,
        # squares left 3.6, standard error sqrt(3.6 / 3 / 10); Student's t of 3 is 3.182 (tables).
        found = drift([0, 1, 2, 3, 4], [1, 3, 2, 5, 4])
        self.assertAlmostEqual(found.slope, 0.8)
        self.assertAlmostEqual(found.start, 1.4)
        self.assertAlmostEqual(found.reach, 3.182 * math.sqrt(0.12), 3)
        self.assertFalse(found.sure)

    def test_a_later_term_has_the_same_slope(self):
        early, late = drift([0, 1, 3], [0, -2, -5]), drift([40, 41, 43], [0, -2, -5])
        self.assertAlmostEqual(early.slope, late.slope)
        self.assertAlmostEqual(early.start, late.start)

    def test_too_few_pieces_or_one_evening_tell_no_drift(self):
        self.assertIsNone(drift([0, 1], [0, 5]))
        self.assertIsNone(drift([2, 2, 2], [0, 5, 1]))


class SampleByMark(unittest.TestCase):
    MARKS = {n: float((n * 37) % 101) for n in range(100)}

    def test_each_quarter_of_the_marks_gives_its_part(self):
        taken = sample_by_mark(self.MARKS, 0.2, 3)
        quarters = sorted(self.MARKS, key=lambda n: self.MARKS[n])
        for n in range(4):
            part = set(quarters[25 * n : 25 * n + 25])
            self.assertEqual(len(part & set(taken)), 5)

    def test_a_seed_takes_the_same_pieces_in_any_order(self):
        shuffled = list(self.MARKS.items())
        random.Random(1).shuffle(shuffled)
        self.assertEqual(sample_by_mark(self.MARKS, 0.2, 3), sample_by_mark(dict(shuffled), 0.2, 3))
        self.assertNotEqual(sample_by_mark(self.MARKS, 0.2, 3), sample_by_mark(self.MARKS, 0.2, 4))

    @settings(max_examples=60, deadline=None)
    @given(
        marks=st.lists(st.floats(0, 100), max_size=40), share=st.floats(0, 1), seed=st.integers(0)
    )
    def test_as_many_as_asked_for_none_twice(self, marks, share, seed):
        by_piece = dict(enumerate(marks))
        taken = sample_by_mark(by_piece, share, seed)
        self.assertEqual(len(taken), math.ceil(share * len(marks) - 1e-9))
        self.assertEqual(len(set(taken)), len(taken))
        self.assertLessEqual(set(taken), set(by_piece))

    def test_a_share_beyond_all_is_refused(self):
        with self.assertRaises(ValueError):
            sample_by_mark(self.MARKS, 1.2, 3)
