"""The chief fault in three words: words for every shipped rule, and which one comes first."""

import math
import unittest

from juniper.rules import Brief, judge, read_rule_set, school, school_slugs
from juniper.rules.faults import ASKED, MEASURED, chief_fault, in_three_words, losses
from juniper.rules.tests.test_improvements import RULES
from juniper.rules.tests.test_rules import findings


class WordsTests(unittest.TestCase):
    def test_every_side_on_which_a_shipped_rule_loses_marks_has_words(self):
        for slug in school_slugs():
            for rule in school(slug).rules:
                under, over = MEASURED.get(rule.measure, ("", ""))
                with self.subTest(school=slug, rule=rule.code):
                    if rule.asks:
                        self.assertTrue(rule.code in ASKED or under or over)
                        continue
                    if math.isfinite(rule.band.low) and rule.band.low > 0:
                        self.assertTrue(under)
                    if math.isfinite(rule.band.high) and rule.measure != "scheme":
                        self.assertTrue(over)

    def test_three_words_at_most(self):
        for words in (*ASKED.values(), *(w for pair in MEASURED.values() for w in pair)):
            self.assertLessEqual(len(words.split()), 3, words)


class ChiefFaultTests(unittest.TestCase):
    def judged(self, rules=RULES, **values):
        return judge(findings(**values), read_rule_set(rules), Brief())

    def test_the_side_on_which_a_value_lies(self):
        verdict = self.judged(left_weight_share=0.8, weight_height=0.2, left_area_share=0.5)
        share, height, area = verdict.lines
        self.assertEqual(in_three_words(share), "heavy on left")
        self.assertEqual(in_three_words(height), "weight too low")
        self.assertEqual(in_three_words(area), "")

    def test_what_costs_most_comes_first(self):
        # share .8 loses 5 of 10 at weight 3 of 6: 25 of 100; height .2 loses 5 at weight 1: 8.3
        verdict = self.judged(left_weight_share=0.8, weight_height=0.2, left_area_share=0.5)
        self.assertEqual(
            [(x.rule.code, round(lost, 1)) for x, lost in losses(verdict)[:2]],
            [("share", 25.0), ("height", 8.3)],
        )
        self.assertEqual(chief_fault(verdict), "heavy on left")

    def test_nothing_is_named_where_nothing_costs_a_point(self):
        verdict = self.judged(left_weight_share=0.5, weight_height=0.395, left_area_share=0.5)
        self.assertGreater(losses(verdict)[0][1], 0)
        self.assertEqual(chief_fault(verdict), "")

    def test_what_breaks_the_brief_comes_before_what_costs_more(self):
        rules = RULES.replace(
            'code = "height"', 'code = "height"\nbreach = { side = "either", at = 60 }'
        )
        verdict = self.judged(rules, left_weight_share=0.99, weight_height=1.4, left_area_share=0.5)
        self.assertEqual(losses(verdict)[0][0].rule.code, "share")
        self.assertEqual(chief_fault(verdict), "weight too high")
