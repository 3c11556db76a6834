import io
import unittest

import cv2
import numpy as np
from PIL import Image
from skimage import data

from juniper.assessment import analyse
from juniper.camera import Shot, frame, take
from juniper.colour import from_hex, lab_from_srgb
from juniper.photograph import read_photograph
from juniper.scene import Datum, Label, NothingFound, Raster, given_datum, see
from juniper.scene.scene import _is_sage, _under_plant


class FromAbove(unittest.TestCase):
    def test_a_piece_that_hides_its_vessel_is_read_about_its_middle(self):
        labels = np.full((300, 400), int(Label.BACKDROP), np.uint8)
        labels[100:200, 120:320] = Label.PLANT
        found = _under_plant(labels)
        np.testing.assert_allclose(found.rim, (219.5, 149.5))
        self.assertAlmostEqual(found.rim_width, 0.5 * 0.96 * 199)
        self.assertTrue(found.needs_check)
        self.assertEqual(found.doubts, ("from above the vessel cannot be made out",))


class Given(unittest.TestCase):
    def test_points_that_cannot_be_a_container(self):
        with self.assertRaisesRegex(ValueError, "drag them apart"):
            given_datum((5, 5), (5, 5), (0, 5), (9, 5))
        with self.assertRaisesRegex(ValueError, "not a number"):
            given_datum((5, float("nan")), (5, 50), (0, 5), (9, 5))

    def test_moved_keeps_the_other_points(self):
        datum = Datum((240.0, 300.0), (240.0, 500.0), (180.0, 300.0), (300.0, 300.0))
        moved = datum.moved(rim=(240.0, 280.0))
        self.assertEqual(
            (moved.rim, moved.base, moved.source), ((240.0, 280.0), datum.base, "given")
        )
        self.assertEqual(datum.source, "automatic")


class Pictures(unittest.TestCase):
    """The simulated camera knows the truth of each picture (juniper.camera)."""

    @classmethod
    def setUpClass(cls):
        cls.done = [(take(frame(n), Shot(code="K7Q2M9XA")), None) for n in (0, 12, 18, 33)]
        cls.done = [(picture, analyse(picture.data)) for picture, _ in cls.done]

    def test_silver_leaves_are_no_petals(self):
        for picture, seen in self.done:
            # The colours of the roll's petals as they are lit: no green among them is as grey as a
            # silver leaf.
            lit = [
                lab_from_srgb(from_hex(b["mean_hex"]))
                for b in picture.truth["blooms"]
                if b["visible_px"] > 500
            ]
            self.assertFalse([tuple(lab) for lab in lit if _is_sage(lab)])
            for swatch in seen.scene.palette:
                if swatch.part == "flower" and swatch.share < 0.35:
                    self.assertFalse(_is_sage(swatch.lab), swatch)

    def test_plant_outline(self):
        overlaps = []
        for picture, seen in self.done:
            found = (
                cv2.resize(
                    seen.raster.labels, picture.labels.shape[::-1], interpolation=cv2.INTER_NEAREST
                )
                == Label.PLANT
            )
            true = picture.labels == Label.PLANT
            overlaps.append((found & true).sum() / (found | true).sum())
        self.assertGreater(np.median(overlaps), 0.85)
        self.assertGreater(min(overlaps), 0.75)

    def test_foliage_share(self):
        errors = [
            abs(s.measured()["foliage_share"].value - p.truth["findings"]["foliage_share"])
            for p, s in self.done
        ]
        self.assertLess(np.median(errors), 0.05)

    def test_height_ratio_right_or_doubted(self):
        errors = np.array(
            [
                s.measured()["height_ratio"].value / p.truth["findings"]["height_ratio"] - 1
                for p, s in self.done
            ]
        )
        checked = np.array([s.scene.datum.needs_check for _, s in self.done])
        self.assertLess(np.median(np.abs(errors)), 0.03)
        self.assertLessEqual((np.abs(errors[~checked]) > 0.08).sum(), 1)

    def test_height_with_the_datum_given(self):
        errors = []
        for picture, _ in self.done:
            c = picture.truth["container"]
            datum = given_datum(*(tuple(c[k]) for k in ("rim", "base", "rim_left", "rim_right")))
            seen = analyse(picture.data, given=datum)
            errors.append(
                seen.measured()["height_ratio"].value / picture.truth["findings"]["height_ratio"]
                - 1
            )
        self.assertLess(np.median(np.abs(errors)), 0.01)
        self.assertLessEqual((np.abs(errors) > 0.05).sum(), 1)

    def test_the_same_picture_gives_the_same_answer(self):
        again = analyse(self.done[0][0].data)
        self.assertEqual(again.measured().by_name, self.done[0][1].measured().by_name)

    def test_raster_survives_packing(self):
        raster = self.done[0][1].raster
        back = Raster.unpacked(raster.packed(), raster.scale)
        for name in ("labels", "flowers", "light"):
            np.testing.assert_array_equal(getattr(back, name), getattr(raster, name))

    def test_white_table_is_no_flower(self):
        for _, seen in self.done[:2]:
            top = min(b.centre[1] for b in seen.scene.blooms)
            self.assertLess(max(b.centre[1] for b in seen.scene.blooms), seen.scene.datum.base[1])
            self.assertGreaterEqual(top, 0)


class NothingThere(unittest.TestCase):
    def test_pictures_of_anything_are_answered(self):
        rng = np.random.default_rng(4)
        for kind in range(3):
            pixels = rng.integers(0, 256, (320, 300, 3)).astype(np.uint8)
            if kind % 3 == 1:
                pixels = cv2.GaussianBlur(pixels, (0, 0), 9)
            if kind % 3 == 2:
                pixels[:] = rng.integers(0, 256, 3)
                for _ in range(6):
                    spot = tuple(int(v) for v in rng.integers(0, 300, 2))
                    cv2.circle(
                        pixels,
                        spot,
                        int(rng.integers(4, 60)),
                        tuple(int(v) for v in rng.integers(0, 256, 3)),
                        -1,
                    )
            out = io.BytesIO()
            Image.fromarray(pixels).save(out, "PNG")
            try:
                seen = analyse(out.getvalue())
            except NothingFound:
                continue
            self.assertTrue(np.isfinite(seen.scene.datum.rim).all())

    def test_a_person_a_document_or_a_cup_is_no_piece(self):
        # Photographs that ship with scikit-image.
        for name in ("astronaut", "page", "coffee"):
            pixels = (
                Image.fromarray(np.asarray(getattr(data, name)())).convert("RGB").resize((640, 480))
            )
            out = io.BytesIO()
            pixels.save(out, "PNG")
            with self.subTest(name):
                try:
                    scene, _ = see(read_photograph(out.getvalue()))
                except NothingFound as error:
                    self.assertRegex(str(error), r"[Tt]ake|again")
                else:
                    self.assertTrue(scene.datum.needs_check)

    def test_from_above_a_strip_of_the_room_is_no_container(self):
        for number in (8, 15):
            picture = frame(number, "top")
            scene, raster = see(read_photograph(picture.jpeg), view="top")
            found = (
                cv2.resize(
                    raster.labels, picture.labels.shape[::-1], interpolation=cv2.INTER_NEAREST
                )
                >= Label.CONTAINER
            )
            true = (picture.labels == Label.CONTAINER) | (picture.labels == Label.PLANT)
            with self.subTest(number):
                self.assertGreater((found & true).sum() / (found | true).sum(), 0.8)
                self.assertTrue(scene.datum.needs_check)

    def test_from_above_what_shows_of_the_container_is_no_foliage(self):
        picture = frame(8, "top")
        _, raster = see(read_photograph(picture.jpeg), view="top")
        found = cv2.resize(
            raster.labels, picture.labels.shape[::-1], interpolation=cv2.INTER_NEAREST
        )
        wall = picture.labels == Label.CONTAINER
        self.assertGreater((found == Label.CONTAINER)[wall].mean(), 0.2)
        self.assertGreater(wall[found == Label.CONTAINER].mean(), 0.5)
        foliage = (raster.labels == Label.PLANT)[raster.flowers == 0].sum() / (
            raster.labels == Label.PLANT
        ).sum()
        self.assertAlmostEqual(foliage, picture.truth["findings"]["foliage_share"], delta=0.03)

    def test_an_empty_room(self):
        picture = Image.new("RGB", (600, 800), (170, 168, 160))
        out = io.BytesIO()
        picture.save(out, "JPEG")
        with self.assertRaisesRegex(NothingFound, "plain wall"):
            see(read_photograph(out.getvalue()))

    def test_a_picture_without_a_container_is_answered_in_doubt(self):
        rng = np.random.default_rng(2)
        pixels = np.full((800, 600, 3), 175, np.uint8)
        for _ in range(400):
            spot = (int(rng.normal(300, 70)), int(rng.normal(350, 90)))
            cv2.circle(pixels, spot, 9, tuple(int(v) for v in rng.integers(20, 240, 3)), -1)
        out = io.BytesIO()
        Image.fromarray(pixels).save(out, "PNG")
        try:
            scene, _ = see(read_photograph(out.getvalue()))
        except NothingFound:
            return
        self.assertTrue(scene.datum.needs_check)
