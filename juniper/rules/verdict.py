"""The verdict: findings held against a rule set under a brief."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from juniper.measures.catalogue import FAMILIES
from juniper.measures.counterweight import Addition
from juniper.measures.finding import Finding
from juniper.measures.measuring import Findings
from juniper.rules.document import Brief, Rule, RuleSet, fill_advice

OUT_OF = 10.0
STEADY, IN_DOUBT = 0.1, 0.25  # uncertainty of a scheme's fit, and of one that another light would make another
TIP_OVER = 1.0  # cm: a tip that stands higher by no more needs no cut of its own


@dataclass(frozen=True)
class Line:
    """One rule's outcome. `score` is out of ten, None when not measured or waived; `state` is met,
    near, missed, not measured or waived; `advice` says what to do, empty when the rule is met, and `addition` what to set opposite."""

    rule: Rule
    finding: Finding
    score: float | None
    state: str
    borderline: bool
    advice: str
    arithmetic: str
    overridden: str = ""
    addition: Addition | None = None


@dataclass(frozen=True)
class NextCut:
    """The one thing to change first. `cm` is the length to take off or the room left, if any."""

    text: str
    cm: float | None
    ghost: float | None = None


@dataclass(frozen=True)
class Group:
    """The mark of one family, out of ten: None when nothing in it was measured. `capped_by` names the rule that caps it, and `uncapped` is what
    it would be."""

    family: str
    lines: tuple[Line, ...]
    score: float | None
    weight: float
    capped_by: str = ""
    uncapped: float | None = None


@dataclass(frozen=True)
class Ceiling:
    """An instructor's word that a family's mark (out of ten), or with no `family` the whole (out of 100), is to be no more than `at`."""

    family: str
    at: float
    reason: str


@dataclass(frozen=True)
class Verdict:
    """All lines of a piece, its score out of 100, and the next cut.

    `uncertainty` is the standard uncertainty of the score, lines of a family taken to err together and families independently; `groups` are the marks by family, and `award` what
    the school calls such a total. `capped_by` is why the whole is held down, by an instructor's word or, where `unsafe` names the rule, for
    safety; `uncapped` is what it would be. `to_answer` are questions of safety that nobody answered: until then no award is given, and nothing
    is to be returned.
    """

    rule_set: RuleSet
    lines: tuple[Line, ...]
    score: float | None
    uncertainty: float
    next_cut: NextCut
    groups: tuple[Group, ...] = ()
    award: str = ""
    capped_by: str = ""
    uncapped: float | None = None
    ceilings: tuple[Ceiling, ...] = ()
    unsafe: str = ""
    to_answer: tuple[str, ...] = ()

    def family(self, name: str) -> tuple[Line, ...]:
        """Lines of one family."""
        return tuple(line for line in self.lines if line.rule.family == name)


@dataclass(frozen=True)
class Override:
    """An instructor's word on one rule: a score out of ten, or None to waive it, and the reason."""

    rule: str
    score: float | None
    reason: str


def judge(
    findings: Findings,
    rule_set: RuleSet,
    brief: Brief,
    overrides: tuple[Override, ...] = (),
    answers: dict[str, float] | None = None,
    ceilings: tuple[Ceiling, ...] = (),
) -> Verdict:
    """Hold findings against a rule set. Rules that the brief does not call for are left out; what was not measured, not answered (`answers`
    to checks by rule, 0..1) or is waived is left out of the weight and never scored as nought. `ceilings` come last, after the rules' own caps."""
    said, answers = {o.rule: o for o in overrides}, answers or {}
    rules = [rule.under(brief) for rule in rule_set.rules if rule.applies(brief)]
    lines = tuple(_override(_line(rule, findings, brief, answers), said.get(rule.code)) for rule in rules)
    groups = tuple(under(g, ceilings) for g in (group_of(family, lines) for family in FAMILIES) if g)
    counted = [g for g in groups if g.score is not None]
    weight = sum(g.weight for g in counted)
    score = 100 * sum(g.score * g.weight for g in counted) / (OUT_OF * weight) if weight else None
    # Lines of a family rest on the same handles and outline, so that they err together; families are taken as independent.
    spread = math.hypot(*(sum(_score_spread(x) * x.rule.weight for x in g.lines) for g in counted if not g.capped_by), 0.0)
    spread *= 100 / (OUT_OF * weight) if weight else 0.0
    least = min((g.score for g in counted), default=0.0)
    hurts = [x for x in lines if x.rule.safety is not None and x.score is not None and x.score < OUT_OF]
    worst = min(hurts, key=lambda x: x.rule.safety, default=None)
    to_answer = tuple(x.rule.check.ask for x in lines if x.rule.safety is not None and x.state == "not measured")
    safety = [Ceiling("", worst.rule.safety, worst.rule.title)] if worst else []
    whole = min((*safety, *(c for c in ceilings if not c.family)), key=lambda c: c.at, default=None)
    capped = whole is not None and score is not None and score > whole.at
    uncapped, score = (score, whole.at) if capped else (None, score)
    award = "" if to_answer or worst else rule_set.award(score, brief.pass_mark, least)
    cut = _next_cut(findings, lines, brief)
    return Verdict(
        rule_set, lines, score, 0.0 if capped else spread, cut, groups, award, whole.reason if capped else "", uncapped, ceilings,
        worst.rule.title if worst else "", to_answer,
    )  # fmt: skip


def under(group: Group, ceilings: tuple[Ceiling, ...]) -> Group:
    """The mark of a family under the lowest ceiling that was set for it."""
    lowest = min((c for c in ceilings if c.family == group.family), key=lambda c: c.at, default=None)
    if lowest is None or group.score is None or group.score <= lowest.at:
        return group
    uncapped = group.uncapped if group.uncapped is not None else group.score
    return replace(group, score=lowest.at, capped_by=lowest.reason, uncapped=uncapped)


def group_of(family: str, lines: tuple[Line, ...]) -> Group | None:
    """The mark of one family: the weighted mean of what counts in it, under the lowest cap that a failed rule sets."""
    own = tuple(line for line in lines if line.rule.family == family)
    if not own:
        return None
    counted = [line for line in own if line.score is not None]
    weight = sum(line.rule.weight for line in counted)
    if not weight:
        return Group(family, own, None, 0.0)
    score = sum(line.score * line.rule.weight for line in counted) / weight
    capping = [line for line in counted if line.rule.cap and line.score < line.rule.cap.below and line.rule.cap.at < score]
    lowest = min(capping, key=lambda line: line.rule.cap.at, default=None)
    if lowest is None:
        return Group(family, own, score, weight)
    return Group(family, own, lowest.rule.cap.at, weight, lowest.rule.title, score)


def _line(rule: Rule, findings: Findings, brief: Brief, answers: dict[str, float]) -> Line:
    if rule.measure == "scheme":
        return _scheme_line(rule, findings, brief)
    if rule.check:
        finding = _answered(rule, answers.get(rule.code))
    elif rule.measure in findings.by_name:
        finding = findings[rule.measure]
    else:
        finding = Finding.missing(rule.measure, rule.family, "", "this photograph was measured before the measure was known")
    if not finding.measured:
        return Line(rule, finding, None, "not measured", False, "", f"Not measured: {finding.reason}.")
    value, spread = finding.value, finding.uncertainty
    expected = rule.band.expected(value, spread)
    state = rule.band.state(value)
    advice = "" if state == "met" else (rule.below if value < rule.band.low else rule.above)
    words, addition = _fill(advice, rule, findings, value, brief), None
    if advice and findings.scales:
        addition = findings.scales.inside(rule.measure, value, rule.band.low, rule.band.high)
        if addition:
            words += " " + addition.words(findings.cm_per_px, math.dist(findings.left, findings.right))
    if advice and findings.colours:
        heads = findings.colours.heads(rule.measure, value, rule.band.low, rule.band.high)
        words += f" {heads}" if heads else ""
    sums = f"Held against {rule.band.words}: {OUT_OF * expected:.1f} of 10 expected over ±{spread:.2g}."
    if rule.check:
        sums = f"{OUT_OF * expected:.0f} of 10."
    return Line(
        rule,
        finding,
        OUT_OF * expected,
        state,
        rule.band.borderline(value, spread),
        words,
        f"{finding.arithmetic}. {sums}",
        addition=addition,
    )


ANSWERS = {1.0: "yes", 0.5: "in part", 0.0: "no"}


def _answered(rule: Rule, answer: float | None) -> Finding:
    """The finding of a check: what a person answered, by their own eye."""
    if answer is None:
        return Finding.missing("", rule.family, "answer", f"look and answer: {rule.check.ask}")
    word = next(w for value, w in ANSWERS.items() if abs(value - answer) < 0.01)
    return Finding(
        "",
        rule.family,
        float(answer),
        "answer",
        arithmetic=f"Answered by eye, {rule.check.ask[0].lower()}{rule.check.ask[1:]} {word.capitalize()}",
    )


def _scheme_line(rule: Rule, findings: Findings, brief: Brief) -> Line:
    """The wished scheme: its name found, weighed by how well the palette fits it."""
    scheme = findings.scheme
    if scheme is None or not brief.scheme:
        reason = "no flower colour was found" if scheme is None else "the brief asks for no scheme"
        return Line(
            rule, Finding.missing("scheme", "colour", "fit", reason), None, "not measured", False, "", f"Not measured: {reason}."
        )
    same = scheme.name == brief.scheme
    value = scheme.fit if same else 0.25 * (1 - scheme.fit)
    finding = Finding(
        "scheme",
        "colour",
        value,
        "fit",
        IN_DOUBT if scheme.under_other_light else STEADY,
        arithmetic=f"the palette makes {scheme.name}, {scheme.off_degrees:.0f}° off its shape"
        + (f"; the nearest other is {scheme.other}, {scheme.other_off:.0f}° off" if scheme.other else "")
        + (
            f"; under a light a little bluer or yellower it would be {scheme.under_other_light}"
            if scheme.under_other_light
            else ""
        ),
    )
    expected = rule.band.expected(value, finding.uncertainty)
    advice = "" if same else f"The brief asks for {brief.scheme}; the palette reads as {scheme.name}. {rule.below}"
    return Line(
        rule,
        finding,
        OUT_OF * expected,
        rule.band.state(value),
        rule.band.borderline(value, finding.uncertainty),
        advice,
        finding.arithmetic + ".",
    )


def _fill(text: str, rule: Rule, findings: Findings, value: float, brief: Brief) -> str:
    """Put figures into a line of advice: {value}, {low}, {high}; {cm} by how much to change, where lengths are known; and which {side} is
    meant and the {other}."""
    if not text:
        return ""
    edge = rule.band.low if value < rule.band.low else rule.band.high
    cm = _centimetres(rule.measure, abs(value - edge), value > edge, findings, brief)
    places = 0 if not rule.measure or findings[rule.measure].unit in ("count", "L*", "degrees", "cm") else 2
    share = findings.by_name.get("left_weight_share")
    left = share is None or not share.measured or share.value >= 0.5
    figures = {
        "value": f"{value:.{places}f}",
        "low": f"{rule.band.low:g}",
        "high": f"{rule.band.high:g}",
        "cm": cm or "the difference",
        "side": "left" if left else "right",
        "other": "right" if left else "left",
    }
    return fill_advice(text, figures)


SLIGHT = 0.1  # cm that are told in figures
# What one unit of a measure is in centimetres: of which of the piece's lengths it is a part.
UNITS = {
    "height_ratio": "container", "governing_ratio": "governing", "width_ratio": "width", "table_height": "cm",
    "main_stem_width": "width", "largest_bloom": "width", "focal_height": "plant", "eye_distance": "plant", "tip_step": "plant",
    "clearance": "plant", "bare_stem": "plant", "foot_spread": "width", "focal_offset": "half",
}  # fmt: skip


def _centimetres(measure: str, step: float, down: bool, findings: Findings, brief: Brief) -> str:
    """A step of a measure in centimetres, cuts rounded down to half of one; '' where the container's height is not known."""
    height = findings.by_name.get("height_ratio")
    if measure not in UNITS or not brief.container_height_cm or height is None or not height.measured:
        return ""
    plant = height.value * brief.container_height_cm

    def over(name: str) -> float | None:
        found = findings.by_name.get(name)
        return found.value if found is not None and found.measured and found.value else None

    spread, wide, governing = over("spread"), over("width_ratio"), over("governing_ratio")
    unit = {
        "cm": 1.0,
        "container": brief.container_height_cm,
        "plant": plant,
        "governing": plant / governing if governing else None,
        "half": plant * spread / 2 if spread else None,
        "width": plant * spread / wide if spread and wide else None,
    }[UNITS[measure]]
    if unit is None:
        return ""
    length = _half_down(step * unit) if down else step * unit
    return f"{length:.1f} cm" if length >= SLIGHT else "less than half a centimetre" if down else "less than a millimetre"


def _override(line: Line, said: Override | None) -> Line:
    if said is None:
        return line
    if said.score is None:
        return Line(line.rule, line.finding, None, "waived", False, "", line.arithmetic, overridden=said.reason)
    score = min(OUT_OF, max(0.0, said.score))
    state = "met" if score >= 9.95 else "near" if score > 0 else "missed"
    return Line(line.rule, line.finding, score, state, False, line.advice, line.arithmetic, overridden=said.reason)


def _score_spread(line: Line) -> float:
    """Standard uncertainty of a line's score."""
    if line.overridden or not line.finding.measured or line.score is None:
        return 0.0
    return OUT_OF * line.rule.band.deviation(line.finding.value, line.finding.uncertainty)


def _next_cut(findings: Findings, lines: tuple[Line, ...], brief: Brief) -> NextCut:
    """One next cut, in centimetres when the container's height is known.

    Too tall: what to take off the tallest. Twin tips: shorten one. Too short: stems do not grow
    back, so a container that would suit. In the band: the room that is left, cut or not.
    """
    tall = next((x for x in lines if x.rule.measure in ("governing_ratio", "height_ratio") and x.finding.measured), None)
    waived = tall is not None and tall.state == "waived"
    if tall is None or not brief.container_height_cm or tall.finding.value <= 0:  # nothing stands over the rim
        chief = _worst(lines)
        return NextCut(chief.advice if chief else "Nothing to cut: no length could be measured.", None)
    container = brief.container_height_cm
    plant_cm = findings["height_ratio"].value * container
    governing = plant_cm / tall.finding.value
    value, band = tall.finding.value, tall.rule.band
    error = tall.finding.uncertainty * governing
    if not waived and value > band.high:
        cut = _half_down((value - band.high) * governing)
        if cut:
            left = plant_cm - cut
            also = sum(tip * container > left + TIP_OVER for tip in findings.tips[1:])
            more = (
                ""
                if not also
                else " Another tip stands over that height"
                if also == 1
                else f" {also} more tips stand over that height"
            )
            return NextCut(
                f"Cut {cut:.1f} cm (±{error:.1f}) from the tallest stem: it then stands {left:.1f} cm over the rim, "
                f"{left / governing:.2f} times the container's {governing:.0f} cm."
                + (f"{more} and must come down as well." if more else "")
                + " Cut a little, look, cut again.",
                cut,
                findings["height_ratio"].value - cut / container,
            )
    twins = findings["twin_tips"]
    if twins.measured and twins.value:
        cut = max(_half_down(0.08 * plant_cm), 1.5)
        return NextCut(
            f"Two tips stand at one height. Shorten one of them by {cut:.1f} cm or more, so that long, medium and short can be told apart.",
            cut,
        )
    if not waived and value < band.low:
        suits = plant_cm / ((band.low + min(band.high, 2 * band.low)) / 2)
        missing = (band.low - value) * governing
        return NextCut(
            f"Cut nothing: the tallest stem is {missing:.1f} cm (±{error:.1f}) too short for this container, and stems do not grow "
            f"back. A container of about {suits:.0f} cm would suit it, or a taller line flower.",
            None,
        )
    room = _half_down(max(0.0, (value - band.low) * governing))
    chief = _worst(lines)
    first = "Leave the height as it is" if chief is None or not chief.advice else chief.advice.rstrip(".")
    return NextCut(f"{first}. The tallest stem may lose up to {room:.1f} cm (±{error:.1f}) and still hold the proportion.", room)


def _worst(lines: tuple[Line, ...]) -> Line | None:
    """The line that costs the score most."""
    losing = [x for x in lines if x.score is not None and x.state in ("near", "missed") and x.advice]
    return max(losing, key=lambda x: (OUT_OF - x.score) * x.rule.weight, default=None)


def _half_down(length: float) -> float:
    """A cut leaves the stem generous: rounded down to half a centimetre."""
    return math.floor(length * 2) / 2
