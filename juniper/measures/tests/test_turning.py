"""Views from above, from a seat and from behind, on drawn pictures worked out by hand."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from juniper.measures import surface_of
from juniper.measures.finding import finding_of
from juniper.measures.surface import View
from juniper.measures.tests.test_measures import DATUM
from juniper.measures.turning import (
    ABOVE,
    SEAT,
    blooms_behind,
    evenness,
    seen_from_a_seat,
    seen_from_above,
)
from juniper.rules.tests.test_rules import findings
from juniper.scene import Scene
from juniper.scene.blooms import Bloom
from juniper.scene.parts import Label
from juniper.scene.scene import Raster


def from_above(*parts) -> Raster:
    labels = np.full((400, 400), int(Label.BACKDROP), np.uint8)
    for draw in parts:
        draw(labels)
    return Raster(labels, np.zeros_like(labels), np.full_like(labels, 60), 1.0)


def disc(labels):
    cv2.circle(labels, (200, 200), 120, int(Label.PLANT), -1)


def quarter_out(labels):
    labels[200:, 200:] = Label.BACKDROP


class Above(unittest.TestCase):
    def test_a_disc_reaches_alike_and_is_full_all_round(self):
        even, emptiest, middle = evenness(surface_of(from_above(disc)))
        self.assertLess(even, 0.02)
        self.assertGreater(emptiest, 0.97)
        np.testing.assert_allclose(middle, (200, 200), atol=2)

    def test_an_ellipse_twice_as_long_does_not(self):
        def ellipse(labels):
            cv2.ellipse(labels, (200, 200), (140, 70), 0, 0, 360, int(Label.PLANT), -1)

        self.assertGreater(evenness(surface_of(from_above(ellipse)))[0], 0.2)

    def test_a_quarter_that_is_missing_is_the_emptiest(self):
        self.assertLess(evenness(surface_of(from_above(disc, quarter_out)))[1], 0.35)

    def test_its_findings_say_that_they_are_from_above(self):
        found = seen_from_above(surface_of(from_above(disc)))
        self.assertEqual([f.name for f in found], list(ABOVE))
        self.assertEqual({f.view for f in found}, {"top"})
        bare = seen_from_above(surface_of(from_above()))
        self.assertFalse(bare[0].measured)


class Seat(unittest.TestCase):
    """A container 100 px high of 20 cm: .2 cm to a pixel, eyes 45 cm up at 225 px over the foot."""

    def of(self, *boxes, blooms=()):
        labels = np.full((520, 520), int(Label.BACKDROP), np.uint8)
        foot = DATUM.base
        for low, high, half in boxes:
            x, y = int(foot[0]), int(foot[1])
            labels[y - high : y - low, x - half : x + half] = Label.PLANT
        raster = Raster(labels, np.zeros_like(labels), np.full_like(labels, 60), 1.0)
        datum = replace(DATUM, rim=(foot[0], foot[1] - 100.0))
        scene = Scene(datum, None, tuple(blooms), (), 520, 520)
        return {
            f.name: f for f in seen_from_a_seat(View(surface_of(raster), datum, None), scene, 0.2)
        }

    def test_what_hides_a_face_opposite(self):
        # The window is 24 by 18 cm: 120 by 90 px about 225 px over the foot. Plant 90 px broad over
        # its lower half hides half of it (arithmetic).
        half = self.of((100, 225, 45))
        self.assertAlmostEqual(half["sight_blocked"].value, 0.5, delta=0.02)
        low = self.of((100, 160, 45))
        self.assertAlmostEqual(low["sight_blocked"].value, 0.0, delta=0.01)

    def test_blooms_over_the_line_of_sight(self):
        x, y = DATUM.base

        def bloom(up, radius):
            return Bloom((x, y - up), radius, "#b5202a", "red", "mass")

        found = self.of((100, 300, 45), blooms=(bloom(260, 20.0), bloom(140, 10.0)))
        self.assertAlmostEqual(found["over_eye_line"].value, 400 / 500)

    def test_without_a_scale_nothing_is_told(self):
        view = View(surface_of(from_above(disc)), DATUM, None)
        scene = Scene(DATUM, None, (), (), 400, 400)
        found = seen_from_a_seat(view, scene, None)
        self.assertEqual([f.name for f in found], list(SEAT))
        self.assertFalse(any(f.measured for f in found))


class Behind(unittest.TestCase):
    def test_flowers_behind_beside_those_in_front(self):
        front = findings().joined(finding_of("foliage_share", 0.5, 0.05, ""))
        back = findings().joined(finding_of("foliage_share", 0.8, 0.05, ""))
        # 20 % behind over 50 % in front (arithmetic).
        self.assertAlmostEqual(blooms_behind(front, back).value, 0.4)
        bare = findings().joined(finding_of("foliage_share", 1.0, 0.05, ""))
        self.assertFalse(blooms_behind(bare, back).measured)
