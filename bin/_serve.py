"""Serves a school: web processes and workers, and a database where the settings ask for one, kept
running together. SIGHUP starts web and workers anew without a pause; SIGTERM ends in order.
"""

from __future__ import annotations

import argparse
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from _cluster import Cluster, Trouble, port_taken
from _processes import ONE_THREAD, ROOT, WORKERS_GIVE_WAY, Processes

sys.path.insert(0, str(ROOT))
from heath.config.given import Given, Wrong, given

WORKER = ("manage.py", "procrastinate", "worker", "--shutdown-graceful-timeout", "30")


def arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(prog="bin/serve", description=__doc__.split("\n", 1)[0])
    parser.add_argument(
        "what",
        nargs="?",
        choices=("all", "web", "worker"),
        default="all",
        help="web processes and workers (usual), or one of the two on this machine",
    )
    parser.add_argument("--check", action="store_true", help="only say whether it could be started")
    return parser.parse_args()


def database(now: Given) -> Cluster | None:
    """A database of this installation's own, started; None where it lies elsewhere."""
    if not now.db_private:
        return None
    if not now.db_password:
        raise Trouble("db_private is set: give db_password, any long word, as well.")
    if now.db_host not in ("127.0.0.1", "localhost"):
        raise Trouble("db_private is set: leave db_host out, or set it to 127.0.0.1.")
    if port_taken(now.db_port):
        raise Trouble(f"Port {now.db_port} is in use: set db_port to another.")
    (now.data / "log").mkdir(parents=True, exist_ok=True)
    cluster = Cluster(now.data / "cluster", now.data / "log" / "database.log")
    cluster.make(now.db_password)
    cluster.start(now.db_port)
    import psycopg

    try:
        cluster.database(now.db_name, now.db_password)
    except psycopg.OperationalError as error:
        cluster.stop()
        raise Trouble(
            "The database does not take db_password: set the one that it was made with."
        ) from error
    return cluster


def attended(work: Callable[[Given, dict[str, str]], int]) -> int:
    """Do some work on this installation, given its settings and the environment of its commands;
    where it has a database of its own that is not running, it runs meanwhile. Gives the work's exit
    code; what went wrong is said in a sentence.
    """
    try:
        now = given()
    except Wrong as wrong:
        print(wrong, file=sys.stderr)
        return 2
    cluster = None
    try:
        if now.db_private and not port_taken(now.db_port):
            cluster = database(now)
        return work(now, os.environ | {"PYTHONPATH": str(ROOT)})
    except Trouble as error:
        print(error, file=sys.stderr)
        return 1
    finally:
        if cluster:
            cluster.stop()


def running(now: Given) -> list[int]:
    """The numbers of those bin/serve that run on this data folder: web, worker or both at once."""
    found = []
    for path in now.data.glob("serve-*.pid"):
        try:
            pid = int(path.read_text())
            words = Path(f"/proc/{pid}/cmdline").read_bytes()
        except (OSError, ValueError):
            continue
        if b"_serve.py" in words:
            found.append(pid)
    return found


def _forget_counters(now: Given) -> None:
    """Remove the counters of processes that are gone: after a start they begin at nought."""
    for path in (now.data / "metrics").glob("*_*.db"):
        pid = path.stem.rsplit("_", 1)[-1]
        if not Path(f"/proc/{pid}").exists():
            path.unlink(missing_ok=True)


def _checked(environment: dict[str, str]) -> None:
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "manage.py", "doctor", "--serious"],
        cwd=ROOT,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise Trouble(done.stdout.strip() or done.stderr.strip().splitlines()[-1])


def run(
    processes: Processes, options: argparse.Namespace, now: Given, cluster: Cluster | None
) -> int:
    _checked(processes.environment)
    if options.check:
        print("Everything is there.")
        return 0
    listening = None
    if options.what in ("all", "web"):
        if port_taken(now.port):
            raise Trouble(f"Port {now.port} is in use: set port to another.")
        listening = socket.create_server((now.listen, now.port), backlog=256)
        fd = listening.fileno()
        os.set_inheritable(fd, True)
        processes.start("web", "-m", "heath.config.serving", "--fd", str(fd), fds=(fd,))
    _forget_counters(now)
    if options.what in ("all", "worker"):
        for number in range(now.workers):
            processes.start(f"worker {number + 1}", *WORKER, niceness=WORKERS_GIVE_WAY)
    (now.data / f"serve-{options.what}.pid").write_text(str(os.getpid()))
    print(f"Serving on {now.listen}:{now.port}." if listening else "Working.", flush=True)
    anew: list[bool] = []
    signal.signal(signal.SIGHUP, lambda *_: anew.append(True))
    while not processes.stopping.wait(0.5):
        if anew:
            anew.clear()
            for child in processes.children:
                processes.renew(child, notifies=child.name == "web")
            print("Web and workers were started anew.", flush=True)
        processes.tend()
        if cluster and cluster.revive():
            print("The database ended and was started again.", file=sys.stderr, flush=True)
    return 0


def main() -> int:
    options = arguments()
    try:
        now = given()
    except Wrong as wrong:
        print(wrong, file=sys.stderr)
        return 2
    # Web and workers share the cores: each computes with one thread.
    environment = ONE_THREAD | os.environ | {"PYTHONPATH": str(ROOT)}
    processes = Processes(environment, lambda words: print(words, file=sys.stderr, flush=True))
    for how in (signal.SIGINT, signal.SIGTERM):
        signal.signal(how, lambda *_: processes.stopping.set())
    cluster = None
    try:
        cluster = database(now)
        return run(processes, options, now, cluster)
    except Trouble as error:
        print(error, file=sys.stderr)
        return 1
    except OSError as error:
        print(
            f"{error.filename or now.data} cannot be used: {error.strerror}. Make room or choose"
            " another folder.",
            file=sys.stderr,
        )
        return 1
    finally:
        processes.end()
        if cluster:
            cluster.stop()


if __name__ == "__main__":
    sys.exit(main())
