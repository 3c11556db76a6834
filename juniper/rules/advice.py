"""What to do about a line that lost marks, and the one next cut: in lengths a person can measure,
and never one that a doubtful picture asks for.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from juniper.lengths import length, number
from juniper.measures.finding import Measured
from juniper.measures.measuring import Findings
from juniper.rules.document import BLANK, Brief, Rule, fill_advice
from juniper.rules.written import bare_value, edge_words, per_cent, unit_once, value_words


@dataclass(frozen=True)
class AdviceSettings:
    """What is worth a cut, and how it is told.

    Common practice where no source is named.
    """

    slight: float = 0.1  # cm that are told in figures
    half: float = 0.5  # cm: what a cut is rounded to (common practice)
    # times its own standard uncertainty that a cut must be to be advised: 95 in 100 (JCGM 100:2008,
    # G.1.3)
    sure: float = 2.0
    # of the plant's height: who is told to cut more has wrong handles before them
    most_cut: float = 0.75
    # cm: longer stems are not sold (common practice); a wish for more is a wrong figure
    longest: float = 120.0
    tip_over: float = 1.0  # cm: a tip that stands higher by no more needs no cut of its own
    most_tips: int = 12  # that are tried at once: more would be another piece
    # of plant height, and cm: what tells two tips apart (twice the handbook's .04)
    twin_step: float = 0.08
    twin_least: float = 1.5


ADVICE = AdviceSettings()


# What one unit of a measure is in centimetres: of which of the piece's lengths it is a part.
UNITS = {
    "height_ratio": "container",
    "governing_ratio": "governing",
    "width_ratio": "width",
    "table_height": "cm",
    "main_stem_width": "width",
    "largest_bloom": "width",
    "focal_height": "plant",
    "eye_distance": "plant",
    "tip_step": "plant",
    "clearance": "plant",
    "bare_stem": "plant",
    "foot_spread": "width",
    "focal_offset": "half",
}
WORDS = {
    "container": "{} of the container's height",
    "governing": "{} of the container's larger side",
    "width": "{} of the container's width",
    "plant": "{} of the plant's height",
    "half": "{} of half the plant's width",
}
CUTS = frozenset(
    {"height_ratio", "governing_ratio", "table_height", "clearance", "main_stem_width"}
)  # too much of them is cut off
MEASURE_FIRST = (
    "Measure before you cut: hold a ruler to the container and to the tallest stem, then cut only"
    " what it shows."
)
CONFIRM_FIRST = (
    "It is not sure where the container begins and ends. Correct the handles, or say that they"
    " are right; until then no cut is advised."
)


@dataclass(frozen=True)
class NextCut:
    """The one thing to change first. `cm` is the length to take off the stem, or the room left;
    `ghost` the height ratio that the piece then has; `worse` are the rules that it would lower, in
    words, and `gain` what the total gains by it, where it was tried. `cuts` are the tips that must
    come down for that (photograph pixels), the tallest first, each with what is cut off its stem,
    cm. `rule` is the code of the rule that it is to mend, '' where it is about none.
    """

    text: str
    cm: float | None
    ghost: float | None = None
    worse: tuple[str, ...] = ()
    gain: float | None = None
    cuts: tuple[tuple[tuple[float, float], float], ...] = ()
    rule: str = ""


def action_of(template: str) -> str:
    """What a line of advice says to do, without the clause that tells the value.

    Args:
        template: a rule's advice, its blanks not filled yet.

    Returns:
        What follows the clause with {value}, with a capital; the whole line where it has no such
        clause, or nothing follows it.

    >>> action_of("The left is heavy ({value} of the weight). Move a bloom across.")
    'Move a bloom across.'
    >>> action_of("Take {cm} off the tallest stem.")
    'Take {cm} off the tallest stem.'
    """
    if "{value}" not in template:
        return template
    after = re.search(r"[;:.]\s+(?=\S)", template[template.index("{value}") :])
    if after is None:
        return template
    rest = template[template.index("{value}") + after.end() :]
    return rest[0].upper() + rest[1:]


def said_no(rule: Rule) -> str:
    """What to do where a person answered no: a rule's advice without the figure that the answer has
    not; '' where nothing is left of it without figures.
    """
    text = action_of(rule.below)
    return "" if BLANK.search(text) else text


def advice_for(
    rule: Rule, findings: Findings, finding: Measured, brief: Brief, only_action: bool = False
) -> str:
    """The rule's line of advice for a value outside its band, its blanks filled: {value}, {low},
    {high}; {cm} by how much to change it; which {side} is meant and the {other}. '' where the rule
    has none. With `only_action` what it says to do, without the value.
    """
    value, band = finding.value, rule.band
    text = rule.below if value < band.low else rule.above
    if not text:
        return ""
    if only_action:
        text = action_of(text)
    down = value > band.high
    if (
        down
        and "{cm}" in text
        and rule.measure in CUTS
        and not sure_enough(findings, finding, value - band.high)
    ):
        return CONFIRM_FIRST if findings.needs_check else MEASURE_FIRST
    text = unit_once(text, finding.unit)
    share = findings.measured("left_weight_share")
    left = share is None or share.value >= 0.5
    figures = {
        "value": bare_value(value, finding.unit),
        "low": edge_words(band.low, finding.unit),
        "high": edge_words(band.high, finding.unit),
        "cm": _by_how_much(rule, findings, value, brief),
        "side": "left" if left else "right",
        "other": "right" if left else "left",
        "swap": findings.swap or "two vessels",
    }
    return fill_advice(text, figures)


def sure_enough(findings: Findings, finding: Measured, step: float) -> bool:
    """Whether a step of a measure may be asked for: its datum is not doubtful, and the step is
    `sure` times its uncertainty.
    """
    return not findings.needs_check and step >= ADVICE.sure * finding.uncertainty


def goals(rule: Rule, finding: Measured) -> str:
    """Which figure earns 8 of ten and which 10, in the measure's own unit; '' inside the band."""
    good, full = (rule.band.earning(part, finding.value) for part in (0.8, 1.0))
    if good is None or full is None or not math.isfinite(good):
        return ""
    unit = " L*" if finding.unit == "L*" else ""
    some, all_ = (value_words(v, finding.unit) + unit for v in (good, full))
    way = "less" if finding.value > rule.band.high else "more"
    if some == all_:
        return f"{all_} or {way} earns 10."
    return f"{some} earns 8 of 10, {all_} or {way} earns 10."


def length_of(measure: str, findings: Findings, brief: Brief) -> float | None:
    """What one unit of a measure is, cm; None where the container's height is not known or the
    measure is no length.
    """
    height = findings.measured("height_ratio")
    if measure not in UNITS or not brief.container_height_cm or height is None:
        return None
    plant = height.value * brief.container_height_cm

    def over(name: str) -> float | None:
        found = findings.measured(name)
        return found.value if found is not None and found.value else None

    spread, wide, governing = over("spread"), over("width_ratio"), over("governing_ratio")
    return {
        "cm": 1.0,
        "container": brief.container_height_cm,
        "plant": plant,
        "governing": plant / governing if governing else None,
        "half": plant * spread / 2 if spread else None,
        "width": plant * spread / wide if spread and wide else None,
    }[UNITS[measure]]


def _by_how_much(rule: Rule, findings: Findings, value: float, brief: Brief) -> str:
    """A step to the band's edge in centimetres; where lengths are not known, as a part of the
    length that the measure counts in.
    """
    band, down = rule.band, value > rule.band.high
    step = drop(rule.measure, value, band.high) if down else band.low - value
    unit = length_of(rule.measure, findings, brief)
    if unit is None:
        kind = UNITS.get(rule.measure, "")
        if kind == "cm":
            return length(step)
        return WORDS[kind].format(per_cent(step)) if kind in WORDS else f"{step:.2g}"
    by = step * unit
    if down and rule.measure in CUTS:
        by = cut_length(by, findings.lean, (band.high - band.low) * unit)
    return length(by) if by >= ADVICE.slight else "less than a millimetre"


def drop(measure: str, value: float, high: float) -> float:
    """By how much the tallest must come down, in the measure's unit, for it to stand at `high`.

    How far it clears the rest changes with its own height: of a plant h high whose tallest stands c
    h over the rest, the rest is (1 - c) h high, and the tallest stands `high` over it when it is (1
    - c) h / (1 - high).
    """
    if measure == "clearance":
        return 1 - (1 - value) / (1 - high)
    return value - high


def cut_length(lower: float, lean: float, room: float) -> float:
    """What to cut off a stem that leans by `lean` degrees so that its tip comes down by `lower` cm:
    up to the next half centimetre, where the band's width (`room`, cm) has room for that, so that
    the rule is met afterwards.

    >>> cut_length(3.2, 0.0, 1.0)
    3.5
    """
    along = lower / math.cos(math.radians(min(abs(lean), 75.0)))
    rounded = math.ceil(along / ADVICE.half - 1e-9) * ADVICE.half
    return rounded if rounded - along <= max(room, 0.0) / 2 else math.ceil(along * 10 - 1e-9) / 10


def next_cut(findings: Findings, lines, brief: Brief) -> NextCut:
    """One next cut, in centimetres when the container's height is known, of the verdict's `lines`.

    Too tall: what to take off the tallest. Twin tips: shorten one. Too short: stems do not grow
    back, so a container that would suit. In the band: the room that is left. Where handles are
    doubtful, or the step lies within twice its uncertainty, it says to measure first.
    """
    tall = next(
        (
            x
            for x in lines
            if x.rule.measure in ("governing_ratio", "height_ratio")
            and isinstance(x.finding, Measured)
        ),
        None,
    )
    if findings.needs_check and tall is not None:
        return NextCut(CONFIRM_FIRST, None)
    waived = tall is not None and tall.state == "waived"
    height, container = findings.measured("height_ratio"), brief.container_height_cm
    if tall is None or height is None or not container or tall.finding.value <= 0:
        # nothing stands over the rim
        return _nothing_measured(lines)
    plant_cm = height.value * container
    governing = plant_cm / tall.finding.value
    value, band = tall.finding.value, tall.rule.band
    error = tall.finding.uncertainty * governing
    if not waived and value > band.high:
        return _shorter(findings, tall, plant_cm, governing, container)
    twins = findings.measured("twin_tips")
    if twins is not None and twins.value:
        cut = max(_half_down(ADVICE.twin_step * plant_cm), ADVICE.twin_least)
        words = (
            f"Two tips are of one height. Shorten one of them by {length(cut)} or more, so that"
            " long, medium and short can be told apart."
        )
        code = next((x.rule.code for x in lines if x.rule.measure == "twin_tips"), "")
        return NextCut(words, cut, rule=code)
    if not waived and value < band.low:
        return _too_short(tall, plant_cm, governing)
    return _room_left(
        lines, _half_down(max(0.0, (value - band.low) * governing - ADVICE.sure * error))
    )


def _nothing_measured(lines) -> NextCut:
    chief = costliest(lines)
    if chief is None:
        return NextCut("Nothing to cut: no length could be measured.", None)
    return NextCut(chief.advice, None, rule=chief.rule.code)


def _room_left(lines, room: float) -> NextCut:
    """What to mend first, and how much (cm) the tallest stem may lose."""
    chief = costliest(lines)
    first = (
        "Leave the height as it is"
        if chief is None or not chief.advice
        else f"{chief.rule.title}: {_small(chief.to_do).rstrip('.')}"
    )
    code = chief.rule.code if chief is not None and chief.advice else ""
    if room < ADVICE.half:
        return NextCut(f"{first}. Take nothing off the tallest stem.", None, rule=code)
    return NextCut(
        f"{first}. The tallest stem may lose up to {length(room)} and still hold the proportion.",
        room,
        rule=code,
    )


def _small(text: str) -> str:
    return text[0].lower() + text[1:]


def _shorter(
    findings: Findings, tall, plant_cm: float, governing: float, container: float
) -> NextCut:
    value, band, error = tall.finding.value, tall.rule.band, tall.finding.uncertainty * governing
    lower = (value - band.high) * governing
    if (
        not sure_enough(findings, tall.finding, value - band.high)
        or lower > ADVICE.most_cut * plant_cm
    ):
        over = (
            f"The tallest stem stands {length(lower)} (±{number(error)}) over the band, which is"
            " too"
            " close to tell from the picture."
        )
        return NextCut(
            f"{over} {MEASURE_FIRST}" if lower <= ADVICE.most_cut * plant_cm else CONFIRM_FIRST,
            None,
            rule=tall.rule.code,
        )
    cut = cut_length(lower, findings.lean, (band.high - band.low) * governing)
    left = plant_cm - cut * math.cos(math.radians(min(abs(findings.lean), 75.0)))
    others = [
        (spot, tip * container - left)
        for tip, spot in zip(findings.tips, findings.tip_spots, strict=False)
    ][1:]
    also = sum(tip * container > left + ADVICE.tip_over for tip in findings.tips[1:])
    cuts = (
        (findings.top, cut),
        *(
            (spot, math.ceil(over * 10) / 10)
            for spot, over in others[: ADVICE.most_tips - 1]
            if over > 0.0
        ),
    )
    more = " Another tip stands" if also == 1 else f" {also} more tips stand" if also else ""
    return NextCut(
        f"Cut {length(cut)} (±{number(error)}) from the tallest stem: it then stands"
        f" {length(left)} over"
        f" the rim, {left / governing:.2f} times the container's {length(governing, 0)}."
        + (f"{more} over that height and must come down as well." if more else "")
        + " Cut a little, look, cut again.",
        cut,
        left / container,
        cuts=cuts,
        rule=tall.rule.code,
    )


def _too_short(tall, plant_cm: float, governing: float) -> NextCut:
    value, band, error = tall.finding.value, tall.rule.band, tall.finding.uncertainty * governing
    missing = (band.low - value) * governing
    if missing < ADVICE.sure * error:
        return NextCut(
            f"Cut nothing: the tallest stem is at the band's lower edge, {length(missing)}"
            f" (±{number(error)}) under it. Measure it with a ruler to be sure.",
            None,
            rule=tall.rule.code,
        )
    suits = plant_cm / ((band.low + min(band.high, 2 * band.low)) / 2)
    by = f"{length(missing)} (±{number(error)})" if missing <= ADVICE.longest else "much"
    return NextCut(
        f"Cut nothing: the tallest stem is {by} too short for this container, and stems do not grow"
        f" back. A container of about {length(suits, 0)} would suit it, or a taller line flower.",
        None,
        rule=tall.rule.code,
    )


def costliest(lines):
    """The line that costs the score most, of those with advice; None when there is none."""
    losing = [
        x for x in lines if x.score is not None and x.state in ("near", "missed") and x.advice
    ]
    return max(losing, key=lambda x: (10.0 - x.score) * x.rule.weight, default=None)


def _half_down(length: float) -> float:
    """Room is never told too large: rounded down to half a centimetre."""
    return math.floor(length / ADVICE.half) * ADVICE.half
