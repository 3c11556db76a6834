"""Lines to a database and to storage: what is asked for holds in a connection as it is made."""

import os
from unittest import mock

import psycopg
from django.db import connection
from django.test import TestCase

from heath.config.lines import database_line, storage_line


class Lines(TestCase):
    def shown(self, environment, *names):
        """What the database's side of a new connection has of some settings."""
        with mock.patch.dict(os.environ, environment):
            wanted = connection.get_connection_params() | database_line()
        for own in ("cursor_factory", "context", "prepare_threshold"):
            wanted.pop(own, None)
        with psycopg.connect(**wanted) as link:
            return [link.execute(f"SHOW {name}").fetchone()[0] for name in names]

    def test_both_ends_give_up_what_says_nothing(self):
        names = ("tcp_user_timeout", "tcp_keepalives_idle", "tcp_keepalives_count")
        self.assertEqual(self.shown({}, *names), ["15000", "5", "2"])
        params = connection.get_connection_params()
        self.assertEqual((params["tcp_user_timeout"], params["connect_timeout"]), (15000, 5))

    def test_what_the_environment_asks_of_the_database_holds_as_well(self):
        asked = {"PGOPTIONS": "-c lock_timeout=3s"}
        self.assertEqual(self.shown(asked, "lock_timeout", "tcp_user_timeout"), ["3s", "15000"])

    def test_storage_is_asked_twice_at_the_most(self):
        line = storage_line()
        self.assertEqual((line.connect_timeout, line.read_timeout), (5, 20))
        self.assertEqual(line.retries["total_max_attempts"], 2)
