import re
import unittest
from dataclasses import replace

from juniper.assessment import analyse
from juniper.camera import frame, take
from juniper.measures import measure, surface_of
from juniper.measures.tests.test_measures import DATUM, raster
from juniper.rules import Brief, judge, school
from juniper.rules.written import band_words
from juniper.scene import Scene

CLASSICAL = school("classical-line-mass")


class ARealPiece(unittest.TestCase):
    """What a verdict says of a simulated photograph (juniper.camera), line by line."""

    @classmethod
    def setUpClass(cls):
        cls.done = analyse(take(frame(33)).data).measured(Brief(form="", container_height_cm=24.0))

    def verdict(self, **brief):
        return judge(self.done, CLASSICAL, Brief(container_height_cm=24.0, **brief))

    def line(self, verdict, code):
        return next(x for x in verdict.lines if x.rule.code == code)

    def test_the_named_fault_is_found_and_costs_its_mark(self):
        line = self.line(self.verdict(), "no-twin-tips")
        self.assertEqual((line.state, line.score), ("missed", 0.0))
        self.assertIn("shorten one", line.advice)

    def test_the_briefs_scheme_decides_the_colour_line(self):
        right = self.line(self.verdict(scheme=self.done.scheme.name), "wished-scheme")
        wrong = self.line(self.verdict(scheme="triadic"), "wished-scheme")
        unasked = self.line(self.verdict(), "wished-scheme")
        self.assertGreater(right.score, 9)
        self.assertLess(wrong.score, 1)
        self.assertIn("asks for triadic", wrong.advice)
        self.assertEqual((unasked.score, unasked.state), (None, "does not apply"))

    def test_the_form_decides_which_rules_count(self):
        even = {x.rule.code for x in self.verdict(form="symmetrical triangle").lines}
        uneven = {x.rule.code for x in self.verdict(form="crescent").lines}
        self.assertIn("even-weight", even - uneven)
        self.assertIn("moments", uneven - even)
        flat = {
            x.rule.code
            for x in self.verdict(form="horizontal", viewpoint="seated at a table").lines
        }
        self.assertTrue({"visible-height", "thirds"}.isdisjoint(flat))

    def test_total_is_the_weighted_mean_and_lies_within_bounds(self):
        verdict = self.verdict(scheme="analogous")
        counted = [x for x in verdict.lines if x.score is not None]
        mean = (
            10 * sum(x.score * x.rule.weight for x in counted) / sum(x.rule.weight for x in counted)
        )
        self.assertAlmostEqual(verdict.score, mean)
        self.assertTrue(0 <= verdict.score <= 100)
        self.assertTrue(0 < verdict.uncertainty < 15)

    def test_no_advice_is_left_with_a_hole_in_it(self):
        for brief in ({}, {"form": "crescent", "scheme": "triadic"}, {"form": "vertical"}):
            for line in self.verdict(**brief).lines:
                self.assertNotRegex(line.advice + line.arithmetic, r"[{}]")
                if line.state in ("near", "missed"):
                    self.assertTrue(line.advice, line.rule.code)

    def test_a_hair_too_tall_is_to_be_measured_first(self):
        rules = school("garden-style")
        rule = next(r for r in rules.rules if r.measure == "governing_ratio")
        for over, words in ((0.01, "Measure before you cut"), (0.3, r"Take \d+\.[05] cm off")):
            tall = replace(self.done["governing_ratio"], value=rule.band.high + over)
            verdict = judge(self.done.joined(tall), rules, Brief(container_height_cm=24.0))
            self.assertRegex(self.line(verdict, rule.code).advice, words)

    def test_every_line_opens_into_its_arithmetic(self):
        for line in self.verdict(scheme="analogous").lines:
            self.assertTrue(line.arithmetic, line.rule.code)
            if line.finding.measured and line.rule.measure in ("governing_ratio", "plant_share"):
                self.assertRegex(line.arithmetic, r"\d+ px = \d+\.\d cm")

    def test_one_next_cut_with_a_length(self):
        cut = self.verdict(scheme="analogous").next_cut
        self.assertRegex(cut.text, r"\d+\.\d cm")
        self.assertEqual(len(re.findall(r"Cut ", cut.text)) <= 2, True)

    def test_without_a_scale_no_length_is_claimed(self):
        bare = analyse(take(frame(33)).data).measured()
        verdict = judge(bare, CLASSICAL, Brief())
        self.assertIsNone(verdict.next_cut.cm)
        self.assertNotRegex(verdict.next_cut.text, r"\d cm")


class Words(unittest.TestCase):
    def test_bands_in_words(self):
        by_code = {r.code: band_words(r.band, "ratio") for r in CLASSICAL.rules}
        self.assertEqual(by_code["visible-height"], "1.5 to 2 (limits 1 and 2.75)")
        self.assertEqual(by_code["mirrored-outline"], "0.7 and over (limit 0.45)")
        self.assertEqual(by_code["focal-centre"], "up to 0.2 (limit 0.45)")

    def test_grey_pictures_are_not_judged_for_colour(self):
        scene = Scene(DATUM, None, (), (), 520, 520, has_colour=False)
        verdict = judge(
            measure(surface_of(raster()), scene, DATUM, None), CLASSICAL, Brief(scheme="analogous")
        )
        for line in verdict.family("colour"):
            self.assertEqual(line.state, "not measured")
        self.assertIsNotNone(verdict.score)
