"""The verdict: findings held against a rule set under a brief."""

from __future__ import annotations

import math
from dataclasses import dataclass

from juniper.measures.finding import Finding
from juniper.measures.measuring import Findings
from juniper.rules.document import Brief, Rule, RuleSet

OUT_OF = 10.0


@dataclass(frozen=True)
class Line:
    """One rule's outcome. `score` is out of ten, None when not measured or waived; `state` is met,
    near, missed, not measured or waived; `advice` says what to do, empty when the rule is met."""

    rule: Rule
    finding: Finding
    score: float | None
    state: str
    borderline: bool
    advice: str
    arithmetic: str
    overridden: str = ""


@dataclass(frozen=True)
class NextCut:
    """The one thing to change first. `cm` is the length to take off or the room left, if any."""

    text: str
    cm: float | None
    ghost: float | None = None


@dataclass(frozen=True)
class Verdict:
    """All lines of a piece, its score out of 100, and the next cut.

    `uncertainty` is the standard uncertainty of the score, lines taken as independent.
    """

    rule_set: RuleSet
    lines: tuple[Line, ...]
    score: float | None
    uncertainty: float
    next_cut: NextCut

    def family(self, name: str) -> tuple[Line, ...]:
        """Lines of one family."""
        return tuple(line for line in self.lines if line.rule.family == name)


@dataclass(frozen=True)
class Override:
    """An instructor's word on one rule: a score out of ten, or None to waive it, and the reason."""

    rule: str
    score: float | None
    reason: str


def judge(findings: Findings, rule_set: RuleSet, brief: Brief, overrides: tuple[Override, ...] = ()) -> Verdict:
    """Hold findings against a rule set. Rules that the brief does not call for are left out; what
    was not measured or is waived is left out of the weight and never scored as nought."""
    said = {o.rule: o for o in overrides}
    lines = tuple(_override(_line(rule, findings, brief), said.get(rule.code)) for rule in rule_set.rules if rule.applies(brief))
    counted = [line for line in lines if line.score is not None]
    weight = sum(line.rule.weight for line in counted)
    score = 100 * sum(line.score * line.rule.weight for line in counted) / (OUT_OF * weight) if weight else None
    spread = math.sqrt(sum((_score_spread(line) * line.rule.weight) ** 2 for line in counted))
    spread *= 100 / (OUT_OF * weight) if weight else 0.0
    return Verdict(rule_set, lines, score, spread, _next_cut(findings, lines, brief))


def _line(rule: Rule, findings: Findings, brief: Brief) -> Line:
    if rule.measure == "scheme":
        return _scheme_line(rule, findings, brief)
    finding = findings[rule.measure]
    if not finding.measured:
        return Line(rule, finding, None, "not measured", False, "", f"Not measured: {finding.reason}.")
    value, spread = finding.value, finding.uncertainty
    expected = rule.band.expected(value, spread)
    state = rule.band.state(value)
    advice = "" if state == "met" else (rule.below if value < rule.band.low else rule.above)
    return Line(
        rule,
        finding,
        OUT_OF * expected,
        state,
        rule.band.borderline(value, spread),
        _fill(advice, rule, findings, value, brief),
        f"{finding.arithmetic}. Held against {band_words(rule)}: {OUT_OF * expected:.1f} of 10 expected over ±{spread:.2g}.",
    )


def band_words(rule: Rule) -> str:
    """The band in words: ideal and limits, leaving out sides without end."""
    low_limit, low, high, high_limit = (rule.band.low_limit, rule.band.low, rule.band.high, rule.band.high_limit)
    if math.isinf(low):
        return f"up to {high:g} (limit {high_limit:g})"
    if math.isinf(high):
        return f"{low:g} and over (limit {low_limit:g})"
    return f"{low:g} to {high:g} (limits {low_limit:g} and {high_limit:g})"


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
        0.1,
        arithmetic=f"the palette makes {scheme.name}, {scheme.off_degrees:.0f}° off its shape",
    )
    expected = rule.band.expected(value, finding.uncertainty)
    advice = "" if same else f"The brief asks for {brief.scheme}; the palette reads as {scheme.name}. {rule.below}"
    return Line(
        rule,
        finding,
        OUT_OF * expected,
        rule.band.state(value),
        rule.band.borderline(value, 0.1),
        advice,
        finding.arithmetic + ".",
    )


def _fill(text: str, rule: Rule, findings: Findings, value: float, brief: Brief) -> str:
    """Put figures into a line of advice: {value}, {low}, {high}, and {cm} where lengths are known."""
    if not text:
        return ""
    height = findings["height_ratio"]
    edge = rule.band.low if value < rule.band.low else rule.band.high
    cm = ""
    if brief.container_height_cm and height.measured and rule.measure in ("height_ratio", "governing_ratio"):
        unit = brief.container_height_cm * height.value / value  # governing dimension in cm
        length = abs(value - edge) * unit
        cm = f"{_half_down(length) if value > edge else length:.1f} cm"
    places = 0 if findings[rule.measure].unit in ("count", "L*") else 2
    return text.format(
        value=f"{value:.{places}f}", low=f"{rule.band.low:g}", high=f"{rule.band.high:g}", cm=cm or "the difference"
    )


def _override(line: Line, said: Override | None) -> Line:
    if said is None:
        return line
    if said.score is None:
        return Line(line.rule, line.finding, None, "waived", False, "", line.arithmetic, overridden=said.reason)
    score = min(OUT_OF, max(0.0, said.score))
    state = "met" if score >= 9.95 else "near" if score > 0 else "missed"
    return Line(line.rule, line.finding, score, state, False, line.advice, line.arithmetic, overridden=said.reason)


def _score_spread(line: Line) -> float:
    """Standard uncertainty of a line's score, from the band's slope at the value's two sides."""
    if line.overridden or not line.finding.measured or line.finding.uncertainty <= 0:
        return 0.0
    value, spread = line.finding.value, line.finding.uncertainty
    return OUT_OF * abs(line.rule.band.expected(value + spread, spread) - line.rule.band.expected(value - spread, spread)) / 2


def _next_cut(findings: Findings, lines: tuple[Line, ...], brief: Brief) -> NextCut:
    """One next cut, in centimetres when the container's height is known.

    Too tall: what to take off the tallest. Twin tips: shorten one. Too short: stems do not grow
    back, so a container that would suit. In the band: the room that is left, cut or not.
    """
    tall = next((x for x in lines if x.rule.measure in ("governing_ratio", "height_ratio") and x.finding.measured), None)
    waived = tall is not None and tall.state == "waived"
    if tall is None or not brief.container_height_cm:
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
            return NextCut(
                f"Cut {cut:.1f} cm (±{error:.1f}) from the tallest stem: it then stands {left:.1f} cm over the rim, "
                f"{left / governing:.2f} times the container's {governing:.0f} cm. Cut a little, look, cut again.",
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
