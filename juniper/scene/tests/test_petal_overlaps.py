"""Petals counted to a bloom of another colour, on drawn blooms whose colours are known. Bounds:
common practice.
"""

import unittest

import numpy as np

from juniper.colour import from_hex, lab_from_srgb
from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.scene.petal_overlaps import with_overlaps_put_right

SIZE = 200
Y, X = np.mgrid[0:SIZE, 0:SIZE]


def drawn(*blooms):
    """CIELAB picture (h, w, 3) and colour numbers (h, w), -1 none, of round blooms (x, y, radius,
    '#rrggbb'); lit from the left, nearly dark on the right.
    """
    light, number = np.zeros((SIZE, SIZE, 3)), np.full((SIZE, SIZE), -1)
    for k, (x, y, radius, text) in enumerate(blooms):
        inside = np.hypot(X - x, Y - y) < radius
        shade = np.clip(1.0 - (X - x + radius) / (2.3 * radius), 0.1, 1.0)
        light[inside] = (linear_from_srgb(from_hex(text)) * shade[..., None])[inside]
        number[inside] = k
    grain = np.random.default_rng(5).normal(0, 0.5, light.shape)
    return lab_from_srgb(srgb_from_linear(light)) + grain, number


def put_right(lab, counted):
    """The colour numbers (h, w) after settling."""
    petals = counted >= 0
    out = counted.copy()
    out[petals] = with_overlaps_put_right(lab[petals], counted[petals], petals)
    return out


class Settled(unittest.TestCase):
    def test_what_was_counted_to_the_bloom_beside_it_goes_to_its_own_colour(self):
        for one, other in (
            ("#a3246c", "#5d2f8c"),
            ("#e8761c", "#f2c81f"),
            ("#8e1626", "#e79aa6"),
            ("#f1efe6", "#e4603c"),
        ):
            lab, true = drawn((80, 100, 50, one), (135, 100, 42, other))
            counted = np.where((true == 1) & (X < 125), 0, true)  # a third of the second bloom
            wrong = counted != true
            after = put_right(lab, counted)
            with self.subTest(one=one, other=other):
                self.assertGreater((after == true)[wrong].mean(), 0.8)
                self.assertGreater((after == true)[~wrong & (true >= 0)].mean(), 0.97)

    def test_what_is_right_stays_in_light_and_shade(self):
        lab, true = drawn(
            (60, 60, 50, "#b5202a"), (140, 140, 50, "#e8761c"), (140, 50, 35, "#f1efe6")
        )
        self.assertGreater((put_right(lab, true) == true).mean(), 0.995)
        gaps = np.where(true >= 0, 3 * true + 1, -1)  # numbers that no petal has
        np.testing.assert_array_equal(put_right(lab, gaps) == gaps, put_right(lab, true) == true)

    def test_a_fold_as_thin_as_a_line_is_no_other_flower(self):
        lab, true = drawn((60, 100, 50, "#e8761c"), (150, 100, 45, "#b5202a"))
        fold = (X == 60) & (true == 0)
        lab[fold] = lab[true == 1].mean(axis=0)
        self.assertTrue((put_right(lab, true)[fold] == 0).all())

    def test_of_one_colour_there_is_nothing_to_settle(self):
        lab, true = drawn((100, 100, 60, "#b5202a"))
        np.testing.assert_array_equal(put_right(lab, true), true)
        none = np.zeros((SIZE, SIZE), bool)
        self.assertEqual(len(with_overlaps_put_right(np.zeros((0, 3)), np.zeros(0, int), none)), 0)
