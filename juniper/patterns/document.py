"""Patterns as TOML documents: how a piece is built up, from its first stem to the last look.

A pattern carries what is placed in which order, each stem's place and length, how many go in, what
holds them, which measure marks a step and the sentence that teaches it. The plan, the student's
list and the mark read the same document.
"""

from __future__ import annotations

import re
from dataclasses import asdict, dataclass
from functools import cache
from pathlib import Path
from typing import Annotated, Any, Literal

import tomlkit
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from juniper.documents import HostileDocument, read_toml
from juniper.measures.catalogue import DEFINITIONS
from juniper.rules.document import FORMS, KINDS, STAGES

SHIPPED = Path(__file__).parent / "shipped"
ROLES = ("line", "focal", "mass", "filler", "foliage", "accent")
HOLDINGS = (
    "pin holder",
    "folded mesh",
    "tape grid",
    "neck",
    "interlaced foliage",
    "glass pebbles",
    "coiled wire",
    "flower heads",
    "twine",
    "wired rope",
)
# what a mechanic may depend on: the vessel, as far as holding depends on it
VESSELS = ("any", "shallow", "deep", "narrow", "clear", "basket")
VARIANTS = ("thrifty", "usual", "lavish")
# what is filled into a step's sentence
BLANKS = {
    "where": "where its first stem stands, in words",
    "cut": "what its first stem is cut to",
    "shows": "how much of its first stem shows",
    "lean": "how far its first stem leans, in words",
    "count": "how many go in",
}
BLANK = re.compile(r"\{([a-z]+)\}")


class FaultyPattern(ValueError):
    """A pattern document that cannot be used; the message says what is wrong and where."""


@dataclass(frozen=True)
class PatternStem:
    """A stem of a pattern: where its tip stands, or how long it is.

    Either `side` and `up` place its tip, in parts of half the breadth and of the height over the
    rim; or its length is `times` that `of` something, the 'container height', the 'container width'
    or another stem of the pattern, along a `lean` in degrees (right above 0). With `whole` the
    length is that of the whole stem, not of what shows. Where the rules in force have a band for
    `measure` or `lean_measure`, its middle takes the place of the number here. `toward` is the turn
    toward the viewer in degrees, None to stand in and out by turns; `count` how many there are of
    it, and `ring` whether they stand round.
    """

    name: str
    role: str = "line"
    side: float | None = None
    up: float | None = None
    of: str = ""
    times: float | None = None
    whole: bool = False
    measure: str = ""
    lean: float = 0.0
    lean_measure: str = ""
    toward: float | None = None
    count: int = 1
    ring: bool = False


@dataclass(frozen=True)
class PatternStep:
    """One step of the making: `what` is placed, what to `mind` (with BLANKS filled in from the
    plan), the `role` of what is placed and the `stems` of the pattern that are; the `measures` that
    mark it, of which the first that the rules know counts; and the stage that is reached with it.
    """

    what: str
    mind: str
    role: str = ""
    stems: tuple[str, ...] = ()
    measures: tuple[str, ...] = ()
    stage: str = ""


@dataclass(frozen=True)
class Mechanic:
    """What holds the stems in a vessel, and what to say of it."""

    when: str
    hold: str
    says: str = ""


@dataclass(frozen=True)
class Pattern:
    """A pattern in one version. `forms` are those that it makes, the first its own outline; `with_`
    the rule sets (by the start of their slugs) whose way it is; `counts` how many stems of a role
    go in, thrifty, usual and lavish, for roles that it settles itself.
    """

    slug: str
    name: str
    version: str
    source: str
    about: str
    kind: str
    forms: tuple[str, ...]
    stems: tuple[PatternStem, ...]
    steps: tuple[PatternStep, ...]
    with_: tuple[str, ...] = ()
    mechanics: tuple[Mechanic, ...] = ()
    counts: tuple[tuple[str, tuple[int, int, int]], ...] = ()

    @property
    def by_name(self) -> dict[str, PatternStem]:
        """The stems by what they are called."""
        return {s.name: s for s in self.stems}

    @property
    def rings(self) -> tuple[PatternStem, ...]:
        """The stems that stand round, the outermost first."""
        return tuple(sorted((s for s in self.stems if s.ring), key=lambda s: -abs(s.lean)))

    @property
    def stages(self) -> tuple[str, ...]:
        """The stages at which to stop and look, in order."""
        return tuple(s.stage for s in self.steps if s.stage)

    def holds(self, vessel: frozenset[str]) -> Mechanic | None:
        """The first mechanic that suits a vessel of some traits (of VESSELS)."""
        return next((m for m in self.mechanics if m.when == "any" or m.when in vessel), None)


Part = Annotated[float, Field(ge=-4, le=4)]
Angle = Annotated[float, Field(ge=-180, le=180)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class _StemDocument(_Strict):
    name: str = Field(min_length=2, max_length=40)
    role: Literal["line", "focal", "mass", "filler", "foliage", "accent"] = "line"
    side: Part | None = None
    up: Part | None = None
    of: str = Field(default="", max_length=40)
    times: float | None = Field(default=None, gt=0, le=10)
    whole: bool = False
    measure: str = ""
    lean: Angle = 0.0
    lean_measure: str = ""
    toward: Angle | None = None
    count: int = Field(default=1, ge=1, le=99)
    ring: bool = False

    @model_validator(mode="after")
    def _placed(self):
        by_place = self.side is not None and self.up is not None
        by_length = bool(self.of) and self.times is not None
        if by_place == by_length:
            raise ValueError(
                f"the stem '{self.name}' needs a place (side and up) or a length (of and times),"
                " one of the two"
            )
        for name in (self.measure, self.lean_measure):
            if name and name not in DEFINITIONS:
                raise ValueError(f"no measure is called '{name}'")
        return self


class _StepDocument(_Strict):
    what: str = Field(min_length=3, max_length=80)
    mind: str = Field(min_length=5, max_length=400)
    role: Literal["", "line", "focal", "mass", "filler", "foliage", "accent"] = ""
    stems: list[str] = Field(default=[], max_length=12)
    measures: list[str] = Field(default=[], max_length=8)
    stage: Literal["", "foliage", "lines", "before", "finished"] = ""

    @model_validator(mode="after")
    def _known(self):
        for name in self.measures:
            if name not in DEFINITIONS:
                raise ValueError(f"no measure is called '{name}'")
        unknown = set(BLANK.findall(self.mind)) - set(BLANKS)
        if unknown or set("{}") & set(BLANK.sub("", self.mind)):
            raise ValueError(
                f"only {', '.join('{' + b + '}' for b in BLANKS)} can be filled into a sentence"
            )
        if BLANK.findall(self.mind) and not self.stems:
            raise ValueError(f"the step '{self.what}' names no stem to fill its sentence from")
        return self


class _MechanicDocument(_Strict):
    when: Literal["any", "shallow", "deep", "narrow", "clear", "basket"] = "any"
    hold: str
    says: str = Field(default="", max_length=300)

    @model_validator(mode="after")
    def _known(self):
        if self.hold not in HOLDINGS:
            raise ValueError(f"nothing holds by '{self.hold}'; known are: {', '.join(HOLDINGS)}")
        return self


Count = Annotated[list[Annotated[int, Field(ge=0, le=200)]], Field(min_length=3, max_length=3)]


class _Document(_Strict):
    slug: str = Field(pattern=r"^[a-z][a-z0-9-]{1,60}$")
    name: str = Field(min_length=3, max_length=80)
    version: str = Field(min_length=1, max_length=20)
    source: str = Field(min_length=3, max_length=200)
    about: str = Field(min_length=5, max_length=400)
    kind: str = KINDS[0]
    forms: list[str] = Field(min_length=1, max_length=12)
    with_: list[str] = Field(default=[], alias="with", max_length=12)
    counts: dict[str, Count] = {}
    stem: list[_StemDocument] = Field(min_length=1, max_length=24)
    step: list[_StepDocument] = Field(min_length=3, max_length=24)
    mechanic: list[_MechanicDocument] = Field(default=[], max_length=12)

    @model_validator(mode="after")
    def _known(self):
        if self.kind not in KINDS:
            raise ValueError(f"no piece is a '{self.kind}'; known are: {', '.join(KINDS)}")
        for form in self.forms:
            if form not in FORMS:
                raise ValueError(f"no form is called '{form}'; known are: {', '.join(FORMS)}")
        for role in self.counts:
            if role not in ROLES:
                raise ValueError(f"'{role}' is no role; known are: {', '.join(ROLES)}")
        return self

    @model_validator(mode="after")
    def _stems_whole(self):
        names = [s.name for s in self.stem]
        twice = {n for n in names if names.count(n) > 1}
        if twice:
            raise ValueError(f"the stem '{sorted(twice)[0]}' stands twice")
        before: set[str] = {"container height", "container width"}
        for stem in self.stem:
            if stem.of and stem.of not in before:
                raise ValueError(
                    f"the stem '{stem.name}' is measured by '{stem.of}', which is neither the"
                    " container's height or width nor a stem before it"
                )
            before.add(stem.name)
        return self

    @model_validator(mode="after")
    def _steps_whole(self):
        names = [s.name for s in self.stem]
        for step in self.step:
            for name in step.stems:
                if name not in names:
                    raise ValueError(f"the step '{step.what}' places '{name}', which is no stem")
        placed = [n for step in self.step for n in step.stems]
        missing = [n for n in names if n not in placed]
        if missing:
            raise ValueError(f"no step places the stem '{missing[0]}'")
        stages = [s.stage for s in self.step if s.stage]
        if stages != [s for s in STAGES if s in stages]:
            raise ValueError(f"stages come once each and in this order: {', '.join(STAGES)}")
        return self


def read_pattern(text: str) -> Pattern:
    """Read a pattern from TOML text. Raises FaultyPattern, naming the line where it can."""
    try:
        raw = read_toml(text)
    except HostileDocument as error:
        raise FaultyPattern(f"The pattern is not read. {error}") from error
    except (ValueError, RecursionError) as error:
        raise FaultyPattern(f"The pattern is not sound TOML: {error}.") from error
    try:
        d = _Document.model_validate(raw)
    except ValidationError as error:
        raise FaultyPattern(_first_fault(error, text)) from error
    return Pattern(
        d.slug,
        d.name,
        d.version,
        d.source,
        d.about,
        d.kind,
        tuple(d.forms),
        tuple(PatternStem(**s.model_dump()) for s in d.stem),
        tuple(
            PatternStep(s.what, s.mind, s.role, tuple(s.stems), tuple(s.measures), s.stage)
            for s in d.step
        ),
        tuple(d.with_),
        tuple(Mechanic(m.when, m.hold, m.says) for m in d.mechanic),
        tuple((role, (n[0], n[1], n[2])) for role, n in d.counts.items()),
    )


def write_pattern(pattern: Pattern) -> str:
    """The pattern as a TOML document; read_pattern() gives it back the same."""
    document: dict[str, Any] = {
        key: getattr(pattern, key) for key in ("slug", "name", "version", "source", "about", "kind")
    }
    document["forms"] = list(pattern.forms)
    if pattern.with_:
        document["with"] = list(pattern.with_)
    if pattern.counts:
        document["counts"] = {role: list(n) for role, n in pattern.counts}
    document["stem"] = [_written(asdict(s), PatternStem("")) for s in pattern.stems]
    document["step"] = [_written(asdict(s), PatternStep("", "")) for s in pattern.steps]
    if pattern.mechanics:
        document["mechanic"] = [_written(asdict(m), Mechanic("", "")) for m in pattern.mechanics]
    return tomlkit.dumps(document)


def _written(table: dict[str, Any], usual: Any) -> dict[str, Any]:
    """A table without what is as usual."""
    return {
        k: list(v) if isinstance(v, tuple) else v
        for k, v in table.items()
        if v is not None and v != getattr(usual, k)
    }


HEADS = {"stem": r"^\[\[stem\]\]", "step": r"^\[\[step\]\]", "mechanic": r"^\[\[mechanic\]\]"}


def _first_fault(error: ValidationError, text: str) -> str:
    fault = error.errors()[0]
    message = re.sub(r"^Value error, ", "", fault["msg"]).rstrip(".")
    place, line = list(fault["loc"]), 1
    start, stop, where = 0, len(text), ""
    if place and place[0] in HEADS and len(place) > 1 and isinstance(place[1], int):
        heads = [m.start() for m in re.finditer(HEADS[str(place[0])], text, re.M)]
        if place[1] < len(heads):
            start = heads[place[1]]
            stop = heads[place[1] + 1] if place[1] + 1 < len(heads) else len(text)
        where = f" of {place[0]} {place[1] + 1}"
        place = place[2:]
    key = str(place[0]) if place else ""
    found = re.search(rf"^{re.escape(key)}\s*=", text[start:stop], re.M) if key else None
    line = text.count("\n", 0, start + (found.start() if found else 0)) + 1
    return f"Line {line}: " + (f"'{key}'{where}: " if key else "") + message + "."


def pattern_slugs() -> tuple[str, ...]:
    """Slugs of the patterns that ship with the core."""
    return tuple(sorted(p.stem for p in SHIPPED.glob("*.toml")))


@cache
def shipped_pattern(slug: str) -> Pattern:
    """A shipped pattern by its slug. Raises KeyError when there is none."""
    if slug not in pattern_slugs():
        raise KeyError(slug)
    return read_pattern((SHIPPED / f"{slug}.toml").read_text("utf-8"))


def usual_pattern(form: str, rules: str = "", kind: str = KINDS[0]) -> Pattern:
    """The shipped pattern for a form and kind of piece under a rule set (its slug), where a brief
    names none: one that is that school's way, else the plain one of the kind or the form, else the
    triangle's.
    """
    for one in map(shipped_pattern, pattern_slugs()):
        if one.kind == kind and any(rules.startswith(w) for w in one.with_):
            return one
    if kind in PLAIN:
        return shipped_pattern(PLAIN[kind])
    return shipped_pattern(USUAL.get(form, USUAL["symmetrical triangle"]))


# the plain pattern of each kind of piece but a single vessel, and of each form in that
PLAIN = {
    "several vessels": "grouped-vessels",
    "hand-tied": "hand-tied-spiral",
    "on an edge": "garland",
}
USUAL = {
    "symmetrical triangle": "triangle",
    "right-angle L": "right-angle-l",
    "crescent": "crescent",
    "S-curve": "s-curve",
    "vertical": "vertical",
    "horizontal": "horizontal",
    "round": "round",
    "fan": "fan",
    "three-stem": "three-stem",
    "cascade": "cascade",
}
