"""Rule sets that agree with their own teaching: the perfect piece of each school and form, and what
faults take off it.
"""

import unittest

from juniper.evaluation.perfect import (
    FAULTS,
    SCHOOLS,
    every_school,
    mark_of,
    perfect_lines,
    perfect_piece,
)
from juniper.rules import school, school_slugs

SETS = {slug: school(slug) for slug in school_slugs()}


class Perfect(unittest.TestCase):
    def test_every_school_has_a_piece_of_its_own(self):
        # Bunches and hanging work are drawn by the simulated camera alone.
        others = {"hand-tied-bunch", "hanging-work"}
        self.assertEqual(set(SCHOOLS) | others, set(SETS))
        with self.assertRaises(KeyError):
            perfect_piece(SETS["three-stem-thirds"], "round")

    def test_a_perfect_piece_earns_nine_on_every_rule_of_its_school(self):
        for rules, form in every_school(SETS):
            lines = [x for x in perfect_lines(rules, form) if x.score is not None and x.rule.weight]
            self.assertGreaterEqual(len(lines), 5, (rules.slug, form))
            for line in lines:
                with self.subTest(
                    school=rules.slug, form=form, rule=line.rule.code, value=line.finding.value
                ):
                    self.assertGreaterEqual(line.score, 9.0)

    def test_a_low_bowl_can_earn_full_marks_as_well(self):
        for slug in (
            "classical-line-mass",
            "thirds-and-golden-section",
            "modern-line-and-grouping",
            "garden-style",
        ):
            for form in SCHOOLS[slug].forms:
                for line in perfect_lines(SETS[slug], form, vessel="low"):
                    if line.score is not None and line.rule.weight:
                        self.assertGreaterEqual(
                            line.score, 9.0, (slug, form, line.rule.code, line.finding.value)
                        )

    def test_a_piece_without_flowers_is_not_marked_for_having_none(self):
        for slug, taught in SCHOOLS.items():
            lines = perfect_lines(SETS[slug], taught.forms[0], material="no flowers")
            marked = [x for x in lines if x.score is not None and x.rule.weight]
            self.assertGreaterEqual(len(marked), 2, slug)
            self.assertEqual([x.rule.code for x in marked if x.score < 9], [], slug)
            self.assertEqual(
                [
                    x.rule.code
                    for x in lines
                    if x.rule.family == "colour" and x.rule.weight and not x.rule.asks
                ],
                [],
                slug,
            )

    def test_good_middling_and_poor_lie_fifteen_apart(self):
        for rules, form in every_school(SETS):
            good, middling, poor = (
                mark_of(rules, form, faults)
                for faults in ((), SCHOOLS[rules.slug].middling, FAULTS)
            )
            with self.subTest(
                school=rules.slug, form=form, marks=(round(good), round(middling), round(poor))
            ):
                self.assertGreaterEqual(good, 90)
                self.assertGreaterEqual(good - middling, 15)
                self.assertGreaterEqual(middling - poor, 15)

    def test_each_fault_costs_the_rule_that_names_it(self):
        # Of the classical school (handbook, section 3); each alone, put into a triangle.
        for fault, code in (
            ("off-balance", "even-weight"),
            ("too tall", "visible-height"),
            ("gap", "no-gaps"),
            ("focal too high", "focal-height"),
            ("no focal", "focal-rules"),
            ("stray accent", "no-stray"),
            ("bare rim", "rim-softened"),
        ):
            found = {
                x.rule.code: x.score
                for x in perfect_lines(
                    SETS["classical-line-mass"], "symmetrical triangle", (fault,)
                )
            }
            self.assertLess(found[code], 6.0, fault)


if __name__ == "__main__":
    unittest.main()
