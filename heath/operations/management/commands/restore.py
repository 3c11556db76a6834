"""Restore a backup into an empty place."""

import json
from dataclasses import asdict
from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from heath.operations.backup import NotBackedUp, restore


class Command(BaseCommand):
    help = "Restore the latest backup into an empty database and an empty folder of photographs."
    requires_system_checks = ()

    def add_arguments(self, parser):
        parser.add_argument("place", help="folder of the backup")
        parser.add_argument("--key", type=Path, required=True, help="file with the backup's key")

    def handle(self, *args, **options):
        try:
            done = restore(options["place"], options["key"])
        except NotBackedUp as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"Restored as of {done.taken_at}.")
        if done.secret_key != settings.SECRET_KEY:
            kept = Path(settings.DATA) / "restored-keys.json"
            kept.touch(mode=0o600)
            kept.write_text(json.dumps({"secret": asdict(done)["secret_key"]}))
            self.stdout.write(
                f"Its secret key is another than this site's: it is in {kept}. Set it as"
                " HEATH_SECRET_KEY, or printed links end."
            )
