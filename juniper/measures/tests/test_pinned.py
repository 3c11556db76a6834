"""Measures, step by step: figures worked by hand on drawn shapes, so that a changed constant or a
turned sign shows.
"""

import math
import unittest
from dataclasses import replace

import cv2
import numpy as np
from shapely import Polygon
from shapely.ops import unary_union

from juniper.colour.heaviness import visual_weight
from juniper.measures import View, balance, lines, surface_of
from juniper.measures.allround import STRAYS, TURNED
from juniper.measures.counterweight import _covered, scales_of
from juniper.measures.form import outlines
from juniper.measures.measuring import seen_from_the_side
from juniper.measures.tests.test_measures import DATUM, raster, view
from juniper.rules import FORMS
from juniper.scene import Bloom, Label, Scene
from juniper.scene.container.datum import HandleUncertainty

BOX = np.array([[200, 300], [200, 100], [340, 100], [340, 300]])
# Areas of the taught outlines, in half widths times plant heights, and how far each lies below the
# rim (as drawn: juniper.measures.form).
OUTLINES = {
    "symmetrical triangle": (1.04, -0.08),
    "right-angle L": (0.899, -0.1),
    "crescent": (0.744, -0.199),
    "S-curve": (1.043, -0.388),
    "vertical": (1.52, -0.05),
    "horizontal": (1.44, -0.15),
    "round": (1.731, -0.1),
    "fan": (1.43, -0.04),
    "three-stem": (0.942, 0.0),
    "cascade": (2.547, -1.4),
}


class AllRound(unittest.TestCase):
    def test_how_far_from_well_a_view_is(self):
        for name, value, strays in (
            ("left_area_share", 0.7, 0.2),
            ("left_weight_share", 0.3, 0.2),
            ("heavier_share", 0.6, 0.6),
            ("moment_ratio", 2.0, math.log(2)),
            ("moment_ratio", 0.5, math.log(2)),
            ("moment_ratio", 0.0, math.inf),
            ("outline_symmetry", 0.8, -0.8),
            ("rim_cover", 0.3, -0.3),
            ("largest_gap", 0.1, 0.1),
            ("bare_stem", 0.2, 0.2),
            ("form_overlap", 0.7, -0.7),
            ("weight_height", 0.4, 0.4),
        ):
            self.assertAlmostEqual(STRAYS[name](value), strays, msg=name)

    def test_left_from_behind_is_right_in_front(self):
        for name, value, turned in (
            ("left_area_share", 0.3, 0.7),
            ("left_weight_share", 0.6, 0.4),
            ("moment_ratio", 4.0, 0.25),
            ("moment_ratio", 0.0, math.inf),
        ):
            self.assertAlmostEqual(TURNED[name](value), turned)


class Balanced(unittest.TestCase):
    def test_moments_of_a_box_by_hand(self):
        # Columns 200 to 340 about an axis at 270.5: 70.5 to the left, 70.5 to the right.
        left, right = balance.moments(view(BOX))
        self.assertAlmostEqual(left / right, 1.0, delta=0.03)
        aside = view(BOX + [30, 0])  # 40.5 left, 100.5 right: moments as the squares
        self.assertAlmostEqual(balance.moment_ratio(aside), (40.5 / 100.5) ** 2, delta=0.01)
        self.assertAlmostEqual(balance.left_area_share(aside), 40.5 / 141, delta=0.005)
        self.assertAlmostEqual(balance.heavier_share(aside), 100.5 / 141, delta=0.005)
        self.assertAlmostEqual(balance.weight_height(aside), 0.5, delta=0.01)

    def test_weight_by_lightness(self):
        # Ou et al. 2004: heavy-light -2.1 + .05 (100 - L*), as 1 + (it + 2.1) / 4: 1 for white,
        # 1.625 for L* 50, 2.25 for black.
        for light, weight in ((100, 1.0), (50, 1.625), (0, 2.25)):
            self.assertAlmostEqual(float(visual_weight(light)), weight)
        shades = raster(BOX)
        light = np.full(shades.labels.shape, 100, np.uint8)
        light[:, 271:] = 0  # the right half black
        seen = View(surface_of(replace(shades, light=light)), DATUM, None)
        self.assertAlmostEqual(balance.left_weight_share(seen), 71 / (71 + 2.25 * 70), delta=0.01)

    def test_weight_by_colour_where_a_rule_set_reads_it(self):
        # Left half orange, right half blue, of one lightness: equal by lightness, and by hand by
        # colour.
        flowers = np.where(raster(BOX).labels == Label.PLANT, 1, 0).astype(np.uint8)
        flowers[:, 271:] *= 2
        surface = surface_of(replace(raster(BOX), flowers=flowers))
        plain, coloured = (
            View(surface, DATUM, None),
            View(surface, DATUM, None, pulls=(0.0, 0.85, 0.05)),
        )
        self.assertAlmostEqual(balance.left_weight_share(plain), 71 / 141, delta=0.01)
        left, right = 71 * (1.625 + 0.85), 70 * (1.625 + 0.05)
        self.assertAlmostEqual(
            balance.left_weight_share(coloured), left / (left + right), delta=0.01
        )
        self.assertAlmostEqual(balance.moment_ratio(coloured), left / right, delta=0.06)
        self.assertEqual(coloured.shifted(sideways=1).pulls, coloured.pulls)
        self.assertAlmostEqual(balance.left_area_share(coloured), balance.left_area_share(plain))
        # Nothing weighs less than a quarter, and a colour past the palette's end weighs as its
        # last.
        self.assertAlmostEqual(
            float(View(surface, DATUM, None, pulls=(0.0, -5.0)).weight.max()), 0.25
        )

    def test_a_foot_over_a_base_point_that_lies_too_low(self):
        labels = raster().labels
        labels[labels == Label.CONTAINER] = 0
        cv2.fillPoly(
            labels, [np.array([[210, 300], [330, 300], [280, 480], [260, 480]])], Label.CONTAINER
        )
        low = DATUM.moved(base=(270.5, 500.5))
        self.assertAlmostEqual(
            balance.half_foot(View(surface_of(replace(raster(), labels=labels)), low, None)),
            12.5,
            delta=2.5,
        )

    def test_the_side_view_and_its_uncertainty(self):
        side = surface_of(raster(BOX))
        datum = replace(DATUM, spread=HandleUncertainty(1, 1, 7))
        found = seen_from_the_side(side, datum)
        self.assertAlmostEqual(found.value, 0.5, delta=0.01)
        self.assertAlmostEqual(found.uncertainty, 7 / 141, delta=0.004)  # seven columns of 141
        self.assertAlmostEqual(
            seen_from_the_side(
                surface_of(raster(BOX + [30, 0])), datum, front_is_right=False
            ).value,
            100.5 / 141,
            delta=0.01,
        )


class Tips(unittest.TestCase):
    def bumps(self, *heights):
        piece = [[150, 300], [150, 200]]
        for n, up in enumerate(heights):
            x = 180 + 70 * n
            piece += [[x - 12, 200], [x, 200 - up], [x + 12, 200]]
        return view(np.array([*piece, [390, 200], [390, 300]]))

    def test_a_tip_stands_clear_from_a_fiftieth_of_plant_height_on(self):
        # A plant of 180: a bump of 2 is none, one of 12 is.
        self.assertEqual(len(self.bumps(80, 2).tips), len(self.bumps(80).tips))
        self.assertEqual(len(self.bumps(80, 12).tips), len(self.bumps(80).tips) + 1)

    def test_levels_a_tenth_apart(self):
        self.assertEqual(lines.level_count(self.bumps(100, 60, 30)), 3)
        self.assertEqual(lines.level_count(self.bumps(100, 94, 60)), 2)

    def test_the_step_between_neighbours(self):
        self.assertAlmostEqual(lines.tip_step(self.bumps(100, 70)), 30 / 200, delta=0.02)

    def test_nothing_naked_is_nought(self):
        self.assertEqual(lines.bare_stem(view(BOX), []), 0.0)
        self.assertAlmostEqual(
            lines.bare_stem(view(BOX), [np.array([[0, 0], [30, 40]]), np.array([[0, 0], [0, 20]])]),
            50 / 200,
            delta=0.005,
        )


class Outlines(unittest.TestCase):
    def test_each_form_is_as_it_is_drawn(self):
        for form in FORMS:
            if form in ("free", "garland"):
                continue
            whole = unary_union([Polygon(part).buffer(0) for part in outlines(form)])
            left, low, right, high = whole.bounds
            self.assertEqual(
                (round(left, 6), round(right, 6), round(high, 6)), (-1.0, 1.0, 1.0), form
            )
            area, below = OUTLINES[form]
            self.assertAlmostEqual(whole.area, area, delta=0.002, msg=form)
            self.assertAlmostEqual(low, below, delta=0.002, msg=form)


class Counterweight(unittest.TestCase):
    def test_how_much_of_a_disc_is_covered(self):
        surface = surface_of(raster(BOX))
        self.assertEqual(_covered(surface, (270.0, 200.0), 20.0), 1.0)
        self.assertEqual(_covered(surface, (60.0, 60.0), 20.0), 0.0)
        self.assertAlmostEqual(_covered(surface, (200.0, 200.0), 20.0), 0.5, delta=0.03)
        # nothing can be set outside the picture
        self.assertEqual(_covered(surface, (-300.0, 50.0), 20.0), 1.0)

    def test_the_bloom_it_counts_by(self):
        def bloom(radius, role):
            return Bloom((270.0, 200.0), radius, "#888888", "grey", 0, role)

        def like(*blooms):
            return scales_of(view(BOX), Scene(DATUM, None, blooms, (), 520, 520)).like.radius

        self.assertEqual(
            like(bloom(5.0, "mass"), bloom(9.0, "filler"), bloom(30.0, "focal")), 9.0
        )  # the upper quarter of what fills
        self.assertEqual(like(bloom(30.0, "focal"), bloom(40.0, "line")), 30.0)
        self.assertEqual(like(*(bloom(float(r), "mass") for r in (1, 2, 3, 4, 5, 6, 7, 8))), 7.0)
        scales = scales_of(view(BOX), Scene(DATUM, None, (bloom(10.0, "mass"),), (), 520, 520))
        self.assertAlmostEqual(scales.like_area, math.pi * 100)
        # L* 60 where no palette tells
        self.assertAlmostEqual(scales.like_weight, math.pi * 100 * 1.5)
        self.assertAlmostEqual(scales.weight[0] + scales.weight[1], view(BOX).total)
        self.assertAlmostEqual(scales.reach[0] + scales.reach[1], 140, delta=1)


if __name__ == "__main__":
    unittest.main()
