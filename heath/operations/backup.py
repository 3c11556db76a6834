"""Backing up a school's server, proving a backup, and restoring one into an empty place.

What is kept lies in a restic repository: encrypted by a key of the school's own, and of the
photographs only what is new. A backup holds the database as of one moment (a snapshot that the
figures of its manifest are counted in), every photograph that was there at that moment, and the
secret key. People work on meanwhile.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import psycopg
from django.apps import apps
from django.conf import settings
from django.db import connection, transaction
from django.db.migrations.loader import MigrationLoader
from django.db.models import FileField
from psycopg import sql

from heath.operations.checks import stamp_of_backup
from heath.operations.files import empty, gathered, on_disk, put_back
from juniper import VERSION

TAG = "juniper-heath"
DUMP, MANIFEST, MEDIA = "database.dump", "manifest.json", "media"
# Tables that change by themselves while a backup is taken, or are of one machine's moment.
PASSING = ("django_session", "axes_", "procrastinate_", "people_press", "jobs_job")
# Backups kept by the nightly timer: two weeks of days, two months of weeks, a year of months.
KEEP = ("--keep-daily=14", "--keep-weekly=9", "--keep-monthly=12")
EMPTY = "d41d8cd98f00b204e9800998ecf8427e"  # MD5 of nothing


class NotBackedUp(Exception):
    """A backup that cannot be made, read or restored, with a sentence that says what to do."""


@dataclass(frozen=True)
class Manifest:
    """What a backup holds: when it was taken, by which core, the migrations that its tables know,
    of each table how many rows and their MD5, and how many files of how many bytes.
    """

    taken_at: str
    core: str
    migrations: list[str]
    tables: dict[str, list[Any]]
    files: int = 0
    size: int = 0
    secret_key: str = field(default="", repr=False)


@dataclass(frozen=True)
class Proof:
    """What a backup was proved by: its manifest, tables that are not as it says, and photographs
    that the database names and the backup does not hold.
    """

    manifest: Manifest
    differing: tuple[str, ...]
    missing: tuple[str, ...]

    @property
    def holds(self) -> bool:
        """Whether everything is there."""
        return not self.differing and not self.missing


def _run(words: list[str], environment: dict[str, str], cwd: Path | None = None) -> str:
    done = subprocess.run(
        words, env=environment, cwd=cwd, capture_output=True, text=True, check=False
    )
    if done.returncode:
        raise NotBackedUp(_sentence(words[0], done.stderr))
    return done.stdout


def _sentence(program: str, said: str) -> str:
    """What a program's complaint means here."""
    known = {
        "wrong password": "The key does not open this backup. Give the key that it was made with.",
        "no key found": "The key does not open this backup. Give the key that it was made with.",
        "unable to open config file": "There is no backup there. Check the folder's name.",
        "Is there a repository": "There is no backup there. Check the folder's name.",
        "no space left": "The disk is full. Nothing was changed; make room and do it again.",
        "No space left": "The disk is full. Nothing was changed; make room and do it again.",
        "no snapshot": "The backup holds nothing yet.",
        "permission denied": "The folder may not be read or written by this account.",
        "Permission denied": "The folder may not be read or written by this account.",
    }
    for sign, words in known.items():
        if sign in said:
            return words
    last = (said.strip().splitlines() or ["no reason given"])[-1]
    return f"{program} failed: {last}"


def _restic(place: str, key: Path, *words: str, cwd: Path | None = None) -> str:
    if not key.is_file() or not key.read_text().strip():
        raise NotBackedUp(f"There is no key in {key}. Make one, and keep a copy elsewhere.")
    environment = os.environ | {
        "RESTIC_REPOSITORY": place,
        "RESTIC_PASSWORD_FILE": str(key.resolve()),
        "RESTIC_CACHE_DIR": str(Path(settings.DATA) / "restic-cache"),
    }
    try:
        return _run(["restic", *words], environment, cwd)
    except FileNotFoundError:
        raise NotBackedUp("The package restic is missing: apt install restic.") from None


def _postgres(name: str | None = None) -> dict[str, str]:
    d = settings.DATABASES["default"]
    return os.environ | {
        "PGHOST": str(d["HOST"]),
        "PGPORT": str(d["PORT"]),
        "PGUSER": str(d["USER"]),
        "PGPASSWORD": str(d["PASSWORD"]),
        "PGDATABASE": name or str(connection.settings_dict["NAME"]),
    }


def _counted(cursor, names: list[str]) -> dict[str, list[Any]]:
    """Of each table the number of rows and the MD5 of them in an order of their own."""
    out: dict[str, list[Any]] = {}
    for name in names:
        cursor.execute(
            sql.SQL(
                "SELECT count(*), coalesce(md5(string_agg(md5(t::text), '' ORDER BY md5(t::text))),"
                " md5('')) FROM {} AS t"
            ).format(sql.Identifier(name))
        )
        out[name] = list(cursor.fetchone())
    return out


def _lasting(names: list[str]) -> list[str]:
    return sorted(n for n in names if not n.startswith(PASSING))


def back_up(place: str, key: Path) -> Manifest:
    """Back up database, photographs and secret key to a repository, which is made where there is
    none. Raises NotBackedUp.
    """
    _repository(place, key)
    staging = Path(settings.DATA) / "backup-staging"
    if staging.exists():
        shutil.rmtree(staging)  # of a backup that was broken off
    staging.mkdir(parents=True, mode=0o700)
    try:
        # Before and after the database: what is deleted meanwhile is still there, and what is new.
        gathered(staging / MEDIA)
        manifest = _dumped(staging / DUMP)
        gathered(staging / MEDIA)
        files = [p for p in (staging / MEDIA).rglob("*") if p.is_file()]
        manifest = Manifest(
            **{
                **asdict(manifest),
                "files": len(files),
                "size": sum(p.stat().st_size for p in files),
                "secret_key": settings.SECRET_KEY,
            }
        )
        told = staging / MANIFEST
        told.touch(mode=0o600)
        told.write_text(json.dumps(asdict(manifest)))
        _restic(
            place, key, "backup", "--quiet", "--ignore-ctime", "--tag", TAG, "--host", TAG, ".",
            cwd=staging,
        )  # fmt: skip
    finally:
        shutil.rmtree(staging, ignore_errors=True)
    stamp_of_backup().touch()
    return manifest


def thin(place: str, key: Path) -> None:
    """Forget backups beyond those of the last days, weeks and months, and give their room back.
    Raises NotBackedUp.
    """
    _restic(place, key, "forget", "--quiet", "--tag", TAG, "--prune", *KEEP)


def _repository(place: str, key: Path) -> None:
    folder = Path(place)
    if ":" in place.split("/", maxsplit=1)[0] or (folder / "config").is_file():
        return
    if folder.exists() and any(folder.iterdir()):
        raise NotBackedUp(f"{place} holds other files. Name an empty folder for the backup.")
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    _restic(place, key, "init", "--quiet")


def _dumped(to: Path) -> Manifest:
    """Dump the database as of one moment, and count it at that very moment."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        cursor.execute("SELECT pg_export_snapshot()")
        (snapshot,) = cursor.fetchone()
        names = connection.introspection.table_names(cursor)
        _run(["pg_dump", "--format=custom", f"--snapshot={snapshot}", f"--file={to}"], _postgres())
        cursor.execute("SELECT app || '.' || name FROM django_migrations ORDER BY 1")
        migrations = [row[0] for row in cursor.fetchall()]
        tables = _counted(cursor.cursor, _lasting(names))
    return Manifest(datetime.now(UTC).isoformat(timespec="seconds"), VERSION, migrations, tables)


def _known_migrations() -> set[str]:
    """The migrations of this release, with those that one of them stands for."""
    there = MigrationLoader(None).disk_migrations
    replaced = {pair for one in there.values() for pair in one.replaces}
    return {f"{app}.{name}" for app, name in {*there, *replaced}}


@contextmanager
def _fetched(place: str, key: Path, beside: Path) -> Iterator[tuple[Path, Manifest]]:
    """The latest backup, fetched into a folder that is removed afterwards, with its manifest."""
    beside.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="restoring-", dir=beside) as folder:
        _restic(place, key, "restore", "latest", "--quiet", "--tag", TAG, "--target", folder)
        told = Path(folder) / MANIFEST
        if not told.is_file() or not (Path(folder) / DUMP).is_file():
            raise NotBackedUp("The backup is not whole. Take an earlier one, or make a new one.")
        manifest = Manifest(**json.loads(told.read_text()))
        if set(manifest.migrations) - _known_migrations():
            raise NotBackedUp(
                "The backup is of a newer release than this one. Check out that release, and"
                " restore again."
            )
        yield Path(folder), manifest


def verify(place: str, key: Path) -> Proof:
    """Prove the latest backup: restore it beside, into a database of its own that is removed again,
    and compare rows and photographs. Raises NotBackedUp.
    """
    _restic(place, key, "check", "--quiet")
    name = f"verify_{os.getpid()}"
    with _fetched(place, key, Path(settings.DATA)) as (folder, manifest):
        own = _postgres("postgres")
        _run(["createdb", name], own)
        try:
            _run(["pg_restore", "--no-owner", "--exit-on-error", f"--dbname={name}",
                  str(folder / DUMP)], _postgres(name))  # fmt: skip
            with _connected(name) as cursor:
                found = _counted(cursor, list(manifest.tables))
                missing = _missing(cursor, folder / MEDIA)
        finally:
            _run(["dropdb", "--if-exists", "--force", name], own)
    differing = tuple(t for t, was in manifest.tables.items() if found[t] != was)
    return Proof(manifest, differing, missing)


@contextmanager
def _connected(name: str) -> Iterator[psycopg.Cursor]:
    d = settings.DATABASES["default"]
    with (
        psycopg.connect(
            host=d["HOST"], port=d["PORT"], user=d["USER"], password=d["PASSWORD"], dbname=name
        ) as link,
        link.cursor() as cursor,
    ):
        yield cursor


def _missing(cursor, media: Path) -> tuple[str, ...]:
    """Files that a database names and a folder does not hold."""
    out = []
    for model in apps.get_models():
        for one in model._meta.local_fields:
            if not isinstance(one, FileField):
                continue
            cursor.execute(
                sql.SQL("SELECT {0} FROM {1} WHERE {0} <> ''").format(
                    sql.Identifier(one.column), sql.Identifier(model._meta.db_table)
                )
            )
            out += [name for (name,) in cursor.fetchall() if not (media / name).is_file()]
    return tuple(out)


def restore(place: str, key: Path) -> Manifest:
    """Restore the latest backup into an empty database and an empty folder of photographs. Raises
    NotBackedUp; then nothing was restored.
    """
    if connection.introspection.table_names():
        raise NotBackedUp(
            "The database is not empty. Restore into a new one, so that nothing is lost."
        )
    if not empty():
        where = settings.MEDIA_ROOT if on_disk() else "The storage"
        raise NotBackedUp(f"{where} is not empty. Move it away, so that nothing is lost.")
    with _fetched(place, key, Path(settings.DATA)) as (folder, manifest):
        name = str(connection.settings_dict["NAME"])
        _run(["pg_restore", "--no-owner", "--exit-on-error", "--single-transaction",
              f"--dbname={name}", str(folder / DUMP)], _postgres())  # fmt: skip
        put_back(folder / MEDIA)
    return manifest
