import tempfile
import unittest
from dataclasses import dataclass, field
from importlib.util import find_spec
from pathlib import Path

import numpy as np

from juniper.photobooth import Shot, frame, take
from juniper.photograph import read_photograph
from juniper.scene import PLANT, CutOut, NoCutOut, installed_cutout, see
from juniper.scene.cutout import amended
from juniper.scene.separation import CONTAINER, Separation


def drawn():
    """A piece 400 x 300: container, a mass, a fine stem, and a box behind that was taken for plant."""
    labels = np.zeros((400, 300), np.uint8)
    labels[300:380, 120:180] = CONTAINER
    labels[160:300, 90:210] = PLANT
    labels[40:160, 149:151] = PLANT
    labels[220:300, 210:260] = PLANT
    labels[300:, :120] = 1
    return Separation(labels, 1.0, None, None, np.full(300, 300.0))


@dataclass(frozen=True)
class Told(CutOut):
    """A network that says what it is told: the truth of a simulated picture."""

    path: Path = Path("told.onnx")
    map: np.ndarray = field(default_factory=lambda: np.zeros((1, 1)))

    def foreground(self, pixels):
        import cv2

        return cv2.resize(self.map.astype(np.float32), pixels.shape[1::-1], interpolation=cv2.INTER_NEAREST)


class Amending(unittest.TestCase):
    def test_a_thick_thing_that_is_surely_ground_goes_and_a_fine_stem_stays(self):
        parts = drawn()
        standing = np.zeros((400, 300), np.float32)
        standing[160:380, 90:210] = 1.0  # the network loses the stem, and knows the box for ground
        after = amended(parts, standing).labels
        self.assertEqual((after[225:295, 215:255] == PLANT).sum(), 0)
        self.assertTrue((after[45:155, 149:151] == PLANT).all())
        self.assertTrue((after[170:290, 95:205] == PLANT).all())
        self.assertTrue(np.array_equal(after == CONTAINER, parts.labels == CONTAINER))

    def test_nothing_comes_in(self):
        parts = drawn()
        after = amended(parts, np.ones((400, 300), np.float32)).labels
        self.assertTrue(np.array_equal(after, parts.labels))

    def test_where_it_sees_something_else_altogether_nothing_is_changed(self):
        parts = drawn()
        standing = np.zeros((400, 300), np.float32)
        standing[:100, :100] = 1.0
        self.assertIs(amended(parts, standing), parts)

    def test_the_scene_says_what_made_its_outline(self):
        picture = take(frame(24), Shot())
        photo = read_photograph(picture.data)
        alone, before = see(photo)
        helped, after = see(photo, cutout=Told(map=(picture.labels >= CONTAINER) & (picture.labels <= PLANT)))
        self.assertEqual(alone.engine, "default")
        self.assertIn("network", helped.engine)

        def iou(labels):
            import cv2

            true = cv2.resize(picture.labels, labels.shape[::-1], interpolation=cv2.INTER_NEAREST) == PLANT
            return ((labels == PLANT) & true).sum() / ((labels == PLANT) | true).sum()

        self.assertGreaterEqual(iou(after.labels), iou(before.labels))


class Missing(unittest.TestCase):
    def test_what_is_missing_is_said_in_words(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "model.onnx"
            with self.assertRaisesRegex(NoCutOut, "setup-cutout"):
                CutOut(path).foreground(np.zeros((8, 8, 3), np.uint8))
            path.write_bytes(b"no model")
            with self.assertRaisesRegex(NoCutOut, "setup-cutout" if find_spec("onnxruntime") is None else "cannot be used"):
                CutOut(path).foreground(np.zeros((8, 8, 3), np.uint8))

    @unittest.skipIf(installed_cutout() is None, "the second engine is not set up")
    def test_the_network_sees_a_plain_piece(self):
        picture = take(frame(0), Shot())
        photo = read_photograph(picture.data)
        standing = installed_cutout().foreground(photo.pixels)
        import cv2

        true = cv2.resize(((picture.labels == 2) | (picture.labels == 3)).astype(np.uint8), standing.shape[::-1]) > 0
        self.assertGreater((true & (standing > 0.5)).sum() / (true | (standing > 0.5)).sum(), 0.8)
