"""Write the JSON schema of bundles to docs/bundle-schema.json."""

import json

from django.conf import settings
from django.core.management.base import BaseCommand

from heath.bundles.schema import PieceOf, TermOf

PATH = settings.BASE_DIR / "docs" / "bundle-schema.json"


def as_text() -> str:
    """The schema of term.json and of pieces/ID.json (JSON Schema 2020-12), as it is published."""
    document = {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Juniper Heath bundle, version 1",
        "term.json": TermOf.model_json_schema(),
        "pieces/ID.json": PieceOf.model_json_schema(),
    }
    return json.dumps(document, indent=1) + "\n"


class Command(BaseCommand):
    help = "Write the JSON schema of bundles to docs/bundle-schema.json."

    def handle(self, *args, **options):
        PATH.write_text(as_text(), encoding="utf-8")
