"""Taking a bundle into a school: all of it, or nothing."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, get_type_hints

from django.core.exceptions import ValidationError
from django.core.files import File
from django.db import IntegrityError, models, transaction
from pydantic import TypeAdapter
from pydantic import ValidationError as NotValid

from heath.assessment.mark_lines import keep_lines
from heath.assessment.models import (
    Answer,
    Cap,
    Correction,
    Mark,
    MarkChange,
    Override,
    Photograph,
    Piece,
    Remark,
)
from heath.assessment.snapshot import keep_later
from heath.briefs.models import Brief
from heath.briefs.vessels import checked_vessels
from heath.bundles import schema
from heath.bundles.opening import BundleRefused, own_document, picture, raster, read_piece
from heath.classes.models import Course, Level, Student
from heath.exemplars.models import Exemplar
from heath.moderation.models import Round, SecondMark, Settlement
from heath.people.models import Role, School, User
from heath.planner.models import Plan
from heath.records.models import Attendance, Gradebook, Lesson, MarkCorrection, Note, Weight
from heath.returns.models import ReturnSheet
from heath.returns.sheet import Sheet
from heath.rulebook.patterns import PATTERNS
from heath.rulebook.sets import RULE_SETS
from heath.rulebook.versions import DocumentKind
from heath.shelf.models import Container
from juniper.photograph.code import new_code

READY = (Piece.State.MARKING, Piece.State.MARKED, Piece.State.RETURNED)
FIGURES = {n: TypeAdapter(t) for n, t in get_type_hints(Sheet).items()}  # what a sheet says
LATER = ("made_at", "added_at", "accepted_at", "issued_at")  # set by the records themselves


@dataclass
class _Numbers:
    """What the bundle's numbers have become here, by kind."""

    people: dict[int, User]
    levels: dict[int, Level]
    containers: dict[int, Container]
    students: dict[int, Student]
    pieces: dict[int, Piece]


def take_in(
    school: School, data: Path, term: schema.TermOf, told: Callable[[int, int], None]
) -> list[Course]:
    """Take an unpacked bundle into a school.

    Args:
        school: where to.
        data: the bundle's folder.
        term: its term.json.
        told: is called with how many pieces of how many are through.

    Returns:
        The classes made.

    Raises:
        BundleRefused: something in it cannot be taken in; then nothing was, and no file is left.
    """
    taker = _Taker(school, data, told, _count(term))
    try:
        with transaction.atomic():
            courses = taker.term(term)
    except BundleRefused:
        taker.drop_files()
        raise
    except ValidationError as error:
        taker.drop_files()
        named = error.message_dict.items() if hasattr(error, "error_dict") else ()
        why = "; ".join(f"{n}: {' '.join(words)}" for n, words in named) or " ".join(error.messages)
        raise BundleRefused(f"Something in the bundle cannot be: {why[:300]}") from error
    except (IntegrityError, KeyError, TypeError, ValueError, NotValid) as error:
        taker.drop_files()
        raise BundleRefused(
            "The parts of this bundle do not fit together: a number leads nowhere, or something is"
            f" there twice ({type(error).__name__})."
        ) from error
    except BaseException:
        taker.drop_files()
        raise
    for piece in taker.numbers.pieces.values():
        if piece.state in READY:
            keep_later(piece.pk)
    return courses


def _count(term: schema.TermOf) -> int:
    briefs = [b for c in term.courses for b in c.briefs]
    return sum(len(b.pieces) + sum(len(r.seconds) for r in b.rounds) for b in briefs)


class _Taker:
    """Makes the records of one bundle."""

    def __init__(self, school: School, data: Path, told, many: int):
        self.school, self.data, self.told, self.many = school, data, told, many
        self.done = 0
        self.files: list[tuple[Any, str]] = []
        self.numbers = _Numbers({}, {}, {}, {}, {})

    def drop_files(self) -> None:
        """Remove the files that were copied for records that are not made."""
        for storage, name in self.files:
            with suppress(OSError):
                storage.delete(name)

    def save(self, record: models.Model, source, **more) -> Any:
        """Keep a record whose values come from a document, checked as a form's would be; what the
        record sets by itself when it is made is set as the document has it.
        """
        for name, value in more.items():
            setattr(record, name, value)
        # Relations are the database's to check, JSON was read by its own documents.
        left = (models.ForeignKey, models.JSONField)
        record.clean_fields(
            exclude=[
                f.name
                for f in record._meta.fields
                if isinstance(f, left) or (f.null and getattr(record, f.attname) is None)
            ]
        )
        record.save()
        later = {
            n: getattr(source, n)
            for n in LATER
            if getattr(source, n, None) is not None and hasattr(record, n)
        }
        if later:
            type(record)._base_manager.filter(pk=record.pk).update(**later)
        return record

    def of(self, model, document, *without: str, **more) -> Any:
        """A record of a model from a document's own values."""
        values = {
            name: getattr(document, name)
            for name in type(document).model_fields
            if name not in ("id", "made_by_id", "added_by_id", *without, *LATER)
        }
        if hasattr(model, "made_by"):
            more.setdefault("made_by", self.person(getattr(document, "made_by_id", None)))
        return self.save(model(**values), document, **more)

    def person(self, number: int | None) -> User | None:
        return None if number is None else self.numbers.people[number]

    def keep(self, record, field: str, path: Path) -> None:
        """Copy a file of the bundle to where a record's file is kept."""
        file = getattr(record, field)
        with path.open("rb") as source:
            file.save(path.name, File(source), save=False)
        self.files.append((file.storage, file.name))

    def term(self, term: schema.TermOf) -> list[Course]:
        for one in term.people:
            self.numbers.people[one.id] = self.marker(one)
        for level in term.levels:
            found = self.school.levels.filter(name=level.name).first()
            self.numbers.levels[level.id] = found or self.of(Level, level, school=self.school)
        for container in term.containers:
            self.numbers.containers[container.id] = self.container(container)
        for kind, told in ((RULE_SETS, term.rule_sets), (PATTERNS, term.patterns)):
            for version in told:
                if version.own:
                    self.document(version, kind)
        return [self.course(c) for c in term.courses]

    def marker(self, one: schema.Person) -> User:
        """Somebody who marked: an account without access, so that what they did keeps its name."""
        first, _, last = one.name.partition(" ")
        user = User(
            username=f"{one.name[:60].replace(' ', '.').lower()}-{secrets.token_hex(4)}",
            first_name=first[:150],
            last_name=last[:150],
            school=self.school,
            role=Role.ASSISTANT,
            is_active=False,
        )
        user.set_unusable_password()
        user.save()
        user.memberships.update(has_access=False)
        return user

    def container(self, one: schema.ContainerOf) -> Container:
        found = self.school.containers.filter(name=one.name, shape=one.shape).first()
        if found:
            return found
        record = Container(school=self.school)
        if one.picture:
            self.keep(record, "picture", picture(self.data, one.picture))
        fields = {n: getattr(one, n) for n in type(one).model_fields if n not in ("id", "picture")}
        made = self.save(record, one, **fields)
        _ = made.container_shape  # a shape that the core cannot read is no shape
        return made

    def document(self, one: schema.VersionOf, kind: DocumentKind) -> None:
        """A version of the school's own rules or pattern, made where it is not here: the same text
        may be here already, another not.
        """
        if one.slug in kind.slugs():
            raise BundleRefused(
                f"{one.slug} is a {kind.noun} that ships, and is told as an own one."
            )
        text, found = own_document(self.data, one.file, kind)
        if found.slug != one.slug:
            raise BundleRefused(f"{one.file} holds the {kind.noun} {found.slug}.")
        versions = kind.versions.objects.filter(school=self.school, slug=one.slug)
        here = versions.filter(number=one.number).first()
        if here is None:
            kind.versions.objects.create(
                school=self.school,
                slug=one.slug,
                number=one.number,
                text=text,
                why=one.why[:400],
                released_at=models.functions.Now(),
            )
        elif here.text != text or here.released_at is None:
            raise BundleRefused(
                f"The school has another {kind.noun} under the name {one.slug}, version"
                f" {one.number}, so that briefs would follow the wrong one."
            )

    def course(self, one: schema.CourseOf) -> Course:
        if Course.objects.filter(school=self.school, name=one.name, term=one.term).exists():
            raise BundleRefused(
                f"The school has a class {one.name}, {one.term} already. Change that one's name,"
                " then bring the bundle again."
            )
        course = self.save(
            Course(school=self.school, name=one.name, term=one.term, archived_at=one.archived_at),
            one,
        )
        for student in one.students:
            self.student(student, course)
        if one.gradebook:
            self.of(Gradebook, one.gradebook, course=course)
        for lesson in one.lessons:
            self.of(Lesson, lesson, course=course)
        for brief in one.briefs:
            self.brief(brief, course)
        for student in one.students:
            for correction in student.mark_corrections:
                self.of(
                    MarkCorrection,
                    correction,
                    "piece_id",
                    student=self.numbers.students[student.id],
                    piece=None
                    if correction.piece_id is None
                    else self.numbers.pieces[correction.piece_id],
                )
        return course

    def student(self, one: schema.StudentOf, course: Course) -> None:
        if one.id in self.numbers.students:  # made a piece for another of these classes
            return
        student = self.of(
            Student,
            one,
            "notes",
            "mark_corrections",
            "level_id",
            course=course,
            level=None if one.level_id is None else self.numbers.levels[one.level_id],
        )
        self.numbers.students[one.id] = student
        for note in one.notes:
            self.of(Note, note, student=student)

    def brief(self, one: schema.BriefOf, course: Course) -> Brief:
        skipped = ("weight", "plan", "pieces", "rounds", "shelf_container_id", "exemplar_id")
        container = one.shelf_container_id
        brief = self.of(
            Brief,
            one,
            *skipped,
            "vessels",
            course=course,
            vessels=checked_vessels(one.vessels, self.numbers.containers),
            shelf_container=None if container is None else self.numbers.containers[container],
        )
        _ = brief.rules, brief.pattern_in_force  # KeyError where the bundle does not bring them
        if one.weight is not None:
            Weight.objects.create(brief=brief, weight=one.weight)
        if one.plan is not None:
            self.of(Plan, one.plan, brief=brief)
        for number in one.pieces:
            self.piece(number, brief)
        if one.exemplar_id is not None:
            brief.exemplar = self.numbers.pieces[one.exemplar_id]
            brief.save(update_fields=["exemplar"])
        for round_ in one.rounds:
            self.round(round_, brief)
        return brief

    def round(self, one: schema.RoundOf, brief: Brief) -> None:
        made = self.of(Round, one, "seconds", brief=brief)
        briefs: dict[int, Brief] = {}
        for second in one.seconds:
            if second.marker_id not in briefs:
                copy = Brief.every.get(pk=brief.pk)
                copy.pk, copy._state.adding = None, True
                copy.second_of, copy.marker = brief, self.numbers.people[second.marker_id]
                copy.name = f"Second marking: {brief.name}"[:120]
                copy.names_hidden, copy.locked_at, copy.exemplar = True, None, None
                copy.save()
                briefs[second.marker_id] = copy
            record = SecondMark.objects.create(
                round=made,
                first=self.numbers.pieces[second.first_id],
                copy=self.piece(second.copy_id, briefs[second.marker_id]),
                marker=self.numbers.people[second.marker_id],
                again=second.again,
            )
            for settlement in second.settlements:
                self.of(
                    Settlement,
                    settlement,
                    "first_verdict",
                    second=record,
                    first_verdict=settlement.first_verdict.model_dump(mode="json"),
                )

    def piece(self, number: int, brief: Brief) -> Piece:
        one = read_piece(self.data, number)
        code = one.code if not Piece.objects.filter(code=one.code).exists() else new_code()
        piece = self.save(
            Piece(
                brief=brief,
                student=self.numbers.students[one.student_id],
                state=one.state,
                code=code,
                dominant=one.dominant,
                reopened=one.reopened,
                revision=one.revision,
            ),
            one,
        )
        self.numbers.pieces[number] = piece
        photographs = {p.id: self.photograph(p, piece) for p in one.photographs}
        kept = {"corrections": {c: n for p in photographs.values() for c, n in p[1].items()}}
        kept["overrides"] = self.words(Override, one.overrides, piece)
        kept["caps"] = self.words(Cap, one.caps, piece)
        kept["remarks"] = {
            r.id: self.of(
                Remark,
                r,
                "photograph_id",
                piece=piece,
                photograph=None if r.photograph_id is None else photographs[r.photograph_id][0],
            ).pk
            for r in one.remarks
        }
        for answer in one.answers:
            self.of(Answer, answer, piece=piece)
        for change in one.mark_changes:
            self.of(MarkChange, change, piece=piece)
        if one.mark is not None:
            self.mark(one.mark, piece, photographs, kept)
        elif one.state in (Piece.State.MARKED, Piece.State.RETURNED):
            raise BundleRefused(f"pieces/{number}.json has no mark and is told as marked.")
        for sheet in one.sheets:
            self.sheet(sheet, piece, {n: p[0].pk for n, p in photographs.items()})
        if one.attendance is not None:
            self.of(Attendance, one.attendance, piece=piece)
        if one.shown_as is not None:
            self.of(Exemplar, one.shown_as, piece=piece)
        self.done += 1
        self.told(self.done, self.many)
        return piece

    def words(self, model, rows, piece: Piece) -> dict[int, int]:
        """Marks set by hand, or ceilings: their numbers here by those of the bundle."""
        made: dict[int, int] = {}
        for row in sorted(rows, key=lambda r: r.id):
            replaced = made.get(row.replaces_id) if row.replaces_id is not None else None
            record = self.of(model, row, "replaces_id", piece=piece, replaces_id=replaced)
            made[row.id] = record.pk
        return made

    def photograph(self, one: schema.PhotographOf, piece: Piece):
        """A photograph with its corrections: (the record, their numbers here by the bundle's)."""
        record = Photograph(piece=piece, added_by=self.person(one.added_by_id))
        for name, path in one.files.items():
            opened = raster if name == "raster" else picture
            self.keep(record, name, opened(self.data, path))
        fields = {
            n: getattr(one, n)
            for n in type(one).model_fields
            if n not in ("id", "files", "corrections", "added_at", "added_by_id")
        }
        self.save(record, one, **fields)
        if record.scene is not None:
            record.core_scene()
            record.core_raster()
        made = {}
        for correction in one.corrections:
            kept = self.of(Correction, correction, photograph=record)
            _ = kept.places if kept.kind in ("handle", "container") else kept.as_core()
            made[correction.id] = kept.pk
        return record, made

    def mark(self, one: schema.MarkOf, piece: Piece, photographs, kept) -> None:
        in_force = one.in_force
        if in_force is not None:
            in_force = {
                **{n: [kept[n][x] for x in in_force[n] if x in kept[n]] for n in kept},
                "answers": in_force["answers"],
                "dominant": in_force["dominant"],
            }
        mark = self.save(
            Mark(piece=piece),
            one,
            photograph=photographs[one.photograph_id][0],
            rule_set=one.rule_set,
            rule_set_version=one.rule_set_version,
            core_version=one.core_version,
            score=one.score,
            verdict=one.verdict.model_dump(mode="json", exclude_unset=True),
            in_force=in_force,
            accepted_by=self.person(one.accepted_by_id),
        )
        keep_lines(mark)

    def sheet(self, one: schema.SheetOf, piece: Piece, photographs: dict[int, int]) -> None:
        figures = one.figures
        for name, value in figures.items():  # KeyError for what no sheet says
            FIGURES["course" if name == "class" else name].validate_python(value)
        figures["photograph"] = photographs[figures["photograph"]]
        self.save(
            ReturnSheet(piece=piece),
            one,
            version=one.version,
            figures=figures,
            withdrawn_at=one.withdrawn_at,
            issued_by=self.person(one.issued_by_id),
        )
