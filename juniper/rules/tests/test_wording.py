"""Sentences held against bands: what figures a sentence says, and that every shipped set says its
own.
"""

import math
import unittest
from dataclasses import replace

from juniper.rules import school, school_slugs
from juniper.rules.band import Band
from juniper.rules.wording import agrees, disagreements, figures_in


class Sentences(unittest.TestCase):
    def test_figures_in_words(self):
        for sentence, figures in (
            ("one and a half to two times the container", [(1.5, 2.0)]),
            ("seven to nine parts in ten of its outline", [(0.7, 0.9)]),
            ("from a little over half to seven parts in ten", [(0.5, 0.7)]),
            ("a third to a half", [(1 / 3, 0.5)]),
            ("at least a fifth broader than the next", [(1.2,)]),
            ("two thirds of the main one", [(2 / 3,)]),
            ("up to twice it", [(2.0,)]),
            ("The third stem is half of the main one", [(0.5,)]),
            ("a second supports, a third accents", []),
            (".618 (golden section) to .667", [(0.618,), (0.618, 0.667)]),
        ):
            with self.subTest(sentence=sentence):
                self.assertEqual(
                    [tuple(round(f, 3) for f in each) for each in figures_in(sentence)],
                    [tuple(round(f, 3) for f in each) for each in figures],
                )

    def test_plain_numbers_are_figures_of_what_is_counted(self):
        self.assertEqual(figures_in("up to three kinds"), [])
        self.assertEqual(figures_in("up to three kinds", counted=True), [(3.0,)])

    def test_upper_lower_and_inside(self):
        third = "No bloom is broader than a third of it."
        self.assertTrue(agrees(third, Band(-math.inf, -math.inf, 0.34, 0.5), "ratio"))
        # the fault that was seen
        self.assertFalse(agrees(third, Band(-math.inf, -math.inf, 0.6, 0.95), "ratio"))
        self.assertTrue(
            agrees("At least seven parts in ten.", Band(0.4, 0.7, math.inf, math.inf), "share")
        )
        self.assertFalse(
            agrees("At least seven parts in ten.", Band(0.4, 0.5, math.inf, math.inf), "share")
        )
        self.assertTrue(agrees("About a third up.", Band(0.1, 0.25, 0.4, 0.5), "share"))
        self.assertFalse(agrees("About half up.", Band(0.1, 0.25, 0.4, 0.5), "share"))


class Shipped(unittest.TestCase):
    def test_every_school_says_the_figures_of_its_bands(self):
        for slug in school_slugs():
            self.assertEqual(disagreements(school(slug)), [], slug)

    def test_a_band_that_is_moved_away_from_its_sentence_is_named(self):
        rules = school("classical-line-mass")
        moved = replace(
            rules, rules=(replace(rules.rules[0], band=Band(2.0, 2.5, 3.0, 4.0)), *rules.rules[1:])
        )
        self.assertEqual(len(disagreements(moved)), 1)
        self.assertIn("Height to container", disagreements(moved)[0])

    def test_a_case_speaks_its_own_sentence(self):
        rule = next(r for r in school("classical-line-mass").rules if r.code == "bloom-scale")
        tall = replace(rule, cases=(replace(rule.cases[0], taught=""),))
        rules = replace(school("classical-line-mass"), rules=(tall,))
        self.assertIn("tall container", disagreements(rules)[0])


if __name__ == "__main__":
    unittest.main()
