"""A load on a site as it is served: people on term, bench and wall, hands that drag, photographs
that come in; what the pages and the moves take meanwhile.
"""

from __future__ import annotations

import argparse
import contextlib
import http.client
import json
import os
import random
import statistics
import tempfile
import threading
import time
from collections import defaultdict
from collections.abc import Callable
from functools import partial
from pathlib import Path
from urllib.parse import urlencode

from _house import House
from _people import PAUSE, rest_after

THINKING = 60.0  # seconds a person looks at a page before the next, about
SECONDS = 90.0
PAGES = ("term", "bench", "wall")
ALONE = 10  # of each kind that are asked for alone
MEASURED, CLASSES = 20, 4  # pieces of a class, and classes that are marked at once
# further classes whose pieces look like those of the first
FURTHER = """
from heath.assessment.models import Photograph, Piece
from heath.assessment.snapshot import keep_later
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
first = Brief.objects.get()
for n in range(%d):
    course = Course.objects.create(school=first.course.school, name=f"Class {n}", term="Autumn")
    brief = Brief.objects.get(pk=first.pk)
    brief.pk, brief.course = None, course
    brief.save()
    for photograph in Photograph.objects.filter(piece__brief=first):
        student = Student.objects.create(course=course, name=photograph.piece.student.name)
        piece = Piece.objects.create(brief=brief, student=student, state="marking")
        photograph.pk, photograph.piece = None, piece
        photograph.digest = f"{n}{photograph.digest[1:]}"
        photograph.save()
        keep_later(piece.pk)
"""
WARMING = 15.0  # seconds at the start that are not counted


class Load:
    """What visitors of a site, at its ports, have waited for."""

    def __init__(self, one: House, seconds: float):
        self.one, self.seconds = one, seconds
        rows = one.ask(
            "SELECT brief_id, array_agg(id ORDER BY id) FROM assessment_piece"
            " WHERE state = 'marking' GROUP BY 1 ORDER BY 1"
        )
        self.classes: list[tuple[int, list[int]]] = [(brief, pieces) for brief, pieces in rows]
        self.times: dict[str, list[float]] = defaultdict(list)
        self.faults: dict[str, int] = defaultdict(int)
        self.lock = threading.Lock()
        self.begin = time.monotonic()
        self.cores: dict[str, float] = {}

    @property
    def over(self) -> bool:
        return time.monotonic() > self.begin + WARMING + self.seconds

    def ask(self, link: http.client.HTTPConnection, kind: str, path: str, body: str = "") -> float:
        """One request; how many seconds it took."""
        jar = self.one.session.cookies
        headers = {
            "Host": f"127.0.0.1:{link.port}",
            "Cookie": f"sessionid={jar['sessionid']}; csrftoken={jar['csrftoken']}",
            "X-CSRFToken": jar["csrftoken"],
            "Content-Type": "application/x-www-form-urlencoded",
        }
        began = time.monotonic()
        try:
            link.request("POST" if body else "GET", path, body or None, headers)
            answer = link.getresponse()
            answer.read()
            status = answer.status
        except (OSError, http.client.HTTPException) as error:
            status = type(error).__name__
            link.close()
        took = time.monotonic() - began
        with self.lock:
            if status not in (200, 204):
                self.faults[f"{kind} {status}"] += 1
            if began > self.begin + WARMING:
                self.times[kind].append(took)
        link.close()  # as nginx, which keeps no connection to a site's machines
        return took

    def look(self, number: int) -> None:
        """A person who goes from page to page of one class."""
        rng = random.Random(number)
        brief, pieces = self.classes[number % len(self.classes)]
        link = self._link(number)
        time.sleep(rng.uniform(0, THINKING))
        while not self.over:
            kind = rng.choice(PAGES)
            self.ask(link, kind, self.path(kind, brief, rng.choice(pieces)))
            time.sleep(rng.uniform(0.5, 1.5) * THINKING)

    def path(self, kind: str, brief: int, piece: int) -> str:
        """The address of a page."""
        return {"term": "/", "bench": f"/pieces/{piece}/", "wall": f"/briefs/{brief}/"}[kind]

    def alone(self, hands: list) -> dict[str, int]:
        """Milliseconds of each kind, and of all pages, while nobody else asks for anything (median
        of ten): what this machine is worth at the moment.
        """
        (brief, pieces), link = self.classes[0], self._link(0)
        took = {
            kind: [self.ask(link, kind, self.path(kind, brief, p)) for p in pieces[:ALONE]]
            for kind in PAGES
        }
        took["pages"] = [t for kind in PAGES for t in took[kind]]
        piece, at = hands[0]
        took["move"] = [self.move(link, 999, piece, at, n) for n in range(2 * ALONE)][ALONE:]
        link.close()
        self.begin = time.monotonic()
        return {kind: round(1000 * statistics.median(times)) for kind, times in took.items()}

    def move(self, link, number: int, piece: int, at: tuple[float, float], n: int) -> float:
        """One move of a hand's drag; how many seconds it took."""
        place = {"x": at[0] + n % 17 - 8, "y": at[1] + n % 13 - 6}
        gesture = f"drag-{number}-{n // 40:04d}"
        body = urlencode({"handle": "base", "gesture": gesture, "lens": "proportion"} | place)
        return self.ask(link, "move", f"/pieces/{piece}/move/", body)

    def drag(self, number: int, piece: int, at: tuple[float, float]) -> None:
        """A hand that drags without an end."""
        link = self._link(number)
        n, rest = 0, 0.0
        while not self.over:
            n += 1
            took = self.move(link, number, piece, at, n)
            rest = rest_after(took, rest)
            time.sleep(max(PAUSE - took, rest))

    def send(self, an_hour: float) -> None:
        """Photographs that come in."""
        number = 20
        while an_hour and not self.over:
            began = time.monotonic()
            if not self.one.send_picture(number % self.one.students):
                self.faults["photograph"] += 1
            self.times["photograph sent"].append(time.monotonic() - began)
            number += 1
            time.sleep(max(0.0, 3600 / an_hour - (time.monotonic() - began)))

    def _link(self, number: int) -> http.client.HTTPConnection:
        port = self.one.ports[number % len(self.one.ports)]
        return http.client.HTTPConnection("127.0.0.1", port, timeout=60)

    def run(self, people: int, hands: list, an_hour: float) -> None:
        """Have people look, hands drag and photographs come in, all at once."""
        work: list[tuple[Callable, tuple]] = [(self.look, (n,)) for n in range(people)]
        work += [(self.drag, (n, *hand)) for n, hand in enumerate(hands)]
        work.append((self.send, (an_hour,)))
        threads = [threading.Thread(target=f, args=a, daemon=True) for f, a in work]
        for thread in threads:
            thread.start()
        time.sleep(WARMING)
        before = self.used()
        while not self.over:
            time.sleep(0.5)
        after = self.used()
        self.cores = {k: round((after[k] - before[k]) / self.seconds, 2) for k in after}
        for thread in threads[:-1]:
            thread.join(60)

    def used(self) -> dict[str, float]:
        """Seconds of processor time so far, by what used them."""
        kinds = {"web": "heath.config.serving", "workers": "procrastinate", "database": "postgres"}
        own = time.process_time()
        return {"load": own} | {
            kind: sum(_seconds(pid) for h in (self.one, *self.one.others) for pid in h.children(w))
            for kind, w in kinds.items()
        }

    def figures(self) -> dict:
        """Count, median and 95th percentile in milliseconds of each kind, what went wrong, and how
        many cores were used by what.
        """
        pages = [t for kind in PAGES for t in self.times[kind]]
        kinds = {"pages": pages} | {k: v for k, v in self.times.items() if v}
        more = {
            "moves_a_second": round(len(self.times["move"]) / self.seconds, 1),
            "faults": dict(self.faults),
            "cores": self.cores,
        }
        return {k: _spread(v) for k, v in kinds.items()} | more


def _seconds(pid: int) -> float:
    """Seconds of processor time of a process."""
    with contextlib.suppress(OSError):
        words = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
        return (int(words[11]) + int(words[12])) / os.sysconf("SC_CLK_TCK")
    return 0.0


def _spread(times: list[float]) -> dict[str, float]:
    if len(times) < 2:
        return {"count": len(times)}
    return {
        "count": len(times),
        "median_ms": round(1000 * statistics.median(times)),
        "p95_ms": round(1000 * statistics.quantiles(times, n=20)[-1]),
    }


def hands_of(one: House, many: int) -> list[tuple[int, tuple[float, float]]]:
    """A piece and the place of its container's foot, for each hand: as many of each class."""
    rows = one.ask(
        "SELECT piece_id, scene->'datum'->'base', row_number() OVER"
        " (PARTITION BY piece.brief_id ORDER BY piece_id) AS place"
        " FROM assessment_photograph JOIN assessment_piece piece ON piece.id = piece_id"
        " ORDER BY place, piece_id"
    )
    return [(piece, tuple(base)) for piece, base, _ in rows][:many]


def _kept(one: House) -> bool:
    """Whether it is kept how every piece stands, as it is on a site that has run for a day."""
    ((pieces,),) = one.ask("SELECT count(*) FROM assessment_piece WHERE state = 'marking'")
    return one.ask("SELECT count(*) FROM assessment_piecesnapshot") == [(pieces,)]


def _pinned(one: House, core: int) -> None:
    """Keep what a machine runs to one core, save the database, which serves all of them."""
    # twice: a thread may begin under one that is not pinned yet
    for pid in 2 * [one.serving.pid, *one.children("")]:
        words = Path(f"/proc/{pid}/cmdline").read_bytes()
        where = range(os.cpu_count() or 1) if b"postgres" in words else {core}
        for thread in Path(f"/proc/{pid}/task").iterdir():
            with contextlib.suppress(ProcessLookupError):
                os.sched_setaffinity(int(thread.name), where)


def loaded(people: int, dragging: int, an_hour: float, seconds: float, cores: int) -> dict:
    """The figures of a load on one machine; with `cores`, on so many machines of a core each."""
    with tempfile.TemporaryDirectory(prefix="heath-load-", dir="/var/tmp") as place:
        folder = Path(place)
        folder.chmod(0o755)
        one = House(folder, students=26, workers=1, web_processes=1 if cores else 2)
        try:
            one.set_up(measured=MEASURED)
            one.manage("shell", "-c", FURTHER % (CLASSES - 1))
            one.until(partial(_kept, one), 300)
            for core in range(cores):
                other = one.second_machine(True, web_processes=1, workers=1) if core else one
                one.until(partial(one.answers, other.port), 90)
                time.sleep(10)  # its worker's imports
                _pinned(other, core)
                one.ports += [other.port] * bool(core)
            load = Load(one, seconds)
            hands = hands_of(one, dragging)
            alone = load.alone(hands)
            load.run(people, hands, an_hour)
            return {"alone_ms": alone} | load.figures()
        finally:
            one.stop()


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/load", description=__doc__)
    parser.add_argument("--people", type=int, default=100, help="who go from page to page")
    parser.add_argument("--dragging", type=int, default=20, help="hands that drag meanwhile")
    parser.add_argument("--pictures", type=float, default=60, help="photographs an hour")
    parser.add_argument("--seconds", type=float, default=SECONDS)
    parser.add_argument(
        "--cores", type=int, default=0, help="so many machines of a core each, on one database"
    )
    options = parser.parse_args()
    found = loaded(
        options.people, options.dragging, options.pictures, options.seconds, options.cores
    )
    print(json.dumps(found, indent=2))


if __name__ == "__main__":
    main()
