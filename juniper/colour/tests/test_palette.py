"""Palettes read from petals whose colours are known, their names, schemes and ratios."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from juniper.colour import Swatch, ciede2000, from_hex, hue_name, lab_from_srgb, scheme_of
from juniper.colour.circle import position, saturation
from juniper.colour.names import flower_name, names
from juniper.colour.palette import apart, flower_colours, own_colour, swatches_of
from juniper.colour.ratios import (
    LIGHT_VALUES,
    extension_of,
    is_plain,
    light_value,
    parts_of,
    picks_up,
    relation,
    setting_swatch,
    share_unsure,
    split_distance,
)
from juniper.colour.schemes import schemes_of
from juniper.colour.spaces import linear_from_srgb, srgb_from_lab, srgb_from_linear

RNG = np.random.default_rng(3)


def petals(text, count=900, dark=0.35):
    """Pixels of a bloom: one colour from full light down to shade, as light falls on it."""
    light = linear_from_srgb(from_hex(text))
    shade = np.linspace(1.0, dark, count)[:, None]
    return lab_from_srgb(srgb_from_linear(light * shade)) + RNG.normal(0, 0.4, (count, 3))


def read(*blooms):
    """Palette of blooms given as lists of pixels."""
    lab = np.concatenate(blooms)
    number = np.repeat(np.arange(1, len(blooms) + 1), [len(b) for b in blooms])
    return swatches_of(lab, flower_colours(lab, number), "flower")


def swatch(text, share, part="flower"):
    """A swatch that is, by itself, of a colour."""
    lab = lab_from_srgb(from_hex(text))
    return Swatch(part, tuple(lab), text, hue_name(lab), share)


class Petals(unittest.TestCase):
    @given(st.tuples(*[st.floats(0.08, 0.95)] * 3), st.floats(0.3, 1.0))
    def test_shade_changes_neither_hue_nor_saturation(self, srgb, shade):
        # CIE 15: where every tristimulus value is above 216/24389 of white, CIELAB of a scaled
        # stimulus is scaled with L* + 16.
        light = linear_from_srgb(np.array(srgb))
        full, dark = (lab_from_srgb(srgb_from_linear(light * s)) for s in (1.0, shade))
        if (light * shade).min() > 216 / 24389:
            self.assertAlmostEqual(
                float(saturation(full)),
                float(saturation(dark)),
                delta=0.02 + 0.05 * float(saturation(full)),
            )

    def test_a_bloom_is_one_colour_in_light_and_shade(self):
        for text in ("#e8761c", "#5d2f8c", "#f1efe6", "#8e1626"):
            palette, index = read(petals(text), petals(text, 500, 0.5))
            self.assertEqual(len(palette), 1, text)
            self.assertTrue((index == 0).all())

    def test_neighbours_on_the_circle_are_told_apart(self):
        # Common practice: a florist tells orange from amber, white from cream, crimson from pink.
        for one, other in (
            ("#e8761c", "#f2c81f"),
            ("#f1efe6", "#f0dca8"),
            ("#8e1626", "#e79aa6"),
            ("#433f9c", "#5d2f8c"),
        ):
            palette, _ = read(petals(one), petals(other), petals(one), petals(other))
            self.assertEqual(len(palette), 2, (one, other))

    def test_a_two_toned_bloom_keeps_both(self):
        palette, _ = read(np.concatenate([petals("#f1efe6", 600), petals("#a3246c", 500)]))
        self.assertEqual({s.hue for s in palette}, {"white", "red-violet"})

    def test_shares_are_areas_and_sum_to_one(self):
        palette, _ = read(petals("#f2c81f", 600), petals("#5d2f8c", 300), petals("#b5202a", 100))
        self.assertEqual([round(s.share, 2) for s in palette], [0.6, 0.3, 0.1])

    def test_what_lies_behind_the_edge_of_petals_counts_less(self):
        # Half of each edge pixel is leaf behind it, mixed in light as a lens does.
        pure, leaf = petals("#f2c81f"), lab_from_srgb(from_hex("#203018"))
        light = [linear_from_srgb(srgb_from_lab(lab)) for lab in (petals("#f2c81f", 400), leaf)]
        edge = lab_from_srgb(srgb_from_linear((light[0] + light[1]) / 2))
        inner = np.repeat([True, False], [900, 400])
        palette, _ = swatches_of(np.concatenate([pure, edge]), np.zeros(1300, int), "flower", inner)
        mixed, _ = swatches_of(np.concatenate([pure, edge]), np.zeros(1300, int), "flower")
        weighed = np.average(np.concatenate([pure, edge]), axis=0, weights=np.where(inner, 1, 0.5))
        np.testing.assert_allclose(palette[0].lab, weighed)
        apart_by = [
            float(ciede2000(np.array(p[0].lab), pure.mean(axis=0))) for p in (palette, mixed)
        ]
        self.assertLess(apart_by[0], 0.65 * apart_by[1])

    def test_tints_of_one_hue_are_told_apart(self):
        # Common practice: a monochromatic piece is tints, tones and shades of one hue, and a
        # florist names them apart.
        for one, other in (("#8e1626", "#cf5a78"), ("#e8761c", "#f0b070"), ("#5d2f8c", "#a98bcb")):
            palette, _ = read(
                petals(one), petals(other), petals(one, dark=0.25), petals(other, dark=0.25)
            )
            self.assertEqual(len(palette), 2, (one, other))

    def test_stray_petals_go_to_the_likest_colour_and_many_make_their_own(self):
        for stray, count, colours in (("#eac020", 60, 1), ("#3763b4", 400, 2)):
            lab = np.concatenate([petals("#f2c81f", 900), petals(stray, count)])
            self.assertEqual(
                len(set(flower_colours(lab, np.repeat([1, 0], [900, count])))), colours
            )
        self.assertEqual(
            swatches_of(
                np.zeros((0, 3)), flower_colours(np.zeros((0, 3)), np.zeros(0, int)), "flower"
            )[0],
            (),
        )

    def test_distance_is_nought_to_itself_and_symmetric(self):
        red, pink = lab_from_srgb(from_hex("#b5202a")), lab_from_srgb(from_hex("#e79aa6"))
        self.assertAlmostEqual(float(apart(red, red)), 0)
        self.assertAlmostEqual(float(apart(red, pink)), float(apart(pink, red)))


class Names(unittest.TestCase):
    def test_colours_of_the_trade(self):
        # Common practice; colours as commonly shown in sRGB.
        for text, name in {
            "#fbfaf5": "white",
            "#f3e5ab": "cream",
            "#ffd1c8": "blush",
            "#fbceb1": "shell",
            "#f0a84a": "apricot",
            "#ff7f50": "coral",
            "#dc143c": "red",
            "#800020": "burgundy",
            "#4b0082": "purple",
            "#c8a2c8": "mauve",
            "#87ceeb": "sky blue",
            "#1b2650": "navy",
            "#b39268": "tan",
            "#ffef6b": "lemon",
            "#9acd32": "lime green",
            "#30d5c8": "turquoise",
            "#8f3a14": "rust",
        }.items():
            with self.subTest(text):
                self.assertEqual(flower_name(lab_from_srgb(from_hex(text))), name)

    def test_every_range_is_one_and_holds_its_own_middle(self):
        for n in names():
            for low, high in (n.hue, n.light, n.deep):
                self.assertLess(low, high, n.name)
            middle = [sum(r) / 2 for r in (n.hue, n.light, n.deep)]
            self.assertLess(n.away(middle[0] % 360, middle[1], middle[2]), 1e-9, n.name)

    def test_what_is_neutral_on_the_circle_has_the_name_of_a_neutral(self):
        # From memory: white petals in the blue shade of a window are white, near-black ones no
        # green.
        for lab, step, name in (
            ((54.0, -1.0, -8.4), "white", "silver"),
            ((70.0, -3.0, -10.0), "white", "white"),
            ((9.0, -6.0, 3.0), "black", "charcoal"),
            ((46.0, -1.0, 7.0), "grey", "silver"),
        ):
            self.assertEqual((hue_name(lab), flower_name(lab)), (step, name))
        for neutral in ("white", "cream", "grey", "black", "brown"):
            self.assertTrue([n for n in names() if neutral in n.neutral], neutral)

    def test_what_a_person_called_it_stands(self):
        one = swatch("#b5202a", 1.0)
        self.assertEqual(Swatch(**{**one.__dict__, "called": "fire"}).name, "fire")


class Schemes(unittest.TestCase):
    def test_schemes_as_taught(self):
        for wanted, colours in {
            "monochromatic": (("#b5202a", 0.6), ("#e79aa6", 0.4)),
            "analogous": (("#f2c81f", 0.5), ("#e8761c", 0.3), ("#b5202a", 0.2)),
            "complementary": (("#f2c81f", 0.3), ("#5d2f8c", 0.7)),
            "split-complementary": (("#5d2f8c", 0.5), ("#eca01c", 0.25), ("#b6c64a", 0.25)),
            "triadic": (("#f2c81f", 0.5), ("#b5202a", 0.3), ("#3763b4", 0.2)),
            "polychromatic": (
                ("#f2c81f", 0.2),
                ("#b5202a", 0.2),
                ("#3763b4", 0.2),
                ("#5d2f8c", 0.2),
                ("#e8761c", 0.2),
            ),
            "white-green": (("#f1efe6", 0.8), ("#6f9a45", 0.2)),
        }.items():
            with self.subTest(wanted):
                self.assertEqual(scheme_of(tuple(swatch(*c) for c in colours)).name, wanted)

    def test_a_little_leaf_among_the_petals_is_no_colour_of_the_scheme(self):
        reds = (swatch("#b5202a", 0.7), swatch("#e79aa6", 0.24))
        self.assertEqual(scheme_of((*reds, swatch("#6f9a45", 0.06))).name, "monochromatic")

    def test_green_foliage_belongs_to_the_scheme_where_the_brief_says_so(self):
        red, leaf = swatch("#b5202a", 1.0), swatch("#4f7a35", 1.0, "foliage")
        self.assertEqual(scheme_of((red, leaf)).name, "monochromatic")
        self.assertEqual(scheme_of((red, leaf), with_green=True).name, "complementary")

    def test_the_nearest_other_is_further_off(self):
        ranked = schemes_of(
            (swatch("#5d2f8c", 0.5), swatch("#eca01c", 0.25), swatch("#b6c64a", 0.25))
        )
        self.assertEqual([s.off_degrees for s in ranked], sorted(s.off_degrees for s in ranked))
        self.assertEqual(scheme_of(()), None)


class Ratios(unittest.TestCase):
    def test_light_values_are_goethes(self):
        # Goethe's values as Itten gives them: yellow 9, orange 8, red 6, violet 3, blue 4, green 6.
        self.assertEqual([LIGHT_VALUES[i] for i in (0, 2, 4, 6, 8, 10)], [9, 8, 6, 3, 4, 6])
        self.assertAlmostEqual(light_value(11.5), (7.5 + 9) / 2)

    def test_areas_that_balance(self):
        # Itten, The Art of Color: yellow to violet 1 : 3, orange to blue 1 : 2, red to green 1 : 1.
        for one, other, wanted in (
            ("#f2c81f", "#5d2f8c", 1 / 4),
            ("#e8761c", "#3763b4", 1 / 3),
            ("#b5202a", "#1f8a3c", 1 / 2),
        ):
            found = extension_of((swatch(one, 0.6), swatch(other, 0.4)))
            place = float(
                position(np.degrees(np.arctan2(*lab_from_srgb(from_hex(one))[:0:-1])) % 360)
            )
            self.assertAlmostEqual(found.wanted, wanted, delta=0.04, msg=f"{one} at {place:.1f}")
            self.assertAlmostEqual(found.share, 0.6)
        self.assertIsNone(extension_of((swatch("#f2c81f", 0.6), swatch("#e8761c", 0.4))))

    def test_sixty_thirty_ten(self):
        parts = parts_of((swatch("#f2c81f", 0.6), swatch("#5d2f8c", 0.3), swatch("#b5202a", 0.1)))
        self.assertAlmostEqual(split_distance(parts), 0)
        even = parts_of(tuple(swatch(c, 1 / 3) for c in ("#f2c81f", "#5d2f8c", "#b5202a")))
        # by hand: (.2667 + .0333 + .2333) / 2
        self.assertAlmostEqual(split_distance(even), 0.8 / 3)

    def test_how_a_container_stands_to_the_flowers(self):
        flowers = (swatch("#b5202a", 0.7), swatch("#e79aa6", 0.3))
        for container, word in (
            ("#8a8a86", "neutral"),
            ("#a8323a", "echo"),
            ("#1f5fae", "contrast"),
        ):
            self.assertEqual(relation(swatch(container, 1.0, "container"), flowers)[0], word)

    def test_what_picks_up_a_cloth(self):
        flowers = (swatch("#b5202a", 0.5), swatch("#f2c81f", 0.3), swatch("#e8761c", 0.2))
        # a dark red cloth: the red is of its own step, orange and yellow are not
        found, share = picks_up(setting_swatch("#7d1a20"), flowers)
        self.assertEqual(([s.chip for s in found], share), (["#b5202a"], 0.5))
        self.assertEqual(picks_up(setting_swatch("#1f5fae"), flowers), ((), 0.0))
        self.assertTrue(is_plain(setting_swatch("#cfcac0")))
        self.assertFalse(is_plain(setting_swatch("#7d1a20")))

    def test_own_colour_keeps_what_is_far_from_yellow(self):
        blue = lab_from_srgb(from_hex("#3763b4"))
        own = own_colour(blue)
        self.assertAlmostEqual(
            float(np.arctan2(own[2], own[1])), float(np.arctan2(blue[2], blue[1]))
        )
        self.assertGreater(own[0], blue[0])
        self.assertLess(float(ciede2000(blue, own)), 12)


class Unsure(unittest.TestCase):
    def test_a_share_is_as_unsure_as_what_is_in_doubt_of_it_and_beside_it(self):
        # Hand-worked: hypot(.025 x 2 x sqrt(.24), .85 x hypot(.10 x .4, .05 x .6)) = hypot(.0245,
        # .0425).
        red = Swatch("flower", (41.0, 58.0, 35.0), "#be282d", "red", 0.6, doubt=0.10)
        white = Swatch("flower", (90.0, 0.0, 4.0), "#e6e3da", "white", 0.4, doubt=0.05)
        leaf = Swatch("foliage", (40.0, -20.0, 20.0), "#3e7034", "green", 1.0)
        self.assertAlmostEqual(share_unsure((red,), (red, white, leaf)), 0.0491, places=3)
        self.assertAlmostEqual(share_unsure((white,), (red, white, leaf)), 0.0491, places=3)

    def test_all_of_the_flowers_are_sure_and_a_single_colour_too(self):
        red = Swatch("flower", (41.0, 58.0, 35.0), "#be282d", "red", 1.0, doubt=0.3)
        self.assertAlmostEqual(share_unsure((red,), (red,)), 0.0)


class NearALimit(unittest.TestCase):
    """As read from two simulated pictures."""

    def called(self, *colours):
        made = []
        for text, share in colours:
            lab = lab_from_srgb(from_hex(text))
            made.append(
                Swatch("flower", tuple(map(float, lab)), text, hue_name(own_colour(lab)), share)
            )
        return scheme_of(tuple(made)).name

    def test_a_faint_tint_of_little_share_is_no_fifth_colour(self):
        seen = (
            ("#552f68", 0.38),
            ("#b12c6e", 0.25),
            ("#d2d3c0", 0.15),
            ("#bf5867", 0.13),
            ("#e89c25", 0.04),
        )
        self.assertEqual(self.called(*seen, ("#64606e", 0.03)), "analogous")
        self.assertEqual(self.called(*seen, ("#3763b4", 0.03)), "polychromatic")

    def test_blue_beside_red_is_not_analogous(self):
        # Analogous colours are neighbours on the artists' circle (handbook, "Colour"): blue and
        # red have two named steps between them.
        for blue, red in (("#2f4fb8", "#b5202a"), ("#3b4fc0", "#c01f3a")):
            for share in (0.5, 0.7, 0.85):
                self.assertNotEqual(self.called((blue, share), (red, 1 - share)), "analogous")
        between = ("#2f4fb8", 0.35), ("#6a2f9a", 0.35), ("#9a2a78", 0.3)
        self.assertEqual(self.called(*between), "analogous")

    def test_tints_that_lie_apart_are_not_one_hue(self):
        self.assertEqual(
            self.called(("#3b1b58", 0.38), ("#885582", 0.23), ("#332f6f", 0.19), ("#3b2c67", 0.15)),
            "analogous",
        )
