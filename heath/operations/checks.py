"""What must be so for the site to work: each check says in a sentence what is wrong and what to do
about it. Health addresses ask the quick ones, bin/doctor all of them.
"""

from __future__ import annotations

import shutil
import smtplib
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import Any

from botocore.exceptions import BotoCoreError, ClientError
from django.conf import settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import Error, connection
from django.db.migrations.executor import MigrationExecutor
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

import juniper
from heath.assessment.tasks import workers_at_work

OLDEST_POSTGRESQL = 150_000  # the release of Debian 12, which the tests run on
OLDEST_PYTHON = (3, 11)
LEAST_FREE = 2_000_000_000  # bytes on the disk of photographs
LEAST_SHARE = 0.05  # of that disk
CLOCK = 5.0  # seconds that this machine's clock and the database's may lie apart
LATE = timedelta(minutes=15)  # that work a person waits for may wait itself
SECRET = 50  # letters of the secret key at the least, as Django's own check asks
MAIL_SECONDS = 5
OLDEST_BACKUP = 50  # hours: two nights
MODELS = ("scene/segment/parts.onnx", "scene/petals.onnx")


@dataclass(frozen=True)
class Outcome:
    """What a check found: `fault` is the sentence, '' where all is well; `told` a figure or a
    version worth knowing. `serious` keeps the site from being asked (readiness).
    """

    name: str
    fault: str = ""
    told: str = ""
    serious: bool = True

    @property
    def well(self) -> bool:
        """Whether nothing is wrong."""
        return not self.fault


def versions() -> Outcome:
    """Python and PostgreSQL."""
    number = connection.pg_version
    told = f"Python {sys.version.split()[0]}, PostgreSQL {number // 10_000}.{number % 10_000}"
    if sys.version_info < OLDEST_PYTHON:
        return Outcome(
            "versions", "Python 3.11 or newer is needed: install it, then bin/lock.", told
        )
    if number < OLDEST_POSTGRESQL:
        return Outcome("versions", "PostgreSQL 15 or newer is needed: upgrade it.", told)
    return Outcome("versions", told=told)


def database() -> Outcome:
    """Whether it answers."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except Error:
        return Outcome(
            "database",
            "The database does not answer: start it, or set db_host, db_port, db_user and"
            " db_password to reach it.",
        )
    return Outcome("database")


def migrations() -> Outcome:
    """Whether the tables are those of this release."""
    executor = MigrationExecutor(connection)
    waiting = executor.migration_plan(executor.loader.graph.leaf_nodes())
    if waiting:
        return Outcome(
            "migrations",
            f"{len(waiting)} changes of the tables are not made yet: run manage.py migrate.",
        )
    return Outcome("migrations")


def clock() -> Outcome:
    """This machine's clock against the database's."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT clock_timestamp()")
        there = cursor.fetchone()[0]
    apart = abs((timezone.now() - there).total_seconds())
    if apart > CLOCK:
        return Outcome(
            "clock",
            f"The clocks of this machine and of the database lie {apart:.0f} seconds apart: set"
            " both by a time server, or links end too early.",
            serious=False,
        )
    return Outcome("clock")


def disk() -> Outcome:
    """Room for photographs."""
    where = Path(settings.DATA)
    while not where.exists():
        where = where.parent
    usage = shutil.disk_usage(where)
    told = f"{usage.free / 1e9:.0f} GB of {usage.total / 1e9:.0f} GB free"
    if usage.free < max(LEAST_FREE, LEAST_SHARE * usage.total):
        return Outcome(
            "disk",
            f"Only {told} where photographs are kept: make room before the disk is full.",
            told,
            serious=False,
        )
    return Outcome("disk", told=told)


def storage() -> Outcome:
    """Whether a file can be kept, read and removed."""
    right = False
    with suppress(OSError, BotoCoreError, ClientError):
        name = default_storage.save("operations/doctor", ContentFile(b"kept"))
        with default_storage.open(name) as file:
            right = file.read() == b"kept"
        default_storage.delete(name)
    if not right and settings.GIVEN.storage:
        return Outcome(
            "storage",
            f"No file can be kept in the bucket {settings.GIVEN.storage}: check storage_endpoint,"
            " storage_key and storage_secret, and that the bucket is there.",
        )
    if not right:
        return Outcome(
            "storage",
            f"No file can be kept in {settings.MEDIA_ROOT}: give the site's account the right to"
            " write there, and see that the disk is not full.",
        )
    return Outcome("storage")


def models() -> Outcome:
    """Whether the networks' files are there."""
    folder = Path(juniper.__file__).parent
    missing = [name for name in MODELS if not (folder / name).is_file()]
    if missing:
        return Outcome(
            "model files",
            f"{', '.join(missing)} is missing: check the release out again, or pieces are seen by"
            " the plain way alone.",
            serious=False,
        )
    return Outcome("model files")


def mail() -> Outcome:
    """Whether the mail server answers."""
    if not settings.EMAIL_HOST:
        return Outcome(
            "mail", told=f"no mail server is named: letters are kept in {settings.EMAIL_FILE_PATH}"
        )
    try:
        with smtplib.SMTP(settings.EMAIL_HOST, settings.EMAIL_PORT, timeout=MAIL_SECONDS) as post:
            post.noop()
    except OSError as error:
        return Outcome(
            "mail",
            f"The mail server {settings.EMAIL_HOST}:{settings.EMAIL_PORT} does not answer"
            f" ({error.__class__.__name__}): check mail_host and mail_port.",
            serious=False,
        )
    return Outcome("mail", told=settings.EMAIL_HOST)


def queue() -> Outcome:
    """Whether workers are there, and work does not wait for them too long."""
    now = timezone.now()
    workers = workers_at_work()
    waiting = ProcrastinateJob.objects.filter(status="todo", priority__gte=0)
    count = waiting.filter(scheduled_at=None).count()
    old = waiting.filter(
        procrastinateevent__type="deferred",
        procrastinateevent__at__lt=now - LATE,
        scheduled_at=None,
    ).exists()
    told = f"{workers} worker{'' if workers == 1 else 's'}, {count} waiting"
    if not workers:
        fault = "No worker is running: photographs wait. Start bin/serve worker."
    elif old:
        fault = "Work waits for more than a quarter of an hour: add a worker."
    else:
        fault = ""
    return Outcome("queue", fault, told, serious=False)


def keys() -> Outcome:
    """The secret key, and how many older ones are taken."""
    if len(settings.SECRET_KEY) < SECRET:
        return Outcome(
            "keys",
            f"secret_key is shorter than {SECRET} letters: make one by"
            " python3 -c 'import secrets; print(secrets.token_urlsafe(50))'.",
        )
    older = len(settings.SECRET_KEY_FALLBACKS)
    return Outcome("keys", told=f"{older} older key{'' if older == 1 else 's'} taken as well")


def tls() -> Outcome:
    """Whether what is sent is encrypted on its way."""
    if settings.HTTPS:
        return Outcome("TLS")
    if set(settings.ALLOWED_HOSTS) <= settings.LOOPBACK:
        return Outcome("TLS", told="off: the site is asked from this machine alone")
    return Outcome(
        "TLS",
        "https is off: passwords would travel in the clear. Put a web server with TLS before the"
        " site, and set https to true.",
        serious=False,
    )


def backup() -> Outcome:
    """How old the last backup is, where the settings name a place for one."""
    if settings.STANDINS:
        return Outcome("backup", told="none: this is the demo")
    if not settings.BACKUP_TO:
        return Outcome(
            "backup", "No place for backups is set: set backup_to and backup_key.", serious=False
        )
    stamp = stamp_of_backup()
    if not stamp.exists():
        return Outcome(
            "backup", "There is no backup yet: run bin/backup, and switch the timer on.",
            serious=False,
        )  # fmt: skip
    hours = (time.time() - stamp.stat().st_mtime) / 3600
    told = f"{hours:.0f} hours old" if hours >= 1.5 else "at most an hour old"
    if hours > OLDEST_BACKUP:
        return Outcome(
            "backup",
            f"The last backup is {told}: see why the nightly timer does not run.",
            serious=False,
        )
    return Outcome("backup", told=told)


def stamp_of_backup() -> Path:
    """The file whose date is that of the last backup from this machine."""
    return Path(settings.DATA) / "last-backup"


Check = Callable[[], Outcome]
QUICK: tuple[Check, ...] = (database, migrations)
ALL: tuple[Check, ...] = (
    database,
    versions,
    migrations,
    clock,
    disk,
    storage,
    models,
    mail,
    queue,
    keys,
    tls,
    backup,
)


def examined(checks: tuple[Check, ...]) -> list[Outcome]:
    """What some checks find, in their order. Without a database those that ask it are left out."""
    out: list[Outcome] = []
    for check in checks:
        try:
            out.append(check())
        except Error:
            continue  # said by the database's own check
        if check is database and not out[-1].well:
            return [*out, *(c() for c in checks if c in (disk, models, mail, keys, tls, backup))]
    return out


def as_document(outcomes: list[Outcome]) -> dict[str, Any]:
    """For the readiness address: nothing of it says more than that a part is well or not."""
    ready = all(o.well or not o.serious for o in outcomes)
    return {"ready": ready, "checks": {o.name: "well" if o.well else "fault" for o in outcomes}}
