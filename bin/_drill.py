"""Drills: requests, files and visitors that could stop the site, sent to it as it is served, and
what comes of them.
"""

from __future__ import annotations

import argparse
import http.client
import io
import json
import os
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from _cluster import die_with_parent, free_port
from _people import dragging
from _private import private_site

MB = 1_000_000
TOKEN = "a" * 32
DRILLS: dict[str, tuple[str, Callable]] = {}


@dataclass
class Site:
    """The site that is drilled: its port, a person's session, and the records that were made for
    it.
    """

    port: int
    session: str
    brief: object
    piece: object
    user: object

    def ask(
        self, method: str, path: str, data=None, session: str | None = None, timeout: float = 60
    ) -> tuple[int, bytes, float]:
        """(status, body, seconds) of a request; `data` a dict, with files as (name, bytes)."""
        from django.core.files.uploadedfile import SimpleUploadedFile
        from django.test.client import BOUNDARY, MULTIPART_CONTENT, encode_multipart

        cookie = f"csrftoken={TOKEN}" + (
            f"; sessionid={self.session if session is None else session}" if session != "" else ""
        )
        headers = {"Host": "testserver", "Cookie": cookie, "X-CSRFToken": TOKEN}
        body = None
        if data is not None:
            sent = {
                k: SimpleUploadedFile(*v) if isinstance(v, tuple) else v for k, v in data.items()
            }
            body = encode_multipart(BOUNDARY, sent)
            headers["Content-Type"] = MULTIPART_CONTENT
        link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=timeout)
        began = time.perf_counter()
        link.request(method, path, body, headers)
        answer = link.getresponse()
        read = answer.read()
        return answer.status, read, time.perf_counter() - began

    def alive(self) -> float:
        """Seconds that the sign-in page takes a visitor."""
        return self.ask("GET", "/sign-in/", session="")[2]


def drill(what: str):
    """Register a drill: it gives a sentence on what happened, and whether that is as it should
    be.
    """

    def kept(function):
        DRILLS[function.__name__.replace("_", "-")] = (what, function)
        return function

    return kept


@drill("240 kB of unclosed <rect in a palette")
def palette(site: Site):
    status, _, took = site.ask(
        "POST",
        f"/briefs/{site.brief.pk}/palette/",
        {"file": ("a.svg", b"<svg>" + b"<rect " * 40_000)},
    )
    return f"answered {status} in {took:.2f} s", status == 302 and took < 1


@drill("documents that cost parsers dearly: dotted keys, brackets, digits")
def documents(site: Site):
    worst, statuses = 0.0, set()
    for text in (
        "a." * 30_000 + "a = 1",
        "a = " + "[" * 60_000,
        "a = " + "9" * 5000,
        "a = " + "{a=" * 20_000,
        '"a".' * 15_000 + "a=1",
    ):
        status, body, took = site.ask("POST", "/rulebook/", {"text": text})
        statuses.add((status, b"The rule set is not read" in body))
        worst = max(worst, took)
    for text in ("[" * 100_000, '{"a":' * 50_000, 'slug\n"' + "a" * 140_000):
        status, body, took = site.ask(
            "POST", "/materials/bring/", {"file": ("a.json", text.encode())}
        )
        statuses.add((status, b"Nothing was taken in" in body))
        worst = max(worst, took)
    return (
        f"eight refused in words, the slowest in {worst:.2f} s",
        all(said for _, said in statuses) and worst < 1,
    )


@drill("advice that asks for 40 million blanks")
def advice(site: Site):
    from juniper.rules import school, write_rule_set

    text = write_rule_set(school("classical-line-mass")).replace("{value}", "{value:>40000000}", 1)
    text = text.replace('slug = "classical-line-mass"', 'slug = "drilled"')
    status, body, took = site.ask("POST", "/rulebook/", {"text": text})
    return (
        f"answered {status} with {len(body) / 1000:.0f} kB in {took:.2f} s",
        b"can be filled in" in body,
    )


@drill("64 half-sent posts and 200 half-sent headers")
def slow_visitors(site: Site):
    held = []
    for n in range(264):
        link = socket.create_connection(("127.0.0.1", site.port), timeout=10)
        link.sendall(
            b"POST /sign-in/ HTTP/1.1\r\nHost: testserver\r\nContent-Length: 900\r\n\r\nhalf"
            if n < 64
            else b"GET / HTTP/1.1\r\nHost: te"
        )
        held.append(link)
    took = max(site.alive() for _ in range(5))
    for link in held:
        link.close()
    return f"the sign-in page came in {took:.2f} s", took < 2


@drill("300 MB to the sign-in page")
def bodies(site: Site):
    link = socket.create_connection(("127.0.0.1", site.port), timeout=10)
    began = time.perf_counter()
    lines = ("POST /sign-in/ HTTP/1.1", "Host: testserver", f"Content-Length: {300 * MB}", "", "")
    link.sendall("\r\n".join(lines).encode())
    said = link.recv(4096).decode()
    return (
        (
            f"{said.split(chr(13))[0]} after {time.perf_counter() - began:.2f} s, before any of it"
            " was sent"
        ),
        "413" in said,
    )


@drill("twelve 60-megapixel pictures added at once")
def decoding(site: Site):
    import numpy as np
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(np.zeros((8940, 6700, 3), np.uint8)).save(out, "JPEG", quality=40)
    last = site.brief.pieces.order_by("pk").last()  # the others keep their photographs
    path, data = f"/pieces/{last.pk}/photograph/", out.getvalue()
    with ThreadPoolExecutor(12) as pool:
        sent = [
            pool.submit(site.ask, "POST", path, {"photograph": (f"{n}.jpg", data)}, None, 200)
            for n in range(12)
        ]
        time.sleep(1.0)
        took = max(site.alive() for _ in range(8))
        statuses = sorted({f.result()[0] for f in sent})
    return (
        f"meanwhile the sign-in page came in {took:.2f} s; the pictures answered {statuses}",
        took < 3 and max(statuses) < 500,
    )


@drill("a classmate's name typed with another picture")
def names(site: Site):
    from django.core.files.uploadedfile import SimpleUploadedFile

    from heath.assessment.models import Piece
    from heath.intake.arriving import receive, sort_arrival
    from heath.testing import picture

    before = Piece.objects.get(pk=site.piece.pk).photograph.pk
    arrival = receive(
        site.brief, SimpleUploadedFile("a.jpg", picture(11).data), said=site.piece.student.name
    )
    sort_arrival(arrival.pk)
    arrival.refresh_from_db()
    kept = Piece.objects.get(pk=site.piece.pk).photograph.pk == before
    return (
        (
            f"the photograph {'stays' if kept else 'is displaced'}, the new one is"
            f" {arrival.get_state_display()!r}"
        ),
        kept,
    )


@drill("an assistant releases rules, locks marks, withdraws sheets")
def roles(site: Site):
    from django.conf import settings
    from django.test import Client

    from heath.people.models import User

    client = Client()
    client.force_login(
        User.objects.create_user("assistant", password=None, school=site.user.school)
    )
    session = client.cookies[settings.SESSION_COOKIE_NAME].value
    paths = (
        f"/briefs/{site.brief.pk}/names/",
        f"/pieces/{site.piece.pk}/sheet/withdraw/",
        f"/briefs/{site.brief.pk}/link/",
        "/people/",
    )
    statuses = [site.ask("POST", path, {"do": "lock"}, session)[0] for path in paths]
    return f"answered {statuses}", statuses == [403] * 4


@drill("forty attempts to sign in with one name")
def attempts(site: Site):
    statuses = [
        site.ask("POST", "/sign-in/", {"username": "maren", "password": f"no-{n}"}, "")[0]
        for n in range(40)
    ]
    from axes.utils import reset

    reset()
    return f"{statuses.count(200)} tried, {statuses.count(429)} held up", statuses.count(200) <= 10


@drill("a withdrawn sheet's address after the piece is returned again")
def withdrawn(site: Site):
    from heath.returns.models import ReturnSheet

    pk = site.piece.pk
    for path in (f"/pieces/{pk}/accept/", f"/pieces/{pk}/return/"):
        site.ask("POST", path, {})
    key = ReturnSheet.objects.filter(piece=pk).last().key
    site.ask("POST", f"/pieces/{pk}/sheet/withdraw/", {})
    site.ask("POST", f"/pieces/{pk}/return/", {})
    old = site.ask("GET", f"/own/{key}/", session="")[0]
    new = site.ask("GET", f"/own/{ReturnSheet.objects.filter(piece=pk).last().key}/", session="")[0]
    return f"the old address answered {old}, the new one {new}", (old, new) == (410, 200)


@drill("a button that makes a brief pressed eight times at once")
def presses(site: Site):
    from heath.briefs.models import Brief

    values = {
        "name": "Pressed",
        "course": site.brief.course_id,
        "container": "Bowl",
        "container_height_cm": "9",
        "container_width_cm": "26",
        "viewpoint": "front only",
        "form": "horizontal",
        "rule_set": "classical-line-mass",
        "scheme": "",
        "split": "60 : 30 : 10",
        "most_kinds": "3",
        "pass_mark": "50",
        "views": "front",
        "once": "a-key",
    }
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda _: site.ask("POST", "/briefs/new/", values), range(8)))
    made = Brief.objects.filter(name="Pressed").count()
    return f"{made} brief made", made == 1


@drill("twenty people dragging handles at once")
def handles(site: Site):
    alone, together = dragging(site.user, site.brief, 20)
    ratio = together / alone
    return (
        (
            f"95th percentile {1000 * together:.0f} ms, {ratio:.1f} times one alone"
            f" ({1000 * alone:.0f} ms)"
        ),
        ratio <= 5,
    )


@drill("pages of people who are signed in, in a cache")
def cache(site: Site):
    link = http.client.HTTPConnection("127.0.0.1", site.port, timeout=10)
    link.request("GET", "/", headers={"Host": "testserver", "Cookie": f"sessionid={site.session}"})
    said = link.getresponse().headers.get("Cache-Control", "")
    return said or "nothing is said", "no-store" in said


def drilled(chosen: list[str]) -> list[dict]:
    """Run drills by name, each on the same site."""
    with private_site("drill"):
        from django.conf import settings
        from django.core.management import call_command
        from django.test import Client

        from heath.demo.crowd import crowd

        settings.STORAGES["staticfiles"] = {
            "BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"
        }
        call_command("collectstatic", interactive=False, verbosity=0)
        user, brief = crowd(40, 21)
        client = Client()
        client.force_login(user)
        port = free_port()
        served = subprocess.Popen(
            [sys.executable, "-m", "heath.config.serving", "--port", str(port)],
            env=os.environ | {"PYTHONPATH": os.getcwd()},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            preexec_fn=die_with_parent,
        )
        piece = brief.pieces.select_related("student").order_by("pk").first()
        site = Site(port, client.cookies[settings.SESSION_COOKIE_NAME].value, brief, piece, user)
        out = []
        try:
            for _ in range(200):
                try:
                    site.alive()
                    break
                except OSError:
                    time.sleep(0.1)
            for name in chosen:
                what, action = DRILLS[name]
                began = time.perf_counter()
                try:
                    said, held = action(site)
                except Exception as error:  # a drill that breaks the site is told as such
                    said, held = f"{type(error).__name__}: {error}"[:160], False
                out.append(
                    {
                        "drill": name,
                        "what": what,
                        "found": said,
                        "held": held,
                        "seconds": round(time.perf_counter() - began, 1),
                    }
                )
        finally:
            served.terminate()
            served.wait()
        return out


def main() -> int:
    parser = argparse.ArgumentParser(prog="bin/drill", description=__doc__)
    parser.add_argument(
        "drills", nargs="*", metavar="NAME", help=f"of: {', '.join(DRILLS)} (usually all)"
    )
    parser.add_argument("--json", action="store_true")
    options = parser.parse_args()
    unknown = [n for n in options.drills if n not in DRILLS]
    if unknown:
        print(
            f"There is no drill called {unknown[0]}; there are {', '.join(DRILLS)}.",
            file=sys.stderr,
        )
        return 2
    rows = drilled(options.drills or list(DRILLS))
    if options.json:
        print(json.dumps(rows))
    else:
        print("| drill | what is done | what came of it | held |\n|---|---|---|---|")
        for row in rows:
            print(
                f"| {row['drill']} | {row['what']} | {row['found']} |"
                f" {'yes' if row['held'] else '**no**'} |"
            )
    return 0 if all(row["held"] for row in rows) else 1


if __name__ == "__main__":
    sys.exit(main())
