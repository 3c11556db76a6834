"""What the nightly timer runs: a backup to the place that the settings name, old ones thinned out,
and once a week the proof that it can be restored.
"""

import logging

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError
from django.utils import timezone

from heath.operations.backup import NotBackedUp, back_up, thin, verify

log = logging.getLogger(__name__)
PROVED_ON = 6  # Sunday, as date.weekday() counts


class Command(BaseCommand):
    help = "Back up to backup_to with backup_key; on Sundays prove the backup."

    def add_arguments(self, parser):
        parser.add_argument("--prove", action="store_true", help="prove it whatever the day")

    def handle(self, *args, **options):
        place, key = settings.BACKUP_TO, settings.BACKUP_KEY
        if not place:
            raise CommandError("backup_to is not set: name a folder or a repository for backups.")
        try:
            manifest = back_up(place, key)
            thin(place, key)
            self.stdout.write(f"Backed up {manifest.files} files, {manifest.size / 1e6:.0f} MB.")
            if options["prove"] or timezone.localdate().weekday() == PROVED_ON:
                proof = verify(place, key)
                if not proof.holds:
                    raise NotBackedUp(
                        f"The backup does not hold: {len(proof.differing)} tables differ,"
                        f" {len(proof.missing)} files are missing. Run bin/verify, and back up to a"
                        " new place."
                    )
                self.stdout.write("It was restored beside and holds.")
        except NotBackedUp as error:
            log.error("the nightly backup failed: %s", error)
            raise CommandError(str(error)) from error
