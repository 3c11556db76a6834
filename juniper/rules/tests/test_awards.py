"""Why a piece does not have the next award: by the shipped awards' own figures."""

import unittest
from dataclasses import replace

from juniper.rules import Brief, judge, read_rule_set
from juniper.rules.awards import why_not_next
from juniper.rules.tests.test_improvements import RULES
from juniper.rules.tests.test_rules import findings

AWARDS = """
[[award]]
name = "distinction"
at = 80
each = 5

[[award]]
name = "merit"
at = 65

[[award]]
name = "pass"
at = 50
"""
NAMES = {"balance": "Balance"}


class NextAward(unittest.TestCase):
    def said(self, pass_mark=50.0, **changes):
        rules = read_rule_set(RULES.replace("[[rule]]", AWARDS + "[[rule]]", 1))
        found = findings(left_weight_share=0.5, weight_height=0.5, left_area_share=0.5)
        verdict = replace(judge(found, rules, Brief()), **changes)
        return why_not_next(verdict, pass_mark, NAMES)

    def test_how_much_is_lacking(self):
        self.assertEqual(self.said(score=61.0, award="pass"), "Merit begins at 65: 4 more of 100.")
        self.assertEqual(
            self.said(score=64.7, award="pass"), "Merit begins at 65: a little more of 100."
        )
        self.assertEqual(self.said(score=41.0, award=""), "Pass begins at 50: 9 more of 100.")

    def test_a_family_that_is_too_low_is_named(self):
        verdict = judge(
            findings(left_weight_share=0.5, weight_height=0.5, left_area_share=0.5),
            read_rule_set(RULES),
            Brief(),
        )
        low = tuple(replace(g, score=4.2) for g in verdict.groups)
        self.assertEqual(
            self.said(score=84.0, award="merit", groups=low),
            "Distinction needs at least 5 of 10 in every family: balance has 4.2.",
        )

    def test_nothing_is_said_at_the_top_or_where_no_award_can_be_given(self):
        self.assertEqual(self.said(score=91.0, award="distinction"), "")
        self.assertEqual(self.said(score=None, award=""), "")
        self.assertEqual(self.said(score=61.0, award="", unsafe="Safe near food"), "")
        self.assertEqual(self.said(score=61.0, award="", measured=1.0, called_for=6.0), "")

    def test_awards_under_the_pass_mark_are_none(self):
        self.assertEqual(
            self.said(pass_mark=60, score=55.0, award=""), "Merit begins at 65: 10 more of 100."
        )
