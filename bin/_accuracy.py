"""Holds the automatic result against the truth of a folder of pictures: NAME.jpg with NAME.json,
and NAME.mask.png where there is one.
"""

from __future__ import annotations

import argparse
import json
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import cv2

from juniper.evaluation.accuracy import Row, calibration, held_against_truth, pictures, summary
from juniper.evaluation.sheet import contact_sheet
from juniper.scene import installed_cutout

HEAD = (
    "picture        plant  cont.    rim   base   axis   ends    top   ratio true found   error   "
    " own    left  foliage  blooms found/true right/called  check  confid.   s"
)


def line(r: Row) -> str:
    """A row of the table; lengths in parts of a hundred of the container's height."""
    if r.fault:
        return f"{r.name:14} {r.fault}"
    true, met, called, right = r.blooms
    return (
        f"{r.name:14} {r.plant_iou:5.3f}  {r.container_iou:5.3f} {100 * r.rim:+6.1f}"
        f" {100 * r.base:+6.1f} {100 * r.axis:+6.1f} {100 * r.ends:6.1f} {100 * r.top:+6.1f}  "
        f" {r.ratio_truth:8.2f} {r.ratio:6.2f} {r.ratio_error:+7.1%} {r.own_error:+6.1%}"
        f" {100 * r.left_share:+6.1f} {100 * r.foliage_share:+7.1f}    {met:6d} / {true:<4d}"
        f" {right:7d} / {called:<5d} {'yes' if r.needs_check else '':>5}  {r.confidence:6.2f}"
        f" {r.seconds:5.2f}"
    )


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/accuracy", description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument(
        "--like", default="*", help="only pictures whose name matches, such as '*-front'"
    )
    parser.add_argument(
        "--second", action="store_true", help="with the second engine (see bin/setup-cutout)"
    )
    parser.add_argument(
        "--sized", action="store_true", help="with the container's height told, as a brief tells it"
    )
    parser.add_argument("--json", action="store_true")
    parser.add_argument(
        "--sheet",
        type=Path,
        help="write a contact sheet here (PNG): each picture with outline and handles",
    )
    options = parser.parse_args()
    try:
        found = pictures(options.folder, options.like)
    except ValueError as error:
        print(error, file=sys.stderr)
        sys.exit(2)
    if options.second and installed_cutout() is None:
        print("The second engine is not set up: run bin/setup-cutout.", file=sys.stderr)
        sys.exit(2)
    cv2.setNumThreads(1)
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        n = len(found)
        done = list(
            pool.map(
                held_against_truth,
                found,
                [options.second] * n,
                [options.sized] * n,
                [options.sheet is not None] * n,
            )
        )
    rows = [row for row, _ in done]
    if options.sheet:
        cv2.imwrite(str(options.sheet), contact_sheet([tile for _, tile in done]))
    total = summary(rows)
    if options.json:
        print(
            json.dumps(
                {
                    "pictures": [asdict(r) for r in rows],
                    "summary": total,
                    "calibration": [asdict(b) for b in calibration(rows)],
                }
            )
        )
        return
    print(HEAD)
    for row in rows:
        print(line(row))
    print()
    for name, value in total.items():
        print(f"{name:24} {value}")
    print("\nconfidence   pictures   off by over 8 %   median error")
    for band in calibration(rows):
        print(
            f"{band.low:.1f} to {band.high:.1f} {band.pictures:10d} {band.off:17d}"
            f" {band.error:14.1%}"
        )


if __name__ == "__main__":
    main()
