import collections
import io
import unittest

import numpy as np
from PIL import Image

from juniper.camera import Shot, frame, frames, take, with_fault
from juniper.camera.arranging import FAULTS as FLAWS
from juniper.camera.arranging import FORMS
from juniper.camera.containers import SHELF
from juniper.camera.pieces import PIECES
from juniper.camera.roll import FOLDER
from juniper.colour.schemes import NAMES as SCHEMES


class Roll(unittest.TestCase):
    """The photographs that ship, against their own truth."""

    def test_there_are_enough_of_each_kind(self):
        views = collections.Counter(f.view for f in frames())
        self.assertGreaterEqual(views["front"], 30)
        self.assertTrue(all(views[v] >= 10 for v in ("side", "back", "top")))
        fronts = frames("front")
        self.assertEqual({f.truth["form"] for f in fronts}, set(FORMS))
        self.assertEqual({f.truth["scheme"] for f in fronts}, set(SCHEMES) - {""})
        self.assertEqual(
            {flaw for f in fronts for flaw in f.truth["flaws"]}, set(FLAWS) - {"top heavy"}
        )
        self.assertGreaterEqual(len({f.truth["container"]["kind"] for f in fronts}), 8)
        self.assertLessEqual({p.container for p in PIECES}, set(SHELF))
        self.assertGreaterEqual(len({b["kind"] for f in fronts for b in f.truth["blooms"]}), 12)

    def test_files_are_small_and_of_one_size(self):
        for path in FOLDER.glob("*.jpg"):
            self.assertLess(path.stat().st_size, 400_000, path.name)
        for f in frames()[::9]:
            self.assertEqual(Image.open(io.BytesIO(f.jpeg)).size, f.labels.shape[::-1])

    def test_truth_is_what_the_labels_show(self):
        for f in frames("front"):
            with self.subTest(f.piece):
                c = f.truth["container"]
                rim, base = np.array(c["rim"]), np.array(c["base"])
                up = (rim - base) / np.linalg.norm(rim - base)
                ys, xs = np.nonzero(f.labels == 3)
                along = (np.column_stack([xs, ys]) + 0.5 - rim) @ up
                self.assertAlmostEqual(
                    f.truth["findings"]["height_ratio"],
                    along.max() / np.linalg.norm(rim - base),
                    delta=0.01,
                )
                x, y = np.round(0.6 * base + 0.4 * rim).astype(int)
                self.assertEqual(f.labels[y, x], 2)
                share = (((np.column_stack([xs, ys]) + 0.5 - rim) @ [-up[1], up[0]]) < 0).mean()
                self.assertAlmostEqual(f.truth["findings"]["left_area_share"], share, delta=0.002)
                self.assertAlmostEqual(sum(p["share"] for p in f.truth["palette"]), 1.0, delta=0.01)

    def test_containers_are_drawn_to_their_proportions(self):
        # Seen from level with the rim, rim width over height is that of the shelf, but for
        # perspective.
        for f in frames("front"):
            c = f.truth["container"]
            height = np.linalg.norm(np.subtract(c["rim"], c["base"]))
            rim = np.linalg.norm(np.subtract(c["rim_left"], c["rim_right"]))
            self.assertAlmostEqual(
                rim / height, c["rim_width_cm"] / c["height_cm"], delta=0.04 * rim / height
            )

    def test_faults_arranged_on_purpose_are_there(self):
        for f in frames("front"):
            flaws, ratio = f.truth["flaws"], f.truth["findings"]["height_ratio"]
            if "too tall" in flaws:
                self.assertGreater(ratio, 2.5)
            if "too squat" in flaws:
                self.assertLess(ratio, 1.25)
            if "off-balance" in flaws:
                self.assertGreater(abs(f.truth["findings"]["left_area_share"] - 0.5), 0.1)
            if "no focal" in flaws:
                self.assertNotIn("focal", [b["role"] for b in f.truth["blooms"]])
            if "focal too high" in flaws:
                c, top = f.truth["container"], f.truth["plant"]["top"][1]
                focal = np.mean([b["centre"][1] for b in f.truth["blooms"] if b["role"] == "focal"])
                self.assertGreater((c["rim"][1] - focal) / (c["rim"][1] - top), 0.5)


class Capture(unittest.TestCase):
    """Taking a picture: faults do what they say, and truth follows through them."""

    def test_the_same_shot_is_the_same_picture(self):
        shot = Shot(code="K7Q2M9XA", noise=3.0)
        self.assertEqual(take(frame(1), shot).data, take(frame(1), shot).data)
        self.assertNotEqual(take(frame(1), shot).data, take(frame(1), shot, seed=1).data)

    def test_truth_follows_roll_crop_and_size(self):
        for shot in (
            Shot(roll_deg=9.0),
            Shot(crop=(0.05, 0.02, 0.1, 0.04)),
            Shot(size=(1512, 2016), roll_deg=-4.0, crop=(0.03, 0.0, 0.0, 0.06)),
            Shot(zoom=0.6),
        ):
            with self.subTest(shot):
                done = take(frame(10), shot)
                c = done.truth["container"]
                rim, base = np.array(c["rim"]), np.array(c["base"])
                self.assertEqual(
                    done.labels.shape, (done.truth["image"]["height"], done.truth["image"]["width"])
                )
                lean = np.degrees(np.arctan2(rim[0] - base[0], base[1] - rim[1]))
                self.assertAlmostEqual(lean, shot.roll_deg, delta=0.3)
                up = (rim - base) / np.linalg.norm(rim - base)
                ys, xs = np.nonzero(done.labels == 3)
                along = (np.column_stack([xs, ys]) + 0.5 - rim) @ up
                self.assertAlmostEqual(
                    along.max() / np.linalg.norm(rim - base),
                    done.truth["findings"]["height_ratio"],
                    delta=0.03,
                )

    def test_files_are_what_they_say(self):
        heic = take(frame(30), Shot(kind="HEIC", profile="Display P3"))
        self.assertEqual((heic.data[4:12], heic.ending), (b"ftypheic", "heic"))
        aside = Image.open(io.BytesIO(take(frame(30), Shot(orientation=6)).data))
        self.assertEqual((aside.size, aside.getexif()[0x0112]), ((1200, 900), 6))

    def test_each_fault_changes_the_picture_its_own_way(self):
        plain = np.asarray(Image.open(io.BytesIO(take(frame(10)).data)).convert("RGB")).astype(
            float
        )

        def taken(name):
            return np.asarray(
                Image.open(
                    io.BytesIO(take(frame(10), with_fault(Shot(), name, 0.5, frame(10))).data)
                ).convert("RGB")
            ).astype(float)

        self.assertLess(taken("dark").mean(), 0.65 * plain.mean())
        self.assertGreater(taken("bright").mean(), 1.2 * plain.mean())
        warm, cold = taken("warm cast"), taken("cold cast")
        self.assertGreater(
            warm[..., 0].mean() / warm[..., 2].mean(),
            1.3 * plain[..., 0].mean() / plain[..., 2].mean(),
        )
        self.assertLess(
            cold[..., 0].mean() / cold[..., 2].mean(),
            0.9 * plain[..., 0].mean() / plain[..., 2].mean(),
        )
        self.assertLess(
            np.abs(np.diff(taken("blur"), axis=1)).mean(),
            0.6 * np.abs(np.diff(plain, axis=1)).mean(),
        )
        top = frame(10).truth["plant"]["top"][1]
        self.assertLess(len(taken("cut off")), 1200 - top)
        with self.assertRaises(LookupError):
            with_fault(Shot(), "bewitched", 0.5, frame(10))
