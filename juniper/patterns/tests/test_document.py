"""Patterns as documents: what ships, what is refused and where, and that each is given back."""

import unittest

from juniper.measures import DEFINITIONS
from juniper.patterns import (
    FaultyPattern,
    pattern_slugs,
    read_pattern,
    shipped_pattern,
    usual_pattern,
    write_pattern,
)
from juniper.patterns.document import PLAIN, SHIPPED, USUAL
from juniper.rules import FORMS, KINDS
from juniper.rules.document import STAGES

TEXT = (SHIPPED / "right-angle-l.toml").read_text("utf-8")


class Shipped(unittest.TestCase):
    def test_those_that_are_taught_are_there(self):
        # Handbook of the trade, section 9, counts, rings, groups, patterns (common practice).
        self.assertLessEqual(
            {
                "three-stem",
                "three-stem-quarters",
                "rings",
                "two-one-two",
                "x-pattern",
                "natural-base",
                "hand-tied-spiral",
                "garland",
                "cascade",
                "grouped-vessels",
            },
            set(pattern_slugs()),
        )

    def test_each_is_given_back_as_it_was(self):
        for slug in pattern_slugs():
            with self.subTest(slug):
                self.assertEqual(
                    read_pattern(write_pattern(shipped_pattern(slug))), shipped_pattern(slug)
                )

    def test_each_says_by_what_a_step_is_marked(self):
        for slug in pattern_slugs():
            one = shipped_pattern(slug)
            named = {m for s in one.steps for m in s.measures}
            with self.subTest(slug):
                self.assertTrue(named)
                self.assertLessEqual(named, set(DEFINITIONS))
                self.assertEqual(one.steps[-1].stage, STAGES[-1])

    def test_eighteen_roses(self):
        # Six, whole stem 1.5 containers, in at an angle; six at 2.0; the tallest last in the middle
        # (handbook of the trade, section 9).
        lower, upper = shipped_pattern("rings").rings
        self.assertEqual((lower.count, lower.times, lower.whole), (6, 1.5, True))
        self.assertEqual((upper.count, upper.times, upper.whole), (6, 2.0, True))
        self.assertGreater(abs(lower.lean), abs(upper.lean))
        self.assertIn("last", shipped_pattern("rings").stems[-1].name)

    def test_two_a_space_one_a_space_two_with_a_pair_at_the_base(self):
        one = shipped_pattern("two-one-two")
        self.assertEqual([s.count for s in one.stems], [2, 1, 2, 2])
        self.assertEqual(dict(one.counts)["line"], (5, 5, 5))

    def test_three_heads_in_a_triangle_hold_the_rest(self):
        one = shipped_pattern("natural-base")
        self.assertEqual(one.holds(frozenset({"deep"})).hold, "flower heads")
        heads = [s for s in one.stems if s.role == "mass"]
        self.assertEqual(len(heads), 3)

    def test_no_pin_holder_in_a_clear_bowl(self):
        for slug in pattern_slugs():
            held = shipped_pattern(slug).holds(frozenset({"deep", "clear"}))
            if held is not None:
                self.assertNotEqual(held.hold, "pin holder", slug)


class Usual(unittest.TestCase):
    def test_every_form_and_kind_has_one(self):
        for form in FORMS:
            for kind in KINDS:
                one = usual_pattern(form, "", kind)
                self.assertEqual(one.kind, kind, form)
        for form, slug in USUAL.items():
            self.assertEqual(shipped_pattern(slug).forms[0], form)
        for kind, slug in PLAIN.items():
            self.assertEqual(shipped_pattern(slug).kind, kind)

    def test_a_school_has_its_own_way(self):
        self.assertEqual(usual_pattern("round", "layered-round").slug, "rings")
        self.assertEqual(usual_pattern("round", "layered-round-own").slug, "rings")
        self.assertEqual(usual_pattern("fan", "three-stem-quarters").slug, "three-stem-quarters")
        self.assertEqual(
            usual_pattern("free", "grouped-vessels", "several vessels").slug, "grouped-vessels"
        )


class Refused(unittest.TestCase):
    def fault(self, old: str, new: str) -> str:
        self.assertIn(old, TEXT)
        with self.assertRaises(FaultyPattern) as refused:
            read_pattern(TEXT.replace(old, new, 1))
        return str(refused.exception)

    def test_what_is_wrong_is_named_with_its_line(self):
        line = TEXT.split("\n").index('role = "foliage"') + 1
        self.assertRegex(
            self.fault('role = "foliage"', 'role = "leafy"'), rf"^Line {line}: 'role' of step 1"
        )
        self.assertIn(
            "no step places the stem", self.fault('stems = ["tallest"]', 'stems = ["long side"]')
        )
        self.assertIn("which is no stem", self.fault('stems = ["tallest"]', 'stems = ["shortest"]'))
        self.assertIn("no measure is called", self.fault('"governing_ratio"', '"tallness"'))
        self.assertIn("can be filled into", self.fault("{where}", "{place}"))
        self.assertIn("no form is called", self.fault('"right-angle L"', '"right angle"'))
        self.assertIn("in this order", self.fault('stage = "foliage"', 'stage = "finished"'))
        self.assertIn(
            "a place (side and up) or a length",
            self.fault("side = -0.3\n", 'of = "container height"\ntimes = 2\nside = -0.3\n'),
        )

    def test_what_is_no_document(self):
        for text in ("", "slug = ", "[" * 40, 'slug = "x"'):
            with self.subTest(text[:10]), self.assertRaises(FaultyPattern):
                read_pattern(text)
