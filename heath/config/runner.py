"""The tests' runner."""

from django.db import connection
from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Django's own; it also ends what a browser's last request or a worker may have left open, or
    the database could not be taken down.
    """

    def teardown_databases(self, old_config, **kwargs):
        if old_config:  # tests of plain functions alone make no database
            with connection.cursor() as cursor:
                cursor.execute(
                    "select pg_terminate_backend(pid) from pg_stat_activity"
                    " where datname = current_database() and pid <> pg_backend_pid()"
                )
        super().teardown_databases(old_config, **kwargs)
