"""Whether stated uncertainties hold: how often the truth lies within one and two of them (JCGM
100:2008, G.1.3: 68 and 95 in a hundred).
"""

from __future__ import annotations

import json
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from juniper.assessment import Assessment, analyse, assess, measured_view
from juniper.evaluation.true_view import true_view
from juniper.evaluation.truth import form_of, truth_beside
from juniper.measures import DEFINITIONS, Findings, Measured
from juniper.photograph import UnusablePhotograph
from juniper.rules import Brief, judge, school
from juniper.scene import NothingFound
from juniper.steadiness import seen_again, steadied

# whose outline a piece of no taught form is held against, so that the measure of form is tried as
# well
FORM = "symmetrical triangle"
RULES = "classical-line-mass"
LEAST = 1e-9  # an uncertainty below which none is stated


@dataclass(frozen=True)
class Held:
    """One measure of one picture: its name, how far it is off, and its stated uncertainty, in its
    own unit.
    """

    picture: str
    measure: str
    true: float
    value: float
    uncertainty: float
    needs_check: bool


@dataclass(frozen=True)
class Picture:
    """What came of one picture: its measures; its mark under RULES as `mark` (one Held, of what
    picture and truth both have), and of each line whose figure was told as not borderline whether
    the true figure has another state.
    """

    held: tuple[Held, ...] = ()
    mark: Held | None = None
    crossed: tuple[bool, ...] = ()


def held_to_truth(picture: Path, steady: bool = True) -> Picture:
    """Every measure of a picture that both the automatic reading and the truth have; `steady`:
    looked at again under small changes, as the site does.
    """
    truth = truth_beside(picture)
    if truth.mask is None:
        return Picture()
    made = form_of(json.loads(picture.with_suffix(".json").read_text()))
    brief = Brief(form=FORM if made == "free" else made, container_height_cm=truth.height_cm)
    try:
        seen = analyse(picture.read_bytes())
    except (UnusablePhotograph, NothingFound):
        return Picture()
    if steady:
        seen = steadied(seen, brief, seen_again(seen.photograph))
    done = assess((seen.as_view(),), brief, school(RULES))
    true = measured_view(true_view(picture, seen.photograph, truth), brief)
    share = done.findings.measured("foliage_share")
    if truth.foliage_share is not None and share is not None:
        true = true.joined(replace(share, value=truth.foliage_share, uncertainty=0.0))
    right = {
        n: f.value
        for n, f in true.by_name.items()
        if isinstance(f, Measured) and (DEFINITIONS[n].family != "colour" or n == "foliage_share")
    }
    found, check = done.findings.by_name, seen.scene.datum.needs_check
    held = tuple(
        Held(picture.stem, n, right[n], one.value, one.uncertainty, check)
        for n in DEFINITIONS
        if n in right and isinstance(one := found.get(n), Measured)
    )
    return Picture(held, *_mark(picture.stem, done, true, {h.measure for h in held}))


def _mark(
    name: str, done: Assessment, true: Findings, both: set[str]
) -> tuple[Held | None, tuple[bool, ...]]:
    """The mark of what picture and truth both have, and which of its lines that were told as sure
    lie elsewhere in truth.
    """
    rules = school(RULES)
    told = replace(
        rules,
        rules=tuple(r for r in rules.rules if r.measure in both and r.asks is None and r.weight),
    )
    exact = replace(
        true,
        by_name={
            n: replace(f, uncertainty=0.0) if isinstance(f, Measured) else f
            for n, f in true.by_name.items()
        },
    )
    ours, theirs = (judge(f, told, done.brief) for f in (done.findings, exact))
    if ours.score is None or theirs.score is None:
        return None, ()
    mark = Held(name, "mark", theirs.score, ours.score, ours.uncertainty, done.findings.needs_check)
    states = {x.rule.code: x.state for x in theirs.lines}
    return mark, tuple(
        x.state != states[x.rule.code]
        for x in ours.lines
        if x.score is not None and not x.borderline
    )


@dataclass(frozen=True)
class Coverage:
    """Of `n` readings of a measure the share within one and two of their uncertainties, their root
    mean square error, and that which was stated.
    """

    n: int
    one_u: float
    two_u: float
    error: float
    stated: float


def coverage(pictures: Iterable[Picture]) -> dict[str, Coverage]:
    """The coverage of each measure and of the mark, over pictures whose datum was not flagged."""
    by_measure: dict[str, list[Held]] = defaultdict(list)
    for picture in pictures:
        for row in (*picture.held, *([picture.mark] if picture.mark else [])):
            if not row.needs_check:
                by_measure[row.measure].append(row)
    out = {}
    for name in (*DEFINITIONS, "mark"):
        if own := by_measure.get(name):
            off = np.abs([r.value - r.true for r in own])
            stated = np.array([r.uncertainty for r in own])
            one, two = (float((off <= k * stated + LEAST).mean()) for k in (1, 2))
            error, told = (float(np.sqrt((v**2).mean())) for v in (off, stated))
            out[name] = Coverage(
                len(own), round(one, 3), round(two, 3), round(error, 4), round(told, 4)
            )
    return out


def crossed(pictures: Iterable[Picture]) -> tuple[int, int]:
    """Over pictures that were not flagged: how many lines were told as not borderline, and how many
    of these lie elsewhere in truth.
    """
    lines = [c for p in pictures if p.mark and not p.mark.needs_check for c in p.crossed]
    return len(lines), sum(lines)
