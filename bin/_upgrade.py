"""Brings an installation to this release: backs up, changes the tables, lays out the static files,
and has a running bin/serve start anew. What an older core saw is seen anew in the background.
"""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
import time

from _cluster import Trouble
from _processes import ROOT
from _serve import attended, running

sys.path.insert(0, str(ROOT))
from heath.config.given import Given

# A change of a table that must wait for somebody's transaction holds everybody behind it up: it
# gives way after so long, and is tried again.
LOCK_SECONDS, TRIES, PAUSE = 3, 20, 1.0


def arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(
        prog="bin/upgrade", description="Bring the installation to this release."
    )
    parser.add_argument(
        "--without-backup", action="store_true", help="when a backup was made in another way"
    )
    return parser.parse_args()


def _manage(environment: dict[str, str], *words: str) -> str:
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "manage.py", *words],
        cwd=ROOT,
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        said = (done.stderr.strip() or done.stdout.strip()).splitlines() or ["no reason given"]
        raise Trouble(said[-1])
    return done.stdout.strip()


def _migrated(environment: dict[str, str]) -> None:
    own = environment | {"PGOPTIONS": f"-c lock_timeout={LOCK_SECONDS}s"}
    for attempt in range(TRIES):
        try:
            _manage(own, "migrate", "--no-input", "--verbosity", "0")
            return
        except Trouble as error:
            if "lock timeout" not in str(error) or attempt + 1 == TRIES:
                raise Trouble(
                    f"The tables could not be changed: {error}. What was changed before that holds;"
                    " the release that ran until now runs on. Mend the cause, and run bin/upgrade"
                    " again."
                ) from error
            time.sleep(PAUSE)


def run(options: argparse.Namespace, now: Given, environment: dict[str, str]) -> int:
    filled = _manage(environment, "installation", "--filled") == "yes"
    if filled and not options.without_backup:
        if not now.backup_to or not now.backup_key.is_file():
            raise Trouble(
                "There is no place for a backup: set backup_to and backup_key, or say"
                " --without-backup when one was made in another way."
            )
        print("Backing up ...", flush=True)
        print(_manage(environment, "backup", now.backup_to, "--key", str(now.backup_key)))
    print("Changing the tables ...", flush=True)
    _migrated(environment)
    print("Laying out the static files ...", flush=True)
    # Files of earlier releases stay: a page that was opened before still asks for them.
    _manage(environment, "collectstatic", "--no-input", "--verbosity", "0")
    print(_manage(environment, "installation"))
    started = running(now)
    for pid in started:
        os.kill(pid, signal.SIGHUP)
    print("Web and workers are started anew." if started else "Start or reload the services now.")
    return 0


if __name__ == "__main__":
    chosen = arguments()
    sys.exit(attended(lambda now, environment: run(chosen, now, environment)))
