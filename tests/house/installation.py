"""What tests of an installation share: a database cluster in which a filled database is made once,
and copies of it for each test.
"""

from __future__ import annotations

import atexit
import os
import shutil
import subprocess
import sys
import tempfile
from functools import cache
from pathlib import Path

import psycopg

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "bin"))

from _cluster import Cluster, free_port  # noqa: E402

PASSWORD = "for-tests-only"
MADE = "made"


class Installation:
    """A folder and a cluster; `made` is a database with the tables and a school."""

    def __init__(self):
        self.folder = Path(tempfile.mkdtemp(prefix="heath-house-", dir="/var/tmp"))
        self.folder.chmod(0o755)
        self.cluster = Cluster(self.folder / "cluster", self.folder / "log", quick=True)
        self.cluster.make(PASSWORD)
        self.cluster.start()
        self.database(MADE)
        self.manage(MADE, "migrate", "--verbosity=0")
        self.link = self.manage(
            MADE, "first_owner", "--school=Cliffend College", "--username=ruth",
            "--email=ruth@example.org",
        ).splitlines()[-1]  # fmt: skip
        self.manage(MADE, "collectstatic", "--no-input", "--verbosity=0")

    def remove(self):
        self.cluster.stop()
        if self.cluster.folder.exists():
            self.cluster.remove()
        shutil.rmtree(self.folder, ignore_errors=True)

    def connected(self, name="postgres", **more):
        return psycopg.connect(
            host="127.0.0.1", port=self.cluster.port, user="heath", password=PASSWORD,
            dbname=name, autocommit=True, **more,
        )  # fmt: skip

    def database(self, name, like=None):
        """Make a database, empty or like another."""
        with self.connected() as link:
            link.execute(f"CREATE DATABASE {name}" + (f" TEMPLATE {like}" if like else ""))

    def sql(self, name, words):
        with self.connected(name) as link:
            found = link.execute(words)
            return found.fetchall() if found.description else []

    def data(self, name):
        """The data folder of an installation of this name."""
        return self.folder / name

    def environment(self, name, **more):
        return os.environ | {
            "DJANGO_SETTINGS_MODULE": "heath.config.settings",
            "PYTHONPATH": str(ROOT),
            "HEATH_SECRET_KEY": f"{name}-{'x' * 60}",
            "HEATH_DATA": str(self.data(name)),
            "HEATH_DB_NAME": name,
            "HEATH_DB_PASSWORD": PASSWORD,
            "HEATH_DB_PORT": str(self.cluster.port),
            **more,
        }

    def manage(self, name, *command, fails=False, **more):
        """What a command of the site says; its error where it must fail."""
        done = subprocess.run(
            [sys.executable, "-W", "ignore", "manage.py", *command],
            cwd=ROOT,
            env=self.environment(name, **more),
            capture_output=True,
            text=True,
            check=False,
        )
        if bool(done.returncode) != fails:
            raise AssertionError(f"{command}: {done.stdout[-400:]} {done.stderr[-800:]}")
        return (done.stderr if fails else done.stdout).strip()


@cache
def installation() -> Installation:
    """The one of this run, made when it is first asked for."""
    made = Installation()
    atexit.register(made.remove)
    return made


__all__ = ["MADE", "PASSWORD", "ROOT", "Installation", "free_port", "installation"]
