import unittest

import cv2
import numpy as np

from juniper.camera import Shot, frame, take
from juniper.camera.containers import SHELF, half_widths
from juniper.camera.roll import EMPTY, frames
from juniper.photograph import read_photograph
from juniper.scene import NothingFound, see, see_empty
from juniper.scene.container.profile import Profile
from juniper.scene.container.shape import SHAPE, ContainerShape, fitted, shape_of

PLAIN_KINDS = (
    "tall cylinder",
    "flared vase",
    "urn on a foot",
    "jug",
    "bottle",
    "ginger jar",
    "bud vase",
)


def true_half(name) -> np.ndarray:
    """Half widths of a container of the simulated shelf at even levels, in heights: its own drawing
    in centimetres.
    """
    one = SHELF[name]
    z, r = half_widths(one.profile, one.height_cm)
    return np.interp(np.linspace(0, one.height_cm, SHAPE.levels), z, r) / one.height_cm


def profile(half, height, seen=1.0, miss=0.0):
    """The lower part of a shape as an outline of so many pixels."""
    levels = np.arange(round(seen * height))
    wide = height * np.interp(levels / height, np.linspace(0, 1, len(half)), half) + miss
    return Profile((100.0, 300.0), 0.0, wide, np.full(len(levels), 0.9), 50.0)


class Fitting(unittest.TestCase):
    def test_the_height_is_the_scale_at_which_widths_and_levels_agree(self):
        for name in PLAIN_KINDS:
            half = true_half(name)
            for seen in (0.5, 0.8, 1.0):
                fit = fitted(profile(half, 240, seen), 0.0, ContainerShape(tuple(half)))
                with self.subTest(name, seen=seen):
                    self.assertAlmostEqual(fit.height / 240, 1, delta=0.02)
                    self.assertTrue(fit.good)

    def test_another_container_is_no_good_fit(self):
        fit = fitted(
            profile(true_half("ginger jar"), 240, 0.8),
            0.0,
            ContainerShape(tuple(true_half("bottle"))),
        )
        self.assertFalse(fit.good)

    def test_too_little_of_the_sides_is_no_good_fit(self):
        half = true_half("flared vase")
        self.assertFalse(fitted(profile(half, 240, 0.03), 0.0, ContainerShape(tuple(half))).good)

    def test_a_shape_needs_a_height(self):
        with self.assertRaises(ValueError):
            shape_of(profile(true_half("jug"), 240), 100.0, 101.0)


class EmptyContainers(unittest.TestCase):
    """The shelf's photographs against the drawings in centimetres from which they were traced."""

    @classmethod
    def setUpClass(cls):
        cls.seen = {}
        for number, name in enumerate(SHELF):
            picture = take(frame(number, EMPTY), Shot(code="K7Q2M9XA"))
            cls.seen[name] = see_empty(read_photograph(picture.data)), picture.truth

    def test_every_container_of_the_shelf_was_photographed(self):
        self.assertEqual([f.truth["container"]["kind"] for f in frames(EMPTY)], list(SHELF))
        self.assertNotIn(EMPTY, {f.view for f in frames()})

    def test_the_shape_is_that_of_the_drawing(self):
        for name in PLAIN_KINDS:
            miss = np.abs(np.array(self.seen[name][0].shape.half) / true_half(name) - 1)
            with self.subTest(name):
                self.assertLess(np.median(miss), 0.03)

    def test_rim_base_and_height_by_the_card(self):
        for name in PLAIN_KINDS:
            seen, truth = self.seen[name]
            c = truth["container"]
            high = np.hypot(*np.subtract(c["rim"], c["base"]))
            with self.subTest(name):
                self.assertLess(np.hypot(*np.subtract(seen.rim, c["rim"])) / high, 0.02)
                self.assertLess(np.hypot(*np.subtract(seen.base, c["base"])) / high, 0.02)
                self.assertAlmostEqual(seen.height_cm / c["height_cm"], 1, delta=0.03)

    def test_a_hidden_rim_is_laid_where_the_shape_has_it(self):
        # Two pieces whose flowers hide the neck.
        for number, name in ((12, "flared vase"), (15, "ginger jar")):
            picture = take(frame(number), Shot())
            c = picture.truth["container"]
            high = np.hypot(*np.subtract(c["rim"], c["base"]))
            photo = read_photograph(picture.data)

            alone, known = (
                see(photo, known=shape)[0].datum for shape in (None, self.seen[name][0].shape)
            )
            with self.subTest(name):
                self.assertLess(abs(known.rim[1] - c["rim"][1]) / high, 0.03)
                self.assertLess(known.spread.rim, alone.spread.rim)

    def test_another_container_than_the_one_on_the_shelf_is_doubted(self):
        photo = read_photograph(take(frame(0), Shot()).data)
        datum = see(photo, known=self.seen["ginger jar"][0].shape)[0].datum
        self.assertTrue(any("shelf" in words for words in datum.doubts))
        self.assertLess(datum.confidence, see(photo)[0].datum.confidence)

    def test_a_container_with_like_sides_but_another_height_keeps_its_rim_and_is_flagged(self):
        for number, wrong in ((0, "flared vase"), (2, "tall cylinder")):
            picture = take(frame(number), Shot())
            c = picture.truth["container"]
            datum = see(read_photograph(picture.data), known=self.seen[wrong][0].shape)[0].datum
            with self.subTest(wrong):
                self.assertTrue(datum.needs_check)
                self.assertAlmostEqual(
                    datum.height / np.hypot(*np.subtract(c["rim"], c["base"])), 1, delta=0.04
                )

    def test_the_card_tells_that_another_container_stands_there(self):
        photo = read_photograph(take(frame(12), Shot(place=True, code="K7Q2M9XA")).data)
        datum = see(
            photo,
            known=self.seen["tall cylinder"][0].shape,
            container_height_cm=SHELF["tall cylinder"].height_cm,
        )[0].datum
        self.assertTrue(any("the one in the brief" in words for words in datum.doubts))

    def test_a_piece_is_no_empty_container(self):
        with self.assertRaisesRegex(NothingFound, "empty"):
            see_empty(read_photograph(take(frame(0), Shot()).data))

    def test_a_bare_wall_is_none(self):
        wall = np.full((600, 450, 3), 150, np.uint8)
        with self.assertRaises(NothingFound):
            see_empty(read_photograph(cv2.imencode(".jpg", wall)[1].tobytes()))
