"""Schools, cases, caps, checks and awards."""

import unittest

from hypothesis import example, given, settings
from hypothesis import strategies as st

from juniper.measures import DEFINITIONS
from juniper.rules import (
    Band,
    Brief,
    FaultyRuleSet,
    judge,
    read_rule_set,
    school,
    school_slugs,
    write_rule_set,
)
from juniper.rules.advice import said_no
from juniper.rules.tests.test_rules import GOOD, findings

CHECK = """
[[rule]]
code = "holding-hidden"
title = "Holding material hidden"
family = "finish"
weight = 1
taught = "Nothing of it shows."
why = "It is no part of the picture."
below = "Cover it."
[rule.check]
ask = "Is it all hidden?"
look = "rim"
[rule.cap]
below = 5
at = 4
[[rule]]
code = "sound"
title = "Sound flowers"
family = "finish"
weight = 3
taught = "All are sound."
why = "One brown petal is seen first."
[rule.check]
ask = "Are all sound?"
look = "blooms"
"""


class Shipped(unittest.TestCase):
    def test_the_eleven_schools_of_the_handbook_and_two_for_work_without_a_vessel(self):
        self.assertEqual(len(school_slugs()), 13)
        for slug in school_slugs():
            one = school(slug)
            with self.subTest(slug):
                self.assertTrue(one.about and one.source and one.awards)
                for rule in one.rules:
                    self.assertTrue(rule.taught and rule.why, rule.code)
                    self.assertTrue(
                        rule.below or rule.above, f"{rule.code} says nothing of what to do"
                    )
                    if rule.measure:
                        self.assertIn(rule.measure, DEFINITIONS)

    def test_the_schools_own_figures(self):
        # Handbook of the trade, section 3 (common practice; leans and quarters from memory).
        def band(slug, code):
            rule = next(r for r in school(slug).rules if r.code == code)
            return rule.measure, rule.band

        measure, main = band("three-stem-thirds", "main-stem")
        self.assertEqual(
            (measure, main.low_limit, main.low, main.high, main.high_limit),
            ("main_stem_width", 1.25, 1.4, 1.6, 2.0),
        )
        measure, second = band("three-stem-thirds", "second-stem")
        self.assertEqual(
            (measure, round((second.low + second.high) / 2, 3), round(second.high - second.low, 3)),
            ("second_main", 0.667, 0.16),
        )
        measure, third = band("three-stem-quarters", "third-stem")
        self.assertEqual((measure, third.low, third.high), ("third_main", 0.42, 0.58))
        measure, table = band("low-table-piece", "table-height")
        self.assertTrue(measure == "table_height" and 30 <= table.high <= 35)
        measure, wide = band("low-table-piece", "low-width")
        self.assertEqual(
            (measure, wide.low_limit, wide.low, wide.high, wide.high_limit),
            ("width_ratio", 1.25, 1.5, 2.5, 3.5),
        )
        self.assertGreaterEqual(band("lavish-polychrome", "how-many-colours")[1].low, 5)
        low, high = (
            band("garden-style", "foliage-share")[1].low,
            band("garden-style", "foliage-share")[1].high,
        )
        self.assertTrue(low < 0.70 < high)

    def test_schools_disagree_on_purpose(self):
        heights = {
            slug: next((r.band for r in school(slug).rules if r.code == "visible-height"), None)
            for slug in school_slugs()
        }
        self.assertGreater(len(set(filter(None, heights.values()))), 4)


class Places(unittest.TestCase):
    def test_a_bunch_is_asked_about_food_where_it_stands_near_some(self):
        rule = next(r for r in school("hand-tied-bunch").rules if r.code == "food-safe")
        for near, asked in (((), False), (("flame",), False), (("flame", "food"), True)):
            brief = Brief(form="round", kind="hand-tied", near=near)
            self.assertEqual(rule.applies(brief), asked, near)
        herbs = next(r for r in school("edible-and-herb-bunch").rules if r.code == "food-safe")
        self.assertTrue(herbs.applies(Brief(form="round", kind="hand-tied")))


class Documents(unittest.TestCase):
    def test_a_document_is_given_back_as_it_was(self):
        for slug in school_slugs():
            with self.subTest(slug):
                self.assertEqual(read_rule_set(write_rule_set(school(slug))), school(slug))
        odd = GOOD.replace("It reads as one.", 'It reads \\"as one\\" \\\\ é \\n\\t.')
        self.assertEqual(read_rule_set(write_rule_set(read_rule_set(odd))), read_rule_set(odd))

    def test_a_fault_deep_inside_is_named_with_its_line(self):
        text = GOOD + CHECK
        line = text.split("\n").index('look = "rim"') + 1
        with self.assertRaisesRegex(FaultyRuleSet, f"Line {line}: 'look' of rule 2"):
            read_rule_set(text.replace('look = "rim"', 'look = "cellar"'))
        with self.assertRaisesRegex(
            FaultyRuleSet, "'tall vase' is no form, viewpoint, container or principle"
        ):
            read_rule_set(GOOD + '[[rule.case]]\nwhen = ["tall vase"]\nband = [1, 2, 3, 4]\n')
        with self.assertRaisesRegex(FaultyRuleSet, "a measure or a check"):
            read_rule_set(
                text.replace('family = "finish"', 'family = "finish"\nmeasure = "rim_cover"', 1)
            )
        for blank in (
            "{inches}",
            "{value:>40000000}",
            "{value.__class__}",
            "{value!r}",
            "{0}",
            "{",
            "{{cm}}",
        ):
            with self.subTest(blank), self.assertRaisesRegex(FaultyRuleSet, "can be filled in"):
                read_rule_set(GOOD.replace("{cm}", blank))

    def test_a_case_changes_the_band_for_its_briefs_only(self):
        rules = read_rule_set(
            GOOD
            + '[[rule.case]]\nwhen = ["low container", "seated at a table"]\nband = [0.2, 0.4, 0.8,'
            " 1.2]\n"
        )
        low = Brief(viewpoint="seated at a table", container_height_cm=8, container_width_cm=20)
        self.assertEqual(rules.rules[0].under(low).band, Band(0.2, 0.4, 0.8, 1.2))
        self.assertEqual(rules.rules[0].under(Brief(viewpoint="seated at a table")).band.low, 1.5)

    def test_a_declared_principle_takes_rules_out(self):
        codes = {
            x.rule.code
            for x in judge(findings(), school("classical-line-mass"), Brief(dominant="line")).lines
        }
        self.assertNotIn("focal-height", codes)
        self.assertIn(
            "focal-height",
            {x.rule.code for x in judge(findings(), school("classical-line-mass"), Brief()).lines},
        )


class Checks(unittest.TestCase):
    def setUp(self):
        self.rules = read_rule_set(
            GOOD + CHECK + '[[award]]\nname = "pass"\nat = 50\n[[award]]\nname = "merit"\nat = 70\n'
        )

    def test_what_is_not_answered_weighs_nothing(self):
        verdict = judge(findings(), self.rules, Brief())
        self.assertEqual([x.state for x in verdict.lines], ["met", "not measured", "not measured"])
        self.assertAlmostEqual(verdict.score, 100)

    def test_a_no_is_advised_without_figures_that_the_answer_has_not(self):
        for name in school_slugs():
            asked = school(name)
            for rule in asked.rules:
                if rule.check:
                    self.assertNotIn("{", said_no(rule), f"{name}: {rule.code}")
                    self.assertEqual(bool(said_no(rule)), bool(rule.below), f"{name}: {rule.code}")
        odd = next(r for r in school("layered-round").rules if r.code == "odd-counts")
        self.assertEqual(said_no(odd), "Take one out or add one.")

    def test_a_cap_holds_its_family_down(self):
        verdict = judge(
            findings(), self.rules, Brief(), answers={"holding-hidden": 0.0, "sound": 1.0}
        )
        finish = next(g for g in verdict.groups if g.family == "finish")
        # (0 x 1 + 10 x 3) / 4 = 7.5, held at 4; with proportion 10 x 3: (4 x 4 + 10 x 3) / 7 of ten
        # (arithmetic).
        self.assertEqual(
            (finish.uncapped, finish.score, finish.capped_by), (7.5, 4.0, "Holding material hidden")
        )
        self.assertAlmostEqual(verdict.score, 10 * (4 * 4 + 10 * 3) / 7)
        self.assertEqual(verdict.award, "pass")
        self.assertEqual(
            judge(
                findings(),
                self.rules,
                Brief(pass_mark=70),
                answers={"holding-hidden": 0.0, "sound": 1.0},
            ).award,
            "",
        )

    def test_yes_lifts_the_cap_and_names_the_award(self):
        verdict = judge(
            findings(), self.rules, Brief(), answers={"holding-hidden": 1.0, "sound": 0.5}
        )
        self.assertEqual((verdict.groups[-1].capped_by, verdict.award), ("", "merit"))
        self.assertIn("in part", verdict.lines[2].arithmetic.lower())

    def test_an_award_may_ask_something_of_each_family(self):
        awards = (
            '[[award]]\nname = "pass"\nat = 50\n[[award]]\nname = "distinction"\nat = 60\neach'
            " = 5\n"
        )
        rules = read_rule_set(GOOD + CHECK + awards)
        self.assertEqual(read_rule_set(write_rule_set(rules)), rules)
        answers = {"holding-hidden": 0.0, "sound": 1.0}  # finish is held at 4
        self.assertEqual(judge(findings(), rules, Brief(), answers=answers).award, "pass")
        self.assertEqual(
            judge(findings(), rules, Brief(), answers=answers | {"holding-hidden": 1.0}).award,
            "distinction",
        )


class Bands(unittest.TestCase):
    edges = st.lists(st.floats(0, 4), min_size=4, max_size=4).map(sorted)

    @settings(max_examples=200, deadline=None)
    @given(
        edges,
        st.floats(-1, 5),
        st.floats(0, 0.5),
        st.lists(st.floats(0, 1), min_size=4, max_size=4),
    )
    @example([0.0, 1e-12, 1.0, 1.0], 3.0, 0.5, [0.0, 1.0, 0.0, 0.0])
    @example([0.0, 0.0, 1.0, 3.0], 2.0, 1.1125369292536007e-308, [0.0, 0.0, 0.0, 1.0])
    def test_a_wider_band_never_lowers_a_score(self, edges, value, spread, wider):
        a, b, c, d = edges
        band = Band(a, b, c, d)
        more = Band(a - wider[0] - wider[1], b - wider[1], c + wider[2], d + wider[2] + wider[3])
        self.assertGreaterEqual(more.expected(value, spread) + 1e-6, band.expected(value, spread))

    def test_a_very_steep_side_is_a_step(self):
        # Four standard deviations off: a tail of 3.167e-5 (tables of the normal distribution).
        for edges in ((0.0, 1e-12, 1.0, 1.0), (0.0, 0.0, 1.0, 1.0 + 1e-9)):
            self.assertAlmostEqual(Band(*edges).expected(3.0, 0.5), 3.167e-5, places=8)
            self.assertAlmostEqual(
                Band(*edges).deviation(3.0, 0.5), (3.167e-5 * (1 - 3.167e-5)) ** 0.5, places=6
            )
