"""What a return sheet says, gathered once as plain figures and sentences."""

from __future__ import annotations

from heath.assessment.reading import Reading
from heath.drawing.bands import band_drawing
from heath.drawing.evidence import drawable, ghost
from heath.drawing.lines import figure, spread
from heath.planner.planned import stem_plan
from heath.returns.models import ReturnSheet
from heath.web.names import FAMILY_NAMES

CHANGED = 0.5  # of ten: a family's mark that differs by less is the same
DETAILED = 8  # rules shown with their band
SHOWN = ("height_ratio", "left_weight_share", "focal_height", "twin_tips")


def figures(piece, reading: Reading) -> dict:
    """Everything on the sheet, as JSON: lines by family, sentences, next cut, marks to draw."""
    verdict, findings = reading.verdict, reading.findings
    families = []
    lost = [
        x
        for x in verdict.lines
        if x.score is not None and not x.overridden and x.state != "met" and x.rule.weight
    ]
    detailed = sorted(lost, key=lambda x: -(10 - x.score) * x.rule.weight)[:DETAILED]
    for group in verdict.groups:
        counted = [
            x for x in group.lines if (x.score is not None or x.overridden) and x.rule.weight
        ]
        # What cost most is shown with its band, and what was said by hand; the rest takes a line
        # together, so that a sheet stays one page.
        shown = [x for x in counted if x in detailed or x.overridden]
        held, near = (
            [x for x in counted if x not in shown and (x.state == "met") == met]
            for met in (True, False)
        )
        if counted:
            families.append(
                {
                    "name": FAMILY_NAMES[group.family],
                    "mark": None if group.score is None else round(group.score, 1),
                    "capped_by": group.capped_by,
                    "lines": [_line(x) for x in shown],
                    "held": [_short(x) for x in held],
                    "near": [_short(x) for x in near],
                }
            )
    marks = [m for name in SHOWN for m in findings[name].evidence]
    drawn = [drawable(m) for m in dict.fromkeys(marks)]
    if verdict.next_cut.ghost is not None:
        drawn += [drawable(m) for m in ghost(reading, verdict.next_cut.ghost)]
    remarks = list(piece.remarks.filter(taken_back=False))
    numbered = list(enumerate(remarks, 1))
    return {
        "student": piece.student.name,
        "brief": piece.brief.name,
        "class": piece.brief.course.name,
        "rule_set": verdict.rule_set.name,
        "rule_set_version": verdict.rule_set.version,
        "score": None if verdict.score is None else round(verdict.score),
        "spread": max(1, round(verdict.uncertainty)),
        "pass_mark": float(piece.brief.pass_mark),
        "passed": (
            verdict.score is not None and round(verdict.score) >= float(piece.brief.pass_mark)
        ),
        "photograph": reading.photograph.pk,
        "width": reading.photograph.width,
        "height": reading.photograph.height,
        "marks": drawn,
        "sentences": sentences(reading),
        "next_cut": verdict.next_cut.text,
        "families": families,
        "award": verdict.award,
        "measured": verdict.measured,
        "called_for": verdict.called_for,
        "enough": verdict.enough,
        "family_marks": [
            {"name": FAMILY_NAMES[g.family], "mark": None if g.score is None else round(g.score, 1)}
            for g in verdict.groups
        ],
        "unmeasured": [
            x.rule.title
            for x in verdict.lines
            if x.score is None and x.called_for and x.rule.weight
        ],
        "palette": [
            {
                "hex": s.chip,
                "hue": s.name if s.name == s.hue else f"{s.name} ({s.hue})",
                "share": round(100 * s.share),
            }
            for s in reading.scene.palette
            if s.part == "flower" and s.share >= 0.03
        ],
        "scheme": findings.scheme.name if findings.scheme else "",
        "wished": piece.brief.scheme,
        "remarks": [
            {"number": n if r.photograph_id == reading.photograph.pk else None, "words": r.words}
            for n, r in numbered
        ],
        "pins": [
            {"number": n, "words": r.words, "x": round(r.x), "y": round(r.y)}
            for n, r in numbered
            if r.photograph_id == reading.photograph.pk
        ],
        "waived": [
            {"title": x.rule.title, "reason": x.overridden.rstrip(".")}
            for x in verdict.lines
            if x.state == "waived"
        ],
        "capped": verdict.capped_by,
        "unsafe": verdict.unsafe,
        "breaks": list(verdict.breaks),
        "before": before(piece, verdict),
        "changed": changed(piece),
        "planned": planned(piece, reading),
    }


def planned(piece, reading: Reading) -> str:
    """How the piece stands against the brief's stem plan, in a sentence; '' where its height was
    not measured.
    """
    height = reading.findings.by_name.get("height_ratio")
    if height is None or not height.measured:
        return ""
    plan, pot = stem_plan(piece.brief, reading.brief)
    own = pot.height != float(piece.brief.container_height_cm)
    vessel = f"In this vessel, {pot.height:.0f} cm high by the card: planned" if own else "Planned"
    return (
        f"{vessel} {plan.height:.0f} cm over the rim, made {height.value * pot.height:.0f} cm;"
        f" {plan.low:.0f} to {plan.high:.0f} cm is as taught."
    )


def changed(piece) -> str:
    """What became of the mark since the sheet before, in a sentence; '' on the first sheet or where
    it is the same.
    """
    last = piece.sheets.order_by("version").last()
    if last is None:
        return ""
    steps = list(piece.mark_changes.filter(made_at__gt=last.issued_at))
    if not steps or steps[0].old is None or steps[-1].new is None:
        return ""
    reasons = "; ".join(dict.fromkeys(s.why for s in steps if s.why))
    old, new = round(steps[0].old), round(steps[-1].new)
    words = (
        f"Since sheet {last.version} the mark went from {old} to {new}"
        if old != new
        else f"Sheet {last.version} was looked at again"
    )
    return f"{words}{': ' + reasons if reasons else ''}."


def before(piece, verdict) -> dict | None:
    """How the piece stands against the student's last one that was returned: None when there is
    none.
    """
    last = (
        ReturnSheet.objects.filter(piece__student=piece.student_id, withdrawn_at=None)
        .exclude(piece=piece.pk)
        .order_by("issued_at")
        .last()
    )
    if last is None or verdict.score is None or last.figures.get("score") is None:
        return None
    old, new = last.figures["score"], round(verdict.score)
    marks = {
        FAMILY_NAMES[g.family]: round(g.score, 1) for g in verdict.groups if g.score is not None
    }
    steps = [
        (n, marks[n] - m)
        for n, m in ((f["name"], f["mark"]) for f in last.figures["families"])
        if m is not None and n in marks
    ]
    better = [n for n, step in sorted(steps, key=lambda s: -s[1]) if step >= CHANGED][:3]
    worse = [n for n, step in sorted(steps, key=lambda s: s[1]) if step <= -CHANGED][:3]
    words = f"{last.figures['brief']}: {old} of 100; this piece {new}."
    if better:
        words += f" {_listed(better)} {'has' if len(better) == 1 else 'have'} grown."
    if worse:
        words += f" {_listed(worse)} held better then."
    return {"brief": last.figures["brief"], "score": old, "words": words}


def _listed(names: list[str]) -> str:
    low = [names[0], *(n.lower() for n in names[1:])]
    return low[0] if len(low) == 1 else f"{', '.join(low[:-1])} and {low[-1]}"


def _short(line) -> dict:
    return {
        "title": line.rule.title,
        "value": "" if line.rule.asks else figure(line.finding),
        "score": round(line.score, 1),
    }


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
        "goals": line.goals if line.score is not None and line.score < 8 else "",
        "reason": line.overridden or ("" if finding.measured else finding.reason or ""),
        "spoken": bool(line.overridden),
    }


def sentences(reading: Reading) -> list[str]:
    """Four to six sentences: what held and why, then what did not, weightiest first."""
    lines = [x for x in reading.verdict.lines if x.score is not None and x.rule.weight]
    held = sorted((x for x in lines if x.state == "met"), key=lambda x: -x.rule.weight)
    lost = sorted(
        (x for x in lines if x.state != "met" and x.advice),
        key=lambda x: -(10 - x.score) * x.rule.weight,
    )
    out = [f"{x.rule.title} holds: {x.rule.why[0].lower()}{x.rule.why[1:]}" for x in held[:3]]
    out += [f"{x.rule.title}: {x.advice[0].lower()}{x.advice[1:]}" for x in lost[:3]]
    return out or ["Nothing could be measured on this photograph."]
