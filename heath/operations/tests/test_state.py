"""The page Server, the figures for a scraper, and how far pieces are seen anew."""

import os
import tempfile
import time
from datetime import timedelta
from pathlib import Path

from axes.models import AccessLog
from django.contrib.sessions.models import Session
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django import app

from heath.assessment.models import Photograph
from heath.operations import checks
from heath.operations.state import renewal
from heath.operations.tasks import clear
from heath.testing import SchoolTestCase, photographed


class Server(SchoolTestCase):
    def test_for_those_alone_who_look_after_it(self):
        self.assertEqual(self.client.get(reverse("server")).status_code, 404)
        self.assertNotContains(self.client.get(reverse("settings")), reverse("server"))
        self.user.is_superuser = True
        self.user.save()
        app.configure_task("jobs.run").defer(job_id=1)
        page = self.client.get(reverse("server"))
        self.assertContains(page, "No worker is running")
        self.assertContains(page, "2 schools,")
        self.assertContains(page, "Jobs waiting")
        self.assertContains(self.client.get(reverse("settings")), reverse("server"))

    def test_how_far_an_older_core_s_pictures_are(self):
        piece = photographed(self.brief, self.user)
        self.assertEqual((renewal().whole, renewal().waiting, renewal().share), (1, 0, 100))
        Photograph.objects.filter(pk=piece.photograph.pk).update(core_version="0.1")
        self.assertEqual((renewal().waiting, renewal().share), (1, 0))
        self.user.is_superuser = True
        self.user.save()
        self.assertContains(self.client.get(reverse("server")), "0 per cent")


class Metrics(SchoolTestCase):
    @override_settings(METRICS=True, METRICS_FROM=("127.0.0.1",))
    def test_queue_and_requests_for_the_addresses_that_may(self):
        self.client.logout()
        app.configure_task("jobs.run").defer(job_id=1)
        text = self.client.get(reverse("metrics")).content.decode()
        self.assertIn('heath_queue_jobs{queue="default",state="todo"} 1.0', text)
        self.assertIn("heath_workers 0.0", text)
        answer = self.client.get(reverse("metrics"), REMOTE_ADDR="192.0.2.7")
        self.assertEqual(answer.status_code, 404)

    def test_off_unless_it_is_asked_for(self):
        self.assertEqual(self.client.get(reverse("metrics")).status_code, 404)


@override_settings(STANDINS=False)
class BackupsAge(SchoolTestCase):
    def test_a_backup_that_is_missing_or_old_is_told(self):
        with tempfile.TemporaryDirectory() as folder:
            with override_settings(BACKUP_TO="/backups", DATA=Path(folder)):
                self.assertIn("no backup yet", checks.backup().fault)
                checks.stamp_of_backup().touch()
                self.assertTrue(checks.backup().well)
                old = time.time() - 3 * 24 * 3600
                os.utime(checks.stamp_of_backup(), (old, old))
                self.assertIn("72 hours old", checks.backup().fault)
            with override_settings(BACKUP_TO=""):
                self.assertIn("No place for backups", checks.backup().fault)


class Cleared(SchoolTestCase):
    def test_old_attempts_and_sessions_that_ended_go(self):
        now = timezone.now()
        for days in (1, 31):
            one = AccessLog.objects.create(username="ruth", ip_address="192.0.2.7")
            AccessLog.objects.filter(pk=one.pk).update(attempt_time=now - timedelta(days=days))
        for key, hours in (("gone", -1), ("held", 1)):
            Session.objects.create(
                session_key=key, session_data="", expire_date=now + timedelta(hours=hours)
            )
        clear()
        self.assertEqual(AccessLog.objects.filter(ip_address="192.0.2.7").count(), 1)
        self.assertFalse(Session.objects.filter(session_key="gone").exists())
        self.assertTrue(Session.objects.filter(session_key="held").exists())
