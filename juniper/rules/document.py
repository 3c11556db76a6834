"""Rule sets as TOML documents: read, checked, and made into frozen values."""

from __future__ import annotations

import math
import re
from dataclasses import asdict, dataclass, replace
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal

import tomlkit
from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from juniper.colour.heaviness import LIGHTNESS
from juniper.colour.ratios import is_plain, setting_swatch
from juniper.colour.schemes import NAMES as SCHEMES
from juniper.documents import HostileDocument, read_toml
from juniper.measures.catalogue import DEFINITIONS
from juniper.rules.band import Band

SCHOOLS = Path(__file__).parent / "schools"
MEASURES = frozenset(DEFINITIONS)
BY_EYE = frozenset(name for name, d in DEFINITIONS.items() if d.by_eye)
FORMS = (
    "symmetrical triangle",
    "right-angle L",
    "crescent",
    "S-curve",
    "vertical",
    "horizontal",
    "round",
    "fan",
    "three-stem",
    "cascade",
    "garland",
    "free",
)
ASYMMETRICAL = frozenset({"right-angle L", "crescent", "S-curve", "three-stem", "cascade"})
OPEN = frozenset({"free", "garland"})  # forms that ask for neither like nor unlike sides
SYMMETRICAL = frozenset(FORMS) - ASYMMETRICAL - OPEN
# what a piece stands in or hangs from
KINDS = ("one vessel", "several vessels", "hand-tied", "on an edge")
# of the making, at which makers stop and look (common practice)
STAGES = ("foliage", "lines", "before", "finished")
STAGE_WORDS = {
    "foliage": "foliage alone",
    "lines": "the lines",
    "before": "before the focal flower",
    "finished": "finished",
}
VIEWPOINTS = ("front only", "all round", "seated at a table")
DOMINANTS = ("line", "focal", "mass", "colour", "texture")
# what the container is made of, as far as rules depend on it
VESSELS = ("opaque", "clear", "basket")
# where a piece will stand, as far as it can hurt somebody there
PLACES = ("food", "children", "animals", "flame", "electrics")
# what a piece is made of; no flowers: foliage, berries, seed heads
MATERIALS = ("flowers", "very large blooms", "no flowers")
TRAITS = frozenset(
    {
        *FORMS,
        *VIEWPOINTS,
        *KINDS[1:],
        "tall container",
        "low container",
        "clear container",
        "basket",
        "symmetrical",
        "asymmetrical",
        *MATERIALS[1:],
        "coloured cloth",
        *(f"near {p}" for p in PLACES),
        *(f"dominant {d}" for d in DOMINANTS),
        *(f"{s} scheme" for s in SCHEMES),
    }
)
ANSWERED = (0.0, 1.0, math.inf, math.inf)  # the band of a check: yes is 1, in part .5, no 0


BLANK = re.compile(
    r"\{(value|low|high|cm|side|other|swap)\}"
)  # what is filled into a line of advice


class FaultyRuleSet(ValueError):
    """A rule set document that cannot be used; the message says what is wrong and where."""


@dataclass(frozen=True)
class BriefVessel:
    """One vessel of a composition as the brief sets it out: what it is called, its height and
    greatest width in cm, whether it is of clear glass, its colour (sRGB, #rrggbb, '' if any), and
    where its middle stands, cm to the right of the composition's middle.
    """

    name: str
    height_cm: float
    width_cm: float
    clear: bool = False
    colour: str = ""
    x_cm: float = 0.0


@dataclass(frozen=True)
class Brief:
    """What a piece was asked to be, as far as the rules depend on it. Lengths in centimetres;
    `dominant` is the principle that the piece declares to be its own, one of DOMINANTS, or none;
    `vessel` one of VESSELS, `material` one of MATERIALS, `views` the sides that are to be
    photographed, and `rings` how many heads each ring of one flower has, the outermost first. Rules
    of `shown_only`, by code, are shown to the student and carry no marks yet; what can hurt
    somebody still holds the whole down. `kind` is one of KINDS; a composition of several lists its
    `vessels` from the left. `stages` are those of the making, of STAGES, that are photographed.
    `near` is what it will stand near, of PLACES; `count_parts` whether what is no plant (baubles,
    candles, ribbon) counts in colours and shares, or is left out; `setting` the colour of the wall
    or cloth that it stands before, #rrggbb, '' where none is told.
    """

    form: str = "symmetrical triangle"
    viewpoint: str = "front only"
    scheme: str = ""
    with_green: bool = False
    split: tuple[float, float, float] = (0.6, 0.3, 0.1)
    container_height_cm: float | None = None
    container_width_cm: float | None = None
    pass_mark: float = 50.0
    dominant: str = ""
    vessel: str = "opaque"
    material: str = "flowers"
    views: tuple[str, ...] = ("front",)
    rings: tuple[int, ...] = ()
    shown_only: frozenset[str] = frozenset()
    kind: str = KINDS[0]
    vessels: tuple[BriefVessel, ...] = ()
    stages: tuple[str, ...] = ()
    near: tuple[str, ...] = ()
    count_parts: bool = False
    setting: str = ""

    @property
    def symmetrical(self) -> bool:
        """Whether the form asks for like weight on both sides; `free` asks for neither."""
        return self.form in SYMMETRICAL

    @property
    def container(self) -> str:
        """'tall' or 'low', by the larger of the container's dimensions; '' when one is not
        known.
        """
        if self.container_height_cm is None or self.container_width_cm is None:
            return ""
        return "tall" if self.container_height_cm >= self.container_width_cm else "low"

    @property
    def traits(self) -> frozenset[str]:
        """What a rule may depend on, as words: form, viewpoint, container, symmetry, material,
        scheme, the declared principle and where it will stand.
        """
        words = {self.form, self.viewpoint}
        if self.kind != KINDS[0]:
            words.add(self.kind)
        if self.form not in OPEN:
            words.add("symmetrical" if self.symmetrical else "asymmetrical")
        if self.container:
            words.add(f"{self.container} container")
        words |= {"clear": {"clear container"}, "basket": {"basket"}}.get(self.vessel, set())
        words |= {self.material} & set(MATERIALS[1:])
        words |= {f"near {place}" for place in self.near}
        if self.setting and not is_plain(setting_swatch(self.setting)):
            words.add("coloured cloth")
        words |= {f"dominant {self.dominant}"} if self.dominant else set()
        words |= {f"{self.scheme} scheme"} if self.scheme else set()
        return frozenset(words)


@dataclass(frozen=True)
class Case:
    """Another band for the briefs that have all of `when` among their traits, and the sentence that
    is `taught` there, if it is another.
    """

    when: tuple[str, ...]
    band: Band
    taught: str = ""


@dataclass(frozen=True)
class Cap:
    """A family's mark that cannot be passed while the rule scores below `below` of ten."""

    below: float
    at: float


SIDES = ("below", "above", "either")


@dataclass(frozen=True)
class Breach:
    """What missing a rule does to a piece that was to keep to its brief: the whole (out of 100) is
    no more than `at` while the measure lies past the limit on `side`, one of SIDES, or while the
    answer to a check is a plain no.
    """

    at: float
    side: str = "either"


@dataclass(frozen=True)
class Check:
    """A question that no photograph answers: what to ask, and the part of the picture to look at,
    one of LOOKS.
    """

    ask: str
    look: str


@dataclass(frozen=True)
class Rule:
    """One taught rule: which measure, in which band, with what weight, and what to say.

    `only` and `unless` name traits of a brief; `cases` are bands for some of them, the first that
    fits counts. A `check` stands in the place of a measure. A rule of weight 0 is shown and carries
    no marks. Where a check asks whether somebody can be hurt, `safety` is the most that the whole
    (out of 100) may be while the answer is not a plain yes. Where missing it breaks the brief,
    `breach` holds the whole down. A rule of a `stage` is judged by the photograph of that stage of
    the making, one of STAGES, and only where the brief asks for it.
    """

    code: str
    title: str
    family: str
    measure: str
    band: Band
    weight: float
    taught: str
    why: str
    below: str
    above: str
    only: tuple[str, ...] = ()
    unless: tuple[str, ...] = ()
    cases: tuple[Case, ...] = ()
    cap: Cap | None = None
    check: Check | None = None
    safety: float | None = None
    breach: Breach | None = None
    stage: str = ""

    def applies(self, brief: Brief) -> bool:
        """Whether the brief calls for this rule."""
        traits = brief.traits
        if self.stage and self.stage not in brief.stages:
            return False
        return not traits & set(self.unless) and (not self.only or bool(traits & set(self.only)))

    def under(self, brief: Brief) -> Rule:
        """The rule with the band, the sentence and the weight that are in force for a brief."""
        rule = self
        if self.code in brief.shown_only:
            rule = replace(self, weight=0.0, cap=None, breach=None)
        for case in self.cases:
            if set(case.when) <= brief.traits:
                return replace(rule, band=case.band, taught=case.taught or self.taught)
        return rule

    @property
    def unit(self) -> str:
        """The unit of its measure; '' for a check."""
        return DEFINITIONS[self.measure].unit if self.measure in DEFINITIONS else ""

    @property
    def asks(self) -> Check | None:
        """What a person is asked to judge by eye: its check, or, where its measure rests on
        counting blooms or tips, whether the rule is kept.
        """
        if self.check or self.measure not in BY_EYE:
            return self.check
        return Check(f"{self.taught.rstrip('.')}. Is it so here?", "blooms")


@dataclass(frozen=True)
class Award:
    """What a total from `at` on is called, when no family's mark (out of ten) lies under `each`."""

    name: str
    at: float
    each: float = 0.0


@dataclass(frozen=True)
class NotJudged:
    """What a school does not judge, and why."""

    what: str
    why: str


@dataclass(frozen=True)
class Differs:
    """Where a school differs from its neighbour (its slug), in a sentence."""

    slug: str
    says: str


@dataclass(frozen=True)
class RuleSet:
    """A school's rules in one version; `awards` fall from the highest. `not_judged` and `differs`
    are for whoever chooses between schools; `weighing` is what visual weight is read from,
    lightness alone or colour with it. A school of its own field names the `forms` or `kinds` of
    piece that it is for; none for all.
    """

    slug: str
    name: str
    version: str
    source: str
    about: str
    rules: tuple[Rule, ...]
    awards: tuple[Award, ...] = ()
    not_judged: tuple[NotJudged, ...] = ()
    differs: tuple[Differs, ...] = ()
    weighing: str = LIGHTNESS
    forms: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()

    def suits(self, brief: Brief) -> bool:
        """Whether it is made for pieces of a brief's form and kind."""
        return (not self.forms or brief.form in self.forms) and (
            not self.kinds or brief.kind in self.kinds
        )

    def award(self, score: float | None, pass_mark: float = 0.0, least: float = 10.0) -> str:
        """What a total out of 100 is called whose lowest family has the mark `least`; '' when no
        award is named for it, or it does not pass.
        """
        if score is None or round(score) < pass_mark:
            return ""
        return next((a.name for a in self.awards if score >= a.at and least >= a.each), "")


def fill_advice(text: str, figures: dict[str, str]) -> str:
    """A line of advice with its blanks, {value} and the like, filled in by `figures`; nothing else
    in it is interpreted.

    >>> fill_advice('Take {cm} off the tallest.', {'cm': '4 cm'})
    'Take 4 cm off the tallest.'
    """
    return BLANK.sub(lambda blank: figures[blank[1]], text)


Edge = Annotated[float, Field(allow_inf_nan=True)]
BandEdges = Annotated[list[Edge], Field(min_length=4, max_length=4)]
Trait = Annotated[str, Field(max_length=40)]


def _rising(edges: list[float]) -> list[float]:
    Band(*edges)
    return edges


def _traits(words: list[str]) -> list[str]:
    for word in words:
        if word not in TRAITS:
            raise ValueError(
                f"'{word}' is no form, viewpoint, container or principle; known are:"
                f" {', '.join(sorted(TRAITS))}"
            )
    return words


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class _CaseDocument(_Strict):
    when: list[Trait] = Field(min_length=1, max_length=4)
    band: BandEdges
    taught: str = Field(default="", max_length=400)

    _known = field_validator("when")(_traits)
    _rises = field_validator("band")(_rising)


class _CapDocument(_Strict):
    below: float = Field(gt=0, le=10)
    at: float = Field(ge=0, lt=10)


class _BreachDocument(_Strict):
    at: float = Field(ge=0, lt=100)
    side: Literal["below", "above", "either"] = "either"


class _CheckDocument(_Strict):
    ask: str = Field(min_length=5, max_length=200)
    look: Literal["whole", "rim", "water", "foot", "blooms", "back"]


class _RuleDocument(_Strict):
    code: str = Field(pattern=r"^[a-z][a-z0-9-]{1,40}$")
    title: str = Field(min_length=2, max_length=80)
    family: Literal["proportion", "balance", "focal", "colour", "line", "finish"]
    measure: str = ""
    check: _CheckDocument | None = None
    band: BandEdges = Field(default_factory=lambda: list(ANSWERED))
    weight: float = Field(ge=0, le=20)
    taught: str = Field(min_length=5, max_length=400)
    why: str = Field(min_length=5, max_length=400)
    below: str = Field(default="", max_length=400)
    above: str = Field(default="", max_length=400)
    only: list[Trait] = []
    unless: list[Trait] = []
    case: list[_CaseDocument] = Field(default=[], max_length=12)
    cap: _CapDocument | None = None
    safety: float | None = Field(default=None, ge=0, lt=100)
    breach: _BreachDocument | None = None
    stage: Literal["", "foliage", "lines", "before"] = ""

    _known = field_validator("only", "unless")(_traits)
    _rises = field_validator("band")(_rising)

    @field_validator("measure")
    @classmethod
    def _measured(cls, name):
        if name and name not in MEASURES:
            raise ValueError(f"no measure is called '{name}'")
        return name

    @field_validator("below", "above")
    @classmethod
    def _fills(cls, text):
        if set("{}") & set(BLANK.sub("", text)):
            raise ValueError(
                "only {value}, {low}, {high}, {cm}, {side}, {other} and {swap} can be filled in"
            )
        return text

    @model_validator(mode="after")
    def _either(self):
        if bool(self.measure) == bool(self.check):
            raise ValueError("a rule names a measure or a check, one of the two")
        if self.measure and "band" not in self.model_fields_set:
            raise ValueError("a rule with a measure needs a band")
        if self.safety is not None and not self.check:
            raise ValueError("safety is answered by a person: it belongs to a check")
        return self

    def as_core(self) -> Rule:
        plain = self.model_dump(
            include={
                "code",
                "title",
                "family",
                "measure",
                "weight",
                "taught",
                "why",
                "below",
                "above",
                "stage",
            }
        )
        return Rule(
            **plain,
            band=Band(*self.band),
            only=tuple(self.only),
            unless=tuple(self.unless),
            cases=tuple(Case(tuple(c.when), Band(*c.band), c.taught) for c in self.case),
            cap=Cap(self.cap.below, self.cap.at) if self.cap else None,
            check=Check(self.check.ask, self.check.look) if self.check else None,
            safety=self.safety,
            breach=Breach(self.breach.at, self.breach.side) if self.breach else None,
        )


class _AwardDocument(_Strict):
    name: str = Field(min_length=2, max_length=40)
    at: float = Field(ge=0, le=100)
    each: float = Field(default=0.0, ge=0, le=10)


class _NotJudgedDocument(_Strict):
    what: str = Field(min_length=3, max_length=120)
    why: str = Field(min_length=5, max_length=300)


class _DiffersDocument(_Strict):
    slug: str = Field(pattern=r"^[a-z][a-z0-9-]{2,60}$")
    says: str = Field(min_length=5, max_length=300)


class _Document(_Strict):
    slug: str = Field(pattern=r"^[a-z][a-z0-9-]{2,60}$")
    name: str = Field(min_length=3, max_length=80)
    version: str = Field(min_length=1, max_length=20)
    source: str
    about: str = ""
    weighing: Literal["lightness", "colour"] = "lightness"
    forms: list[Trait] = Field(default=[], max_length=12)
    kinds: list[Trait] = Field(default=[], max_length=4)
    award: list[_AwardDocument] = Field(default=[], max_length=12)
    not_judged: list[_NotJudgedDocument] = Field(default=[], max_length=24)
    differs: list[_DiffersDocument] = Field(default=[], max_length=12)
    rule: list[_RuleDocument] = Field(min_length=1, max_length=80)

    @model_validator(mode="after")
    def _distinct(self):
        _traits([*self.forms, *self.kinds])
        codes = [r.code for r in self.rule]
        twice = {c for c in codes if codes.count(c) > 1}
        if twice:
            raise ValueError(f"the rule '{sorted(twice)[0]}' stands twice")
        if not any(r.weight for r in self.rule):
            raise ValueError("no rule carries marks: give one of them a weight")
        return self


def read_rule_set(text: str) -> RuleSet:
    """Read a rule set from TOML text. Raises FaultyRuleSet, naming the line where it can."""
    try:
        raw = read_toml(text)
    except HostileDocument as error:
        raise FaultyRuleSet(f"The rule set is not read. {error}") from error
    except (ValueError, RecursionError) as error:
        raise FaultyRuleSet(f"The rule set is not sound TOML: {error}.") from error
    try:
        document = _Document.model_validate(raw)
    except ValidationError as error:
        raise FaultyRuleSet(_first_fault(error, text)) from error
    awards = tuple(Award(a.name, a.at, a.each) for a in sorted(document.award, key=lambda a: -a.at))
    rules = tuple(r.as_core() for r in document.rule)
    return RuleSet(
        document.slug,
        document.name,
        document.version,
        document.source,
        document.about,
        rules,
        awards,
        tuple(NotJudged(n.what, n.why) for n in document.not_judged),
        tuple(Differs(d.slug, d.says) for d in document.differs),
        document.weighing,
        tuple(document.forms),
        tuple(document.kinds),
    )


def write_rule_set(rule_set: RuleSet) -> str:
    """The rule set as a TOML document; read_rule_set() gives it back the same."""
    keys = ("slug", "name", "version", "source", "about")
    document: dict[str, Any] = {key: getattr(rule_set, key) for key in keys}
    if rule_set.weighing != LIGHTNESS:
        document["weighing"] = rule_set.weighing
    document |= {name: list(getattr(rule_set, name)) for name in ("forms", "kinds")}
    document["award"] = [_filled(asdict(award), ("at",)) for award in rule_set.awards]
    document["not_judged"] = [asdict(one) for one in rule_set.not_judged]
    document["differs"] = [asdict(one) for one in rule_set.differs]
    document["rule"] = [_written(rule) for rule in rule_set.rules]
    return tomlkit.dumps(_filled(document, keys))


def _written(rule: Rule) -> dict[str, Any]:
    """A rule as its table: what is left out is as read_rule_set() fills it in."""
    table = {
        "code": rule.code,
        "title": rule.title,
        "family": rule.family,
        "measure": rule.measure,
        "band": _edges(rule.band) if rule.measure else (),
        "weight": _number(rule.weight),
        "taught": rule.taught,
        "why": rule.why,
        "below": rule.below,
        "above": rule.above,
        "stage": rule.stage,
        "only": list(rule.only),
        "unless": list(rule.unless),
        "safety": rule.safety,
        "case": [
            _filled({"when": list(c.when), "band": _edges(c.band), "taught": c.taught})
            for c in rule.cases
        ],
        "check": rule.check and asdict(rule.check),
        "cap": rule.cap and asdict(rule.cap),
        "breach": rule.breach and asdict(rule.breach),
    }
    return _filled(table, ("weight", "safety"))


def _filled(table: dict[str, Any], keep: tuple[str, ...] = ()) -> dict[str, Any]:
    """A table without what is empty; of `keep` only what is None goes."""
    return {k: v for k, v in table.items() if v or (k in keep and v is not None)}


def _number(value: float) -> float:
    """The figure as a whole number where it is one."""
    return int(value) if math.isfinite(value) and value == int(value) else value


def _edges(band: Band) -> list[float]:
    return [_number(edge) for edge in band.edges]


HEADS = {
    "rule": r"^\[\[rule\]\]",
    "award": r"^\[\[award\]\]",
    "not_judged": r"^\[\[not_judged\]\]",
    "differs": r"^\[\[differs\]\]",
    "case": r"^\[\[rule\.case\]\]",
    "check": r"^\[rule\.check\]",
    "cap": r"^\[rule\.cap\]",
    "breach": r"^\[rule\.breach\]",
}


def _first_fault(error: ValidationError, text: str) -> str:
    fault = error.errors()[0]
    message = re.sub(r"^Value error, ", "", fault["msg"]).rstrip(".")
    place, where = list(fault["loc"]), ""
    start, stop = 0, len(text)
    while place and place[0] in HEADS:
        kind, number = place[0], place[1] if len(place) > 1 and isinstance(place[1], int) else 0
        heads = [m.start() for m in re.finditer(HEADS[kind], text[start:stop], re.M)]
        if kind == "rule" and number < len(heads):
            where = f" of rule {number + 1}"
        if number < len(heads):
            start, stop = (
                start + heads[number],
                start + heads[number + 1] if number + 1 < len(heads) else stop,
            )
        place = place[2:] if len(place) > 1 and isinstance(place[1], int) else place[1:]
    key = str(place[0]) if place else ""
    found = re.search(rf"^{re.escape(key)}\s*=", text[start:stop], re.M) if key else None
    line = text.count("\n", 0, start + (found.start() if found else 0)) + 1
    return (
        f"Line {line}: "
        + (f"'{key}'{where}: " if key else f"{where.strip()}: " if where else "")
        + message
        + "."
    )


def school_slugs() -> tuple[str, ...]:
    """Slugs of the schools that ship with the core."""
    return tuple(sorted(p.stem for p in SCHOOLS.glob("*.toml")))


@cache
def school(slug: str) -> RuleSet:
    """A shipped school by its slug. Raises KeyError when there is none."""
    if slug not in school_slugs():
        raise KeyError(slug)
    return read_rule_set((SCHOOLS / f"{slug}.toml").read_text("utf-8"))
