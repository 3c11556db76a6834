"""Schools, people and the site's key by command."""

import os
import tempfile
from io import StringIO
from pathlib import Path
from unittest import mock

import tomlkit
from django.conf import settings
from django.core.management import CommandError, call_command
from django.test import SimpleTestCase, TestCase, override_settings
from django.urls import reverse

from heath.people.models import Membership, Role, School, User


def said(*command):
    out = StringIO()
    call_command(*command, stdout=out)
    return out.getvalue().strip()


class Schools(TestCase):
    def setUp(self):
        said("first_owner", "--school=Cliffend College", "--username=ruth", "--email=r@x.test")

    def test_listed_and_added(self):
        self.assertEqual(
            said("schools", "--add", "Reef School"),
            "Cliffend College: 1 people, 0 photographs\nReef School: 0 people, 0 photographs",
        )
        with self.assertRaisesMessage(CommandError, "There is a school reef school already"):
            said("schools", "--add", "reef school")

    def test_somebody_is_added_changed_kept_out_and_let_in(self):
        school = School.objects.get()
        link = said("person", school.name, "bo", "--add=b@x.test", "--as=instructor")
        self.assertIn("https://localhost/", link)
        one = Membership.objects.get(user__username="bo")
        self.assertEqual((one.role, one.user.is_superuser), (Role.INSTRUCTOR, False))
        said("person", school.name, "bo", "--role=owner")
        said("person", school.name, "ruth", "--out")
        self.assertFalse(User.objects.get(username="ruth").is_active)
        said("person", school.name, "ruth", "--in")
        self.assertTrue(User.objects.get(username="ruth").is_active)
        self.assertIn("/set-password", self.client.get(
            said("person", school.name, "ruth", "--link").splitlines()[-1].removeprefix(
                "https://localhost")).url)  # fmt: skip

    def test_what_cannot_be_is_said(self):
        for command, words in (
            (("person", "Nowhere", "bo", "--link"), "There is: Cliffend College"),
            (("person", "Cliffend College", "bo", "--link"), "Nobody signs in as bo"),
            (("person", "Cliffend College", "ruth", "--out"), "needs an owner"),
            (("person", "Cliffend College", "ruth", "--role=assistant"), "needs an owner"),
            (("person", "Cliffend College", "bo", "--add=nobody"), "no e-mail address"),
        ):
            with self.subTest(words), self.assertRaisesMessage(CommandError, words):
                said(*command)

    def test_the_first_owner_of_all_looks_after_the_server(self):
        said("first_owner", "--school=Reef School", "--username=cai", "--email=c@x.test")
        for name, status in (("ruth", 200), ("cai", 404)):
            self.client.force_login(User.objects.get(username=name))
            self.assertEqual(self.client.get(reverse("server")).status_code, status)


class Keys(TestCase):
    def test_nobody_is_signed_out_while_the_key_before_is_taken(self):
        said("first_owner", "--school=Cliffend College", "--username=ruth", "--email=r@x.test")
        old = settings.SECRET_KEY
        self.client.force_login(User.objects.get())
        with override_settings(SECRET_KEY="n" * 60, SECRET_KEY_FALLBACKS=[old]):
            self.assertEqual(self.client.get(reverse("term")).status_code, 200)
        # the session is signed by the new key now, and holds without the old one
        with override_settings(SECRET_KEY="n" * 60, SECRET_KEY_FALLBACKS=[]):
            self.assertEqual(self.client.get(reverse("term")).status_code, 200)

    def test_without_the_key_before_everybody_signs_in_again(self):
        said("first_owner", "--school=Cliffend College", "--username=ruth", "--email=r@x.test")
        self.client.force_login(User.objects.get())
        with override_settings(SECRET_KEY="n" * 60, SECRET_KEY_FALLBACKS=[]):
            self.assertEqual(self.client.get(reverse("term")).status_code, 302)


class Rotated(SimpleTestCase):
    def rotated(self, *words, text=None):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "settings.toml"
            usual = f'# mine\nsecret_key = "{settings.SECRET_KEY}"\nport = 8100\n'
            path.write_text(usual if text is None else text)
            path.chmod(0o640)
            with mock.patch.dict(os.environ, {"HEATH_CONFIG": str(path)}):
                said("rotate_key", *words)
            self.assertEqual(path.stat().st_mode & 0o777, 0o640)
            return path.read_text()

    def test_the_present_key_becomes_an_old_one_and_the_rest_stays(self):
        text = self.rotated()
        found = tomlkit.parse(text)
        self.assertEqual(found["old_keys"], [settings.SECRET_KEY])
        self.assertNotEqual(found["secret_key"], settings.SECRET_KEY)
        self.assertGreater(len(found["secret_key"]), 50)
        self.assertIn("# mine\n", text)
        self.assertEqual(found["port"], 8100)

    def test_no_more_than_three_are_kept_and_all_can_be_forgotten(self):
        with override_settings(SECRET_KEY_FALLBACKS=["a", "b", "c"]):
            self.assertEqual(
                tomlkit.parse(self.rotated())["old_keys"], [settings.SECRET_KEY, "a", "b"]
            )
        self.assertEqual(tomlkit.parse(self.rotated("--forget"))["old_keys"], [])

    def test_a_key_that_comes_from_elsewhere_is_not_changed(self):
        with self.assertRaisesMessage(CommandError, "change it there"):
            self.rotated(text="port = 8100\n")
