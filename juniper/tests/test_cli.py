import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from juniper.camera import frame, take
from juniper.cli import main

FINDINGS = [
    "height_ratio",
    "governing_ratio",
    "plant_share",
    "width_ratio",
    "spread",
    "left_area_share",
    "left_weight_share",
    "moment_ratio",
    "weight_height",
    "outline_symmetry",
    "outline_fill",
    "rim_cover",
    "focal_height",
    "focal_offset",
    "focal_dominance",
    "foliage_share",
    "flower_colours",
    "largest_gap",
    "twin_tips",
]


class CommandLine(unittest.TestCase):
    """The documents that others rely on."""

    @classmethod
    def setUpClass(cls):
        cls.folder = tempfile.TemporaryDirectory()
        cls.at = Path(cls.folder.name)
        cls.picture = take(frame(30))
        (cls.at / "piece.jpg").write_bytes(cls.picture.data)

    @classmethod
    def tearDownClass(cls):
        cls.folder.cleanup()

    def run_it(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main([str(a) for a in arguments])
        return code, out.getvalue(), err.getvalue()

    def test_measure(self):
        code, out, _ = self.run_it(
            "measure", self.at / "piece.jpg", "--json", "--mask", self.at / "mask.png"
        )
        document = json.loads(out)
        self.assertEqual(code, 0)
        self.assertEqual(document["photo"]["width"], 900)
        self.assertLessEqual(
            {"rim", "base", "rim_left", "rim_right", "source", "confidence", "needs_check"},
            set(document["datum"]),
        )
        self.assertLessEqual(set(FINDINGS), set(document["findings"]))
        for finding in document["findings"].values():
            self.assertEqual(set(finding), {"value", "unit", "uncertainty", "measured", "reason"})
        for part in ("flower", "foliage", "container"):
            self.assertAlmostEqual(
                sum(p["share"] for p in document["palette"] if p["part"] == part), 1, places=2
            )
        mask = np.asarray(Image.open(self.at / "mask.png"))
        self.assertEqual(mask.shape, (1200, 900))
        self.assertLessEqual(set(np.unique(mask)), {0, 1, 2, 3})

    def test_score_with_a_brief_and_a_given_datum(self):
        container = self.picture.truth["container"]
        (self.at / "datum.json").write_text(
            json.dumps({k: container[k] for k in ("rim", "base", "rim_left", "rim_right")})
        )
        (self.at / "brief.toml").write_text(
            f'form = "{self.picture.truth["form"]}"\nscheme = "analogous"\ncontainer_height_cm ='
            " 24\n"
        )
        code, out, _ = self.run_it(
            "score",
            self.at / "piece.jpg",
            "--rules",
            "classical-line-mass",
            "--json",
            "--brief",
            self.at / "brief.toml",
            "--datum",
            self.at / "datum.json",
        )
        document = json.loads(out)
        verdict = document["verdict"]
        self.assertEqual(code, 0)
        self.assertEqual(document["datum"]["source"], "given")
        self.assertEqual((verdict["rules"], verdict["out_of"]), ("classical-line-mass", 100))
        lines = verdict["lines"]
        for line in lines:
            self.assertLessEqual(
                {"rule", "measure", "value", "score", "weight", "state", "borderline", "advice"},
                set(line),
            )
            self.assertIn(
                line["state"], ("met", "near", "missed", "not measured", "does not apply", "waived")
            )
        self.assertLess(verdict["measured"], verdict["called_for"])  # nobody answered what is asked
        self.assertEqual(
            set(verdict["families"]), {"proportion", "balance", "focal", "colour", "line", "finish"}
        )
        counted = [x for x in lines if x["score"] is not None]
        total = (
            10 * sum(x["score"] * x["weight"] for x in counted) / sum(x["weight"] for x in counted)
        )
        self.assertAlmostEqual(total, verdict["score"], delta=0.2)

    def test_a_plan_for_a_container(self):
        code, out, _ = self.run_it(
            "plan",
            "--rules",
            "three-stem-thirds",
            "--container-height-cm",
            "5",
            "--container-width-cm",
            "30",
            "--json",
        )
        document = json.loads(out)
        self.assertEqual(code, 0)
        self.assertEqual([s["name"] for s in document["stems"]], ["main", "second", "third"])
        self.assertEqual([s["visible_cm"] for s in document["stems"]], [45.0, 30.0, 20.0])
        for stem in document["stems"]:
            self.assertLessEqual({"name", "visible_cm", "cut_cm", "lean_deg"}, set(stem))
            self.assertGreater(stem["cut_cm"], stem["visible_cm"])
        self.assertTrue(document["notes"])
        code, out, _ = self.run_it(
            "plan",
            "--rules",
            "classical-line-mass",
            "--container-height-cm",
            "24",
            "--container-width-cm",
            "10",
        )
        self.assertIn("36 to 48 cm over the rim", out)

    def test_a_plan_that_cannot_be_made_is_told_in_a_sentence(self):
        for sizes, words in ((("0", "30"), "lies between"), (("5", "-3"), "lies between")):
            code, out, said = self.run_it(
                "plan",
                "--rules",
                "classical-line-mass",
                "--container-height-cm",
                sizes[0],
                "--container-width-cm",
                sizes[1],
            )
            self.assertEqual((code, out), (2, ""))
            self.assertIn(words, said)
        code, _, said = self.run_it(
            "plan",
            "--rules",
            "no-such-school",
            "--container-height-cm",
            "5",
            "--container-width-cm",
            "3",
        )
        self.assertEqual(code, 2)
        self.assertIn("No school is called", said)

    def test_what_cannot_be_used_is_one_sentence_and_code_2(self):
        (self.at / "text.jpg").write_text("no picture")
        (self.at / "bad.toml").write_text("slug = ")
        (self.at / "bad.json").write_text('{"rim": [1, 2]}')
        (self.at / "small.toml").write_text("container_height_cm = -3")
        good = self.at / "piece.jpg"
        for arguments in (
            ("measure", self.at / "absent.jpg"),
            ("measure", self.at),
            ("measure", self.at / "text.jpg"),
            ("measure", good, "--datum", self.at / "bad.json"),
            ("measure", good, "--container-height-cm", "-4"),
            ("measure", good, "--mask", self.at / "absent" / "mask.png"),
            ("score", good, "--rules", "no-such-school"),
            ("score", good, "--rules", self.at / "bad.toml"),
            ("score", good, "--rules", "classical-line-mass", "--brief", self.at / "small.toml"),
        ):
            with self.subTest(arguments):
                code, out, err = self.run_it(*arguments)
                self.assertEqual(code, 2)
                self.assertEqual(out, "")
                self.assertEqual(len(err.strip().splitlines()), 1)
                self.assertNotIn("Traceback", err)
