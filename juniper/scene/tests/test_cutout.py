import tempfile
import unittest
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from juniper.camera import Shot, frame, take
from juniper.photograph import read_photograph
from juniper.scene import CutOut, NoCutOut, installed_cutout, see
from juniper.scene.segment.segmentation import JOINED, NETWORK


@dataclass(frozen=True)
class GivenCutOut(CutOut):
    """A general network that says what it is told: the truth of a simulated picture."""

    path: Path = Path("told.onnx")
    map: np.ndarray = field(default_factory=lambda: np.zeros((1, 1)))

    def foreground(self, pixels):
        return cv2.resize(
            self.map.astype(np.float32), pixels.shape[1::-1], interpolation=cv2.INTER_NEAREST
        )


class Joined(unittest.TestCase):
    def test_the_scene_says_what_made_its_outline(self):
        picture = take(frame(24), Shot())
        photo = read_photograph(picture.data)
        alone, _ = see(photo)
        helped, _ = see(
            photo, cutout=GivenCutOut(map=(picture.labels == 2) | (picture.labels == 3))
        )
        self.assertEqual((alone.engine, helped.engine), (NETWORK, JOINED))
        self.assertTrue(helped.seen_twice and not alone.seen_twice)


class Missing(unittest.TestCase):
    def test_what_is_missing_is_said_in_words(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "model.onnx"
            with self.assertRaisesRegex(NoCutOut, "setup-cutout"):
                CutOut(path).foreground(np.zeros((8, 8, 3), np.uint8))
            path.write_bytes(b"no model")
            with self.assertRaisesRegex(NoCutOut, "cannot be used"):
                CutOut(path).foreground(np.zeros((8, 8, 3), np.uint8))

    @unittest.skipIf(installed_cutout() is None, "the general network is not set up")
    def test_the_network_sees_a_plain_piece(self):
        picture = take(frame(0), Shot())
        photo = read_photograph(picture.data)
        standing = installed_cutout().foreground(photo.pixels)
        true = (
            cv2.resize(
                ((picture.labels == 2) | (picture.labels == 3)).astype(np.uint8),
                standing.shape[::-1],
            )
            > 0
        )
        self.assertGreater((true & (standing > 0.5)).sum() / (true | (standing > 0.5)).sum(), 0.8)
