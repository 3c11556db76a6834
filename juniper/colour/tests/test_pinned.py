"""Colour, step by step: figures worked by hand, so that a changed constant or a turned sign
shows.
"""

import math
import unittest

import numpy as np

from juniper.colour.palette import (
    Swatch,
    _few,
    _joined,
    _two_toned,
    among_others,
    apart,
    lit,
    on_disc,
    own_colour,
    swatches_of,
)
from juniper.colour.schemes import (
    _arc,
    _offs,
    _offs_of,
    _places,
    _shape_error,
    in_doubt,
    relit,
    scheme_of,
    schemes_of,
)
from juniper.colour.spaces import from_hex, lab_from_srgb


def polar(light, chroma, degrees):
    """A CIELAB colour by its hue."""
    return (
        light,
        chroma * math.cos(math.radians(degrees)),
        chroma * math.sin(math.radians(degrees)),
    )


def hue_of(lab) -> float:
    return math.degrees(math.atan2(lab[2], lab[1])) % 360


class OwnColour(unittest.TestCase):
    def test_warmth_from_petal_to_petal(self):
        # 5 degrees in full from 48 to 84, half of it 6 degrees outside, none from 36 and 96 on.
        for seen, own in (
            (30, 30),
            (36, 36),
            (42, 44.5),
            (48, 53),
            (60, 65),
            (84, 89),
            (90, 92.5),
            (96, 96),
            (200, 200),
        ):
            self.assertAlmostEqual(hue_of(own_colour(polar(50, 40, seen))), own, places=6, msg=seen)

    def test_lit_petals_turn_partly_away(self):
        # L* + 16 is 1.18 times as much, white at most: 50 -> 66 x 1.18 - 16; 90 -> 100.
        light, a, b = own_colour(polar(50, 40, 200))
        self.assertAlmostEqual(light, 61.88)
        self.assertAlmostEqual(math.hypot(a, b), 47.2)
        self.assertAlmostEqual(own_colour(polar(90, 10, 200))[0], 100.0)

    def test_among_others_is_its_inverse(self):
        for degrees in (20, 40, 55, 70, 88, 120, 300):
            seen = polar(45, 50, degrees)
            np.testing.assert_allclose(among_others(own_colour(seen)), seen, atol=0.02)


class Petals(unittest.TestCase):
    def test_lit_is_neither_shade_nor_shine(self):
        lab = np.column_stack([np.arange(101.0), np.zeros(101), np.zeros(101)])
        self.assertAlmostEqual(lit(lab)[0], 73.5)  # of 50 to 97

    def two(self, second, count=400, apart_by=60.0):
        lab = np.tile([60.0, 40.0, 20.0], (count, 1))
        lab[: round(second * count)] = polar(
            60, math.hypot(40, 20), math.degrees(math.atan2(20, 40)) + apart_by
        )
        return _two_toned(lab)

    def test_a_second_tone_holds_a_tenth(self):
        self.assertEqual(
            [len(self.two(s)) for s in (0.08, 0.12, 0.3, 0.5, 0.88, 0.92)], [1, 2, 2, 2, 2, 1]
        )
        self.assertEqual(sorted(int(p.sum()) for p in self.two(0.3)), [120, 280])

    def test_a_small_bloom_or_a_near_tone_has_one(self):
        self.assertEqual(
            (len(self.two(0.5, 79)), len(self.two(0.5, 80)), len(self.two(0.5, apart_by=8.0))),
            (1, 2, 1),
        )

    def test_a_few_colours_of_pixels(self):
        lab = np.vstack(
            [np.tile([50.0, 60.0, 0.0], (300, 1)), np.tile([50.0, -60.0, 0.0], (100, 1))]
        )
        number, centres = _few(lab, 2)
        self.assertEqual(sorted(np.bincount(number).tolist()), [100, 300])
        np.testing.assert_allclose(sorted(centres[:, 1]), [-60, 60], atol=0.01)
        np.testing.assert_allclose(centres[:, 0], 50, atol=0.01)
        number, centres = _few(lab[:2], 2)
        self.assertEqual((number.tolist(), len(centres)), ([0, 0], 1))

    def test_the_two_nearest_are_joined_first_and_no_more_than_is_needed(self):
        tones = np.array([polar(50, 50, h) for h in (20, 23, 140, 260)])
        group = _joined(tones, np.array([5.0, 5.0, 5.0, 5.0]), 8)
        self.assertEqual((group[0] == group[1], len(set(group.tolist()))), (True, 3))
        few = _joined(tones, np.array([5.0, 5.0, 5.0, 5.0]), 2)
        self.assertEqual(len(set(few.tolist())), 2)

    def test_how_far_two_colours_are_apart(self):
        # 5.6 of a circle's step apart in saturation, 8 of saturation, .6 of lightness (units of
        # juniper.colour.palette).
        one = np.array(polar(50, 50, 30))
        self.assertEqual(float(apart(one, one)), 0)
        self.assertLess(float(apart(one, np.array(polar(53, 50, 30)))), 1)
        self.assertGreater(float(apart(one, np.array(polar(50, 50, 90)))), 1)
        self.assertAlmostEqual(
            float(apart(one, np.array(polar(50, 50, 60)))),
            float(apart(np.array(polar(50, 50, 60)), one)),
        )

    def test_a_neutral_lies_in_the_middle_of_the_disc(self):
        self.assertLess(np.hypot(*on_disc((60.0, 0.0, 0.0))), 0.01)
        near, far = (np.hypot(*on_disc(polar(60, c, 30))) for c in (10, 60))
        self.assertLess(near, far)
        self.assertLess(far, 1.0)

    def test_shares_of_swatches(self):
        lab = np.vstack(
            [np.tile(polar(50, 60, 30), (300, 1)), np.tile(polar(50, 60, 250), (100, 1))]
        )
        index = np.repeat([0, 1], [300, 100])
        found, numbers = swatches_of(lab, index, "flower", np.ones(400, bool))
        self.assertEqual([round(s.share, 3) for s in found], [0.75, 0.25])
        self.assertEqual(np.bincount(numbers).tolist(), [300, 100])


def swatch(hex_, hue, share, part="flower"):
    return Swatch(part, tuple(lab_from_srgb(from_hex(hex_))), hex_, hue, share)


class Places(unittest.TestCase):
    def test_the_shortest_arc(self):
        for steps, arc in (
            ([], 0),
            ([3], 0),
            ([0, 1, 11], 2),
            ([0, 4, 8], 8),
            ([1, 2, 3, 4], 3),
            ([11.5, 0.5], 1),
        ):
            self.assertAlmostEqual(_arc(steps), arc, msg=steps)

    def test_nearly_one_place_is_one_the_largest_first(self):
        red, blue = swatch("#c0202a", "red", 0.3), swatch("#2a3fae", "blue", 0.7)
        places = _places([red, blue])
        self.assertEqual([round(w, 3) for _, w, _ in places], [0.7, 0.3])
        again = _places([red, swatch("#c0222a", "red", 0.1), blue])
        self.assertEqual([round(w, 3) for _, w, _ in again], [0.7, 0.4])
        self.assertLess(again[1][2], 0.1)

    def test_a_shape_is_off_by_its_places_and_its_emptiest_corner(self):
        # Half the mean distance and half that of the emptiest corner, at 30 degrees a step.
        self.assertAlmostEqual(_shape_error([(0, 0.5), (6, 0.5)], (0, 6)), 0)
        # turned by half a step: each .5 off
        self.assertAlmostEqual(_shape_error([(0, 0.5), (5, 0.5)], (0, 6)), 15)
        self.assertAlmostEqual(_shape_error([(0, 0.5), (4, 0.3), (8, 0.2)], (0, 4, 8)), 0)
        # A corner of .05 costs (.10 - .05) x 150 degrees.
        self.assertAlmostEqual(_shape_error([(0, 0.95), (6, 0.05)], (0, 6)), 7.5)
        self.assertEqual(_shape_error([(0, 0.5), (0.5, 0.5)], (0, 4, 8)), math.inf)

    def test_which_schemes_can_be_made(self):
        one = _offs_of([(0.0, 1.0, 0.0)])
        self.assertEqual(one, {"monochromatic": 0.0})
        # Places 2 apart: 15 + 30 x (2 - .8) off one step; neighbours in full.
        near = _offs_of([(0.0, 0.6, 0.0), (2.0, 0.4, 0.0)])
        self.assertEqual(
            {k: round(v, 6) for k, v in near.items()}, {"monochromatic": 51.0, "analogous": 0.0}
        )
        # Beyond 3.4 steps, and beyond 2.5 between neighbours, each tenth of one costs six degrees.
        even = _offs_of([(0.0, 0.4, 0.0), (2.0, 0.3, 0.0), (4.0, 0.3, 0.0)])
        self.assertAlmostEqual(even["analogous"], 36.0)
        wide = _offs_of([(0.0, 0.6, 0.0), (4.0, 0.4, 0.0)])
        self.assertAlmostEqual(wide["analogous"], 36.0 + 90.0)
        close = _offs_of([(0.0, 0.6, 0.0), (2.6, 0.4, 0.0)])
        self.assertAlmostEqual(close["analogous"], 6.0)
        self.assertEqual(set(wide), {"monochromatic", "analogous", "complementary"})
        # A tint of the next step that holds little: .1 of 1.2 steps lies beside the chief colour.
        close_hues = _offs_of([(0.0, 0.9, 0.0), (1.2, 0.1, 0.0)])
        self.assertAlmostEqual(close_hues["monochromatic"], 3.6)
        self.assertAlmostEqual(close_hues["analogous"], 6.0)

    def test_two_broad_colours_at_one_pole_are_two_corners(self):
        split = _offs_of([(0.0, 0.4, 0.0), (5.0, 0.3, 0.0), (7.0, 0.3, 0.0)])
        self.assertLess(split["split-complementary"], split["complementary"])
        plain = _shape_error([(0.0, 0.4), (5.0, 0.3), (7.0, 0.3)], (0, 6))
        self.assertAlmostEqual(split["complementary"], plain + 12.0)
        for apart_by, cost in ((1.3, 12.0), (1.15, 6.0), (0.95, 0.0)):
            near = _offs_of(
                [(0.0, 0.4, 0.0), (6.0 - apart_by / 2, 0.3, 0.0), (6.0 + apart_by / 2, 0.3, 0.0)]
            )["complementary"]
            plain = _shape_error(
                [(0.0, 0.4), (6.0 - apart_by / 2, 0.3), (6.0 + apart_by / 2, 0.3)], (0, 6)
            )
            self.assertAlmostEqual(near, plain + cost)

    def test_a_minor_colour_may_be_left_out_at_a_cost(self):
        # .1 of the flowers on the far side: left out of one colour it costs 120 x .1 degrees.
        self.assertAlmostEqual(_offs([(0.0, 0.9, 0.0), (6.0, 0.1, 0.0)])["monochromatic"], 12.0)
        # The largest is never left out, nor one of .15 and more.
        self.assertGreater(_offs([(0.0, 0.85, 0.0), (6.0, 0.15, 0.0)])["monochromatic"], 60)
        self.assertEqual(
            set(_offs([(0.0, 0.05, 0.0), (6.0, 0.95, 0.0)])) >= {"complementary"}, True
        )


class Schemes(unittest.TestCase):
    WHITE = ("#f4f2ec", "white")
    GREEN = ("#6fae3c", "green")
    RED = ("#c0202a", "red")

    def named(self, *parts, **options):
        return scheme_of(tuple(swatch(h, hue, share) for (h, hue), share in parts), **options)

    def test_white_with_any_green(self):
        self.assertEqual(self.named((self.WHITE, 0.6), (self.GREEN, 0.4)).name, "white-green")
        self.assertEqual(self.named((self.WHITE, 1.0)).name, "white-green")
        # a flush of another hue: 30 degrees times its share off
        little = self.named((self.WHITE, 0.9), (self.RED, 0.1))
        self.assertEqual(
            (little.name, round(little.fit, 6), round(little.off_degrees, 6)),
            ("white-green", 0.9, 3.0),
        )
        self.assertEqual(self.named((self.WHITE, 0.85), (self.RED, 0.15)).name, "monochromatic")
        self.assertEqual(self.named((self.GREEN, 1.0)).name, "monochromatic")

    def test_no_flower_no_scheme(self):
        self.assertIsNone(scheme_of(()))
        self.assertIsNone(scheme_of((swatch("#446622", "green", 1.0, "foliage"),)))
        self.assertEqual(schemes_of((swatch("#c0202a", "red", 0.02),)), [])

    def test_leaves_belong_where_green_is_asked_for(self):
        palette = (swatch("#c0202a", "red", 1.0), swatch("#3f7a2c", "green", 1.0, "foliage"))
        self.assertEqual(
            (scheme_of(palette).name, scheme_of(palette, True).name),
            ("monochromatic", "complementary"),
        )

    def test_green_counts_in_full_from_fifteen_parts_in_a_hundred_on(self):
        def off(green, **options):
            found = schemes_of(
                (swatch("#c0202a", "red", 1 - green), swatch("#6fae3c", "green", green)), **options
            )
            return {s.name: s.off_degrees for s in found}

        # A little green may be leaf and is weighed by half: left out it costs 120 x its share of
        # what is left.
        self.assertAlmostEqual(off(0.1)["monochromatic"], 120 * 0.05 / 0.95)
        self.assertAlmostEqual(off(0.1, with_green=True)["monochromatic"], 12.0)
        self.assertGreater(off(0.16)["monochromatic"], 60)

    def test_weights_are_shares_of_all(self):
        twice, once = (_offs([(0.0, 9 * w, 0.0), (6.0, w, 0.0)]) for w in (0.2, 0.1))
        self.assertEqual(twice.keys(), once.keys())
        for name, off in once.items():
            self.assertAlmostEqual(twice[name], off, places=9)

    def test_five_colours_round_the_circle_are_many(self):
        colours = (
            ("#f2c21c", "yellow"),
            ("#c0202a", "red"),
            ("#2a3fae", "blue"),
            ("#7a3a9c", "violet"),
            ("#e6701a", "orange"),
        )
        self.assertEqual(self.named(*((c, 0.2) for c in colours)).name, "polychromatic")

    def test_a_full_fit_within_half_a_step_and_none_at_two(self):
        # (60 - d) / 45.
        found = schemes_of(
            tuple(
                swatch(h, n, s) for h, n, s in (("#c0202a", "red", 0.6), ("#e6701a", "orange", 0.4))
            )
        )
        for one in found:
            self.assertAlmostEqual(one.fit, min(1.0, max(0.0, (60 - one.off_degrees) / 45)))
        self.assertEqual(sorted(s.off_degrees for s in found), [s.off_degrees for s in found])

    def test_a_light_that_makes_no_other_scheme_leaves_no_doubt(self):
        palette = (swatch("#c0202a", "red", 1.0),)
        found = scheme_of(palette)
        self.assertEqual(in_doubt(found, palette, 4.0).under_other_light, "")
        identity = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
        self.assertEqual(relit(palette[0], identity).shown, "#c0202a")


if __name__ == "__main__":
    unittest.main()
