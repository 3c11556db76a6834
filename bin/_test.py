"""Runs the core's tests, the site's tests and the browser journeys, and counts them."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from _cluster import Cluster, Trouble, die_with_parent

ROOT = Path(__file__).resolve().parents[1]
PASSWORD = "for-tests-only"
# A machine that is busy with other things is no fault of a test: how long hypothesis takes to think
# of an input is not judged.
CALM = (
    "from hypothesis import HealthCheck, settings; settings.register_profile('calm', deadline=None,"
    " suppress_health_check=[HealthCheck.too_slow]); settings.load_profile('calm'); "
)
# The core is tested with Django out of reach: an import of it fails.
ALONE = (
    f"import sys; sys.modules['django'] = None; {CALM}import unittest; unittest.main(module=None,"
    " argv=sys.argv)"
)


class Count:
    """Tests passed and failed so far."""

    def __init__(self):
        self.passed = self.failed = 0

    def run(self, title: str, command: list[str], environment: dict[str, str]) -> None:
        print(f"== {title}", flush=True)
        began = time.monotonic()
        process = subprocess.Popen(
            command,
            cwd=ROOT,
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            preexec_fn=die_with_parent,
        )
        text = []
        for line in process.stdout:
            text.append(line)
            print(line, end="", flush=True)
        code = process.wait()
        ran = sum(int(n) for n in re.findall(r"^Ran (\d+) tests?", "".join(text), re.M))
        lost = sum(
            int(n)
            for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", "".join(text))
        )
        if code and not lost:
            lost, ran = 1, max(ran, 1)
        if not ran:
            print(f"No test was found for: {title}")
            lost = ran = 1
        self.failed += min(lost, ran)
        self.passed += max(0, ran - lost)
        print(f"   {time.monotonic() - began:.0f} s", flush=True)


def modules(paths: list[str]) -> list[str]:
    """Dotted names for paths of files or folders."""
    out = []
    for path in paths:
        place = Path(path)
        if not (ROOT / place).exists():
            raise Trouble(f"There is nothing at {path}.")
        out.append(".".join(place.with_suffix("").parts))
    return out


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
    plain = os.environ | {"PYTHONPATH": str(ROOT), "PYTHONWARNINGS": "ignore::ResourceWarning"}
    for place in core or (["juniper"] if everything else []):
        name = modules([place])[0]
        folder = (ROOT / place).is_dir()
        aim = ["discover", "-s", place, "-t", "."] if folder else [name]
        count.run(f"core: {place}", [sys.executable, "-c", ALONE, *aim], plain)
    if everything or house:
        count.run(
            "house",
            [sys.executable, "-m", "unittest", "discover", "-s", "tests/house", "-t", "."],
            plain,
        )
    if everything or site or journeys:
        with tempfile.TemporaryDirectory(prefix="heath-tests-", dir="/var/tmp") as folder:
            os.chmod(folder, 0o755)
            cluster = Cluster(Path(folder) / "cluster", Path(folder) / "database.log", quick=True)
            try:
                cluster.make(PASSWORD)
                cluster.start()
                inside = plain | {
                    "DJANGO_SETTINGS_MODULE": "heath.config.testing",
                    "HEATH_DATA": folder,
                    "HEATH_SECRET_KEY": "for-tests-only-" + "x" * 40,
                    "HEATH_DB_NAME": "postgres",
                    "HEATH_DB_PASSWORD": PASSWORD,
                    "HEATH_DB_PORT": str(cluster.port),
                }
                if everything or site:
                    count.run(
                        "site",
                        [sys.executable, "manage.py", "test", *(modules(site) or ["heath"])],
                        inside,
                    )
                if everything or journeys:
                    count.run(
                        "journeys",
                        [
                            sys.executable,
                            "manage.py",
                            "test",
                            *(modules(journeys) or ["tests.journeys"]),
                        ],
                        inside,
                    )
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
