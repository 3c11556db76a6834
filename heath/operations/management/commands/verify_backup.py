"""Prove a backup by restoring it beside."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError

from heath.operations.backup import NotBackedUp, verify

SHOWN = 5


class Command(BaseCommand):
    help = "Restore the latest backup beside, and compare rows and photographs with its manifest."

    def add_arguments(self, parser):
        parser.add_argument("place", help="folder of the backup")
        parser.add_argument("--key", type=Path, required=True, help="file with the backup's key")

    def handle(self, *args, **options):
        try:
            proof = verify(options["place"], options["key"])
        except NotBackedUp as error:
            raise CommandError(str(error)) from error
        for what, names in (
            ("tables differ", proof.differing),
            ("photographs are missing", proof.missing),
        ):
            if names:
                self.stdout.write(f"{len(names)} {what}: {', '.join(names[:SHOWN])}")
        if not proof.holds:
            raise CommandError("The backup does not hold. Make a new one, and keep the old ones.")
        self.stdout.write(
            f"The backup of {proof.manifest.taken_at} holds: {len(proof.manifest.tables)} tables"
            f" and {proof.manifest.files:,} files are as they were."
        )
