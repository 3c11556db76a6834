"""How the marks of a school spread over pieces at hand, and which of its rules tell pieces apart.

Of each rule: its mean mark and how it varies, how many pieces have it in full, what share of the
variance of the total is its own (the covariance of its points with the total over the total's
variance; the shares of all rules sum to one), and the other rule that it goes with most.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from juniper.assessment import analyse, assess
from juniper.evaluation.truth import form_of
from juniper.measures import DEFINITIONS
from juniper.photograph import UnusablePhotograph
from juniper.rules import Brief, RuleSet
from juniper.scene import NothingFound

FULL = 9.5  # of ten, from which a mark is full
FEWEST = 8  # pieces that a rule must be marked on, for anything to be told of it


@dataclass(frozen=True)
class Marked:
    """A piece under one school: its picture, the total of its rules (out of 100, None where nothing
    was measured) and the `mark` that is given, where a breach of the brief holds it down; marks by
    rule (out of ten) of what was measured, how much of the weight that was, and the faults that the
    piece was made with (() for none, None where that is not known).
    """

    picture: str
    school: str
    total: float | None
    mark: float | None
    lines: dict[str, float]
    measured: float
    faults: tuple[str, ...] | None


@dataclass(frozen=True)
class RuleSpread:
    """What one rule does over many pieces."""

    rule: str
    weight: float
    pieces: int
    mean: float
    deviation: float
    full: float
    of_variance: float
    with_rule: str
    correlation: float


def brief_of(truth: dict) -> Brief:
    """The brief that a piece of a picture with truth answers: its own form, container and
    scheme.
    """
    box = truth.get("container", {})
    return Brief(
        form_of(truth),
        scheme=truth.get("scheme", ""),
        container_height_cm=box.get("height_cm"),
        container_width_cm=box.get("max_width_cm"),
        vessel="clear" if box.get("clear") or box.get("material") == "glass" else "opaque",
    )


def marked(path: Path, rule_sets: tuple[RuleSet, ...]) -> tuple[Marked, ...]:
    """The marks of one picture under each rule set; none where it cannot be measured."""
    beside = path.with_suffix(".json")
    truth = json.loads(beside.read_text()) if beside.exists() else {}
    brief = brief_of(truth)
    try:
        done = analyse(path.read_bytes(), container_height_cm=brief.container_height_cm)
    except (UnusablePhotograph, NothingFound):
        return ()
    faults = tuple(truth["flaws"]) if "flaws" in truth else None
    view, out = done.as_view(), []
    for rules in rule_sets:
        verdict = assess((view,), brief, rules).verdict
        lines = {x.rule.code: x.score for x in verdict.lines if x.score is not None}
        out.append(
            Marked(
                path.stem,
                rules.slug,
                verdict.uncapped or verdict.score,
                verdict.score,
                lines,
                verdict.measured,
                faults,
            )
        )
    return tuple(out)


def spread(rules: RuleSet, pieces: Iterable[Marked]) -> list[RuleSpread]:
    """What each rule of a school does over pieces marked under it, the one that moves the total
    most first.
    """
    own = [p for p in pieces if p.school == rules.slug and p.total is not None]
    totals = np.array([p.total for p in own])
    if len(own) < FEWEST or totals.var() == 0:
        return []
    weights = {r.code: r.weight for r in rules.rules}
    table = {code: np.array([p.lines.get(code, np.nan) for p in own]) for code in weights}
    points = {}
    for code, scores in table.items():
        share = np.array([weights[code] / max(p.measured, 1e-9) for p in own])
        points[code] = np.where(
            np.isfinite(scores),
            10 * share * (scores - np.nanmean(scores) if np.isfinite(scores).any() else 0),
            0.0,
        )
    out = []
    for code, scores in table.items():
        there = np.isfinite(scores)
        if there.sum() < FEWEST:
            continue
        other, likeness = _likest(code, table)
        out.append(
            RuleSpread(
                code,
                weights[code],
                int(there.sum()),
                float(scores[there].mean()),
                float(scores[there].std()),
                float((scores[there] >= FULL).mean()),
                float(np.cov(points[code], totals, bias=True)[0, 1] / totals.var()),
                other,
                likeness,
            )
        )
    return sorted(out, key=lambda r: -r.of_variance)


def _likest(code: str, table: dict[str, np.ndarray]) -> tuple[str, float]:
    """The other rule whose marks go with one's own most, and their correlation."""
    best, most = "", 0.0
    for other, scores in table.items():
        both = np.isfinite(table[code]) & np.isfinite(scores)
        if (
            other == code
            or both.sum() < FEWEST
            or table[code][both].std() == 0
            or scores[both].std() == 0
        ):
            continue
        r = float(np.corrcoef(table[code][both], scores[both])[0, 1])
        if abs(r) > abs(most):
            best, most = other, r
    return best, most


def by_eye(rules: RuleSet) -> float:
    """Share of a school's weight that only a person can mark."""
    whole = sum(r.weight for r in rules.rules)
    return (
        sum(
            r.weight
            for r in rules.rules
            if r.check or (r.measure and DEFINITIONS[r.measure].by_eye)
        )
        / whole
    )


def grades(pieces: Iterable[Marked], school: str) -> dict[str, tuple[int, float]]:
    """Pieces of a school by how many faults they were made with (none, up to three, more): how
    many, and their median mark.
    """
    found: dict[str, list[float]] = {"none": [], "up to three": [], "more": []}
    for p in pieces:
        if p.school == school and p.faults is not None and p.mark is not None:
            found[
                "none" if not p.faults else "up to three" if len(p.faults) <= 3 else "more"
            ].append(p.mark)
    return {
        name: (len(totals), float(np.median(totals))) for name, totals in found.items() if totals
    }
