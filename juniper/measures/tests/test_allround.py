"""Front and back together: the worse view speaks, in the front viewer's left and right."""

import unittest

from juniper.measures import Findings, Measured, Missing, all_round


def seen(**values) -> Findings:
    by_name = {
        n: (
            Missing(n, "balance", "", "hidden")
            if v is None
            else Measured(n, "balance", v, "share", 0.02, arithmetic="so many pixels")
        )
        for n, v in values.items()
    }
    return Findings(by_name, None, None, (0, 0), (0, 0), (0, 0), 1.0)


class AllRound(unittest.TestCase):
    def test_the_worse_view_speaks(self):
        found = all_round(
            seen(largest_gap=0.01, rim_cover=0.6), {"back": seen(largest_gap=0.05, rim_cover=0.8)}
        )
        self.assertEqual((found["largest_gap"].value, found["largest_gap"].view), (0.05, "back"))
        self.assertIn("from behind", found["largest_gap"].arithmetic)
        self.assertIn("from in front 0.01", found["largest_gap"].arithmetic)
        self.assertEqual((found["rim_cover"].value, found["rim_cover"].view), (0.6, "front"))

    def test_left_and_right_change_places(self):
        found = all_round(
            seen(left_weight_share=0.52, moment_ratio=1.0),
            {"back": seen(left_weight_share=0.7, moment_ratio=2.0)},
        )
        self.assertAlmostEqual(found["left_weight_share"].value, 0.3)
        self.assertAlmostEqual(found["moment_ratio"].value, 0.5)
        self.assertAlmostEqual(found["moment_ratio"].uncertainty, 0.005)

    def test_what_one_view_cannot_tell_the_other_may(self):
        found = all_round(
            seen(largest_gap=None, twin_tips=0.0), {"back": seen(largest_gap=0.02, twin_tips=None)}
        )
        self.assertEqual((found["largest_gap"].value, found["twin_tips"].value), (0.02, 0.0))

    def test_lengths_are_those_of_the_front(self):
        found = all_round(seen(height_ratio=1.8), {"back": seen(height_ratio=2.2)})
        self.assertEqual(found["height_ratio"].value, 1.8)
