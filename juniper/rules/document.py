"""Rule sets as TOML documents: read, checked, and made into frozen values."""

from __future__ import annotations

import re
import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from juniper.measures.measuring import GEOMETRY
from juniper.rules.band import Band

SCHOOLS = Path(__file__).parent / "schools"
MEASURES = frozenset(GEOMETRY) | {
    "outline_fill", "largest_gap", "twin_tips", "foliage_share", "flower_colours", "dominant_share",
    "lightness_range", "focal_dominance", "scheme",
}  # fmt: skip
FAMILIES = ("proportion", "balance", "focal", "colour", "line", "finish")
FORMS = (
    "symmetrical triangle", "right-angle L", "crescent", "S-curve", "vertical", "horizontal", "round", "fan",
)  # fmt: skip
ASYMMETRICAL = frozenset({"right-angle L", "crescent", "S-curve"})
VIEWPOINTS = ("front only", "all round", "seated at a table")


class FaultyRuleSet(ValueError):
    """A rule set document that cannot be used; the message says what is wrong and where."""


@dataclass(frozen=True)
class Brief:
    """What a piece was asked to be, as far as the rules depend on it. Lengths in centimetres."""

    form: str = "symmetrical triangle"
    viewpoint: str = "front only"
    scheme: str = ""
    container_height_cm: float | None = None
    container_width_cm: float | None = None
    pass_mark: float = 50.0

    @property
    def symmetrical(self) -> bool:
        """Whether the form asks for like weight on both sides."""
        return self.form not in ASYMMETRICAL


@dataclass(frozen=True)
class Rule:
    """One taught rule: which measure, in which band, with what weight, and what to say."""

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
    forms: str = "all"
    unless: tuple[str, ...] = ()

    def applies(self, brief: Brief) -> bool:
        """Whether the brief's form and viewpoint call for this rule."""
        if brief.viewpoint in self.unless or brief.form in self.unless:
            return False
        return self.forms == "all" or (self.forms == "symmetrical") == brief.symmetrical


@dataclass(frozen=True)
class RuleSet:
    """A school's rules in one version."""

    slug: str
    name: str
    version: str
    source: str
    about: str
    rules: tuple[Rule, ...]


Edge = Annotated[float, Field(allow_inf_nan=True)]


class _RuleDocument(BaseModel):
    model_config = ConfigDict(extra="forbid")
    code: str = Field(pattern=r"^[a-z][a-z0-9-]{1,40}$")
    title: str = Field(min_length=2, max_length=80)
    family: Literal["proportion", "balance", "focal", "colour", "line", "finish"]
    measure: str
    band: list[Edge] = Field(min_length=4, max_length=4)
    weight: float = Field(gt=0, le=20)
    taught: str = Field(min_length=5, max_length=400)
    why: str = Field(min_length=5, max_length=400)
    below: str = ""
    above: str = ""
    forms: Literal["all", "symmetrical", "asymmetrical"] = "all"
    unless: list[str] = []

    @field_validator("measure")
    @classmethod
    def _known(cls, name):
        if name not in MEASURES:
            raise ValueError(f"no measure is called '{name}'")
        return name

    @field_validator("band")
    @classmethod
    def _rising(cls, edges):
        Band(*edges)
        return edges

    @field_validator("unless")
    @classmethod
    def _words(cls, words):
        for word in words:
            if word not in FORMS and word not in VIEWPOINTS:
                raise ValueError(f"'{word}' is neither a form nor a viewpoint")
        return words


class _Document(BaseModel):
    model_config = ConfigDict(extra="forbid")
    slug: str = Field(pattern=r"^[a-z][a-z0-9-]{2,60}$")
    name: str = Field(min_length=3, max_length=80)
    version: str = Field(min_length=1, max_length=20)
    source: str
    about: str = ""
    rule: list[_RuleDocument] = Field(min_length=1, max_length=60)

    @model_validator(mode="after")
    def _distinct(self):
        codes = [r.code for r in self.rule]
        twice = {c for c in codes if codes.count(c) > 1}
        if twice:
            raise ValueError(f"the rule '{sorted(twice)[0]}' stands twice")
        return self


def read_rule_set(text: str) -> RuleSet:
    """Read a rule set from TOML text. Raises FaultyRuleSet, naming the line where it can."""
    try:
        raw = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise FaultyRuleSet(f"The rule set is not sound TOML: {error}.") from error
    try:
        document = _Document.model_validate(raw)
    except ValidationError as error:
        raise FaultyRuleSet(_first_fault(error, text)) from error
    rules = tuple(
        Rule(**{**r.model_dump(exclude={"band", "unless"}), "band": Band(*r.band), "unless": tuple(r.unless)})
        for r in document.rule
    )
    return RuleSet(document.slug, document.name, document.version, document.source, document.about, rules)


def _first_fault(error: ValidationError, text: str) -> str:
    fault = error.errors()[0]
    place = list(fault["loc"])
    message = re.sub(r"^Value error, ", "", fault["msg"])
    where, start, stop = "", 0, len(text)
    if len(place) >= 2 and place[0] == "rule":
        heads = [m.start() for m in re.finditer(r"^\[\[rule\]\]", text, re.M)]
        if place[1] < len(heads):
            start = heads[place[1]]
            stop = heads[place[1] + 1] if place[1] + 1 < len(heads) else len(text)
        where = f" of rule {place[1] + 1}"
        place = place[2:]
    key = str(place[0]) if place else ""
    found = re.search(rf"^{re.escape(key)}\s*=", text[start:stop], re.M) if key else None
    line = text.count("\n", 0, start + (found.start() if found else 0)) + 1
    return f"Line {line}: " + (f"'{key}'{where}: " if key else f"{where.strip()}: " if where else "") + message + "."


def school_slugs() -> tuple[str, ...]:
    """Slugs of the schools that ship with the core."""
    return tuple(sorted(p.stem for p in SCHOOLS.glob("*.toml")))


@cache
def school(slug: str) -> RuleSet:
    """A shipped school by its slug. Raises KeyError when there is none."""
    if slug not in school_slugs():
        raise KeyError(slug)
    return read_rule_set((SCHOOLS / f"{slug}.toml").read_text("utf-8"))
