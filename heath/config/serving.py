"""The site's HTTP server: waitress in several processes, with limits by address.

waitress reads a request whole before a thread is given to it and keeps what a slow reader has not
fetched yet, so that slow or broken visitors hold a socket and no thread. What is added here: how
much a request may hold by its address, how long it may take to arrive, several processes on one
socket, and an end without a broken answer: what was begun is answered, what waits is left in the
socket for the processes that come after. `python -m heath.config.serving --port 8000`.
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

from waitress import wasyncore
from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.utilities import RequestEntityTooLarge

from heath.config.given import Wrong, given

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
# of each process; handles on their way take turns (heath.bench.overtaking). Twelve that computed
# at once kept the thread that reads and writes from its turn at the interpreter.
THREADS = 4
SWITCH_SECONDS = 0.001  # how long a thread keeps the interpreter while others wait for it
CONNECTIONS = 800  # sockets of each process
MOST_FALLS = 20  # of processes, before the server gives up
PARENT_DEATH = 1  # PR_SET_PDEATHSIG of prctl(2)
DRAIN_SECONDS = 30.0  # for the requests that were begun to be answered, when a process ends
IDLE_SECONDS = 0.1  # between looks at whether they are
LOOP_SECONDS = 1.0  # between looks at what waits for too long


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
    until: float | None = None

    def drain(self, *_: object) -> None:
        """Take no more connections, answer what was begun, and end."""
        if self.until is None:
            self.until = time.time() + DRAIN_SECONDS
            self.accepting = False
            self.del_channel()
            self.pull_trigger()

    def run(self) -> None:
        """Serve until drained, or until everything was closed."""
        try:
            while self._map and (self.until is None or (time.time() < self.until and self._busy())):
                wasyncore.poll2(IDLE_SECONDS if self.until else LOOP_SECONDS, self._map)
                if self.until is not None:
                    for channel in list(self.active_channels.values()):
                        # connections that nothing was asked on end now
                        if not _begun(channel):
                            channel.handle_close()
        finally:
            self.task_dispatcher.shutdown()

    def _busy(self) -> bool:
        return any(_begun(channel) for channel in list(self.active_channels.values()))

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


def _begun(channel: Channel) -> bool:
    """Whether a request of the channel is arriving, being answered or on its way back."""
    return bool(channel.requests or channel.request or channel.total_outbufs_len)


def server(application: Callable, listening: socket.socket, threads: int = THREADS) -> Server:
    """A server of one process on a listening socket. It trusts a proxy's word only where the
    setting `proxy` names its address.
    """
    proxy = given().proxy
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

    sys.setswitchinterval(SWITCH_SECONDS)
    made = server(application, listening)
    signal.signal(signal.SIGTERM, made.drain)
    ready()
    made.run()


def ready() -> None:
    """Tell the starter that this process takes requests now (sd_notify(3))."""
    address = os.environ.get("NOTIFY_SOCKET", "")
    if address:
        with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as out:
            out.connect("\0" + address[1:] if address.startswith("@") else address)
            out.send(b"READY=1")


def serve(listening: socket.socket, processes: int) -> int:
    """Serve with so many processes until SIGTERM or SIGINT; those that fall are started anew.
    Returns the exit code.
    """
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
    parser.add_argument("--port", type=int, help="instead of the setting `port`")
    parser.add_argument("--fd", type=int, help="number of an open socket to serve on instead")
    parser.add_argument("--processes", type=int, help="instead of the setting `web_processes`")
    options = parser.parse_args()
    try:
        now = given()
    except Wrong as wrong:
        print(wrong, file=sys.stderr)
        return 2
    processes = options.processes or now.web_processes or max(2, os.cpu_count() or 2)
    address = (now.listen, options.port or now.port)
    if options.fd is None:
        listening = socket.create_server(address, backlog=256)
    else:
        listening = socket.socket(fileno=options.fd)
    return serve(listening, processes)


if __name__ == "__main__":
    sys.exit(main())
