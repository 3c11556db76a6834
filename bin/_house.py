"""An installation of its own in a folder, as bin/serve runs it, with people at work on it: what
drills and loads are tried on.
"""

from __future__ import annotations

import contextlib
import json
import os
import secrets
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import psycopg
import requests
from _cluster import die_with_parent, free_port
from _processes import ROOT

PASSWORD = "salt-and-juniper"
PATIENCE = 300.0  # seconds until every photograph must be in a state to act on
PIECES = 9
WORK = 14.0  # seconds that people work on around an outage
SCHOOL = """
from heath.people.models import School, User
from heath.classes.models import Course, Student
from heath.briefs.models import Brief
school = School.objects.create(name="Cliffend College")
User.objects.create_user("ruth", password="%s", school=school, role="owner")
course = Course.objects.create(school=school, name="Tuesday class", term="Autumn")
for n in range(%d):
    Student.objects.create(course=course, name=f"Student {chr(65 + n)}")
brief = Brief.objects.create(course=course, name="Column", container="Own vessel",
    container_height_cm=24, container_width_cm=14)
brief.give_pieces()
"""


@dataclass
class Ledger:
    """What the site acknowledged, and what it refused meanwhile."""

    pictures: set[str] = field(default_factory=set)
    remarks: set[str] = field(default_factory=set)
    refused: int = 0
    pause: float = 0.0  # longest time in seconds without an answer that was well


class House:
    """An installation of its own in a folder, and somebody signed in."""

    def __init__(self, folder: Path, students: int = PIECES, **more: object):
        self.folder, self.data = folder, folder / "data"
        self.students = students
        self.data.mkdir(exist_ok=True)
        self.port, self.db_port = free_port(), free_port()
        self.more = more
        self.wrapped: list[str] = []  # words before the command, as faketime takes them
        self.serving: subprocess.Popen | None = None
        self.ledger = Ledger()
        self.bucket = ""
        self.db_port = int(more.get("db_port", self.db_port))
        self.ports = [self.port]
        self.hosts: dict[int, str] = {}  # of ports that are not on this host
        self.turn = 0
        self.root = ROOT  # the release that is run
        self.others: list[House] = []
        self.write_settings()

    def write_settings(self, **changed: object) -> None:
        values = {
            "secret_key": "k" * 60,
            "data": str(self.data),
            "port": self.port,
            "db_private": True,
            "db_password": "for-drills-only",
            "db_port": self.db_port,
            "workers": 2,
            "web_processes": 2,
            "log": "json",
            **self.more,
            **changed,
        }
        lines = [f"{name} = {json.dumps(value)}" for name, value in values.items()]
        (self.folder / "settings.toml").write_text("\n".join(lines) + "\n")

    @property
    def environment(self) -> dict[str, str]:
        kept = {k: v for k, v in os.environ.items() if not k.startswith("HEATH_")}
        return kept | {
            "HEATH_CONFIG": str(self.folder / "settings.toml"),
            "PYTHONPATH": str(self.root),
            "PYTHONDONTWRITEBYTECODE": "",
        }

    def command(self, *words: str, check: bool = True) -> subprocess.CompletedProcess:
        done = subprocess.run(
            [sys.executable, *words],
            cwd=self.root,
            env=self.environment,
            capture_output=True,
            text=True,
            check=False,
        )
        if check and done.returncode:
            raise RuntimeError(f"{done.stderr[-300:]} {done.stdout[-300:]} {words}")
        return done

    def manage(self, *words: str) -> str:
        return self.command("-W", "ignore", "manage.py", *words).stdout.strip()

    def start(self, wait: bool = True) -> None:
        with (self.folder / "serve.log").open("ab") as log:
            self.serving = subprocess.Popen(
                [*self.wrapped, sys.executable, str(self.root / "bin" / "_serve.py")],
                env=self.environment,
                stdout=log,
                stderr=log,
                start_new_session=True,
                preexec_fn=die_with_parent,
            )
        if wait:
            self.until(self.alive, 120)

    def second_machine(
        self, sees_files: bool = False, inside: Iterable[str] = (), **changed: object
    ) -> House:
        """Another machine of the same installation: the same database and storage, a folder of its
        own, and the photographs in it where it `sees_files`. `inside` are words before its command.
        """
        folder = self.folder / f"machine-{len(self.others) + 2}"
        folder.mkdir()
        (folder / "data").mkdir()
        for name in ("static", "media") if sees_files else ("static",):
            (folder / "data" / name).symlink_to(self.data / name)
        more = self.more | {"db_private": False, "db_port": self.db_port} | changed
        other = House(folder, **more)
        other.wrapped = list(inside)
        self.others.append(other)
        other.start(wait=False)
        return other

    def lose(self) -> None:
        """Lose the machine at once: nothing of it ends in order."""
        for word in ("heath.config.serving", "procrastinate worker"):
            self.kill(word)
        if self.serving:
            self.serving.kill()
            self.serving.wait()

    def address(self, port: int, path: str) -> str:
        """The address of a page of one of the machines, by its port."""
        return f"http://{self.hosts.get(port, '127.0.0.1')}:{port}{path}"

    def answers(self, port: int, path: str = "/health/live/") -> bool:
        try:
            return requests.get(self.address(port, path), timeout=5).status_code == 200
        except requests.RequestException:
            return False

    def stop(self) -> None:
        for other in self.others:
            other.stop()
        if self.serving and self.serving.poll() is None:
            self.serving.send_signal(signal.SIGTERM)
            self.serving.wait(90)

    def alive(self) -> bool:
        try:
            return requests.get(self.at("/health/ready/"), timeout=5).status_code == 200
        except requests.RequestException:
            return False

    def at(self, path: str) -> str:
        return self.address(self.port, path)

    def until(self, holds: Callable[[], bool], seconds: float) -> float:
        """Wait until something holds; after how many seconds it did."""
        began = time.monotonic()
        while not holds():
            if time.monotonic() - began > seconds:
                raise TimeoutError((self.folder / "serve.log").read_text()[-600:])
            time.sleep(0.3)
        return time.monotonic() - began

    def ask(self, words: str, *values: object) -> list:
        with psycopg.connect(
            host="127.0.0.1", port=self.db_port, user="heath", password="for-drills-only",
            dbname="heath",
        ) as link:  # fmt: skip
            return link.execute(words, values).fetchall()

    def set_up(self, measured: int = 1) -> None:
        """Tables, a school, a brief, and so many measured photographs on the bench."""
        self.command("bin/_upgrade.py")
        self.start()
        self.manage("shell", "-c", SCHOOL % (PASSWORD, self.students))
        self.session = self.signed_in()
        ((self.brief,),) = self.ask("SELECT id FROM briefs_brief")
        self.pieces = [n for (n,) in self.ask("SELECT id FROM assessment_piece ORDER BY id")]
        for number in range(measured):
            assert self.send_picture(number)
        self.until(lambda: self.states().get("marking", 0) == measured, 60 + 20 * measured)

    def signed_in(self) -> requests.Session:
        session = requests.Session()
        session.get(self.at("/sign-in/"), timeout=20)
        answer = session.post(
            self.at("/sign-in/"),
            {
                "username": "ruth",
                "password": PASSWORD,
                "csrfmiddlewaretoken": session.cookies["csrftoken"],
            },
            timeout=20,
        )
        assert answer.url.endswith("/"), answer.url
        return session

    def post(self, path: str, **more: object) -> bool:
        """Whether what was sent was acknowledged."""
        token = self.session.cookies["csrftoken"]
        self.turn += 1
        port = self.ports[self.turn % len(self.ports)]
        try:
            answer = requests.post(
                self.address(port, path),
                headers={"X-CSRFToken": token, "X-Each": "1"},
                cookies=self.session.cookies.get_dict(),
                timeout=30,
                allow_redirects=False,
                **more,
            )
        except requests.RequestException:
            return False
        return answer.status_code in (200, 204)

    def send_picture(self, number: int) -> bool:
        from juniper.camera import frame

        name = f"Student {chr(65 + number)}.jpg"
        data = frame(number).jpeg
        files = {"photographs": (name, data, "image/jpeg")}
        well = self.post(f"/briefs/{self.brief}/photographs/arrive/", files=files)
        if well:
            self.ledger.pictures.add(name)
        return well

    def send_slowly(self, number: int, rate: int) -> bool:
        """Send a picture at so many bytes a second; whether it was acknowledged."""
        from juniper.camera import frame

        name = f"Slow {number}.jpg"
        asked = requests.Request(
            "POST",
            self.at(f"/briefs/{self.brief}/photographs/arrive/"),
            files={"photographs": (name, frame(number).jpeg, "image/jpeg")},
            headers={"X-CSRFToken": self.session.cookies["csrftoken"], "X-Each": "1"},
        )
        made = self.session.prepare_request(asked)
        body, step = made.body, rate // 4

        class Pieces:
            def __len__(self) -> int:
                return len(body)

            def __iter__(self) -> Iterator[bytes]:
                for at in range(0, len(body), step):
                    yield body[at : at + step]
                    time.sleep(0.25)

        made.body = Pieces()
        try:
            well = self.session.send(made, timeout=60).status_code == 204
        except requests.RequestException:
            return False
        if well:
            self.ledger.pictures.add(name)
        return well

    def states(self) -> dict[str, int]:
        return dict(self.ask("SELECT state, count(*) FROM assessment_piece GROUP BY 1"))

    @contextlib.contextmanager
    def at_work(self, seconds: float = WORK) -> Iterator[None]:
        """People send pictures and write remarks around what happens inside, and so long after."""
        stop = threading.Event()
        threads = [
            threading.Thread(target=work, args=(stop,), daemon=True)
            for work in (self._write, self._send)
        ]
        for thread in threads:
            thread.start()
        time.sleep(3)
        try:
            yield
            time.sleep(seconds)
        finally:
            stop.set()
            for thread in threads:
                thread.join(40)

    def _write(self, stop: threading.Event) -> None:
        ledger, well = self.ledger, time.monotonic()
        while not stop.is_set():
            words = f"Remark {secrets.token_hex(6)}"
            if self.post(f"/pieces/{self.pieces[0]}/remark/", data={"words": words}):
                ledger.remarks.add(words)
                ledger.pause = max(ledger.pause, time.monotonic() - well)
                well = time.monotonic()
            else:
                ledger.refused += 1
            time.sleep(0.15)

    def _send(self, stop: threading.Event) -> None:
        for number in range(1, PIECES):
            while not stop.is_set() and not self.send_picture(number):
                self.ledger.refused += 1
                time.sleep(0.5)
            if stop.wait(1.0):
                return

    def children(self, word: str) -> list[int]:
        """Processes under bin/serve whose command holds a word, the last started last."""
        listed = subprocess.run(
            ["ps", "-eo", "pid,ppid,args", "--sort=start_time"],
            capture_output=True,
            text=True,
            check=True,
        ).stdout.splitlines()[1:]
        rows = [line.split(None, 2) for line in listed]
        mine = {str(self.serving.pid)}
        for _ in range(4):
            mine |= {pid for pid, parent, _ in rows if parent in mine}
        mine.discard(str(self.serving.pid))
        return [int(pid) for pid, _, words in rows if pid in mine and word in words]

    def kill(self, word: str, how: int = signal.SIGKILL) -> int:
        pids = self.children(word)
        for pid in pids:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, how)
        return len(pids)

    def settled(self) -> bool:
        """Whether every photograph is in a state that a person can act on."""
        try:
            waiting = self.ask("SELECT count(*) FROM intake_arrival WHERE state = 'waiting'")
            return waiting == [(0,)] and not self.states().get("measuring", 0)
        except psycopg.Error:
            return False

    def verdict(self) -> tuple[str, bool]:
        """What came of it, and whether it held."""
        try:
            took = f"settled after {self.until(self.settled, PATIENCE):.0f} s"
            settled = True
        except TimeoutError:
            took, settled = f"not settled: {self.states()}", False
        ledger = self.ledger
        remarks = {w for (w,) in self.ask("SELECT words FROM assessment_remark")}
        arrived = {n for (n,) in self.ask("SELECT name FROM intake_arrival")}
        lost = len(ledger.remarks - remarks) + len(ledger.pictures - arrived)
        files = self.ask('SELECT "full" FROM assessment_photograph')
        missing = self.missing([name for (name,) in files])
        acknowledged = len(ledger.remarks) + len(ledger.pictures)
        said = (
            f"{acknowledged} acknowledged, {lost} of them lost; {ledger.refused} refused, longest"
            f" pause {ledger.pause:.1f} s; {len(files)} photographs, {missing} without their file;"
            f" {took}"
        )
        return said, settled and not lost and not missing

    def missing(self, names: list[str]) -> int:
        if self.bucket:
            import boto3

            client = boto3.client(
                "s3", "us-east-1", endpoint_url=self.bucket, aws_access_key_id="x",
                aws_secret_access_key="x",
            )  # fmt: skip
            pages = client.get_paginator("list_objects_v2").paginate(Bucket="heath")
            there = {one["Key"] for page in pages for one in page.get("Contents", [])}
            return len(set(names) - there)
        return sum(not (self.data / "media" / name).is_file() for name in names)


@contextlib.contextmanager
def house(**more: object) -> Iterator[House]:
    """A site at work in a folder that is removed again."""
    folder = Path(tempfile.mkdtemp(prefix="heath-outage-", dir="/var/tmp"))
    folder.chmod(0o755)
    one = House(folder, **more)
    try:
        one.set_up()
        yield one
    finally:
        one.stop()
        shutil.rmtree(folder, ignore_errors=True)
