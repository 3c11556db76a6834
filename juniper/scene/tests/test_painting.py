"""Petal and leaf told by hand: florets that were taken for leaf, drawn and on the roll. Bounds:
common practice for a touch of the brush.
"""

import unittest
from unittest.mock import patch

import numpy as np

from juniper.camera import frame, take
from juniper.colour.palette import Swatch
from juniper.evaluation.colour_trials import true_colours
from juniper.photograph import read_photograph
from juniper.scene import Datum, Label, PetalStroke, Raster, Scene, correct, see
from juniper.scene.petals import LEAF, PETAL, PetalProbabilities
from juniper.scene.share_uncertainty import uncertain_areas

RED, WHITE, GREEN = (190, 40, 45), (228, 226, 220), (62, 112, 52)
RED_AS = Swatch("flower", (41.0, 58.0, 35.0), "#be282d", "red", 1.0)


def filler_among_leaves():
    """A red head and sixty white florets among green leaves, in light and shade, of which only the
    head was told from leaf: (scene, raster, pixels, look, true florets).
    """
    y, x = np.mgrid[0:400, 0:400]
    head = np.hypot(x - 300, y - 300) < 45
    florets = np.zeros((400, 400), bool)
    rng = np.random.default_rng(3)
    for cx, cy in rng.uniform(20, 380, (60, 2)):
        florets |= (np.hypot(x - cx, y - cy) < 5) & ~head
    pixels = np.full((400, 400, 3), GREEN, float)
    pixels[head], pixels[florets] = RED, WHITE
    pixels *= (1 - 0.45 * x / 400)[..., None]  # light from the left
    pixels = np.clip(pixels + rng.normal(0, 3, pixels.shape), 0, 255).astype(np.uint8)
    parts = np.full((6, 400, 400), 0.01, np.float32)
    parts[LEAF], parts[PETAL] = np.where(head, 0.05, 0.9), np.where(head, 0.9, 0.05)
    # seen as blurred, and as leaf rather
    near = florets | np.roll(florets, 3, 0) | np.roll(florets, 3, 1)
    parts[LEAF][near & ~head], parts[PETAL][near & ~head] = 0.65, 0.3
    look = PetalProbabilities(
        parts, np.zeros((400, 400), np.float32), np.zeros((2, 400, 400), np.float32), 0.0, 0.0, 1.0
    )
    raster = Raster(
        np.full((400, 400), Label.PLANT, np.uint8),
        head.astype(np.uint8),
        np.zeros((400, 400), np.uint8),
        0.5,
    )
    datum = Datum((400.0, 700.0), (400.0, 790.0), (350.0, 700.0), (450.0, 700.0))
    return Scene(datum, None, (), (RED_AS,), 800, 800), raster, pixels, look, florets


class Painting(unittest.TestCase):
    def setUp(self):
        self.scene, self.raster, self.pixels, look, self.florets = filler_among_leaves()
        looking = patch("juniper.scene.painting.looked_at", return_value=look)
        looking.start()
        self.addCleanup(looking.stop)
        ys, xs = np.nonzero(self.florets)
        # of the photograph, twice as large
        self.at = (2.0 * xs[len(xs) // 2], 2.0 * ys[len(xs) // 2])

    def paint(self, petal=True, alone=False, at=None, scene=None, raster=None):
        stroke = PetalStroke((at or self.at,), 6.0, petal, alone)
        return correct(scene or self.scene, raster or self.raster, self.pixels, stroke)

    def test_one_floret_touched_brings_the_others_in_light_and_shade(self):
        scene, raster = self.paint()
        found = raster.flowers == 2
        self.assertGreater((found & self.florets).sum() / (found | self.florets).sum(), 0.93)
        self.assertTrue((raster.flowers[self.raster.flowers == 1] == 1).all())
        red, white = (s for s in scene.palette if s.part == "flower")
        self.assertEqual((red.hue, white.hue), ("red", "white"))
        self.assertAlmostEqual(white.share, found.sum() / (raster.flowers > 0).sum())
        self.assertEqual({s.part for s in scene.palette}, {"flower", "foliage"})

    def test_alone_is_what_lies_under_the_brush(self):
        _, raster = self.paint(alone=True)
        y, x = np.nonzero(raster.flowers == 2)
        self.assertTrue(0 < len(x) < 60)
        self.assertLessEqual(np.hypot(x - self.at[0] / 2, y - self.at[1] / 2).max(), 4.3)

    def test_told_to_be_leaf_again_they_go_and_the_head_stays(self):
        scene, raster = self.paint()
        scene, raster = self.paint(petal=False, scene=scene, raster=raster)
        self.assertLess((raster.flowers == 2).sum(), 0.1 * self.florets.sum())
        self.assertTrue((raster.flowers[self.raster.flowers == 1] == 1).all())

    def test_more_of_a_colour_that_is_there_is_of_that_colour(self):
        raster = self.raster.flowers.copy()
        raster[:300] = 0  # the head's upper half was taken for leaf
        half = Raster(self.raster.labels, raster, self.raster.light, 0.5)
        scene, painted = self.paint(at=(600.0, 560.0), raster=half)
        self.assertEqual(sum(s.part == "flower" for s in scene.palette), 1)
        self.assertGreater((painted.flowers == 1).sum(), 0.95 * (self.raster.flowers == 1).sum())

    def test_beside_the_plant_it_says_what_to_do(self):
        labels = self.raster.labels.copy()
        labels[:40] = 0
        bare = Raster(labels, self.raster.flowers, self.raster.light, 0.5)
        with self.assertRaisesRegex(ValueError, "Brush it as plant first"):
            self.paint(at=(300.0, 20.0), raster=bare)

    def test_what_was_painted_is_in_doubt_no_more(self):
        before = self.scene.palette[0].doubt
        scene, _ = self.paint(alone=True)
        self.assertEqual(before, 0)
        red, white = (s for s in scene.palette if s.part == "flower")
        self.assertLess(red.doubt, 0.05)
        self.assertGreater(white.doubt, 0.1)  # the other florets may be as white
        scene, _ = self.paint()
        self.assertLess(
            sum(s.doubt for s in scene.palette if s.part == "flower"),
            0.6 * (red.doubt + white.doubt),
        )


class Doubts(unittest.TestCase):
    def test_near_things_count_by_how_near(self):
        # Hand-worked: 1 / (1 + e) = .269 of a pixel either way.
        odds, number = np.array([9.0, 1.0, -1.0, -9.0]), np.array([1, 1, 0, 0])
        self.assertAlmostEqual(
            float(uncertain_areas(odds, number, np.full((4, 3), 50.0), (RED_AS,))[0]),
            2 * 0.269 / 2,
            places=3,
        )

    def test_what_goes_against_its_odds_was_told_by_a_person(self):
        odds, number = np.array([9.0, -1.0]), np.array([1, 1])
        (area,) = uncertain_areas(odds, number, np.full((2, 3), 50.0), (RED_AS,))
        self.assertLess(float(area), 0.001)

    def test_without_flowers_there_is_none(self):
        self.assertEqual(len(uncertain_areas(np.ones(3), np.zeros(3, int), np.ones((3, 3)), ())), 0)


class OnTheRoll(unittest.TestCase):
    def test_a_floret_of_the_filler_touched_brings_its_share_nearer_the_truth(self):
        # Piece 14 has red heads in white filler; the truth is the traced scene's.
        taken = take(frame(14))
        photograph = read_photograph(taken.data)
        scene, raster = see(photograph)
        wanted = sum(share for _, hue, share, _ in true_colours(taken.truth) if hue == "white")
        florets = [b for b in taken.truth["blooms"] if b["hue"] == "white" and b["visible_px"] > 40]

        def missed(bloom):
            x, y = (round(v * raster.scale) for v in bloom["centre"])
            return raster.labels[y, x] == Label.PLANT and raster.flowers[y, x] == 0

        def white(scene):
            return sum(s.share for s in scene.palette if s.part == "flower" and s.hue == "white")

        def whitest(bloom):
            """The lightest place of a spray that counts as leaf, and how light it is: there a
            person touches.
            """
            x, y = (round(v * raster.scale) for v in bloom["centre"])
            near = round(bloom["radius"] * raster.scale)
            part = np.s_[y - near : y + near, x - near : x + near]
            leaf = (raster.labels[part] == Label.PLANT) & (raster.flowers[part] == 0)
            there = np.where(leaf, raster.light[part], 0)
            row, column = np.unravel_index(int(there.argmax()), there.shape)
            return (
                int(there.max()),
                ((x - near + column) / raster.scale, (y - near + row) / raster.scale),
                bloom,
            )

        _, at, one = max((whitest(b) for b in filter(missed, florets)), key=lambda found: found[0])
        stroke = PetalStroke((at,), 0.25 * one["radius"], True)
        after, _ = correct(scene, raster, photograph.pixels, stroke)
        self.assertLess(abs(white(after) - wanted), 0.85 * abs(white(scene) - wanted))
