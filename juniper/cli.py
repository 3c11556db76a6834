"""`bin/juniper`: the core from the command line, without database or web."""

from __future__ import annotations

import argparse
import json
import math
import sys
from dataclasses import replace
from pathlib import Path

import cv2

from juniper import VERSION
from juniper.assessment import Analysis, Word, analyse, assess
from juniper.documents import read_json, read_toml
from juniper.measures import Finding, Findings, Measured
from juniper.patterns import FaultyPattern, Pattern, pattern_slugs, read_pattern, shipped_pattern
from juniper.photograph import UnusablePhotograph
from juniper.planning import (
    ContainerSize,
    PlannedStem,
    PlannedVessel,
    order_of_placing,
    plan_group,
    plan_stems,
)
from juniper.rules import (
    ANSWERS,
    DOMINANTS,
    FORMS,
    KINDS,
    VIEWPOINTS,
    Brief,
    BriefVessel,
    FaultyRuleSet,
    RuleSet,
    Verdict,
    read_rule_set,
    school,
    school_slugs,
)
from juniper.scene import MOST_VESSELS, NoCutOut, NothingFound, given_datum, installed_cutout
from juniper.values import point

ENGINES = ("default", "cutout")


class Unusable(Exception):
    """Input that cannot be used; the message is the one sentence printed."""


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit code (0, or 2 for input that cannot be used)."""
    options = _parser().parse_args(arguments)
    try:
        return options.run(options)
    except (
        Unusable,
        UnusablePhotograph,
        NothingFound,
        NoCutOut,
        FaultyRuleSet,
        FaultyPattern,
    ) as error:
        print(error, file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0
    except OSError as error:
        print(
            f"{error.filename or 'A file'}: {error.strerror or 'could not be used'}.",
            file=sys.stderr,
        )
        return 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="juniper", description="Measure and score photographed arrangements."
    )
    commands = parser.add_subparsers(required=True)
    for name, run, text in (
        ("measure", _measure, "measure one photograph"),
        ("score", _score, "measure it and hold it against a rule set"),
    ):
        command = commands.add_parser(name, help=text)
        command.add_argument("photo", type=Path)
        command.add_argument("--json", action="store_true", help="print one JSON document")
        command.add_argument("--container-height-cm", type=float)
        command.add_argument(
            "--datum", type=Path, help="JSON file with rim, base, rim_left, rim_right"
        )
        command.add_argument(
            "--engine",
            choices=ENGINES,
            default=ENGINES[0],
            help="what makes the outline (cutout: see bin/setup-cutout)",
        )
        command.add_argument(
            "--kind", choices=KINDS, default=KINDS[0], help="what the piece is made in"
        )
        command.add_argument(
            "--vessels",
            type=int,
            help="how many vessels make up the piece (measured as a whole from two on)",
        )
        command.add_argument("--mask", type=Path, help="write the label picture here (PNG)")
        command.set_defaults(run=run)
        if name == "score":
            command.add_argument("--rules", required=True, help="a school's name or a TOML file")
            command.add_argument("--brief", type=Path, help="TOML file with the brief")
    plan = commands.add_parser("plan", help="how long the stems for a container are cut")
    plan.add_argument("--rules", required=True, help="a school's name or a TOML file")
    plan.add_argument("--container-height-cm", type=float, required=True)
    plan.add_argument("--container-width-cm", type=float, required=True)
    plan.add_argument("--container-depth-cm", type=float)
    plan.add_argument(
        "--pattern", help="a pattern's name or a TOML file (the usual one of form and school)"
    )
    plan.add_argument("--brief", type=Path, help="TOML file with the brief")
    plan.add_argument("--json", action="store_true", help="print one JSON document")
    plan.set_defaults(run=_plan)
    booth = commands.add_parser("picture", help="take a picture with the simulated camera")
    booth.add_argument("out", type=Path)
    booth.add_argument("--piece", type=int, default=0, help="number of the piece, from 0")
    booth.add_argument("--view", default="front", help="front, side, back, top or seated")
    booth.add_argument(
        "--fault",
        action="append",
        default=[],
        help="a fault of capture; may be given more than once",
    )
    booth.add_argument(
        "--code", help="code printed on the reference card that stands in the picture"
    )
    booth.add_argument("--phone", action="store_true", help="twelve megapixels")
    booth.add_argument("--heic", action="store_true")
    booth.add_argument("--display-p3", action="store_true")
    booth.add_argument(
        "--sideways",
        action="store_true",
        help="stored on its side, with the EXIF orientation that says so",
    )
    booth.add_argument("--truth", type=Path, help="write the exact truth here (JSON)")
    booth.set_defaults(run=_picture)
    return parser


def _read(path: Path) -> bytes:
    if not path.is_file():
        raise Unusable(f"There is no file {path}.")
    return path.read_bytes()


def _datum(path: Path | None):
    if path is None:
        return None
    try:
        raw = read_json(_read(path).decode())
        rim, base, left, right = (raw[n] for n in ("rim", "base", "rim_left", "rim_right"))
        if any(len(p) != 2 for p in (rim, base, left, right)):
            raise ValueError("a point needs two figures")
        return given_datum(point(rim), point(base), point(left), point(right))
    except (KeyError, TypeError, ValueError) as error:
        hint = f"{error} is missing" if isinstance(error, KeyError) else str(error)
        raise Unusable(f"The datum file {path.name} cannot be used: {hint.rstrip('.')}.") from error


def _brief(path: Path | None) -> tuple[Brief, dict[str, float]]:
    """The brief of a file, and the answers to checks that it holds, by rule."""
    if path is None:
        return Brief(), {}
    try:
        raw = read_toml(_read(path).decode())
        said = raw.pop("answers", {})
        answers = {
            code: next(v for v, word in ANSWERS.items() if word == answer)
            for code, answer in said.items()
        }
        own = dict(raw.get("brief", raw))
        own["vessels"] = tuple(BriefVessel(**v) for v in own.get("vessels", ()))
        brief = Brief(**own)
    except (StopIteration, AttributeError) as error:
        raise Unusable(
            f"The brief {path.name} cannot be used: an answer is one of"
            f" {', '.join(ANSWERS.values())}."
        ) from error
    except (ValueError, TypeError) as error:
        raise Unusable(
            f"The brief {path.name} cannot be used: {str(error).replace('Brief.__init__()', 'it')}."
        ) from error
    for name in ("container_height_cm", "container_width_cm"):
        value = getattr(brief, name)
        if value is not None and (not isinstance(value, int | float) or not 0 < value < 500):
            raise Unusable(f"The brief's {name} must be a length above 0 and below 500 cm.")
    for name, known in (
        ("kind", KINDS),
        ("form", FORMS),
        ("viewpoint", VIEWPOINTS),
        ("dominant", ("", *DOMINANTS)),
    ):
        if getattr(brief, name) not in known:
            raise Unusable(f"The brief's {name} is one of: {', '.join(filter(None, known))}.")
    return brief, answers


def _run(options, height: float | None, brief: Brief) -> Analysis:
    if height is not None and not 0 < height < 500:
        raise Unusable("--container-height-cm must be above 0 and below 500.")
    if options.vessels is not None and not 1 <= options.vessels <= MOST_VESSELS:
        raise Unusable(f"--vessels must be between 1 and {MOST_VESSELS}.")
    cutout = installed_cutout() if options.engine == "cutout" else None
    if options.engine == "cutout" and cutout is None:
        raise Unusable("The second engine is not set up: run bin/setup-cutout.")
    vessels = options.vessels or len(brief.vessels) or None
    done = analyse(
        _read(options.photo),
        options.photo.name,
        _datum(options.datum),
        cutout=cutout,
        vessels=vessels if brief.kind in KINDS[:2] else 1,
        kind=brief.kind,
    )
    if options.mask:
        ok, data = cv2.imencode(
            ".png", done.raster.labels_at((done.photograph.width, done.photograph.height))
        )
        if not ok:
            raise Unusable("The label picture could not be made.")
        options.mask.write_bytes(data.tobytes())
    return done


def _measure(options) -> int:
    height = options.container_height_cm
    brief = Brief(form="", container_height_cm=height, kind=options.kind)
    done = _run(options, height, brief)
    document = as_document(done, done.measured(brief))
    print(json.dumps(document, indent=1) if options.json else _table(document))
    return 0


def _rules(name: str) -> RuleSet:
    """A school's rule set, or that of a TOML file."""
    if name in school_slugs():
        return school(name)
    if not name.endswith(".toml"):
        raise Unusable(f"No school is called {name}; there are: {', '.join(school_slugs())}.")
    try:
        return read_rule_set(_read(Path(name)).decode())
    except UnicodeDecodeError as error:
        raise Unusable("The rule set is not a text file.") from error


def _score(options) -> int:
    rules = _rules(options.rules)
    brief, answers = _brief(options.brief)
    height = options.container_height_cm or brief.container_height_cm
    done = _run(options, height, brief)
    judged = assess(
        (done.as_view(),), replace(brief, container_height_cm=height), rules, Word(answers=answers)
    )
    document = as_document(done, judged.findings) | {"verdict": verdict_document(judged.verdict)}
    print(json.dumps(document, indent=1) if options.json else _table(document))
    return 0


def _pattern(name: str | None) -> Pattern | None:
    """A shipped pattern, or that of a TOML file; None where none is named."""
    if not name:
        return None
    if name in pattern_slugs():
        return shipped_pattern(name)
    if not name.endswith(".toml"):
        raise Unusable(f"No pattern is called {name}; there are: {', '.join(pattern_slugs())}.")
    try:
        return read_pattern(_read(Path(name)).decode())
    except UnicodeDecodeError as error:
        raise Unusable("The pattern is not a text file.") from error


def _plan(options) -> int:
    """The stem plan of a container under a rule set, after a pattern; of a brief's vessels each."""
    rules = _rules(options.rules)
    brief, _ = _brief(options.brief)
    try:
        container = ContainerSize(
            options.container_height_cm, options.container_width_cm, options.container_depth_cm
        )
    except ValueError as error:
        raise Unusable(str(error)) from error
    pattern = _pattern(options.pattern)
    plan = plan_stems(rules, container, brief, pattern)
    group = plan_group(rules, brief, pattern) if brief.vessels else None
    own = tuple(r.under(brief) for r in rules.rules if r.applies(brief))
    three = "main" in plan.by_name  # what goes in beside main, second and third is told apart
    document = {
        "juniper": VERSION,
        "rules": rules.slug,
        "pattern": {"slug": plan.pattern.slug, "version": plan.pattern.version},
        "height_cm": round(plan.height, 1),
        "band_cm": [round(plan.low, 1), round(plan.high, 1)],
        "stems": [_planned_stem(s) for s in plan.stems if s.role == "line" or not three],
        "further_stems": [_planned_stem(s) for s in plan.stems if s.role != "line" and three],
        "notes": list((group or plan).notes),
        "steps": [
            {"what": s.what, "mind": s.mind, "stage": s.stage, "marked_by": s.marked_by}
            for s in order_of_placing(group or plan, own)
        ],
    }
    if group is not None:
        document["vessels"] = [_planned_vessel(v) for v in group.vessels]
    if options.json:
        print(json.dumps(document))
        return 0
    print(f"{rules.name}: {plan.low:.0f} to {plan.high:.0f} cm {plan.over}")
    for s in plan.stems:
        print(
            f"  {s.name:16} shows {s.length:5.1f} cm   leans {s.lean:+4.0f}°   cut to"
            f" {s.cut:5.1f} cm"
        )
    for note in plan.notes:
        print(f"  {note}")
    return 0


def _planned_stem(stem: PlannedStem) -> dict:
    return {
        "name": stem.name,
        "role": stem.role,
        "count": stem.count,
        "visible_cm": round(stem.length, 1),
        "cut_cm": stem.cut,
        "lean_deg": round(stem.lean, 1),
        "toward_deg": stem.toward,
        "hidden_cm": round(stem.hidden, 1),
        "height_cm": round(stem.height, 1),
        "side_cm": round(stem.side, 1),
    }


def _planned_vessel(vessel: PlannedVessel) -> dict:
    return {
        "number": vessel.number,
        "name": vessel.vessel.name,
        "x_cm": round(vessel.x, 1),
        "top_cm": round(vessel.top, 1),
        "water_ml": round(vessel.water_ml),
        "held_by": vessel.holding.name,
        "stems": [{"name": s.name, "cut_cm": s.cut} for s in vessel.stems],
    }


def _picture(options) -> int:
    from juniper.camera import PHONE, Shot, frame, take, with_fault
    from juniper.photograph.code import typed_code

    if options.piece < 0:
        raise Unusable("--piece counts from 0.")
    if options.code and not typed_code(options.code):
        raise Unusable("A card's code has eight letters and figures, without I, L, O and U.")
    shot = Shot(
        size=PHONE if options.phone else (900, 1200),
        code=typed_code(options.code) if options.code else None,
        kind="HEIC" if options.heic else "JPEG",
        profile="Display P3" if options.display_p3 else "sRGB",
        orientation=6 if options.sideways else 1,
    )
    try:
        one = frame(options.piece, options.view)
        for name in options.fault:
            shot = with_fault(shot, name, 0.5, one)
        picture = take(one, shot)
    except LookupError as error:
        raise Unusable(f"{str(error)[0].upper()}{str(error)[1:]}.") from error
    options.out.write_bytes(picture.data)
    if options.truth:
        options.truth.write_text(json.dumps(picture.truth, indent=1))
    return 0


def _point(point) -> list[float]:
    return [round(float(v), 1) for v in point]


def as_document(done: Analysis, findings: Findings) -> dict:
    """The JSON document of `juniper measure`."""
    scene, photo = done.scene, done.photograph
    datum = scene.datum
    scheme = findings.scheme
    return {
        "juniper": VERSION,
        "photo": {
            "width": photo.width,
            "height": photo.height,
            "format": photo.format,
            "advice": [
                {"code": a.code, "text": a.text, "measured": a.measured, "use": a.use}
                for a in done.advice
            ],
        },
        "datum": {
            **{n: _point(getattr(datum, n)) for n in ("rim", "base", "rim_left", "rim_right")},
            "source": datum.source,
            "confidence": round(datum.confidence, 3),
            "needs_check": datum.needs_check,
            "doubts": list(datum.doubts),
        },
        "vessels": [
            {
                "number": v.number,
                "main": v.main,
                **{
                    n: _point(getattr(v.datum, n)) for n in ("rim", "base", "rim_left", "rim_right")
                },
                "top": None if v.top is None else _point(v.top),
                "height_ratio": None if v.height_ratio is None else round(v.height_ratio, 4),
                "confidence": round(v.datum.confidence, 3),
                "needs_check": v.datum.needs_check,
            }
            for v in scene.vessels
        ],
        "plant": {
            "top": _point(findings.top),
            "left": _point(findings.left),
            "right": _point(findings.right),
            "area_px": round(findings.area_px),
            "engine": done.scene.engine,
        },
        "findings": {
            name: {
                "value": round(f.value, 4) if isinstance(f, Measured) else None,
                "unit": f.unit,
                "uncertainty": round(f.uncertainty, 4) if isinstance(f, Measured) else 0.0,
                "measured": f.measured,
                "reason": f.reason or None,
            }
            for name, f in findings.by_name.items()
        },
        "focal": None if scene.focal is None else _point(scene.focal),
        "blooms": [
            {
                "centre": _point(b.centre),
                "radius": round(b.radius, 1),
                "hex": b.hex,
                "hue": b.hue,
                "role": b.role,
            }
            for b in scene.blooms
        ],
        "palette": [
            {"part": s.part, "hex": s.hex, "hue": s.hue, "share": round(s.share, 4)}
            for s in scene.palette
        ],
        "scheme": None if scheme is None else {"name": scheme.name, "fit": round(scheme.fit, 3)},
    }


def verdict_document(verdict: Verdict) -> dict:
    """The `verdict` part of `juniper score`."""
    return {
        "rules": verdict.rule_set.slug,
        "version": verdict.rule_set.version,
        "score": None if verdict.score is None else round(verdict.score, 1),
        "uncertainty": round(verdict.uncertainty, 1),
        "out_of": 100,
        "award": verdict.award,
        "measured": round(verdict.measured, 2),
        "called_for": round(verdict.called_for, 2),
        "families": {
            g.family: None if g.score is None else round(g.score, 2) for g in verdict.groups
        },
        "next_cut": verdict.next_cut.text,
        "next_cut_rule": verdict.next_cut.rule,
        "unsafe": verdict.unsafe,
        "to_answer": list(verdict.to_answer),
        "lines": [
            {
                "rule": x.rule.code,
                "title": x.rule.title,
                "family": x.rule.family,
                "measure": x.rule.measure,
                "value": _figure(x.finding, "value"),
                "uncertainty": _figure(x.finding, "uncertainty"),
                "band": [edge if math.isfinite(edge) else None for edge in x.rule.band.edges],
                "score": None if x.score is None else round(x.score, 2),
                "weight": x.rule.weight,
                "state": x.state,
                "borderline": x.borderline,
                "advice": x.advice,
                "overridden": x.overridden,
            }
            for x in verdict.lines
        ],
    }


def _figure(finding: Finding, name: str) -> float | None:
    """A finding's value or uncertainty as documents hold it; None where there is none."""
    return round(getattr(finding, name), 4) if isinstance(finding, Measured) else None


def _table(document: dict) -> str:
    """The document for reading rather than for programs."""
    datum = document["datum"]
    rows = [
        f"datum {datum['source']}, confidence {datum['confidence']:.2f}"
        + (" - check it" if datum["needs_check"] else "")
    ]
    rows += [f"  {doubt}" for doubt in datum["doubts"]]
    for name, f in document["findings"].items():
        shown = (
            f"{f['value']:8.2f} ± {f['uncertainty']:.2f} {f['unit']}"
            if f["measured"]
            else f"not measured: {f['reason']}"
        )
        rows.append(f"{name:20} {shown}")
    if "verdict" in document:
        verdict = document["verdict"]
        for line in verdict["lines"]:
            score = "   -" if line["score"] is None else f"{line['score']:4.1f}"
            rows.append(
                f"{line['rule']:20} {score} x {line['weight']:g} "
                f" {line['state']}{' (borderline)' if line['borderline'] else ''}"
            )
        rows.append(f"score {verdict['score']} of 100 ± {verdict['uncertainty']}")
        rows.append(verdict["next_cut"])
    return "\n".join(rows)


if __name__ == "__main__":
    sys.exit(main())
