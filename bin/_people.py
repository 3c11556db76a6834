"""Many people dragging handles at once: what a move takes against what it takes alone, on the site
as it is served.
"""

from __future__ import annotations

import http.client
import os
import random
import re
import statistics
import subprocess
import sys
import threading
import time
from pathlib import Path
from urllib.parse import urlencode

from _cluster import die_with_parent, free_port

SECONDS = 12.0  # of dragging
PAUSE = 0.05  # seconds between two moves of a hand: a pointer's events as the page sends them
OUTBOX = Path(__file__).parents[1] / "heath/web/static/web/bench/outbox.js"
THERE = {k: float(v) for k, v in re.findall(r"const (\w+) = ([\d.]+);", OUTBOX.read_text())}
SWIFT, LESS, LONGEST_REST = (THERE[k] / 1000 for k in ("SWIFT", "LESS", "LONGEST_REST"))  # seconds
MORE = THERE["MORE"]  # times


def rest_after(took: float, before: float) -> float:
    """Seconds a hand rests after an answer that took so many, as the page does it; `before` is its
    last rest.
    """
    rest = MORE * before if took > SWIFT else before - LESS
    return min(max(rest, took), LONGEST_REST)


def ninety_fifth(times: list[float]) -> float:
    """95th percentile."""
    return statistics.quantiles(times, n=20)[-1] if len(times) > 1 else times[0]


def dragging(user, brief, people: int) -> tuple[float, float]:
    """95th percentile of a move in seconds, of one hand alone and of so many at once, on as many
    pieces of a brief.
    """
    from django.conf import settings
    from django.test import Client
    from django.urls import reverse

    from heath.assessment.reading import handles, read

    client = Client()
    client.force_login(user)
    session = client.cookies[settings.SESSION_COOKIE_NAME].value
    hands = []
    for piece in brief.pieces.order_by("pk")[:people]:
        places = {h["name"]: (h["x"], h["y"]) for h in handles(read(piece))}
        hands.append((reverse("move", args=[piece.pk]), places["base"]))
    port = free_port()
    site = subprocess.Popen(
        [sys.executable, "-m", "heath.config.serving", "--port", str(port)],
        env=os.environ | {"PYTHONPATH": os.getcwd()},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        preexec_fn=die_with_parent,
    )
    try:
        _wait(port)
        _dragged(port, session, hands, 6.0)  # what each process reads once of each piece
        return ninety_fifth(_dragged(port, session, hands[:1], SECONDS)), ninety_fifth(
            _dragged(port, session, hands, SECONDS)
        )
    finally:
        site.terminate()
        site.wait()


def _wait(port: int) -> None:
    for _ in range(200):
        try:
            link = http.client.HTTPConnection("127.0.0.1", port, timeout=5)
            link.request("GET", "/sign-in/", headers={"Host": "testserver"})
            link.getresponse().read()
            return
        except OSError:
            time.sleep(0.1)
    raise SystemExit("The site did not start.")


def _dragged(port: int, session: str, hands, seconds: float) -> list[float]:
    times, lock = [], threading.Lock()

    def drag(number: int, address: str, place: tuple[float, float]) -> None:
        rng = random.Random(number)
        time.sleep(rng.uniform(0, 0.3))
        link = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        token = "a" * 32
        headers = {
            "Host": "testserver",
            "Content-Type": "application/x-www-form-urlencoded",
            "X-CSRFToken": token,
            "Cookie": f"sessionid={session}; csrftoken={token}",
        }
        ends, n, rest = time.perf_counter() + seconds, 0, 0.0
        while time.perf_counter() < ends:
            n += 1
            at = {"x": place[0] + rng.uniform(-9, 9), "y": place[1] + rng.uniform(-9, 9)}
            body = urlencode(
                {
                    "handle": "base",
                    "gesture": f"drag-{number}-{n // 40:04d}",
                    "lens": "proportion",
                    **at,
                }
            )
            began = time.perf_counter()
            link.request("POST", address, body, headers)
            answer = link.getresponse()
            answer.read()
            took = time.perf_counter() - began
            if answer.status not in (200, 204):
                raise SystemExit(f"A move answered {answer.status}.")
            with lock:
                times.append(took)
            rest = rest_after(took, rest)
            time.sleep(max(PAUSE - took, rest))

    threads = [threading.Thread(target=drag, args=(n, *hand)) for n, hand in enumerate(hands)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return times
