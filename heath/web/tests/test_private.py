"""What nobody's cache keeps, a full disk, and a database that is away."""

import errno
from unittest import mock

import psycopg
from django.db import InterfaceError, OperationalError
from django.test import Client
from django.urls import reverse

from heath.testing import SchoolTestCase, photographed
from heath.web.faults import database_unreachable, full


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

    def test_a_database_that_cannot_be_reached_is_told_from_one_that_refuses(self):
        def fault(cause, kind=OperationalError):
            error = kind("")
            error.__cause__ = cause
            return error

        # PostgreSQL, appendix A: admin_shutdown, deadlock_detected, lock_not_available
        self.assertTrue(
            database_unreachable(fault(psycopg.OperationalError("connection timeout expired")))
        )
        self.assertTrue(
            database_unreachable(fault(psycopg.InterfaceError("closed"), InterfaceError))
        )
        self.assertTrue(database_unreachable(fault(psycopg.errors.AdminShutdown())))
        for refused in (psycopg.errors.DeadlockDetected(), psycopg.errors.LockNotAvailable()):
            self.assertFalse(database_unreachable(fault(refused)))
        self.assertFalse(database_unreachable(ValueError()) or database_unreachable(None))

    def test_without_a_database_a_page_says_so_and_a_proxy_asks_another_machine(self):
        visitor = Client(raise_request_exception=False)
        visitor.cookies = self.client.cookies
        for error, status, words in (
            (OperationalError("connection timeout expired"), 503, "The database does not answer"),
            (ValueError("nothing"), 500, "Something went wrong here"),
        ):
            # in the middle of a page, and before it, where the visitor is looked up
            for place in ("heath.briefs.term.visible", "heath.people.backend.User.objects"):
                with mock.patch(place, side_effect=error) as met:
                    met.select_related.side_effect = error
                    answer = visitor.get("/")
                self.assertContains(answer, words, status_code=status)
                self.assertEqual(answer.has_header("Retry-After"), status == 503)
