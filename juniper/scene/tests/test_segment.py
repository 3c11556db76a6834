import tempfile
import unittest
from pathlib import Path
from unittest import mock

import cv2
import numpy as np

from juniper.camera import frame
from juniper.photograph import read_photograph
from juniper.scene.parts import Label, Part
from juniper.scene.segment import probabilities
from juniper.scene.segment.engine import Network, NoEngine
from juniper.scene.segment.outline import GROUND, PLANT, VESSEL, outlined
from juniper.scene.segment.probabilities import POINTS, WEIGHTS, part_probabilities
from juniper.scene.segment.segmentation import CLASSICAL, NETWORK, of_the_piece, segment

GREY, RED, GREEN = (128, 128, 128), (200, 20, 20), (20, 180, 40)
MARKS = {"base": (0, 0, 255), "rim": (255, 255, 0)}  # colours by which the stand-in knows keypoints


class ByColour:
    """A stand-in for the parts network: red is container, green leaf; a keypoint is where its own
    colour shows.
    """

    def __init__(self):
        self.frames = []

    def run(self, picture, hints):
        self.frames.append((picture[0], hints[0]))
        half = picture[0, :, 1::2, 1::2]
        odds = np.full((6, *half.shape[1:]), -6.0, np.float32)
        odds[Part.NOT_PIECE] = 0.0
        for part, colour in ((Part.CONTAINER, RED), (Part.LEAF, GREEN)):
            odds[part] = np.where(
                np.abs(half - np.array(colour)[:, None, None]).sum(0) < 60, 6.0, -6.0
            )
        quarter = np.stack(
            [
                cv2.resize(
                    c, (picture.shape[3] // 4, picture.shape[2] // 4), interpolation=cv2.INTER_AREA
                )
                for c in picture[0]
            ]
        )
        points = np.zeros((len(POINTS), *quarter.shape[1:]), np.float32)
        for k, name in enumerate(POINTS):
            if name in MARKS:
                points[k] = -0.12 * np.abs(quarter - np.array(MARKS[name])[:, None, None]).sum(0)
        return odds[None], points[None], np.full((1, 5, *quarter.shape[1:]), -8.0, np.float32)


def drawn(size=(480, 640), at=(300, 420)) -> np.ndarray:
    """A red container under a green disc on grey, with a blue mark at its foot and a yellow one at
    its rim.
    """
    pixels = np.full((size[1], size[0], 3), GREY, np.uint8)
    x, y = at
    cv2.circle(pixels, (x, y - 60), 55, GREEN, -1)
    cv2.rectangle(pixels, (x - 25, y), (x + 25, y + 100), RED, -1)
    cv2.circle(pixels, (x, y + 90), 8, MARKS["base"], -1)
    cv2.circle(pixels, (x, y + 10), 8, MARKS["rim"], -1)
    return pixels


class Engines(unittest.TestCase):
    def test_what_is_missing_or_damaged_is_said_in_a_sentence(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "net.onnx"
            with self.assertRaisesRegex(NoEngine, "net.onnx is missing"):
                Network(path)
            path.write_bytes(WEIGHTS.read_bytes()[:100_000])  # half fetched
            with self.assertRaisesRegex(NoEngine, "net.onnx is damaged"):
                Network(path)

    def test_what_it_does_not_take_is_said(self):
        with self.assertRaisesRegex(NoEngine, "does not take this picture"):
            Network(WEIGHTS).run(
                np.zeros((1, 5, 64, 64), np.float32), np.zeros((1, 2, 32, 32), np.float32)
            )

    def test_without_a_network_the_classical_engine_answers(self):
        photograph = read_photograph(frame(0).jpeg)
        lab = cv2.cvtColor(photograph.pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
        with mock.patch.object(
            probabilities, "loaded", side_effect=NoEngine("The network parts.onnx is missing.")
        ):
            found = segment(photograph.pixels, lab)
        self.assertEqual(
            (found.engine, found.look, found.fault),
            (CLASSICAL, None, "The network parts.onnx is missing."),
        )
        true = cv2.resize(
            frame(0).labels, found.labels.shape[::-1], interpolation=cv2.INTER_NEAREST
        )
        for label in (Label.CONTAINER, Label.PLANT):
            both, either = (
                ((found.labels == label) & (true == label)).sum(),
                ((found.labels == label) | (true == label)).sum(),
            )
            self.assertGreater(both / either, 0.8)


class Looking(unittest.TestCase):
    def seen(self, pixels, **more):
        stand_in = ByColour()
        with mock.patch.object(probabilities, "loaded", return_value=stand_in):
            return part_probabilities(pixels, **more), stand_in

    def test_parts_and_keypoints_lie_where_they_are(self):
        # Odd sizes: framings are padded, and the mirrored one from the other side.
        for size, at in (
            ((480, 640), (300, 420)),
            ((613, 457), (150, 300)),
            ((451, 803), (301, 600)),
        ):
            look, _ = self.seen(drawn(size, at))
            with self.subTest(size):
                for name, down in (("base", 90), ("rim", 10)):
                    self.assertLess(
                        np.abs(look.points[name].at - [at[0] + 0.5, at[1] + down + 0.5]).max(), 1.5
                    )
                wall = look.likely[Part.CONTAINER] > 0.5
                _ys, xs = np.nonzero(wall[at[1] + 30 : at[1] + 70])
                self.assertAlmostEqual(xs.min(), at[0] - 25, delta=2)
                self.assertAlmostEqual(xs.max(), at[0] + 25, delta=2)
                np.testing.assert_allclose(look.likely.sum(0), 1, atol=1e-3)
                self.assertGreater(look.agreement, 0.9)

    def test_the_second_framing_is_about_the_piece_and_the_third_its_mirror(self):
        _, stand_in = self.seen(drawn((900, 1200), (200, 900)))
        (whole, _), (near, _), (mirrored, _) = stand_in.frames
        self.assertGreater((near[0] > 180).mean(), 2 * (whole[0] > 180).mean())
        np.testing.assert_array_equal(near[:, :, ::-1], mirrored)

    def test_a_click_and_a_general_networks_map_are_handed_on(self):
        pixels = drawn()
        _, stand_in = self.seen(pixels)
        self.assertTrue(
            all((hints[0] == 128).all() and not hints[1].any() for _, hints in stand_in.frames)
        )
        _, stand_in = self.seen(
            pixels, foreground=np.ones(pixels.shape[:2], np.float32), click=(300, 470)
        )
        for _, hints in stand_in.frames:
            self.assertEqual(hints[0].max(), 255)
            self.assertTrue(hints[1].any())

    def test_a_picture_without_a_piece_is_looked_at_whole(self):
        look, stand_in = self.seen(np.full((300, 400, 3), GREY, np.uint8))
        np.testing.assert_array_equal(stand_in.frames[0][0], stand_in.frames[1][0])
        self.assertLess(look.piece.max(), 0.1)


class Outlining(unittest.TestCase):
    def test_a_stem_finer_than_the_networks_grid_is_cut_out_by_its_colour(self):
        lab = np.zeros((200, 160, 3), np.float32)
        lab[:] = 75, 0, 5
        stem = np.zeros((200, 160), bool)
        stem[20:180, 79:82] = True
        lab[stem] = 35, -20, 25
        lab += np.random.default_rng(1).normal(0, 0.7, lab.shape).astype(np.float32)
        likely = np.zeros((6, 200, 160), np.float32)
        likely[Part.LEAF] = 0.8 * cv2.GaussianBlur(
            cv2.dilate(stem.astype(np.float32), np.ones((1, 7))), (0, 0), 2.0
        )
        likely[Part.NOT_PIECE] = 1 - likely[Part.LEAF]
        before, after = likely[Part.LEAF] > 0.5, outlined(likely, lab)[PLANT] > 0.5
        iou = [(m & stem).sum() / (m | stem).sum() for m in (before, after)]
        self.assertLess(iou[0], 0.6)
        self.assertGreater(iou[1], 0.9)

    def test_what_is_sure_is_left_and_the_three_sum_to_one(self):
        likely = np.zeros((6, 60, 60), np.float32)
        likely[Part.SUPPORT] = 1.0
        likely[:, 20:40, 20:40] = 0
        likely[Part.CONTAINER, 20:40, 20:40] = 1.0
        found = outlined(likely, np.full((60, 60, 3), 50.0, np.float32))
        self.assertTrue(
            (found[VESSEL, 25:35, 25:35] == 1).all() and (found[GROUND, :10] == 1).all()
        )
        np.testing.assert_allclose(found.sum(0), 1, atol=1e-5)


class Piece(unittest.TestCase):
    def test_florets_near_one_another_belong_and_a_thing_far_off_does_not(self):
        vessel = np.zeros((400, 400), bool)
        vessel[300:380, 180:220] = True
        standing = vessel.copy()
        standing[150:300, 150:250] = True
        for row in range(140, 80, -12):
            standing[row : row + 4, 198:202] = True  # an airy tip
        standing[320:360, 20:50] = True
        kept = of_the_piece(standing, vessel)
        self.assertTrue(kept[93, 200] and kept[200, 200] and kept[340, 200])
        self.assertFalse(kept[340, 30])

    def test_a_vessel_beside_that_is_large_belongs(self):
        vessel = np.zeros((400, 400), bool)
        vessel[300:380, 180:220] = vessel[310:380, 40:80] = True
        standing = vessel.copy()
        standing[220:300, 170:230] = True
        self.assertTrue(of_the_piece(standing, vessel)[350, 60])


class Shipped(unittest.TestCase):
    """The network as it ships, on the roll's truth; bounds are well below what docs/seeing.md
    tells.
    """

    def test_parts_of_a_traced_piece(self):
        for number in (2, 13):
            photograph = read_photograph(frame(number).jpeg)
            lab = cv2.cvtColor(photograph.pixels.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
            found = segment(photograph.pixels, lab)
            true = cv2.resize(
                frame(number).labels, found.labels.shape[::-1], interpolation=cv2.INTER_NEAREST
            )
            self.assertEqual(found.engine, NETWORK)
            for label in (Label.CONTAINER, Label.PLANT):
                with self.subTest(number, label=label):
                    both, either = (
                        ((found.labels == label) & (true == label)).sum(),
                        ((found.labels == label) | (true == label)).sum(),
                    )
                    self.assertGreater(both / either, 0.85)
