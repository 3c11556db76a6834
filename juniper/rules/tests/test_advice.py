"""Advice in lengths: worked examples (arithmetic by hand) and what must hold of any figures."""

import math
import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from juniper.measures import Measured
from juniper.rules import Brief, Override, judge, read_rule_set
from juniper.rules.advice import cut_length, drop, goals
from juniper.rules.band import Band
from juniper.rules.tests.test_pinned import BRIEF, HEAD, RULE, rules_of
from juniper.rules.tests.test_rules import findings

TALL = rules_of(("tall", "proportion", "height_ratio", 3))


def cut(tall, uncertainty=0.02, rules=TALL, overrides=(), **more):
    """The next cut of a piece so many containers of 20 cm high, wanted 1.5 to 2."""
    return judge(
        replace(findings(uncertainty, height_ratio=tall), **more), rules, BRIEF, overrides
    ).next_cut


class TooTall(unittest.TestCase):
    def test_it_comes_down_inside_the_band(self):
        # (2.36 - 2.0) x 20 = 7.2 cm, to the next half 7.5; 47.2 - 7.5 = 39.7 cm, 1.985 containers.
        found = cut(2.36)
        self.assertEqual(found.cm, 7.5)
        self.assertIn("Cut 7.5 cm (±0.4)", found.text)
        self.assertIn("39.7 cm over the rim", found.text)
        self.assertAlmostEqual(found.ghost, 1.985)

    def test_a_narrow_band_has_no_room_for_the_half_centimetre(self):
        narrow = replace(TALL, rules=(replace(TALL.rules[0], band=Band(1.0, 1.99, 2.0, 2.75)),))
        self.assertEqual(cut(2.36, rules=narrow).cm, 7.2)  # .2 cm of band

    def test_a_leaning_stem_is_cut_by_more(self):
        # cos 60 degrees is a half: 7.2 cm of height are 14.4 cm of stem, to the next half 14.5,
        # which lowers it by 7.25.
        found = cut(2.36, lean=60.0)
        self.assertEqual(found.cm, 14.5)
        self.assertAlmostEqual(found.ghost, 2.36 - 7.25 / 20)

    def test_less_than_twice_its_uncertainty_is_measured_first(self):
        # .06 x 20 = 1.2 cm over, twice .04 x 20 = 1.6 cm.
        found = cut(2.06, 0.04)
        self.assertIsNone(found.cm)
        self.assertIn("1.2 cm (±0.8) over the band", found.text)
        self.assertIn("Measure before you cut", found.text)
        self.assertEqual(cut(2.06, 0.029).cm, 1.5)

    def test_doubtful_handles_are_confirmed_first(self):
        found = cut(2.6, needs_check=True)
        self.assertIsNone(found.cm)
        self.assertIn("no cut is advised", found.text)

    def test_a_cut_of_most_of_the_plant_is_a_wrong_handle(self):
        # 9 containers: 140 of 180 cm would go.
        self.assertIsNone(cut(9.0).cm)

    def test_a_waived_height_is_not_cut(self):
        self.assertNotIn("Cut ", cut(2.6, overrides=(Override("tall", None, "as asked"),)).text)

    @given(st.floats(1.0, 8.0), st.floats(0.001, 0.2), st.floats(0, 80))
    def test_what_is_cut_then_stands_in_the_band(self, tall, uncertainty, lean):
        found = cut(tall, uncertainty, lean=lean)
        if found.ghost is not None:
            self.assertLessEqual(found.ghost, 2.0 + 1e-9)
            self.assertGreaterEqual(found.ghost, 1.5 - 1e-9)
            self.assertGreaterEqual(tall - 2.0, 2 * uncertainty)


class Twins(unittest.TestCase):
    def test_one_of_two_is_shortened_by_twice_what_tells_them_apart(self):
        # .08 of 36 cm are 2.88, rounded down; of 12 cm .96, and 1.5 at the least.
        for tall, words in (
            (1.8, "Shorten one of them by 2.5 cm or more"),
            (0.6, "Shorten one of them by 1.5 cm or more"),
        ):
            found = judge(
                findings(0.02, height_ratio=tall, twin_tips=1.0),
                TALL,
                BRIEF,
                (Override("tall", None, "as asked"),),
            ).next_cut
            self.assertIn(words, found.text)


class Room(unittest.TestCase):
    def test_the_room_that_is_left_keeps_its_uncertainty_back(self):
        # (1.73 - 1.5) x 20 = 4.6 cm, less twice .4: 3.8, rounded down.
        self.assertEqual(cut(1.73).cm, 3.5)

    def test_none_is_told_where_there_is_none(self):
        found = cut(1.53)  # .6 cm, less .8
        self.assertIsNone(found.cm)
        self.assertIn("Take nothing off", found.text)


class TooShort(unittest.TestCase):
    def test_it_is_told_in_centimetres(self):
        found = cut(1.2)
        self.assertIsNone(found.cm)
        self.assertIn("6.0 cm (±0.4) too short", found.text)  # (1.5 - 1.2) x 20; .02 x 20
        self.assertIn("about 14 cm would suit", found.text)  # 24 cm of plant over 1.75

    def test_within_twice_its_uncertainty_it_is_measured(self):
        self.assertIn("Measure it with a ruler", cut(1.47).text)  # .6 cm, twice .4

    def test_no_stem_is_wished_for_that_nobody_sells(self):
        low = replace(TALL, rules=(replace(TALL.rules[0], band=Band(6.0, 8.0, 9.0, 10.0)),))
        self.assertIn("much too short", cut(1.2, rules=low).text)  # 136 cm


class Lines(unittest.TestCase):
    """A line's own advice."""

    def advice(self, measure, value, above, uncertainty=0.01, brief=BRIEF, **more):
        text = RULE.format(
            code="one", title="One", family="proportion", measure=measure, weight=1
        ).replace("Above.", above)
        known = {k: more.pop(k) for k in ("spread", "left_weight_share") if k in more}
        found = findings(uncertainty, **({"height_ratio": 2.0, measure: value} | known))
        return judge(replace(found, **more), read_rule_set(HEAD + text), brief).lines[0].advice

    def test_not_detached_by_the_right_formula(self):
        # A plant of 40 cm whose tallest clears .4: the rest is 24 cm, and is .75 of 32 cm: 8 cm
        # come off.
        self.assertAlmostEqual(drop("clearance", 0.4, 0.25), 0.2)
        text = RULE.format(
            code="one", title="One", family="proportion", measure="clearance", weight=1
        )
        rules = read_rule_set(HEAD + text.replace("Above.", "Cut {cm}."))
        rules = replace(
            rules, rules=(replace(rules.rules[0], band=Band(-math.inf, -math.inf, 0.25, 0.5)),)
        )
        found = judge(findings(0.01, height_ratio=2.0, clearance=0.4), rules, BRIEF)
        self.assertEqual(found.lines[0].advice, "Cut 8.0 cm.")

    @given(st.floats(0.26, 0.9), st.floats(0.05, 0.25))
    def test_what_is_cut_then_clears_as_is_taught(self, clear, high):
        left = 1 - drop("clearance", clear, high)
        self.assertAlmostEqual(1 - (1 - clear) / left, high)

    def test_without_a_scale_it_is_a_part_of_the_container(self):
        self.assertEqual(
            self.advice("height_ratio", 2.5, "Take {cm} off.", brief=Brief()),
            "Take 50\u00a0% of the container's height off.",
        )

    def test_doubt_asks_for_a_ruler_or_the_handles(self):
        self.assertIn(
            "Measure before you cut", self.advice("height_ratio", 2.1, "Take {cm} off.", 0.06)
        )
        self.assertIn(
            "Correct the handles",
            self.advice("height_ratio", 2.5, "Take {cm} off.", needs_check=True),
        )

    def test_what_is_not_cut_is_told_to_a_tenth_however_it_leans(self):
        # A plant of 40 cm as wide as high over a container a 2.36th as wide: .36 of 40 / 2.36 cm.
        self.assertEqual(
            self.advice("width_ratio", 2.36, "{cm} in.", lean=60.0, spread=1.0), "6.1 cm in."
        )

    def test_which_side_is_meant(self):
        for left, side, other in ((0.7, "left", "right"), (0.3, "right", "left")):
            self.assertEqual(
                self.advice("width_ratio", 2.5, "{side} to {other}", left_weight_share=left),
                f"{side} to {other}",
            )

    def test_what_is_no_cut_is_told_all_the_same(self):
        self.assertEqual(
            self.advice("width_ratio", 2.5, "{value} is too wide.", needs_check=True),
            "2.50 is too wide.",
        )


class Lengths(unittest.TestCase):
    def test_up_to_the_half_where_there_is_room(self):
        for lower, lean, room, length in (
            (7.2, 0, 10, 7.5),
            (7.0, 0, 10, 7.0),
            (7.2, 0, 0.4, 7.2),
            (7.24, 0, 0.4, 7.3),
            (5.0, 60, 20, 10.0),
        ):
            self.assertAlmostEqual(cut_length(lower, lean, room), length, msg=(lower, lean, room))


class Goals(unittest.TestCase):
    def goal(self, value, unit="ratio", edges=(1.0, 1.5, 2.0, 2.75)):
        rule = replace(TALL.rules[0], band=Band(*edges))
        return goals(rule, Measured("height_ratio", "proportion", value, unit))

    def test_what_earns_eight_and_ten(self):
        # 1 + .8 x .5; 2.75 - .8 x .75.
        self.assertEqual(self.goal(1.2), "1.40 earns 8 of 10, 1.50 or more earns 10.")
        self.assertEqual(self.goal(2.6), "2.15 earns 8 of 10, 2.00 or less earns 10.")
        self.assertEqual(self.goal(1.7), "")

    def test_what_is_counted_has_no_figure_between(self):
        self.assertEqual(self.goal(5.0, "count", (0, 1, 3, 5)), "3 or less earns 10.")

    def test_in_its_own_unit(self):
        self.assertEqual(
            self.goal(69.0, "cm", (8, 12, 32, 37)), "33 cm earns 8 of 10, 32 cm or less earns 10."
        )

    @given(st.floats(0.2, 4.0))
    def test_the_figures_earn_what_they_promise(self, value):
        band = Band(1.0, 1.5, 2.0, 2.75)
        for part in (0.8, 1.0):
            earning = band.earning(part, value)
            if earning is not None:
                self.assertAlmostEqual(band.score(earning), part)
                self.assertLessEqual(abs(earning - min(max(value, band.low), band.high)), 0.75)


if __name__ == "__main__":
    unittest.main()
