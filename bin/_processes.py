"""Processes that are kept running together: those that fall are started anew. Standard library."""

from __future__ import annotations

import contextlib
import os
import secrets
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from _cluster import die_with_parent

ROOT = Path(__file__).resolve().parents[1]
# for processes that share the cores: what each computes with
ONE_THREAD = dict.fromkeys(
    ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"), "1"
)
WORKERS_GIVE_WAY = 10  # nice(2): pages and moves come before pictures
LONGEST_PAUSE = 30.0  # seconds until a process that falls again and again is started anew
STEADY = 60.0  # seconds after which a process counts as running well
START = 60.0  # seconds for a process to take requests
PATIENCE = 40.0  # seconds for a process to end by itself


@dataclass
class Child:
    """A process: its name, its command, what it inherits, how far it gives way to others (nice(2)),
    and how often it fell of late.
    """

    name: str
    command: list[str]
    log: Path | None = None
    fds: tuple[int, ...] = ()
    niceness: int = 0
    process: subprocess.Popen | None = None
    began: float = 0.0
    falls: int = 0
    again: float = field(default=0.0)  # when it may be started anew


def _prepared(niceness: int) -> None:
    die_with_parent()
    os.nice(niceness)
    # Linux weighs sessions against one another by a figure of their own (sched(7), autogroup).
    with contextlib.suppress(OSError):
        Path("/proc/self/autogroup").write_text(str(niceness))


class Processes:
    """Children of this process, in the order they were started. They end when it ends."""

    def __init__(self, environment: dict[str, str], said: Callable[[str], None] = print):
        self.environment = environment
        self.said = said
        self.children: list[Child] = []
        self.stopping = threading.Event()

    def start(
        self,
        name: str,
        *command: str,
        log: Path | None = None,
        fds: tuple[int, ...] = (),
        niceness: int = 0,
    ) -> Child:
        """Start a process of this Python; what it says goes to `log`, or where this one's goes."""
        child = Child(name, [sys.executable, *command], log, fds, niceness)
        self._begin(child)
        self.children.append(child)
        return child

    def _begin(self, child: Child, more: dict[str, str] | None = None) -> None:
        out = child.log.open("ab") if child.log else None
        try:
            child.process = subprocess.Popen(
                child.command,
                cwd=ROOT,
                env=self.environment | (more or {}),
                stdin=subprocess.DEVNULL,
                stdout=out,
                stderr=out,
                start_new_session=True,
                pass_fds=child.fds,
                preexec_fn=partial(_prepared, child.niceness),
            )
        finally:
            if out:
                out.close()
        child.began = time.monotonic()

    def renew(self, child: Child, notifies: bool = False) -> None:
        """Start a child anew beside itself, then end the old one; one that notifies (sd_notify(3))
        is waited for, so that no moment is without one.
        """
        old = child.process
        with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as told:
            name = f"juniper-heath-{secrets.token_hex(8)}"
            told.bind("\0" + name)
            told.settimeout(START)
            self._begin(child, {"NOTIFY_SOCKET": "@" + name} if notifies else {})
            if notifies:
                with contextlib.suppress(TimeoutError):
                    told.recv(64)
        if old:
            self._end([old])

    def tend(self) -> None:
        """Start anew what fell; what falls again and again is given more and more time."""
        now = time.monotonic()
        for child in self.children:
            if child.process is None:
                if now >= child.again and not self.stopping.is_set():
                    self._begin(child)
                continue
            code = child.process.poll()
            if code is None:
                continue
            child.falls = 1 if now - child.began > STEADY else child.falls + 1
            pause = min(LONGEST_PAUSE, 0.5 * 2 ** (child.falls - 1))
            self.said(f"The {child.name} ended ({code}); it is started anew in {pause:.1f} s.")
            child.process, child.again = None, now + pause

    def end(self) -> None:
        """End all, the last started first."""
        running = [c.process for c in reversed(self.children) if c.process]
        self._end(running)

    @staticmethod
    def _end(running: list[subprocess.Popen]) -> None:
        for process in running:
            if process.poll() is None:
                process.send_signal(signal.SIGTERM)
        deadline = time.monotonic() + PATIENCE
        for process in running:
            try:
                process.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
