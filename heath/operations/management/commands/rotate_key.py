"""Give the site a new secret key; the one before is still taken, so that nobody is signed out."""

import os
from pathlib import Path
from secrets import token_urlsafe

import tomlkit
from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

KEPT = 3  # older keys; sessions end after a fortnight by themselves


class Command(BaseCommand):
    help = "Write a new secret_key into the settings' file, and the present one among old_keys."

    def add_arguments(self, parser):
        parser.add_argument(
            "--forget",
            action="store_true",
            help="take no older key any more: whoever signed in before the last change signs in"
            " again",
        )

    def handle(self, *args, **options):
        file = os.environ.get("HEATH_CONFIG", "")
        if not file:
            raise CommandError(
                "HEATH_CONFIG names no file. Set HEATH_OLD_KEYS to the present key and"
                " HEATH_SECRET_KEY to a new one where they are set, and start the site anew."
            )
        path = Path(file)
        document = tomlkit.parse(path.read_text())
        if options["forget"]:
            document["old_keys"] = []
            done = "No older key is taken any more."
        else:
            if document.get("secret_key") != settings.SECRET_KEY:
                raise CommandError(
                    "secret_key comes from the environment or from a credential, not from"
                    f" {path}: change it there, and name the present one in old_keys."
                )
            document["old_keys"] = [settings.SECRET_KEY, *settings.SECRET_KEY_FALLBACKS][:KEPT]
            document["secret_key"] = token_urlsafe(50)
            done = "The site has a new key; the one before is still taken."
        new = path.with_name(path.name + ".new")
        new.touch(mode=path.stat().st_mode & 0o777)
        new.write_text(tomlkit.dumps(document))
        os.chown(new, path.stat().st_uid, path.stat().st_gid)
        new.rename(path)  # at once: whoever reads sees the one or the other
        self.stdout.write(f"{done} Reload web and workers. A new backup holds the new key.")
