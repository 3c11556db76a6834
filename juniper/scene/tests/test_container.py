import unittest

import numpy as np

from juniper.photobooth.accuracy import iou
from juniper.scene.container import Profile, band_of, edges_of, find_profile, profile_of, see_wall
from juniper.scene.datum import NoContainer, find_datum, foot_ellipse
from juniper.scene.separation import CONTAINER, PLANT, separate
from juniper.scene.tests.drawn import SHAPES, drawn

FOCAL = 1080.0


def profile_in(picture, standing=None):
    stands = (picture.container | picture.plant).astype(np.float32) if standing is None else standing
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
            found = find_profile(picture.lab, picture.container | picture.plant, np.full(480, 470.0), np.tan(np.radians(-lean)))
            self.assertAlmostEqual(np.degrees(np.arctan(-found.slope)), lean, delta=1.0)

    def test_a_vase_that_hardly_stands_off_the_wall(self):
        # Of the standing map only the plant is sure: the edges must tell of the vase.
        picture = drawn("cylinder", glaze=(86, 1, 5), wall=(54, 1, 6))
        found = profile_in(picture, picture.plant + 0.4 * picture.container.astype(np.float32))
        self.assertAlmostEqual(float(found.axis_at(460)), 240, delta=3.0)

    def test_nothing_is_found_where_nothing_stands(self):
        self.assertIsNone(find_profile(drawn().lab, np.zeros((640, 480), np.float32), np.full(480, 470.0)))

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
        lab[picture.container] = np.array([(80, 0, 0), (30, -30, 30), (60, 20, 40)], np.float32)[spots][picture.container]
        self.assertTrue(see_wall(lab, profile_in(picture), picture.container | picture.plant).clear)


class WholeWay(unittest.TestCase):
    def test_parts_and_datum_of_drawn_pieces(self):
        for shape in SHAPES:
            picture = drawn(shape)
            parts = separate(picture.lab, picture.pixels)
            with self.subTest(shape):
                self.assertGreater(iou(parts.labels == CONTAINER, picture.container), 0.85)
                self.assertGreater(iou(parts.labels == PLANT, picture.plant), 0.78)
                datum = find_datum(parts.labels, parts.profile, parts.wall, FOCAL, parts.horizon)
                self.assertTrue(abs(datum.rim[1] - 370) < 10 or datum.needs_check)
                self.assertAlmostEqual(datum.base[1], 560, delta=7)
                self.assertAlmostEqual(datum.rim[0], 240, delta=3)

    def test_what_looks_like_wall_is_an_outline_too(self):
        for shape in SHAPES:
            picture = drawn(shape, leaves=False)
            found = profile_of(picture.lab, picture.container & ~picture.plant)
            with self.subTest(shape):
                self.assertAlmostEqual(float(found.axis_at(460)), 240, delta=2.0)
                self.assertAlmostEqual(found.rows[-1], 370, delta=12)
                self.assertAlmostEqual(found.foot[1], 560, delta=12)

    def test_what_is_uneven_or_in_pieces_is_none(self):
        picture = drawn("cylinder")
        uneven = picture.container.copy()
        uneven[:] = False
        for top, left in ((370, 130), (430, 240), (500, 185)):
            uneven[top : top + 70, left : left + 112] = True
        self.assertIsNone(profile_of(picture.lab, uneven))
        uneven = picture.container.copy()
        uneven[430:490] = False
        self.assertIsNone(profile_of(picture.lab, uneven))
        self.assertIsNone(profile_of(picture.lab, np.zeros_like(uneven)))

    def test_glass_is_doubted(self):
        picture = drawn()
        parts = separate(picture.lab, picture.pixels)
        clear = type(parts.wall)(parts.wall.mask, parts.wall.plant, parts.wall.outline, True)
        self.assertTrue(find_datum(parts.labels, parts.profile, clear, FOCAL).needs_check)

    def test_no_outline_no_datum(self):
        with self.assertRaises(NoContainer):
            find_datum(np.zeros((40, 40), np.uint8), None, None, FOCAL)


class Foot(unittest.TestCase):
    def test_half_an_ellipse_is_read_back(self):
        # A circle seen from an angle is an ellipse whose axes' ratio is the sine of that angle (geometry).
        for openness in (0.08, 0.17, 0.3):
            x, y = np.meshgrid(np.arange(-60, 61), np.arange(-40, 150))
            inside = (y >= 0) | ((x / 60) ** 2 + (y / (60 * openness)) ** 2 <= 1)
            level, found = foot_ellipse(y[inside].astype(float), x[inside].astype(float), 150.0)
            with self.subTest(openness):
                self.assertAlmostEqual(found, openness, delta=0.03)
                self.assertAlmostEqual(level, 0.0, delta=2.0)
