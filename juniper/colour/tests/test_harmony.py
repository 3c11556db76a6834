"""Harmony, deficiency and adaptation held against published figures and a reference library."""

import math
import unittest

import colour
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from juniper.colour import Swatch, from_hex, hue_name, lab_from_srgb
from juniper.colour.deficiency import MATRICES, as_seen, confused
from juniper.colour.harmony import pair_harmony, palette_harmony
from juniper.photograph import adaptation

LABS = st.tuples(st.floats(5, 95), st.floats(-60, 60), st.floats(-60, 60))


def swatch(text, share):
    lab = lab_from_srgb(from_hex(text))
    return Swatch("flower", tuple(lab), text, hue_name(lab), share)


class PairHarmony(unittest.TestCase):
    def test_two_greys_by_hand(self):
        # Ou & Luo 2006, worked by hand: no chroma, so that only HC and HL speak; L* 80 and 40.
        found = pair_harmony((80, 0, 0), (40, 0, 0))
        self.assertAlmostEqual(found.chroma, 0.04 + 0.53 * math.tanh(0.8), places=9)
        light = (
            0.28 + 0.54 * math.tanh(-3.88 + 0.029 * 120) + 0.14 + 0.15 * math.tanh(-2 + 0.2 * 40)
        )
        self.assertAlmostEqual(found.lightness, light, places=9)
        # A colour without chroma has hardly a hue: EC is .5 + .5 tanh(-2) = .018.
        self.assertLess(abs(found.hue), 0.06)

    def test_what_the_experiment_found(self):
        # Ou & Luo 2006, conclusions: light pairs please more than dark ones, small differences of
        # hue and chroma more than large ones, a clear difference of lightness more than none, and
        # blue pleases most of hues, red least.
        self.assertGreater(
            pair_harmony((85, 10, 10), (85, 12, 8)).value,
            pair_harmony((25, 10, 10), (25, 12, 8)).value,
        )
        self.assertGreater(
            pair_harmony((60, 30, 20), (60, 32, 22)).value,
            pair_harmony((60, 30, 20), (60, -30, -20)).value,
        )
        self.assertGreater(
            pair_harmony((70, 5, 5), (45, 5, 5)).lightness,
            pair_harmony((57.5, 5, 5), (57.5, 5, 5)).lightness,
        )
        blue, red = (50, 5, -40), (50, 40, 15)
        self.assertGreater(pair_harmony(blue, blue).hue, pair_harmony(red, red).hue)

    @given(LABS, LABS)
    def test_order_does_not_matter_and_the_range_holds(self, first, second):
        one, other = pair_harmony(first, second).value, pair_harmony(second, first).value
        self.assertAlmostEqual(one, other, places=9)
        self.assertTrue(-2.2 < one < 2.2)

    def test_a_palette_is_the_mean_of_its_pairs_by_area(self):
        a, b, c = swatch("#c83232", 0.5), swatch("#e8c020", 0.3), swatch("#3050b0", 0.2)
        mean, pairs = palette_harmony((a, b, c))
        weight = {
            ("#c83232", "#e8c020"): 0.15,
            ("#c83232", "#3050b0"): 0.10,
            ("#e8c020", "#3050b0"): 0.06,
        }
        by_hand = sum(weight[(x.hex, y.hex)] * h.value for x, y, h in pairs) / 0.31
        self.assertAlmostEqual(mean, by_hand)
        self.assertEqual([h.value for *_, h in pairs], sorted(h.value for *_, h in pairs))
        self.assertTrue(math.isnan(palette_harmony((a,))[0]))


class OtherEyes(unittest.TestCase):
    def test_matrices_are_those_of_the_reference_library(self):
        for kind, name in (
            ("protan", "Protanomaly"),
            ("deutan", "Deuteranomaly"),
            ("tritan", "Tritanomaly"),
        ):
            np.testing.assert_allclose(
                MATRICES[kind], colour.matrix_cvd_Machado2009(name, 1.0), atol=2e-6
            )

    def test_greys_stay_grey(self):
        for kind in MATRICES:
            np.testing.assert_allclose(as_seen([0.5, 0.5, 0.5], kind), 0.5, atol=1e-3)

    def test_red_and_green_are_confused_by_eyes_that_lack_a_long_or_middle_cone(self):
        # Fact of the field: a dull red and a dull green fall together, blue and yellow do not.
        pair = [from_hex("#a0603c"), from_hex("#6f7a33")]
        self.assertTrue(confused(pair, "protan") or confused(pair, "deutan"))
        self.assertEqual(confused([from_hex("#2a50b0"), from_hex("#e8c020")], "deutan"), [])


class Adaptation(unittest.TestCase):
    def test_it_is_the_bradford_transform_of_the_reference_library(self):
        light = np.array([1.3, 0.95, 0.65])
        own = light / (light @ [0.2126, 0.7152, 0.0722])
        to_xyz = np.array(
            [
                [0.4124564, 0.3575761, 0.1804375],
                [0.2126729, 0.7151522, 0.0721750],
                [0.0193339, 0.1191920, 0.9503041],
            ]
        )
        source, target = to_xyz @ own, to_xyz @ np.ones(3)
        bradford = colour.adaptation.matrix_chromatic_adaptation_VonKries(
            source, target, transform="Bradford"
        )
        np.testing.assert_allclose(
            adaptation(1 / light), np.linalg.inv(to_xyz) @ bradford @ to_xyz, atol=2e-4
        )

    def test_a_grey_under_the_light_comes_out_neutral(self):
        light = np.array([0.92, 1.0, 1.28])
        seen = adaptation(1 / light) @ (0.4 * light)
        np.testing.assert_allclose(seen, seen.mean(), atol=1e-9)
