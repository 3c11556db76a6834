import io
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from juniper.photobooth import Shot, frame, take
from juniper.photobooth.accuracy import (
    Row,
    bloom_counts,
    calibration,
    compare,
    held_against_truth,
    iou,
    overlap,
    pictures,
    summary,
)
from juniper.scene import Bloom


def bloom(x, y, radius):
    return Bloom((x, y), radius, "#b81f28", "red", 1)


class Overlap(unittest.TestCase):
    def test_discs_against_counted_pixels(self):
        y, x = np.mgrid[0:600, 0:600]
        for a, b in (((200, 300, 90), (260, 320, 70)), ((300, 300, 120), (310, 290, 40)), ((100, 100, 50), (400, 400, 60))):
            masks = [(x - c[0]) ** 2 + (y - c[1]) ** 2 <= c[2] ** 2 for c in (a, b)]
            self.assertAlmostEqual(overlap(a, b), iou(*masks), delta=0.004)
        self.assertEqual(overlap((1, 2, 3), (1, 2, 3)), 1.0)

    def test_masks(self):
        one = np.zeros((4, 4), bool)
        self.assertEqual(iou(one, one), 1.0)
        self.assertEqual(iou(one, ~one), 0.0)


class Counting(unittest.TestCase):
    truth = [{"centre": [100, 100], "radius": 20, "visible_px": 1256}, {"centre": [160, 100], "radius": 20, "visible_px": 1256},
             {"centre": [300, 300], "radius": 3, "visible_px": 28}]  # fmt: skip

    def test_each_bloom_meets_one_other(self):
        found = [bloom(102, 100, 18), bloom(98, 104, 6), bloom(260, 40, 20)]
        self.assertEqual(bloom_counts(found, self.truth, 1_000_000), (2, 1, 3, 1))

    def test_a_sliver_need_not_be_found_and_is_no_fault(self):
        self.assertEqual(bloom_counts([bloom(300, 300, 3)], self.truth, 1_000_000), (2, 0, 1, 1))
        self.assertEqual(bloom_counts([], [], 1000), (0, 0, 0, 0))


class Against(unittest.TestCase):
    def test_a_folder_of_pictures(self):
        done = take(frame(13), Shot(code="K7Q2M9XA"))
        with tempfile.TemporaryDirectory() as folder:
            place = Path(folder) / "one.jpg"
            place.write_bytes(done.data)
            with self.assertRaisesRegex(ValueError, "beside"):
                pictures(Path(folder))
            place.with_suffix(".json").write_text(json.dumps(done.truth))
            Image.fromarray(done.labels).save(place.with_suffix(".mask.png"))
            row = held_against_truth(pictures(Path(folder))[0])
        self.assertGreater(row.plant_iou, 0.85)
        self.assertLess(abs(row.ratio_error), 0.05)
        self.assertFalse(row.off)

    def test_airy_tips_and_white_flowers_before_a_pale_wall(self):
        # The truth is exact: the tops are florets on stalks too thin to be seen; the third piece is white before pale grey.
        roll = Path(__file__).resolve().parents[1] / "roll"
        for name in ("01-front", "14-front"):
            self.assertLess(abs(held_against_truth(pictures(roll, name)[0]).top), 0.01, name)
        self.assertGreater(held_against_truth(pictures(roll, "24-front")[0]).plant_iou, 0.88)

    def test_a_picture_that_cannot_be_measured_counts_as_wrong(self):
        out = io.BytesIO()
        Image.new("RGB", (600, 800), (170, 168, 160)).save(out, "JPEG")
        row = compare("empty", out.getvalue(), frame(13).truth, np.zeros((800, 600), np.uint8))
        self.assertIn("plain wall", row.fault)
        self.assertTrue(row.off)

    def test_summary(self):
        good = Row("a", "", "", plant_iou=0.9, ratio_error=0.01, needs_check=False, blooms=(4, 3, 5, 4))
        bad = replace(good, plant_iou=0.5, ratio_error=float("nan"), needs_check=True)
        total = summary([good, good, bad])
        self.assertEqual((total["plant_iou_median"], total["off"], total["off_flagged"], total["fine_flagged"]), (0.9, 1, 1, 0))
        self.assertEqual((total["bloom_recall"], total["bloom_precision"]), (0.75, 0.8))

    def test_calibration_counts_each_picture_once(self):
        rows = [Row(str(i), "", "", ratio_error=0.3 if i < 3 else 0.01, confidence=i / 10) for i in range(11)]
        bands = calibration(rows)
        self.assertEqual(sum(b.pictures for b in bands), 11)
        self.assertEqual([b.off for b in bands], [2, 1, 0, 0, 0])
        self.assertEqual(bands[-1].error, 0.01)
