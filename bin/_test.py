"""Runs the core's tests, the site's tests and the browser journeys, and counts them."""

from __future__ import annotations

import contextlib
import os
import queue
import re
import signal
import subprocess
import sys
import tempfile
import threading
import time
from dataclasses import dataclass
from pathlib import Path

from _cluster import Cluster, Trouble, die_with_parent
from _processes import ONE_THREAD

ROOT = Path(__file__).resolve().parents[1]
PASSWORD = "for-tests-only"
BESIDE = 5  # suites at a time: browser and database wait much, and would leave cores idle
TEMPLATE = "heath_template"  # migrated once; each suite's database is a copy
LONGEST = "test_evening.py"  # of the journeys: it runs by itself beside the others
MARKING = ("assessment", "bench", "moderation", "returns")  # of the site, about half of its time


@dataclass(frozen=True)
class Suite:
    """Tests that one command runs."""

    title: str
    command: list[str]
    environment: dict[str, str]


class Count:
    """Tests passed and failed so far."""

    def __init__(self):
        self.passed = self.failed = 0
        self._lock = threading.Lock()

    def run_all(self, suites: list[Suite]) -> None:
        """Run suites in their order, BESIDE at a time."""
        waiting, alone = queue.SimpleQueue(), len(suites) == 1
        for suite in suites:
            waiting.put(suite)

        def work() -> None:
            with contextlib.suppress(queue.Empty):
                while True:
                    self.run(waiting.get_nowait(), alone)

        threads = [threading.Thread(target=work, daemon=True) for _ in range(BESIDE)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()

    def run(self, suite: Suite, alone: bool) -> None:
        """Run a suite; what it says is shown at once when it runs `alone`, else when it is over."""
        print(f"== {suite.title}{'' if alone else ' begins'}", flush=True)
        began = time.monotonic()
        process = subprocess.Popen(
            suite.command,
            cwd=ROOT,
            env=suite.environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            preexec_fn=die_with_parent,
        )
        lines = []
        for line in process.stdout:
            lines.append(line)
            if alone:
                print(line, end="", flush=True)
        code, text = process.wait(), "".join(lines)
        with self._lock:
            if not alone:
                print(f"== {suite.title}\n{text}", end="", flush=True)
            self._add(suite.title, code, text)
            print(f"   {time.monotonic() - began:.0f} s", flush=True)

    def _add(self, title: str, code: int, text: str) -> None:
        ran = sum(int(n) for n in re.findall(r"^Ran (\d+) tests?", text, re.M))
        kinds = r"(?:failures|errors|unexpected successes)=(\d+)"
        lost = sum(int(n) for n in re.findall(kinds, text))
        if code and not lost:
            lost, ran = 1, max(ran, 1)
        if not ran:
            print(f"No test was found for: {title}")
            lost = ran = 1
        self.failed += min(lost, ran)
        self.passed += max(0, ran - lost)


def modules(paths: list[str]) -> list[str]:
    """Dotted names for paths of files or folders."""
    out = []
    for path in paths:
        place = Path(path)
        if not (ROOT / place).exists():
            raise Trouble(f"There is nothing at {path}.")
        out.append(".".join(place.with_suffix("").parts))
    return out


def _python(environment: dict[str, str], title: str, *words: str) -> list[str]:
    """A command of this Python; under coverage where COVERAGE names its suite (core, site,
    journeys), which makes it half as long again.
    """
    watched = title in environment.get("COVERAGE", "").split()
    return [sys.executable, *(["-m", "coverage", "run", "--parallel-mode"] * watched), *words]


def _core(place: str, environment: dict[str, str]) -> Suite:
    folder = (ROOT / place).is_dir()
    aim = ["discover", "-s", place, "-t", "."] if folder else modules([place])
    command = _python(environment, "core", "bin/_without_django.py", *aim)
    return Suite(f"core: {place}", command, environment)


def _django(title: str, paths: list[str], environment: dict[str, str]) -> Suite:
    """Tests by Django's runner, on a database of their own."""
    own = environment | {
        "HEATH_DB_NAME": f"heath_{title}",
        "HEATH_DATA": f"{environment['HEATH_DATA']}/{title}",
    }
    command = _python(own, title, "manage.py", "test", *modules(paths))
    return Suite(title, command, own)


def _database(folder: str, port: int) -> dict[str, str]:
    return {
        "DJANGO_SETTINGS_MODULE": "heath.config.testing",
        "HEATH_DATA": folder,
        "HEATH_SECRET_KEY": "for-tests-only-" + "x" * 40,
        "HEATH_DB_PASSWORD": PASSWORD,
        "HEATH_DB_PORT": str(port),
    }


def _migrated(cluster: Cluster, environment: dict[str, str]) -> dict[str, str]:
    """Migrate a database that the suites copy; where it is, for their environment."""
    cluster.database(TEMPLATE, PASSWORD)
    subprocess.run(
        [sys.executable, "manage.py", "migrate", "--verbosity", "0"],
        cwd=ROOT,
        env=environment | {"HEATH_DB_NAME": TEMPLATE},
        check=True,
    )
    return {"TEST_TEMPLATE": TEMPLATE}


def _split() -> tuple[list[str], list[str]]:
    """The longest of the journeys, and the others."""
    found = sorted(str(p.relative_to(ROOT)) for p in (ROOT / "tests/journeys").glob("test_*.py"))
    longest = [p for p in found if p.endswith(LONGEST)]
    return longest, [p for p in found if p not in longest]


def _halves() -> tuple[list[str], list[str]]:
    """The apps where pieces are marked, and the site's others."""
    apps = sorted(p.parent.name for p in (ROOT / "heath").glob("*/tests"))
    return [f"heath/{a}" for a in apps if a in MARKING], [
        f"heath/{a}" for a in apps if a not in MARKING
    ]


def main() -> int:
    paths = [
        os.path.relpath(Path(p).resolve(), ROOT) if Path(p).exists() else p for p in sys.argv[1:]
    ]
    core = [p for p in paths if p.startswith("juniper")]
    house = [p for p in paths if p.startswith("tests/house")]
    journeys = [p for p in paths if p.startswith("tests") and p not in house]
    site = [p for p in paths if p.startswith("heath")]
    stray = [p for p in paths if p not in core + house + journeys + site]
    if stray:
        raise Trouble(f"Tests lie under juniper, heath and tests; there are none at {stray[0]}.")
    everything = not paths
    count = Count()
    plain = os.environ | {
        "PYTHONPATH": str(ROOT),
        "PYTHONWARNINGS": "ignore::ResourceWarning",
        # Where it is forbidden, each of the many processes would compile everything anew.
        "PYTHONDONTWRITEBYTECODE": "",
    }
    if everything:
        # Suites beside one another share the cores: each computes with one thread, or they would
        # wait for one another's.
        plain |= ONE_THREAD
    pure = [_core(place, plain) for place in core or (["juniper"] if everything else [])]
    if everything or house:
        aim = modules(house) if house and house != ["tests/house"] else None
        discover = ["discover", "-s", "tests/house", "-t", "."]
        pure.append(Suite("house", [sys.executable, "-m", "unittest", *(aim or discover)], plain))
    if not (everything or site or journeys):
        count.run_all(pure)
    else:
        with tempfile.TemporaryDirectory(prefix="heath-tests-", dir="/var/tmp") as folder:
            os.chmod(folder, 0o755)
            cluster = Cluster(Path(folder) / "cluster", Path(folder) / "database.log", quick=True)
            try:
                cluster.make(PASSWORD)
                cluster.start()
                inside = plain | _database(folder, cluster.port)
                # The longest first, so that none is left to run by itself.
                suites, last = [], []
                if everything:
                    inside |= _migrated(cluster, inside)
                    evening, others = _split()
                    suites.append(_django("journeys", others, inside))
                    last.append(_django("evening", evening, inside))
                elif journeys:
                    suites.append(_django("journeys", journeys, inside))
                if everything:
                    marking, others = _halves()
                    suites += [_django("marking", marking, inside), _django("site", others, inside)]
                elif site:
                    suites.append(_django("site", site, inside))
                # what waits most runs beside all that computes
                count.run_all(suites[:1] + pure[::-1] + suites[1:] + last)
            finally:
                cluster.stop()
                if cluster.folder.parent != Path(folder):
                    cluster.remove()
    print(f"\n{count.passed} passed, {count.failed} failed")
    return 1 if count.failed else 0


def _leave(*_):
    raise SystemExit(143)


if __name__ == "__main__":
    signal.signal(signal.SIGTERM, _leave)
    try:
        sys.exit(main())
    except Trouble as error:
        print(error, file=sys.stderr)
        sys.exit(2)
