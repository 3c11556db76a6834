"""Draw the example of every measure anew."""

import json

from django.core.management.base import BaseCommand

from heath.rulebook.examples import KEPT, drawn_examples


class Command(BaseCommand):
    help = "Draw the example of every measure anew, after the core's version has changed."

    def handle(self, *args, **options):
        KEPT.write_text(json.dumps(drawn_examples(), indent=1, ensure_ascii=False) + "\n")
        self.stdout.write(f"{KEPT.name} written, {KEPT.stat().st_size / 1000:.0f} kB")
