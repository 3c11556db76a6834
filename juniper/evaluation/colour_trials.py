"""How true the colours read from a picture are: held against pictures whose flower colours are
known.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from juniper.assessment import analyse
from juniper.camera.capture import Shot, take
from juniper.camera.card_placing import NoRoom, with_card
from juniper.camera.roll import frame_at
from juniper.colour import Swatch, ciede2000, from_hex, lab_from_srgb
from juniper.photograph import UnusablePhotograph
from juniper.scene import NothingFound

MAIN = 0.10  # of the flowers' area: a main colour
CODE = "K7Q2M9XA"


@dataclass(frozen=True)
class Coloured:
    """A picture: for each main colour the CIEDE2000 difference to the palette's nearest, whether
    its step on the circle was named, and the error of its share, tints of one step together; the
    error of the foliage's share; the scheme as it is and as it was called.
    """

    name: str
    differences: tuple[float, ...]
    named: tuple[bool, ...]
    shares: tuple[float, ...]
    foliage: float
    scheme: str
    called: str


def true_colours(truth: dict) -> list[tuple[str, str, float, np.ndarray]]:
    """(colour of the petals, step, share, mean CIELAB as lit) of each flower colour that a
    picture's truth tells of, filler and all.
    """
    found, whole = [], sum(b["visible_px"] for b in truth["blooms"])
    for albedo in dict.fromkeys(b["albedo_hex"] for b in truth["blooms"]):
        own = [b for b in truth["blooms"] if b["albedo_hex"] == albedo]
        seen, weight = (
            np.array([from_hex(b["mean_hex"]) for b in own]),
            np.array([b["visible_px"] for b in own], float),
        )
        found.append(
            (
                albedo,
                own[0]["hue"],
                weight.sum() / whole,
                lab_from_srgb(weight @ seen / weight.sum()),
            )
        )
    return found


def coloured(path: Path, kelvin: float | None = None) -> Coloured | None:
    """Read the colours of a picture with NAME.json beside it, or, of one that bin/roll traced,
    under light of `kelvin` with a reference card put beside it. None when it cannot be measured, or
    there is no room for the card.
    """
    truth = json.loads(path.with_suffix(".json").read_text())
    if "scheme" not in truth:
        return None
    try:
        data = (
            path.read_bytes()
            if kelvin is None
            else take(with_card(frame_at(path)), Shot(code=CODE, kelvin=kelvin)).data
        )
        done = analyse(data)
    except (NoRoom, UnusablePhotograph, NothingFound):
        return None
    found = done.measured()
    foliage, scheme = found.measured("foliage_share"), found.scheme
    share = foliage.value if foliage is not None else truth["findings"]["foliage_share"] + 1
    return held(path.stem, truth, done.scene.palette, share, scheme.name if scheme else "none")


def coloured_job(job: tuple[Path, float | None]) -> Coloured | None:
    """coloured() of one job, for a pool of processes."""
    return coloured(*job)


def held(
    name: str, truth: dict, palette: tuple[Swatch, ...], foliage: float, scheme: str
) -> Coloured:
    """Palette, foliage's share and scheme, as they were read, held against the truth."""
    palette = tuple(s for s in palette if s.part == "flower")
    colours = true_colours(truth)
    labs, true = (
        np.array(some).reshape(-1, 3)
        for some in ([s.lab for s in palette], [lab for *_, lab in colours])
    )
    apart = ciede2000(*np.broadcast_arrays(true[:, None], labs[None]))
    main = [k for k, (_, _, share, _) in enumerate(colours) if share >= MAIN and palette]
    # Each of the palette's colours counts for the true one that it is nearest to; tints of one step
    # count together.
    whole = {
        hue: sum(share for _, step, share, _ in colours if step == hue) for _, hue, _, _ in colours
    }
    off = {hue: -share for hue, share in whole.items()}
    for k, swatch in enumerate(palette if colours else ()):
        off[colours[apart[:, k].argmin()][1]] += swatch.share
    return Coloured(
        name,
        tuple(float(apart[k].min()) for k in main),
        tuple(palette[apart[k].argmin()].hue == colours[k][1] for k in main),
        tuple(off[hue] for hue, share in whole.items() if share >= MAIN),
        float(foliage - truth["findings"]["foliage_share"]),
        truth["scheme"],
        scheme,
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
