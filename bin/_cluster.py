"""A private PostgreSQL cluster on loopback. Standard library only, but to make a database."""

from __future__ import annotations

import ctypes
import hashlib
import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import time
from pathlib import Path


class Trouble(Exception):
    """Something a person has to know, in one plain sentence."""


def binaries() -> Path:
    """Folder of the newest PostgreSQL server that is installed."""
    found = sorted(
        Path("/usr/lib/postgresql").glob("*/bin/postgres"), key=lambda p: int(p.parts[-3])
    )
    if not found:
        raise Trouble("No PostgreSQL server is installed; Debian's package postgresql brings it.")
    return found[-1].parent


def free_port() -> int:
    """A port on loopback that nobody uses now."""
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


def port_taken(port: int) -> bool:
    """Whether something listens on the port."""
    with socket.socket() as s:
        s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            s.bind(("127.0.0.1", port))
        except OSError:
            return True
    return False


def die_with_parent() -> None:
    """Ask the kernel to end this process when its parent goes, however it goes."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)


RESTORE = "Restore the last backup into an empty folder (docs/operating.md)."


class Cluster:
    """A cluster in `folder`; as root it is run by the account postgres, which the server
    demands.
    """

    def __init__(self, folder: Path, log: Path, quick: bool = False, remedy: str = RESTORE):
        self.account = pwd.getpwnam("postgres") if os.geteuid() == 0 else None
        self.folder = self._reachable(folder)
        self.log = log
        self.quick = quick
        self.remedy = remedy  # what to do when it is broken
        self.port = 0
        self.process: subprocess.Popen | None = None

    def _as(self) -> dict:
        if not self.account:
            return {}
        return {"user": self.account.pw_uid, "group": self.account.pw_gid, "extra_groups": []}

    def _reachable(self, folder: Path) -> Path:
        """The folder, or, where the account may not enter it, one of the same project it may."""
        if not self.account:
            return folder
        place = folder.parent
        while not place.exists():
            place = place.parent
        entered = (
            subprocess.run(
                ["test", "-x", str(place)], cwd="/", **self._as(), check=False
            ).returncode
            == 0
        )
        if entered:
            return folder
        name = hashlib.sha256(str(folder).encode()).hexdigest()[:12]
        return Path("/var/lib/juniper-heath") / name / folder.name

    def remove(self) -> None:
        """Delete the cluster."""
        for path in (self.folder, self.folder.with_name(self.folder.name + ".new")):
            shutil.rmtree(path, ignore_errors=True)

    def make(self, password: str) -> bool:
        """Make the cluster unless it is there; True when it was made now. A make that was cut
        short leaves only a folder ending in .new, which is thrown away."""
        if self.folder.exists():
            if (
                not (self.folder / "PG_VERSION").exists()
                or not (self.folder / "global" / "pg_control").exists()
            ):
                raise Trouble(f"The database folder {self.folder} is not whole. {self.remedy}")
            return False
        new = self.folder.with_name(self.folder.name + ".new")
        shutil.rmtree(new, ignore_errors=True)
        self.folder.parent.mkdir(parents=True, exist_ok=True)
        new.mkdir(mode=0o700)
        key = self.folder.with_name(f".{secrets.token_hex(6)}")
        key.touch(mode=0o600)
        key.write_text(password)
        if self.account:
            os.chown(new, self.account.pw_uid, self.account.pw_gid)
            os.chown(key, self.account.pw_uid, self.account.pw_gid)
        try:
            done = subprocess.run(
                [
                    binaries() / "initdb",
                    "-D",
                    new,
                    "-U",
                    "heath",
                    "--auth=scram-sha-256",
                    f"--pwfile={key}",
                    "-E",
                    "UTF8",
                    "--locale=C.UTF-8",
                    *(["--no-sync"] if self.quick else []),
                ],
                cwd="/",
                capture_output=True,
                text=True,
                **self._as(),
                check=False,
            )
        finally:
            key.unlink(missing_ok=True)
        if done.returncode:
            shutil.rmtree(new, ignore_errors=True)
            said = (done.stderr.strip().splitlines() or ["no reason given"])[-1]
            for line in done.stderr.splitlines():
                if "No space left" in line or "Read-only" in line:
                    said = line.rsplit(":", 1)[-1].strip()
            raise Trouble(f"The database could not be made in {self.folder.parent}: {said}")
        new.rename(self.folder)
        return True

    def start(self, port: int | None = None, *more: str) -> None:
        """Start the server, with `more` options of its configuration, and wait until it answers."""
        self.port = port or free_port()
        options = [
            "listen_addresses=127.0.0.1",
            f"port={self.port}",
            "unix_socket_directories=",
            "max_connections=60",
        ]
        options += more
        if self.quick:
            options += ["fsync=off", "synchronous_commit=off", "full_page_writes=off"]
        command = [binaries() / "postgres", "-D", self.folder]
        for option in options:
            command += ["-c", option]
        with self.log.open("ab") as log:
            # A session of its own: Ctrl-C reaches the starter alone, which stops things in order.
            self.process = subprocess.Popen(
                command,
                cwd="/",
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                start_new_session=True,
                preexec_fn=die_with_parent,
                **self._as(),
            )
        deadline = time.monotonic() + 30
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                tail = self.log.read_text(errors="replace").strip().splitlines()[-1:] or [
                    "no reason given"
                ]
                raise Trouble(f"The database did not start: {tail[0]}. {self.remedy}")
            ready = subprocess.run(
                [binaries() / "pg_isready", "-q", "-h", "127.0.0.1", "-p", str(self.port)],
                check=False,
            )
            if ready.returncode == 0:
                return
            time.sleep(0.05)
        self.stop()
        raise Trouble(f"The database did not answer within half a minute; see {self.log}.")

    def database(self, name: str, password: str) -> None:
        """Make a database unless it is there. Raises psycopg.Error."""
        import psycopg

        with psycopg.connect(
            host="127.0.0.1",
            port=self.port,
            user="heath",
            password=password,
            dbname="postgres",
            autocommit=True,
        ) as link:
            asked = "SELECT 1 FROM pg_database WHERE datname = %s"
            if not link.execute(asked, (name,)).fetchone():
                link.execute(f'CREATE DATABASE "{name}"')

    def revive(self) -> bool:
        """Start the server again on its port if it has ended; whether it had."""
        if self.process is None or self.process.poll() is None:
            return False
        self.start(self.port)
        return True

    def stop(self) -> None:
        """Stop the server: fast, and then at once."""
        if self.process is None or self.process.poll() is not None:
            return
        for how, patience in ((signal.SIGINT, 15), (signal.SIGQUIT, 5), (signal.SIGKILL, 5)):
            self.process.send_signal(how)
            try:
                self.process.wait(patience)
                return
            except subprocess.TimeoutExpired:
                continue
