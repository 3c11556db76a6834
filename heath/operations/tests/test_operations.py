"""Health addresses, the doctor, the first owner, and that the demo is not served to the world."""

import os
import subprocess
import sys
from datetime import timedelta
from io import StringIO
from unittest import mock

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import Error
from django.test import SimpleTestCase, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from heath.operations import checks
from heath.people.models import Role, User


class Health(TestCase):
    def test_anybody_may_ask_and_learns_nothing_else(self):
        self.assertEqual(self.client.get(reverse("health-live")).content, b"alive\n")
        answer = self.client.get(reverse("health-ready"))
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(
            answer.json(), {"ready": True, "checks": {"database": "well", "migrations": "well"}}
        )

    def test_not_ready_while_tables_are_of_another_release(self):
        with mock.patch.object(checks.MigrationExecutor, "migration_plan", return_value=[1, 2]):
            answer = self.client.get(reverse("health-ready"))
            said = checks.migrations().fault
        self.assertEqual(answer.status_code, 503)
        self.assertEqual(answer.json()["checks"]["migrations"], "fault")
        self.assertIn("2 changes", said)

    def test_without_a_database_what_needs_none_is_still_checked(self):
        with mock.patch.object(checks.connection, "cursor", side_effect=Error):
            found = checks.examined(checks.ALL)
        names = [o.name for o in found]
        self.assertEqual(names[0], "database")
        self.assertIn("db_host", found[0].fault)
        self.assertIn("disk", names)
        self.assertNotIn("queue", names)


class Doctor(TestCase):
    def told(self):
        out = StringIO()
        try:
            call_command("doctor", stdout=out)
        except SystemExit as end:
            return out.getvalue(), end.code
        return out.getvalue(), 0

    def test_it_names_each_thing_and_ends_by_what_it_found(self):
        text, code = self.told()
        self.assertIn("PostgreSQL 1", text)
        self.assertIn("No worker is running", text)
        self.assertEqual(code, 1)

    def test_a_full_disk_and_a_clock_that_is_wrong(self):
        usage = mock.Mock(free=10**9, total=10**12)
        with mock.patch.object(checks.shutil, "disk_usage", return_value=usage):
            self.assertIn("Only 1 GB of 1000 GB free", checks.disk().fault)
        ahead = timezone.now() + timedelta(seconds=90)
        with mock.patch.object(checks.timezone, "now", return_value=ahead):
            self.assertRegex(checks.clock().fault, "9[0-2]|8[89]")
        self.assertEqual(checks.clock().fault, "")

    def test_storage_that_cannot_be_written(self):
        with mock.patch.object(checks.default_storage, "save", side_effect=PermissionError):
            self.assertIn("right to write", checks.storage().fault)
        self.assertTrue(checks.storage().well)

    @override_settings(EMAIL_HOST="127.0.0.1", EMAIL_PORT=9)
    def test_a_mail_server_that_does_not_answer(self):
        self.assertIn("127.0.0.1:9 does not answer", checks.mail().fault)

    def test_model_files_that_are_missing(self):
        self.assertTrue(checks.models().well)
        with mock.patch.object(checks, "MODELS", ("no-such.onnx",)):
            self.assertIn("no-such.onnx is missing", checks.models().fault)

    def test_a_short_key(self):
        with override_settings(SECRET_KEY="short"):
            self.assertIn("shorter than 50", checks.keys().fault)


class FirstOwner(TestCase):
    given = ("--school", "Cliffend College", "--username", "ruth", "--email", "ruth@example.org")

    def make(self, *more):
        out = StringIO()
        call_command("first_owner", *self.given, *more, stdout=out)
        return out.getvalue()

    def test_the_link_sets_a_password_once(self):
        said = self.make("--name", "Ruth Marram", "--address", "https://heath.example.org/")
        link = next(line for line in said.splitlines() if line.startswith("https://"))
        path = link.removeprefix("https://heath.example.org")
        owner = User.objects.get(username="ruth")
        self.assertEqual((owner.role, owner.get_full_name()), (Role.OWNER, "Ruth Marram"))
        form = self.client.get(path, follow=True)
        word = "salt-and-juniper"
        self.client.post(form.redirect_chain[-1][0], {"new_password1": word, "new_password2": word})
        owner.refresh_from_db()
        self.assertTrue(owner.check_password(word))
        again = self.client.get(path, follow=True)
        self.assertNotContains(again, "new_password1")

    def test_a_second_owner_and_bad_words_are_refused(self):
        self.make()
        with self.assertRaisesMessage(CommandError, "has an owner already"):
            self.make()
        with self.assertRaisesMessage(CommandError, "no e-mail address"):
            call_command("first_owner", "--school", "X", "--username", "y", "--email", "nobody")
        with self.assertRaisesMessage(CommandError, "choose another"):
            call_command(
                "first_owner", "--school", "X", "--username", "Ruth", "--email", "r@example.org"
            )


class NotToTheWorld(SimpleTestCase):
    def starts(self, **environment):
        done = subprocess.run(
            [sys.executable, "-c", "import heath.config.settings"],
            env={**os.environ, "HEATH_SECRET_KEY": "x" * 60, **environment},
            cwd=settings.BASE_DIR,
            capture_output=True,
            text=True,
            check=False,
        )
        return done.returncode, done.stderr.strip().splitlines()[-1:]

    def test_the_demo_s_stand_ins_stay_on_loopback(self):
        self.assertEqual(self.starts(HEATH_STANDINS="1")[0], 0)
        for more in (
            {"HEATH_HOSTS": "heath.example.org"},
            {"HEATH_HOSTS": "*"},
            {"HEATH_HTTPS": "1"},
            {"HEATH_PROXY": "10.0.0.1"},
        ):
            with self.subTest(more):
                code, said = self.starts(HEATH_STANDINS="1", **more)
                self.assertEqual(code, 1)
                self.assertIn("known passwords", said[0])
                self.assertEqual(self.starts(HEATH_STANDINS="", **more)[0], 0)
