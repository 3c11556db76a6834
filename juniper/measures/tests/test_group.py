"""A composition of several vessels: small cases by hand, properties, and drawn pictures."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from juniper.colour import lab_from_srgb
from juniper.colour.harmony import pair_harmony
from juniper.colour.spaces import from_hex
from juniper.measures.group import (
    GROUPED,
    VesselColours,
    VesselShape,
    group_findings,
    mending_swap,
    neighbour_harmony,
    of_lengths,
    tied_by_colour,
)
from juniper.values import triple

# From the left: 20 high and 10 wide, 12 high and 8 wide, 20 high and 10 wide.
THREE = (VesselShape(0, 10, 20, 50), VesselShape(14, 22, 12, 30), VesselShape(25, 35, 20, 44))


def lab(hexa: str):
    return triple(lab_from_srgb(from_hex(hexa)))


def held(*colours, clear=False):
    return VesselColours(tuple((n, lab(h), s) for n, h, s in colours), clear)


class Lengths(unittest.TestCase):
    def test_by_hand(self):
        # 12 for 20: .4 less high (.2 less wide); steps of 20 and 14 over 50; the highest stands 6
        # of 50 over the next; gaps of 4 and 3 over a mean width of 9.333 (arithmetic).
        found = of_lengths(THREE)
        self.assertAlmostEqual(found["vessels_differ"], 0.4)
        self.assertAlmostEqual(found["tops_differ"], 14 / 50)
        self.assertAlmostEqual(found["tallest_detached"], 6 / 50)
        self.assertAlmostEqual(found["vessel_spacing"], 4 / (28 / 3))

    def test_vessels_of_one_height_may_differ_in_width(self):
        pair = (VesselShape(0, 10, 20, 40), VesselShape(12, 18, 20, 30))
        self.assertAlmostEqual(of_lengths(pair)["vessels_differ"], 0.4)

    def test_one_vessel_is_no_group(self):
        self.assertTrue(all(np.isnan(v) for v in of_lengths(THREE[:1]).values()))
        for finding in group_findings(THREE[:1], (held(),), 0.02):
            self.assertFalse(finding.measured)

    @given(st.permutations(THREE), st.floats(0.1, 10))
    def test_neither_the_order_they_come_in_nor_the_unit_matters(self, order, scale):
        other = tuple(
            VesselShape(*(scale * v for v in (s.left, s.right, s.height, s.top))) for s in order
        )
        for name, value in of_lengths(THREE).items():
            self.assertAlmostEqual(of_lengths(other)[name], value)


class Colours(unittest.TestCase):
    RED, ORANGE, WHITE = (
        ("red", "#b5202a", 1.0),
        ("orange", "#e8761c", 1.0),
        ("white", "#f1efe6", 1.0),
    )

    def test_the_least_harmony_is_that_of_the_worst_pair(self):
        row = (held(self.WHITE), held(self.RED), held(self.ORANGE))
        both = [
            pair_harmony(lab(a[1]), lab(b[1])).value
            for a, b in ((self.WHITE, self.RED), (self.RED, self.ORANGE))
        ]
        value, at = neighbour_harmony(row)
        self.assertAlmostEqual(value, min(both))
        self.assertEqual(at, int(np.argmin(both)))

    def test_a_swap_mends_what_it_can(self):
        row = (held(self.WHITE), held(self.RED), held(self.ORANGE), held(self.WHITE))
        before = neighbour_harmony(row)[0]
        swap = mending_swap(row)
        if swap is not None:
            a, b, after = swap
            tried = list(row)
            tried[a], tried[b] = tried[b], tried[a]
            self.assertAlmostEqual(neighbour_harmony(tuple(tried))[0], after)
            self.assertGreater(after, before)
        self.assertIsNone(mending_swap((held(self.RED), held(self.RED))))

    def test_tied_by_one_colour_or_by_the_glass(self):
        pink = ("red", "#e79aa6", 0.5)
        row = (held(self.RED), held(pink, self.WHITE), held(self.ORANGE), held(self.WHITE))
        self.assertEqual(tied_by_colour(row), (0.5, "white"))  # red too: the later name counts
        glass = tuple(VesselColours(v.colours, True) for v in row)
        self.assertEqual(tied_by_colour(glass), (1.0, "glass"))
        speck = (held(("red", "#b5202a", 0.05), self.WHITE), held(self.RED))
        self.assertEqual(tied_by_colour(speck)[0], 0.5)

    def test_every_measure_of_a_group_comes_once(self):
        found = group_findings(THREE, (held(self.RED), held(self.WHITE), held()), 0.02)
        self.assertEqual([f.name for f in found], list(GROUPED))
        self.assertIn(
            "exchanged"
            if mending_swap((held(self.RED), held(self.WHITE), held()))
            else "vessels 1 and 2",
            found[4].arithmetic,
        )
