"""Measures of colour on drawn pieces whose shares and places are known by construction."""

import math
import unittest
from dataclasses import replace

import numpy as np

from juniper.colour import Swatch, from_hex, hue_name, lab_from_srgb, scheme_of
from juniper.measures.colours import colours_of, seen_from_behind, told_scheme
from juniper.rules import Brief, judge, school
from juniper.scene import Bloom
from juniper.scene.tests.test_trying import measured, piece


def swatch(text, share, part="flower"):
    lab = lab_from_srgb(from_hex(text))
    return Swatch(part, tuple(lab), text, hue_name(lab), share)


def heads(*kinds):
    """Blooms of a radius each: (swatch number, radius, count)."""
    return tuple(
        Bloom((10.0 * i, 50.0 * n), radius, "#808080", "", n)
        for n, radius, count in kinds
        for i in range(count)
    )


class Shares(unittest.TestCase):
    palette = (swatch("#f2c81f", 0.45), swatch("#5d2f8c", 0.28), swatch("#e8761c", 0.27))

    def test_how_many_heads_to_take_out_or_add(self):
        # By hand: nine heads of .27 hold .03 each. Down to .18, (.27 - .18) / (.03 x .82) = 3.7, so
        # four; or others join until .27 is .18 of all, half as much again: .5 / .05 = ten of the
        # nine that hold .45.
        colours = colours_of(
            self.palette, heads((1, math.sqrt(5), 9), (2, math.sqrt(4), 7), (3, math.sqrt(3), 9))
        )
        words = colours.heads("accent_share", 0.27, 0.04, 0.18)
        self.assertEqual(
            words, "Take four of the nine orange heads out, or let ten more lemon join."
        )
        # Up to a half: (.5 - .45) / (.05 x .5) = two more.
        self.assertEqual(
            colours.heads("dominant_share", 0.45, 0.5, math.inf), "Let two more lemon join."
        )
        self.assertEqual(colours.heads("harmony", 0.1, 0.5, 1), "")

    def test_of_several_accents_the_heads_are_those_of_all(self):
        # By hand: 3 + 6 heads hold .18 + .09 of the flowers, .03 each, as above.
        palette = (*self.palette[:2], swatch("#e8761c", 0.18), swatch("#b5202a", 0.09))
        sizes = (math.sqrt(5), 9), (math.sqrt(4), 7), (math.sqrt(3), 6), (math.sqrt(3), 3)
        colours = colours_of(palette, heads(*((n, *s) for n, s in enumerate(sizes, 1))))
        words = colours.heads("accent_share", 0.27, 0.04, 0.18)
        self.assertEqual(
            words, "Take four of the nine accent heads out, or let ten more lemon join."
        )
        two = colours_of(self.palette[:2], heads((1, 2, 9), (2, 2, 7)))
        self.assertEqual(two.heads("accent_share", 0.27, 0.04, 0.18), "")

    def test_tints_of_one_step_are_one_part(self):
        colours = colours_of((swatch("#b5202a", 0.6), swatch("#e79aa6", 0.4)), ())
        self.assertEqual([(p.hue, round(p.share, 6)) for p in colours.parts], [("red", 1.0)])


class AllRound(unittest.TestCase):
    def test_what_is_not_seen_from_behind_is_named(self):
        front = replace(piece().scene, palette=(swatch("#f2c81f", 0.6), swatch("#5d2f8c", 0.4)))
        back = replace(front, palette=(swatch("#d9ac1a", 1.0),))  # the same yellow, less lit
        found = seen_from_behind(front, back)
        self.assertAlmostEqual(found.value, 0.6)
        self.assertEqual((found.view, found.arithmetic), ("back", "not seen from behind: purple"))
        self.assertEqual(seen_from_behind(front, front).value, 1.0)


class OnThePiece(unittest.TestCase):
    def setUp(self):
        self.piece = piece()

    def test_a_colour_in_one_spot_is_drawn_and_one_on_both_sides_is_not(self):
        # The yellow heads stand left and right but at one height; the red one alone at the top.
        found = measured(self.piece)["colours_carried"]
        self.assertEqual(found.value, 0.0)
        self.assertIn("yellow shows at one height only", found.arithmetic)
        flowers = self.piece.raster.flowers.copy()
        flowers[95:130, 185:215][flowers[95:130, 185:215] > 0] = 2  # the top head yellow, too
        palette = (self.piece.scene.palette[0], replace(self.piece.scene.palette[1], share=1.0))
        other = replace(
            self.piece,
            raster=replace(self.piece.raster, flowers=flowers),
            scene=replace(self.piece.scene, palette=(replace(palette[0], share=0.0), palette[1])),
        )
        self.assertAlmostEqual(measured(other)["colours_carried"].value, 1.0)

    def test_blocks(self):
        # Two yellow heads 160 px apart, plant 188 px high: no block, so the larger half counts.
        self.assertAlmostEqual(measured(self.piece)["colours_grouped"].value, 0.5, delta=0.01)
        near = tuple(
            replace(b, centre=(170.0 + 20 * i, 268.0)) if b.swatch == 2 else b
            for i, b in enumerate(self.piece.scene.blooms)
        )
        scene = replace(self.piece.scene, blooms=near)
        self.assertEqual(measured(replace(self.piece, scene=scene))["colours_grouped"].value, 1.0)

    def test_a_grey_picture_has_no_colours(self):
        found = measured(replace(self.piece, scene=replace(self.piece.scene, has_colour=False)))
        for name in ("dominant_share", "harmony", "colours_carried", "container_chroma"):
            self.assertFalse(found[name].measured)
            self.assertEqual(found[name].reason, "the picture has no colour")

    def test_mirroring_changes_no_measure_of_colour(self):
        there = measured(self.piece)
        raster, datum = self.piece.raster, self.piece.datum
        flip = replace(
            raster,
            **{
                n: np.ascontiguousarray(getattr(raster, n)[:, ::-1])
                for n in ("labels", "flowers", "light")
            },
        )
        blooms = tuple(
            replace(b, centre=(400 - b.centre[0], b.centre[1])) for b in self.piece.scene.blooms
        )
        turned = replace(
            datum,
            rim_left=(400 - datum.rim_right[0], 300.0),
            rim_right=(400 - datum.rim_left[0], 300.0),
        )
        here = measured(
            replace(
                self.piece,
                raster=flip,
                scene=replace(self.piece.scene, blooms=blooms),
                datum=turned,
                focal=(270.0, 270.0),
            )
        )
        for name in (
            "dominant_share",
            "colour_split",
            "colours_carried",
            "colours_grouped",
            "foliage_share",
        ):
            self.assertEqual(there[name].measured, here[name].measured, name)
            if there[name].measured:
                self.assertAlmostEqual(there[name].value, here[name].value, delta=0.02, msg=name)

    def test_the_advice_counts_heads(self):
        scene = replace(
            self.piece.scene,
            palette=(swatch("#f2c81f", 0.4), swatch("#5d2f8c", 0.3), swatch("#b5202a", 0.3)),
            blooms=heads((1, 20, 5), (2, 20, 4), (3, 20, 4)),
        )
        verdict = judge(
            measured(replace(self.piece, scene=scene)),
            school("classical-line-mass"),
            Brief(container_height_cm=25.0),
        )
        line = next(x for x in verdict.lines if x.rule.code == "accent")
        self.assertRegex(
            line.advice, r"Take \w+ of the four red heads out, or let \w+ more lemon join\."
        )


class ToldScheme(unittest.TestCase):
    def test_of_two_lights_the_one_whose_scheme_fits_better(self):
        # Under the guess that the wall's yellow is the light's own, the blue is one; in the light
        # as taken it is a shaded white.
        palette = (swatch("#e8a01f", 0.5), swatch("#c82828", 0.3), swatch("#2f5fc0", 0.2))
        scene = replace(piece().scene, palette=palette, light="guess", white=(70.0, -1.0, 9.0))
        told, guessed = told_scheme(scene), scheme_of(palette)
        self.assertEqual((told.name, guessed.name), ("analogous", "triadic"))
        self.assertLess(told.off_degrees, guessed.off_degrees)
        self.assertEqual(told.under_other_light, guessed.name)
        for light in ("card", "hand"):
            self.assertEqual(told_scheme(replace(scene, light=light)), guessed)
