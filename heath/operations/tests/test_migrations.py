"""The release of before runs on while this one starts: it must understand the new tables. Checked
by django-migration-linter on the SQL of every migration that the newest dump does not hold.
"""

import gzip
import re
from pathlib import Path

from django.apps import apps
from django.conf import settings
from django.db.migrations.loader import MigrationLoader
from django.test import TestCase
from django_migration_linter import MigrationLinter
from django_migration_linter.sql_analyser.analyser import analyse_sql_statements

RELEASES = Path(settings.BASE_DIR) / "tests" / "house" / "releases"

# What the linter refuses and a person found harmless, with the reason.
LOOKED_AT = {
    # ADD_UNIQUE: the database gives each row of the release before a random secret of its own
    "0013_unique_secrets"
}


def held(dump: Path) -> set[tuple[str, str]]:
    """The migrations that a release's dump holds: (app, name)."""
    text = gzip.decompress(dump.read_bytes()).decode()
    rows = r"INSERT INTO public\.django_migrations VALUES \(\d+, '(\w+)', '(\w+)'"
    return set(re.findall(rows, text))


class OfTheReleaseBefore(TestCase):
    def newest(self) -> Path:
        dumps = RELEASES.glob("*.sql.gz")
        return max(dumps, key=lambda p: [int(n) for n in p.name.split(".")[:3]])

    def test_it_understands_the_new_tables(self):
        known = held(self.newest())
        self.assertGreater(len(known), 100)
        disk = MigrationLoader(None).disk_migrations
        known |= {pair for pair in disk if set(disk[pair].replaces) & known}
        linter = MigrationLinter(no_cache=True, no_output=True, ignore_name=list(LOOKED_AT))
        own = {a.label for a in apps.get_app_configs() if a.name.startswith("heath.")}
        new = sorted(pair for pair in disk if pair not in known and pair[0] in own)
        for app, name in new:
            linter.lint_migration(disk[app, name])
        self.assertEqual(linter.nb_erroneous, 0, [f"{a}.{n}" for a, n in new])
        self.assertEqual(linter.nb_total, len(new))

    def test_what_it_would_not_understand_is_found(self):
        analyser = MigrationLinter(no_cache=True, no_output=True).sql_analyser_class
        for sql, code in (
            ('ALTER TABLE "people_school" ADD COLUMN "x" integer NOT NULL', "NOT_NULL"),
            ('ALTER TABLE "people_school" DROP COLUMN "south"', "DROP_COLUMN"),
            ('ALTER TABLE "people_school" RENAME COLUMN "south" TO "s"', "RENAME_COLUMN"),
        ):
            errors, _, _ = analyse_sql_statements(analyser, [sql])
            self.assertEqual([error.code for error in errors], [code])
