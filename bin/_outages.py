"""Drills of what fails under a site at work: bin/serve with its own database, people who send
photographs and write remarks meanwhile, and then something that is killed, full, away or wrong.
Each holds when nothing that was acknowledged is lost and every photograph ends in a state that a
person can act on.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import psycopg
import requests
from _cluster import Cluster, binaries, die_with_parent, free_port
from _house import PATIENCE, PIECES, House, house
from _processes import ROOT

OUTAGES: dict[str, tuple[str, Callable]] = {}


def outage(what: str) -> Callable:
    """Decorator: a drill, by its function's name with hyphens."""

    def decorated(function: Callable) -> Callable:
        OUTAGES[function.__name__.replace("_", "-")] = (what, function)
        return function

    return decorated


@outage("every worker killed three times with pictures in hand")
def workers_killed():
    with house() as one:
        with one.at_work():
            for _ in range(3):
                one.kill("procrastinate worker")
                time.sleep(3)
        return one.verdict()


@outage("every web process killed three times in the middle of saves")
def web_killed():
    with house() as one:
        with one.at_work():
            for _ in range(3):
                one.kill("heath.config.serving")
                time.sleep(4)
        return one.verdict()


@outage("the database stopped at once, without a checkpoint")
def database_stopped():
    with house() as one:
        with one.at_work():
            for _ in range(2):
                one.kill("/postgres -D", signal.SIGQUIT)
                time.sleep(6)
        return one.verdict()


@outage("the disk of photographs full for a while")
def photographs_disk_full():
    with house() as one:
        media = one.data / "media"
        with mounted(media, "6m"), one.at_work(4):
            time.sleep(10)
            subprocess.run(["mount", "-o", "remount,size=400m", media], check=True)
            time.sleep(4)
            return one.verdict()


@outage("the database's disk full for a while")
def database_disk_full():
    folder = Path(tempfile.mkdtemp(prefix="heath-outage-", dir="/var/tmp"))
    folder.chmod(0o755)
    with mounted(folder, "700m", wide=True):
        one = House(folder)
        try:
            one.set_up()
            with one.at_work(20):
                free = shutil.disk_usage(folder).free
                with contextlib.suppress(OSError):
                    (folder / "filler").write_bytes(b"\0" * free)
                time.sleep(8)
                (folder / "filler").unlink()
            return one.verdict()
        finally:
            one.stop()


@outage("the clock set a day forward, and an hour back")
def clock_set():
    with house() as one:
        said = []
        for ahead in ("+1d", "-1h"):
            one.stop()
            one.wrapped = ["faketime", "-f", ahead]
            one.start()
            one.session = one.signed_in()
            with one.at_work(6):
                pass
            said.append(one.verdict())
        return said[-1][0], all(held for _, held in said)


@outage("half a deploy: new tables are missing, and the release of before on newer tables")
def half_a_deploy():
    with house() as one:
        one.stop()
        cluster = Cluster(one.data / "cluster", one.data / "log" / "database.log")
        cluster.start(one.db_port)
        try:
            with psycopg.connect(
                host="127.0.0.1", port=one.db_port, user="heath", password="for-drills-only",
                dbname="heath", autocommit=True,
            ) as link:  # fmt: skip
                link.execute("DELETE FROM django_migrations WHERE name = '0013_unique_secrets'")
                refused = one.command(
                    "-W", "ignore", "manage.py", "doctor", "--serious", check=False
                )
                link.execute(
                    "INSERT INTO django_migrations (app, name, applied) VALUES"
                    " ('intake', '0013_unique_secrets', now()), ('intake', '0999_newer', now())"
                )
                link.execute("ALTER TABLE intake_arrival ADD COLUMN newer text NOT NULL DEFAULT ''")
        finally:
            cluster.stop()
        one.start()
        with one.at_work(4):
            pass
        said, held = one.verdict()
        told = "changes of the tables" in refused.stdout
        return f"not started on older tables; on newer ones {said}", held and told


@outage("storage (S3 protocol) away for forty seconds")
def storage_away():
    with bucket() as (server, more), house(**more) as one:
        one.bucket = more["storage_endpoint"]
        with one.at_work(8):
            server.stop()
            time.sleep(40)
            server.start()
        return one.verdict()


@outage("two machines on one database and one bucket; one of them lost at once")
def a_machine_lost():
    with bucket() as (_, more), house(**more) as one:
        one.bucket = more["storage_endpoint"]
        other = one.second_machine(workers=1)
        one.until(lambda: one.answers(other.port), 60)
        one.ports = [one.port, other.port]
        with one.at_work(10):
            time.sleep(5)
            other.lose()
        return one.verdict()


NEAR, FAR = "10.91.0.1", "10.91.0.2"  # the two ends of a line between hosts
CUT = 40  # seconds
READY = "/health/ready/"


@outage(f"a second host at the end of a line that is cut for {CUT} s while people work on both")
def line_cut():
    folder = Path(tempfile.mkdtemp(prefix="heath-hosts-", dir="/var/tmp"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "cluster", folder / "database.log")
    try:
        cluster.make("for-drills-only")
        with (cluster.folder / "pg_hba.conf").open("a") as rules:
            rules.write(f"host all all {FAR}/32 scram-sha-256\n")
        with second_host() as inside, bucket(NEAR) as (_, more):
            cluster.start(None, f"listen_addresses=127.0.0.1,{NEAR}")
            cluster.database("heath", "for-drills-only")
            with house(db_port=cluster.port, db_private=False, **more) as one:
                one.bucket = more["storage_endpoint"]
                other = one.second_machine(
                    inside=inside, workers=1, listen=FAR, db_host=NEAR, hosts=["127.0.0.1", FAR]
                )
                one.hosts[other.port] = FAR
                one.until(lambda: one.answers(other.port, READY), 90)
                one.ports = [one.port, other.port]
                with one.at_work(12):
                    time.sleep(4)
                    _line("down")
                    one.ports = [one.port]  # the proxy passes by what does not answer
                    cut = time.monotonic()
                    asked = [
                        [
                            *inside,
                            "curl",
                            "-s",
                            "-m",
                            str(CUT),
                            *more,
                            f"http://{FAR}:{other.port}{p}",
                        ]
                        for p, more in (
                            (READY, ()),
                            ("/", ("-o", "/dev/null", "-w", "%{http_code}")),
                        )
                    ]
                    cookie = f"sessionid={one.session.cookies['sessionid']}"
                    asked[1] += ["-b", cookie]
                    both = [subprocess.Popen(a, stdout=subprocess.PIPE, text=True) for a in asked]
                    ready, code = (b.communicate()[0].strip() for b in both)
                    after = time.monotonic() - cut
                    time.sleep(max(0.0, CUT - after))
                    _line("up")
                    back = one.until(lambda: one.answers(other.port, READY), 90)
                    one.ports = [one.port, other.port]
                said, held = one.verdict()
                return (
                    f"the second host said {ready!r} and {code} after {after:.0f} s, and answered"
                    f" again {back:.0f} s after the line was whole; {said}",
                    held and bool(ready) and code == "503" and after < CUT / 2,
                )
    finally:
        cluster.stop()
        cluster.remove()
        shutil.rmtree(folder, ignore_errors=True)


@contextlib.contextmanager
def second_host() -> Iterator[list[str]]:
    """A network namespace that stands for a host, at the end of a line to this one: the words
    before a command that is to run on it.
    """
    inside = ["ip", "netns", "exec", "heath-far"]
    steps = (
        "ip netns add heath-far",
        "ip link add heath-near type veth peer name heath-line netns heath-far",
        f"ip addr add {NEAR}/30 dev heath-near",
        "ip link set heath-near up",
        f"{' '.join(inside)} ip addr add {FAR}/30 dev heath-line",
        f"{' '.join(inside)} ip link set heath-line up",
        f"{' '.join(inside)} ip link set lo up",
    )
    try:
        for step in steps:
            subprocess.run(step.split(), check=True)
        yield inside
    finally:
        subprocess.run(["ip", "netns", "del", "heath-far"], check=False)


def _line(state: str) -> None:
    subprocess.run(["ip", "link", "set", "heath-near", state], check=True)


@outage("a second machine whose workers cannot see the photographs")
def a_worker_without_files():
    with house(workers=1) as one:
        other = one.second_machine(workers=2)
        one.until(lambda: one.answers(other.port), 60)
        with one.at_work(8):
            pass
        said, held = one.verdict()
        other.lose()
        failed = one.states().get("failed", 0)
        return f"{said}; {failed} pieces failed", held and not failed


@outage("the release of before serves beside this one on this one's tables")
def two_releases():
    before = subprocess.run(
        ["git", "describe", "--tags", "--abbrev=0"],
        cwd=ROOT, capture_output=True, text=True, check=True,
    ).stdout.strip()  # fmt: skip
    with house() as one:
        there = one.folder / "before"
        subprocess.run(
            ["git", "worktree", "add", "--detach", "--quiet", there, before], cwd=ROOT, check=True
        )
        port = free_port()
        old = subprocess.Popen(
            [sys.executable, "-m", "heath.config.serving", "--port", str(port)],
            cwd=there,
            env=os.environ | {
                "PYTHONPATH": str(there), "HEATH_SECRET_KEY": "k" * 60,
                "HEATH_DATA": str(one.data), "HEATH_DB_PASSWORD": "for-drills-only",
                "HEATH_DB_PORT": str(one.db_port),
            },
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, preexec_fn=die_with_parent,
        )  # fmt: skip
        try:
            one.until(lambda: one.answers(port), 60)
            one.ports = [one.port, port]
            with one.at_work(12):
                pass
            said, held = one.verdict()
            return f"{before} beside this: {said}", held and not one.ledger.refused
        finally:
            old.terminate()
            old.wait(60)
            subprocess.run(["git", "worktree", "remove", "--force", there], cwd=ROOT, check=False)


NEXT = """from django.db import migrations

class Migration(migrations.Migration):
    dependencies = [("assessment", "%s")]
    operations = [
        migrations.RunSQL(
            "ALTER TABLE assessment_photograph ADD COLUMN drill text NOT NULL DEFAULT ''"
        ),
        migrations.RunSQL("CREATE INDEX drill ON assessment_remark (words)"),
    ]
"""
A_SECOND = 10  # requests


@outage("an upgrade to a next release with changed tables, under ten requests a second")
def upgrade_at_work():
    with tempfile.TemporaryDirectory(prefix="heath-outage-", dir="/var/tmp") as place:
        folder = Path(place)
        folder.chmod(0o755)
        one = House(folder, backup_to=str(folder / "kept"), backup_key=str(folder / "key"))
        (folder / "key").write_text("for-drills-only-" * 4)
        one.root = folder / "release"
        left_out = (".git", ".venv", "node_modules", "data", "roll", "docs", "__pycache__", ".*")
        shutil.copytree(ROOT, one.root, ignore=shutil.ignore_patterns(*left_out))
        try:
            one.set_up()
            visits = Visits(one)
            with one.at_work(20), visits.going_on():
                tables = one.root / "heath" / "assessment" / "migrations"
                last = max(tables.glob("0*.py")).stem
                (tables / f"{int(last[:4]) + 1:04d}_drill.py").write_text(NEXT % last)
                core = one.root / "juniper" / "__init__.py"
                core.write_text(re.sub(r'(?m)^VERSION = "', "\\g<0>9", core.read_text()))
                began = time.monotonic()
                said = one.command("bin/_upgrade.py").stdout
                took = time.monotonic() - began
                time.sleep(8)
            changed = one.ask("SELECT count(*) FROM pg_indexes WHERE indexname = 'drill'") == [(1,)]
            verdict, held = one.verdict()
            return (
                f"upgraded in {took:.0f} s; of {visits.asked} requests {len(visits.faults)} failed,"
                f" the longest took {visits.longest:.1f} s; {verdict}",
                held and changed and "started anew" in said and not visits.faults
                and not one.ledger.refused,
            )  # fmt: skip
        finally:
            one.stop()


class Visits:
    """Requests of people who read, so many a second whatever the site does, each on a connection of
    its own, as the proxy has them.
    """

    def __init__(self, one: House):
        self.one = one
        self.asked, self.longest = 0, 0.0
        self.faults: list[str] = []

    def _ask(self, path: str) -> None:
        began = time.monotonic()
        try:
            cookies = self.one.session.cookies.get_dict()
            answer = requests.get(self.one.at(path), cookies=cookies, timeout=30)
            if answer.status_code != 200:
                self.faults.append(f"{path} {answer.status_code}")
        except requests.RequestException as error:
            self.faults.append(f"{path} {type(error).__name__}")
        self.longest = max(self.longest, time.monotonic() - began)

    @contextlib.contextmanager
    def going_on(self) -> Iterator[None]:
        """Ask while what is inside happens."""
        stop = threading.Event()
        paths = ("/", f"/pieces/{self.one.pieces[0]}/", f"/briefs/{self.one.brief}/")

        def go() -> None:
            while not stop.wait(1 / A_SECOND):
                path = paths[self.asked % len(paths)]
                self.asked += 1
                each.submit(self._ask, path)

        with ThreadPoolExecutor(40) as each:
            thread = threading.Thread(target=go, daemon=True)
            thread.start()
            try:
                yield
            finally:
                stop.set()
                thread.join()


@outage("the database's machine lost; its standby promoted")
def failover():
    folder = Path(tempfile.mkdtemp(prefix="heath-standby-", dir="/var/tmp"))
    folder.chmod(0o755)
    first = Cluster(folder / "first", folder / "first.log")
    second = Cluster(folder / "second", folder / "second.log")
    try:
        first.make("for-drills-only")
        # What is acknowledged lies on both machines (synchronous replication).
        first.start(None, "synchronous_standby_names=*", "wal_level=replica")
        _standby(first, second)
        second.start()
        with psycopg.connect(
            host="127.0.0.1", port=first.port, user="heath", password="for-drills-only",
            dbname="postgres", autocommit=True,
        ) as link:  # fmt: skip
            link.execute("CREATE DATABASE heath")
        more = {"db_private": False, "db_standby": f"127.0.0.1:{second.port}"}
        with house(db_port=first.port, **more) as one:
            with one.at_work(15):
                first.process.kill()
                first.process.wait()
                time.sleep(3)
                subprocess.run(
                    [binaries() / "pg_ctl", "promote", "-D", second.folder],
                    check=True, cwd="/", stdout=subprocess.DEVNULL, **second._as(),
                )  # fmt: skip
                one.db_port = second.port
                _alone(second)
            return one.verdict()
    finally:
        for cluster in (first, second):
            cluster.stop()
            cluster.remove()
        shutil.rmtree(folder, ignore_errors=True)


def _standby(first: Cluster, second: Cluster) -> None:
    """A copy of a running cluster that follows it."""
    if second.account:
        os.chown(second.folder.parent, second.account.pw_uid, second.account.pw_gid)
    subprocess.run(
        [binaries() / "pg_basebackup", "-h", "127.0.0.1", "-p", str(first.port), "-U", "heath",
         "-D", second.folder, "-R", "-X", "stream", "-c", "fast"],
        env=os.environ | {"PGPASSWORD": "for-drills-only"},
        check=True, cwd="/", **second._as(),
    )  # fmt: skip


def _alone(cluster: Cluster) -> None:
    """Have a promoted server wait for no standby of its own."""
    with psycopg.connect(
        host="127.0.0.1", port=cluster.port, user="heath", password="for-drills-only",
        dbname="postgres", autocommit=True,
    ) as link:  # fmt: skip
        link.execute("ALTER SYSTEM SET synchronous_standby_names = ''")
        link.execute("SELECT pg_reload_conf()")


@outage("remarks deleted by mistake; the database set back to the moment before")
def a_moment_before():
    folder = Path(tempfile.mkdtemp(prefix="heath-moment-", dir="/var/tmp"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "cluster", folder / "database.log")
    account = cluster._as()
    for name in ("kept", "socket", "log"):
        (folder / name).mkdir()
        if cluster.account:
            os.chown(folder / name, cluster.account.pw_uid, cluster.account.pw_gid)
    text = (ROOT / "deploy" / "pgbackrest.conf").read_text()
    for old, new in (
        ("repo1-path=.*", f"repo1-path={folder}/kept"),
        ("repo1-cipher-pass=.*", "repo1-cipher-pass=for-drills-only"),
        ("pg1-path=.*", f"pg1-path={cluster.folder}"),
    ):
        text = re.sub(old, new, text)
    conf = folder / "pgbackrest.conf"

    def pgbackrest(*words: str) -> None:
        subprocess.run(
            ["pgbackrest", f"--config={conf}", "--stanza=heath", *words],
            check=True, cwd="/", env=os.environ | {"PGPASSWORD": "for-drills-only"}, **account,
        )  # fmt: skip

    options = (
        f"unix_socket_directories={folder}/socket",
        "archive_mode=on",
        f"archive_command=pgbackrest --config={conf} --stanza=heath archive-push %p",
        "archive_timeout=60",
    )
    try:
        cluster.make("for-drills-only")
        cluster.start(None, *options)
        more = f"\npg1-port={cluster.port}\npg1-socket-path={folder}/socket\npg1-user=heath\n"
        conf.write_text(
            text.replace("[heath]", f"log-path={folder}/log\nlock-path={folder}/log\n\n[heath]")
            + more
        )
        pgbackrest("stanza-create")
        pgbackrest("backup")
        with psycopg.connect(
            host="127.0.0.1", port=cluster.port, user="heath", password="for-drills-only",
            dbname="postgres", autocommit=True,
        ) as link:  # fmt: skip
            link.execute("CREATE DATABASE heath")
        with house(db_port=cluster.port, db_private=False) as one:
            with one.at_work(20):
                pass
            one.until(one.settled, PATIENCE)
            ((moment,),) = one.ask("SELECT now()::text")
            time.sleep(2)
            one.ask("DELETE FROM assessment_remark RETURNING 1")
            time.sleep(65)  # within a minute every change is kept
            one.stop()
            cluster.stop()
            pgbackrest(
                "--delta", "--type=time", f"--target={moment}", "--target-action=promote", "restore"
            )
            cluster.start(cluster.port, *options)
            one.start()
            said, held = one.verdict()
            return f"set back to {moment[11:19]}: {said}", held
    finally:
        cluster.stop()
        cluster.remove()
        shutil.rmtree(folder, ignore_errors=True)


TERM = """
import os
from django.core.files.base import ContentFile
from heath.assessment.models import Photograph, Piece
from heath.briefs.models import Brief
from heath.classes.models import Student
brief = Brief.objects.get()
first = Photograph.objects.get()
names = ("full", "screen", "wall", "thumb", "raster")
files = {n: getattr(first, n).open("rb").read() for n in names if getattr(first, n)}
course = brief.course
for n in range(%d):
    student = Student.objects.create(course=course, name=f"Past {n}")
    piece = Piece.objects.create(brief=brief, student=student, state="marking")
    row = Photograph.objects.get(pk=first.pk)
    row.pk, row.piece, row.digest = None, piece, f"{n:064d}"
    for name, data in files.items():  # no two alike, or the backup would keep them once
        getattr(row, name).save(f"{name}.jpg", ContentFile(data + os.urandom(64)), save=False)
    row.save()
"""
TERM_PIECES = 500


@outage("a term of 500 pieces backed up, database and photographs destroyed, and restored")
def a_term_lost():
    with house() as one:
        one.manage("shell", "-c", TERM % TERM_PIECES)
        with one.at_work(4):
            pass
        one.until(one.settled, PATIENCE)
        key, kept = one.folder / "key", one.folder / "kept"
        key.write_text("for-drills-only-" * 4)
        took = {"backed up": _timed(one, "backup", kept, key)}
        took["proved"] = _timed(one, "verify_backup", kept, key)
        size = one.ask("SELECT pg_database_size('heath') / 1048576")[0][0]
        one.stop()
        for name in ("cluster", "media"):
            shutil.rmtree(one.data / name)
        took["restored"] = _timed(one, "restore", kept, key)
        one.start()
        said, held = one.verdict()
        media = sum(p.stat().st_size for p in (one.data / "media").rglob("*") if p.is_file())
        times = ", ".join(f"{what} in {seconds:.0f} s" for what, seconds in took.items())
        whole = one.ask("SELECT count(*) FROM assessment_piece")[0][0] >= TERM_PIECES
        return (
            f"{times} (database {size} MB, photographs {media // 1_000_000} MB); {said}",
            held and whole,
        )


def _timed(one: House, command: str, kept: Path, key: Path) -> float:
    began = time.monotonic()
    one.command("bin/_manage.py", command, str(kept), f"--key={key}")
    return time.monotonic() - began


@outage("photographs sent at 12 kB a second while others work")
def slow_network():
    with house() as one:
        took: list[float] = []

        def slowly() -> None:
            began = time.monotonic()
            if one.send_slowly(PIECES - 1, 12_000):
                took.append(time.monotonic() - began)

        thread = threading.Thread(target=slowly)
        with one.at_work(16):
            thread.start()
        thread.join(90)
        said, held = one.verdict()
        slow = f"a photograph arrived after {took[0]:.0f} s" if took else "none arrived"
        return f"{slow}; {said}", held and bool(took)


@outage("damaged files of every kind, 60 or as many as HOSTILE_FILES says")
def hostile_files():
    many = int(os.environ.get("HOSTILE_FILES", "60"))
    with house() as one:
        sent = 0
        for number in range(many):
            name, data = damaged(number)
            files = {"photographs": (name, data, "image/jpeg")}
            sent += one.post(f"/briefs/{one.brief}/photographs/arrive/", files=files)
        with one.at_work(4):
            pass
        said, held = one.verdict()
        states = dict(one.ask("SELECT state, count(*) FROM intake_arrival GROUP BY 1"))
        return f"{sent} of {many} taken in: {states}; {said}", held


def damaged(number: int) -> tuple[str, bytes]:
    """A file that is broken in its own way; the same number gives the same file."""
    import random

    from juniper.camera import frame

    chance = random.Random(number)
    data = bytearray(frame(number % 40).jpeg)
    match number % 6:
        case 0:
            data = data[: chance.randrange(1, len(data))]
        case 1:
            for _ in range(chance.randrange(1, 60)):
                data[chance.randrange(len(data))] = chance.randrange(256)
        case 2:
            data = bytearray(chance.randbytes(chance.randrange(1, 200_000)))
        case 3:
            data[4:4] = b"\xff\xe1\xff\xff" + chance.randbytes(64)
        case 4:
            size = chance.randrange(200, 60_000)
            at = data.find(b"\xff\xc0") + 5
            data[at : at + 4] = size.to_bytes(2, "big") + size.to_bytes(2, "big")
        case 5:
            data = bytearray(b"\x89PNG\r\n\x1a\n" + chance.randbytes(2000))
    return f"damaged-{number}.jpg", bytes(data)


@contextlib.contextmanager
def bucket(address: str = "127.0.0.1") -> Iterator[tuple[object, dict[str, object]]]:
    """A stand-in for object storage, with a bucket: (server, settings of an installation)."""
    import boto3
    from moto.server import ThreadedMotoServer

    port = free_port()
    server = ThreadedMotoServer(ip_address=address, port=port, verbose=False)
    server.start()
    endpoint = f"http://{address}:{port}"
    keys = {"aws_access_key_id": "x", "aws_secret_access_key": "x"}
    boto3.client("s3", "us-east-1", endpoint_url=endpoint, **keys).create_bucket(Bucket="heath")
    try:
        yield (
            server,
            {
                "storage": "heath",
                "storage_endpoint": endpoint,
                "storage_key": "x",
                "storage_secret": "x",
                "storage_region": "us-east-1",
            },
        )
    finally:
        with contextlib.suppress(Exception):
            server.stop()


@contextlib.contextmanager
def mounted(folder: Path, size: str, wide: bool = False) -> Iterator[None]:
    """A small disk of its own at a folder (tmpfs; only root may do that)."""
    folder.mkdir(parents=True, exist_ok=True)
    kept = list(folder.iterdir())
    beside = folder.with_name(folder.name + ".beside")
    if kept:
        shutil.copytree(folder, beside)
    subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={size}", "tmpfs", folder], check=True)
    if wide:
        folder.chmod(0o755)
    if kept:
        shutil.copytree(beside, folder, dirs_exist_ok=True)
    try:
        yield
    finally:
        subprocess.run(["umount", "-l", folder], check=False)
        shutil.rmtree(beside, ignore_errors=True)


def main() -> int:
    parser = argparse.ArgumentParser(prog="bin/outages", description=__doc__)
    parser.add_argument(
        "names", nargs="*", metavar="NAME", help=f"of: {', '.join(OUTAGES)} (usually all)"
    )
    options = parser.parse_args()
    unknown = [n for n in options.names if n not in OUTAGES]
    if unknown:
        print(f"There is no drill called {unknown[0]}; there are {', '.join(OUTAGES)}.")
        return 2
    print("| drill | what is done | what came of it | held |\n|---|---|---|---|")
    every = True
    for name in options.names or list(OUTAGES):
        what, action = OUTAGES[name]
        try:
            said, held = action()
        except Exception as error:  # told as such, and the next is begun
            said, held = f"{type(error).__name__}: {error}"[:400].replace("\n", " "), False
        every &= held
        print(f"| {name} | {what} | {said} | {'yes' if held else '**no**'} |", flush=True)
    return 0 if every else 1


if __name__ == "__main__":
    sys.exit(main())
