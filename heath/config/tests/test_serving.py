"""The site's server: slow, large and broken requests hold nobody else up."""

import socket
import threading
import time
from unittest import mock

from django.test import SimpleTestCase

from heath.config import serving
from heath.config.serving import MB, OTHER_BYTES, PICTURE_BYTES, Request, most_bytes, server


def application(environ, start_response):
    """Says how long the body is that came, and by which scheme."""
    body = environ["wsgi.input"].read()
    start_response("200 OK", [("Content-Type", "text/plain")])
    return [f"{len(body)} {environ['wsgi.url_scheme']}".encode()]


class Serving(SimpleTestCase):
    """A server of two threads."""

    def setUp(self):
        self.environ = {}
        self.start()

    def start(self):
        listening = socket.create_server(("127.0.0.1", 0))
        listening.setblocking(False)
        self.place = listening.getsockname()
        self.running = server(application, listening, threads=2)
        self.thread = threading.Thread(target=self.running.run, daemon=True)
        self.thread.start()
        self.addCleanup(self.end, self.running, self.thread)

    def end(self, running, thread):
        running.task_dispatcher.shutdown(timeout=1)
        running.close()
        thread.join(5)
        self.assertFalse(thread.is_alive())

    def sent(self, text: bytes) -> socket.socket:
        link = socket.create_connection(self.place, timeout=10)
        link.sendall(text)
        self.addCleanup(link.close)
        return link

    def answer(self, text: bytes) -> str:
        link, out = self.sent(text), b""
        while part := link.recv(65536):
            out += part
        return out.decode()

    def quick(self, **more) -> str:
        return self.answer(
            b"GET / HTTP/1.1\r\nHost: x\r\nConnection: close\r\n" + more.get("more", b"") + b"\r\n"
        )

    def test_half_sent_requests_hold_no_thread(self):
        for _ in range(60):
            self.sent(b"GET / HTTP/1.1\r\nHost: x\r\nX-Slow: ")
        for _ in range(10):
            self.sent(b"POST /sign-in/ HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\nhalf")
        began = time.monotonic()
        self.assertIn("0 http", self.quick())
        self.assertLess(time.monotonic() - began, 10)

    def test_what_does_not_arrive_is_given_up(self):
        with (
            mock.patch.object(serving, "HEADERS_SECONDS", 0.5),
            mock.patch.object(serving, "BODY_SECONDS", 0.5),
        ):
            for text in (
                b"GET / HTTP/1.1\r\nHost:",
                b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 90\r\n\r\nhalf",
            ):
                link = self.sent(text)
                for _ in range(30):  # a byte now and then does not help
                    try:
                        link.send(b"a")
                        time.sleep(0.2)
                    except OSError:
                        break
                else:
                    self.fail("the connection is still open")

    def test_too_much_is_refused_in_words_before_it_is_sent(self):
        for path, size in (
            ("/sign-in/", 300 * MB),
            ("/briefs/1/photographs/arrive/", PICTURE_BYTES + 1),
        ):
            said = self.answer(
                f"POST {path} HTTP/1.1\r\nHost: x\r\nContent-Length: {size}\r\n\r\n".encode()
            )
            self.assertIn("413", said)
            self.assertIn("MB at once. Send fewer or smaller files.", said)

    def test_a_body_of_unknown_length_is_cut_short(self):
        link = self.sent(b"POST / HTTP/1.1\r\nHost: x\r\nTransfer-Encoding: chunked\r\n\r\n")
        with self.assertRaises(OSError):
            for _ in range(200):
                link.sendall(b"10000\r\n" + b"a" * 65536 + b"\r\n")
                time.sleep(0.01)

    def test_what_may_be_sent_arrives_whole(self):
        body = b"a" * (OTHER_BYTES - 1)
        head = (
            "POST / HTTP/1.1\r\nHost: x\r\nConnection: close\r\nContent-Length:"
            f" {len(body)}\r\n\r\n"
        )
        self.assertIn(f"{len(body)} http", self.answer(head.encode() + body))

    def test_drained_it_answers_what_was_begun_and_leaves_the_rest_in_the_socket(self):
        begun = self.sent(b"GET / HTTP/1.1\r\nHost: x\r\n")
        idle = self.sent(b"")
        while len(self.running.active_channels) < 2:
            time.sleep(0.01)
        while not any(c.request for c in self.running.active_channels.values()):
            time.sleep(0.01)
        self.running.drain()
        self.assertEqual(idle.recv(10), b"")  # nothing was asked on it: it ends
        later = self.sent(b"GET / HTTP/1.1\r\nHost: x\r\n\r\n")
        later.settimeout(0.5)
        with self.assertRaises(TimeoutError):
            later.recv(10)
        begun.sendall(b"Connection: close\r\n\r\n")
        self.assertIn(b"200 OK", begun.recv(65536))
        self.thread.join(5)
        self.assertFalse(self.thread.is_alive())

    def test_nobody_calls_himself_a_proxy(self):
        self.assertIn("0 http", self.quick(more=b"X-Forwarded-Proto: https\r\n"))

    def test_how_much_by_address(self):
        for path in (
            "/pieces/7/photograph/",
            "/briefs/7/photographs/arrive/",
            "/briefs/7/palette/",
            "/add/ab:c-d/",
            "/containers/",
        ):
            self.assertEqual(most_bytes(path), PICTURE_BYTES, path)
        for path in (
            "/",
            "/sign-in/",
            "/add/",
            "/add/ab/1/take-back/",
            "/pieces/7/photograph/x/",
            "/materials/bring/",
        ):
            self.assertEqual(most_bytes(path), OTHER_BYTES, path)

    def test_a_body_may_take_as_long_as_it_is_large(self):
        request = Request(self.running.adj)
        request.headers_finished, request.body_bytes_received = True, 8_000_000
        self.assertFalse(request.late(1029))
        self.assertTrue(request.late(1031))
