"""Prints what the quality advice catches (faults), how true the reference card is (card), that it
is never misread (identity), whether the rules name the faults that pieces were made with (rules),
how true the colours are (colour), whether a piece taken again keeps its mark (repeat), whether
stated uncertainties hold (coverage), what each school says of its own perfect pieces (perfect),
how marks spread and which rules tell pieces apart (weights), or whether eye practice teaches
simulated learners faster than pictures at random (practice).
"""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import cv2
import numpy as np

from juniper.evaluation.accuracy import pictures
from juniper.evaluation.brush_trials import touched_job
from juniper.evaluation.colour_trials import coloured_job, summary
from juniper.evaluation.coverage import coverage, crossed, held_to_truth
from juniper.evaluation.fault_trials import judged, table
from juniper.evaluation.perfect import every_school, perfect_lines
from juniper.evaluation.quality_trials import (
    CARD_KINDS,
    card_case,
    fault_jobs,
    fault_table,
    fault_trial,
)
from juniper.evaluation.repeat import repeat, shots_of
from juniper.evaluation.spread import by_eye, grades, marked, spread
from juniper.learning.simulated import trial
from juniper.rules import school, school_slugs


def mapped(work, jobs):
    cv2.setNumThreads(1)
    with ProcessPoolExecutor(2, initializer=cv2.setNumThreads, initargs=(1,)) as pool:
        yield from pool.map(work, jobs, chunksize=4)


def faults(options) -> None:
    done = list(mapped(fault_trial, fault_jobs(options.seeds)))
    if options.each:
        for fault, _, codes, stem in done:
            print(stem, fault.ljust(12), " ".join(sorted(codes)))
    rows = fault_table(done)
    if options.json:
        print(json.dumps([r.__dict__ for r in rows]))
        return
    print("fault          pictures   caught       advice of any kind")
    for row in rows:
        share = (
            ""
            if row.fault == "none"
            else f"{row.caught:5d}  {row.caught / max(1, row.pictures):6.1%}"
        )
        print(
            f"{row.fault:14} {row.pictures:8d}   {share:14}"
            f" {row.raised / max(1, row.pictures):6.1%}"
            f"{'  false alarms' if row.fault == 'none' else ''}"
        )
    bad = [r for r in rows if r.fault != "none"]
    print(
        f"all faults     {sum(r.pictures for r in bad):8d}   {sum(r.caught for r in bad):5d} "
        f" {sum(r.caught for r in bad) / sum(r.pictures for r in bad):6.1%}"
    )


def card(options) -> None:
    print(
        "trial          pictures  found  code read  scale error: median   95 %    most   greys off"
        " neutral, CIEDE2000: median  95 %"
    )
    for kind in CARD_KINDS[:-1]:
        done = list(mapped(card_case, [(kind, s) for s in range(options.trials)]))
        errors = np.abs([t.scale_error for t in done if t.scale_error is not None]) * 100
        greys = [t.neutral for t in done if t.neutral is not None]
        read = sum(t.identity == "right" for t in done)
        line = f"{kind:14} {len(done):8d} {sum(t.found for t in done):6d} {read:10d}"
        if len(errors):
            line += (
                f"{np.median(errors):21.2f} % {np.percentile(errors, 95):5.2f} %"
                f" {errors.max():5.2f} %"
            )
        if greys:
            line += f"{np.median(greys):36.2f} {np.percentile(greys, 95):6.2f}"
        print(line, flush=True)


def identity(options) -> None:
    done = Counter(
        t.identity for t in mapped(card_case, [("rough", s) for s in range(options.trials)])
    )
    print(
        f"{sum(done.values())} rough pictures: {done['right']} codes read right, {done['none']} not"
        f" read, {done['wrong']} wrong"
    )


def rules(options) -> None:
    paths = [
        p
        for folder in options.folders
        for p in sorted(folder.glob(f"{options.like}.jpg"))
        if p.with_suffix(".json").exists()
    ]
    done = [r for r in mapped(judged, paths) if r]
    if options.each:
        for r in done:
            print(
                r.name.ljust(14),
                "made:",
                ", ".join(sorted(r.made)) or "-",
                " named:",
                ", ".join(sorted(r.named)) or "-",
            )
    print("fault            made  named            without  named all the same")
    for c in table(done):
        share = f"{c.wrongly / c.without:7.1%}" if c.without else ""
        print(
            f"{c.fault:16} {c.made:4d} {c.named:6d} {c.named / c.made:7.1%} {c.without:10d}"
            f" {c.wrongly:6d} {share}"
        )


def colour(options) -> None:
    paths = [
        p
        for folder in options.folders
        for p in sorted(folder.glob(f"{options.like}.jpg"))
        if p.with_suffix(".json").exists()
    ]
    if options.touches:
        done = [rows for rows in mapped(touched_job, [(p, options.touches) for p in paths]) if rows]
        for touches in range(options.touches + 1):
            told = summary(rows[touches] for rows in done)
            names = (
                "within_8",
                "share_median",
                "share_within_5",
                "foliage_median",
                "foliage_within_5",
                "schemes_right",
                "schemes",
            )
            print(f"{touches} touches  " + "  ".join(f"{name} {told[name]}" for name in names))
        return
    foreign = [
        p
        for p in paths
        if options.kelvin
        and "focal_px" not in json.loads(p.with_suffix(".json").read_text()).get("camera", {})
    ]
    if foreign:
        print(
            f"Other lights need pictures that bin/roll traced; {foreign[0].name} does not tell its"
            " camera's focal length.",
            file=sys.stderr,
        )
        sys.exit(2)
    jobs = [(p, kelvin) for p in paths for kelvin in options.kelvin or [None]]
    done = [r for r in mapped(coloured_job, jobs) if r]
    if options.each:
        for r in done:
            print(
                r.name.ljust(14),
                " ".join(
                    f"{d:4.1f}{'' if n else '!'}"
                    for d, n in zip(r.differences, r.named, strict=True)
                ).ljust(34),
                "shares",
                " ".join(f"{100 * s:+.0f}" for s in r.shares).ljust(20),
                f"foliage {100 * r.foliage:+.0f}",
                "" if r.scheme == r.called else f"  {r.scheme} called {r.called}",
            )
    for name, value in summary(done).items():
        print(f"{name:24} {value}")


def taken_again(options) -> None:
    paths = [p for folder in options.folders for p in sorted(folder.glob(f"{options.like}.jpg"))][
        : options.most
    ]
    done = list(mapped(partial(shots_of, steady=not options.once), paths))
    if options.each:
        for name, shots in done:
            print(
                name.ljust(14),
                " ".join(f"{s.score:5.1f}{'!' if s.needs_check else ' '}" for s in shots),
                file=sys.stderr,
            )
        for name, shots in done:
            for code in shots[0].lines if shots else ():
                scores = [s.lines[code] for s in shots if s.lines.get(code) is not None]
                if scores and max(scores) - min(scores) > 1:
                    print(
                        name.ljust(14),
                        code.ljust(22),
                        " ".join(f"{s:4.1f}" for s in scores),
                        file=sys.stderr,
                    )
    told = repeat(done).__dict__
    print(json.dumps(told) if options.json else "\n".join(f"{k:18} {v}" for k, v in told.items()))


def held(options) -> None:
    paths = [p for folder in options.folders for p in pictures(folder, options.like)]
    done = list(mapped(partial(held_to_truth, steady=not options.once), paths))
    if options.each:
        print(json.dumps([r.__dict__ for p in done for r in p.held]), file=sys.stderr)
    table = coverage(done)
    if options.json:
        print(json.dumps({name: c.__dict__ for name, c in table.items()}))
        return
    print("measure               n   within 1 u  within 2 u   off (rms)   stated (rms)")
    for name, c in table.items():
        print(
            f"{name:20} {c.n:3d} {c.one_u:10.0%} {c.two_u:11.0%} {c.error:12.3g} {c.stated:12.3g}"
        )
    lines, astray = crossed(done)
    print(
        f"{lines} lines told as not borderline, {astray} of them elsewhere in truth"
        f" ({astray / max(lines, 1):.1%})"
    )


def perfect(options) -> None:
    """What each school's own rules say of its own perfect pieces."""
    low = 0
    for rule_set, form in every_school({slug: school(slug) for slug in school_slugs()}):
        lines = [x for x in perfect_lines(rule_set, form) if x.score is not None and x.rule.weight]
        missed = [f"{x.rule.code} {x.score:.1f}" for x in lines if x.score < 9]
        low += len(missed)
        print(
            f"{rule_set.slug:28} {form:22} {len(lines):3d} rules, lowest"
            f" {min(x.score for x in lines):4.1f}  {', '.join(missed)}"
        )
    print(f"{low} rules under 9 of 10")


def weights(options) -> None:
    paths = [p for folder in options.folders for p in sorted(folder.glob(f"{options.like}.jpg"))]
    sets = tuple(school(slug) for slug in options.school or school_slugs())
    done = [m for rows in mapped(partial(marked, rule_sets=sets), paths) for m in rows]
    if options.json:
        print(json.dumps([m.__dict__ for m in done]))
        return
    for rule_set in sets:
        totals = np.array(
            [m.total for m in done if m.school == rule_set.slug and m.total is not None]
        )
        if not len(totals):
            continue
        low, middle, high = np.percentile(totals, (10, 50, 90))
        print(
            f"\n{rule_set.slug}: {len(totals)} pieces, {totals.mean():.0f} ± {totals.std():.0f}; a"
            f" tenth under {low:.0f}, half under {middle:.0f}, a tenth over {high:.0f};"
            f" {by_eye(rule_set):.0%} of the weight is a person's"
        )
        told = grades(done, rule_set.slug)
        if len(told) > 1:
            print(
                "  by faults: "
                + "; ".join(
                    f"{name} {median:.0f} ({count})" for name, (count, median) in told.items()
                )
            )
        print("  rule                   weight pieces  mean    sd  full  of variance  goes with")
        for r in spread(rule_set, done):
            print(
                f"  {r.rule:22} {r.weight:6g} {r.pieces:6d} {r.mean:5.1f} {r.deviation:5.1f}"
                f" {r.full:5.0%} {r.of_variance:12.0%}  {r.with_rule} {r.correlation:+.2f}"
            )


def practice(options) -> None:
    done = trial(options.learners, options.pictures)
    if options.json:
        print(json.dumps(done.__dict__))
        return
    print(f"{done.learners} simulated learners           chosen   at random")
    for title, *two in (
        ("pictures until the error is halved", done.chosen_halved, done.random_halved),
        (f"error left after {done.pictures} pictures", done.chosen_left, done.random_left),
    ):
        shown = [
            "more".rjust(8) if v is None else f"{v:8.0f}" if v > 1 else f"{v:8.0%}" for v in two
        ]
        print(title.ljust(36), *shown)
    print(f"estimate after {done.answers} answers within {done.within:.2f} of the true error, of")
    print(f"a beginner's: {done.close:.0%} of learners; within {done.within:.0%} of it:", end=" ")
    print(f"{done.relative:.0%}")
    print(f"the same of learners who do not learn: {done.steady_close:.0%}, ", end="")
    print(f"{done.steady_relative:.0%}")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/trials", description=__doc__)
    commands = parser.add_subparsers(required=True)
    one = commands.add_parser("faults")
    one.add_argument("--seeds", type=int, default=2)
    one.add_argument("--json", action="store_true")
    one.add_argument("--each", action="store_true", help="also a line for each picture")
    one.set_defaults(run=faults)
    one = commands.add_parser("rules")
    one.add_argument("folders", type=Path, nargs="+", help="folders of pictures with their truth")
    one.add_argument("--like", default="*", help="only pictures whose name matches")
    one.add_argument("--each", action="store_true", help="also a line for each picture")
    one.set_defaults(run=rules)
    one = commands.add_parser("colour")
    one.add_argument("folders", type=Path, nargs="+", help="folders of pictures with their truth")
    one.add_argument("--like", default="*", help="only pictures whose name matches")
    one.add_argument(
        "--kelvin",
        type=float,
        nargs="+",
        help="with a card beside the piece, under light of these temperatures",
    )
    one.add_argument(
        "--touches",
        type=int,
        help="before and after so many touches of the petal brush, where much is missed",
    )
    one.add_argument("--each", action="store_true", help="also a line for each picture")
    one.set_defaults(run=colour)
    for name, run in (("repeat", taken_again), ("coverage", held)):
        one = commands.add_parser(name)
        one.add_argument(
            "folders",
            type=Path,
            nargs="+",
            help="folders of pictures, with their truth beside them",
        )
        one.add_argument("--like", default="*", help="only pictures whose name matches")
        one.add_argument("--most", type=int, help="no more pictures than this")
        one.add_argument("--json", action="store_true")
        one.add_argument(
            "--once",
            action="store_true",
            help="each picture looked at once only: quicker, and less sure",
        )
        one.add_argument(
            "--each",
            action="store_true",
            help="also what came out of each picture, on standard error",
        )
        one.set_defaults(run=run)
    one = commands.add_parser("practice")
    one.add_argument("--learners", type=int, default=200)
    one.add_argument("--pictures", type=int, default=40)
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=practice)
    one = commands.add_parser("perfect")
    one.set_defaults(run=perfect)
    one = commands.add_parser("weights")
    one.add_argument(
        "folders",
        type=Path,
        nargs="+",
        help="folders of pictures, with their truth beside them if it is known",
    )
    one.add_argument("--like", default="*", help="only pictures whose name matches")
    one.add_argument("--school", nargs="+", choices=school_slugs(), help="only these schools")
    one.add_argument(
        "--json", action="store_true", help="the marks of each piece, for a table of your own"
    )
    one.set_defaults(run=weights)
    for name, run, count in (("card", card, 60), ("identity", identity, 1000)):
        one = commands.add_parser(name)
        one.add_argument("--trials", type=int, default=count)
        one.set_defaults(run=run)
    options = parser.parse_args()
    options.run(options)


if __name__ == "__main__":
    main()
