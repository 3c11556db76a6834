"""What a return sheet says, gathered once as plain figures and sentences."""

from __future__ import annotations

from heath.bench.reading import Reading
from heath.interface.drawing import drawable, ghost_line
from heath.interface.templatetags.heath import band_drawing, figure, spread

FAMILY_NAMES = {
    "proportion": "Proportion",
    "balance": "Balance",
    "focal": "Focal point",
    "colour": "Colour",
    "line": "Line",
    "finish": "Finish",
}
DETAILED = 9  # rules shown with their band
SHOWN = {"height_ratio", "left_weight_share", "focal_height", "twin_tips"}


def figures(piece, reading: Reading) -> dict:
    """Everything on the sheet, as JSON: lines by family, sentences, next cut, marks to draw."""
    verdict, findings = reading.verdict, reading.findings
    families = []
    lost = [x for x in verdict.lines if x.score is not None and not x.overridden and x.state != "met"]
    detailed = sorted(lost, key=lambda x: -(10 - x.score) * x.rule.weight)[:DETAILED]
    for group in verdict.groups:
        counted = [x for x in group.lines if x.score is not None or x.overridden]
        # What cost most is shown with its band, and what was said by hand; the rest takes a line together, so that a sheet stays one page.
        shown = [x for x in counted if x in detailed or x.overridden]
        held, near = ([x for x in counted if x not in shown and (x.state == "met") == met] for met in (True, False))
        if counted:
            families.append({
                "name": FAMILY_NAMES[group.family],
                "mark": None if group.score is None else round(group.score, 1),
                "capped_by": group.capped_by,
                "lines": [_line(x) for x in shown],
                "held": [_short(x) for x in held],
                "near": [_short(x) for x in near],
            })  # fmt: skip
    marks = [m for name in SHOWN for m in findings[name].evidence]
    drawn = [drawable(m) for m in dict.fromkeys(marks)]
    if verdict.next_cut.ghost is not None:
        drawn.append(drawable(ghost_line(reading, verdict.next_cut.ghost)))
    return {
        "student": piece.student.name,
        "brief": piece.brief.name,
        "class": piece.brief.course.name,
        "rule_set": verdict.rule_set.name,
        "rule_set_version": verdict.rule_set.version,
        "score": None if verdict.score is None else round(verdict.score),
        "spread": max(1, round(verdict.uncertainty)),
        "pass_mark": float(piece.brief.pass_mark),
        "passed": verdict.score is not None and round(verdict.score) >= float(piece.brief.pass_mark),
        "photograph": reading.photograph.pk,
        "width": reading.photograph.width,
        "height": reading.photograph.height,
        "marks": drawn,
        "sentences": sentences(reading),
        "next_cut": verdict.next_cut.text,
        "families": families,
        "award": verdict.award,
        "unmeasured": [x.rule.title for x in verdict.lines if x.score is None and not x.overridden],
        "palette": [
            {"hex": s.chip, "hue": s.name if s.name == s.hue else f"{s.name} ({s.hue})", "share": round(100 * s.share)}
            for s in reading.scene.palette
            if s.part == "flower" and s.share >= 0.03
        ],
        "scheme": findings.scheme.name if findings.scheme else "",
        "wished": piece.brief.scheme,
    }


def _short(line) -> dict:
    return {"title": line.rule.title, "value": "" if line.rule.check else figure(line.finding), "score": round(line.score, 1)}


def _line(line) -> dict:
    finding = line.finding
    return {
        "title": line.rule.title,
        "value": figure(finding) if finding.measured else "",
        "spread": spread(finding),
        "band": line.rule.band.words,
        "drawing": band_drawing(line),
        "taught": line.rule.taught,
        "score": None if line.score is None else round(line.score, 1),
        "state": line.state,
        "borderline": line.borderline,
        "advice": line.advice,
        "reason": line.overridden or ("" if finding.measured else finding.reason or ""),
        "spoken": bool(line.overridden),
    }


def sentences(reading: Reading) -> list[str]:
    """Four to six sentences: what held and why, then what did not, weightiest first."""
    lines = [x for x in reading.verdict.lines if x.score is not None]
    held = sorted((x for x in lines if x.state == "met"), key=lambda x: -x.rule.weight)
    lost = sorted((x for x in lines if x.state != "met" and x.advice), key=lambda x: -(10 - x.score) * x.rule.weight)
    out = [f"{x.rule.title} holds: {x.rule.why[0].lower()}{x.rule.why[1:]}" for x in held[:3]]
    out += [f"{x.rule.title}: {x.advice[0].lower()}{x.advice[1:]}" for x in lost[:3]]
    return out or ["Nothing could be measured on this photograph."]
