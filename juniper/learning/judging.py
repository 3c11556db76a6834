"""Judging an answer: by how much it errs, in which direction, what to say, and what to draw."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from juniper.learning.exercises import Question, parsed_spot
from juniper.learning.kinds import (
    CHOICE,
    COMPARED,
    CUT,
    FAULT,
    KIND,
    ORDER,
    PAIR,
    SHARE,
    SHARES,
    Kind,
)
from juniper.learning.study import Study
from juniper.measures import EvidenceMark
from juniper.values import Point

NEAR = 0.07  # of the plant's height, within which a place is on a fault (a fingertip's breadth)
ON_TIP = 0.12  # of the plant's height, within which a place is the tallest tip
MOST = 1e6  # that a slider of shares may tell
GOOD = 0.35  # of a beginner's error, within which a judgement is called right


class BadAnswer(ValueError):
    """An answer that cannot be judged, with a sentence for the learner."""


@dataclass(frozen=True)
class Seen:
    """What one answer tells of a skill: the size of its error in a beginner's errors and in how
    many directions it could err, or whether it was `right` where that is all there is, with how
    plain the case was and how often chance is right.
    """

    skill: str
    error: float | None = None
    axes: int = 1
    right: bool = False
    strength: float = 1.0
    guess: float = 0.0
    graded: bool = True


@dataclass(frozen=True)
class Outcome:
    """How an answer did: `error` in the kind's unit (None where it is right or wrong), `signed`
    with its direction, `right`, `words`, what it tells of the skill, and what to draw on each
    picture: the `truth` and the `answer`.
    """

    error: float | None
    signed: float | None
    right: bool
    words: str
    seen: tuple[Seen, ...]
    truth: tuple[tuple[EvidenceMark, ...], ...] = ()
    answer: tuple[tuple[EvidenceMark, ...], ...] = ()

    @property
    def scaled(self) -> float | None:
        """The error in a beginner's errors; None where it is right or wrong."""
        return self.seen[0].error if self.seen else None


def judge(question: Question, studies: Sequence[Study], answer: Mapping[str, Any]) -> Outcome:
    """Judge an answer. Raises BadAnswer with what to do where it cannot be judged."""
    kind = KIND[question.kind]
    try:
        out = _JUDGE[kind.answer](kind, question, studies, answer)
        return replace(out, words=out.words.replace(" %", "\u00a0%"))
    except BadAnswer:
        raise
    except (KeyError, TypeError, ValueError, IndexError, OverflowError) as error:
        raise BadAnswer("That answer could not be read. Answer again.") from error


def plain_answer(kind: Kind, answer: Mapping[str, Any]) -> dict[str, Any]:
    """What is kept of an answer that was judged: its own fields alone, as plain figures."""
    if answer.get("none") and kind.answer in (FAULT, CUT):
        return {"none": True}
    if kind.answer in _PLAIN:
        return _PLAIN[kind.answer](answer)
    parts = ("from", "to") if kind.answer == CUT else ("at",)
    return {part: list(parsed_spot(answer[part])) for part in parts}


_PLAIN: dict[str, Callable[[Mapping[str, Any]], dict[str, Any]]] = {
    SHARE: lambda a: {"left": float(a["left"])},
    SHARES: lambda a: {"shares": [float(v) for v in a["shares"]]},
    CHOICE: lambda a: {"choice": str(a["choice"])},
    PAIR: lambda a: {"choice": int(a["choice"])},
    ORDER: lambda a: {"order": [int(n) for n in a["order"]]},
}


def _numeric(
    kind: Kind, error: float, signed: float | None, words: str, axes: int, truth, answer
) -> Outcome:
    size = abs(error) / kind.scale
    return Outcome(
        error,
        signed,
        size <= GOOD,
        words,
        (Seen(kind.skill, size, axes),),
        (tuple(truth),),
        (tuple(answer),),
    )


def _figure(kind: Kind, value: float) -> str:
    return f"{abs(value) * kind.times:.{kind.decimals}f} {kind.unit}"


def _spot(study: Study, answer: Mapping[str, Any], name: str = "at") -> Point:
    spot = parsed_spot(answer[name])
    if not study.inside(spot):
        raise BadAnswer("That place lies outside the picture. Put it on the picture.")
    return spot


def _level(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    along = study.along(_spot(study, answer)) / study.container_px
    own = EvidenceMark(
        "dashed", study.level(along * study.container_px), "yours", "Where you put the line."
    )
    truth = question.truth
    if "along" in truth:
        low = high = truth["along"] / study.container_px
        drawn = [
            EvidenceMark(
                "bracket",
                (study.rim, study.at(n * study.container_px)),
                f"{n}",
                f"{n} container heights over the rim.",
            )
            for n in (1.0, question.given["times"])
        ]
        drawn.append(
            EvidenceMark(
                "line",
                study.level(truth["along"]),
                f"{question.given['times']}",
                "Where it reaches.",
            )
        )
        at = f"{question.given['times']} container heights"
    else:
        low, high = (truth[k] / study.container_px for k in ("low", "high"))
        drawn = [
            EvidenceMark("line", study.level(truth[k]), "", f"The band's {word} edge.")
            for k, word in (("low", "lower"), ("high", "upper"))
        ]
        at = "the band"
    off = along - low if along < low else along - high if along > high else 0.0
    drawn.append(EvidenceMark("bracket", (study.base, study.rim), "1", "The container."))
    if abs(off) < 0.005:
        words = f"Your line lies in {at}." if low != high else f"Your line lies on {at}."
    else:
        way = "above" if off > 0 else "below"
        words = f"Your line lies {_figure(kind, off)} {way} {at}."
    return _numeric(kind, off, off, words, 1, drawn, [own])


def _upright(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    across = study.across(_spot(study, answer))
    off = across / study.rim_px
    top = 1.05 * study.plant_px
    line = EvidenceMark("line", (study.base, study.at(top)), "axis", "The container's axis.")
    own = EvidenceMark(
        "dashed",
        (study.at(-study.container_px, across), study.at(top, across)),
        "yours",
        "Where you put the axis.",
    )
    if abs(off) < 0.005:
        words = "Your line lies on the axis."
    else:
        side = "right" if off > 0 else "left"
        words = f"Your line lies {_figure(kind, off)} to the {side} of the axis."
    return _numeric(kind, off, off, words, 1, [line], [own])


def _place(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    spot = _spot(study, answer)
    own = EvidenceMark("cross", (spot,), "yours", "Where you put the cross.")
    if "at" in question.truth:
        true = parsed_spot(question.truth["at"])
        drawn = [
            *study.marks.get("eye_distance" if kind.code == "eye" else "left_weight_share", ())
        ]
        off = math.dist(spot, true) / study.plant_px
        up = (study.along(spot) - study.along(true)) / study.plant_px
        words = f"Your cross lies {_figure(kind, off)} from {_PLACE[kind.code]}"
        if abs(up) > 0.03:
            words += ", too high" if up > 0 else ", too low"
        return _numeric(kind, off, up, words + ".", 2, drawn, [own])
    zone = question.truth
    along, across = study.along(spot), study.across(spot)
    up = max(zone["low"] - along, 0, along - zone["high"])
    side = max(abs(across) - zone["aside"], 0)
    off = math.hypot(up, side) / study.plant_px
    corners = tuple(
        study.at(a, c)
        for a, c in (
            (zone["low"], -zone["aside"]),
            (zone["high"], -zone["aside"]),
            (zone["high"], zone["aside"]),
            (zone["low"], zone["aside"]),
        )
    )
    drawn = [EvidenceMark("outline", corners, "zone", "Where the focal flower belongs.")]
    if off < 0.005:
        words = "Your cross lies in the zone."
    else:
        way = "" if not up else " It is too high." if along > zone["high"] else " It is too low."
        words = f"Your cross lies {_figure(kind, off)} outside the zone.{way}"
    return _numeric(kind, off, None, words, 1, drawn, [own])


_PLACE = {"weight": "the balance point", "eye": "where the eye lands"}


def _fault(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    spots = [parsed_spot(s) for s in question.truth["spots"]]
    drawn = [
        EvidenceMark("ring", (s,), kind.fault if n == 0 else "", f"The {kind.fault}.", _ring(study))
        for n, s in enumerate(_few(spots))
    ]
    if answer.get("none"):
        right, own = not spots, []
        words = "Right: there is none." if right else f"There is one: the {kind.fault} is ringed."
    else:
        spot = _spot(study, answer)
        own = [EvidenceMark("cross", (spot,), "yours", "Where you put the cross.")]
        near = NEAR * study.plant_px * (1.6 if kind.code == "hole" else 1)
        right = any(math.dist(spot, s) <= near for s in spots)
        words = (
            f"Right: that is the {kind.fault}."
            if right
            else f"Not there: the {kind.fault} is ringed."
            if spots
            else "There is none here."
        )
    seen = Seen(kind.skill, right=right, strength=question.strength, guess=kind.guess, graded=False)
    return Outcome(None, None, right, words, (seen,), (tuple(drawn),), (tuple(own),))


def _few(spots: list[Point]) -> list[Point]:
    """Those of a row of places that are ringed: a line's middle, or each of a few."""
    return spots if len(spots) <= 2 else [spots[len(spots) // 2]]


def _ring(study: Study) -> float:
    return round(0.06 * study.plant_px, 1)


def _share(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    left = float(answer["left"])
    if not 0 <= left <= 100:
        raise BadAnswer("Give a share from 0 to 100 per cent.")
    off = left - question.truth["left"]
    drawn = study.marks.get("left_weight_share", ())
    true = question.truth["left"]
    words = f"The left carries {true:.0f} % of the weight; you said {left:.0f} %."
    return _numeric(kind, off, off, words, 1, drawn, [])


def _shares(kind, question, studies, answer) -> Outcome:
    given, true = [float(v) for v in answer["shares"]], question.truth["shares"]
    fits = len(given) == len(true) and all(0 <= v <= MOST for v in given)
    if not fits or sum(given) <= 0:
        raise BadAnswer("Give each colour a share; together they make 100 per cent.")
    given = [100 * v / sum(given) for v in given]
    off = 0.5 * sum(abs(a - b) for a, b in zip(given, true, strict=True))
    lines = ", ".join(
        f"{c['name']} {t:.0f} % (you said {g:.0f} %)"
        for c, t, g in zip(question.given["colours"], true, given, strict=True)
    )
    words = f"{off:.0f} of 100 parts lie with another colour. {lines[0].upper()}{lines[1:]}."
    return _numeric(kind, off, None, words, 1, (), ())


def _choice(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    choice, true = str(answer["choice"]), question.truth["choice"]
    if choice not in question.given["choices"]:
        raise BadAnswer("Choose one of the answers.")
    right = choice == true
    drawn: tuple[EvidenceMark, ...] = ()
    if "value" in question.truth:
        t = question.truth
        words = (
            f"{'Right' if right else 'No'}: it stands {t['value']:.2f} container heights over the"
            f" rim, and the band runs from {t['low']:.2f} to {t['high']:.2f}."
        )
        drawn = (
            *study.marks.get("height_ratio", ()),
            *(
                EvidenceMark(
                    "line", study.level(t[k] * study.container_px), "", "Edge of the band."
                )
                for k in ("low", "high")
            ),
        )
    else:
        words = f"{'Right' if right else 'No'}: the scheme is {true}."
    seen = Seen(
        kind.skill,
        right=right,
        strength=question.strength,
        guess=kind.guess,
        graded="value" in question.truth,
    )
    return Outcome(None, None, right, words, (seen,), (drawn,), ((),))


# What is said of two pieces that are compared, by kind.
_COMPARED = {
    "higher": "A stands {0:.2f} container heights over its rim, B {1:.2f}.",
    "heavier": "A carries {0:.0%} of its weight on one side, B {1:.0%}.",
    "fuller": "A fills {0:.0%} of its outline, B {1:.0%}.",
}


def _pair(kind, question, studies, answer) -> Outcome:
    choice = int(answer["choice"])
    if choice not in (0, 1):
        raise BadAnswer("Choose A or B.")
    true, values = question.truth["choice"], question.truth["values"]
    right = choice == true
    said = _COMPARED[kind.code].format(*values).replace("%", "\u00a0%")
    words = f"{'Right' if right else 'No'}: {said}"
    seen = Seen(kind.skill, right=right, strength=question.strength, guess=kind.guess)
    drawn = tuple(tuple(s.marks.get(_DRAWN[kind.code], ())) for s in studies)
    return Outcome(None, None, right, words, (seen,), drawn, ((), ()))


_DRAWN = {
    "higher": "height_ratio",
    "heavier": "left_weight_share",
    "fuller": "outline_fill",
    "order": "height_ratio",
}


def _order(kind, question, studies, answer) -> Outcome:
    order, true = [int(n) for n in answer["order"]], list(question.truth["order"])
    if sorted(order) != sorted(true):
        raise BadAnswer("Put each of the five in one place.")
    values = question.truth["values"]
    place = {n: i for i, n in enumerate(order)}
    pairs = [(a, b) for i, a in enumerate(true) for b in true[i + 1 :]]
    wrong = sum(place[a] > place[b] for a, b in pairs)
    named = ", ".join(f"{'ABCDE'[n]} {values[n]:.2f}" for n in true)
    how = f"{wrong} of {len(pairs)} pairs are the wrong way round" if wrong else "All in order"
    words = f"{how}: {named} container heights."
    # Neighbours only: the other pairs follow from them.
    seen = tuple(
        Seen(
            kind.skill,
            right=place[a] < place[b],
            strength=(values[a] - values[b]) / kind.scale,
            guess=0.5,
        )
        for a, b in pairwise(true)
    )
    drawn = tuple(tuple(s.marks.get(_DRAWN[kind.code], ())) for s in studies)
    return Outcome(None, None, not wrong, words, seen, drawn, ((),) * len(studies))


def _cut(kind, question, studies, answer) -> Outcome:
    (study,) = studies
    tip, low, high = (question.truth[k] for k in ("from", "low", "high"))
    band = [
        EvidenceMark("line", study.level(at), "", f"The band's {word} edge.")
        for at, word in ((low, "lower"), (high, "upper"))
    ]
    one = study.container_px
    if answer.get("none"):
        if tip is None:
            return _numeric(kind, 0.0, 0.0, "Right: nothing is to be cut.", 1, band, [])
        off = (study.along(parsed_spot(tip)) - high) / one
        words = f"The tallest tip stands {_figure(kind, off)} above the band: cut it."
        ring = EvidenceMark("ring", (parsed_spot(tip),), "cut", "The tip to cut.", _ring(study))
        return _numeric(kind, off, off, words, 1, [*band, ring], [])
    start, end = _spot(study, answer, "from"), _spot(study, answer, "to")
    own = [EvidenceMark("dashed", (start, end), "yours", "Your cut.")]
    along = study.along(end)
    if tip is None:
        off = (low - along) / one if along < low else (study.along(start) - along) / one
        words = "Nothing is to be cut: the tallest tip lies in the band."
        return _numeric(kind, max(off, kind.scale), -off, words, 1, band, own)
    tip = parsed_spot(tip)
    ring = EvidenceMark("ring", (tip,), "cut", "The tip to cut.", _ring(study))
    if math.dist(start, tip) > ON_TIP * study.plant_px:
        off = (study.along(tip) - high) / one
        words = "Another tip is the tallest: it is ringed, and it is the one to cut."
        return _numeric(kind, max(off, kind.scale), None, words, 1, [*band, ring], own)
    off = (along - high if along > high else along - low if along < low else 0.0) / one
    if abs(off) < 0.005:
        words = "Right: the stem then ends in the band."
    else:
        way = "above" if off > 0 else "below"
        words = f"The stem then ends {_figure(kind, off)} {way} the band."
    return _numeric(kind, off, off, words, 1, [*band, ring], own)


_JUDGE = {
    "level": _level,
    "upright": _upright,
    "place": _place,
    "fault": _fault,
    "share": _share,
    "shares": _shares,
    "choice": _choice,
    "pair": _pair,
    "order": _order,
    "cut": _cut,
}


def same_measure(kind: Kind, study: Study) -> tuple[str, float | None, tuple[EvidenceMark, ...]]:
    """The measure that a kind of exercise is about, on another piece: its name, its value (None
    where it was not made), and what is drawn of it.
    """
    names = (COMPARED.get(kind.code, ""), *kind.measures)
    for name in names:
        if name in study.values:
            drawn = study.marks.get(name) or study.marks.get(_DRAWN.get(kind.code, ""), ())
            return name, study.values[name], tuple(drawn)
    return "", None, ()
