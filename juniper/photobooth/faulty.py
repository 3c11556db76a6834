"""Whether the rules find the faults that pieces were made with: held against pictures whose truth names their flaws."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from juniper.marking import measure_photograph
from juniper.photograph import UnusablePhotograph
from juniper.rules import FORMS, Brief, judge, school
from juniper.scene import NothingFound

# The rules of the classical school that name a fault, and on which side of the band it lies (-1 below, 1 above, 0 either).
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
SPELT = {"one-sided": "off-balance", "twin-tips": "twin tips", "rim-bare": "bare rim", "no-focal": "no focal", "focal-too-high": "focal too high",
         "too-squat": "too squat", "too-tall": "too tall", "top-heavy": "top heavy"}  # fmt: skip
HEIGHTS = {
    "too tall": (2.5, 2.1),
    "too squat": (1.2, 1.4),
}  # of the governing dimension: from where a height is at fault, and where it is not
FOUND = 6.0  # of ten: a rule that scores less names a fault
FORM_OF = {"horizontal low": "horizontal", "garden": "free", "grouped vessels": "free"}


@dataclass(frozen=True)
class Judged:
    """A picture: the faults it was made with, and those the rules name, of the ones that apply to its form."""

    name: str
    made: frozenset[str]
    named: frozenset[str]
    judged: frozenset[str]


def judged(path: Path) -> Judged | None:
    """Measure and score a picture with NAME.json beside it under the classical school, untouched; None when it cannot be measured."""
    truth = json.loads(path.with_suffix(".json").read_text())
    form = FORM_OF.get(truth["form"], truth["form"])
    container = truth["container"]
    brief = Brief(
        form=form if form in FORMS else "free",
        container_height_cm=container["height_cm"],
        container_width_cm=container.get("max_width_cm", container["height_cm"]),
    )
    try:
        done = measure_photograph(path.read_bytes(), container_height_cm=container["height_cm"], form=brief.form)
    except (UnusablePhotograph, NothingFound):
        return None
    lines = {x.rule.code: x for x in judge(done.findings, school("classical-line-mass"), brief).lines if x.score is not None}
    named, could = set(), set()
    for fault, rules in NAMES.items():
        for code, side in rules:
            line = lines.get(code)
            if line is None:
                continue
            could.add(fault)
            band, value = line.rule.band, line.finding.value
            lies = -1 if value < band.low else 1 if value > band.high else 0
            if line.score < FOUND and (side in (0, lies)):
                named.add(fault)
    made = {SPELT.get(f, f) for f in truth["flaws"]} - set(HEIGHTS)
    # Heights come out as they come out: the truth is the figure, and what lies about the band's edge is left out.
    governs = (
        truth["findings"]["height_ratio"] * brief.container_height_cm / max(brief.container_height_cm, brief.container_width_cm)
    )
    for fault, (sure, unsure) in HEIGHTS.items():
        if min(sure, unsure) <= governs <= max(sure, unsure):
            could.discard(fault)
        elif (governs < sure) == (sure < unsure):
            made.add(fault)
    return Judged(path.stem, frozenset(made), frozenset(named), frozenset(could))


@dataclass(frozen=True)
class Count:
    """A fault: in how many pictures it was made and of these named, and in how many it was not and named all the same."""

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
                Count(fault, len(have), sum(fault in r.named for r in have), len(lack), sum(fault in r.named for r in lack))
            )
    return out
