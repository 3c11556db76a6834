"""Views of one piece matched by its container, on drawn pictures whose lengths are known."""

import unittest

import cv2
import numpy as np

from juniper.colour import Swatch
from juniper.measures import surface_of
from juniper.measures.matching import (
    MATCHING,
    depth_of,
    doubt_of_view,
    front_over,
    lean_of,
    mirrored,
    unlike_share,
)
from juniper.measures.surface import View
from juniper.scene.container.datum import given_datum
from juniper.scene.parts import Label
from juniper.scene.scene import Raster

RED, ROSE, BLUE = (45.0, 60.0, 35.0), (50.0, 58.0, 25.0), (35.0, 20.0, -50.0)


def seen(high=180, box=(-60, 60, 240), half=30) -> View:
    """A container `high` px with a rim 2 x `half` wide, and a rectangle of plant over it from
    `box[0]` to `box[1]` beside the axis, `box[2]` px high.
    """
    labels = np.full((520, 540), int(Label.BACKDROP), np.uint8)
    x, foot = 270, 500
    rim = foot - high
    left, right, up = box
    cv2.rectangle(labels, (x - half, rim), (x + half, foot - 1), int(Label.CONTAINER), -1)
    cv2.rectangle(labels, (x + left, rim - up), (x + right, rim - 1), int(Label.PLANT), -1)
    datum = given_datum((x, rim), (x, foot), (x - half, rim), (x + half, rim))
    return View(
        surface_of(Raster(labels, np.zeros_like(labels), np.full_like(labels, 60), 1.0)),
        datum,
        None,
    )


def swatches(*colours):
    return tuple(Swatch("flower", lab, "#808080", "red", share) for lab, share in colours)


class Aside(unittest.TestCase):
    def of(self, side, front):
        return {f.name: f for f in (depth_of(side, front), lean_of(side))}

    def test_depth_over_width_whatever_the_distance_of_the_two_pictures(self):
        found = self.of(seen(90, (-30, 30, 120), 15), seen(180, (-120, 120, 240)))
        # 60 / 90 deep over 240 / 180 wide is a half (arithmetic).
        self.assertAlmostEqual(found["depth_ratio"].value, 0.5, delta=0.01)
        self.assertEqual(found["depth_ratio"].view, "side")

    def test_what_leans_to_the_front_leans_to_the_right_of_the_picture(self):
        upright = self.of(seen(), seen())["leans_out"].value
        self.assertAlmostEqual(upright, 0, delta=0.5)
        out = self.of(seen(box=(0, 120, 240)), seen())["leans_out"].value
        # The upper third's middle is 60 px out and 200 px up: atan(60 / 200) (arithmetic).
        self.assertAlmostEqual(out, 16.7, delta=0.5)
        self.assertLess(self.of(seen(box=(-120, 0, 240)), seen())["leans_out"].value, -16)

    def test_nothing_over_the_rim_is_not_measured(self):
        low = seen(box=(-60, 60, 1))
        self.assertFalse(depth_of(low, seen()).measured or lean_of(low).measured)


class OnePiece(unittest.TestCase):
    def doubt(self, name, front, other, ours=(), theirs=()):
        return doubt_of_view(name, (front, swatches(*ours)), (other, swatches(*theirs)))

    def test_the_same_piece_from_nearer(self):
        for name in ("side", "back", "seated"):
            self.assertEqual(self.doubt(name, seen(), seen(90, (-30, 30, 120), 15)), "")

    def test_another_height_is_told(self):
        # The limit is e to .3, so 1.35 times: 300 / 240 is under it and 340 / 240 over it.
        self.assertEqual(MATCHING.height, 0.3)
        self.assertEqual(self.doubt("side", seen(), seen(box=(-60, 60, 300))), "")
        said = self.doubt("side", seen(high=150), seen(150, (-60, 60, 340)))
        self.assertIn("2.3 container heights over the rim, in front 1.6", said)

    def test_another_vessel_is_told_but_not_from_the_side(self):
        broad = seen(half=48)
        self.assertIn("its rim is 0.53", self.doubt("back", seen(), broad))
        self.assertEqual(self.doubt("side", seen(), broad), "")

    def test_flowers_of_other_colours_are_told(self):
        red = ((RED, 0.7), (ROSE, 0.3))
        self.assertEqual(unlike_share(swatches(*red), swatches((ROSE, 1.0))), 0)
        mixed = unlike_share(swatches(*red), swatches((RED, 0.6), (BLUE, 0.4)))
        self.assertAlmostEqual(mixed, 0.4)
        self.assertIn("40 % of its flowers", self.doubt(
            "back", seen(), seen(), red, ((RED, 0.6), (BLUE, 0.4))
        ))  # fmt: skip
        few = ((RED, 0.7), (BLUE, 0.3))
        self.assertEqual(self.doubt("back", seen(), seen(), red, few), "")

    def test_a_back_of_leaves_alone_is_no_doubt(self):
        self.assertEqual(self.doubt("back", seen(), seen(), ((RED, 1.0),)), "")


class Laid(unittest.TestCase):
    def test_from_behind_left_and_right_change_places(self):
        datum = seen().datum
        at = mirrored(datum) @ [270 + 40, 320, 1.0]
        np.testing.assert_allclose(at, (230, 320))
        edge = front_over("back", seen(box=(-20, 120, 240)), seen(90).datum)
        # Half as large, and turned: 120 px to the right becomes 60 to the left.
        self.assertAlmostEqual(edge[:, 0].min(), 270 - 60, delta=1.5)
        self.assertAlmostEqual(edge[:, 0].max(), 270 + 10, delta=1.5)
        seat = front_over("seated", seen(box=(-20, 120, 240)), seen(90).datum)
        self.assertAlmostEqual(seat[:, 0].max(), 270 + 60, delta=1.5)
