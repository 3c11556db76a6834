"""Server time of the places with many pieces in the records, on a private database that is thrown
away.
"""

from __future__ import annotations

import argparse
import json
import statistics
import time

from _private import private_site

RUNS = 15


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/crowd", description=__doc__)
    parser.add_argument(
        "--pieces", type=int, default=50_000, help="pieces in the records of the school"
    )
    parser.add_argument(
        "--wall", type=int, default=40, help="pieces of the brief that is looked at"
    )
    parser.add_argument("--json", action="store_true")
    options = parser.parse_args()
    with private_site("crowd"):
        found = measured(options.pieces, options.wall)
    if options.json:
        print(json.dumps(found))
        return
    print(f"{found['pieces']} pieces in the records, made in {found['made_s']} s")
    for name, row in found["places"].items():
        print(
            f"{name:12} median {row['median_ms']:6.0f} ms   longest {row['longest_ms']:6.0f} ms  "
            f" {row['queries']:3d} queries   {row['kb']:5.0f} KB"
        )


def measured(pieces: int, wall: int) -> dict:
    """Make the records and ask for each place several times."""
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext
    from django.urls import reverse

    from heath.classes.models import Course
    from heath.demo.crowd import crowd

    began = time.perf_counter()
    user, brief = crowd(pieces, wall)
    made = time.perf_counter() - began
    client = Client()
    client.force_login(user)
    first = brief.pieces.order_by("student__name").first()
    past = Course.objects.filter(term="Past term 00").first()
    places = {
        "term": reverse("term"),
        "brief": reverse("brief", args=[brief.pk]),
        "bench": reverse("bench", args=[first.pk]),
        "line-up": reverse("line-up", args=[brief.pk]) + "?by=height_ratio&group=1",
        "class": reverse("course", args=[brief.course_id]),
        "marks": reverse("brief-marks", args=[brief.pk, "csv"]),
        "records": reverse("records"),
        "student": reverse("student-record", args=[past.students.first().pk]),
        "picture": reverse("class-picture", args=[past.pk]),
        "gradebook": reverse("gradebook", args=[past.pk]),
        "compare": reverse("records") + "?this=term:Past+term+00&with=term:Past+term+01",
        "search": reverse("search") + "?q=Pupl+007",
    }
    out = {}
    for name, address in places.items():
        client.get(address)  # what is kept from one asking to the next
        times = []
        for _ in range(RUNS):
            start = time.perf_counter()
            answer = client.get(address)
            times.append(1000 * (time.perf_counter() - start))
            if answer.status_code != 200:
                raise SystemExit(f"{name} answered {answer.status_code}")
        with CaptureQueriesContext(connection) as asked:
            client.get(address)
        out[name] = {
            "median_ms": round(statistics.median(times), 1),
            "longest_ms": round(max(times), 1),
            "queries": len(asked),
            "kb": round(len(answer.content) / 1000, 1),
        }
    return {"pieces": pieces, "made_s": round(made, 1), "places": out}


if __name__ == "__main__":
    main()
