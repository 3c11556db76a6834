import math
import unittest

import numpy as np

from juniper.rules import Band

CLASSICAL = Band(1.0, 1.5, 2.0, 2.75)


class BandScores(unittest.TestCase):
    def test_full_inside_none_at_the_limits_straight_between(self):
        # Handbook: "full marks inside the ideal, falling to none at the limit".
        for value, score in (
            (1.5, 1),
            (1.75, 1),
            (2.0, 1),
            (1.0, 0),
            (0.5, 0),
            (2.75, 0),
            (3, 0),
            (1.25, 0.5),
            (2.375, 0.5),
        ):
            self.assertAlmostEqual(CLASSICAL.score(value), score)

    def test_expected_score_against_numerical_integration(self):
        for band in (
            CLASSICAL,
            Band(0.45, 0.7, math.inf, math.inf),
            Band(-math.inf, -math.inf, 0.2, 0.45),
            Band(1, 1, 2, 2),
        ):
            for mean in (0.1, 0.9, 1.5, 1.9, 2.4, 3.0):
                for sd in (0.02, 0.2, 0.8):
                    x = np.linspace(mean - 9 * sd, mean + 9 * sd, 40001)
                    density = np.exp(-0.5 * ((x - mean) / sd) ** 2) / (sd * math.sqrt(2 * math.pi))
                    numeric = np.trapezoid([band.score(v) for v in x] * density, x)
                    self.assertAlmostEqual(band.expected(mean, sd), numeric, places=3)

    def test_an_all_but_certain_value_scores_as_it_is(self):
        for sure in (1e-14, 5e-324):
            self.assertAlmostEqual(CLASSICAL.expected(1.25, sure), 0.5)
            self.assertAlmostEqual(CLASSICAL.deviation(1.25, sure), 0, places=6)

    def test_certain_value_scores_as_it_is(self):
        self.assertEqual(CLASSICAL.expected(1.25, 0), CLASSICAL.score(1.25))
        # 29 standard uncertainties below the limit
        self.assertEqual(CLASSICAL.expected(0.42, 0.02), 0.0)

    def test_borderline_when_an_edge_lies_within_the_uncertainty(self):
        self.assertTrue(CLASSICAL.borderline(1.96, 0.05))
        self.assertFalse(CLASSICAL.borderline(1.90, 0.05))
        self.assertTrue(CLASSICAL.borderline(2.03, 0.05))

    def test_a_band_must_rise(self):
        with self.assertRaises(ValueError):
            Band(1, 2, 1.5, 3)
