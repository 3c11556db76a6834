"""Changes tried on the picture, on a drawn piece whose lengths are known by construction."""

import unittest

import cv2
import numpy as np

from juniper.colour.palette import Swatch
from juniper.measures import measure, surface_of
from juniper.scene import Bloom, ContainerShape, Datum, Label, NoBloom, Raster, Scene, Stem
from juniper.scene.trying import Cut, Move, Swap, TakeOut, Trial, apply_change, cut_to

RIM, BASE, TIP = (200.0, 300.0), (200.0, 400.0), (200.0, 100.0)


def piece() -> Trial:
    """A vase 100 px high, a low mass, one stem 200 px long with a red head, and a yellow bloom on
    each side.
    """
    labels = np.full((480, 400), Label.BACKDROP, np.uint8)
    labels[380:] = Label.TABLE
    labels[300:400, 160:240] = Label.CONTAINER
    plant, flowers = np.zeros((480, 400), np.uint8), np.zeros((480, 400), np.uint8)
    cv2.ellipse(plant, (200, 290), (110, 40), 0, 180, 360, 1, -1)
    cv2.line(plant, (200, 290), (200, 112), 1, 5)
    for centre, radius, swatch in (((200, 112), 12, 1), ((130, 270), 18, 2), ((290, 268), 18, 2)):
        cv2.circle(plant, centre, radius, 1, -1)
        cv2.circle(flowers, centre, radius, swatch, -1)
    labels[plant > 0] = Label.PLANT
    tones = np.array([(190, 188, 184), (150, 120, 90), (70, 90, 120), (50, 110, 50)], np.uint8)
    pixels = tones[[0, 1, 2, 3]][
        np.searchsorted([Label.BACKDROP, Label.TABLE, Label.CONTAINER, Label.PLANT], labels)
    ]
    pixels[flowers == 1], pixels[flowers == 2] = (200, 40, 40), (230, 210, 40)
    light = cv2.cvtColor(pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)[..., 0].astype(
        np.uint8
    )
    petals = [
        Swatch("flower", (44, 60, 40), "#c82828", "red", 0.2),
        Swatch("flower", (84, -5, 75), "#e6d228", "yellow", 0.8),
    ]
    blooms = (
        Bloom((200.0, 112.0), 12.0, "#c82828", "red", 1),
        Bloom((130.0, 270.0), 18.0, "#e6d228", "yellow", 2, "focal"),
        Bloom((290.0, 268.0), 18.0, "#e6d228", "yellow", 2),
    )
    datum = Datum(RIM, BASE, (160.0, 300.0), (240.0, 300.0))
    scene = Scene(datum, (130.0, 270.0), blooms, tuple(petals), 400, 480)
    stem = Stem(TIP, (200.0, 200.0), RIM, clear=150.0)
    return Trial.of(scene, Raster(labels, flowers, light, 1.0), pixels, datum, scene.focal, (stem,))


def measured(trial: Trial):
    return measure(
        surface_of(trial.raster), trial.scene, trial.datum, trial.focal, 25.0, "", trial.stems
    )


class TryingTests(unittest.TestCase):
    def setUp(self):
        self.piece = piece()
        self.before = measured(self.piece)

    def test_a_stem_cut_by_a_length_stands_lower_by_that_length(self):
        for length in (15, 40, 90):
            after = apply_change(self.piece, Cut(TIP, length))
            lost = 100 * (self.before["height_ratio"].value - measured(after)["height_ratio"].value)
            self.assertAlmostEqual(lost, length, delta=1.5)
            self.assertAlmostEqual(after.stems[0].length, 200 - length, delta=0.5)
            self.assertEqual(after.scene.blooms[0].centre, (200.0, 112.0 + length))
            self.assertAlmostEqual(
                (after.raster.flowers == 1).sum(), (self.piece.raster.flowers == 1).sum(), delta=25
            )

    def test_cutting_never_raises_the_height(self):
        high = self.before["height_ratio"].value
        for at in ((200.0, 100.0), (292.0, 250.0), (110.0, 262.0)):
            for length in (5, 20, 35):
                self.assertLessEqual(
                    measured(apply_change(self.piece, Cut(at, length)))["height_ratio"].value,
                    high + 1e-9,
                )

    def test_a_stem_is_not_made_longer_nor_cut_below_the_rim(self):
        for length in (0.0, -20.0, 198.0):
            with self.assertRaisesRegex(ValueError, "cannot be made longer"):
                apply_change(self.piece, Cut(TIP, length))

    def test_where_the_tip_is_dragged_to_tells_the_length(self):
        self.assertAlmostEqual(cut_to(self.piece.stems[0], (215.0, 160.0)), 60, delta=3)

    def test_a_bloom_carried_across_takes_its_weight_along(self):
        after = apply_change(self.piece, Move((290.0, 268.0), (60.0, 240.0)))
        found, was = measured(after), self.before
        self.assertGreater(found["left_area_share"].value, was["left_area_share"].value + 0.05)
        self.assertGreater(found["moment_ratio"].value, was["moment_ratio"].value)
        self.assertEqual(after.scene.blooms[2].centre, (60.0, 240.0))
        self.assertEqual(after.focal, (130.0, 270.0))
        self.assertEqual(after.raster.labels[240, 60], Label.PLANT)
        self.assertEqual(after.raster.flowers[268, 290], 0)
        self.assertAlmostEqual(
            (after.raster.flowers == 2).sum(), (self.piece.raster.flowers == 2).sum(), delta=120
        )

    def test_the_focal_point_goes_with_its_bloom(self):
        after = apply_change(self.piece, Move((130.0, 270.0), (200.0, 270.0)))
        self.assertEqual(after.focal, (200.0, 270.0))
        self.assertLess(measured(after)["focal_offset"].value, 0.02)

    def test_another_like_it_leaves_the_first(self):
        after = apply_change(self.piece, Move((200.0, 112.0), (60.0, 200.0), another=True))
        self.assertEqual(len(after.scene.blooms), 4)
        self.assertEqual((after.raster.flowers[112, 200], after.raster.flowers[200, 60]), (1, 1))

    def test_a_bloom_taken_out_leaves_what_is_about_it(self):
        after = apply_change(self.piece, TakeOut((130.0, 270.0)))
        self.assertEqual(len(after.scene.blooms), 2)
        self.assertEqual(
            (after.raster.flowers == 2).sum(), (self.piece.raster.flowers[:, 250:] == 2).sum()
        )
        shares = [s.share for s in after.scene.palette]
        self.assertAlmostEqual(sum(shares), 1)
        self.assertLess(shares[1], 0.8)
        self.assertNotEqual(after.focal, (130.0, 270.0))
        with self.assertRaises(NoBloom):
            apply_change(self.piece, TakeOut((10.0, 10.0)))

    def test_another_container_changes_what_the_height_is_measured_by(self):
        after = apply_change(self.piece, Swap(ContainerShape((0.2,) * 5), 150.0))
        found = measured(after)
        self.assertAlmostEqual(
            found["height_ratio"].value, self.before["height_ratio"].value * 100 / 150, places=6
        )
        self.assertAlmostEqual(after.datum.rim_width, 60)
        self.assertEqual(after.datum.base, (200.0, 450.0))
        self.assertEqual(after.raster.labels[440, 200], Label.CONTAINER)
        self.assertNotEqual(after.raster.labels[350, 165], Label.CONTAINER)

    def test_nothing_of_the_first_is_changed(self):
        was = [
            a.copy()
            for a in (self.piece.raster.labels, self.piece.raster.flowers, self.piece.pixels)
        ]
        after = apply_change(
            apply_change(self.piece, Cut(TIP, 40)), Swap(ContainerShape((0.4,) * 5), 60.0)
        )
        for before, now in zip(
            was,
            (self.piece.raster.labels, self.piece.raster.flowers, self.piece.pixels),
            strict=True,
        ):
            self.assertTrue((before == now).all())
        differs = (after.pixels != self.piece.pixels).any(axis=2)
        self.assertTrue((after.touched | ~differs).all())

    def test_a_bloom_is_not_set_outside_the_picture(self):
        with self.assertRaisesRegex(ValueError, "outside"):
            apply_change(self.piece, Move((290.0, 268.0), (420.0, 268.0)))
