"""Colours set right by hand, on the drawn piece of the trials."""

import unittest

import numpy as np

from juniper.colour import ciede2000, from_hex, lab_from_srgb
from juniper.colour.circle import hue_name
from juniper.colour.palette import lit
from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.scene import ColourChange
from juniper.scene.colour_changes import recolour, swapped_colour, with_colours_changed
from juniper.scene.tests.test_trying import measured, piece
from juniper.scene.trying import Recolour, apply_change


def shaded(text, count=2500, dark=0.4):
    """A square of petal of one colour, lit on one side and in shade on the other: sRGB (50, 50,
    3).
    """
    light = np.linspace(1, dark, count)[:, None]
    return np.round(255 * from_hex(text) * light ** (1 / 2.2)).astype(np.uint8).reshape(50, 50, 3)


class Tinting(unittest.TestCase):
    def setUp(self):
        self.piece = piece()
        self.args = self.piece.scene, self.piece.raster, self.piece.pixels

    def flowers(self, scene):
        return [s for s in scene.palette if s.part == "flower"]

    def test_a_neutral_spot_takes_the_lights_colour_out(self):
        scene, raster, pixels = self.args
        cast = np.round(
            255 * srgb_from_linear(linear_from_srgb(pixels / 255) * (1.25, 1.0, 0.6))
        ).astype(np.uint8)
        before = self.flowers(
            with_colours_changed(scene, raster, pixels, ColourChange("neutral", at=(20, 20)))[0]
        )
        after = self.flowers(
            with_colours_changed(scene, raster, cast, ColourChange("neutral", at=(20, 20)))[0]
        )
        for one, other in zip(before, after, strict=True):
            # The light scales sRGB here and cones there, so that little is left of it, but not
            # nothing.
            self.assertLess(float(ciede2000(np.array(one.lab), np.array(other.lab))), 6)
            self.assertEqual(one.hue, other.hue)

    def test_a_spot_that_is_no_neutral_is_refused_with_what_to_do(self):
        scene, raster, pixels = self.args
        for at in ((200, 112), (130, 270)):  # a red and a yellow head
            with self.assertRaisesRegex(ValueError, "white cloth, a wall"):
                with_colours_changed(scene, raster, pixels, ColourChange("neutral", at=at))
        black = np.zeros_like(pixels)
        with self.assertRaisesRegex(ValueError, "too dark"):
            with_colours_changed(scene, raster, black, ColourChange("neutral", at=(20, 20)))

    def test_two_colours_made_one_and_one_made_two_again(self):
        scene, raster = with_colours_changed(*self.args, ColourChange("merge", which=1, to=2))
        self.assertEqual(len(self.flowers(scene)), 1)
        self.assertEqual(set(np.unique(raster.flowers)), {0, 1})
        self.assertEqual({b.swatch for b in scene.blooms}, {1})
        scene, raster = with_colours_changed(
            scene, raster, self.piece.pixels, ColourChange("split", which=1)
        )
        self.assertEqual({s.hue for s in self.flowers(scene)}, {"red", "yellow"})
        self.assertAlmostEqual(sum(s.share for s in self.flowers(scene)), 1)
        self.assertEqual([b.hue for b in scene.blooms], ["red", "yellow", "yellow"])

    def test_a_name_given_by_hand_stands_through_other_changes(self):
        scene, raster = with_colours_changed(
            *self.args, ColourChange("name", which=2, name="  Sea   holly gold ")
        )
        self.assertEqual(self.flowers(scene)[1].name, "Sea holly gold")
        scene, _ = with_colours_changed(
            scene, raster, self.piece.pixels, ColourChange("neutral", at=(20, 20))
        )
        self.assertIn("Sea holly gold", [s.name for s in self.flowers(scene)])

    def test_what_is_not_there_is_told(self):
        for change in (
            ColourChange("split", which=7),
            ColourChange("merge", which=1, to=1),
            ColourChange("merge", which=1),
            ColourChange("dye", which=1),
        ):
            with self.subTest(change), self.assertRaises(ValueError):
                with_colours_changed(*self.args, change)


class Swapping(unittest.TestCase):
    def test_the_new_colour_shows_and_the_shading_stays(self):
        mask = np.ones((50, 50), bool)
        for was, wish in (
            ("#b5202a", "#3763b4"),
            ("#f1efe6", "#5d2f8c"),
            ("#5d2f8c", "#f2c81f"),
            ("#3763b4", "#f1efe6"),
        ):
            with self.subTest(f"{was} {wish}"):
                pixels = shaded(was)
                new = recolour(pixels, mask, wish)
                seen, want = (
                    lit(lab_from_srgb(new.reshape(-1, 3) / 255)),
                    lab_from_srgb(from_hex(wish)),
                )
                self.assertEqual(hue_name(seen), hue_name(want))
                light = lab_from_srgb(new.reshape(-1, 3) / 255)[:, 0]
                was_light = lab_from_srgb(pixels.reshape(-1, 3) / 255)[:, 0]
                self.assertGreater(np.corrcoef(light, was_light)[0, 1], 0.99)

    def test_the_scheme_follows_and_only_its_petals_change(self):
        before = piece()
        after = apply_change(before, Recolour(1, "#5d2f8c"))
        self.assertEqual(measured(after).scheme.name, "complementary")
        self.assertLess(measured(after).scheme.off_degrees, 10)
        # red and yellow make no scheme by themselves
        self.assertGreater(measured(before).scheme.off_degrees, 18)
        changed = (after.pixels != before.pixels).any(axis=2)
        self.assertFalse((changed & (before.raster.flowers != 1)).any())
        self.assertEqual(after.scene.blooms[0].hue, "violet")
        self.assertTrue((after.raster.labels == before.raster.labels).all())

    def test_a_colour_that_is_gone_is_told(self):
        one = piece()
        with self.assertRaisesRegex(ValueError, "Nothing of this colour"):
            swapped_colour(one.scene, one.raster, one.pixels, 9, "#102030")
