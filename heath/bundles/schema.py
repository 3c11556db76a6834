"""What a bundle says, as documents: the shape of term.json and of each piece's file.

The names are those of the records. `python manage.py bundle_schema` writes the JSON schema that
docs/bundle-schema.json publishes. A change that an older reader would misread raises VERSION.
"""

from __future__ import annotations

from datetime import date, datetime
from decimal import Decimal
from typing import Annotated, Any, Final, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, model_validator

from heath.briefs.models import SUPPORTS
from juniper.rules import KINDS

FORMAT: Final = "juniper-heath-term"
VERSION: Final = 2
Id = Annotated[int, Field(ge=0, lt=2**63)]
Name = Annotated[str, Field(max_length=200)]
Words = Annotated[str, Field(max_length=2000)]
Finite = Annotated[float, Field(allow_inf_nan=False)]
PathOf = Annotated[str, Field(max_length=120, pattern=r"^[a-z0-9][a-z0-9/._-]*$")]
Rows = Annotated[list[Any], Field(max_length=5000)]


class Document(BaseModel):
    """A part of a bundle: read from records by name, and nothing in it that is not named here."""

    model_config = ConfigDict(from_attributes=True, extra="forbid")


class Person(Document):
    """Somebody who taught or marked."""

    id: Id
    name: Name
    role: Name


class LevelOf(Document):
    """A level with its step card."""

    id: Id
    name: Name
    place: int
    asks: list[Words]
    shown: list[Name]


class ContainerOf(Document):
    """A container of the shelf."""

    id: Id
    name: Name
    height_cm: Decimal | None
    width_cm: Decimal | None
    shape: dict[str, Any] | None
    sides: Rows
    picture_width: int
    picture_height: int
    by_card: bool
    made_of: Words = ""
    picture: PathOf | None = None


class VersionOf(Document):
    """A version of a rule set or pattern that briefs or marks rest on: the school's `own`, or
    shipped.
    """

    slug: Name
    number: int
    own: bool
    why: Words
    file: PathOf


class CorrectionOf(Document):
    """What somebody put right on a picture."""

    id: Id
    gesture: Name
    kind: Name
    handle: Name
    x: Finite | None
    y: Finite | None
    what: dict[str, Any] | None
    undone: bool
    made_by_id: Id | None
    made_at: AwareDatetime


class PhotographOf(Document):
    """A photograph of a view, what was seen in it, and what was put right."""

    id: Id
    view: Name
    current: bool
    width: int
    height: int
    raster_scale: Finite
    digest: Name
    size: int
    taken: Name
    camera: Name
    focal: Finite
    card: dict[str, Any] | None
    advice: Rows
    scene: dict[str, Any] | None
    core_version: Name
    fault: Words
    added_at: AwareDatetime
    added_by_id: Id | None
    files: dict[Literal["full", "screen", "wall", "thumb", "raster"], PathOf]
    corrections: list[CorrectionOf]


class OverrideOf(Document):
    """A rule's mark set by hand."""

    id: Id
    rule: Name
    score: Finite | None
    old_score: Finite | None
    reason: Words
    replaces_id: Id | None
    taken_back: bool
    made_by_id: Id | None
    made_at: AwareDatetime


class CapOf(Document):
    """A ceiling."""

    id: Id
    family: Name
    at: Finite
    reason: Words
    replaces_id: Id | None
    taken_back: bool
    made_by_id: Id | None
    made_at: AwareDatetime


class RemarkOf(Document):
    """A remark."""

    id: Id
    photograph_id: Id | None
    x: Finite | None
    y: Finite | None
    words: Words
    taken_back: bool
    made_by_id: Id | None
    made_at: AwareDatetime


class AnswerOf(Document):
    """An answer by eye."""

    rule: Name
    value: Finite
    made_by_id: Id | None
    made_at: AwareDatetime


class LineOf(Document):
    """A line of a verdict, as the command line writes it; older marks know less."""

    rule: Name
    title: Name | None = None
    family: Name | None = None
    measure: Name
    value: Finite | None
    uncertainty: Finite | None = None
    band: Annotated[list[Finite | None], Field(min_length=4, max_length=4)] | None = None
    score: Finite | None
    weight: Finite
    state: Name
    borderline: bool
    advice: Words
    overridden: Words | None = None


class VerdictOf(Document):
    """A verdict, as the command line writes it."""

    model_config = ConfigDict(from_attributes=True, extra="allow")
    rules: Name
    version: Name
    score: Finite | None
    award: Name = ""
    families: dict[Name, Finite | None] = {}
    next_cut: Words = ""
    next_cut_rule: Name = ""
    lines: Annotated[list[LineOf], Field(max_length=400)]


class MarkOf(Document):
    """A given mark."""

    photograph_id: Id
    rule_set: Name
    rule_set_version: Name
    core_version: Name
    score: Finite | None
    verdict: VerdictOf
    in_force: dict[str, Any] | None
    accepted_by_id: Id | None
    accepted_at: AwareDatetime


class ChangeOf(Document):
    """A change of a mark."""

    old: Finite | None
    new: Finite | None
    why: Words
    made_by_id: Id | None
    made_at: AwareDatetime


class SheetOf(Document):
    """An issue of a return sheet; its link is not taken along."""

    version: int
    figures: dict[str, Any]
    issued_by_id: Id | None
    issued_at: AwareDatetime
    withdrawn_at: AwareDatetime | None


class AttendanceOf(Document):
    """How a piece came, in the instructor's word."""

    came: Name
    reason: Words
    made_by_id: Id | None


class ExemplarOf(Document):
    """A piece on the exemplar shelf."""

    rules: list[Name]
    words: Words
    state: Name
    said: Words


class PieceOf(Document):
    """One piece: a file pieces/ID.json of its own."""

    id: Id
    student_id: Id
    state: Name
    code: Name
    dominant: Name
    reopened: bool
    revision: int
    photographs: list[PhotographOf]
    overrides: list[OverrideOf]
    caps: list[CapOf]
    remarks: list[RemarkOf]
    answers: list[AnswerOf]
    mark: MarkOf | None
    mark_changes: list[ChangeOf]
    sheets: list[SheetOf]
    attendance: AttendanceOf | None
    shown_as: ExemplarOf | None


class SettlementOf(Document):
    """How two marks were settled."""

    mark: Finite
    first_mark: Finite
    second_mark: Finite
    first_verdict: VerdictOf
    reason: Words
    made_by_id: Id | None
    made_at: AwareDatetime


class SecondOf(Document):
    """A piece that was marked a second time; the copy has a file of its own."""

    first_id: Id
    copy_id: Id
    marker_id: Id
    again: bool
    settlements: list[SettlementOf]


class RoundOf(Document):
    """A second marking."""

    seed: int
    share: Finite
    again: int
    made_by_id: Id | None
    made_at: AwareDatetime
    seconds: list[SecondOf]


class PlanOf(Document):
    """A brief's plan."""

    tips: dict[str, Any]
    tips_for: Name
    depth_cm: Decimal | None
    longest_cm: Decimal | None
    transport: Name = "none"
    way_minutes: int = 0
    lesson_at: AwareDatetime | None = None
    lesson_minutes: int = 120
    people: int = 1
    clear: bool | None
    stems: Rows
    variant: Name
    items: Rows
    answers: dict[str, Any]
    pieces: int | None

    @model_validator(mode="before")
    @classmethod
    def _older(cls, told: Any) -> Any:
        """Bundles of before lessons were planned say only whether pieces are carried."""
        if isinstance(told, dict) and "carried" in told:
            told = dict(told)
            told.setdefault("transport", "carried" if told.pop("carried") else "none")
        return told


class BriefOf(Document):
    """A brief with the numbers of its pieces."""

    id: Id
    name: Name
    shelf_container_id: Id | None
    kind: Name = KINDS[0]
    vessels: Rows = []
    support: Name = SUPPORTS[0]
    container: Name
    container_height_cm: Decimal
    container_width_cm: Decimal
    viewpoint: Name
    form: Name
    pattern: Name = ""
    pattern_version: int | None = None
    rule_set: Name
    rule_set_version: int | None
    scheme: Name
    with_green: bool
    split: Name
    setting: Name
    near: list[Name]
    count_parts: bool = False
    made_of: Name
    rings: Name
    material: Name
    most_kinds: int
    wished: Rows
    pass_mark: Decimal
    views: list[Name]
    closes_at: AwareDatetime | None
    names_hidden: bool
    locked_at: AwareDatetime | None
    exemplar_id: Id | None
    made_at: AwareDatetime
    weight: Decimal | None
    plan: PlanOf | None
    pieces: list[Id]
    rounds: list[RoundOf]


class NoteOf(Document):
    """A private note."""

    words: Words
    made_by_id: Id | None
    made_at: AwareDatetime


class MarkCorrectionOf(Document):
    """A corrected mark of the gradebook."""

    piece_id: Id | None
    mark: Decimal
    reason: Words
    taken_back: bool
    made_by_id: Id | None
    made_at: AwareDatetime


class StudentOf(Document):
    """A student of a class; in a bundle without names a code in the place of the name."""

    id: Id
    name: Name
    sorting: Name
    email: Name
    number: Name
    level_id: Id | None
    removed_at: AwareDatetime | None
    notes: list[NoteOf]
    mark_corrections: list[MarkCorrectionOf]


class GradebookOf(Document):
    """How the term's mark is made."""

    best: int | None
    late_off: Decimal
    missing_is_nought: bool
    pass_mark: Decimal
    awards_of: Name


class LessonOf(Document):
    """A lesson."""

    name: Name
    taught_on: date
    about: Name
    made_by_id: Id | None


class CourseOf(Document):
    """A class."""

    id: Id
    name: Name
    term: Name
    archived_at: AwareDatetime | None
    gradebook: GradebookOf | None
    lessons: list[LessonOf]
    students: list[StudentOf]
    briefs: list[BriefOf]


class TermOf(Document):
    """term.json: everything but the pieces, which have a file each."""

    format: Literal["juniper-heath-term"]
    version: Literal[1, 2]
    core: Name
    made_at: datetime
    named: bool
    school: Name
    people: list[Person]
    levels: list[LevelOf]
    containers: list[ContainerOf]
    rule_sets: list[VersionOf]
    patterns: list[VersionOf] = []
    courses: list[CourseOf]
