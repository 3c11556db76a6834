"""Rings seen from above, drawn so that counts, gaps and roundness are known."""

import math
import unittest
from dataclasses import replace

import numpy as np

from juniper.assessment import assess, view_of
from juniper.measures import measure, placing, surface_of
from juniper.measures.rings import from_above, gaps, rings_of, roundness
from juniper.measures.tests.test_measures import DATUM, raster, view
from juniper.rules import Brief, school
from juniper.scene import Bloom, Scene


def head(x, y, radius=10.0):
    return Bloom((300.0 + x, 300.0 + y), radius, "#c02030", "red", 1)


def ring(count, away, start=0.0):
    turns = start + 2 * np.pi * np.arange(count) / count
    return tuple(head(away * math.cos(a), away * math.sin(a)) for a in turns)


# The taught eighteen: six outside, six inside, and five about the tallest in the middle.
EIGHTEEN = (*ring(6, 120), *ring(6, 70, 0.5), *ring(5, 30, 0.2), head(0, 0))


class Rings(unittest.TestCase):
    def test_the_taught_eighteen(self):
        seen = rings_of(EIGHTEEN, (6, 6, 5, 1))
        self.assertEqual([len(r) for r in seen], [6, 6, 5, 1])
        counts, uneven, round_ = from_above(EIGHTEEN, (6, 6, 5, 1))
        self.assertEqual((counts.value, counts.view), (0.0, "top"))
        self.assertAlmostEqual(uneven.value, 0.0, delta=0.02)
        self.assertAlmostEqual(round_.value, 0.0, delta=0.02)
        self.assertIn("counted from outside in: 6, 6, 5, 1", counts.arithmetic)

    def test_a_head_that_lacks_is_counted_and_leaves_a_gap(self):
        lacking = EIGHTEEN[1:]
        counts, uneven, _ = from_above(lacking, (6, 6, 5, 1))
        self.assertEqual(counts.value, 1.0)
        # Five of six places of a ring: gaps of 60, 60, 60, 60 and 120 degrees: mean 72, standard
        # deviation 24 (about a middle that has moved a little).
        self.assertAlmostEqual(uneven.value, 24 / 72, delta=0.08)

    def test_gaps_and_roundness_by_hand(self):
        middle = np.array([300.0, 300.0])
        self.assertAlmostEqual(gaps(ring(5, 100), middle), 0.0, places=6)
        self.assertAlmostEqual(roundness(ring(5, 100), middle), 0.0, places=6)
        oval = (head(100, 0), head(-100, 0), head(0, 50), head(0, -50))
        self.assertAlmostEqual(roundness(oval, middle), 25 / 75)
        self.assertTrue(math.isnan(gaps(oval[:2], middle)))

    def test_no_rings_asked_for_gives_no_occasion(self):
        self.assertEqual([f.applies for f in from_above(EIGHTEEN, ())], [False] * 3)
        few = from_above(EIGHTEEN[:2], (6, 6, 6))
        self.assertEqual([(f.measured, f.applies) for f in few], [(False, True)] * 3)
        self.assertIn("2 heads were made out for 3 rings", few[0].reason)

    def test_the_rise_of_the_rings_in_front(self):
        # Heads 20 and 110 pixels over the rim of a vessel 180 high: half of it.
        low, high = (
            [Bloom((250.0 + 10 * n, 280.5), 8.0, "#c02030", "red", 1) for n in range(6)],
            [Bloom((255.0 + 10 * n, 190.5), 8.0, "#c02030", "red", 1) for n in range(6)],
        )
        self.assertAlmostEqual(placing.rise(view(), (*low, *high)), 90 / 180, delta=0.001)
        self.assertTrue(math.isnan(placing.rise(view(), tuple(low[:4]))))


class FromAbove(unittest.TestCase):
    def test_the_top_view_is_held_against_the_briefs_rings(self):
        surface = surface_of(raster())
        scene = Scene(DATUM, (270.5, 260.5), EIGHTEEN[:6], (), 520, 520)
        front = view_of(scene, raster(), surface, "front", stems=())
        top = view_of(replace(scene, blooms=EIGHTEEN), raster(), surface, "top", stems=())
        brief = Brief(
            "round",
            container_height_cm=18.0,
            container_width_cm=6.0,
            views=("front", "top"),
            rings=(6, 6, 5, 1),
        )
        rules = school("layered-round")
        lines = {x.rule.code: x for x in assess((front, top), brief, rules).verdict.lines}
        self.assertEqual(lines["ring-gaps"].finding.view, "top")
        self.assertGreater(lines["ring-gaps"].score, 9.0)
        # counting is a person's: it is proposed
        self.assertEqual(lines["ring-counts"].proposal, "yes")
        without = {x.rule.code: x for x in assess((front,), brief, rules).verdict.lines}
        self.assertEqual(
            (without["ring-gaps"].state, without["ring-gaps"].finding.reason),
            ("not measured", "it needs the view from above"),
        )
        plain = {
            x.rule.code: x
            for x in assess((front,), replace(brief, views=("front",)), rules).verdict.lines
        }
        self.assertEqual(plain["ring-gaps"].state, "does not apply")
        self.assertFalse(measure(surface, scene, DATUM, None, stems=())["ring_gaps"].measured)


if __name__ == "__main__":
    unittest.main()
