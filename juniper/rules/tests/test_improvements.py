"""Why a mark is what it is: weighted means by hand."""

import unittest

from juniper.rules import Brief, Ceiling, judge, read_rule_set
from juniper.rules.improvements import improvements
from juniper.rules.tests.test_rules import findings

RULES = """
slug = "trial"
name = "Trial"
version = "1"
source = "invented"
about = "For tests."
""" + "".join(
    f"""
[[rule]]
code = "{code}"
title = "{code}"
family = "balance"
measure = "{measure}"
band = [0.0, 0.4, 0.6, 1.0]
weight = {weight}
taught = "As taught."
why = "As reasoned."
below = "more"
above = "less"
{more}
"""
    for code, measure, weight, more in (
        ("share", "left_weight_share", 3, ""),
        ("height", "weight_height", 1, ""),
        ("area", "left_area_share", 2, "cap = { below = 5, at = 4 }"),
    )
)


class MendingTests(unittest.TestCase):
    def judged(self, ceilings=(), **values):
        return judge(findings(**values), read_rule_set(RULES), Brief(), ceilings=ceilings)

    def test_marks_after_each_line_is_mended_alone_and_together(self):
        # share .8 scores 5, height .2 scores 5, area .5 scores 10: (3 x 5 + 1 x 5 + 2 x 10) / 6 =
        # 6.67 (arithmetic)
        verdict = self.judged(left_weight_share=0.8, weight_height=0.2, left_area_share=0.5)
        group = verdict.groups[0]
        self.assertAlmostEqual(group.score, 40 / 6)
        first, second = improvements(verdict, group)
        self.assertEqual((first.line.rule.code, second.line.rule.code), ("share", "height"))
        self.assertAlmostEqual(first.alone, 55 / 6)
        self.assertAlmostEqual(second.alone, 45 / 6)
        self.assertAlmostEqual(second.so_far, 10)
        self.assertAlmostEqual(first.points, 100 * 15 / 60)

    def test_a_cap_is_lifted_first(self):
        # area .9 scores 2.5, under 5: the family is held at 4.
        verdict = self.judged(left_weight_share=0.8, weight_height=0.5, left_area_share=0.9)
        group = verdict.groups[0]
        self.assertEqual((group.score, group.capped_by), (4, "area"))
        found = improvements(verdict, group)
        self.assertEqual(found[0].line.rule.code, "area")
        self.assertEqual(found[1].alone, 4)

    def test_nothing_is_said_of_a_full_mark_or_none(self):
        verdict = self.judged(left_weight_share=0.5, weight_height=0.5, left_area_share=0.5)
        self.assertEqual(improvements(verdict, verdict.groups[0]), ())

    def test_a_ceiling_by_hand_holds_family_and_whole(self):
        # all in their bands: 10
        values = {"left_weight_share": 0.5, "weight_height": 0.5, "left_area_share": 0.5}
        family = self.judged((Ceiling("balance", 6, "Wired too loosely."),), **values)
        group = family.groups[0]
        self.assertEqual((group.score, group.capped_by), (6, "Wired too loosely."))
        self.assertAlmostEqual(group.uncapped, 10, places=4)
        self.assertEqual(family.score, 60)
        self.assertEqual(improvements(family, family.groups[0]), ())
        both = self.judged(
            (Ceiling("balance", 6, "a"), Ceiling("", 40, "Late."), Ceiling("", 70, "b")), **values
        )
        self.assertEqual((both.score, both.capped_by, both.uncertainty), (40, "Late.", 0))
        self.assertAlmostEqual(both.uncapped, 60)
        # A ceiling above the mark, or of another family, changes nothing.
        free = self.judged(
            (Ceiling("", 100, "a"), Ceiling("colour", 0, "b"), Ceiling("balance", 10, "c")),
            **values,
        )
        self.assertAlmostEqual(free.score, 100, places=4)
        self.assertEqual((free.capped_by, free.groups[0].capped_by), ("", ""))
