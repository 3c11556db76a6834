"""A private database and the site on it, made for one purpose and thrown away."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from _cluster import Cluster

ROOT = Path(__file__).resolve().parents[1]
PASSWORD = "for-this-purpose-only"


@contextmanager
def private_site(purpose: str) -> Iterator[None]:
    """Django set up on a fresh, migrated database of its own."""
    sys.path.insert(0, str(ROOT))
    with tempfile.TemporaryDirectory(prefix=f"heath-{purpose}-", dir="/var/tmp") as folder:
        os.chmod(folder, 0o755)
        cluster = Cluster(Path(folder) / "cluster", Path(folder) / "database.log", quick=True)
        try:
            cluster.make(PASSWORD)
            cluster.start()
            os.environ.update(
                DJANGO_SETTINGS_MODULE="heath.config.settings",
                HEATH_DATA=folder,
                HEATH_SECRET_KEY="only-for-this" * 5,
                HEATH_DB_NAME="postgres",
                HEATH_DB_PASSWORD=PASSWORD,
                HEATH_DB_PORT=str(cluster.port),
                HEATH_HOSTS="testserver,127.0.0.1",
            )
            import django

            django.setup()
            from django.conf import settings
            from django.core.management import call_command

            settings.STORAGES["staticfiles"] = {
                "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
            }
            call_command("migrate", verbosity=0, interactive=False)
            settings.STATIC_ROOT.mkdir(exist_ok=True)
            yield
        finally:
            cluster.stop()
            if cluster.folder.parent != Path(folder):
                cluster.remove()
