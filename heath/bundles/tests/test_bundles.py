"""A term out and in again: the same to the last digit, or refused as a whole."""

import csv
import io
import json
import tempfile
from pathlib import Path
from zipfile import ZIP_DEFLATED, ZipFile

import bagit
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Correction, Mark, MarkLine, Photograph, Piece
from heath.assessment.reading import read
from heath.bench.accepting import accept_marks, confirm_handles
from heath.briefs.models import Brief
from heath.bundles.management.commands.bundle_schema import PATH, as_text
from heath.bundles.opening import BundleRefused, unpack
from heath.bundles.writing import Codes
from heath.classes.models import Course, Student, levels_of
from heath.jobs.models import Job
from heath.moderation.agreement import agreement_of
from heath.moderation.models import SecondMark
from heath.moderation.rounds import set_round
from heath.moderation.settling import settle
from heath.people.models import School, User
from heath.records.gradebook import book_of
from heath.records.models import Gradebook, MarkCorrection, Note, Weight
from heath.returns.issuing import issue_sheet
from heath.rulebook.models import PatternVersion
from heath.rulebook.patterns import PATTERNS
from heath.shelf.models import Container
from heath.testing import SchoolTestCase, done, photographed
from juniper.patterns import shipped_pattern


class Bundles(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.course = cls.brief.course
        cls.oz = User.objects.create_user(
            "oz", password=None, school=cls.user.school, first_name="Oz", last_name="Reef"
        )
        cls.piece = photographed(cls.brief, cls.user)
        confirm_handles(cls.piece.photograph, cls.user)
        cls.piece.overrides.create(
            rule="rim-softened", score=3.0, reason="Ada left it bare", made_by=cls.user
        )
        cls.piece.remarks.create(
            words="Well set, Ada.", photograph=cls.piece.photograph, x=40, y=50, made_by=cls.user
        )
        accept_marks(Piece.objects.get(pk=cls.piece.pk), cls.user)
        issue_sheet(Piece.objects.get(pk=cls.piece.pk), cls.user)
        student = cls.piece.student
        student.level, student.number = levels_of(cls.user.school)[0], "S-1207"
        student.email = "ada@reef.test"
        student.save()
        jug = Container.objects.create(
            school=cls.user.school, name="Glass jug", height_cm=21, width_cm=12, made_of="clear"
        )
        own = PATTERNS.draft_of(cls.user.school, shipped_pattern("grouped-vessels"), cls.user)
        PatternVersion.objects.filter(pk=own.pk).update(released_at=timezone.now())
        beside = {"height_cm": 12.0, "width_cm": 8.0, "colour": "", "y_cm": 0.0}
        Brief.objects.create(
            course=cls.course,
            name="Three on the counter",
            kind="several vessels",
            support="sill",
            vessels=[
                beside
                | {"name": "Jug", "shelf": jug.pk, "clear": True, "x_cm": 0.0}
                | {"height_cm": 21.0},
                beside | {"name": "Cup", "shelf": None, "clear": False, "x_cm": 18.0},
            ],
            container="Jug",
            container_height_cm=21,
            container_width_cm=12,
            form="free",
            rule_set="grouped-vessels",
            pattern=own.slug,
            pattern_version=own.number,
        )
        Note.objects.create(student=student, words="Hurries.", made_by=cls.user)
        Gradebook.objects.create(course=cls.course, best=3, late_off=5)
        Weight.objects.create(brief=cls.brief, weight=2)
        MarkCorrection.objects.create(
            student=student, piece=cls.piece, mark=66, reason="Recount", made_by=cls.user
        )
        set_round(cls.brief, [cls.oz], 1.0, 0, 7, cls.user)
        second = SecondMark.objects.get()
        confirm_handles(second.copy.photographs.get(), cls.oz)
        second.copy.overrides.create(rule="rim-softened", score=1.0, reason="Barer", made_by=cls.oz)
        accept_marks(Piece.objects.get(pk=second.copy_id), cls.oz)
        settle(second, 61.5, "Talked over", cls.user, 0)
        cls.new = School.objects.create(name="Far Shore College")
        cls.owner = User.objects.create_user("owner", password=None, school=cls.new, role="owner")

    _made: dict[bool, bytes] = {}  # each test begins with the same records: one bundle does for all

    @classmethod
    def tearDownClass(cls):
        super().tearDownClass()
        cls._made.clear()

    def made(self, named=True) -> bytes:
        if named not in self._made:
            self._made[named] = self._make(named)
        return self._made[named]

    def _make(self, named: bool) -> bytes:
        self.client.force_login(self.user)
        told = {"of": f"class:{self.course.pk}"} | ({"names": "1"} if named else {})
        job = done(self.client.post(reverse("bundles"), told))
        self.assertEqual(job.fault, "")
        with job.file.open("rb") as file:
            return file.read()

    def take(self, data: bytes) -> Job:
        self.client.force_login(self.owner)
        sent = SimpleUploadedFile("bundle.zip", data)
        return done(self.client.post(reverse("bundle-take-in"), {"bundle": sent}))

    def refused(self, data: bytes, words: str) -> None:
        files = _files()
        job = self.take(data)
        self.assertIn(words, job.fault)
        self.assertIn("Nothing was taken in.", job.fault)
        self.assertFalse(Course.objects.filter(school=self.new).exists())
        self.assertFalse(User.objects.filter(school=self.new).exclude(pk=self.owner.pk).exists())
        self.assertEqual(_files(), files)

    def test_in_an_empty_school_the_same_to_the_last_digit(self):
        self.assertEqual(self.take(self.made()).fault, "")
        course = Course.objects.get(school=self.new)
        piece = Piece.objects.get(brief__course=course, brief__second_of=None, mark__isnull=False)
        old, new = (Mark.objects.get(piece=p) for p in (self.piece, piece))
        self.assertEqual((new.score, new.verdict), (old.score, old.verdict))
        self.assertEqual(new.accepted_at, old.accepted_at)
        self.assertEqual(new.accepted_by.shown_name, self.user.shown_name)
        self.assertFalse(new.accepted_by.is_active)
        self.assertFalse(new.accepted_by.memberships.get().has_access)
        # judged again from photograph, corrections and rules, it comes to the same
        readings = [
            read(Piece.objects.select_related("student__level").get(pk=p.pk)).verdict
            for p in (self.piece, piece)
        ]
        self.assertEqual(readings[0].score, readings[1].score)
        self.assertEqual(*([x.score for x in r.lines] for r in readings))
        self.assertEqual(
            *(
                list(MarkLine.objects.filter(mark=m).values_list("rule", "score"))
                for m in (old, new)
            )
        )
        for name in ("full", "screen", "wall", "thumb", "raster"):
            first, second = (
                getattr(Photograph.objects.get(piece=p), name).open("rb").read()
                for p in (self.piece, piece)
            )
            self.assertEqual(first, second, name)
        # what the words in force are, by their numbers here
        self.assertEqual(new.in_force["overrides"], [piece.overrides.get().pk])
        kept = Correction.objects.get(photograph__piece=piece)
        self.assertEqual(new.in_force["corrections"], [kept.pk])
        self.assertEqual(piece.remarks.get().photograph, piece.photographs.get())
        sheet = piece.sheets.get()
        self.assertEqual(sheet.figures["photograph"], piece.photographs.get().pk)
        self.assertNotEqual(sheet.key, self.piece.sheets.get().key)

    def test_records_around_the_marks_come_along(self):
        self.take(self.made())
        course = Course.objects.get(school=self.new)
        (old, new) = (book_of(c) for c in (self.course, course))
        self.assertEqual(
            [(x.student.name, x.mark, x.award) for x in old.lines],
            [(x.student.name, x.mark, x.award) for x in new.lines],
        )
        self.assertEqual((new.settings.best, new.columns[0].weight), (3, 2))
        ada = Student.objects.get(course=course, number="S-1207")
        self.assertEqual((ada.level.name, ada.notes.get().words), ("beginner", "Hurries."))
        pairs = [agreement_of(c).pairs for c in (self.course, course)]
        self.assertEqual([p.marks for p in pairs[0]], [p.marks for p in pairs[1]])
        self.assertEqual(pairs[1][0].settled.reason, "Talked over")
        self.assertEqual(Brief.objects.filter(course=course).count(), 2)

    def test_a_composition_and_its_pattern_come_along(self):
        self.assertEqual(self.take(self.made()).fault, "")
        course = Course.objects.get(school=self.new)
        group = Brief.objects.get(course=course, name="Three on the counter")
        self.assertEqual((group.kind, group.support), ("several vessels", "sill"))
        jug = Container.objects.get(school=self.new)
        self.assertEqual((jug.name, jug.made_of), ("Glass jug", "clear"))
        self.assertEqual([v["shelf"] for v in group.vessels], [jug.pk, None])
        self.assertEqual(group.vessels[1]["x_cm"], 18.0)
        own = PatternVersion.objects.get(school=self.new)
        self.assertEqual((own.slug, group.pattern_version), (group.pattern, own.number))
        self.assertEqual(group.pattern_in_force.slug, own.slug)

    def test_vessels_and_patterns_that_are_none_are_refused(self):
        for old, new, words in (
            (b'"height_cm": 21.0', b'"height_cm": "tall"', "write its height in centimetres"),
            (b'"kind": "several vessels"', b'"kind": "several herons"', "kind"),
        ):

            def changed(name, body, old=old, new=new):
                return body.replace(old, new) if name == "term.json" else body

            self.refused(self.changed(self.made(), changed), words)

        def no_pattern(name, body):
            return b"x = " if name.startswith("patterns/") else body

        self.refused(self.changed(self.made(), no_pattern), "is not a pattern")

    def test_a_second_time_is_refused(self):
        data = self.made()
        self.take(data)
        job = self.take(data)
        self.assertIn("has a class Tuesday class", job.fault)
        self.assertEqual(Course.objects.filter(school=self.new).count(), 1)

    def test_without_names_nothing_names_anybody(self):
        data = self.made(named=False)
        # none that the chance letters of a code or a digest could spell
        names = (b"Ada ", b"Shore", b"Bo Strand", b"ada@reef.test", b"S-1207", b"Hurries", b"Oz ")
        with ZipFile(io.BytesIO(data)) as archive:
            for entry in archive.infolist():
                if entry.filename.endswith((".jpg", ".png")):
                    continue
                text = archive.read(entry)
                for name in names:
                    self.assertNotIn(name, text, entry.filename)
        self.assertEqual(self.take(data).fault, "")
        markers = User.objects.filter(school=self.new).exclude(pk=self.owner.pk)
        self.assertEqual({u.shown_name for u in markers}, {"Marker 1", "Marker 2"})
        piece = Piece.objects.get(
            brief__course__school=self.new, brief__second_of=None, mark__isnull=False
        )
        self.assertEqual(piece.student.name, "Student 001")
        self.assertEqual(piece.remarks.get().words, "Well set, Student 001.")
        self.assertEqual(piece.mark.score, 61.5)

    def test_only_what_people_wrote_is_cleaned_and_only_whole_words(self):
        codes = Codes(False, words={"Lin Foil": "Student 001"})
        self.assertEqual(
            codes.clean("Line up, Lin, said Lin Foil."), "Line up, Student 001, said Student 001."
        )
        written = {"rule": "Lin", "words": "Lin's", "families": [{"reason": "Lin", "title": "Lin"}]}
        self.assertEqual(
            codes.cleaned(written),
            {
                "rule": "Lin",
                "words": "Student 001's",
                "families": [{"reason": "Student 001", "title": "Lin"}],
            },
        )

    def test_others_can_read_it(self):
        # BagIt by its own package, tables by their description, annotations by the W3C's terms.
        with tempfile.TemporaryDirectory() as folder, ZipFile(io.BytesIO(self.made())) as archive:
            archive.extractall(folder)
            (root,) = Path(folder).iterdir()
            bagit.Bag(str(root)).validate()
            data = root / "data"
            package = json.loads((data / "tables" / "datapackage.json").read_text())
            for resource in package["resources"]:
                rows = list(csv.reader((data / "tables" / resource["path"]).open()))
                fields = [f["name"] for f in resource["schema"]["fields"]]
                self.assertEqual(rows[0], fields)
                self.assertGreater(len(rows), 1, resource["name"])
            page = json.loads((data / "annotations" / f"{self.piece.pk}.json").read_text())
            self.assertEqual(page["@context"], "http://www.w3.org/ns/anno.jsonld")
            remark = next(x for x in page["items"] if x["motivation"] == "commenting")
            self.assertEqual(remark["target"]["selector"]["value"], "xywh=pixel:40,50,1,1")
            source = (data / "annotations" / remark["target"]["source"]).resolve()
            self.assertTrue(source.is_file())
            palette = (data / "palettes" / f"{self.piece.pk}.gpl").read_text()
            self.assertTrue(palette.startswith("GIMP Palette"))

    def test_the_published_schema_is_that_of_the_code(self):
        self.assertEqual(PATH.read_text(encoding="utf-8"), as_text())

    def changed(self, data: bytes, change) -> bytes:
        """A bundle whose files are changed by `change(name, bytes)`, with checksums that match."""
        with tempfile.TemporaryDirectory() as folder:
            with ZipFile(io.BytesIO(data)) as archive:
                archive.extractall(folder)
            (root,) = Path(folder).iterdir()
            for path in sorted((root / "data").rglob("*")):
                if path.is_file():
                    path.write_bytes(
                        change(str(path.relative_to(root / "data")), path.read_bytes())
                    )
            bagit.Bag(str(root)).save(manifests=True)
            return _zip(root)

    def test_damaged_partial_foreign_and_newer_ones_are_refused(self):
        data = self.made()
        self.refused(data[: len(data) // 2], "not a whole ZIP file")
        self.refused(b"no zip at all", "not a whole ZIP file")
        flipped = bytearray(data)
        at = data.index(b"\xff\xd8\xff") + 5000  # within a photograph, which is stored as it is
        flipped[at] ^= 1
        self.refused(bytes(flipped), "damaged")
        self.refused(_without(data, f"pieces/{self.piece.pk}.json"), "something is missing")
        self.refused(_zipped({"a/b.txt": b"x", "a/c.txt": b"y"}), "not a bundle of Juniper Heath")

        def newer(name, body):
            return body.replace(b'"version": 2,', b'"version": 3,') if name == "term.json" else body

        self.refused(self.changed(data, newer), "is of version 3")

        def foreign(name, body):
            return body.replace(b"juniper-heath-term", b"other") if name == "term.json" else body

        self.refused(self.changed(data, foreign), "was not made by Juniper Heath")

    def test_hostile_ones_are_refused(self):
        for name in ("../evil.txt", "/evil.txt", "a/../../evil.txt", "a\\b/c", "a/b:c", "a"):
            self.refused(_zipped({"a/bagit.txt": b"x", name: b"x"}), "may not be in one")
        self.refused(_zipped({"a/b": b"0" * 400_000_00}), "grows too much")
        self.refused(_zipped({"a/b": b"x", "b/c": b"x"}), "one folder at its top")
        self.refused(_link(), "may not be in one")
        data = self.made()
        piece = f"pieces/{self.piece.pk}.json"

        def with_piece(change):
            def changed(name, body):
                if name != piece:
                    return body
                document = json.loads(body)
                change(document)
                return json.dumps(document).encode()

            return self.changed(data, changed)

        def elsewhere(d):
            d["photographs"][0]["files"]["full"] = "../../etc/passwd"

        self.refused(with_piece(elsewhere), "does not say what it should")
        self.refused(with_piece(lambda d: d.update(more=1)), "does not say what it should")
        self.refused(
            with_piece(lambda d: d["mark"].update(photograph_id=10**9)), "do not fit together"
        )
        self.refused(with_piece(lambda d: d["photographs"][0].update(scene={})), "do not fit")
        self.refused(with_piece(lambda d: d.update(state="gone")), "cannot be")
        self.refused(
            with_piece(lambda d: d["sheets"][0]["figures"].update(score="x")), "do not fit"
        )
        self.refused(
            self.changed(data, lambda n, b: b"<svg/>" if n.endswith("full.jpg") else b),
            "is not a photograph",
        )
        self.refused(
            self.changed(data, lambda n, b: b"no" if n.endswith("raster.png") else b),
            "is not a PNG",
        )

    def test_a_file_that_is_larger_than_it_says_is_no_more_than_that(self):
        data = bytearray(_zipped({"a/b": b"x" * 5000, "a/c": b"y"}, how=0))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "b.zip"
            at = data.index(b"PK\x01\x02")
            data[at + 24 : at + 28] = (10).to_bytes(4, "little")
            path.write_bytes(bytes(data))
            with self.assertRaises(BundleRefused):
                unpack(path, Path(folder) / "out")

    def test_only_the_owner_makes_and_takes(self):
        self.client.force_login(self.oz)
        self.assertEqual(self.client.get(reverse("bundles")).status_code, 403)
        self.client.force_login(self.owner)
        answer = self.client.post(reverse("bundles"), {"of": f"class:{self.course.pk}"})
        self.assertContains(answer, "Choose a term or a class", status_code=422)


def _files() -> set[str]:
    from django.core.files.storage import default_storage

    root = Path(default_storage.path(""))
    return {
        str(p.relative_to(root))
        for name in ("full", "screen", "wall", "thumb", "raster", "shelf")
        for p in (root / name).glob("*")
    }


def _zip(root: Path) -> bytes:
    return _zipped(
        {
            f"{root.name}/{p.relative_to(root)}": p.read_bytes()
            for p in root.rglob("*")
            if p.is_file()
        }
    )


def _zipped(files: dict[str, bytes], how=ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with ZipFile(out, "w", how) as archive:
        for name, body in files.items():
            archive.writestr(name, body)
    return out.getvalue()


def _without(data: bytes, left_out: str) -> bytes:
    with ZipFile(io.BytesIO(data)) as archive:
        return _zipped(
            {
                e.filename: archive.read(e)
                for e in archive.infolist()
                if not e.filename.endswith(left_out)
            }
        )


def _link() -> bytes:
    from zipfile import ZipInfo

    out = io.BytesIO()
    with ZipFile(out, "w") as archive:
        archive.writestr("a/bagit.txt", b"x")
        entry = ZipInfo("a/link")
        entry.external_attr = 0o120777 << 16
        archive.writestr(entry, "/etc/passwd")
    return out.getvalue()
