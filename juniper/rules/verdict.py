"""The verdict: findings held against a rule set under a brief."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from juniper.measures.catalogue import DEFINITIONS, FAMILIES
from juniper.measures.counterweight import Addition
from juniper.measures.finding import Finding, Measured, Missing, missing_of
from juniper.measures.measuring import Findings
from juniper.rules.advice import NextCut, advice_for, goals, next_cut, said_no
from juniper.rules.band import Band
from juniper.rules.document import ANSWERED, STAGE_WORDS, Brief, Rule, RuleSet
from juniper.rules.written import band_words

OUT_OF = 10.0  # marks of a line and of a family
NOT_MEASURED, NO_OCCASION, WAIVED = "not measured", "does not apply", "waived"


@dataclass(frozen=True)
class VerdictSettings:
    """When a doubt is worth saying, and what a mark is out of.

    Common practice where no source is named.
    """

    # uncertainty of a scheme's fit, and of one that another light would make another
    steady: float = 0.1
    in_doubt: float = 0.25
    # of the weight that the brief calls for: under less measured and answered no award is
    # given (common practice of examining)
    enough: float = 0.8
    worth_saying: float = 0.25  # of ten: what a doubtful handle costs, from which the line says so


VERDICT = VerdictSettings()


@dataclass(frozen=True)
class Line:
    """One rule's outcome. `score` is out of ten, None when not measured or waived; `state` is met,
    near, missed, not measured, does not apply or waived; `advice` says what to do, empty when the
    rule is met, and `addition` what to set opposite. `goals` tells which figures earn 8 and 10,
    `in_doubt` what doubtful handles alone cost, and `proposal` what is proposed to a person who is
    asked; `action` is the advice without the value that it tells.
    """

    rule: Rule
    finding: Finding
    score: float | None
    state: str
    borderline: bool
    advice: str
    arithmetic: str
    overridden: str = ""
    addition: Addition | None = None
    goals: str = ""
    in_doubt: str = ""
    proposal: str = ""
    action: str = ""

    @property
    def to_do(self) -> str:
        """What to do about it, without telling the value again; '' where nothing is to be done."""
        return self.action or self.advice

    @property
    def marks(self) -> float:
        """Its score, out of ten. Raises ValueError for a line that has none."""
        if self.score is None:
            raise ValueError(f"{self.rule.code} has no score")
        return self.score

    @property
    def asked(self) -> bool:
        """Whether a person is asked, and has not answered."""
        return self.rule.asks is not None and self.score is None and self.called_for

    @property
    def called_for(self) -> bool:
        """Whether its weight is part of what the piece is to be judged by: neither waived nor
        without occasion.
        """
        return self.state not in (WAIVED, NO_OCCASION)


@dataclass(frozen=True)
class Group:
    """The mark of one family, out of ten: None when nothing in it was measured. `capped_by` names
    the rule that caps it, and `uncapped` is what it would be.
    """

    family: str
    lines: tuple[Line, ...]
    score: float | None
    weight: float
    capped_by: str = ""
    uncapped: float | None = None

    @property
    def marks(self) -> float:
        """Its score, out of ten. Raises ValueError for a family in which nothing was measured."""
        if self.score is None:
            raise ValueError(f"nothing of {self.family} has a score")
        return self.score


@dataclass(frozen=True)
class Ceiling:
    """An instructor's word that a family's mark (out of ten), or with no `family` the whole (out of
    100), is to be no more than `at`.
    """

    family: str
    at: float
    reason: str


@dataclass(frozen=True)
class Verdict:
    """All lines of a piece, its score out of 100, and the next cut.

    `uncertainty` is the standard uncertainty of the score, lines of a family taken to err together
    and families independently; `groups` are the marks by family, and `award` what the school calls
    such a total. `capped_by` is why the whole is held down, by an instructor's word or, where
    `unsafe` names the rule, for safety; `uncapped` is what it would be. `breaks` are the titles of
    rules that the brief stands on and the piece misses. `to_answer` are questions of safety that
    nobody answered: until then no award is given, and nothing is to be returned. `called_for` is
    the weight of the rules that the piece is to be judged by, `measured` that of those that were
    measured or answered.
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
    breaks: tuple[str, ...] = ()
    measured: float = 0.0
    called_for: float = 0.0

    @property
    def enough(self) -> bool:
        """Whether so much of the weight was measured or answered that an award may be given."""
        return _enough(self.measured, self.called_for)

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
    stages: Mapping[str, Findings] | None = None,
) -> Verdict:
    """Hold findings against a rule set. Rules that the brief does not call for are left out; what
    was not measured, not answered (`answers` to checks by rule, 0..1) or is waived is left out of
    the weight and never scored as nought. `ceilings` come last, after the rules' own caps. Rules of
    a stage of the making are held against the findings of that one of `stages`.
    """
    said, answers = {o.rule: o for o in overrides}, answers or {}
    rules = [rule.under(brief) for rule in rule_set.rules if rule.applies(brief)]
    lines = tuple(
        _override(
            _line(rule, _of_stage(rule, findings, stages or {}), brief, answers),
            said.get(rule.code),
        )
        for rule in rules
    )
    groups = tuple(
        under(g, ceilings) for g in (group_of(family, lines) for family in FAMILIES) if g
    )
    counted = [g for g in groups if g.score is not None]
    weight = sum(g.weight for g in counted)
    score = 100 * sum(g.marks * g.weight for g in counted) / (OUT_OF * weight) if weight else None
    # Lines of a family rest on the same handles and outline, so that they err together; families
    # are taken as independent.
    spread = math.hypot(
        *(
            sum(_score_spread(x) * x.rule.weight for x in g.lines)
            for g in counted
            if not g.capped_by
        ),
        0.0,
    )
    spread *= 100 / (OUT_OF * weight) if weight else 0.0
    least = min((g.marks for g in counted), default=0.0)
    hurts = [
        x for x in lines if x.rule.safety is not None and x.score is not None and x.score < OUT_OF
    ]
    safety = [Ceiling("", x.rule.safety, x.rule.title) for x in hurts if x.rule.safety is not None]
    worst = min(safety, key=lambda c: c.at, default=None)
    to_answer = tuple(
        x.rule.check.ask
        for x in lines
        if x.rule.safety is not None and x.rule.check is not None and x.state == NOT_MEASURED
    )
    broken = [
        Ceiling("", x.rule.breach.at, f"it breaks the brief: {x.rule.title.lower()}")
        for x in lines
        if x.rule.breach is not None and _breaks(x)
    ]
    whole = min(
        (*safety, *broken, *(c for c in ceilings if not c.family)), key=lambda c: c.at, default=None
    )
    capped_by, uncapped = "", None
    if whole is not None and score is not None and score > whole.at:
        capped_by, uncapped, score = whole.reason, score, whole.at
    measured = sum(x.rule.weight for x in lines if x.score is not None)
    called_for = sum(x.rule.weight for x in lines if x.called_for)
    award = (
        ""
        if to_answer or worst or not _enough(measured, called_for)
        else rule_set.award(score, brief.pass_mark, least)
    )
    cut = next_cut(findings, lines, brief)
    return Verdict(
        rule_set,
        lines,
        score,
        0.0 if capped_by else spread,
        cut,
        groups,
        award,
        capped_by,
        uncapped,
        ceilings,
        worst.reason if worst else "",
        to_answer,
        tuple(x.rule.title for x in lines if _breaks(x)),
        measured,
        called_for,
    )


def _enough(measured: float, called_for: float) -> bool:
    return measured > 0 and measured >= VERDICT.enough * called_for - 1e-9


def under(group: Group, ceilings: tuple[Ceiling, ...]) -> Group:
    """The mark of a family under the lowest ceiling that was set for it."""
    lowest = min(
        (c for c in ceilings if c.family == group.family), key=lambda c: c.at, default=None
    )
    if lowest is None or group.score is None or group.score <= lowest.at:
        return group
    uncapped = group.uncapped if group.uncapped is not None else group.score
    return replace(group, score=lowest.at, capped_by=lowest.reason, uncapped=uncapped)


def group_of(family: str, lines: tuple[Line, ...]) -> Group | None:
    """The mark of one family: the weighted mean of what counts in it, under the lowest cap that a
    failed rule sets.
    """
    own = tuple(line for line in lines if line.rule.family == family)
    if not own:
        return None
    counted = [line for line in own if line.score is not None]
    weight = sum(line.rule.weight for line in counted)
    if not weight:
        return Group(family, own, None, 0.0)
    score = sum(line.marks * line.rule.weight for line in counted) / weight
    capping = [
        (line.rule.cap.at, line.rule.title)
        for line in counted
        if line.rule.cap and line.marks < line.rule.cap.below and line.rule.cap.at < score
    ]
    lowest = min(capping, key=lambda cap: cap[0], default=None)
    if lowest is None:
        return Group(family, own, score, weight)
    return Group(family, own, lowest[0], weight, lowest[1], score)


def _breaks(line: Line) -> bool:
    """Whether a line breaks the brief: past its limit on the side that does, beyond doubt, or
    answered with a plain no; an instructor's word that it is kept, or waived, takes that away.
    """
    breach, found = line.rule.breach, line.finding
    if breach is None or line.score is None or line.overridden or isinstance(found, Missing):
        return False
    if line.rule.check:
        return line.score == 0
    band, value, sure = line.rule.band, found.value, found.uncertainty
    under, over = value + sure < band.low_limit, value - sure > band.high_limit
    return (under and breach.side != "above") or (over and breach.side != "below")


def _of_stage(rule: Rule, finished: Findings, stages: Mapping[str, Findings]) -> Findings:
    """The findings that a rule is held against: those of its stage, or of the finished piece."""
    if not rule.stage:
        return finished
    found = stages.get(rule.stage)
    if found is None:
        if not rule.measure:
            return finished
        missing = missing_of(
            rule.measure,
            f"no photograph of the stage “{STAGE_WORDS[rule.stage]}” was added",
            view=rule.stage,
        )
        return replace(finished, by_name={rule.measure: missing})
    words = f"at the stage “{STAGE_WORDS[rule.stage]}”: "
    own = {
        name: replace(f, arithmetic=words + f.arithmetic, view=rule.stage)
        if isinstance(f, Measured)
        else f
        for name, f in found.by_name.items()
        if name == rule.measure
    }
    return replace(found, by_name=own)


def _line(rule: Rule, findings: Findings, brief: Brief, answers: dict[str, float]) -> Line:
    if rule.measure == "scheme":
        return _scheme_line(rule, findings, brief)
    found = findings.by_name.get(rule.measure)
    if (
        found is not None
        and isinstance(found, Missing)
        and DEFINITIONS[rule.measure].view not in ("front", *brief.views)
    ):
        found = replace(
            found,
            reason=f"the brief asks for no photograph from {FROM[DEFINITIONS[rule.measure].view]}",
            applies=False,
        )
    if rule.asks:
        return _asked_line(rule, found, answers.get(rule.code))
    if found is None:
        found = Missing(
            rule.measure,
            rule.family,
            "",
            "this photograph was measured before this measure existed",
        )
    if isinstance(found, Missing):
        return _unmeasured(rule, found)
    value, spread = found.value, found.uncertainty
    score = OUT_OF * rule.band.expected(value, spread)
    words = action = ""
    if rule.band.state(value) != "met":
        words = advice_for(rule, findings, found, brief)
        action = advice_for(rule, findings, found, brief, only_action=True)
    addition, also = None, ""
    if words and findings.scales:
        addition = findings.scales.inside(rule.measure, value, rule.band.low, rule.band.high)
        if addition:
            also += " " + addition.words(
                findings.cm_per_px, math.dist(findings.left, findings.right)
            )
    if words and findings.colours:
        heads = findings.colours.heads(rule.measure, value, rule.band.low, rule.band.high)
        also += f" {heads}" if heads else ""
    sums = (
        f"The band is {band_words(rule.band, found.unit)}: {score:.1f} of 10 expected over"
        f" ±{spread:.2g}."
    )
    return Line(
        rule,
        found,
        score,
        rule.band.state(value),
        rule.band.borderline(value, spread),
        words + also,
        f"{found.arithmetic}. {sums}",
        action=action + also,
        addition=addition,
        goals=goals(rule, found),
        in_doubt=_in_doubt(rule, found, score),
    )


FROM = {"side": "the side", "back": "behind", "top": "above", "seated": "a seat"}


def _unmeasured(rule: Rule, found: Missing) -> Line:
    """The line of a rule whose measure could not be made, or that the piece gives no occasion
    for.
    """
    state, words = (
        (NOT_MEASURED, "Not measured") if found.applies else (NO_OCCASION, "Does not apply")
    )
    return Line(rule, found, None, state, False, "", f"{words}: {found.reason}.")


def _in_doubt(rule: Rule, found: Measured, score: float) -> str:
    """What doubtful handles, or an outline seen unsteadily, alone cost a line, in words; '' where
    that is little.
    """
    if (
        found.calm is not None
        and (calm := OUT_OF * rule.band.expected(found.value, found.calm)) - score
        >= VERDICT.worth_saying
    ):
        return (
            f"{score:.1f} only because the outline is not steady: brush what is plant and what"
            f" is not, and it is {calm:.1f} if the"
            " figure stays."
        )
    if found.confirmed is None:
        return ""
    sure = OUT_OF * rule.band.expected(found.value, found.confirmed)
    if sure - score < VERDICT.worth_saying:
        return ""
    return (
        f"{score:.1f} only because the {found.unsure_of} is not sure. If the handles are right"
        f" as they are, confirm them, and it is {sure:.1f} where they stand."
    )


def _asked_line(rule: Rule, found: Finding | None, answer: float | None) -> Line:
    """The line of a rule that a person judges by eye; of one with a measure, what that proposes."""
    if answer is not None:
        said, band = _answered(rule, answer), Band(*ANSWERED)
        return Line(
            rule,
            said,
            OUT_OF * said.value,
            band.state(said.value),
            False,
            "" if said.value == 1 else said_no(rule),
            f"{said.arithmetic}. {OUT_OF * said.value:.0f} of 10.",
        )
    if not isinstance(found, Measured):
        if found is None or found.applies:
            reason = f"look and answer: {_question(rule)}"
            found = Missing("", rule.family, "answer", reason)
        return _unmeasured(rule, found)
    likely = ANSWERS[min(ANSWERS, key=lambda a: abs(a - rule.band.score(found.value)))]
    words = (
        f"Proposed: {likely}. {found.arithmetic[:1].upper()}{found.arithmetic[1:]}. Counting is"
        " wrong too often to mark by it: look, and answer. Without an answer it has no weight."
    )
    return Line(rule, found, None, NOT_MEASURED, False, "", words, proposal=likely)


ANSWERS = {1.0: "yes", 0.5: "in part", 0.0: "no"}


def _answered(rule: Rule, answer: float) -> Measured:
    """The finding of a check: what a person answered, by their own eye."""
    word = next(w for value, w in ANSWERS.items() if abs(value - answer) < 0.01)
    question = _question(rule)
    return Measured(
        "",
        rule.family,
        float(answer),
        "answer",
        arithmetic=f"Answered by eye, {question[0].lower()}{question[1:]} {word.capitalize()}",
    )


def _question(rule: Rule) -> str:
    if rule.asks is None:
        raise ValueError(f"{rule.code} asks nobody")
    return rule.asks.ask


def _scheme_line(rule: Rule, findings: Findings, brief: Brief) -> Line:
    """The wished scheme: its name found, weighed by how well the palette fits it."""
    scheme = findings.scheme
    if scheme is None or not brief.scheme:
        reason = "no flower colour was found" if scheme is None else "the brief asks for no scheme"
        return _unmeasured(
            rule, Missing("scheme", "colour", "fit", reason, applies=bool(brief.scheme))
        )
    same = scheme.name == brief.scheme
    value = scheme.fit if same else 0.25 * (1 - scheme.fit)
    finding = Measured(
        "scheme",
        "colour",
        value,
        "fit",
        VERDICT.in_doubt if scheme.under_other_light else VERDICT.steady,
        arithmetic=f"the palette makes {scheme.name}, {scheme.off_degrees:.0f}° away from its shape"
        + (
            f"; the next nearest is {scheme.other}, {scheme.other_off:.0f}° off"
            if scheme.other
            else ""
        )
        + (
            f"; in slightly bluer or yellower light it would be {scheme.under_other_light}"
            if scheme.under_other_light
            else ""
        ),
    )
    expected = rule.band.expected(value, finding.uncertainty)
    advice = (
        ""
        if same
        else f"The brief asks for {brief.scheme}; the palette reads as {scheme.name}. {rule.below}"
    )
    return Line(
        rule,
        finding,
        OUT_OF * expected,
        rule.band.state(value),
        rule.band.borderline(value, finding.uncertainty),
        advice,
        finding.arithmetic + ".",
    )


def _override(line: Line, said: Override | None) -> Line:
    if said is None:
        return line
    if said.score is None:
        return Line(
            line.rule,
            line.finding,
            None,
            WAIVED,
            False,
            "",
            line.arithmetic,
            overridden=said.reason,
        )
    score = min(OUT_OF, max(0.0, said.score))
    state = "met" if score >= 9.95 else "near" if score > 0 else "missed"
    return Line(
        line.rule,
        line.finding,
        score,
        state,
        False,
        line.advice,
        line.arithmetic,
        overridden=said.reason,
        action=line.action,
    )


def _score_spread(line: Line) -> float:
    """Standard uncertainty of a line's score."""
    found = line.finding
    if line.overridden or isinstance(found, Missing) or line.score is None:
        return 0.0
    return OUT_OF * line.rule.band.deviation(found.value, found.uncertainty)
