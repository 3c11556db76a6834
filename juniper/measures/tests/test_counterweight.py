"""What to add opposite: the scales solved by hand, and the answer tried on a drawn piece."""

import unittest
from dataclasses import replace

from juniper.measures import View, measure, surface_of
from juniper.measures.counterweight import COUNTERWEIGHT, scales_of
from juniper.scene.tests.test_trying import measured, piece
from juniper.scene.trying import Move, apply_change


class CounterweightTests(unittest.TestCase):
    def setUp(self):
        # The right-hand bloom stands far out on the left; none is focal, so that each can be had
        # again.
        start = piece()
        blooms = tuple(replace(b, role="mass") for b in start.scene.blooms)
        self.piece = apply_change(
            replace(start, scene=replace(start.scene, blooms=blooms)),
            Move((290.0, 268.0), (60.0, 200.0)),
        )
        self.found = measured(self.piece)
        self.scales = self.found.scales

    def test_the_sides_are_those_of_the_measures(self):
        left, right = self.scales.weight
        self.assertAlmostEqual(
            left / (left + right), self.found["left_weight_share"].value, places=9
        )
        self.assertAlmostEqual(
            self.scales.moment[0] / self.scales.moment[1],
            self.found["moment_ratio"].value,
            places=9,
        )

    def test_what_is_inside_needs_nothing(self):
        self.assertIsNone(self.scales.inside("left_weight_share", 0.5, 0.45, 0.55))
        self.assertIsNone(self.scales.inside("height_ratio", 3.0, 1.5, 2.0))

    def test_the_addition_tried_on_the_picture_brings_it_inside(self):
        for name, share in (
            ("moment_ratio", 0.93),
            ("left_weight_share", 0.985),
            ("left_area_share", 0.985),
        ):
            value = self.found[name].value
            edge = share * value
            added = self.scales.inside(name, value, 0.0, edge)
            self.assertEqual(added.side, "right")
            after = self.piece
            for place in added.places:
                after = apply_change(after, Move(added.like.centre, place, another=True))
            self.assertGreaterEqual(added.count, 1)
            self.assertLess(measured(after)[name].value, edge + 0.25 * (value - edge), name)

    def test_the_light_side_may_be_the_left(self):
        value = self.found["moment_ratio"].value
        self.assertEqual(self.scales.inside("moment_ratio", value, 1.2 * value, 99.0).side, "left")

    def test_more_than_can_be_added_is_said(self):
        value = self.found["left_weight_share"].value
        added = self.scales.inside("left_weight_share", value, 0.0, 0.2)
        self.assertEqual((added.count, added.places), (COUNTERWEIGHT.most + 1, ()))
        self.assertIn("take weight off the left", added.words(0.1, 300.0))

    def test_words_give_count_size_distance_and_side(self):
        added = self.scales.inside(
            "moment_ratio",
            self.found["moment_ratio"].value,
            0.0,
            0.93 * self.found["moment_ratio"].value,
        )
        words = added.words(0.25, 300.0)
        self.assertIn(f"{2 * added.like.radius * 0.25:.0f} cm across", words)
        self.assertIn(f"about {0.25 * added.distance:.0f} cm right of the axis", words)

    def test_without_blooms_there_is_nothing_to_count_by(self):
        bare = replace(self.piece.scene, blooms=())
        view = View(surface_of(self.piece.raster), self.piece.datum, None)
        self.assertIsNone(scales_of(view, bare))
        self.assertIsNone(
            measure(surface_of(self.piece.raster), bare, self.piece.datum, None).scales
        )
