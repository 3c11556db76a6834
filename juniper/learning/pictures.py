"""From a picture of the simulated camera to its study: everything in it is known, nothing has to be
found; and what each school's rules say of the piece, seen exactly.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from juniper.assessment import Word, assess
from juniper.evaluation.true_view import true_view
from juniper.evaluation.truth import form_of, truth_of
from juniper.learning.study import Colour, Study, study_of
from juniper.photograph import read_photograph
from juniper.rules import Brief, school
from juniper.values import point

# Of a stray accent and twin tips of pictures whose truth does not name places: what is drawn of the
# measures, which then were made on purpose.
DRAWN = {"twin tips": "twin_tips", "gap": "largest_gap"}
# Schools whose rules suit any piece that is seen from the front: markers calibrate under these.
# Families whose measures rest on outline, container and blooms, which are known exactly. Of colours
# the scheme and the shares are known, but not each pixel's petal, which other rules of colour ask.
FAMILIES = ("proportion", "balance", "focal", "line", "finish")
OTHER_SCHOOLS = ("three-stem",)  # forms that are taught and marked by schools of their own
HUNDRED = 10.0  # points of 100 in one of ten
SCHOOLS = ("classical-line-mass", "thirds-and-golden-section", "garden-style")


@dataclass(frozen=True)
class Known:
    """A picture's study, and by school's slug what its rules give the piece, by family (of ten) and
    over these families (`score`, of 100); colour is left out.
    """

    study: Study
    marks: Mapping[str, Mapping[str, float]] = field(default_factory=dict)


def known_picture(jpeg: bytes, labels: np.ndarray, truth: dict) -> Known:
    """What is known of a traced picture with its label raster and its truth (juniper.camera.truth).

    Raises ValueError for a truth of no known form.
    """
    photograph = read_photograph(jpeg, "piece.jpg")
    view = true_view(Path("piece.jpg"), photograph, truth_of(truth, labels))
    form = form_of(truth)
    marks = {}
    findings = None
    for slug in SCHOOLS:
        done = assess(
            (view,), Brief(form=form, scheme=truth.get("scheme", "")), school(slug), Word()
        )
        findings = findings or done.findings
        given = [g for g in done.verdict.groups if g.score is not None and g.family in FAMILIES]
        weight = sum(g.weight for g in given)
        if weight and form not in OTHER_SCHOOLS:
            whole = sum(g.marks * g.weight for g in given) / weight
            marks[slug] = {g.family: round(g.marks, 2) for g in given}
            marks[slug]["score"] = round(HUNDRED * whole, 1)
    if findings is None:
        raise ValueError("No school measures the picture.")
    faults = tuple(truth.get("flaws", ()))
    study = study_of(
        view,
        findings,
        form,
        scheme=truth.get("scheme", ""),
        colours=_colours(truth),
        faults=faults,
        spots=_spots(truth, faults, findings),
        exact=True,
    )
    return Known(study, marks)


def _colours(truth: dict) -> tuple[Colour, ...]:
    """The colours of the blooms as they came out in the picture, with their shares."""
    seen: dict[str, tuple[int, str]] = {}
    for bloom in truth.get("blooms", ()):
        if bloom.get("role") == "filler":
            continue
        total, _ = seen.get(bloom["hue"], (0, ""))
        seen[bloom["hue"]] = (total + bloom["visible_px"], bloom["hue"])
    shown: dict[str, tuple[int, str]] = {}
    for bloom in truth.get("blooms", ()):
        most, _ = shown.get(bloom["hue"], (0, ""))
        if bloom["visible_px"] > most:
            shown[bloom["hue"]] = (bloom["visible_px"], bloom["mean_hex"])
    whole = sum(n for n, _ in seen.values()) or 1
    return tuple(Colour(shown[hue][1], hue, round(n / whole, 4)) for hue, (n, _) in seen.items())


def _spots(truth: dict, faults: tuple[str, ...], findings) -> dict[str, tuple]:
    out = {k: tuple(point(p) for p in v) for k, v in truth.get("spots", {}).items()}
    stray = tuple(point(b["centre"]) for b in truth.get("blooms", ()) if b.get("role") == "accent")
    if "stray accent" in faults and stray:
        out["stray accent"] = stray  # where it shows, not where its stem ends
    for fault, name in DRAWN.items():
        found = findings.measured(name)
        if fault in faults and fault not in out and found and found.evidence:
            points = found.evidence[0].points
            middle = np.mean(np.asarray(points, float), axis=0)
            out[fault] = (point(middle),) if fault == "gap" else tuple(map(point, points))
    return out
