import random
import unittest

import colour
import numpy as np

from juniper.colour import Swatch, from_hex, hue_name, lab_from_srgb, palette_of, scheme_of
from juniper.colour.circle import ANCHORS, STEPS, gap, place_of, position
from juniper.colour.names import flower_name
from juniper.colour.spaces import chroma_hue, lab_from_oklab, oklab_from_lab, srgb_from_lab, to_hex

# sRGB of pigments and dyes as commonly published under these names, with the step that a painter
# gives them (common practice). Blue-violet is the one of the red-yellow-blue wheel as commonly
# published.
PIGMENTS = (
    ("cadmium yellow", "#fff600", "yellow"),
    ("lemon yellow", "#fff44f", "yellow"),
    ("Naples yellow", "#fada5e", "yellow"),
    ("gamboge", "#e49b0f", "yellow-orange"),
    ("Indian yellow", "#e3a857", "yellow-orange"),
    ("cadmium orange", "#ed872d", "orange"),
    ("vermilion", "#e34234", "red-orange"),
    ("cadmium red", "#e30022", "red"),
    ("alizarin crimson", "#e32636", "red"),
    ("quinacridone magenta", "#8e3a59", "red-violet"),
    ("Tyrian purple", "#66023c", "red-violet"),
    ("electric violet", "#8f00ff", "violet"),
    ("indigo dye", "#4b0082", "violet"),
    ("wheel blue-violet", "#3d01a4", "blue-violet"),
    ("ultramarine", "#3f00ff", "blue"),
    ("ultramarine, deep", "#120a8f", "blue"),
    ("cobalt blue", "#0047ab", "blue"),
    ("Prussian blue", "#003153", "blue"),
    ("turquoise", "#40e0d0", "blue-green"),
    ("teal", "#008080", "blue-green"),
    ("viridian", "#40826d", "green"),
    ("emerald", "#50c878", "green"),
    ("sap green", "#507d2a", "green"),
    ("chartreuse", "#dfff00", "yellow-green"),
    ("lime", "#bfff00", "yellow-green"),
)


def lab(text):
    return lab_from_srgb(from_hex(text))


def swatch(text, share):
    colour = lab(text)
    return Swatch("flower", tuple(colour), text, hue_name(colour), share)


class Circle(unittest.TestCase):
    def test_twelve_steps_in_their_order_at_their_anchors(self):
        np.testing.assert_allclose(
            [float(position(middle)) for _, middle, _, _ in ANCHORS], np.arange(12), atol=1e-9
        )
        np.testing.assert_allclose(
            [float(position(edge)) for _, _, edge, _ in ANCHORS], np.arange(12) + 0.5, atol=1e-9
        )

    def test_opposites_of_the_artists_circle(self):
        # Common practice: yellow faces violet, orange blue, red green.
        for one, other in (("yellow", "violet"), ("orange", "blue"), ("red", "green")):
            self.assertEqual(gap(STEPS.index(one), STEPS.index(other)), 6)

    def test_position_rises_all_the_way_round(self):
        first = ANCHORS[0][1]
        self.assertTrue((np.diff(position(np.arange(first, first - 359, -1.0))) > 0).all())

    def test_pigments_stand_on_their_step(self):
        for name, text, step in PIGMENTS:
            self.assertEqual(hue_name(lab(text)), step, name)

    def test_florists_call_lemon_lemon_and_cobalt_blue(self):
        for text, name in (
            ("#fff44f", "lemon"),
            ("#0047ab", "blue"),
            ("#120a8f", "indigo"),
            ("#800080", "purple"),
            ("#40e0d0", "turquoise"),
        ):
            self.assertEqual(flower_name(lab(text)), name)

    def test_a_blue_keeps_its_step_from_deep_to_pale(self):
        # Which it does not by CIELAB's hue: ultramarine's runs from 306 degrees to under 280 as it
        # pales.
        for text in ("#120a8f", "#0047ab"):
            deep = np.array(oklab_from_lab(lab(text)))
            for part in (1.0, 0.7, 0.4):
                pale = lab_from_oklab(
                    deep * (1, part, part) + ((1 - part) * (0.95 - deep[0]), 0, 0)
                )
                self.assertEqual(hue_name(pale), "blue", (text, part))

    def test_oklab_against_a_reference_library(self):
        for text in ("#fff44f", "#0047ab", "#8e3a59", "#808080", "#0a9a3f"):
            reference = colour.XYZ_to_Oklab(colour.sRGB_to_XYZ(from_hex(text)))
            np.testing.assert_allclose(oklab_from_lab(lab(text)), reference, atol=2e-3)
            np.testing.assert_allclose(
                lab_from_oklab(oklab_from_lab(lab(text))), lab(text), atol=1e-6
            )

    def test_the_place_is_the_same_in_light_and_in_shade(self):
        linear = np.array([0.6, 0.25, 0.05])
        places = [
            float(
                place_of(
                    lab_from_srgb(
                        np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055)
                    )
                )
            )
            for v in (linear, 0.3 * linear)
        ]
        self.assertAlmostEqual(places[0], places[1], places=3)

    def test_pigments_are_named_as_a_painter_would(self):
        # Colours of well-known pigments as commonly published in sRGB (common practice).
        for text, name in {
            "#fff200": "yellow",
            "#ff8c1a": "orange",
            "#d7261e": "red",
            "#e34234": "red-orange",
            "#5a2a82": "violet",
            "#2a52be": "blue",
            "#1f8a3c": "green",
            "#a2c62c": "yellow-green",
            "#f2f0e8": "white",
            "#efe0b9": "cream",
            "#101010": "black",
            "#8a8a8a": "white",
            "#4d4d4d": "grey",
        }.items():
            with self.subTest(text):
                got = hue_name(lab(text))
                near = got == name or (
                    got in STEPS and name in STEPS and gap(STEPS.index(got), STEPS.index(name)) <= 1
                )
                self.assertTrue(near, f"{text}: {got}")


TWELVE = [
    "#fff600",
    "#e49b0f",
    "#ed872d",
    "#e34234",
    "#e32636",
    "#ca1f7b",
    "#8601af",
    "#3d01a4",
    "#0047ab",
    "#008b8b",
    "#0a9a3f",
    "#dfff00",
]
SHAPES = {
    "monochromatic": (0, 0, 0),
    "analogous": (0, 1, 2),
    "complementary": (0, 6),
    "split-complementary": (0, 5, 7),
    "triadic": (0, 4, 8),
    "tetradic": (0, 3, 6, 9),
}


class KnownPalettes(unittest.TestCase):
    """600 palettes built from one pigment for each step of the circle: full hues, tints (part
    white), shades (part black), mixed, each with and without a neutral. Which scheme they are
    follows from the steps they were built of.
    """

    @staticmethod
    def toned(text, tone, rng):
        full = from_hex(text)
        if tone == "tint":  # part of the way to white with its hue kept, as pigments pale
            part = rng.uniform(0.2, 0.5)
            return srgb_from_lab(
                lab_from_oklab((1 - part) * oklab_from_lab(lab(text)) + part * np.array([1, 0, 0]))
            )
        return full * rng.uniform(0.6, 0.85) if tone == "shade" else full

    def palettes(self):
        rng = random.Random(11)
        for name, shape in SHAPES.items():
            for number in range(100):
                tones = (("full",), ("tint",), ("shade",), ("full", "tint", "shade"))[number % 4]
                base = rng.randrange(12)
                if name == "monochromatic":
                    tones = ("full", "tint", "shade")
                parts = [
                    self.toned(TWELVE[(base + step) % 12], rng.choice(tones), rng) for step in shape
                ]
                weights = [rng.uniform(0.2, 0.5) for _ in parts]
                if number % 8 >= 4:
                    green = name == "monochromatic" and TWELVE[base] in (
                        "#0a9a3f",
                        "#dfff00",
                    )  # green with white is a scheme of its own
                    parts.append(np.full(3, 0.3 if green else rng.choice((0.3, 0.94))))
                    weights.append(rng.uniform(0.1, 0.3))
                yield name, parts, np.array(weights) / sum(weights)

    @staticmethod
    def made(parts, weights, turned=0.0):
        out = []
        for rgb, weight in zip(parts, weights, strict=True):
            a = np.radians(turned)
            ok = oklab_from_lab(lab_from_srgb(rgb))
            turn = np.array([[1, 0, 0], [0, np.cos(a), -np.sin(a)], [0, np.sin(a), np.cos(a)]])
            own = lab_from_oklab(turn @ ok)
            out.append(
                Swatch(
                    "flower", tuple(own), to_hex(srgb_from_lab(own)), hue_name(own), float(weight)
                )
            )
        return scheme_of(tuple(sorted(out, key=lambda s: -s.share))).name

    def test_each_scheme_is_told_and_holds_under_three_degrees(self):
        right, steady, count = dict.fromkeys(SHAPES, 0), 0, 0
        for name, parts, weights in self.palettes():
            found = self.made(parts, weights)
            right[name] += found == name
            steady += (
                self.made(parts, weights, 3.0) == found and self.made(parts, weights, -3.0) == found
            )
            count += 1
        for name, share in right.items():
            self.assertGreaterEqual(share, 97, (name, right))
        self.assertGreaterEqual(steady / count, 0.97)

    def test_a_neutral_changes_no_scheme(self):
        four = [from_hex(TWELVE[i]) for i in (0, 3, 6, 9)]
        for neutral in (np.full(3, 0.95), np.full(3, 0.3)):
            self.assertEqual(self.made([*four, neutral], [0.22, 0.22, 0.2, 0.2, 0.16]), "tetradic")

    def test_a_pale_hue_with_white_is_one_colour(self):
        pink, white = from_hex("#f2b8c6"), np.full(3, 0.95)
        self.assertEqual(self.made([white, pink], [0.6, 0.4]), "monochromatic")
        self.assertEqual(self.made([white, pink], [0.8, 0.2]), "monochromatic")


class Schemes(unittest.TestCase):
    def named(self, *colours):
        share = 1 / len(colours)
        return scheme_of(tuple(swatch(c, share) for c in colours)).name

    def test_schemes_by_their_textbook_members(self):
        # Members as taught on the artists' circle (common practice).
        yellow, orange, red, violet, blue, green = (
            "#f2c21c",
            "#e8751a",
            "#c8202c",
            "#5f2f90",
            "#2f5fc0",
            "#2f8a3c",
        )
        self.assertEqual(self.named(red, "#e8808a"), "monochromatic")
        self.assertEqual(self.named(yellow, "#f0a01c", orange), "analogous")
        self.assertEqual(self.named(yellow, violet), "complementary")
        self.assertEqual(self.named(orange, blue), "complementary")
        self.assertEqual(self.named(red, yellow, blue), "triadic")
        self.assertEqual(self.named(red, yellow, blue, orange, violet, green), "polychromatic")
        self.assertEqual(self.named("#f4f2ea", "#efe6cc"), "white-green")

    def test_cream_is_a_tint_of_yellow_where_that_is_all_there_is(self):
        # Tints of one hue are monochromatic; beside another hue cream stays a neutral (common
        # practice).
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
