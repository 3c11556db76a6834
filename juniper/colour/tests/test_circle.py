import unittest

import numpy as np

from juniper.colour import Swatch, from_hex, hue_name, lab_from_srgb, palette_of, scheme_of
from juniper.colour.circle import ANCHORS, STEPS, gap, position
from juniper.colour.spaces import chroma_hue


def lab(text):
    return lab_from_srgb(from_hex(text))


def swatch(text, share):
    colour = lab(text)
    return Swatch("flower", tuple(colour), text, hue_name(colour), share)


class Circle(unittest.TestCase):
    def test_twelve_steps_in_their_order_at_their_anchors(self):
        places = [float(position(angle)) for _, angle, _ in ANCHORS]
        np.testing.assert_allclose(places, np.arange(12), atol=1e-9)

    def test_opposites_of_the_artists_circle(self):
        # Common practice: yellow faces violet, orange blue, red green.
        for one, other in (("yellow", "violet"), ("orange", "blue"), ("red", "green")):
            self.assertEqual(gap(STEPS.index(one), STEPS.index(other)), 6)

    def test_position_rises_all_the_way_round(self):
        hues = np.arange(88, 88 - 360, -1.0)
        self.assertTrue((np.diff(position(hues[:-1])) >= 0).all())

    def test_pigments_are_named_as_a_painter_would(self):
        # Colours of well-known pigments as commonly published in sRGB (common practice).
        for text, name in {
            "#fff200": "yellow", "#ff8c1a": "orange", "#d7261e": "red", "#e34234": "red-orange", "#5a2a82": "violet",
            "#2a52be": "blue", "#1f8a3c": "green", "#a2c62c": "yellow-green", "#f2f0e8": "white", "#efe0b9": "cream",
            "#101010": "black", "#8a8a8a": "white", "#4d4d4d": "grey",
        }.items():  # fmt: skip
            with self.subTest(text):
                got = hue_name(lab(text))
                near = got == name or (got in STEPS and name in STEPS and gap(STEPS.index(got), STEPS.index(name)) <= 1)
                self.assertTrue(near, f"{text}: {got}")


class Schemes(unittest.TestCase):
    def named(self, *colours):
        share = 1 / len(colours)
        return scheme_of(tuple(swatch(c, share) for c in colours)).name

    def test_schemes_by_their_textbook_members(self):
        # Members as taught on the artists' circle (common practice).
        yellow, orange, red, violet, blue, green = "#f2c21c", "#e8751a", "#c8202c", "#5f2f90", "#2f5fc0", "#2f8a3c"
        self.assertEqual(self.named(red, "#e8808a"), "monochromatic")
        self.assertEqual(self.named(yellow, "#f0a01c", orange), "analogous")
        self.assertEqual(self.named(yellow, violet), "complementary")
        self.assertEqual(self.named(orange, blue), "complementary")
        self.assertEqual(self.named(red, yellow, blue), "triadic")
        self.assertEqual(self.named(red, yellow, blue, orange, violet, green), "polychromatic")
        self.assertEqual(self.named("#f4f2ea", "#efe6cc"), "white-green")

    def test_cream_is_a_tint_of_yellow_where_that_is_all_there_is(self):
        # Tints of one hue are monochromatic; beside another hue cream stays a neutral (common practice).
        white, cream, yellow, blue, bud = "#f4f2ea", "#efdcae", "#f2c21c", "#2f5fc0", "#7da23c"
        shares = ((white, 0.55), (cream, 0.35), (yellow, 0.06), (bud, 0.04))
        self.assertEqual(scheme_of(tuple(swatch(c, s) for c, s in shares)).name, "monochromatic")
        self.assertEqual(self.named(cream, blue), "monochromatic")
        self.assertEqual(self.named(white, cream, bud), "white-green")

    def test_no_flowers_no_scheme(self):
        self.assertIsNone(scheme_of(()))


class Palette(unittest.TestCase):
    def test_shares_sum_to_one_and_follow_the_areas(self):
        rng = np.random.default_rng(5)
        areas = {"#c8202c": 6000, "#f2c21c": 3000, "#2f5fc0": 1000}
        pixels = np.concatenate([lab(c) + rng.normal(0, 2.5, (n, 3)) for c, n in areas.items()])
        swatches, index = palette_of(pixels, "flower")
        self.assertAlmostEqual(sum(s.share for s in swatches), 1.0)
        self.assertEqual(len(swatches), 3)
        np.testing.assert_allclose([s.share for s in swatches], [0.6, 0.3, 0.1], atol=0.01)
        self.assertEqual(len(index), len(pixels))
        for s, c in zip(swatches, areas, strict=True):
            hue, want = chroma_hue(s.lab)[1], chroma_hue(lab(c))[1]
            self.assertLess(abs((hue - want + 180) % 360 - 180), 6)

    def test_nothing_yields_nothing(self):
        self.assertEqual(palette_of(np.zeros((0, 3)), "flower")[0], ())
        self.assertEqual([s.share for s in palette_of(lab("#c03020")[None], "flower")[0]], [1.0])
