import json
import subprocess
import sys
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
EXAMPLES = 40


class Fuzz(unittest.TestCase):
    """Damaged and hostile files, hundreds with those of fuzz.py: none crashes, none takes 20 s or a
    gigabyte, none that is cut short is measured.
    """

    @classmethod
    def setUpClass(cls):
        done = subprocess.run(
            [sys.executable, "-W", "ignore", "-m", "juniper.photograph.tests.fuzz", str(EXAMPLES)],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=False,
            timeout=900,
        )
        cls.error = done.stderr[-2000:] if done.returncode else ""
        cls.figures = json.loads(done.stdout.splitlines()[-1]) if not done.returncode else {}

    def setUp(self):
        self.assertEqual(self.error, "")

    def test_whole_files_of_each_kind_are_measured(self):
        self.assertEqual(set(self.figures["whole"].values()), {"measured"})

    def test_hostile_files_are_refused_in_words(self):
        for name, said in self.figures["hostile"].items():
            if name not in ("picture twice", "exif says everything"):  # the picture itself is whole
                self.assertNotEqual(said, "measured", name)
                self.assertRegex(said, r"^[A-Z].*\.$")
                self.assertNotRegex(said, r"Error|Exception|0x|\bNone\b")

    def test_damaged_files(self):
        count = self.figures["count"]
        self.assertGreaterEqual(count["measured"] + count["refused"], EXAMPLES)
        self.assertGreater(count["refused"], EXAMPLES // 3)
        self.assertEqual(count["cut short and measured"], 0)

    def test_memory(self):
        self.assertLess(self.figures["peak_mb"], 1024)
