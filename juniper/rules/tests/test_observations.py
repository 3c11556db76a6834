"""What was seen, in words: every judged measure has a sentence, its figure a noun."""

import re
import unittest
from dataclasses import replace

from juniper.measures.catalogue import DEFINITIONS
from juniper.measures.finding import Measured, Missing
from juniper.rules import Band, school, school_slugs
from juniper.rules.advice import action_of
from juniper.rules.observations import ANSWERED, SEEN, observed, seen_and_taught, taught_band
from juniper.rules.verdict import Line
from juniper.rules.written import NO_BREAK, band_words, per_cent


def rules():
    for slug in school_slugs():
        yield from school(slug).rules


def line(rule, value, unit=None):
    unit = unit or (DEFINITIONS[rule.measure].unit if rule.measure else "answer")
    found = Measured(rule.measure, rule.family, value, unit)
    return Line(rule, found, 5.0, "near", False, "", "")


def plain(words):
    return words.replace(NO_BREAK, " ")


def first(measure):
    return next(r for r in rules() if r.measure == measure)


class SeenTests(unittest.TestCase):
    def test_every_shipped_rule_has_a_sentence_whose_figure_has_a_noun(self):
        for rule in rules():
            with self.subTest(rule=rule.code):
                if rule.asks and not rule.measure:
                    self.assertIn(rule.code, ANSWERED)
                else:
                    words = observed(line(rule, 0.5))
                    self.assertRegex(words, r"^[a-z0-9]")
                    self.assertGreaterEqual(len(re.findall(r"[a-z]{3,}", words)), 2, words)

    def test_shares_are_told_as_per_cent_and_counts_as_words(self):
        self.assertEqual(
            plain(observed(line(first("left_weight_share"), 0.62))),
            "62 % of the visual weight is on the left",
        )
        self.assertEqual(observed(line(first("twin_tips"), 0)), "no two tips are of one height")
        self.assertEqual(observed(line(first("twin_tips"), 1)), "one pair of tips is of one height")
        self.assertIn("3 pairs", observed(line(first("twin_tips"), 3)))
        self.assertIn("leans 12°", observed(line(first("main_lean"), 12)))
        self.assertIn("24 cm above", observed(line(first("table_height"), 24)))
        self.assertIn(
            "30 % of the container's width", plain(observed(line(first("largest_bloom"), 0.3)))
        )

    def test_what_is_taught_stands_beside_it(self):
        weight = first("left_weight_share")
        said = plain(seen_and_taught(line(weight, 0.62)))
        self.assertTrue(said.endswith("on the left; 45 % to 55 % is taught."), said)
        self.assertTrue(said[0] == "6" or said[0].isupper())
        self.assertEqual(taught_band(first("twin_tips"), "count"), "none")
        tall = replace(first("governing_ratio"), band=Band(1.0, 1.5, 2.0, 2.5))
        self.assertEqual(taught_band(tall, "ratio"), "1.5 to 2")
        open_ = replace(tall, band=Band(0.4, 0.7, float("inf"), float("inf")))
        self.assertEqual(plain(taught_band(open_, "share")), "70 % or more")
        self.assertEqual(plain(taught_band(first("largest_gap"), "share")), "up to 2 %")

    def test_answers_are_told_as_what_is_so(self):
        asked = next(r for r in rules() if r.code == "holding-hidden")
        for value, words in (
            (1.0, "the holding material is hidden"),
            (0.0, "holding material shows"),
            (0.5, "in part, the holding material is hidden"),
        ):
            self.assertEqual(observed(line(asked, value)), words)
        own = replace(asked, code="our-own")
        self.assertIn("is answered no", observed(line(own, 0.0)))
        self.assertEqual(
            seen_and_taught(
                Line(
                    asked, Missing("", "finish", "answer", "x"), None, "not measured", False, "", ""
                )
            ),
            "",
        )

    def test_no_measure_is_told_that_does_not_exist(self):
        self.assertEqual(set(SEEN) - set(DEFINITIONS), set())


class ActionTests(unittest.TestCase):
    def test_every_shipped_rule_says_what_to_do_apart_from_the_value(self):
        for rule in rules():
            for text in filter(None, (rule.below, rule.above)):
                with self.subTest(rule=rule.code, text=text):
                    action = action_of(text)
                    self.assertNotIn("{value}", action)
                    self.assertTrue(action[0].isupper() or action[0] == "{", action)

    def test_per_cent(self):
        self.assertEqual([plain(per_cent(x)) for x in (0, 0.0004, 0.007, 0.995, 1)], [
            "0 %", "0 %", "0.7 %", "100 %", "100 %",
        ])  # fmt: skip
        self.assertEqual(
            plain(band_words(Band(float("-inf"), float("-inf"), 0.15, 0.4), "share")),
            "up to 15 % (limit 40 %)",
        )
