"""Spacing, gradation, groups, open space, texture, crossing stems and what hangs, on drawn pieces
whose figures are worked by hand.
"""

import math
import unittest
from dataclasses import replace

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import spearmanr

from juniper.colour import Swatch
from juniper.measures import View, lines, measure, placing, space, surface_of
from juniper.measures.colours import ASKED, Asked, colour_findings
from juniper.measures.tests.test_measures import DATUM, raster, view
from juniper.measures.texture import texture_of
from juniper.scene import Bloom, Label, Scene
from juniper.scene.stems import Stem

RIM = 300.5
BOX = np.array([[200, 300], [200, 100], [340, 100], [340, 300]])


def bloom(x, up, radius=10.0, role="mass", **more):
    """A bloom so far right of the axis and over the rim, pixels."""
    return Bloom((270.5 + x, RIM - up), radius, "#c02030", "red", 1, role, **more)


class Spacing(unittest.TestCase):
    def test_blooms_of_a_square_grid_are_even(self):
        grid = [bloom(x, y) for x in (0, 40, 80) for y in (0, 40, 80)]
        self.assertAlmostEqual(placing.spacing(tuple(grid)), 0.0)

    def test_a_coefficient_of_variation_by_hand(self):
        # Along a line at 0, 30, 60, 90 and 150: nearest neighbours at 30, 30, 30, 30 and 60: mean
        # 36, standard deviation 12.
        row = tuple(bloom(x, 0) for x in (0, 30, 60, 90, 150))
        self.assertAlmostEqual(placing.spacing(row), 12 / 36)
        self.assertTrue(math.isnan(placing.spacing(row[:4])))
        self.assertTrue(math.isnan(placing.spacing((*row[:4], bloom(150, 0, role="filler")))))


class Gradation(unittest.TestCase):
    def graded(self, *rows):
        return placing.gradation(
            view(), tuple(bloom(x, up, radius) for x, (up, radius) in enumerate(rows))
        )

    def test_largest_below_is_one(self):
        self.assertAlmostEqual(self.graded((10, 30), (40, 25), (80, 20), (120, 15), (160, 10)), 1.0)
        self.assertAlmostEqual(
            self.graded((10, 10), (40, 15), (80, 20), (120, 25), (160, 30)), -1.0
        )
        self.assertTrue(math.isnan(self.graded(*[(10 * n, 20) for n in range(6)])))
        self.assertTrue(math.isnan(self.graded((10, 30), (40, 25))))

    @given(st.lists(st.tuples(st.integers(0, 9), st.integers(5, 12)), min_size=5, max_size=12))
    @settings(max_examples=60)
    def test_ranks_as_the_reference_library_has_them(self, rows):
        found = self.graded(*rows)
        ups, sizes = zip(*rows, strict=True)
        if len(set(ups)) == 1 or len(set(sizes)) == 1:
            self.assertTrue(math.isnan(found))
        else:
            self.assertAlmostEqual(found, -spearmanr(ups, sizes).statistic)


TWO_ONE_TWO = (bloom(-80, 30), bloom(-60, 40), bloom(0, 70), bloom(60, 160), bloom(80, 150))
HEAP = tuple(bloom(x, up) for x, up in ((0, 50), (22, 50), (11, 70), (-11, 70), (0, 90)))


class Groups(unittest.TestCase):
    def test_two_a_space_one_a_space_two(self):
        groups = placing.groups_of(TWO_ONE_TWO)
        self.assertEqual(sorted(map(len, groups)), [1, 2, 2])
        self.assertEqual(placing.clear_groups(groups), 1.0)

    def test_a_heap_of_five_is_no_grouping_and_neither_are_five_apart(self):
        self.assertEqual([len(g) for g in placing.groups_of(HEAP)], [5])
        self.assertEqual(placing.clear_groups(placing.groups_of(HEAP)), 0.0)
        apart = placing.groups_of(tuple(bloom(60 * n, 50) for n in range(5)))
        self.assertEqual((len(apart), placing.clear_groups(apart)), (5, 0.0))
        self.assertTrue(math.isnan(placing.clear_groups(placing.groups_of((bloom(0, 0),)))))
        self.assertEqual(placing.groups_of(()), ())

    def test_how_near_is_together_and_how_far_is_a_space(self):
        # Blooms 20 broad: together up to .35 of that edge to edge, 7 pixels; a space from .6 of it
        # on, 12 pixels.
        for gap, count in ((6.9, 1), (7.1, 2)):
            self.assertEqual(len(placing.groups_of((bloom(0, 0), bloom(20 + gap, 0)))), count)
        for gap, share in ((11.9, 0.0), (12.1, 1.0)):
            groups = placing.groups_of((bloom(0, 0), bloom(20, 0), bloom(40 + gap, 0)))
            self.assertEqual(placing.clear_groups(groups), share, gap)

    def test_a_group_of_four_does_not_read_at_a_glance(self):
        groups = placing.groups_of(
            (*(bloom(20 * n, 0) for n in range(4)), bloom(150, 0), bloom(170, 0))
        )
        self.assertAlmostEqual(placing.clear_groups(groups), 2 / 6)

    def test_pairs_counterweigh_about_the_axis(self):
        # Pairs of equal area 70 left and 70 right.
        self.assertAlmostEqual(
            placing.groups_answer(view(), placing.groups_of(TWO_ONE_TWO)), 1.0, delta=0.01
        )
        # 70 left, 35 right: half. Both to one side: none. One pair has nothing to answer it.
        half = (*TWO_ONE_TWO[:2], bloom(25, 160), bloom(45, 150))
        self.assertAlmostEqual(
            placing.groups_answer(view(), placing.groups_of(half)), 0.5, delta=0.01
        )
        one_side = (bloom(60, 30), bloom(80, 40), bloom(60, 160), bloom(80, 150))
        self.assertEqual(placing.groups_answer(view(), placing.groups_of(one_side)), 0.0)
        self.assertTrue(
            math.isnan(placing.groups_answer(view(), placing.groups_of(TWO_ONE_TWO[:3])))
        )
        # Within half a breadth of the axis a group weighs on neither side.
        middle = (bloom(-10, 30), bloom(10, 30), bloom(-12, 160), bloom(11, 160))
        self.assertEqual(placing.groups_answer(view(), placing.groups_of(middle)), 1.0)


class Spaces(unittest.TestCase):
    def test_the_open_room_of_an_l_is_in_one_piece(self):
        # An L of 200 x 200 whose arms are 40 broad: the span is the square less the triangle over
        # its two tips.
        ell = view(
            np.array([[200, 300], [200, 100], [240, 100], [240, 260], [400, 260], [400, 300]])
        )
        share, one, places = space.open_space(ell)
        hull = 200 * 200 - 160 * 160 / 2
        self.assertAlmostEqual(share, (160 * 160 / 2) / hull, delta=0.04)
        self.assertGreater(one, 0.97)
        self.assertGreater(len(places), 2)

    def test_two_equal_rooms_hold_half_each(self):
        tee = view(
            np.array(
                [
                    [250, 300],
                    [250, 140],
                    [150, 140],
                    [150, 100],
                    [390, 100],
                    [390, 140],
                    [290, 140],
                    [290, 300],
                ]
            )
        )
        share, one, _ = space.open_space(tee)
        self.assertGreater(share, 0.3)
        self.assertAlmostEqual(one, 0.5, delta=0.05)

    def test_a_full_box_leaves_none(self):
        share, one, places = space.open_space(view(BOX))
        self.assertLess(share, space.SPACE.least_open)
        self.assertTrue(math.isnan(one))
        self.assertEqual((len(places), space.drawn_open(places)), (0, ()))

    def test_what_hangs_below_the_rim(self):
        # A box 141 wide from 200 over the rim to 60 below it beside the vessel: .05 of 180 lies
        # over the lip.
        trailing = view(np.array([[302, 360], [302, 100], [380, 100], [380, 360]]))
        self.assertAlmostEqual(space.hangs_to(trailing), 60 / 180, delta=0.01)
        self.assertAlmostEqual(space.hanging(trailing), (60 - 9) / 261, delta=0.01)
        self.assertEqual((space.hangs_to(view(BOX)), space.hanging(view(BOX))), (0.0, 0.0))
        self.assertEqual([m.kind for m in space.drawn_hanging(trailing)], ["dashed", "bracket"])

    def test_a_plant_that_takes_up_the_shape_of_its_vessel(self):
        box = view(BOX)
        self.assertGreater(space.echo(box), 0.97)  # both boxes
        # A triangle covers half of a square.
        self.assertAlmostEqual(
            space.echo(view(np.array([[200, 300], [270, 100], [340, 300]]))), 0.5, delta=0.03
        )
        # Upside down counts as well: a funnel over a vessel that narrows downward.
        labels = raster(np.array([[200, 100], [340, 100], [290, 300], [250, 300]])).labels
        labels[labels == Label.CONTAINER] = 0
        cv2.fillPoly(
            labels, [np.array([[220, 302], [320, 302], [284, 480], [256, 480]])], Label.CONTAINER
        )
        self.assertGreater(
            space.echo(View(surface_of(replace(raster(), labels=labels)), DATUM, None)), 0.9
        )
        self.assertTrue(
            math.isnan(
                space.echo(
                    View(
                        surface_of(
                            replace(
                                raster(BOX),
                                labels=np.where(raster(BOX).labels == 2, 0, raster(BOX).labels),
                            )
                        ),
                        DATUM,
                        None,
                    )
                )
            )
        )


class Textures(unittest.TestCase):
    def test_stripes_against_a_plain_half(self):
        light = np.full((500, 500), 50, np.float32)
        # edges every four pixels, two pixels of each steep
        light[:, 250:][:, (np.arange(250) // 4) % 2 == 0] = 80
        found = texture_of(light, np.ones((500, 500), bool))
        self.assertAlmostEqual(found.broad, 0.0)
        self.assertAlmostEqual(found.fine, 0.5, delta=0.06)
        self.assertAlmostEqual(found.contrast, found.fine - found.broad)
        self.assertGreater(found.fine_at[0], 250)
        self.assertLess(found.broad_at[0], 250)

    def test_an_even_material_has_no_contrast(self):
        plain = texture_of(np.full((500, 500), 50, np.float32), np.ones((500, 500), bool))
        self.assertEqual(plain.contrast, 0.0)
        self.assertIsNone(texture_of(np.zeros((60, 60)), np.zeros((60, 60), bool)))
        # too few windows
        self.assertIsNone(texture_of(np.zeros((60, 60)), np.ones((60, 60), bool)))

    def test_soft_shade_is_no_edge(self):
        ramp = np.tile(np.linspace(20, 90, 500), (500, 1)).astype(np.float32)
        self.assertEqual(texture_of(ramp, np.ones((500, 500), bool)).fine, 0.0)


class Crossing(unittest.TestCase):
    def crossed(self, *stems):
        return lines.crossing_stems(view(BOX), stems)

    def test_two_that_cross_over_the_rim(self):
        one, other = (
            Stem((340.5, 100.5), (305.5, 200.5), (270.5, 300.5)),
            Stem((270.5, 100.5), (305.5, 200.5), (340.5, 300.5)),
        )
        found = self.crossed(one, other)
        np.testing.assert_allclose(found, [(305.5, 200.5)], atol=0.5)
        self.assertEqual([m.label for m in lines.drawn_crossing(found)], ["crossing"])

    def test_those_that_spring_from_one_point_or_run_side_by_side_do_not(self):
        foot = (270.5, 300.5)
        fan = [Stem((x, 100.5), ((x + 270.5) / 2, 200.5), foot) for x in (200.5, 270.5, 340.5)]
        self.assertEqual(self.crossed(*fan), [])
        self.assertEqual(
            self.crossed(*(Stem((x, 100.5), (x, 200.5), (x, 300.5)) for x in (250.5, 290.5))), []
        )
        # Within .12 of plant height of a foot (24 pixels) they spring from there.
        near = (
            Stem((340.5, 100.5), (305.5, 200.5), (265.5, 300.5)),
            Stem((200.5, 100.5), (238.5, 200.5), (275.5, 300.5)),
        )
        self.assertEqual(self.crossed(*near), [])

    def test_below_the_rim_stems_may_cross(self):
        one, other = (
            Stem((290.5, 250.5), (280.5, 300.5), (250.5, 400.5)),
            Stem((250.5, 250.5), (262.5, 300.5), (290.5, 400.5)),
        )
        self.assertEqual(self.crossed(one, other), [])


class Bridges(unittest.TestCase):
    def found(self, at, asked=ASKED):
        """A bloom half yellow, half violet at `at`, and a plain yellow one on the left."""
        surface = raster(BOX)
        flowers = np.zeros_like(surface.flowers)
        cv2.circle(flowers, (220, 200), 15, 1, -1)
        x, y = at
        cv2.circle(flowers, (x, y), 15, 1, -1)
        flowers[y - 15 : y + 16, x : x + 16][flowers[y - 15 : y + 16, x : x + 16] > 0] = 2
        cv2.circle(flowers, (320, 280), 12, 2, -1)
        palette = (
            Swatch("flower", (80, 5, 80), "#e8c81f", "yellow", 0.6),
            Swatch("flower", (30, 45, -45), "#6a2f9c", "violet", 0.4),
        )
        blooms = tuple(
            Bloom((px + 0.5, py + 0.5), r, "#888888", "", n)
            for px, py, r, n in ((220, 200, 15, 1), (x, y, 15, 1), (320, 280, 12, 2))
        )
        seen = surface_of(replace(surface, flowers=flowers))
        return colour_findings(
            View(seen, DATUM, None), Scene(DATUM, None, blooms, palette, 520, 520), asked
        )

    def test_a_palette_from_the_cloth(self):
        # violet holds .4 of the flowers and is of the cloth's own step
        found = self.found((260, 200), Asked(setting="#5d2f8c"))["setting_share"]
        self.assertAlmostEqual(found.value, 0.4)
        self.assertIn("40 % picks it up", found.arithmetic)
        none = self.found((260, 200), Asked(setting="#1d7a4c"))["setting_share"]
        self.assertEqual(none.value, 0.0)
        self.assertFalse(self.found((260, 200))["setting_share"].measured)

    def test_a_bridge_stands_beside_what_it_joins_or_does_not(self):
        near = self.found((260, 200))  # 40 from the yellow one: (15 + 15) x 1.5 = 45
        self.assertEqual((near["bridge_blooms"].value, near["bridge_beside"].value), (1.0, 1.0))
        far = self.found((275, 200))
        self.assertEqual((far["bridge_blooms"].value, far["bridge_beside"].value), (1.0, 0.0))


class Together(unittest.TestCase):
    def test_the_measures_are_there_with_their_words(self):
        scene = Scene(DATUM, (270.5, 260.5), TWO_ONE_TWO, (), 520, 520)
        found = measure(surface_of(raster(BOX)), scene, DATUM, (270.5, 260.5), stems=())
        self.assertEqual((found["groups"].value, found["clear_groups"].value), (3.0, 1.0))
        self.assertIn("groups of 2, 2, 1", found["clear_groups"].arithmetic)
        self.assertFalse(found["one_space"].applies)
        self.assertEqual(
            found["stems_crossing"].reason,
            "fewer than two main lines were made out: draw them with the stem tool",
        )
        few = measure(
            surface_of(raster(BOX)),
            replace(scene, blooms=TWO_ONE_TWO[:1]),
            DATUM,
            (270.5, 260.5),
            stems=(),
        )
        self.assertEqual(
            [few[n].applies for n in ("clear_groups", "groups_answer", "spacing", "gradation")],
            [False] * 4,
        )


if __name__ == "__main__":
    unittest.main()
