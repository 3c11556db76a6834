"""Corrections laid over what was found: strokes of the brush, and blooms changed one by one."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from juniper.camera import Shot, frame, take
from juniper.photograph import read_photograph
from juniper.scene import BloomChange, Label, NoBloom, Raster, Stroke, amend, see
from juniper.scene.amending import bloom_at, labels_under_stroke

WALL, LEAF = (190, 188, 184), (60, 110, 50)


def leaf_before_wall():
    """A round leaf 80 pixels across before a plain wall, of which only the left half was found:
    (labels, pixels, true leaf).
    """
    y, x = np.mgrid[0:240, 0:240]
    leaf = np.hypot(x - 120, y - 120) < 40
    rng = np.random.default_rng(5)
    pixels = np.where(leaf[..., None], LEAF, WALL) + rng.normal(0, 4, (240, 240, 3))
    labels = np.where(leaf & (x < 120), Label.PLANT, 0).astype(np.uint8)
    return labels, np.clip(pixels, 0, 255).astype(np.uint8), leaf


class Brush(unittest.TestCase):
    def test_the_outline_settles_on_the_edge_about_a_stroke(self):
        labels, pixels, leaf = leaf_before_wall()
        out = labels_under_stroke(
            labels,
            pixels,
            Stroke(((135.0, 100.0), (140.0, 120.0), (135.0, 140.0)), 12.0, True),
            1.0,
        )
        found = out == Label.PLANT
        self.assertGreater((found & leaf).sum() / (found | leaf).sum(), 0.97)

    def test_what_is_not_plant_goes_and_takes_the_label_beside_it(self):
        labels, pixels, leaf = leaf_before_wall()
        labels[leaf] = Label.PLANT
        labels[60:100, 170:200] = Label.PLANT  # a patch of wall taken for plant
        labels[60:100, 200:230] = Label.CONTAINER
        out = labels_under_stroke(
            labels, pixels, Stroke(((178.0, 70.0), (178.0, 90.0)), 6.0, False), 1.0
        )
        self.assertFalse((out[60:100, 172:185] == Label.PLANT).any())
        self.assertTrue((out[leaf] == Label.PLANT).all())
        self.assertTrue((out[60:100, 200:230] == Label.CONTAINER).all())

    def test_nothing_far_from_the_stroke_changes(self):
        labels, pixels, _ = leaf_before_wall()
        out = labels_under_stroke(labels, pixels, Stroke(((150.0, 120.0),), 4.0, True), 1.0)
        y, x = np.nonzero(out != labels)
        self.assertGreater(len(x), 30)
        self.assertLess(np.hypot(x - 150, y - 120).max(), 4 * (1 + 2.5) + 2)

    def test_a_stroke_is_in_the_photographs_pixels_whatever_the_rasters_size(self):
        labels, pixels, _ = leaf_before_wall()
        here = labels_under_stroke(labels, pixels, Stroke(((140.0, 120.0),), 8.0, True), 1.0)
        there = labels_under_stroke(labels, pixels, Stroke(((560.0, 480.0),), 32.0, True), 0.25)
        np.testing.assert_array_equal(here, there)

    def test_a_stroke_past_the_edge_of_the_picture(self):
        labels, pixels, _ = leaf_before_wall()
        for points in (((0.0, 0.0), (240.0, 0.0)), ((239.0, 239.0),)):
            self.assertEqual(
                labels_under_stroke(labels, pixels, Stroke(points, 5.0, True), 1.0).shape,
                labels.shape,
            )


class Pictures(unittest.TestCase):
    """On a picture of the roll, with its truth."""

    @classmethod
    def setUpClass(cls):
        cls.taken = take(frame(14), Shot(code="K7Q2M9XA"))
        cls.photograph = read_photograph(cls.taken.data)
        cls.scene, cls.raster = see(cls.photograph)

    def amended(self, change, scene=None, raster=None):
        return amend(scene or self.scene, raster or self.raster, self.photograph.pixels, change)

    def test_strokes_over_what_was_missed_bring_the_outline_nearer_the_truth(self):
        true = (
            cv2.resize(
                self.taken.labels, self.raster.labels.shape[::-1], interpolation=cv2.INTER_NEAREST
            )
            == Label.PLANT
        )
        scene, raster = self.scene, self.raster
        missed = cv2.morphologyEx(
            (true & (raster.labels != Label.PLANT)).astype(np.uint8),
            cv2.MORPH_OPEN,
            np.ones((2, 2)),
        )
        _, parts, stats, middles = cv2.connectedComponentsWithStats(missed)
        for which in 1 + np.argsort(-stats[1:, cv2.CC_STAT_AREA])[:8]:
            ys, xs = np.nonzero(parts == which)
            at = np.argmin(np.hypot(xs - middles[which][0], ys - middles[which][1]))
            spot = (float(xs[at] + 0.5) / raster.scale, float(ys[at] + 0.5) / raster.scale)
            scene, raster = self.amended(Stroke((spot,), 4 / raster.scale, True), scene, raster)

        def off(labels):
            return int(((labels == Label.PLANT) != true).sum())

        self.assertLess(off(raster.labels), off(self.raster.labels))
        self.assertTrue(((raster.flowers > 0) <= (raster.labels == Label.PLANT)).all())
        self.assertAlmostEqual(
            sum(s.share for s in scene.palette if s.part == "flower"), 1.0, places=6
        )

    def test_a_bloom_can_be_added_and_taken_out(self):
        where = (self.scene.width * 0.1, self.scene.height * 0.1)
        more, _ = self.amended(BloomChange("add", where, radius=25.0))
        self.assertEqual(len(more.blooms), len(self.scene.blooms) + 1)
        self.assertEqual((more.blooms[-1].centre, more.blooms[-1].radius), (where, 25.0))
        fewer, _ = self.amended(BloomChange("remove", where), more)
        self.assertEqual(fewer.blooms, self.scene.blooms)

    def test_halves_and_joined_ones_keep_the_area(self):
        one = max(self.scene.blooms, key=lambda b: b.radius)
        area = sum(b.radius**2 for b in self.scene.blooms)
        split, _ = self.amended(BloomChange("split", one.centre))
        self.assertEqual(len(split.blooms), len(self.scene.blooms) + 1)
        self.assertAlmostEqual(sum(b.radius**2 for b in split.blooms), area, delta=1e-6 * area)
        a, b = split.blooms[-2:]
        joined, _ = self.amended(BloomChange("merge", a.centre, to=b.centre), split)
        self.assertAlmostEqual(sum(b.radius**2 for b in joined.blooms), area, delta=1e-6 * area)
        self.assertLess(np.hypot(*np.subtract(joined.blooms[-1].centre, one.centre)), 1.0)

    def test_a_role_given_moves_the_focal_point(self):
        high = min((b for b in self.scene.blooms if b.role != "focal"), key=lambda b: b.centre[1])
        scene, _ = self.amended(BloomChange("role", high.centre, role="focal"))
        self.assertEqual(scene.blooms[self.scene.blooms.index(high)].role, "focal")
        self.assertLess(scene.focal[1], self.scene.focal[1])

    def test_a_group_is_changed_at_once(self):
        first, *others = self.scene.blooms[:3]
        places = tuple(b.centre for b in others)
        leaves, _ = self.amended(BloomChange("role", first.centre, role="foliage", others=places))
        self.assertEqual(
            [b.role for b in leaves.blooms[:3]] + [b.role for b in leaves.blooms[3:]],
            ["foliage"] * 3 + [b.role for b in self.scene.blooms[3:]],
        )
        gone, _ = self.amended(BloomChange("remove", first.centre, others=places))
        self.assertEqual(gone.blooms, self.scene.blooms[3:])
        # one of a group that is no longer there is passed over; a group without any is said
        again, _ = self.amended(
            BloomChange("remove", first.centre, others=((2.0, 2.0),)), self.scene
        )
        self.assertEqual(again.blooms, self.scene.blooms[1:])
        with self.assertRaises(NoBloom):
            self.amended(BloomChange("remove", (2.0, 2.0), others=((3.0, 3.0),)))
        with self.assertRaisesRegex(ValueError, "group"):
            self.amended(BloomChange("split", first.centre, others=places))

    def test_a_bloom_that_is_not_there_is_said(self):
        with self.assertRaisesRegex(NoBloom, "Point at the middle"):
            self.amended(BloomChange("remove", (2.0, 2.0)))
        with self.assertRaisesRegex(ValueError, "focal"):
            self.amended(BloomChange("role", self.scene.blooms[0].centre, role="hero"))
        with self.assertRaises(NoBloom):
            self.amended(
                BloomChange("merge", self.scene.blooms[0].centre),
                replace(self.scene, blooms=self.scene.blooms[:1]),
            )

    def test_the_smallest_bloom_under_a_click_is_meant(self):
        large = replace(self.scene.blooms[0], centre=(100.0, 100.0), radius=60.0)
        small = replace(large, centre=(120.0, 100.0), radius=12.0)
        self.assertEqual(bloom_at((large, small), (121.0, 101.0)), 1)
        self.assertEqual(bloom_at((large, small), (80.0, 100.0)), 0)

    def test_ellipses_have_the_blooms_area(self):
        for bloom in self.scene.blooms:
            long, short = bloom.half_axes
            self.assertGreaterEqual(long, short)
            self.assertAlmostEqual(long * short, bloom.radius**2, delta=1e-6 * bloom.radius**2)

    def test_a_picture_without_flower_colour_says_so(self):
        bare = replace(
            self.scene, palette=tuple(s for s in self.scene.palette if s.part != "flower")
        )
        with self.assertRaisesRegex(ValueError, "No flower colour"):
            self.amended(BloomChange("add", (300.0, 300.0)), bare)
        empty = Raster(
            np.zeros_like(self.raster.labels),
            self.raster.flowers * 0,
            self.raster.light,
            self.raster.scale,
        )
        scene, raster = self.amended(Stroke(((300.0, 300.0),), 10.0, True), bare, empty)
        self.assertTrue((raster.labels == Label.PLANT).any())
        self.assertEqual(scene.blooms, ())
