"""A term as one open bundle: BagIt with JSON, photographs, rule sets, tables, annotations and
palettes. Pieces are written one after another, so that memory does not grow with the term.
"""

from __future__ import annotations

import json
import re
import shutil
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile

import bagit
import cv2
import numpy as np
from django.db.models import Prefetch
from django.utils import timezone
from pydantic import BaseModel

from heath.assessment.models import Correction, Photograph, Piece
from heath.assessment.photographs import card_of
from heath.bundles import schema
from heath.bundles.annotations import annotations_of
from heath.bundles.tables import Tables
from heath.classes.models import Course, Student
from heath.moderation.models import Round, SecondMark
from heath.people.models import School, User
from heath.rulebook.patterns import PATTERNS
from heath.rulebook.sets import RULE_SETS
from heath.rulebook.versions import DocumentKind
from juniper import VERSION
from juniper.colour import flowers_of
from juniper.colour.formats import Colour, to_gpl
from juniper.photograph.correction import without_card
from juniper.rules import school_slugs

FOLDERS = ("pieces", "photographs", "rule-sets", "patterns", "annotations", "palettes", "shelf")
COPIES = ("full", "screen", "wall", "thumb")
QUALITY = 92  # of a picture that is saved again without its card
CHUNK = 1 << 20  # bytes copied at a time
# Keys under which stands what people wrote; a name may stand in it.
WRITTEN = frozenset(
    {
        "capped",
        "capped_by",
        "changed",
        "fault",
        "overridden",
        "reason",
        "said",
        "settled",
        "student",
        "why",
        "words",
    }
)
STORED = (".jpg", ".png")  # compressed already


@dataclass
class Codes:
    """What stands in the place of names: nothing changes where the bundle has names."""

    named: bool
    students: dict[int, str] = field(default_factory=dict)
    people: dict[int, str] = field(default_factory=dict)
    words: dict[str, str] = field(default_factory=dict)

    def student(self, one: Student) -> str:
        """A student's name, or a code."""
        if self.named:
            return one.name
        code = self.students.setdefault(one.pk, f"Student {len(self.students) + 1:03d}")
        self.words[one.name] = code
        return code

    def person(self, one: User) -> str:
        """A marker's name, or a code."""
        if self.named:
            return one.shown_name
        code = self.people.setdefault(one.pk, f"Marker {len(self.people) + 1}")
        self.words[one.shown_name] = code
        return code

    def clean(self, text: str) -> str:
        """A text without the names that are known, whole or the first of them."""
        if self.named:
            return text
        for name, code in self.words.items():
            for known in (name, name.split()[0]):
                text = re.sub(rf"\b{re.escape(known)}\b", code, text)
        return text

    def cleaned(self, value, key: str = ""):
        """A value of JSON in which what people wrote has codes for names."""
        if self.named:
            return value
        if isinstance(value, str):
            return self.clean(value) if key in WRITTEN else value
        if isinstance(value, dict):
            return {k: self.cleaned(v, k) for k, v in value.items()}
        return [self.cleaned(v, key) for v in value] if isinstance(value, list) else value


def write_term(
    school: School,
    courses: Sequence[Course],
    named: bool,
    folder: Path,
    told: Callable[[int, int], None],
) -> Path:
    """Write a bundle of some classes and give the path of its ZIP.

    Args:
        school: whose classes they are.
        courses: the classes.
        named: with names, addresses, numbers and private notes, or with codes in their place and
            the reference cards, which carry names, painted over.
        folder: an empty folder for it.
        told: is called with how many pieces of how many are through.
    """
    root = folder / f"juniper-heath-{timezone.localdate().isoformat()}"
    for name in FOLDERS:
        (root / name).mkdir(parents=True)
    codes = Codes(named)
    for membership in school.memberships.select_related("user").order_by("pk"):
        codes.person(membership.user)
    for course in courses:
        for student in course.students.order_by("pk"):
            codes.student(student)
    many = Piece.objects.filter(brief__course__in=courses).count()
    writer = _Writer(root, codes, lambda done: told(done, many))
    document = writer.term(school, courses)
    _dump(root / "term.json", document)
    writer.tables.close()
    bag = bagit.make_bag(
        str(root),
        {
            "Source-Organization": school.name,
            "External-Description": "Classes, pieces, photographs and marks of floral design",
            "Bag-Software-Agent": f"Juniper Heath {VERSION}",
        },
        checksums=["sha256"],
    )
    return _zipped(Path(str(bag)), folder)


def _zipped(root: Path, folder: Path) -> Path:
    """A folder as ZIP beside it; what is written is removed as it goes."""
    path = folder / f"{root.name}.zip"
    with ZipFile(path, "w", ZIP_DEFLATED) as archive:
        for file in sorted(p for p in root.rglob("*") if p.is_file()):
            how = ZIP_STORED if file.suffix in STORED else ZIP_DEFLATED
            archive.write(file, f"{root.name}/{file.relative_to(root)}", how)
            file.unlink()
    shutil.rmtree(root)
    return path


def _dump(path: Path, document: BaseModel) -> None:
    path.write_text(document.model_dump_json(indent=1), encoding="utf-8")


class _Writer:
    """Writes the parts of one bundle."""

    def __init__(self, root: Path, codes: Codes, done: Callable[[int], None]):
        self.root, self.codes, self.done = root, codes, done
        self.tables = Tables(root, codes.named)
        self.people: dict[int, User] = {}
        # by what the kind of document is called, then by slug and number
        self.documents: dict[str, dict[tuple[str, int], schema.VersionOf]] = {
            kind.noun: {} for kind in (RULE_SETS, PATTERNS)
        }
        self.containers: dict[int, schema.ContainerOf] = {}
        self.count = 0

    def term(self, school: School, courses: Sequence[Course]) -> schema.TermOf:
        rows = [self.course(c) for c in courses]
        return schema.TermOf(
            format=schema.FORMAT,
            version=schema.VERSION,
            core=VERSION,
            made_at=timezone.now(),
            named=self.codes.named,
            school=school.name,
            people=[
                schema.Person(id=u.pk, name=self.codes.person(u), role=u.role)
                for u in self.people.values()
            ],
            levels=[self.make(schema.LevelOf, x) for x in school.levels.all()],
            containers=list(self.containers.values()),
            rule_sets=list(self.documents[RULE_SETS.noun].values()),
            patterns=list(self.documents[PATTERNS.noun].values()),
            courses=rows,
        )

    def make(self, kind, record, **more):
        """A document of a record's own values, with those given; people that it names are
        noted.
        """
        values = {}
        for name in kind.model_fields:
            if name in more:
                values[name] = more[name]
                continue
            value = getattr(record, "pk" if name == "id" else name)
            if name.endswith("by_id") and value is not None and value not in self.people:
                self.people[value] = User.objects.get(pk=value)
            values[name] = self.codes.cleaned(value, name)
        return kind(**values)

    def course(self, course: Course) -> schema.CourseOf:
        students = course.students.prefetch_related("notes", "mark_corrections").order_by("pk")
        gradebook = getattr(course, "gradebook", None)
        briefs = course.briefs.filter(deleted_at=None).order_by("made_at", "pk")
        return self.make(
            schema.CourseOf,
            course,
            gradebook=self.make(schema.GradebookOf, gradebook) if gradebook else None,
            lessons=[self.make(schema.LessonOf, x) for x in course.lessons.all()],
            students=[self.student(s, course) for s in self.all_students(course, students)],
            briefs=[self.brief(b) for b in briefs],
        )

    def all_students(self, course: Course, students) -> list[Student]:
        """Those of the class, and those of other classes who made a piece for it."""
        others = Student.objects.filter(
            pieces__brief__course=course, pieces__brief__deleted_at=None
        ).exclude(course=course)
        return [*students, *others.distinct()]

    def student(self, one: Student, course: Course) -> schema.StudentOf:
        named = self.codes.named
        name = self.codes.student(one)
        self.tables.student(one, name, course)
        corrections = one.mark_corrections.filter(piece__isnull=True) | one.mark_corrections.filter(
            piece__brief__course=course
        )
        return self.make(
            schema.StudentOf,
            one,
            name=name,
            sorting=one.sorting if named else name.lower(),
            email=one.email if named else "",
            number=one.number if named else "",
            notes=[self.make(schema.NoteOf, n) for n in one.notes.all()] if named else [],
            mark_corrections=[self.make(schema.MarkCorrectionOf, c) for c in corrections],
        )

    def brief(self, brief) -> schema.BriefOf:
        at = brief.course.school_id
        self.document(RULE_SETS, at, brief.rule_set, brief.rule_set_version)
        if brief.pattern:  # else the usual one of its form
            self.document(PATTERNS, at, brief.pattern, brief.pattern_version)
        own = {brief.shelf_container_id, *(row.get("shelf") for row in brief.vessels)}
        for one in brief.course.school.containers.filter(pk__in=own - {None, *self.containers}):
            self.containers[one.pk] = self.container(one)
        weight, plan = (getattr(brief, name, None) for name in ("weight", "plan"))
        return self.make(
            schema.BriefOf,
            brief,
            weight=weight.weight if weight else None,
            plan=self.make(schema.PlanOf, plan) if plan else None,
            pieces=[
                self.piece(p) for p in brief.pieces.order_by("pk").values_list("pk", flat=True)
            ],
            rounds=[self.round(r) for r in brief.rounds.order_by("pk")],
        )

    def round(self, one: Round) -> schema.RoundOf:
        seconds = one.seconds.prefetch_related("settlements").order_by("pk")
        return self.make(schema.RoundOf, one, seconds=[self.second(s) for s in seconds])

    def second(self, one: SecondMark) -> schema.SecondOf:
        self.people.setdefault(one.marker_id, one.marker)
        self.piece(one.copy_id)
        return self.make(
            schema.SecondOf,
            one,
            settlements=[
                self.make(schema.SettlementOf, s, first_verdict=self.codes.cleaned(s.first_verdict))
                for s in one.settlements.all()
            ],
        )

    def container(self, one) -> schema.ContainerOf:
        path = f"shelf/{one.pk}.jpg" if one.picture else None
        if path:
            self.copy(one.picture, path)
        return self.make(schema.ContainerOf, one, picture=path)

    def document(self, kind: DocumentKind, at: int, slug: str, number: int | None) -> None:
        """Note a rule set or pattern that something rests on, and write its text."""
        own = slug not in kind.slugs()
        if own:
            version = kind.released(at, slug, number)
            if version is None:
                return
            key, text, why = (slug, version.number), version.text, version.why
        else:
            shipped = kind.shipped(slug)
            key, text, why = (slug, int(shipped.version)), kind.write(shipped), ""
        told = self.documents[kind.noun]
        if key in told:
            return
        path = f"{kind.noun.replace(' ', '-')}s/{slug}-{key[1]}.toml"
        (self.root / path).write_text(text, encoding="utf-8")
        told[key] = schema.VersionOf(
            slug=slug, number=key[1], own=own, why=self.codes.clean(why), file=path
        )

    def piece(self, pk: int) -> int:
        """Write a piece's file with all that belongs to it, and give its number."""
        piece = Piece.objects.prefetch_related(
            Prefetch("photographs", Photograph.objects.order_by("pk")),
            Prefetch("photographs__corrections", Correction.objects.order_by("pk")),
            "overrides",
            "caps",
            "remarks",
            "answers",
            "mark_changes",
            "sheets",
        ).get(pk=pk)
        mark = getattr(piece, "mark", None)
        rows = (
            ("overrides", schema.OverrideOf),
            ("caps", schema.CapOf),
            ("remarks", schema.RemarkOf),
            ("answers", schema.AnswerOf),
            ("mark_changes", schema.ChangeOf),
        )
        attendance, shown = (getattr(piece, n, None) for n in ("attendance", "shown_as"))
        document = self.make(
            schema.PieceOf,
            piece,
            photographs=[self.photograph(p) for p in piece.photographs.all()],
            **{n: [self.make(kind, x) for x in getattr(piece, n).all()] for n, kind in rows},
            mark=self.make(schema.MarkOf, mark, verdict=self.codes.cleaned(mark.verdict))
            if mark
            else None,
            sheets=[
                self.make(schema.SheetOf, s, figures=self.codes.cleaned(s.figures))
                for s in piece.sheets.all()
            ],
            attendance=self.make(schema.AttendanceOf, attendance) if attendance else None,
            shown_as=self.make(schema.ExemplarOf, shown) if shown else None,
        )
        if mark and mark.rule_set not in school_slugs():
            at, number = piece.brief.course.school_id, int(mark.rule_set_version)
            self.document(RULE_SETS, at, mark.rule_set, number)
        _dump(self.root / "pieces" / f"{pk}.json", document)
        self.beside(piece, document)
        self.count += 1
        self.done(self.count)
        return pk

    def beside(self, piece: Piece, document: schema.PieceOf) -> None:
        """What stands beside a piece's file: its annotations, its palette, its rows of tables."""
        found = annotations_of(document)
        if found:
            path = self.root / "annotations" / f"{piece.pk}.json"
            path.write_text(json.dumps(found, indent=1, ensure_ascii=False), encoding="utf-8")
        front = piece.photograph
        if front is not None and front.scene:
            colours = tuple(
                Colour(s.name, s.chip, s.share) for s in flowers_of(front.core_scene().palette)
            )
            path = self.root / "palettes" / f"{piece.pk}.gpl"
            path.write_text(to_gpl(f"Piece {piece.pk}", colours), encoding="utf-8")
        self.tables.piece(piece, document, self.codes.student(piece.student))

    def photograph(self, one: Photograph) -> schema.PhotographOf:
        files = {}
        for name in (*COPIES, "raster"):
            file = getattr(one, name)
            if not file:
                continue
            path = f"photographs/{one.pk}-{name}{'.png' if name == 'raster' else '.jpg'}"
            if self.codes.named or name == "raster" or not one.card:
                self.copy(file, path)
            else:
                self.copy_without_card(one, file, path)
            files[name] = path
        return self.make(
            schema.PhotographOf,
            one,
            files=files,
            corrections=[self.make(schema.CorrectionOf, c) for c in one.corrections.all()],
        )

    def copy(self, file, path: str) -> None:
        with file.open("rb") as source, (self.root / path).open("wb") as target:
            shutil.copyfileobj(source, target, CHUNK)

    def copy_without_card(self, one: Photograph, file, path: str) -> None:
        """A picture whose card, which carries the maker's name, is painted over."""
        with file.open("rb") as source:
            pixels = cv2.imdecode(np.frombuffer(source.read(), np.uint8), cv2.IMREAD_COLOR)
        card = card_of(one)
        if card is not None and pixels is not None:
            pixels = without_card(pixels, card, pixels.shape[1] / one.width)
            cv2.imwrite(str(self.root / path), pixels, [cv2.IMWRITE_JPEG_QUALITY, QUALITY])
