"""Back up this installation."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from heath.operations.backup import NotBackedUp, back_up


class Command(BaseCommand):
    help = "Back up database, photographs and keys to a folder, while people work."

    def add_arguments(self, parser):
        parser.add_argument("to", help="folder, or a place as restic names it")
        parser.add_argument("--key", type=Path, required=True, help="file with the backup's key")

    def handle(self, *args, **options):
        try:
            made = back_up(options["to"], options["key"])
        except NotBackedUp as error:
            raise CommandError(str(error)) from error
        rows = sum(count for count, _ in made.tables.values())
        self.stdout.write(
            f"Backed up as of {made.taken_at}: {rows:,} rows, {made.files:,} files,"
            f" {made.size / 1e6:,.0f} MB."
        )
