"""Speed of the core as ratios: measuring against decoding, a moved handle against a full
measure.
"""

from __future__ import annotations

import argparse
import io
import json
import multiprocessing
import resource
import statistics
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import cv2
import numpy as np
from _people import dragging
from _private import private_site
from PIL import Image

from juniper.assessment import analyse
from juniper.camera import PHONE, Shot, frame, take
from juniper.measures import measure
from juniper.photograph import read_photograph, renditions
from juniper.rules import Brief, judge, school
from juniper.scene.petals import forget, frame_of, petal_probabilities
from juniper.scene.segment import part_probabilities

MEGAPIXELS_12 = (3000, 4000)


def large(number: int) -> bytes:
    """A simulated photograph at twelve megapixels."""
    picture = Image.open(io.BytesIO(frame(number).jpeg)).resize(
        MEGAPIXELS_12, Image.Resampling.BICUBIC
    )
    # A sensor's grain: without it the JPEG is a fifth of a phone's and decodes as much too fast.
    grain = np.random.default_rng(number).normal(0, 3.0, (MEGAPIXELS_12[1], MEGAPIXELS_12[0], 1))
    picture = Image.fromarray(np.clip(np.asarray(picture) + grain, 0, 255).astype(np.uint8))
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=90)
    return out.getvalue()


def seconds(action, runs: int) -> float:
    """Median time of an action."""
    times = []
    for _ in range(runs):
        began = time.perf_counter()
        action()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def measured_anew(data: bytes) -> None:
    """Measure a picture as if it had never been seen."""
    forget()
    analyse(data)


def taken_in(data: bytes) -> str:
    """What intake does to a picture: read, find the card, make the copies; then read the kept copy,
    see and judge it.
    """
    cv2.setNumThreads(1)
    read_photograph(data)
    copies = renditions(data)
    return analyse(copies["full"]).scene.datum.source


def batch(count: int) -> float:
    """Seconds for so many twelve-megapixel pictures in two processes, without database and web."""
    with ProcessPoolExecutor(2, mp_context=multiprocessing.get_context("spawn")) as pool:
        pictures = list(pool.map(phone, range(count)))
        began = time.perf_counter()
        list(pool.map(taken_in, pictures))
        return time.perf_counter() - began


def phone(number: int) -> bytes:
    """A picture as a phone takes it, with a reference card in it."""
    return take(frame(number), Shot(size=PHONE, code="K7Q2M9XA", noise=2.0)).data


HANDLES = ("rim", "base", "rim_left", "rim_right", "focal")


def moved_on_the_bench(user, brief, runs: int) -> dict[str, float]:
    """Milliseconds of the server while each handle is dragged, on the path that the bench takes:
    request, records, measures, marks, answer.
    """
    from django.test import Client
    from django.urls import reverse

    from heath.assessment.reading import handles, read

    client = Client()
    client.force_login(user)
    piece = brief.pieces.order_by("student__name").first()
    address = reverse("move", args=[piece.pk])
    places = {h["name"]: (h["x"], h["y"]) for h in handles(read(piece))}
    out = {}
    for name in HANDLES:
        x, y = places[name]
        times = []
        for n in range(runs + 1):
            began = time.perf_counter()
            answer = client.post(
                address,
                {
                    "handle": name,
                    "x": x + n,
                    "y": y + 2 * n,
                    "gesture": f"timed-{name.replace('_', '-')}",
                    "lens": "proportion",
                },
            )
            times.append(time.perf_counter() - began)
            if answer.status_code != 200:
                raise SystemExit(f"A moved handle answered {answer.status_code}.")
        # the first of a drag reads what the others keep
        out[name] = round(1000 * statistics.median(times[1:]), 1)
    return out


def made(people: int):
    """A school's instructor, and a brief with a piece for each of so many people."""
    from heath.demo.crowd import crowd

    return crowd(40, people)


def network_seconds(data: bytes, runs: int) -> float:
    """The passes of all networks on one picture."""
    photograph = read_photograph(data)
    look = part_probabilities(photograph.pixels)
    frame = frame_of(look.piece > 0.5)
    parts = seconds(lambda: part_probabilities(photograph.pixels), runs)

    def petals() -> None:
        forget()
        petal_probabilities(photograph.pixels, frame)

    return parts + seconds(petals, runs)


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/bench")
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--runs", type=int, default=7)
    parser.add_argument(
        "--people",
        type=int,
        metavar="N",
        help="only this: so many people drag handles at once, against one alone",
    )
    options = parser.parse_args()
    if options.people:
        with private_site("bench"):
            alone, together = dragging(*made(options.people), options.people)
        found = {
            "people": options.people,
            "alone_p95_ms": round(1000 * alone, 1),
            "together_p95_ms": round(1000 * together, 1),
        }
        found["ratio"] = round(together / alone, 2)
        print(
            json.dumps(found) if options.json else ", ".join(f"{k} {v}" for k, v in found.items())
        )
        return
    runs = max(1, options.runs)
    decoded, seen, whole, moved, judged = [], [], [], [], []
    # Made in another process, so that the peak is that of measuring alone.
    with ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn")) as maker:
        pictures = list(maker.map(large, (0, 10, 30)))
    for data in pictures:
        decoded.append(seconds(lambda d=data: Image.open(io.BytesIO(d)).load(), runs))
        seen.append(network_seconds(data, runs))
        whole.append(seconds(lambda d=data: measured_anew(d), runs))
        done = analyse(data)
        datum = done.scene.datum.moved(rim=(done.scene.datum.rim[0], done.scene.datum.rim[1] + 25))
        found = done.measured()
        brief, rules = (
            Brief(container_height_cm=24.0, scheme="analogous"),
            school("classical-line-mass"),
        )
        moved.append(
            seconds(
                lambda m=done, d=datum: measure(m.surface, m.scene, d, m.scene.focal, 24.0), runs
            )
        )
        judged.append(seconds(lambda m=found, b=brief, r=rules: judge(m, r, b), runs))
    peak = round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    rows = list(zip(decoded, seen, whole, strict=True))
    with private_site("bench"):
        user, brief = made(20)
        handle_ms = moved_on_the_bench(user, brief, runs)
        alone, together = dragging(user, brief, 20)
    result = {
        "decode_ms": round(1000 * statistics.median(decoded), 1),
        "network_ms": round(1000 * statistics.median(seen), 1),
        "measure_ms": round(1000 * statistics.median(whole), 1),
        "measure_over_decode": round(statistics.median(w / d for d, _, w in rows), 2),
        "measure_over_network": round(statistics.median(w / (d + n) for d, n, w in rows), 2),
        "handle_ms": handle_ms,
        "remeasure_ms": round(1000 * statistics.median(moved), 1),
        "rescore_ms": round(1000 * statistics.median(judged), 2),
        "batch30_s": round(batch(30), 1),
        "peak_mb": peak,
        "people20_over_one": round(together / alone, 2),
        "runs": runs,
    }
    if options.json:
        print(json.dumps(result))
        return
    print(
        f"decoding a 12-megapixel JPEG {result['decode_ms']} ms, networks {result['network_ms']}"
        f" ms, full measure {result['measure_ms']} ms"
    )
    print(
        "full measure : decoding and networks together        "
        f" {result['measure_over_network']:.2f}"
    )
    print(
        f"full measure : decoding                               {result['measure_over_decode']:.2f}"
    )
    print(
        "moved handle on the server, ms: "
        + ", ".join(f"{name} {ms}" for name, ms in handle_ms.items())
    )
    print(
        f"re-measured in the core {result['remeasure_ms']} ms, scored {result['rescore_ms']} ms;"
        f" peak {peak} MB; {runs} runs"
    )
    print(
        "thirty twelve-megapixel pictures read, copied, seen and judged in two processes:"
        f" {result['batch30_s']} s"
    )


if __name__ == "__main__":
    main()
