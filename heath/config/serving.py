"""The site's HTTP server: waitress in several processes, with limits by address.

waitress reads a request whole before a thread is given to it and keeps what a slow reader has not
fetched yet, so that slow or broken visitors hold a socket and no thread. What is added here: how
much a request may hold by its address, how long it may take to arrive, and several processes on one
socket. `python -m heath.config.serving --port 8000 --processes 2`.
"""

from __future__ import annotations

import argparse
import copy
import ctypes
import os
import re
import signal
import socket
import sys
import time
from collections.abc import Callable

from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.utilities import RequestEntityTooLarge

MB = 1_000_000
# Addresses that take pictures, and how many bytes a request to them may hold: three pictures of the
# largest that is read.
PICTURES = re.compile(
    r"/(?:pieces/\d+/photograph|briefs/\d+/photographs/arrive|briefs/\d+/palette|add/[^/]+|containers)/"
)
PICTURE_BYTES = 125 * MB
BUNDLES = re.compile(r"/records/bundles/take-in/")  # takes a term's bundle
BUNDLE_BYTES = 4_000 * MB
OTHER_BYTES = 3 * MB  # of any other request; Django refuses forms from 2.5 MB on
HEADERS_SECONDS = 15.0  # for the headers to arrive
BODY_SECONDS = 30.0  # for a body to arrive, and besides
# bytes a second: a body that comes more slowly is given up (the slowest mobile networks)
BODY_RATE = 8_000.0
# of each process; handles on their way take turns (heath.bench.overtaking)
THREADS = 12
CONNECTIONS = 800  # sockets of each process
MOST_FALLS = 20  # of processes, before the server gives up
PARENT_DEATH = 1  # PR_SET_PDEATHSIG of prctl(2)


def most_bytes(path: str) -> int:
    """How many bytes the body of a request to a path may hold."""
    if BUNDLES.fullmatch(path):
        return BUNDLE_BYTES
    return PICTURE_BYTES if PICTURES.fullmatch(path) else OTHER_BYTES


class Request(HTTPRequestParser):
    """A request whose body is refused by its length and address before it is read."""

    adj: Adjustments

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        self.adj = copy.copy(self.adj)
        self.adj.max_request_body_size = most_bytes(self.path)

    def received(self, data: bytes) -> int:
        used = super().received(data)
        if isinstance(self.error, RequestEntityTooLarge):
            most = self.adj.max_request_body_size // MB
            self.error.body = f"This is more than {most} MB at once. Send fewer or smaller files."
        return used

    def late(self, seconds: float) -> bool:
        """Whether a request that began so many seconds ago should have arrived by now."""
        if not self.headers_finished:
            return seconds > HEADERS_SECONDS
        return seconds > BODY_SECONDS + self.body_bytes_received / BODY_RATE


class Channel(HTTPChannel):
    """A connection that knows since when its request has been arriving."""

    parser_class = Request
    began: float | None = None

    def received(self, data: bytes) -> bool:
        taken = super().received(data)
        self.began = None if self.request is None else self.began or time.time()
        return taken


class Server(TcpWSGIServer):
    """A server that gives up requests that do not arrive."""

    channel_class = Channel

    def maintenance(self, now: float) -> None:
        super().maintenance(now)
        for channel in self.active_channels.values():
            request = channel.request
            if (
                channel.began is not None
                and request is not None
                and request.late(now - channel.began)
            ):
                channel.will_close = True


def server(application: Callable, listening: socket.socket, threads: int = THREADS) -> Server:
    """A server of one process on a listening socket. It trusts a proxy's word only where
    HEATH_PROXY names its address.
    """
    proxy = os.environ.get("HEATH_PROXY", "")
    trusted = (
        {"trusted_proxy": proxy, "trusted_proxy_headers": "x-forwarded-proto x-forwarded-for"}
        if proxy
        else {}
    )
    limits = Adjustments(
        threads=threads,
        channel_timeout=60,
        cleanup_interval=2,
        connection_limit=CONNECTIONS,
        asyncore_use_poll=True,
        max_request_header_size=32_768,
        clear_untrusted_proxy_headers=True,
        ident="Juniper Heath",
        **trusted,
    )
    info = (listening.family, listening.type, listening.proto, listening.getsockname())
    return Server(application, _sock=listening, adj=limits, sockinfo=info, bind_socket=False)


def _process(listening: socket.socket, parent: int) -> None:
    """One process of the server, until it is asked to end."""
    ctypes.CDLL(None).prctl(PARENT_DEATH, signal.SIGTERM)
    if os.getppid() != parent:
        return
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # Several processes share the cores: each computes with one thread, or they would take the cores
    # from one another.
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "OPENCV_FOR_THREADS_NUM"):
        os.environ.setdefault(name, "1")
    from heath.config.wsgi import application

    server(application, listening).run()


def serve(port: int, processes: int) -> int:
    """Serve on loopback with so many processes until SIGTERM or SIGINT; those that fall are started
    anew. Returns the exit code.
    """
    listening = socket.create_server(("127.0.0.1", port), backlog=256)
    listening.setblocking(False)
    parent, falls = os.getpid(), 0
    running: set[int] = set()
    stopping: list[bool] = []

    def stop(*_) -> None:
        stopping.append(True)
        for pid in running:
            os.kill(pid, signal.SIGTERM)

    for how in (signal.SIGTERM, signal.SIGINT):
        signal.signal(how, stop)
    while not stopping:
        while len(running) < processes:
            pid = os.fork()
            if not pid:
                try:
                    _process(listening, parent)
                finally:
                    os._exit(0)
            running.add(pid)
        try:
            pid, _ = os.wait()
        except InterruptedError:
            continue
        running.discard(pid)
        falls += 1
        if not stopping and falls > MOST_FALLS:
            stop()
            return 1
        time.sleep(0.2)
    for pid in running:
        os.waitpid(pid, 0)
    return 0


def main() -> int:
    """The command line."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n", maxsplit=1)[0])
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--processes", type=int, default=max(2, os.cpu_count() or 2))
    options = parser.parse_args()
    return serve(options.port, options.processes)


if __name__ == "__main__":
    sys.exit(main())
