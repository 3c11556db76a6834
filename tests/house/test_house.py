"""The start command and the private database cluster, started for real."""

import json
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
import urllib.request
from pathlib import Path

import psycopg

ROOT = Path(__file__).resolve().parents[2]
sys.path.insert(0, str(ROOT / "bin"))

from _cluster import Cluster, Trouble, free_port, port_taken  # noqa: E402
from _processes import Processes  # noqa: E402


class InAFolder(unittest.TestCase):
    def setUp(self):
        held = tempfile.TemporaryDirectory(dir="/var/tmp")
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name)
        self.folder.chmod(0o755)

    def cluster(self):
        cluster = Cluster(self.folder / "cluster", self.folder / "database.log", quick=True)
        self.addCleanup(cluster.stop)
        return cluster


class Ports(unittest.TestCase):
    def test_a_taken_port_is_seen(self):
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            s.listen()
            self.assertTrue(port_taken(s.getsockname()[1]))
        self.assertFalse(port_taken(free_port()))


class Children(InAFolder):
    def test_one_that_gives_way_does_so_among_sessions_too(self):
        processes, log = Processes(dict(os.environ)), self.folder / "said"
        said = "import os; print(os.nice(0), open('/proc/self/autogroup').read().split()[-1])"
        child = processes.start("worker", "-c", said, log=log, niceness=7)
        child.process.wait(20)
        processes.end()
        self.assertEqual(log.read_text().split(), ["7", "7"])


class Database(InAFolder):
    def test_made_started_asked_and_stopped(self):
        cluster = self.cluster()
        self.assertTrue(cluster.make("a-password"))
        self.assertFalse(cluster.make("a-password"))
        cluster.start()
        where = {"host": "127.0.0.1", "port": cluster.port, "user": "heath", "dbname": "postgres"}
        with psycopg.connect(password="a-password", **where) as link:
            self.assertEqual(link.execute("SHOW listen_addresses").fetchone(), ("127.0.0.1",))
            self.assertEqual(link.execute("SHOW server_encoding").fetchone(), ("UTF8",))
        with self.assertRaises(psycopg.OperationalError):
            psycopg.connect(password="another", **where)
        process = cluster.process
        cluster.stop()
        self.assertIsNotNone(process.poll())
        self.assertFalse(port_taken(cluster.port))

    def test_a_make_cut_short_is_begun_again(self):
        cluster = self.cluster()
        leftover = cluster.folder.with_name("cluster.new")
        leftover.mkdir()
        (leftover / "half").write_text("half")
        self.assertTrue(cluster.make("a-password"))
        self.assertFalse(leftover.exists())

    def test_a_half_made_cluster_is_named_and_kept(self):
        cluster = self.cluster()
        cluster.folder.mkdir(parents=True)
        with self.assertRaisesRegex(Trouble, "not whole.*Restore the last backup"):
            cluster.make("a-password")
        self.assertTrue(cluster.folder.exists())

    def test_a_folder_the_account_may_not_enter(self):
        if os.geteuid() != 0:
            self.skipTest("only root hands the database to another account")
        closed = self.folder / "closed"
        closed.mkdir(mode=0o700)
        cluster = Cluster(closed / "cluster", self.folder / "database.log", quick=True)
        self.addCleanup(cluster.remove)
        self.addCleanup(cluster.stop)
        self.assertEqual(cluster.folder.parts[:4], ("/", "var", "lib", "juniper-heath"))
        cluster.make("a-password")
        cluster.start()
        self.assertIsNone(cluster.process.poll())


class StartCommand(InAFolder):
    def start(self, *arguments):
        process = subprocess.Popen(
            [sys.executable, str(ROOT / "bin" / "_demo.py"), *arguments],
            env=os.environ
            | {
                "HEATH_DATA": str(self.folder / "data"),
                "DJANGO_SETTINGS_MODULE": "heath.config.settings",
            },
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            start_new_session=True,
        )
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        return process

    def refused(self, *arguments):
        process = self.start(*arguments)
        said = process.communicate(timeout=60)[0]
        self.assertEqual(process.returncode, 1)
        self.assertNotIn("Traceback", said)
        return said

    def address(self, process):
        for line in process.stdout:
            found = re.search(r"http://127\.0\.0\.1:\d+/", line)
            if found:
                return found.group()
        self.fail("the demo ended without an address")
        return None

    def left(self):
        """Processes that still mention this test's folder."""
        listed = subprocess.run(
            ["ps", "-eo", "pid,args"], capture_output=True, text=True, check=True
        ).stdout
        return [
            line for line in listed.splitlines() if str(self.folder) in line and " ps " not in line
        ]

    def held(self):
        """Rows of the demo's main tables; no piece of it may have failed."""
        password = json.loads((self.folder / "data" / "keys.json").read_text())["password"]
        cluster = Cluster(self.folder / "data" / "cluster", self.folder / "log")
        port = (cluster.folder / "postmaster.pid").read_text().splitlines()[3]
        tables = ("people_user", "classes_student", "assessment_piece", "assessment_photograph",
                  "assessment_correction", "assessment_mark")  # fmt: skip
        with psycopg.connect(
            host="127.0.0.1", port=port, user="heath", password=password, dbname="heath"
        ) as link:
            failed = link.execute(
                "SELECT count(*) FROM assessment_piece WHERE state = 'failed'"
            ).fetchone()
            self.assertEqual(failed, (0,))
            return {t: link.execute(f"SELECT count(*) FROM {t}").fetchone()[0] for t in tables}

    def test_plain_sentences(self):
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            s.listen()
            port = str(s.getsockname()[1])
            self.assertIn(f"Port {port} is in use", self.refused("--port", port))
        self.assertIn("from 1 to 65535", self.refused("--port", "99999"))
        (self.folder / "data").mkdir(exist_ok=True)
        (self.folder / "data" / "keys.json").write_text("{")
        self.assertIn("is damaged", self.refused())
        self.assertEqual(self.left(), [])

    def test_a_data_folder_that_cannot_be(self):
        (self.folder / "data").write_text("a file where a folder should be")
        self.assertIn("cannot be used", self.refused())

    def test_started_asked_started_twice_and_stopped(self):
        process = self.start("--small")
        address = self.address(process)
        with urllib.request.urlopen(address + "sign-in/", timeout=10) as answer:
            self.assertIn("Sign in", answer.read().decode())
        self.assertIn(f"running already, at {address}", self.refused())
        held = self.held()
        self.assertGreater(held["assessment_photograph"], 10)
        process.send_signal(signal.SIGTERM)
        self.assertEqual(process.wait(60), 0)
        self.assertEqual(self.left(), [])
        began = time.monotonic()
        again = self.start("--small")
        self.address(again)
        print(f"\nsecond start: {time.monotonic() - began:.1f} s")
        self.assertEqual(self.held(), held)  # nothing is loaded a second time
        again.kill()  # even so nothing is left running
        again.wait()
        deadline = time.monotonic() + 20
        while self.left() and time.monotonic() < deadline:
            time.sleep(0.2)
        self.assertEqual(self.left(), [])
