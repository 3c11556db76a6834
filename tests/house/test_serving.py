"""bin/serve behind the shipped nginx configuration, on loopback: what a visitor and a technician
see, a release started anew under load, and processes that are killed.
"""

import json
import os
import re
import signal
import ssl
import subprocess
import sys
import threading
import time
import unittest
import urllib.error
import urllib.request

from tests.house.installation import MADE, ROOT, free_port, installation

HOST = "heath.example.org"
PATIENCE = 60.0  # seconds for something to come about


class Plain(urllib.request.HTTPRedirectHandler):
    """Redirections are looked at, not followed."""

    def redirect_request(self, *_):
        return None


class Served(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.house = installation()
        cls.house.database("served", like=MADE)
        cls.folder = cls.house.data("served")
        cls.folder.mkdir()
        (cls.folder / "static").symlink_to(cls.house.data(MADE) / "static")
        cls.port, cls.plain, cls.secure = free_port(), free_port(), free_port()
        cls.settings = cls.folder / "settings.toml"
        cls.settings.write_text(
            f"""secret_key = "{"k" * 60}"
data = "{cls.folder}"
hosts = ["{HOST}"]
https = true
proxy = "127.0.0.1"
port = {cls.port}
workers = 1
web_processes = 2
db_name = "served"
db_password = "for-tests-only"
db_port = {cls.house.cluster.port}
log = "json"
metrics = true
"""
        )
        cls.log = (cls.folder / "serve.log").open("wb")
        cls.serve = cls.started([sys.executable, str(ROOT / "bin" / "_serve.py")], cls.log)
        cls.nginx = cls.proxied()
        cls.until(lambda: cls.asked("/health/live/")[0] == 200)

    @classmethod
    def started(cls, command, out):
        kept = {k: v for k, v in os.environ.items() if not k.startswith("HEATH_")}
        return subprocess.Popen(
            command,
            env=kept | {"HEATH_CONFIG": str(cls.settings), "PYTHONPATH": str(ROOT)},
            stdout=out,
            stderr=subprocess.STDOUT,
            start_new_session=True,
        )

    @classmethod
    def proxied(cls):
        """nginx with the shipped configuration; only names, ports and folders are this test's."""
        there = cls.folder / "nginx"
        there.mkdir()
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:P-256",
             "-nodes", "-days", "2", "-subj", f"/CN={HOST}", "-addext",
             f"subjectAltName=DNS:{HOST}", "-keyout", there / "key.pem", "-out",
             there / "certificate.pem"],
            check=True, capture_output=True,
        )  # fmt: skip
        text = (ROOT / "deploy" / "nginx" / "juniper-heath.conf").read_text()
        for old, new in (
            (r"listen \[::\]:.*\n", ""),
            ("listen 80;", f"listen 127.0.0.1:{cls.plain};"),
            ("listen 443 ssl", f"listen 127.0.0.1:{cls.secure} ssl"),
            ("127.0.0.1:8000", f"127.0.0.1:{cls.port}"),
            ("/etc/ssl/juniper-heath", str(there)),
            ("/var/log/nginx", str(there)),
        ):
            text, count = re.subn(old, new, text)
            assert count, old
        (there / "nginx.conf").write_text(
            f"pid {there}/pid; error_log {there}/main.log crit; daemon off; user root;\n"
            "events { worker_connections 256; }\n"
            f"http {{ client_body_temp_path {there}/body; proxy_temp_path {there}/proxy;\n"
            f"fastcgi_temp_path {there}/f; uwsgi_temp_path {there}/u; scgi_temp_path {there}/s;\n"
            f"{text}\n}}\n"
        )
        return cls.started(["/usr/sbin/nginx", "-c", str(there / "nginx.conf")], cls.log)

    @classmethod
    def tearDownClass(cls):
        for process in (cls.nginx, cls.serve):
            process.send_signal(signal.SIGTERM)
            process.wait(60)
        cls.log.close()

    @classmethod
    def until(cls, holds):
        deadline = time.monotonic() + PATIENCE
        while time.monotonic() < deadline:
            try:
                if holds():
                    return
            except OSError:
                pass
            time.sleep(0.2)
        raise AssertionError((cls.folder / "serve.log").read_text()[-1500:])

    @classmethod
    def asked(cls, path, secure=True, data=None, **headers):
        """(status, headers, body) of a page through the proxy."""
        context = ssl.create_default_context(cafile=cls.folder / "nginx" / "certificate.pem")
        context.check_hostname = False
        opener = urllib.request.build_opener(
            Plain, urllib.request.HTTPSHandler(context=context), urllib.request.ProxyHandler({})
        )
        port = cls.secure if secure else cls.plain
        address = f"{'https' if secure else 'http'}://127.0.0.1:{port}{path}"
        asked = urllib.request.Request(address, data, {"Host": HOST, **headers})
        try:
            with opener.open(asked, timeout=20) as answer:
                return answer.status, answer.headers, answer.read()
        except urllib.error.HTTPError as error:
            return error.code, error.headers, error.read()

    def direct(self, path):
        asked = urllib.request.Request(f"http://127.0.0.1:{self.port}{path}", headers={
            "Host": HOST, "X-Forwarded-Proto": "https"})  # fmt: skip
        try:
            with urllib.request.urlopen(asked, timeout=20) as answer:
                return answer.read().decode()
        except urllib.error.HTTPError as error:
            raise AssertionError((self.folder / "serve.log").read_text()[-1500:]) from error

    def children(self, name):
        """Processes of bin/serve whose command holds a word, with their own children."""
        listed = subprocess.run(
            ["ps", "-eo", "pid,ppid,args"], capture_output=True, text=True, check=True
        ).stdout.splitlines()[1:]
        rows = [line.split(None, 2) for line in listed]
        mine = {str(self.serve.pid)}
        for _ in range(3):
            mine |= {pid for pid, parent, _ in rows if parent in mine}
        return [int(pid) for pid, _, words in rows if pid in mine and name in words]

    def test_tls_and_what_the_answer_carries(self):
        status, headers, _ = self.asked("/sign-in/", secure=False)
        self.assertEqual((status, headers["Location"]), (301, f"https://{HOST}/sign-in/"))
        status, headers, body = self.asked("/sign-in/")
        self.assertEqual(status, 200)
        self.assertIn("max-age=31536000", headers["Strict-Transport-Security"])
        self.assertIn("Secure", headers["Set-Cookie"])
        self.assertRegex(headers["X-Request-ID"], r"^[0-9a-f]{32}$")
        style = re.search(rb"/static/web/heath\.[0-9a-f]{12}\.css", body)
        status, headers, _ = self.asked(style.group().decode())
        self.assertEqual(status, 200)
        self.assertIn("immutable", headers["Cache-Control"])

    def test_figures_are_read_from_the_machine_and_not_through_the_proxy(self):
        self.assertEqual(self.asked("/metrics/")[0], 404)
        self.asked("/sign-in/")
        text = self.direct("/metrics/")
        self.assertRegex(text, r'heath_request_seconds_count\{[^}]*route="sign-in"[^}]*\} \d')
        self.until(lambda: "heath_workers 1.0" in self.direct("/metrics/"))

    def test_too_much_is_refused_before_it_reaches_the_site(self):
        subprocess.run(["truncate", "-s", "130M", self.folder / "large"], check=True)
        done = subprocess.run(
            ["curl", "-sk", "-o", "/dev/null", "-w", "%{http_code}", "-H", f"Host: {HOST}",
             "--noproxy", "*", "-T", self.folder / "large", "-X", "POST",
             f"https://127.0.0.1:{self.secure}/sign-in/"],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        self.assertEqual(done.stdout, "413")

    def test_a_line_names_request_and_page_and_no_secret(self):
        self.asked("/add/a-very-secret-word/", **{"X-Request-ID": "0123456789abcdef"})
        log = self.folder / "serve.log"
        self.until(lambda: '"student-add"' in log.read_text())
        lines = [json.loads(x) for x in log.read_text().splitlines() if x.startswith("{")]
        line = next(x for x in lines if x.get("route") == "student-add")
        self.assertEqual((line["status"], line["method"]), (404, "GET"))
        # nginx gives each request its number, whatever a visitor writes
        self.assertRegex(line["request"], r"^[0-9a-f]{32}$")
        said = log.read_text() + (self.folder / "nginx" / "juniper-heath.log").read_text()
        self.assertNotIn("very-secret", said)
        self.assertIn(line["request"], said)

    def test_started_anew_under_load_nobody_sees_an_error(self):
        statuses, stop = [], threading.Event()

        def visit():
            while not stop.is_set():
                try:
                    statuses.append(self.asked("/sign-in/")[0])
                except OSError as error:
                    statuses.append(str(error))
                time.sleep(0.1)

        before = set(self.children("heath.config.serving"))
        threads = [threading.Thread(target=visit) for _ in range(2)]
        for thread in threads:
            thread.start()
        self.serve.send_signal(signal.SIGHUP)
        self.until(lambda: "were started anew" in (self.folder / "serve.log").read_text())
        time.sleep(1)
        stop.set()
        for thread in threads:
            thread.join()
        self.assertEqual(set(statuses), {200})
        self.assertGreater(len(statuses), 20)
        self.assertFalse(before & set(self.children("heath.config.serving")))

    def test_killed_processes_are_started_anew(self):
        for name in ("heath.config.serving", "procrastinate worker"):
            first = min(self.children(name))
            os.kill(first, signal.SIGKILL)
            self.until(lambda name=name, first=first: self.children(name)
                       and first not in self.children(name))  # fmt: skip
        self.until(lambda: self.asked("/health/ready/")[0] == 200)

    def test_a_second_one_on_the_same_port_says_so(self):
        done = subprocess.run(
            [sys.executable, str(ROOT / "bin" / "_serve.py")],
            env=os.environ | {"HEATH_CONFIG": str(self.settings)},
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn(f"Port {self.port} is in use", done.stderr)


if __name__ == "__main__":
    unittest.main()
