"""Starts database, site and background worker with the demo data, and stops them together."""

from __future__ import annotations

import argparse
import fcntl
import json
import os
import secrets
import shutil
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from _cluster import Cluster, Trouble, die_with_parent, free_port, port_taken
from _processes import ONE_THREAD, WORKERS_GIVE_WAY, Processes

ROOT = Path(__file__).resolve().parents[1]
USUAL_PORT = 8420
MOST_FALLS = 10
DATABASE = "heath"
FULL = "No space left on device"
DISK = "The disk is full. Make room and start again; what is there already is kept."


def arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(
        prog="bin/demo", description="Start Juniper Heath with its demo data."
    )
    parser.add_argument(
        "--reset", action="store_true", help="delete what the demo holds and begin anew"
    )
    much = parser.add_mutually_exclusive_group()
    much.add_argument(
        "--term",
        action="store_true",
        help="play a past term of three classes through as well (some three minutes)",
    )
    much.add_argument(
        "--small",
        action="store_true",
        help="load one piece to a brief, or two, and be ready sooner",
    )
    parser.add_argument("--port", type=int, help=f"port of the site (usually {USUAL_PORT})")
    return parser.parse_args()


class Demo:
    """Everything that is running, in the order it was started."""

    def __init__(self, data: Path):
        self.data = data
        self.cluster: Cluster | None = None
        self.processes = Processes({}, self._said)
        self.stopping = self.processes.stopping
        self.environment: dict[str, str] = {}

    def _said(self, words: str) -> None:
        with (self.data / "log" / "processes.log").open("a") as log:
            log.write(words + "\n")

    def child(self, name: str, *command: str, niceness: int = 0) -> None:
        self.processes.environment = self.environment
        log = self.data / "log" / f"{name}.log"
        self.processes.start(name, *command, log=log, niceness=niceness)

    def manage(self, *command: str) -> None:
        done = subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=ROOT,
            env=self.environment,
            capture_output=True,
            text=True,
            check=False,
            start_new_session=True,
            preexec_fn=die_with_parent,
        )
        if done.returncode:
            if FULL in done.stderr:
                raise Trouble(DISK)
            said = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
            raise Trouble(f"'{command[0]}' failed: {said}")

    def stop(self) -> None:
        self.processes.end()
        if self.cluster:
            self.cluster.stop()


def keys(data: Path) -> dict[str, str]:
    """The site's secret and the database's password, made once and kept to this user."""
    path = data / "keys.json"
    if path.exists():
        try:
            return json.loads(path.read_text())
        except ValueError as error:
            raise Trouble(f"{path} is damaged. Run bin/demo --reset to begin anew.") from error
    made = {"secret": secrets.token_urlsafe(50), "password": secrets.token_urlsafe(24)}
    new = path.with_suffix(".new")
    new.touch(mode=0o600)
    new.write_text(json.dumps(made))
    new.rename(path)
    return made


def answers(address: str) -> bool:
    try:
        with urllib.request.urlopen(address + "sign-in/", timeout=2) as answer:
            return answer.status == 200
    except OSError:
        return False


def _locked(data: Path):
    """The data folder's lock, held by this demo alone."""
    data.mkdir(parents=True, exist_ok=True)
    lock = (data / "lock").open("a+")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.seek(0)
        raise Trouble(
            f"The demo is running already, at {lock.read().strip() or 'another place'}; stop that"
            " one first."
        ) from None
    return lock


def _check_port(options: argparse.Namespace) -> None:
    if options.port and not 1 <= options.port <= 65535:
        raise Trouble("A port is a number from 1 to 65535.")
    if options.port and port_taken(options.port):
        raise Trouble(
            f"Port {options.port} is in use. Choose another with --port, or leave it out."
        )


def _emptied(demo: Demo) -> None:
    demo.cluster.remove()
    for name in ("media", "static", "log", "keys.json"):
        path = demo.data / name
        shutil.rmtree(path) if path.is_dir() else path.unlink(missing_ok=True)


def _answering(demo: Demo, address: str) -> bool:
    """Wait until the site answers; False when the demo is being stopped."""
    deadline = time.monotonic() + 40
    while not answers(address):
        _still_up(demo)
        if time.monotonic() > deadline:
            raise Trouble(
                f"The site did not answer within 40 seconds; see {demo.data / 'log' / 'site.log'}."
            )
        if demo.stopping.wait(0.1):
            return False
    return True


def run(demo: Demo, options: argparse.Namespace) -> int:
    data = demo.data
    lock = _locked(data)
    _check_port(options)
    demo.cluster = Cluster(
        data / "cluster",
        data / "log" / "database.log",
        remedy="Run bin/demo --reset to begin anew.",
    )
    if options.reset:
        _emptied(demo)
    (data / "log").mkdir(exist_ok=True)
    secret = keys(data)
    print(
        "Starting the database ..." if demo.cluster.folder.exists() else "Making the database ...",
        flush=True,
    )
    demo.cluster.make(secret["password"])
    demo.cluster.start()
    port = options.port or (free_port() if port_taken(USUAL_PORT) else USUAL_PORT)
    demo.environment = os.environ | {
        "DJANGO_SETTINGS_MODULE": "heath.config.settings",
        "HEATH_DATA": str(data),
        "HEATH_SECRET_KEY": secret["secret"],
        "HEATH_DB_NAME": DATABASE,
        "HEATH_DB_PASSWORD": secret["password"],
        "HEATH_DB_PORT": str(demo.cluster.port),
        "HEATH_STANDINS": "1",
        "PYTHONPATH": str(ROOT),
        **ONE_THREAD,  # two workers share the cores
    }
    _database(demo.cluster, secret["password"])
    if demo.stopping.is_set():
        return 0
    print("Loading the demo data ...", flush=True)
    much = [f"--{name}" for name in ("term", "small") if getattr(options, name)]
    demo.manage("prepare_demo", *much)
    if demo.stopping.is_set():
        return 0
    address = f"http://127.0.0.1:{port}/"
    demo.child("site", "-m", "heath.config.serving", "--port", str(port))
    for name in WORKERS:
        demo.child(name, *WORKER, niceness=WORKERS_GIVE_WAY)
    if not _answering(demo, address):
        return 0
    lock.truncate(0)
    lock.write(address)
    lock.flush()
    print(f"\nJuniper Heath is at {address}\n")
    print("Sign in with one of these made-up people (all with the password shown):")
    print("  maren   heather-and-thyme   instructor, Saltmarsh College evening course")
    print("  ossian  heather-and-thyme   assistant marker, the same school")
    print("\nCtrl-C stops it all.", flush=True)
    while not demo.stopping.wait(0.5):
        _still_up(demo)
    return 0


WORKERS = ("worker", "second worker")
WORKER = ("manage.py", "procrastinate", "worker", "--shutdown-graceful-timeout", "5")


def _still_up(demo: Demo) -> None:
    """Start anew what fell: the pictures of a worker that fell are handed on within two minutes."""
    demo.processes.tend()
    for child in demo.processes.children:
        if child.falls > MOST_FALLS:
            log = demo.data / "log" / f"{child.name}.log"
            raise Trouble(f"The {child.name} ends again and again; see {log}.")
    if demo.cluster:
        demo.cluster.revive()


def _database(cluster: Cluster, password: str) -> None:
    import psycopg

    try:
        cluster.database(DATABASE, password)
    except psycopg.Error as error:
        said = str(error)
        if "password authentication failed" in said:
            raise Trouble(
                "The database does not know its password any more. Run bin/demo --reset to begin"
                " anew."
            ) from error
        if FULL in said:
            raise Trouble(DISK) from error
        raise Trouble(
            f"The database could not be set up: {said.strip().splitlines()[0]}"
        ) from error


def main() -> int:
    options = arguments()
    demo = Demo(Path(os.environ.get("HEATH_DATA", ROOT / "data")))
    for how in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(how, lambda *_: demo.stopping.set())
    try:
        return run(demo, options)
    except Trouble as error:
        print(error, file=sys.stderr)
        return 1
    except OSError as error:
        print(
            f"{error.filename or demo.data} cannot be used: {error.strerror}. Make room or choose a"
            " folder that can be written.",
            file=sys.stderr,
        )
        return 1
    finally:
        demo.stop()


if __name__ == "__main__":
    sys.exit(main())
