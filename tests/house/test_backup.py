"""A backup taken, proved, and restored into an empty place, on a cluster of its own; and each way
in which that can be asked wrongly.
"""

import json
import os
import secrets
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "bin"))
from _cluster import Cluster  # noqa: E402

PASSWORD = "only-for-these-tests"


class Backups(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.folder = Path(tempfile.mkdtemp(prefix="heath-backup-", dir="/var/tmp"))
        cls.folder.chmod(0o755)
        cls.cluster = Cluster(cls.folder / "cluster", cls.folder / "log", quick=True)
        cls.cluster.make(PASSWORD)
        cls.cluster.start()
        for name in ("first", "second", "fourth"):
            cls.sql("postgres", f"CREATE DATABASE {name}")
        cls.key = cls.folder / "key"
        cls.key.write_text(secrets.token_urlsafe(40))
        cls.made = cls.folder / "backup"
        cls.run_in("first", "migrate", "--verbosity=0")
        cls.run_in(
            "first", "first_owner", "--school=Cliffend College", "--username=ruth",
            "--email=ruth@example.org",
        )  # fmt: skip
        media = cls.folder / "first" / "media" / "photographs"
        media.mkdir(parents=True)
        for n in range(3):
            (media / f"{n}.jpg").write_bytes(os.urandom(2000))
        cls.sql(
            "first",
            "INSERT INTO practice_practicepicture (number, file, study, index, marks, version,"
            " made_at) VALUES (1, 'photographs/0.jpg', '{}', '{}', '{}', 'x', now())",
        )

    @classmethod
    def tearDownClass(cls):
        cls.cluster.stop()
        if cls.cluster.folder.exists():
            cls.cluster.remove()
        shutil.rmtree(cls.folder, ignore_errors=True)

    @classmethod
    def sql(cls, name, words):
        done = subprocess.run(
            ["psql", "-At", "-c", words],
            env=os.environ | {
                "PGHOST": "127.0.0.1", "PGPORT": str(cls.cluster.port), "PGUSER": "heath",
                "PGPASSWORD": PASSWORD, "PGDATABASE": name,
            },
            capture_output=True, text=True, check=True,
        )  # fmt: skip
        return done.stdout.strip()

    @classmethod
    def run_in(cls, name, *command, fails=False):
        """A command of the site on a database and a data folder of this name."""
        done = subprocess.run(
            [sys.executable, "-W", "ignore", "manage.py", *command],
            cwd=ROOT,
            env=os.environ | {
                "DJANGO_SETTINGS_MODULE": "heath.config.settings",
                "HEATH_SECRET_KEY": f"{name}-{'x' * 60}",
                "HEATH_DATA": str(cls.folder / name),
                "HEATH_DB_NAME": name,
                "HEATH_DB_PASSWORD": PASSWORD,
                "HEATH_DB_PORT": str(cls.cluster.port),
            },
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        if bool(done.returncode) != fails:
            raise AssertionError(f"{command}: {done.stdout} {done.stderr[-800:]}")
        return (done.stderr if fails else done.stdout).strip()

    def asked(self, name, command, place=None, key=None, fails=False):
        return self.run_in(
            name, command, str(place or self.made), f"--key={key or self.key}", fails=fails
        )

    def test_a_backup_holds_and_is_restored_whole(self):
        self.assertIn("3 files", self.asked("first", "backup"))
        self.assertIn("holds", self.asked("first", "verify_backup"))
        # a second backup keeps what is new alone
        before = sum(p.stat().st_size for p in self.made.rglob("*") if p.is_file())
        self.asked("first", "backup")
        after = sum(p.stat().st_size for p in self.made.rglob("*") if p.is_file())
        self.assertLess(after - before, before)
        self.assertNotIn(b"Cliffend", b"".join(p.read_bytes() for p in self.made.rglob("*")
                                                if p.is_file()))  # fmt: skip
        said = self.asked("second", "restore")
        self.assertIn("secret key is another", said)
        kept = json.loads((self.folder / "second" / "restored-keys.json").read_text())
        self.assertEqual(kept["secret"], f"first-{'x' * 60}")
        self.assertEqual(self.sql("second", "SELECT username FROM people_user"), "ruth")
        for n in range(3):
            first, second = (
                (self.folder / name / "media" / "photographs" / f"{n}.jpg").read_bytes()
                for name in ("first", "second")
            )
            self.assertEqual(first, second)
        # into what is not empty nothing is restored
        self.assertIn("not empty", self.asked("second", "restore", fails=True))
        # nothing is left lying about
        self.assertEqual(
            [p.name for p in (self.folder / "first").iterdir() if "staging" in p.name], []
        )

    def test_a_photograph_that_is_gone_is_named(self):
        other = self.folder / "lost"
        (self.folder / "third" / "media").mkdir(parents=True, exist_ok=True)
        self.sql("postgres", "CREATE DATABASE third TEMPLATE first")
        self.sql("third", "UPDATE practice_practicepicture SET file = 'photographs/gone.jpg'")
        self.asked("third", "backup", other)
        said = self.asked("third", "verify_backup", other, fails=True)
        self.assertIn("does not hold", said)

    def test_what_is_asked_wrongly_is_told_in_a_sentence(self):
        place = self.folder / "asked"
        self.asked("first", "backup", place)
        wrong = self.folder / "wrong"
        wrong.write_text("another key")
        empty = self.folder / "nothing"
        empty.mkdir()
        full = self.folder / "full"
        full.mkdir()
        (full / "letter.txt").write_text("mine")
        for command, at, key, words in (
            ("verify_backup", place, wrong, "does not open"),
            ("restore", empty, self.key, "no backup there"),
            ("backup", full, self.key, "other files"),
            ("backup", place, self.folder / "no-key", "no key in"),
        ):
            with self.subTest(words):
                name = "first" if command != "restore" else "fourth"
                said = self.asked(name, command, at, key, fails=True)
                self.assertIn(words, said)
                self.assertNotIn("Traceback", said)
        # half a backup: a pack is gone
        pack = max((place / "data").rglob("*"), key=lambda p: p.stat().st_size * p.is_file())
        pack.unlink()
        said = self.asked("first", "verify_backup", place, fails=True)
        self.assertNotIn("Traceback", said)
