import unittest

import numpy as np

from juniper.evaluation.accuracy import iou
from juniper.scene.container.datum import NoContainer
from juniper.scene.container.foot import foot_ellipse
from juniper.scene.container.profile import Profile, band_of, edges_of, find_profile
from juniper.scene.container.reading import find_datum, foot_of, seen_of
from juniper.scene.container.wall import see_wall
from juniper.scene.parts import Label
from juniper.scene.segment.classical import separate
from juniper.scene.tests.drawn import SHAPES, drawn

FOCAL = 1080.0


def profile_in(picture, standing=None):
    stands = (
        (picture.container | picture.plant).astype(np.float32) if standing is None else standing
    )
    return find_profile(picture.lab, stands, np.full(picture.lab.shape[1], 470.0))


class Outline(unittest.TestCase):
    def test_every_shape_is_followed(self):
        for shape, half in SHAPES.items():
            picture = drawn(shape)
            found = profile_in(picture)
            with self.subTest(shape):
                self.assertAlmostEqual(float(found.axis_at(460)), 240, delta=2.0)
                self.assertAlmostEqual(found.foot[1], 560, delta=18)
                rows = np.arange(400, 545)
                true = np.interp(rows, np.linspace(370, 560, len(half)), half[::-1])
                seen = np.interp(rows, found.rows[::-1], found.half[::-1])
                self.assertLess(np.median(np.abs(seen - true)), 2.5)

    def test_the_axis_leans_with_the_camera(self):
        for lean in (-3.0, 2.0):
            picture = drawn("flared", lean=lean)
            found = find_profile(
                picture.lab,
                picture.container | picture.plant,
                np.full(480, 470.0),
                np.tan(np.radians(-lean)),
            )
            self.assertAlmostEqual(np.degrees(np.arctan(-found.slope)), lean, delta=1.0)

    def test_a_vase_that_hardly_stands_off_the_wall(self):
        # Of the standing map only the plant is sure: the edges must tell of the vase.
        picture = drawn("cylinder", glaze=(86, 1, 5), wall=(54, 1, 6))
        found = profile_in(picture, picture.plant + 0.4 * picture.container.astype(np.float32))
        self.assertAlmostEqual(float(found.axis_at(460)), 240, delta=3.0)

    def test_nothing_is_found_where_nothing_stands(self):
        self.assertIsNone(
            find_profile(drawn().lab, np.zeros((640, 480), np.float32), np.full(480, 470.0))
        )

    def test_scaled_and_back(self):
        one = Profile((100.0, 300.0), 0.02, np.linspace(20, 40, 90), np.ones(90), 5.0)
        back = one.scaled(0.5).scaled(2.0)
        np.testing.assert_allclose(back.foot, one.foot)
        np.testing.assert_allclose(back.half, one.half, atol=0.4)

    def test_the_band_is_the_outline_filled(self):
        one = Profile((100.0, 300.0), 0.0, np.full(80, 25.0), np.ones(80), 5.0)
        band, across = band_of(one, (400, 200))
        self.assertEqual(int(band.sum()), 80 * 51)
        self.assertEqual(int(band_of(one, (400, 200), 0.5, 0.1)[0].sum()), (80 + 40 + 8) * 51)
        self.assertAlmostEqual(float(across[260, 125]), 1.0)

    def test_a_sharp_edge_is_stronger_than_a_soft_one(self):
        lab = np.full((60, 120, 3), 50.0, np.float32)
        lab[:, 30:] += (20.0, 0.0, 0.0)
        lab[:, 70:110, 0] += np.linspace(0, 20, 40)
        edges, _ = edges_of(lab)
        self.assertGreater(edges[30, 28:32].max(), 3 * edges[30, 75:105].max())


class SeenWall(unittest.TestCase):
    def test_lit_and_shaded_side_are_one_wall(self):
        for shape in SHAPES:
            picture = drawn(shape)
            wall = see_wall(picture.lab, profile_in(picture), picture.container | picture.plant)
            with self.subTest(shape):
                self.assertGreater(iou(wall.mask, picture.container), 0.88)
                self.assertFalse(wall.clear)
                self.assertFalse((wall.mask & wall.plant).any())

    def test_leaves_over_the_rim_are_plant(self):
        picture = drawn("cylinder")
        wall = see_wall(picture.lab, profile_in(picture), picture.container | picture.plant)
        before = picture.plant & wall.outline & (np.arange(640) > 372)[:, None]
        self.assertGreater((wall.plant & before).sum() / before.sum(), 0.75)

    def test_what_cannot_be_one_wall_is_seen_through(self):
        picture = drawn("cylinder")
        rng = np.random.default_rng(1)
        lab = picture.lab.copy()
        spots = rng.integers(0, 3, (640, 480))
        lab[picture.container] = np.array([(80, 0, 0), (30, -30, 30), (60, 20, 40)], np.float32)[
            spots
        ][picture.container]
        self.assertTrue(see_wall(lab, profile_in(picture), picture.container | picture.plant).clear)


class WithoutNetworks(unittest.TestCase):
    """The classical engine, which answers where no network can be run."""

    def test_parts_and_datum_of_drawn_pieces(self):
        for shape in SHAPES:
            picture = drawn(shape)
            parts = separate(picture.lab)
            with self.subTest(shape):
                self.assertGreater(iou(parts.labels == Label.CONTAINER, picture.container), 0.8)
                self.assertGreater(iou(parts.labels == Label.PLANT, picture.plant), 0.75)
                seen = seen_of(parts.wall.mask, parts.profile)
                datum = find_datum(
                    seen, foot_of(seen, FOCAL), None, np.array([240.0, 180.0]), FOCAL
                )
                self.assertTrue(abs(datum.rim[1] - 370) < 12 or datum.needs_check)
                self.assertAlmostEqual(datum.base[1], 560, delta=8)
                self.assertAlmostEqual(datum.rim[0], 240, delta=3)

    def test_no_outline_no_datum(self):
        with self.assertRaises(NoContainer):
            seen_of(np.zeros((40, 40), bool), None)


class Foot(unittest.TestCase):
    def test_half_an_ellipse_is_read_back(self):
        # A circle seen from an angle is an ellipse whose axes' ratio is the sine of that angle
        # (geometry).
        for openness in (0.08, 0.17, 0.3):
            x, y = np.meshgrid(np.arange(-60, 61), np.arange(-40, 150))
            inside = (y >= 0) | ((x / 60) ** 2 + (y / (60 * openness)) ** 2 <= 1)
            level, found = foot_ellipse(y[inside].astype(float), x[inside].astype(float), 150.0)
            with self.subTest(openness):
                self.assertAlmostEqual(found, openness, delta=0.03)
                self.assertAlmostEqual(level, 0.0, delta=2.0)
