"""Whether the rules find the faults that pieces were made with: held against pictures whose truth
names their flaws.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from juniper.assessment import analyse, assess
from juniper.camera.card_placing import seen_places
from juniper.camera.containers import SHELF
from juniper.evaluation.truth import as_traced, form_of
from juniper.measures import Measured
from juniper.photograph import UnusablePhotograph
from juniper.rules import Brief, school
from juniper.rules.verdict import OUT_OF
from juniper.scene import Label, NothingFound

# The rules of the classical school that name a fault, and on which side of the band it lies (-1
# below, 1 above, 0 either).
NAMES = {
    "off-balance": (("even-weight", 0),),
    "twin tips": (("no-twin-tips", 1),),
    "no focal": (("focal-rules", -1), ("focal-group", 1)),
    "focal too high": (("focal-height", 1),),
    "stray accent": (("no-stray", 1),),
    "bare rim": (("rim-softened", -1),),
    "gap": (("no-gaps", 1),),
    "too tall": (("visible-height", 1),),
    "too squat": (("visible-height", -1),),
    "top heavy": (("low-weight", 1),),
}
SPELT = {
    "one-sided": "off-balance",
    "twin-tips": "twin tips",
    "rim-bare": "bare rim",
    "no-focal": "no focal",
    "focal-too-high": "focal too high",
    "too-squat": "too squat",
    "too-tall": "too tall",
    "top-heavy": "top heavy",
    "unbalanced": "off-balance",
}
# By the true figure: from where a piece is at fault, and from where it is not; what lies between is
# at the band's edge, and left out.
SURE = {
    "off-balance": (0.62, 0.57),  # area of the heavier side
    "too tall": (2.5, 2.1),  # plant height : governing dimension
    "too squat": (1.2, 1.4),
    "focal too high": (0.5, 0.36),  # the focal flowers over the rim : plant height
    # the broadest focal flower : the broadest other one, as far as they show
    "no focal": (1.1, 1.35),
    "bare rim": (0.18, 0.42),  # of the front lip under plant, which is known to .12
    "gap": (0.022, 0.008),  # the largest empty disc within the outline : the outline's area
    "top heavy": (0.56, 0.5),  # middle of the plant's area : plant height, which is known to .01
    "twin tips": (0.05, 0.08),  # difference of the two highest tips, one each side : plant height
    "stray accent": (0.5, 0.5),  # whether one shows
}
ACCENT_SHOWS = 0.0006  # of the picture: what of it must be seen
# faults that a piece is made with on purpose
TOLD = {"twin tips", "no focal", "stray accent", "gap"}
FOUND = 6.0  # of ten: a figure that earns less, taken as it is, names a fault
DOMED = {"round", "fan", "horizontal"}
BOXES = {name for name, kept in SHELF.items() if kept.depth_cm is not None}


def true_figures(truth: dict, mask: np.ndarray) -> dict[str, float]:
    """What a piece truly measures for each fault of SURE, from how it was built and traced; a fault
    without a figure cannot be told. `mask` (h, w) uint8 are its true labels.
    """
    box, found = truth["container"], truth["findings"]
    rim, base = np.array(box["rim"]), np.array(box["base"])
    up = (rim - base) / np.linalg.norm(rim - base)
    plant = mask == Label.PLANT
    ys, xs = np.nonzero(plant)
    along = (np.column_stack([xs, ys]) + 0.5 - rim) @ up
    high = float(along.max())
    governing = max(box["height_cm"], box.get("max_width_cm", 0)) / box["height_cm"]
    out = {
        "off-balance": max(found["left_area_share"], 1 - found["left_area_share"]),
        "too tall": found["height_ratio"] / governing,
        "too squat": found["height_ratio"] / governing,
        "top heavy": float(along.mean()) / high,
        "gap": _empty_disc(plant),
        "stray accent": float(
            any(
                b["role"] == "accent" and b["visible_px"] > ACCENT_SHOWS * mask.size
                for b in truth["blooms"]
            )
        ),
    }
    focal = [b for b in truth["blooms"] if b["role"] == "focal"]
    others = [b["radius"] for b in truth["blooms"] if b["role"] in ("mass", "accent")]
    if focal and others:
        out["no focal"] = max(b["radius"] for b in focal) / max(others)
    elif others:
        out["no focal"] = 0.0
    if out.get("no focal", 0) > SURE["no focal"][0]:
        weight = np.array([b["visible_px"] for b in focal], float)
        heights = (np.array([b["centre"] for b in focal]) - rim) @ up / high
        out["focal too high"] = float(weight @ heights / weight.sum())
    if "twin-tips" in truth["flaws"] or "twin tips" in truth["flaws"]:
        out["twin tips"] = 0.0
    elif form_of(truth) in DOMED or not truth["stems"]:
        out["twin tips"] = 1.0  # many tips along a curve, of which none stands clear
    else:
        tips = sorted(
            ((np.array(s["tip"]) - rim) @ up / high, (np.array(s["tip"]) - rim)[0])
            for s in truth["stems"]
        )[::-1]
        sides = [
            next((height for height, x in tips if np.sign(x) == side), 0.0) for side in (-1, 1)
        ]
        out["twin tips"] = float(abs(sides[0] - sides[1]))
    if box["kind"] not in BOXES and "focal_px" in truth.get("camera", {}):
        out["bare rim"] = _lip_covered(truth, plant)
    return out


def _empty_disc(plant: np.ndarray) -> float:
    """Area of the largest empty disc within the outline (the plant, closed over a sixteenth of its
    extent) over the outline's area.
    """
    x, y, wide, high = cv2.boundingRect(plant.astype(np.uint8))
    reach = max(3, max(wide, high) // 16) | 1
    part = cv2.copyMakeBorder(
        plant[y : y + high, x : x + wide].astype(np.uint8),
        2 * reach,
        2 * reach,
        2 * reach,
        2 * reach,
        cv2.BORDER_CONSTANT,
    )
    closed = cv2.morphologyEx(
        part, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    )
    chief = max(
        cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0], key=cv2.contourArea
    )
    inside = cv2.drawContours(np.zeros_like(part), [chief], -1, 1, cv2.FILLED)
    radius = float(cv2.distanceTransform(inside & (1 - part), cv2.DIST_L2, 5).max())
    return float(np.pi * radius**2 / inside.sum())


def _lip_covered(truth: dict, plant: np.ndarray) -> float:
    """Share of the rim's front half, as it stands in space, under which plant is seen a fiftieth of
    the container's height below.
    """
    box = truth["container"]
    turn = np.linspace(np.pi, 2 * np.pi, 122)[1:-1]
    radius = box["rim_width_cm"] / 2
    lip = np.column_stack(
        [radius * np.cos(turn), radius * np.sin(turn), np.full(len(turn), 0.98 * box["height_cm"])]
    )
    at = seen_places(truth, lip).round().astype(int)
    at = np.clip(at, 0, np.array(plant.shape[::-1]) - 1)
    return float(plant[at[:, 1], at[:, 0]].mean())


@dataclass(frozen=True)
class Judged:
    """A picture: the faults it was made with, and those the rules name, of the ones that apply to
    its form.
    """

    name: str
    made: frozenset[str]
    named: frozenset[str]
    judged: frozenset[str]


def judged(path: Path) -> Judged | None:
    """Measure and score a picture with NAME.json beside it under the classical school, untouched;
    None when it cannot be measured.
    """
    truth = as_traced(json.loads(path.with_suffix(".json").read_text()))
    container = truth["container"]
    brief = Brief(
        form=form_of(truth),
        container_height_cm=container["height_cm"],
        container_width_cm=container.get("max_width_cm", container["height_cm"]),
    )
    try:
        done = analyse(path.read_bytes())
    except (UnusablePhotograph, NothingFound):
        return None
    verdict = assess((done.as_view(),), brief, school("classical-line-mass")).verdict
    lines = {x.rule.code: x for x in verdict.lines if x.score is not None}
    named, could = set(), set()
    for fault, rules in NAMES.items():
        for code, side in rules:
            line = lines.get(code)
            if line is None or not isinstance(line.finding, Measured):
                continue
            could.add(fault)
            band, value = line.rule.band, line.finding.value
            lies = -1 if value < band.low else 1 if value > band.high else 0
            if OUT_OF * band.score(value) < FOUND and (side in (0, lies)):
                named.add(fault)
    made = set()
    flaws = {SPELT.get(f, f) for f in truth["flaws"]}
    figures = true_figures(truth, np.asarray(Image.open(path.with_suffix(".mask.png"))))
    for fault, (sure, clear) in SURE.items():
        true = figures.get(fault)
        if true is None or min(sure, clear) < true < max(sure, clear):
            could.discard(fault)
        elif (true >= sure) if sure >= clear else (true <= sure):
            # Where a figure alone does not tell, the piece must have been made so, too.
            made.add(fault) if fault not in TOLD or fault in flaws else could.discard(fault)
    return Judged(path.stem, frozenset(made), frozenset(named), frozenset(could))


@dataclass(frozen=True)
class Count:
    """A fault: in how many pictures it was made and of these named, and in how many it was not and
    named all the same.
    """

    fault: str
    made: int
    named: int
    without: int
    wrongly: int


def table(rows: Iterable[Judged]) -> list[Count]:
    """Counts by fault, over the pictures in which its rule could be judged."""
    rows = list(rows)
    out = []
    for fault in NAMES:
        here = [r for r in rows if fault in r.judged]
        have = [r for r in here if fault in r.made]
        if have:
            lack = [r for r in here if fault not in r.made]
            out.append(
                Count(
                    fault,
                    len(have),
                    sum(fault in r.named for r in have),
                    len(lack),
                    sum(fault in r.named for r in lack),
                )
            )
    return out
