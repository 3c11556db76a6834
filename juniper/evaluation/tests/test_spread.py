"""What is told of rules over many pieces, by figures worked by hand."""

import unittest
from dataclasses import replace

from juniper.evaluation.spread import Marked, brief_of, by_eye, grades, spread
from juniper.rules import school
from juniper.rules.tests.test_pinned import rules_of

RULES = rules_of(("tall", "proportion", "height_ratio", 3), ("wide", "balance", "width_ratio", 1))


def marked(tall, wide, faults=None, mark=None):
    total = (3 * tall + wide) / 4 * 10
    return Marked(
        "",
        "a-school",
        total,
        total if mark is None else mark,
        {"tall": tall, "wide": wide},
        4.0,
        faults,
    )


class Rules(unittest.TestCase):
    def test_shares_of_the_variance_sum_to_one(self):
        pieces = [
            marked(t, w)
            for t, w in ((10, 10), (8, 2), (6, 9), (4, 1), (9, 5), (2, 7), (10, 3), (5, 5))
        ]
        found = {r.rule: r for r in spread(RULES, pieces)}
        self.assertAlmostEqual(sum(r.of_variance for r in found.values()), 1.0)
        self.assertGreater(found["tall"].of_variance, found["wide"].of_variance)
        self.assertEqual(
            (found["tall"].weight, found["tall"].pieces, found["tall"].full), (3, 8, 2 / 8)
        )
        self.assertAlmostEqual(found["tall"].mean, 6.75)

    def test_a_rule_that_never_varies_tells_nothing(self):
        found = {r.rule: r for r in spread(RULES, [marked(t, 10) for t in range(1, 9)])}
        self.assertAlmostEqual(found["wide"].of_variance, 0.0)
        self.assertEqual((found["wide"].full, found["wide"].with_rule), (1.0, ""))
        self.assertAlmostEqual(found["tall"].of_variance, 1.0)

    def test_one_rule_twice_is_seen_by_its_correlation(self):
        found = {r.rule: r for r in spread(RULES, [marked(t, t / 2) for t in range(1, 9)])}
        self.assertEqual(found["tall"].with_rule, "wide")
        self.assertAlmostEqual(found["tall"].correlation, 1.0)

    def test_too_few_pieces_tell_nothing(self):
        self.assertEqual(spread(RULES, [marked(5, 5)] * 7), [])
        self.assertEqual(spread(RULES, [marked(5, 5)] * 9), [])  # all alike

    def test_how_much_is_a_persons(self):
        self.assertEqual(by_eye(RULES), 0.0)
        self.assertAlmostEqual(
            by_eye(rules_of(("steps", "line", "levels", 1), ("wide", "balance", "width_ratio", 3))),
            0.25,
        )


class Grades(unittest.TestCase):
    def test_marks_by_how_many_faults(self):
        pieces = [
            marked(10, 10, ()),
            marked(8, 8, ("gap",)),
            marked(6, 6, ("gap", "a", "b")),
            marked(6, 6, ("a", "b", "c", "d"), mark=45.0),
            marked(1, 1),
        ]
        self.assertEqual(
            grades(pieces, "a-school"),
            {"none": (1, 100.0), "up to three": (2, 70.0), "more": (1, 45.0)},
        )
        self.assertEqual(grades(pieces, "another"), {})


class Briefs(unittest.TestCase):
    def test_the_brief_that_a_picture_answers(self):
        brief = brief_of(
            {
                "form": "triangle",
                "scheme": "triadic",
                "container": {"height_cm": 20, "max_width_cm": 9, "clear": True},
            }
        )
        self.assertEqual(
            (brief.form, brief.scheme, brief.vessel, brief.container),
            ("symmetrical triangle", "triadic", "clear", "tall"),
        )
        self.assertEqual(
            (brief_of({}).form, replace(brief, vessel="opaque").vessel), ("free", "opaque")
        )

    def test_every_shipped_school_has_something_to_mark_by_itself(self):
        for slug in ("classical-line-mass", "edible-and-herb-bunch"):
            self.assertLess(by_eye(school(slug)), 0.5)


if __name__ == "__main__":
    unittest.main()
