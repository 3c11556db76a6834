"""What nobody's cache keeps, and a full disk."""

import errno
from unittest import mock

import psycopg
from django.db import OperationalError
from django.urls import reverse

from heath.testing import SchoolTestCase, photographed
from heath.web.private import full


class Private(SchoolTestCase):
    def test_pages_of_those_signed_in_are_kept_by_no_cache(self):
        self.assertEqual(self.client.get("/")["Cache-Control"], "private, no-store")
        piece = photographed(self.brief, self.user)
        picture = self.client.get(reverse("photograph-copy", args=[piece.photograph.pk, "thumb"]))
        self.assertIn("private", picture["Cache-Control"])
        self.assertIn("max-age=86400", picture["Cache-Control"])

    def test_a_full_disk_is_told_in_words(self):
        for error in (
            OSError(errno.ENOSPC, "No space left on device"),
            OSError(errno.EDQUOT, "Quota exceeded"),
        ):
            with mock.patch("heath.briefs.term.visible", side_effect=error):
                self.assertContains(
                    self.client.get("/"), "The disk of the site is full", status_code=507
                )
        with (
            mock.patch("heath.briefs.term.visible", side_effect=OSError(errno.EACCES, "no")),
            self.assertRaises(OSError),
        ):
            self.client.get("/")

    def test_a_full_disk_of_the_database(self):
        fault = OperationalError("could not extend file")
        fault.__cause__ = psycopg.errors.DiskFull()  # PostgreSQL, appendix A: disk_full
        self.assertTrue(full(fault))
        self.assertFalse(full(OperationalError("closed")))
