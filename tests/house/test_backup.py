"""A backup taken, proved, and restored into an empty place, on a cluster of its own; and each way
in which that can be asked wrongly.
"""

import json
import os
import secrets
import unittest

from tests.house.installation import MADE, installation


class Backups(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.house = installation()
        cls.folder = cls.house.folder
        cls.house.database("first", like=MADE)
        for name in ("second", "fourth"):
            cls.house.database(name)
        cls.key = cls.folder / "key"
        cls.key.write_text(secrets.token_urlsafe(40))
        cls.made = cls.folder / "backup"
        media = cls.house.data("first") / "media" / "photographs"
        media.mkdir(parents=True)
        for n in range(3):
            (media / f"{n}.jpg").write_bytes(os.urandom(2000))
        cls.house.sql(
            "first",
            "INSERT INTO practice_practicepicture (number, file, study, index, marks, version,"
            " made_at) VALUES (1, 'photographs/0.jpg', '{}', '{}', '{}', 'x', now())",
        )

    def asked(self, name, command, place=None, key=None, fails=False):
        return self.house.manage(
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
        self.assertEqual(self.house.sql("second", "SELECT username FROM people_user"), [("ruth",)])
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
        self.house.database("third", like="first")
        self.house.sql("third", "UPDATE practice_practicepicture SET file = 'photographs/gone.jpg'")
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
