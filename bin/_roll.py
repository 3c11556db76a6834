"""Traces the simulated camera's roll anew: a photograph, its truth and its labels for each view of
each piece.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np
from PIL import Image

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from juniper.camera.arranging import arrange
from juniper.camera.compositions import COMPOSITIONS, STAGED, stage_of
from juniper.camera.containers import SHELF
from juniper.camera.examples import example, graded
from juniper.camera.pieces import PIECES
from juniper.camera.random_pieces import random_piece, staged_by_chance
from juniper.camera.roll import EMPTY, FOLDER, STAGES, TRIALS, VIEWS
from juniper.camera.tracing import Stage, photograph, staged, staged_as, staged_empty, truth


def wanted(number: int, view: str) -> bool:
    """Whether a view of a piece belongs on the roll."""
    if view in (EMPTY, *STAGES):
        return number < len(SHELF) if view == EMPTY else number in STAGED
    piece = PIECES[number]
    container = SHELF[piece.container]
    if view == "front":
        return True
    if view == "seated":
        return piece.form == "horizontal low"
    if view == "crowded":
        return number % 3 == 0 and not piece.clutter
    if view in TRIALS:
        return container.height_cm >= 20 and container.material != "glass" and number < 22
    return piece.views


def staged_making(number: int, view: str, scale: float) -> Stage:
    """A piece set up at a stage of its making, the camera held anew in the hand."""
    done = arrange(PIECES[number], 100 + number)
    rng = np.random.default_rng((7000, number, STAGES.index(view)))
    return staged_as(stage_of(done, STAGES.index(view)), view, rng, scale)


def trace_compositions(missing: bool) -> None:
    """Trace every composition of the roll."""
    folder = FOLDER / "compositions"
    folder.mkdir(parents=True, exist_ok=True)
    for place, (name, (made, wide)) in enumerate(COMPOSITIONS.items()):
        if missing and (folder / f"{name}.json").exists():
            continue
        stage = staged_as(made(), "front", np.random.default_rng((8000, place)), 0.8, wide)
        keep(folder / name, stage, photograph(stage, 8), 88)


def keep(stem: Path, stage: Stage, picture: np.ndarray, quality: int | None) -> None:
    """Write picture (unless `quality` is None), labels and truth of a stage."""
    if quality is not None:
        Image.fromarray(picture).save(
            stem.with_suffix(".jpg"), quality=quality, subsampling=0, optimize=True
        )
    labels, known = truth(stage, picture)
    Image.fromarray(labels).save(stem.with_suffix(".mask.png"), optimize=True)
    stem.with_suffix(".json").write_text(json.dumps(known, separators=(",", ":")) + "\n")
    print(stem.name, flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/roll", description=__doc__)
    parser.add_argument("--pieces", help="numbers such as 3 or 0-11 (all without it)")
    parser.add_argument(
        "--truth", action="store_true", help="make truth and labels anew, and keep the pictures"
    )
    parser.add_argument(
        "--views",
        nargs="+",
        default=[*VIEWS, *STAGES, *TRIALS, EMPTY],
        choices=[*VIEWS, *STAGES, *TRIALS, EMPTY],
    )
    parser.add_argument(
        "--compositions", action="store_true", help="instead, trace the roll's compositions"
    )
    parser.add_argument("--missing", action="store_true", help="only what is not on the roll yet")
    parser.add_argument(
        "--random_piece",
        type=Path,
        metavar="FOLDER",
        help="instead, trace random_piece pieces (--pieces) into a folder, from the front",
    )
    parser.add_argument(
        "--examples",
        type=Path,
        metavar="FOLDER",
        help="instead, trace pieces in which one fault plainly shows",
    )
    parser.add_argument(
        "--graded",
        type=Path,
        metavar="FOLDER",
        help="instead, trace good, middling and poor pieces in turn",
    )
    options = parser.parse_args()
    if options.compositions:
        trace_compositions(options.missing)
        return
    choices = (
        (options.random_piece, random_piece, "5000-5063"),
        (options.graded, graded, "9000-9029"),
        (options.examples, example, "0-109"),
    )
    folder, made, usual = next((c for c in choices if c[0]), choices[-1])
    if folder:
        first, _, last = (options.pieces or usual).partition("-")
        folder.mkdir(parents=True, exist_ok=True)
        for number in range(int(first), int(last or first) + 1):
            stem = folder / f"{number:04d}"
            if not (options.missing and stem.with_suffix(".json").exists()):
                stage = staged_by_chance(made(number), number, 0.8)
                keep(stem, stage, photograph(stage, 8), 88)
        return
    first, _, last = (options.pieces or f"0-{len(PIECES) - 1}").partition("-")
    FOLDER.mkdir(exist_ok=True)
    for view in options.views:
        for number in range(int(first), int(last or first) + 1):
            stem = f"{number:02d}-{view}"
            if not wanted(number, view) or (options.missing and (FOLDER / f"{stem}.json").exists()):
                continue
            stage = (
                staged_empty(number, 2 / 3)
                if view == EMPTY
                else staged_making(number, view, 0.8)
                if view in STAGES
                else staged(number, view, 2 / 3 if view in TRIALS else 1.0)
            )
            place = FOLDER / f"{stem}.jpg"
            picture = np.asarray(Image.open(place)) if options.truth else photograph(stage)
            keep(FOLDER / stem, stage, picture, None if options.truth else 91)


if __name__ == "__main__":
    main()
