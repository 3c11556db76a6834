"""What a few touches of the petal brush make of a picture's colours: a marker who sees what is
veiled, held against the known truth.
"""

from __future__ import annotations

import json
from pathlib import Path

from juniper.evaluation.colour_trials import Coloured, held
from juniper.measures.colours import told_scheme
from juniper.photograph import UnusablePhotograph, read_photograph
from juniper.scene import Label, NothingFound, PetalStroke, Raster, correct, see
from juniper.scene.amending import under_brush

WIDE = 0.7  # of a bloom's radius: how broad the brush is that touches it
MUCH = 0.05  # of the flowers' area, missed of one colour, from which a marker takes the brush
SMALLEST = 40  # pixels of a bloom that is touched


def touched(path: Path, touches: int) -> list[Coloured]:
    """How true the colours of a picture with NAME.json beside it are, before and after each of some
    touches; [] when it cannot be measured.
    """
    truth = json.loads(path.with_suffix(".json").read_text())
    if "scheme" not in truth:
        return []
    try:
        photograph = read_photograph(path.read_bytes())
        scene, raster = see(photograph)
    except (UnusablePhotograph, NothingFound):
        return []
    rows = [_row(path.stem, truth, scene, raster)]
    for _ in range(touches):
        stroke = next_touch(truth, raster)
        if stroke is not None:
            scene, raster = correct(scene, raster, photograph.pixels, stroke)
        rows.append(_row(path.stem, truth, scene, raster))
    return rows


def touched_job(job: tuple[Path, int]) -> list[Coloured]:
    """touched() of one job, for a pool of processes."""
    return touched(*job)


def next_touch(truth: dict, raster: Raster) -> PetalStroke | None:
    """Where a marker would touch next: of the colour of which most is veiled, the bloom of which
    most is; None when little is.
    """
    missed: dict[str, list[tuple[float, PetalStroke]]] = {}
    whole = sum(b["visible_px"] for b in truth["blooms"])
    for bloom in truth["blooms"]:
        middle = (tuple(bloom["centre"]),)
        disc, touch = (
            (
                under_brush(
                    PetalStroke(middle, r * bloom["radius"], True),
                    raster.labels.shape,
                    raster.scale,
                )[0]
                > 0
            )
            & (raster.labels == Label.PLANT)
            for r in (1.0, WIDE)
        )
        # Where it shows through leaves, these are veiled rightly.
        veiled = bloom["visible_px"] - int((raster.flowers[disc] > 0).sum()) / raster.scale**2
        if bloom["visible_px"] < SMALLEST or veiled <= 0 or not (raster.flowers[touch] == 0).any():
            continue
        missed.setdefault(bloom["albedo_hex"], []).append(
            (veiled, PetalStroke(middle, WIDE * bloom["radius"], True))
        )
    if not missed:
        return None
    chief = max(missed.values(), key=lambda own: sum(area for area, _ in own))
    if sum(area for area, _ in chief) < MUCH * whole:
        return None
    return max(chief, key=lambda one: one[0])[1]


def _row(name: str, truth: dict, scene, raster: Raster) -> Coloured:
    plant = int((raster.labels == Label.PLANT).sum())
    scheme = told_scheme(scene)
    return held(
        name,
        truth,
        scene.palette,
        1 - int((raster.flowers > 0).sum()) / plant,
        scheme.name if scheme else "none",
    )
