"""Damaged and hostile picture files, made here: used by the fuzz test and run in a process of its
own.
"""

from __future__ import annotations

import io
import json
import re
import struct
import sys
import time
import zlib
from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from PIL import Image

from juniper.assessment import analyse
from juniper.camera import Shot, frame, take
from juniper.photograph import UnusablePhotograph, renditions
from juniper.scene import NothingFound

SEED = 20261123


def corpus() -> dict[str, bytes]:
    """Whole files of each kind that are read, small so that many can be tried."""
    whole = Image.open(
        io.BytesIO(take(frame(30), Shot(size=(480, 640), code="K7Q2M9XA", place=True)).data)
    ).convert("RGB")
    out = {"heic": take(frame(30), Shot(size=(480, 640), kind="HEIC", profile="Display P3")).data}
    exif = Image.Exif()
    exif[0x0112] = 6
    exif.get_ifd(0x8825).update({1: "N", 2: (54.0, 12.0, 30.0)})
    for name, kind, more in (
        ("jpeg", "JPEG", {"quality": 80, "exif": exif}),
        ("progressive", "JPEG", {"quality": 70, "progressive": True}),
        ("png", "PNG", {}),
        ("webp", "WEBP", {"quality": 70}),
        ("moving webp", "WEBP", {"save_all": True, "append_images": [whole.rotate(3)]}),
    ):
        file = io.BytesIO()
        # As a phone held sideways stores it: lying, with the turn that rights it beside it.
        (whole.transpose(Image.Transpose.ROTATE_90) if "exif" in more else whole).save(
            file, kind, **more
        )
        out[name] = file.getvalue()
    return out


def _png(width: int, height: int, body: bytes, kind: int = 2) -> bytes:
    def chunk(name, data):
        return (
            struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
        )

    head = struct.pack(">IIBBBBB", width, height, 8, kind, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(body))
        + chunk(b"IEND", b"")
    )


def hostile() -> dict[str, bytes]:
    """Files made to harm: claimed sizes, bombs, other formats under a picture's name, headers
    without a body.
    """
    files = corpus()
    flat = io.BytesIO()
    Image.fromarray(np.zeros((7700, 7700), np.uint8)).save(flat, "PNG")
    return {
        "claims a huge size": _png(60_000, 60_000, b"\0" * 100),
        "claims more than it holds": _png(3000, 3000, b"\0" * 1000),
        "just under the limit, all one colour": flat.getvalue(),
        "a script": b"#!/bin/sh\nrm -rf /\n",
        "a page": b"<!doctype html><svg onload=alert(1)>",
        "svg": b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        "pdf": b"%PDF-1.7\n",
        "archive": b"PK\x03\x04" + b"\0" * 400,
        "gif": b"GIF89a" + b"\0" * 200,
        "tiff": b"II*\0\x08\0\0\0" + b"\0" * 200,
        "eps": b"%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 900 900\n",
        "only a start": b"\xff\xd8\xff\xe0",
        "nothing": b"",
        "zeros": bytes(5000),
        "picture twice": files["jpeg"] + files["png"],
        "profile cut": files["heic"][:200] + files["heic"][900:],
        "exif says everything": files["jpeg"].replace(b"Exif\0\0", b"Exif\0\0" + b"\xff" * 40, 1),
        "a jpeg of one pixel": _png(1, 1, b"\0\0\0\0"),
    }


def tried(data: bytes) -> str:
    """What becomes of a file: 'measured', or the sentence it was refused with. Anything else is a
    fault and rises.
    """
    began = time.monotonic()
    try:
        analyse(data, "IMG_0001.jpg")
        renditions(data)
        said = "measured"
    except (UnusablePhotograph, NothingFound) as error:
        said = str(error)
    spent = time.monotonic() - began
    if spent > 20:
        raise AssertionError(f"{spent:.0f} s")
    return said


def damaged(
    data: bytes, cuts: list[tuple[float, int]], bytes_: list[tuple[float, int]], keep: float
) -> bytes:
    """A file with runs taken out, bytes changed, and the end cut off; places as shares of its
    length.
    """
    body = bytearray(data)
    for place, value in bytes_:
        body[min(len(body) - 1, int(place * len(body)))] = value
    for place, length in cuts:
        at = int(place * len(body))
        del body[at : at + length]
    return bytes(body[: max(1, int(keep * len(body)))])


def main(examples: int) -> dict:
    """Try hostile files and many damaged ones; figures of the run."""
    files = corpus()
    whole = {name: tried(data) for name, data in files.items()}
    answers = {name: tried(data) for name, data in hostile().items()}
    count = {"measured": 0, "refused": 0, "cut short and measured": 0}

    share = st.floats(0, 1, exclude_max=True)

    @settings(
        max_examples=examples,
        deadline=None,
        database=None,
        derandomize=True,
        suppress_health_check=list(HealthCheck),
        phases=[Phase.generate],
    )
    @given(
        st.sampled_from(sorted(files)),
        st.lists(st.tuples(share, st.integers(1, 4000)), max_size=2),
        st.lists(st.tuples(share, st.integers(0, 255)), max_size=12),
        st.one_of(st.just(1.0), st.floats(0.01, 1)),
    )
    def run(name, cuts, changed, keep):
        said = tried(damaged(files[name], cuts, changed, keep))
        count["measured" if said == "measured" else "refused"] += 1
        if said == "measured" and keep < 0.9 and name in ("jpeg", "png", "heic", "webp"):
            count["cut short and measured"] += 1

    run()
    # The peak of this process alone: getrusage() would tell its parent's as well.
    peak = int(re.search(r"VmHWM:\s+(\d+) kB", Path("/proc/self/status").read_text())[1]) / 1024
    return {"whole": whole, "hostile": answers, "count": count, "peak_mb": round(peak)}


if __name__ == "__main__":
    print(json.dumps(main(int(sys.argv[1]))))
