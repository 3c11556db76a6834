"""How true the colours read from a picture are: held against pictures whose flower colours are known."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from juniper.colour import ciede2000, from_hex, lab_from_srgb
from juniper.marking import measure_photograph
from juniper.photobooth.capture import Shot, take
from juniper.photobooth.roll import Frame
from juniper.photograph import UnusablePhotograph
from juniper.scene import NothingFound

MAIN = 0.10  # of the flowers' area: a main colour
CODE = "K7Q2M9XA"


@dataclass(frozen=True)
class Coloured:
    """A picture: for each main colour the CIEDE2000 difference to the palette's nearest, whether its step on the circle was named, and the error of
    its share, tints of one step together; the error of the foliage's share; the scheme as it is and as it was called."""

    name: str
    differences: tuple[float, ...]
    named: tuple[bool, ...]
    shares: tuple[float, ...]
    foliage: float
    scheme: str
    called: str


def true_colours(truth: dict) -> list[tuple[str, str, float, np.ndarray]]:
    """(colour of the petals, step, share, mean CIELAB as lit) of each flower colour that a picture's truth tells of, filler and all."""
    found, whole = [], sum(b["visible_px"] for b in truth["blooms"])
    for albedo in dict.fromkeys(b["albedo_hex"] for b in truth["blooms"]):
        own = [b for b in truth["blooms"] if b["albedo_hex"] == albedo]
        seen, weight = np.array([from_hex(b["mean_hex"]) for b in own]), np.array([b["visible_px"] for b in own], float)
        found.append((albedo, own[0]["hue"], weight.sum() / whole, lab_from_srgb(weight @ seen / weight.sum())))
    return found


def coloured(path: Path, kelvin: float | None = None) -> Coloured | None:
    """Read the colours of a picture with NAME.json beside it, or, under light of `kelvin`, of one of the roll with a reference card put beside
    it. None when it cannot be measured."""
    truth = json.loads(path.with_suffix(".json").read_text())
    data = path.read_bytes()
    if kelvin is not None:
        number, view = path.stem.split("-")
        data = take(Frame(int(number), view), Shot(code=CODE, place=True, kelvin=kelvin)).data
    try:
        done = measure_photograph(data)
    except (UnusablePhotograph, NothingFound):
        return None
    return held(path.stem, truth, done)


def coloured_job(job: tuple[Path, float | None]) -> Coloured | None:
    """coloured() of one job, for a pool of processes."""
    return coloured(*job)


def held(name: str, truth: dict, done) -> Coloured:
    """What was measured held against the truth."""
    palette = [s for s in done.scene.palette if s.part == "flower"]
    labs = np.array([s.lab for s in palette]).reshape(-1, 3)
    colours = true_colours(truth)
    differences, named, shares = [], [], []
    for _, hue, share, lab in colours:
        if share < MAIN or not palette:
            continue
        apart = ciede2000(np.broadcast_to(lab, labs.shape), labs)
        differences.append(float(apart.min()))
        named.append(palette[int(apart.argmin())].hue == hue)
    # Each of the palette's colours counts for the true one that it is nearest to; tints of one step count together.
    found = dict.fromkeys((hue for _, hue, _, _ in colours), 0.0)
    true = np.array([lab for *_, lab in colours]).reshape(-1, 3)
    for swatch in palette if len(true) else ():
        nearest = int(ciede2000(np.broadcast_to(np.array(swatch.lab), true.shape), true).argmin())
        found[colours[nearest][1]] += swatch.share
    for hue, share in found.items():
        whole = sum(s for _, h, s, _ in colours if h == hue)
        if whole >= MAIN:
            shares.append(share - whole)
    foliage = done.findings["foliage_share"]
    scheme = done.findings.scheme
    return Coloured(
        name,
        tuple(differences),
        tuple(named),
        tuple(shares),
        float(foliage.value - truth["findings"]["foliage_share"]) if foliage.measured else 1.0,
        truth["scheme"],
        scheme.name if scheme else "none",
    )


def summary(rows: Iterable[Coloured]) -> dict[str, float]:
    """Medians and shares over pictures; see the keys."""
    rows = list(rows)
    apart = np.array([d for r in rows for d in r.differences])
    share = np.abs([s for r in rows for s in r.shares])
    foliage = np.abs([r.foliage for r in rows])
    told = [r for r in rows if r.scheme]
    return {
        "pictures": len(rows),
        "main_colours": len(apart),
        "difference_median": round(float(np.median(apart)), 2),
        "difference_p90": round(float(np.percentile(apart, 90)), 2),
        "within_8": round(float((apart <= 8).mean()), 3),
        "within_10": round(float((apart <= 10).mean()), 3),
        "step_named": round(float(np.mean([n for r in rows for n in r.named])), 3),
        "share_median": round(float(np.median(share)), 3),
        "share_within_5": round(float((share <= 0.05).mean()), 3),
        "foliage_median": round(float(np.median(foliage)), 3),
        "foliage_within_5": round(float((foliage <= 0.05).mean()), 3),
        "schemes": len(told),
        "schemes_right": sum(r.scheme == r.called for r in told),
    }
