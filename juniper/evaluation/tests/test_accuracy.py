import io
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from juniper.camera import Shot, frame, take
from juniper.evaluation.accuracy import (
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
from juniper.evaluation.sheet import ACROSS, SIDE, WORDS, contact_sheet
from juniper.evaluation.truth import truth_of
from juniper.scene import Bloom


def bloom(x, y, radius):
    return Bloom((x, y), radius, "#b81f28", "red", 1)


class Overlap(unittest.TestCase):
    def test_discs_against_counted_pixels(self):
        y, x = np.mgrid[0:600, 0:600]
        for a, b in (
            ((200, 300, 90), (260, 320, 70)),
            ((300, 300, 120), (310, 290, 40)),
            ((100, 100, 50), (400, 400, 60)),
        ):
            masks = [(x - c[0]) ** 2 + (y - c[1]) ** 2 <= c[2] ** 2 for c in (a, b)]
            self.assertAlmostEqual(overlap(a, b), iou(*masks), delta=0.004)
        self.assertEqual(overlap((1, 2, 3), (1, 2, 3)), 1.0)

    def test_masks(self):
        one = np.zeros((4, 4), bool)
        self.assertEqual(iou(one, one), 1.0)
        self.assertEqual(iou(one, ~one), 0.0)


class Counting(unittest.TestCase):
    truth = [
        {"centre": [100, 100], "radius": 20, "visible_px": 1256},
        {"centre": [160, 100], "radius": 20, "visible_px": 1256},
        {"centre": [300, 300], "radius": 3, "visible_px": 28},
    ]

    def test_each_bloom_meets_one_other(self):
        found = [bloom(102, 100, 18), bloom(98, 104, 6), bloom(260, 40, 20)]
        self.assertEqual(bloom_counts(found, self.truth, 1_000_000), (2, 1, 3, 1))

    def test_a_sliver_need_not_be_found_and_is_no_fault(self):
        self.assertEqual(bloom_counts([bloom(300, 300, 3)], self.truth, 1_000_000), (2, 0, 1, 1))
        self.assertEqual(bloom_counts([], [], 1000), (0, 0, 0, 0))


class Against(unittest.TestCase):
    def test_a_folder_of_pictures_with_masks_and_with_a_datum_only(self):
        done = take(frame(13), Shot(code="K7Q2M9XA"))
        c = done.truth["container"]
        by_eye = {name: c[name] for name in ("rim", "base", "rim_left", "rim_right")}
        by_eye |= {
            "top_y": done.truth["plant"]["top"][1],
            "height_ratio": done.truth["findings"]["height_ratio"],
            "glass": False,
        }
        with tempfile.TemporaryDirectory() as folder:
            place = Path(folder) / "one.jpg"
            place.write_bytes(done.data)
            with self.assertRaisesRegex(ValueError, "beside"):
                pictures(Path(folder))
            place.with_suffix(".json").write_text(json.dumps(by_eye))
            plain, drawn = held_against_truth(pictures(Path(folder))[0], drawn=True)
            place.with_suffix(".json").write_text(json.dumps(done.truth))
            Image.fromarray(done.labels).save(place.with_suffix(".mask.png"))
            row, _ = held_against_truth(pictures(Path(folder))[0])
        self.assertGreater(row.plant_iou, 0.85)
        self.assertLess(abs(row.ratio_error), 0.05)
        self.assertFalse(row.off)
        self.assertFalse(plain.masked)
        self.assertAlmostEqual(plain.ratio_error, row.ratio_error, delta=0.01)
        self.assertEqual(drawn.shape, (WORDS + SIDE, SIDE, 3))
        self.assertEqual(contact_sheet([drawn] * 6).shape, (2 * (WORDS + SIDE), ACROSS * SIDE, 3))

    def test_a_picture_that_cannot_be_measured_counts_as_wrong(self):
        out = io.BytesIO()
        Image.new("RGB", (600, 800), (170, 168, 160)).save(out, "JPEG")
        row, done = compare(
            "empty", out.getvalue(), truth_of(frame(13).truth, np.zeros((800, 600), np.uint8))
        )
        self.assertIn("plain wall", row.fault)
        self.assertTrue(row.off)
        self.assertIsNone(done)

    def test_summary(self):
        good = Row(
            "a", "", "", plant_iou=0.9, ratio_error=0.01, needs_check=False, blooms=(4, 3, 5, 4)
        )
        bad = replace(good, plant_iou=0.5, ratio_error=float("nan"), needs_check=True)
        total = summary([good, good, bad])
        self.assertEqual(
            (total["plant_iou_median"], total["off"], total["off_flagged"], total["fine_flagged"]),
            (0.9, 1, 1, 0),
        )
        self.assertIsNone(summary([replace(good, masked=False)])["plant_iou_median"])
        self.assertEqual((total["bloom_recall"], total["bloom_precision"]), (0.75, 0.8))

    def test_calibration_counts_each_picture_once(self):
        rows = [
            Row(str(i), "", "", ratio_error=0.3 if i < 3 else 0.01, confidence=i / 10)
            for i in range(11)
        ]
        bands = calibration(rows)
        self.assertEqual(sum(b.pictures for b in bands), 11)
        self.assertEqual([b.off for b in bands], [2, 1, 0, 0, 0])
        self.assertEqual(bands[-1].error, 0.01)


class Truths(unittest.TestCase):
    """The forms that folders of pictures have their truth in."""

    def test_by_eye_the_top_lies_where_the_axis_meets_its_row(self):
        truth = truth_of(
            {
                "rim": [100, 200],
                "base": [110, 300],
                "rim_left": [80, 200],
                "rim_right": [120, 200],
                "top_y": 50,
                "height_ratio": 1.5,
            },
            None,
        )
        self.assertAlmostEqual(truth.top[1], 50)
        self.assertAlmostEqual(truth.top[0], 85)  # the axis leans by a tenth
        self.assertIsNone(truth.own_ratio)

    def test_a_second_studios_names(self):
        document = {
            "container": {
                "rim_centre_px": [1, 2],
                "base_centre_px": [1, 9],
                "rim_left_px": [0, 2],
                "rim_right_px": [2, 2],
                "height_cm": 20,
                "clear": True,
                "kind": "urn",
            },
            "ratios": {"height_ratio_image": 1.7, "height_ratio_3d": 1.6},
            "plant": {"top_px": [1, 0]},
            "balance": {"left_area_share": 0.5},
            "areas": {"foliage_share": 0.4},
            "blooms": [
                {"centre_px": [1, 1], "radius_px": 3, "visible_px": 30},
                {"centre_px": None, "radius_px": 0, "visible_px": 0},
            ],
        }
        truth = truth_of(document, None)
        self.assertEqual(
            (truth.ratio, truth.own_ratio, truth.glass, [b["radius"] for b in truth.blooms]),
            (1.7, 1.6, True, [3]),
        )
        self.assertEqual((truth.pitch, truth.focal), (None, None))
        told = document | {
            "image": {"width": 1200, "height": 1600},
            "camera": {"pitch_deg": 10.0, "fov_long_side_deg": 90.0},
        }
        posed = truth_of(told, None)
        self.assertAlmostEqual(posed.pitch, np.radians(10))  # looking down above 0
        self.assertAlmostEqual(posed.focal, 800.0)

    def test_the_first_studios_camera(self):
        truth = truth_of(frame(0).truth, None)
        camera = frame(0).truth["camera"]
        self.assertAlmostEqual(truth.pitch, np.radians(-camera["pitch_deg"]))
        self.assertEqual(truth.focal, camera["focal_px"])

    def test_the_rolls_own_ratio_is_in_centimetres(self):
        truth = truth_of(frame(0).truth, None)
        self.assertAlmostEqual(
            truth.own_ratio, frame(0).truth["plant"]["height_above_rim_cm"] / 24.0
        )

    def test_another_form_is_told(self):
        with self.assertRaisesRegex(ValueError, "no known form"):
            truth_of({"container": {}}, None)
