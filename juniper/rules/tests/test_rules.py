import unittest
from dataclasses import replace

from juniper.measures import Findings, Measured, Missing
from juniper.rules import Brief, FaultyRuleSet, Override, judge, read_rule_set, school, school_slugs

GOOD = """
slug = "a-school"
name = "A school"
version = "1"
source = "common practice"
[[rule]]
code = "visible-height"
title = "Height"
family = "proportion"
measure = "height_ratio"
band = [1.0, 1.5, 2.0, 2.75]
weight = 3
taught = "Half as tall again to twice."
why = "It reads as one."
above = "Take {cm} off."
"""


def findings(uncertainty=0.02, **values):
    """Findings by name with one uncertainty; None for what was not measured."""
    by_name = {
        "height_ratio": Measured("height_ratio", "proportion", 1.8, "ratio", uncertainty),
        "twin_tips": Measured("twin_tips", "line", 0.0, "count"),
    }
    for name, value in values.items():
        by_name[name] = (
            Missing(name, "proportion", "ratio", "hidden")
            if value is None
            else Measured(name, "proportion", value, "ratio", uncertainty)
        )
    return Findings(by_name, None, None, (0, 0), (0, 0), (0, 0), 1.0)


class Schools(unittest.TestCase):
    def test_every_shipped_school_is_sound(self):
        self.assertIn("classical-line-mass", school_slugs())
        for slug in school_slugs():
            self.assertEqual(school(slug).slug, slug)

    def test_classical_bands_are_the_handbooks(self):
        # Handbook of the trade, section 3 (common practice).
        bands = {r.code: r.band for r in school("classical-line-mass").rules}
        self.assertEqual(
            (bands["visible-height"].low_limit, bands["visible-height"].low), (1.0, 1.5)
        )
        self.assertEqual(
            (bands["visible-height"].high, bands["visible-height"].high_limit), (2.0, 2.75)
        )
        self.assertEqual((bands["thirds"].low, bands["thirds"].high), (0.60, 0.70))
        self.assertEqual((bands["even-weight"].low_limit, bands["even-weight"].low), (0.35, 0.45))
        self.assertEqual((bands["moments"].low, bands["moments"].high), (0.75, 1.33))

    def test_thirds_and_golden_section_lie_in_the_plant_share_band(self):
        # Two parts plant to one container is 2/3; the golden section is .618 (arithmetic).
        band = next(r.band for r in school("classical-line-mass").rules if r.code == "thirds")
        self.assertEqual(band.score(2 / 3), 1)
        self.assertEqual(band.score((5**0.5 - 1) / 2), 1)


class Documents(unittest.TestCase):
    def test_a_good_document(self):
        self.assertEqual(len(read_rule_set(GOOD).rules), 1)

    def test_a_band_has_four_edges(self):
        for edges in ("1.0, 1.5, 2.0", "1.0, 1.5, 2.0, 2.75, 3.0"):
            with self.assertRaisesRegex(FaultyRuleSet, "Line 11: 'band' of rule 1"):
                read_rule_set(GOOD.replace("1.0, 1.5, 2.0, 2.75", edges))

    def test_a_brief_that_says_nothing(self):
        brief = Brief()
        self.assertEqual(
            (brief.split, brief.pass_mark, brief.form, brief.viewpoint),
            ((0.6, 0.3, 0.1), 50.0, "symmetrical triangle", "front only"),
        )

    def test_faults_are_named_with_their_line(self):
        for old, new, words in (
            (
                'measure = "height_ratio"',
                'measure = "hight"',
                "Line 10: .*no measure is called 'hight'",
            ),
            ("[1.0, 1.5, 2.0, 2.75]", "[1.0, 1.5, 1.2, 2.75]", "must rise"),
            ("weight = 3", "weight = -1", "Line 12: 'weight' of rule 1"),
            ("weight = 3", "weight = 0", "no rule carries marks"),
            ('version = "1"', "", "'version'"),
            ("band =", "band = =", "not sound TOML"),
        ):
            with self.subTest(new), self.assertRaisesRegex(FaultyRuleSet, words):
                read_rule_set(GOOD.replace(old, new))
        with self.assertRaisesRegex(FaultyRuleSet, "stands twice"):
            read_rule_set(GOOD + GOOD[GOOD.index("[[rule]]") :])


class Verdicts(unittest.TestCase):
    def setUp(self):
        self.rules = read_rule_set(GOOD)
        self.brief = Brief(container_height_cm=20.0)

    def test_in_the_band_full_marks_and_the_room_left(self):
        verdict = judge(findings(), self.rules, self.brief)
        self.assertAlmostEqual(verdict.score, 100, places=3)
        self.assertEqual(verdict.lines[0].state, "met")
        # 1.8 x 20 cm = 36 cm stands 6 cm over 1.5 x 20 cm; twice .02 x 20 cm = .8 is kept back, and
        # 5.2 rounded down (arithmetic).
        self.assertAlmostEqual(verdict.next_cut.cm, 5.0)

    def test_too_tall_says_how_much_to_cut(self):
        verdict = judge(findings(height_ratio=2.3), self.rules, self.brief)
        # (2.3 - 2.0) x 20 cm = 6 cm.
        self.assertEqual(verdict.next_cut.cm, 6.0)
        self.assertEqual(verdict.lines[0].state, "near")
        self.assertIn("Take 6.0 cm off", verdict.lines[0].advice)

    def test_other_tips_that_stand_over_the_cut_are_told(self):
        brief = Brief(container_height_cm=20)
        tall = replace(findings(height_ratio=2.4), tips=(2.4, 2.3, 2.1, 1.2))
        rules = read_rule_set(GOOD)
        # 48 cm comes down to about 40; tips at 46 and 42 cm stand over it, one at 24 does not.
        self.assertIn(
            "2 more tips stand over that height and must come down as well",
            judge(tall, rules, brief).next_cut.text,
        )
        spots = ((5.0, 5.0), (6.0, 9.0), (7.0, 12.0), (8.0, 40.0))
        cuts = judge(replace(tall, tip_spots=spots, top=(5.0, 4.0)), rules, brief).next_cut.cuts
        # Down to 40 cm: 8 off the tallest, 6 and 2 off those at 46 and 42.
        self.assertEqual(cuts, (((5.0, 4.0), 8.0), ((6.0, 9.0), 6.0), ((7.0, 12.0), 2.0)))
        alone = judge(replace(tall, tips=(2.4, 2.02)), rules, brief).next_cut.text
        self.assertNotIn("come down as well", alone)

    def test_too_short_cannot_be_mended_by_cutting(self):
        cut = judge(findings(height_ratio=1.2), self.rules, self.brief).next_cut
        self.assertIsNone(cut.cm)
        self.assertIn("stems do not grow", cut.text)

    def test_not_measured_is_left_out_and_never_nought(self):
        verdict = judge(findings(height_ratio=None), self.rules, self.brief)
        self.assertIsNone(verdict.score)
        self.assertEqual(verdict.lines[0].state, "not measured")

    def test_the_instructors_word_replaces_or_waives(self):
        given = judge(
            findings(height_ratio=2.6),
            self.rules,
            self.brief,
            (Override("visible-height", 9, "by design"),),
        )
        self.assertAlmostEqual(given.score, 90)
        waived = judge(
            findings(height_ratio=2.6),
            self.rules,
            self.brief,
            (Override("visible-height", None, "line rules"),),
        )
        self.assertIsNone(waived.score)
        self.assertEqual(waived.lines[0].state, "waived")

    def test_twin_tips_are_cut_apart(self):
        cut = judge(findings(twin_tips=1.0), self.rules, self.brief).next_cut
        self.assertIn("Two tips", cut.text)

    def test_the_next_cut_names_the_rule_it_is_about(self):
        for value, code in ((2.3, "visible-height"), (1.2, "visible-height"), (1.8, "")):
            cut = judge(findings(height_ratio=value), self.rules, self.brief).next_cut
            self.assertEqual(cut.rule, code)

    def test_a_rule_that_is_shown_only_is_judged_and_carries_no_marks(self):
        level = replace(self.brief, shown_only=frozenset({"visible-height"}))
        verdict = judge(findings(height_ratio=2.6), self.rules, level)
        self.assertLess(verdict.lines[0].score, 10)
        self.assertEqual(verdict.lines[0].rule.weight, 0)
        self.assertIsNone(verdict.score)
        self.assertEqual(verdict.called_for, 0)


class ShownOnly(unittest.TestCase):
    def test_neither_a_cap_nor_a_breach_is_left_but_safety_is(self):
        rules = [rule for slug in school_slugs() for rule in school(slug).rules]
        for rule in rules:
            under = rule.under(Brief(shown_only=frozenset({rule.code})))
            self.assertEqual((under.weight, under.cap, under.breach), (0, None, None))
            self.assertEqual(under.safety, rule.safety)
        for kind in ("breach", "cap", "safety"):
            self.assertTrue([r for r in rules if getattr(r, kind) is not None], kind)
