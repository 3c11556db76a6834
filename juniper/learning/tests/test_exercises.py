"""Exercises on one drawn study whose every figure is plain: a container 100 pixels high whose rim
is at (200, 300), a plant 200 pixels high.
"""

import json
import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from juniper.learning.exercises import (
    TIMES,
    DoesNotSuit,
    Question,
    ask,
    height_band,
    prompt,
    rule_for,
)
from juniper.learning.judging import BadAnswer, judge, plain_answer
from juniper.learning.kinds import ANSWERS, KIND, KINDS, SKILL, kinds_of
from juniper.learning.study import Colour, Study, from_document
from juniper.measures import EvidenceMark
from juniper.rules import school

CLASSICAL = school("classical-line-mass")
STUDY = Study(
    width=400,
    height=500,
    rim=(200, 300),
    base=(200, 400),
    rim_left=(170, 300),
    rim_right=(230, 300),
    top=(200, 100),
    left=(120, 250),
    right=(280, 250),
    form="symmetrical triangle",
    weight=(210, 240),
    eye=(200, 260),
    focal=(200, 270),
    scheme="analogous",
    colours=(Colour("#aa0000", "red", 0.6), Colour("#cc6600", "orange", 0.4)),
    faults=("twin tips",),
    spots={"twin tips": ((180, 110), (220, 110))},
    values={
        "governing_ratio": 2.0,
        "height_ratio_image": 2.0,
        "left_weight_share": 0.45,
        "heavier_share": 0.55,
        "outline_fill": 0.8,
        "largest_gap": 0.01,
        "stray_accents": 0.0,
    },
    marks={"left_weight_share": (EvidenceMark("cross", ((210.0, 240.0),), "weight"),)},
    exact=True,
)


def asked(code, study=STUDY, **given_or_truth):
    kind = KIND[code]
    others = [replace(study, values={k: v * (1 - 0.2 * n) for k, v in study.values.items()})
              for n in range(kind.pictures)]  # fmt: skip
    return ask(kind, others, CLASSICAL, np.random.default_rng(1)), others


def answered(code, answer, study=STUDY):
    question, studies = asked(code, study)
    return judge(question, studies, answer)


class Studies(unittest.TestCase):
    def test_a_leaning_axis_measures_along_itself(self):
        lean = replace(STUDY, base=(200, 400), rim=(260, 320), top=(260, 120))
        self.assertAlmostEqual(lean.container_px, 100)
        self.assertAlmostEqual(lean.along((320, 240)), 100)
        self.assertAlmostEqual(lean.across((320, 240)), 0)
        self.assertAlmostEqual(lean.across((340, 380)), 100)  # to the right and down
        x, y = lean.at(lean.along((317, 222)), lean.across((317, 222)))
        self.assertAlmostEqual(x, 317)
        self.assertAlmostEqual(y, 222)

    def test_a_study_survives_json(self):
        self.assertEqual(from_document(json.loads(json.dumps(STUDY.as_document()))), STUDY)


class Kinds(unittest.TestCase):
    def test_every_kind_trains_a_skill_and_every_skill_has_a_kind(self):
        self.assertEqual({k.skill for k in KINDS}, set(SKILL))
        self.assertLessEqual({k.answer for k in KINDS}, set(ANSWERS))
        self.assertEqual(kinds_of(["cutting"]), (KIND["cut"],))
        self.assertEqual(kinds_of([]), KINDS)

    def test_each_kind_has_a_sentence_and_most_a_rule(self):
        for kind in KINDS:
            with self.subTest(kind.code):
                question = Question(kind.code, {"times": 1.5})
                self.assertTrue(prompt(question, CLASSICAL).endswith((".", "?")))
                self.assertIsNotNone(rule_for(kind, CLASSICAL, STUDY.form), kind.measures)


class Heights(unittest.TestCase):
    def test_one_and_a_half_containers_over_the_rim(self):
        question, _ = asked("reach")
        self.assertIn(question.given["times"], TIMES)
        at = 300 - 100 * question.given["times"]
        right = answered("reach", {"at": [50, at]})
        self.assertEqual((right.error, right.right), (0.0, True))
        high = answered("reach", {"at": [390, at - 30]})
        self.assertAlmostEqual(high.signed, 0.3)
        self.assertAlmostEqual(high.seen[0].error, 1.0)  # a beginner's error
        self.assertIn("0.30 container heights above", high.words)
        self.assertAlmostEqual(answered("reach", {"at": [50, at + 15]}).signed, -0.15)

    def test_the_band_is_the_school_s(self):
        # the handbook: 1.5 to 2 containers, classical line-mass
        self.assertEqual(height_band(STUDY, CLASSICAL), (1.5, 2.0))
        wide = replace(STUDY, values={**STUDY.values, "governing_ratio": 1.0})
        self.assertEqual(height_band(wide, CLASSICAL), (3.0, 4.0))  # twice as broad as high
        self.assertEqual(answered("tip", {"at": [200, 120]}).error, 0.0)
        self.assertAlmostEqual(answered("tip", {"at": [200, 160]}).signed, -0.1)
        self.assertAlmostEqual(answered("tip", {"at": [200, 95]}).signed, 0.05)

    def test_on_the_edge_of_the_band_nothing_is_asked(self):
        with self.assertRaises(DoesNotSuit):
            asked("band")  # it stands at 2.0
        tall = replace(STUDY, top=(200, 30), values={**STUDY.values, "governing_ratio": 2.7})
        question, _ = asked("band", tall)
        self.assertEqual(question.truth["choice"], "too high")
        self.assertAlmostEqual(question.strength, 0.7 / 0.3)
        self.assertTrue(answered("band", {"choice": "too high"}, tall).right)
        self.assertFalse(answered("band", {"choice": "right"}, tall).right)


class Places(unittest.TestCase):
    def test_the_axis_in_parts_of_the_rim(self):
        off = answered("axis", {"at": [206, 10]})
        self.assertAlmostEqual(off.signed, 0.1)
        self.assertIn("10\u00a0% of the rim to the right", off.words)

    def test_the_balance_point_and_the_zone_of_the_focal_flower(self):
        self.assertAlmostEqual(answered("weight", {"at": [210, 260]}).error, 0.1)
        self.assertIn("too low", answered("weight", {"at": [210, 260]}).words)
        # .05 to .33 of plant height over the rim, the handbook's section 3
        self.assertEqual(answered("focal", {"at": [200, 285]}).error, 0.0)
        self.assertAlmostEqual(answered("focal", {"at": [200, 214]}).error, 0.1)
        self.assertIn("too high", answered("focal", {"at": [200, 214]}).words)

    def test_left_and_right_in_percentage_points(self):
        out = answered("share", {"left": 60})
        self.assertAlmostEqual(out.signed, 15)
        self.assertIn("45\u00a0%", out.words)

    def test_a_fault_is_found_near_its_place_and_nowhere_else(self):
        self.assertTrue(answered("twins", {"at": [225, 112]}).right)
        self.assertFalse(answered("twins", {"at": [200, 110]}).right)
        self.assertFalse(answered("twins", {"none": True}).right)
        self.assertTrue(answered("hole", {"none": True}).right)
        self.assertFalse(answered("hole", {"at": [200, 200]}).right)

    def test_that_there_is_none_is_asked_only_where_it_is_sure(self):
        for study in (
            replace(STUDY, exact=False),
            replace(STUDY, values={**STUDY.values, "largest_gap": 0.05}),
        ):
            with self.assertRaises(DoesNotSuit):
                asked("hole", study)


class Colours(unittest.TestCase):
    def test_shares_are_told_by_what_lies_with_another_colour(self):
        self.assertAlmostEqual(answered("shares", {"shares": [60, 40]}).error, 0)
        self.assertAlmostEqual(answered("shares", {"shares": [50, 50]}).error, 10)
        self.assertAlmostEqual(answered("shares", {"shares": [3, 1]}).error, 15)  # of 100

    def test_shares_that_are_no_figures_are_refused(self):
        for bad in ([math.nan, 1], [math.inf, 1], [-1, 2], [0, 0], [1, 2, 3]):
            with self.subTest(bad), self.assertRaises(BadAnswer):
                answered("shares", {"shares": bad})

    def test_the_order_of_the_sliders_tells_nothing(self):
        a, _ = asked("shares")
        b, _ = asked("shares", replace(STUDY, colours=STUDY.colours[::-1]))
        self.assertEqual(a.given, b.given)

    def test_the_scheme_by_its_name(self):
        self.assertTrue(answered("scheme", {"choice": "analogous"}).right)
        self.assertIn("analogous", answered("scheme", {"choice": "triadic"}).words)
        with self.assertRaises(BadAnswer):
            answered("scheme", {"choice": "turquoise"})


class Several(unittest.TestCase):
    def test_the_higher_of_two(self):
        question, _ = asked("higher")
        self.assertEqual(question.truth["choice"], 0)
        self.assertAlmostEqual(question.strength, 0.4 / 0.3)
        self.assertTrue(answered("higher", {"choice": 0}).right)
        self.assertIn(
            "A stands 2.00 container heights over its rim, B 1.60",
            answered("higher", {"choice": 1}).words,
        )

    def test_each_comparison_says_what_its_figures_are(self):
        self.assertIn("A carries 55\u00a0% of its weight on one side", self.said("heavier"))
        self.assertIn("A fills 80\u00a0% of its outline", self.said("fuller"))

    def said(self, code):
        return answered(code, {"choice": 0}).words

    def test_pairs_that_are_alike_are_not_asked(self):
        with self.assertRaises(DoesNotSuit):
            ask(KIND["higher"], [STUDY, STUDY], CLASSICAL, np.random.default_rng(0))

    def test_an_order_by_its_pairs(self):
        question, _ = asked("order")
        self.assertEqual(question.truth["order"], [0, 1, 2, 3, 4])
        self.assertTrue(answered("order", {"order": [0, 1, 2, 3, 4]}).right)
        swapped = answered("order", {"order": [1, 0, 2, 3, 4]})
        self.assertIn("1 of 10 pairs", swapped.words)
        self.assertEqual([s.right for s in swapped.seen], [False, True, True, True])
        with self.assertRaises(BadAnswer):
            answered("order", {"order": [0, 0, 2, 3, 4]})


class Cuts(unittest.TestCase):
    tall = replace(STUDY, top=(200, 40), values={**STUDY.values, "governing_ratio": 2.6})

    def test_the_tallest_tip_down_into_the_band(self):
        good = answered("cut", {"from": [205, 45], "to": [205, 110]}, self.tall)
        self.assertEqual((good.error, good.right), (0.0, True))
        short = answered("cut", {"from": [200, 40], "to": [200, 90]}, self.tall)
        self.assertAlmostEqual(short.signed, 0.1)

    def test_another_tip_or_no_cut_is_wrong_by_what_stands_too_high(self):
        self.assertAlmostEqual(answered("cut", {"none": True}, self.tall).error, 0.6)
        other = answered("cut", {"from": [120, 250], "to": [120, 280]}, self.tall)
        self.assertAlmostEqual(other.error, 0.6)

    def test_nothing_to_cut_in_the_band(self):
        fits = replace(STUDY, top=(200, 125), values={**STUDY.values, "governing_ratio": 1.75})
        self.assertTrue(answered("cut", {"none": True}, fits).right)
        self.assertFalse(answered("cut", {"from": [200, 125], "to": [200, 160]}, fits).right)


class BadAnswers(unittest.TestCase):
    def test_a_place_outside_the_picture_says_so(self):
        with self.assertRaisesRegex(BadAnswer, "outside the picture"):
            answered("weight", {"at": [401, 10]})

    @given(
        st.sampled_from([k.code for k in KINDS if k.code not in ("band", "bare", "crossing")]),
        st.dictionaries(
            st.sampled_from(["at", "left", "shares", "choice", "order", "from", "to", "none"]),
            st.one_of(
                st.none(),
                st.floats(),
                st.text(max_size=4),
                st.lists(st.one_of(st.floats(), st.text(max_size=2)), max_size=3),
            ),
        ),
    )
    def test_whatever_comes_is_judged_or_refused(self, code, answer):
        study = Cuts.tall if code == "cut" else STUDY
        try:
            out = answered(code, answer, study)
        except BadAnswer:
            return
        self.assertTrue(out.words)
        self.assertTrue(out.error is None or math.isfinite(out.error))
        kept = plain_answer(KIND[code], answer)
        self.assertEqual(judge(*asked(code, study), kept).words, out.words)
        json.dumps(kept, allow_nan=False)
