import io
import unittest

import numpy as np
from PIL import Image
from skimage.measure import blur_effect as reference

from juniper.camera import Shot, frame, take
from juniper.evaluation.quality_trials import ANSWERS, fault_trial
from juniper.photograph.quality import RETAKE, Figures, blur_effect, picture_advice

CALM = Figures(
    blur=0.3, light=75.0, clipped=0.0, noise=0.7, cast=0.1, cast_from="the card's greys", mixed=1.0
)


class Blur(unittest.TestCase):
    def test_agrees_with_the_reference_library(self):
        # scikit-image's blur_effect, the same published method (Crete et al. 2007), without its
        # slicing of channels.
        for shot in (Shot(), Shot(blur=1.5), Shot(blur=4.0)):
            grey = (
                np.asarray(Image.open(io.BytesIO(take(frame(10), shot).data)).convert("L")).astype(
                    np.float32
                )
                / 255
            )
            self.assertAlmostEqual(blur_effect(grey), reference(grey, h_size=11), delta=0.03)


class Words(unittest.TestCase):
    def test_a_good_picture_needs_none(self):
        self.assertEqual(picture_advice(CALM), ())

    def test_each_says_what_was_measured_and_what_to_do(self):
        for change in (
            {"blur": 0.7},
            {"light": 25.0},
            {"clipped": 0.5},
            {"noise": 8.0},
            {"cast": 2.4},
            {"cast": -0.9},
            {"mixed": 40.0},
        ):
            advice = picture_advice(Figures(**{**CALM.__dict__, **change}))
            self.assertEqual(len(advice), 1, change)
            self.assertRegex(advice[0].measured, r"\d")
            self.assertNotRegex(advice[0].text.lower(), r"pipeline|algorithm|pixel|error")

    def test_a_cast_the_card_sets_right_is_no_reason_to_retake(self):
        by_card = picture_advice(Figures(**{**CALM.__dict__, "cast": 2.4}))[0]
        by_guess = picture_advice(
            Figures(**{**CALM.__dict__, "cast": 2.4, "cast_from": "the lightest parts"})
        )[0]
        self.assertNotEqual(by_card.use, RETAKE)
        self.assertEqual(by_guess.use, RETAKE)
        self.assertIn("set right", by_card.text)


class Faults(unittest.TestCase):
    """A few of the trials that `bin/trials faults` makes in full."""

    def test_faults_are_answered(self):
        missed = []
        for fault in (
            "blur",
            "shake",
            "dark",
            "bright",
            "roll",
            "cut off",
            "warm cast",
            "mixed light",
            "noise",
        ):
            _, _, codes, _ = fault_trial((30, "front", fault, 0))
            if not codes & (ANSWERS[fault] | {"refused"}):
                missed.append(fault)
        self.assertEqual(missed, [])

    def test_good_pictures_are_left_alone(self):
        raised = {n: c for n in (0, 20) for c in [fault_trial((n, "front", "", 0))[2]] if c}
        self.assertEqual(raised, {})
