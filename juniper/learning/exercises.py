"""Setting an exercise: which pictures suit a kind, what is asked, and the true answer."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np

from juniper.learning.kinds import COMPARED, KIND, Kind
from juniper.learning.study import Study
from juniper.rules import Brief, Rule, RuleSet
from juniper.values import Point

TIMES = (1.5, 2.0)  # container heights that are asked for, the edges of the usual band
CLOSE = 0.1  # of a beginner's error: pairs that lie closer are not asked, they have no sure answer
ALIKE = 0.05  # container heights: the plant's height counted by either dimension is one
NEAR_EDGE = 0.15  # of a beginner's error, likewise for a value and the edge of its band
WITHIN = ("too low", "right", "too high")
SCHEMES = (
    "monochromatic",
    "analogous",
    "complementary",
    "split-complementary",
    "triadic",
    "polychromatic",
    "white-green",
)
# How plainly a scheme shows, in times of what a beginner just sees: by how far its steps lie apart
# from the next scheme's (from memory).
PLAIN = {
    "monochromatic": 1.6,
    "white-green": 1.8,
    "complementary": 1.2,
    "polychromatic": 1.2,
    "analogous": 1.0,
    "triadic": 1.0,
    "split-complementary": 0.7,
}
# The same for faults made on purpose, and for finding that there is none.
SHOWS = {
    "gap": 1.7,
    "stray accent": 1.3,
    "bare stem": 1.2,
    "twin tips": 1.0,
    "crossing stems": 1.0,
    "": 0.9,
}
# A measure at which a piece surely has none of the fault, though it was not made without it.
NONE_AT = {
    "twin tips": ("twin_tips", 0.0),
    "stray accent": ("stray_accents", 0.0),
    "gap": ("largest_gap", 0.02),
    "bare stem": ("bare_stem", 0.2),
    "crossing stems": ("stems_crossing", 0.0),
}


class DoesNotSuit(ValueError):
    """A picture gives no occasion for a kind of exercise."""


@dataclass(frozen=True)
class Question:
    """What is asked of some pictures: `given` is shown with it, `truth` is not until it is
    answered. `strength` is how far the case lies from the edge of being told, in a beginner's
    errors; 1 where any picture is as hard.
    """

    kind: str
    given: Mapping[str, Any] = field(default_factory=dict)
    truth: Mapping[str, Any] = field(default_factory=dict)
    strength: float = 1.0

    @property
    def of(self) -> Kind:
        """Its kind."""
        return KIND[self.kind]

    def as_document(self) -> dict[str, Any]:
        """For JSON: Question(**document) reads it back."""
        return asdict(self)


def rule_for(kind: Kind, rules: RuleSet, form: str = "") -> Rule | None:
    """The rule of a rule set that a kind of exercise teaches, as it is in force for a form; None
    where the school has none.
    """
    brief = Brief(form=form or "free")
    for measure in kind.measures:
        for rule in rules.rules:
            if rule.measure == measure and rule.applies(brief) and not rule.stage:
                return rule.under(brief)
    return None


def height_band(study: Study, rules: RuleSet) -> tuple[float, float] | None:
    """Between which heights over the rim a school has the tallest tip, in container heights; None
    where it sets none, or none that a picture from the front can show.
    """
    rule = rule_for(KIND["tip"], rules, study.form)
    if rule is None or rule.measure == "table_height":
        return None
    value = study.values.get(rule.measure)
    if not value or not math.isfinite(rule.band.low) or not math.isfinite(rule.band.high):
        return None
    one = study.plant_px / value / study.container_px  # the measure's unit in container heights
    return rule.band.low * one, rule.band.high * one


def suits(kind: Kind, study: Study, rules: RuleSet) -> bool:
    """Whether a picture can be asked about (for comparing: be one of those compared)."""
    try:
        _single(kind, study, rules, np.random.default_rng(0))
    except DoesNotSuit:
        return False
    return True


def ask(kind: Kind, studies: Sequence[Study], rules: RuleSet, rng: np.random.Generator) -> Question:
    """The exercise of a kind on some pictures. Raises DoesNotSuit where they give no occasion for
    it, ValueError for another number of pictures than the kind shows.
    """
    if len(studies) != kind.pictures:
        raise ValueError(f"{kind.title} shows {kind.pictures} pictures.")
    if kind.pictures == 1:
        return _single(kind, studies[0], rules, rng)
    values = [_compared(kind, s) for s in studies]
    apart = min(abs(a - b) for n, a in enumerate(values) for b in values[:n]) / kind.scale
    if apart < CLOSE:
        raise DoesNotSuit("They are too much alike to be told apart.")
    if kind.pictures == 2:
        return Question(
            kind.code, {}, {"choice": int(values[1] > values[0]), "values": values}, apart
        )
    order = sorted(range(len(values)), key=lambda n: -values[n])
    return Question(kind.code, {}, {"order": order, "values": values}, apart)


def _taller_than_wide(study: Study) -> bool:
    """Whether the container is higher than it is broad, so that its height is what is counted."""
    ratio, governing = (study.values.get(n) for n in ("height_ratio", "governing_ratio"))
    return ratio is None or governing is None or abs(ratio - governing) < ALIKE


def _compared(kind: Kind, study: Study) -> float:
    if COMPARED[kind.code] == "height_ratio_image" and not _taller_than_wide(study):
        raise DoesNotSuit("Its container is broader than high.")
    value = study.values.get(COMPARED[kind.code])
    if value is None:
        raise DoesNotSuit("What is compared was not measured.")
    return value


def _single(kind: Kind, study: Study, rules: RuleSet, rng: np.random.Generator) -> Question:
    if kind.pictures > 1:
        _compared(kind, study)
        return Question(kind.code)
    if kind.fault:
        return _fault(kind, study)
    return _ASK[kind.code](kind, study, rules, rng)


def _reach(kind, study, rules, rng) -> Question:
    if not _taller_than_wide(study):
        raise DoesNotSuit("Its container is broader than high.")
    fitting = [t for t in TIMES if study.inside(study.at(t * study.container_px))]
    if not fitting:
        raise DoesNotSuit("The height lies outside the picture.")
    times = fitting[int(rng.integers(len(fitting)))]
    return Question(kind.code, {"times": times}, {"along": times * study.container_px})


def _tip(kind, study, rules, rng) -> Question:
    band = height_band(study, rules)
    if band is None:
        raise DoesNotSuit("The school sets no band of height.")
    low, high = (edge * study.container_px for edge in band)
    if not study.inside(study.at(high)):
        raise DoesNotSuit("The band reaches out of the picture.")
    return Question(kind.code, {}, {"low": low, "high": high})


def _band(kind, study, rules, rng) -> Question:
    band = height_band(study, rules)
    if band is None:
        raise DoesNotSuit("The school sets no band of height.")
    value = study.plant_px / study.container_px
    low, high = band
    far = min(abs(value - low), abs(value - high)) / kind.scale
    if far < NEAR_EDGE:
        raise DoesNotSuit("It lies on the edge of the band.")
    answer = WITHIN[0] if value < low else WITHIN[2] if value > high else WITHIN[1]
    return Question(
        kind.code,
        {"choices": WITHIN},
        {"choice": answer, "value": value, "low": low, "high": high},
        far,
    )


def _axis(kind, study, rules, rng) -> Question:
    return Question(kind.code, {}, {"across": 0.0})


def _weight(kind, study, rules, rng) -> Question:
    if study.weight is None:
        raise DoesNotSuit("Its weight was not measured.")
    return Question(kind.code, {}, {"at": study.weight})


def _share(kind, study, rules, rng) -> Question:
    share = study.values.get("left_weight_share")
    if share is None:
        raise DoesNotSuit("Its weight was not measured.")
    return Question(kind.code, {}, {"left": round(100 * share, 1)})


def _eye(kind, study, rules, rng) -> Question:
    if study.eye is None:
        raise DoesNotSuit("Where the eye lands was not measured.")
    return Question(kind.code, {}, {"at": study.eye})


def _focal(kind, study, rules, rng) -> Question:
    rule = rule_for(kind, rules, study.form)
    if rule is None or rule.measure != "focal_height" or "asymmetr" in study.form:
        raise DoesNotSuit("The school sets no place for it.")
    high = study.plant_px
    half = 0.5 * (study.across(study.right) - study.across(study.left))
    aside = next(
        (
            r.under(Brief(form=study.form))
            for r in rules.rules
            if r.measure == "focal_offset" and r.applies(Brief(form=study.form))
        ),
        None,
    )
    if aside is None or not math.isfinite(aside.band.high):
        raise DoesNotSuit("The school sets no place for it.")
    zone = {
        "low": rule.band.low * high,
        "high": min(rule.band.high, 1.0) * high,
        "aside": aside.band.high * half,
    }
    return Question(kind.code, {}, zone)


def _fault(kind, study) -> Question:
    if kind.fault in study.faults:
        spots = study.spots.get(kind.fault, ())
        if not spots or not all(study.inside(s) for s in spots):
            raise DoesNotSuit("Where the fault lies is not known.")
        return Question(kind.code, {}, {"spots": spots}, SHOWS[kind.fault])
    measure, most = NONE_AT[kind.fault]
    if not study.exact or study.values.get(measure, math.inf) > most:
        raise DoesNotSuit("That it has none is not sure.")
    return Question(kind.code, {}, {"spots": ()}, SHOWS[""])


def _scheme(kind, study, rules, rng) -> Question:
    if study.scheme not in SCHEMES or "stray accent" in study.faults:
        raise DoesNotSuit("Its scheme is none of those that are asked.")
    return Question(kind.code, {"choices": SCHEMES}, {"choice": study.scheme}, PLAIN[study.scheme])


def _shares(kind, study, rules, rng) -> Question:
    if len(study.colours) < 2:
        raise DoesNotSuit("It has one colour.")
    colours = sorted(study.colours, key=lambda c: c.hex)  # in no order that tells the answer
    percent = [100 * c.share for c in colours]
    return Question(
        kind.code,
        {"colours": [{"hex": c.hex, "name": c.name} for c in colours]},
        {"shares": [round(p, 1) for p in percent]},
    )


def _cut(kind, study, rules, rng) -> Question:
    band = height_band(study, rules)
    if band is None:
        raise DoesNotSuit("The school sets no band of height.")
    value = study.plant_px / study.container_px
    low, high = band
    far = abs(value - high) / kind.scale
    if far < NEAR_EDGE or value < low:
        raise DoesNotSuit("Whether there is anything to cut is not sure.")
    return Question(
        kind.code,
        {},
        {
            "from": study.top if value > high else None,
            "low": low * study.container_px,
            "high": high * study.container_px,
        },
    )


_ASK = {
    "reach": _reach,
    "tip": _tip,
    "band": _band,
    "axis": _axis,
    "weight": _weight,
    "share": _share,
    "eye": _eye,
    "focal": _focal,
    "scheme": _scheme,
    "shares": _shares,
    "cut": _cut,
}

PROMPTS = {
    "reach": "Drag the line to where {times} container heights over the rim would reach.",
    "tip": "Drag the line to where the tallest tip should end, as {school} teaches it.",
    "band": "How does the tallest tip stand, as {school} teaches it?",
    "axis": "Drag the line to the container's own middle.",
    "weight": "Put the cross where the whole plant would balance.",
    "share": "How much of the plant's weight lies on the left of the axis?",
    "eye": "Put the cross where your eye lands first.",
    "focal": "Put the cross where the focal flower belongs.",
    "twins": "Put the cross on one of the twin tips, or say that there are none.",
    "stray": "Put the cross on the stray accent, or say that there is none.",
    "hole": "Put the cross in the hole, or say that there is none.",
    "bare": "Put the cross on the bare stem, or say that there is none.",
    "crossing": "Put the cross where two stems cross, or say that none do.",
    "scheme": "Which colour scheme is it? Green leaves do not count.",
    "shares": "How much of all flower is each colour?",
    "higher": "Which stands higher over its container, counted in its own container's height?",
    "heavier": "Which carries more of its weight on one side?",
    "fuller": "Which fills its outline more?",
    "order": "Put the five in order, the highest over its own container first.",
    "cut": "Drag from the tip that you would cut down to where it should end.",
}


def prompt(question: Question, rules: RuleSet) -> str:
    """What the learner is asked to do, in words."""
    words = {"school": rules.name, **{k: v for k, v in question.given.items() if k == "times"}}
    return PROMPTS[question.kind].format(**words)


def parsed_spot(value: Any) -> Point:
    """A place that came as [x, y]. Raises ValueError for anything else."""
    x, y = (float(v) for v in value)
    if not (math.isfinite(x) and math.isfinite(y)):
        raise ValueError("a place is two finite numbers")
    return x, y
