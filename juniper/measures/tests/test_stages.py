"""Stages laid over one another by their container, and what an addition changed; drawn pictures
whose places are known.
"""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from juniper.measures.finding import finding_of
from juniper.measures.stages import (
    STAGING,
    Overlaid,
    by_datum,
    changes_between,
    doubt_of_order,
    laid_over,
    overlaid,
)
from juniper.rules.tests.test_rules import findings
from juniper.scene.container.datum import given_datum
from juniper.scene.parts import Label
from juniper.scene.scene import Raster


def picture(at=(200, 380), high=120, plant=90, size=(400, 420)):
    """A container with a disc of plant over it, and its datum."""
    labels = np.full(size[::-1], int(Label.BACKDROP), np.uint8)
    x, y = at
    half = round(0.3 * high)
    cv2.rectangle(labels, (x - half, y - high), (x + half, y - 1), int(Label.CONTAINER), -1)
    cv2.circle(labels, (x, y - high - plant // 2), plant, int(Label.PLANT), -1)
    datum = given_datum((x, y - high), (x, y), (x - half, y - high), (x + half, y - high))
    raster = Raster(labels, np.zeros_like(labels), np.full_like(labels, 60), 1.0)
    return raster, datum


class Laid(unittest.TestCase):
    def test_by_the_datum_alone(self):
        first, second = picture()[1], picture(at=(220, 400), high=150)[1]
        lay = by_datum(first, second)
        for name in ("rim", "base", "rim_left"):
            at = lay @ [*getattr(first, name), 1.0]
            np.testing.assert_allclose(at, getattr(second, name), atol=1.0)

    def test_a_datum_that_is_a_little_off_is_put_right_by_the_walls(self):
        # Aims: stages of one piece aligned to two hundredths of the container's height.
        first, second = picture(), picture(at=(212, 384), high=126, plant=100)
        off = replace(second[1], rim=(212.0 + 2.5, 384 - 126 + 4.0))
        lay = laid_over((first[0], first[1]), (second[0], off))
        at = lay @ [200.0, 380.0, 1.0]
        self.assertLess(np.hypot(at[0] - 212, at[1] - 384), 0.02 * 126)
        at = lay @ [200.0, 260.0, 1.0]
        self.assertLess(np.hypot(at[0] - 212, at[1] - 258), 0.03 * 126)

    def test_one_picture_twice_and_a_wrong_order(self):
        small, large = picture(plant=60), picture(plant=100)
        lay = by_datum(small[1], large[1])
        self.assertEqual(doubt_of_order(overlaid(small[0], large[0], lay)), "")
        self.assertEqual(doubt_of_order(overlaid(large[0], small[0], lay)), "order")
        self.assertEqual(doubt_of_order(overlaid(large[0], large[0], lay)), "twice")
        flowered = replace(large[0], flowers=(large[0].labels == Label.PLANT).astype(np.uint8))
        self.assertEqual(doubt_of_order(overlaid(large[0], flowered, lay)), "")
        nothing = np.zeros((4, 4), bool)
        self.assertEqual(doubt_of_order(Overlaid(nothing, nothing, nothing, nothing)), "")


class Changes(unittest.TestCase):
    def test_what_is_more_than_the_two_are_unsure_by(self):
        before = findings().joined(finding_of("rim_cover", 0.4, 0.1, ""))
        after = before.joined(finding_of("rim_cover", 0.55, 0.1, ""))
        found = {c.measure: c for c in changes_between(before, after)}
        # .35 x hypot(.1, .1) x 2 = .099: .15 is more, .09 is not (arithmetic).
        self.assertEqual((STAGING.shared, STAGING.sure), (0.35, 2.0))
        self.assertTrue(found["rim_cover"].sure)
        self.assertAlmostEqual(found["rim_cover"].by, 0.15)
        less = before.joined(finding_of("rim_cover", 0.49, 0.1, ""))
        by = {c.measure: c for c in changes_between(before, less)}
        self.assertFalse(by["rim_cover"].sure)
