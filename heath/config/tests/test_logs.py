import json
import logging
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer

from django.core import mail
from django.test import RequestFactory, SimpleTestCase
from django.urls import resolve

from heath.config.logs import REQUEST, Errors, Lines, Plain


def record(words="broken for Ada Shore", path="/add/a-secret/", error=None):
    """What Django logs of a request that failed."""
    one = logging.LogRecord("django.request", logging.ERROR, __file__, 1, words, (), None)
    one.request = RequestFactory().get(path)
    one.request.resolver_match = resolve(path)
    one.status_code = 500
    if error:
        try:
            raise error
        except type(error) as caught:
            one.exc_info = (type(caught), caught, caught.__traceback__)
    return one


class NoNames(SimpleTestCase):
    def test_a_line_of_json_names_page_error_and_places_and_no_more(self):
        token = REQUEST.set("a-number")
        self.addCleanup(REQUEST.reset, token)
        one = record(error=ValueError("Ada Shore is no number"))
        told = json.loads(Lines("%(levelname)s %(message)s").format(one))
        self.assertEqual(told["route"], "student-add")
        self.assertEqual((told["error"], told["status"]), ("ValueError", 500))
        self.assertEqual(told["request"], "a-number")
        self.assertIn("test_logs.py", told["places"][-1])
        for text in (json.dumps(told), Plain().format(one)):
            self.assertNotIn("Ada", text)
            self.assertNotIn("a-secret", text)

    def test_words_of_our_own_stay(self):
        one = logging.LogRecord("heath", logging.WARNING, __file__, 1, "disk %s", ("full",), None)
        self.assertIn("disk full", Plain().format(one))


class SentOn(SimpleTestCase):
    def test_posted_as_json_once_in_ten_minutes(self):
        got, came = [], threading.Event()

        class Receiver(BaseHTTPRequestHandler):
            def do_POST(self):
                got.append(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
                self.send_response(204)
                self.end_headers()
                came.set()

            def log_message(self, *_):
                pass

        server = HTTPServer(("127.0.0.1", 0), Receiver)
        self.addCleanup(server.server_close)
        thread = threading.Thread(target=server.serve_forever, daemon=True)
        thread.start()
        self.addCleanup(server.shutdown)
        handler = Errors(url=f"http://127.0.0.1:{server.server_port}/")
        for _ in range(3):
            handler.emit(record(error=KeyError("Ada Shore")))
        self.assertTrue(came.wait(10))
        self.assertEqual([one["error"] for one in got], ["KeyError"])
        self.assertNotIn("Ada", json.dumps(got))

    def test_mailed(self):
        handler = Errors(to="technician@example.org")
        handler._send({"error": "KeyError", "message": "error", "places": ["a.py:1 f"]})
        self.assertEqual(mail.outbox[0].to, ["technician@example.org"])
        self.assertIn("a.py:1 f", mail.outbox[0].body)

    def test_a_receiver_that_is_away_is_no_second_error(self):
        handler = Errors(url="http://127.0.0.1:9/")
        with self.assertLogs("heath", "WARNING") as said:
            handler._send({"error": "KeyError"})
        self.assertIn("could not be sent", said.output[0])
