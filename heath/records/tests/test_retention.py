"""How long things are kept, and everything that is held on a person."""

import io
import json
from datetime import UTC, datetime, timedelta
from zipfile import ZipFile

from django.core.files.storage import default_storage
from django.urls import reverse
from PIL import Image

from heath.assessment.models import Photograph
from heath.assessment.tasks import measure, renew_old
from heath.classes.models import Course, Student
from heath.exemplars.models import Exemplar
from heath.intake.links import make_link, token
from heath.people.models import Role, School
from heath.records.models import Erasure, Note, RecordLink
from heath.records.retention import before, let_photographs_go, let_records_go, stand_in
from heath.testing import SchoolTestCase, photographed

NOW = datetime(2028, 3, 31, 4, tzinfo=UTC)


class Kept(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        cls.photograph = cls.piece.photograph

    def archived(self, at, **months):
        Course.objects.update(archived_at=at)
        School.objects.update(**months)

    def test_months_are_those_of_the_calendar(self):
        self.assertEqual(before(1, NOW), datetime(2028, 2, 29, 4, tzinfo=UTC))

    def test_a_photograph_goes_when_its_time_is_over_and_not_before(self):
        self.archived(NOW - timedelta(days=93), picture_months=3)
        self.assertEqual(let_photographs_go(NOW - timedelta(days=3)), 0)
        gone = [getattr(self.photograph, copy).name for copy in ("full", "screen", "thumb")]
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(let_photographs_go(NOW), 1)
            self.assertEqual(let_photographs_go(NOW), 0)
        for name in gone:
            self.assertFalse(default_storage.exists(name))
        now = Photograph.objects.get(pk=self.photograph.pk)
        self.assertEqual((now.removed_at, now.scene), (NOW, self.photograph.scene))
        with now.full.open() as file:
            image = Image.open(io.BytesIO(file.read()))
        self.assertAlmostEqual(
            image.width / image.height, self.photograph.width / self.photograph.height, delta=0.01
        )
        self.assertEqual(self.client.get(reverse("bench", args=[self.piece.pk])).status_code, 200)

    def test_what_is_gone_is_not_looked_at_again(self):
        self.archived(NOW - timedelta(days=200), picture_months=3)
        let_photographs_go(NOW)
        Photograph.objects.update(core_version="0.1")
        self.assertEqual(renew_old(), 0)
        measure(self.photograph.pk)
        now = Photograph.objects.get(pk=self.photograph.pk)
        self.assertEqual((now.core_version, now.scene), ("0.1", self.photograph.scene))

    def test_an_exemplar_stays_while_its_student_allows_it(self):
        self.archived(NOW - timedelta(days=200), picture_months=3)
        one = Exemplar.objects.create(piece=self.piece, state=Exemplar.State.ALLOWED)
        self.assertEqual(let_photographs_go(NOW), 0)
        one.state = Exemplar.State.WITHDRAWN
        one.save()
        self.assertEqual(let_photographs_go(NOW), 1)

    def test_a_class_in_use_and_a_school_that_sets_nothing_lose_nothing(self):
        self.archived(None, picture_months=1, record_months=1)
        self.assertEqual((let_photographs_go(NOW), let_records_go(NOW)), (0, 0))
        self.archived(NOW - timedelta(days=9000), picture_months=None, record_months=None)
        self.assertEqual((let_photographs_go(NOW), let_records_go(NOW)), (0, 0))

    def test_records_go_with_a_receipt_each(self):
        self.archived(NOW - timedelta(days=400), record_months=12)
        students = Student.objects.count()
        self.assertEqual(let_records_go(NOW), students)
        self.assertEqual(Student.objects.count(), 0)
        self.assertEqual(Erasure.objects.count(), students)
        self.assertTrue(Erasure.objects.filter(digests__contains=[self.photograph.digest]).exists())

    def test_the_owner_sets_the_months(self):
        values = {"name": "Cliffend College", "picture_months": "18", "record_months": ""}
        self.client.post(reverse("school-settings"), values)
        school = School.objects.get(pk=self.user.school_id)
        self.assertEqual((school.picture_months, school.record_months), (18, None))
        answer = self.client.post(reverse("school-settings"), values | {"record_months": "0"})
        self.assertContains(answer, "greater than or equal to 1", status_code=422)

    def test_the_picture_in_its_place_says_what_happened(self):
        image = Image.open(io.BytesIO(stand_in(900, 1200, 600)))
        self.assertEqual(image.size, (450, 600))
        self.assertGreater(len(image.getcolors(100_000)), 5)  # words stand on the grey


class Held(SchoolTestCase):
    def test_everything_in_one_zip_and_no_way_in(self):
        piece = photographed(self.brief, self.user)
        Note.objects.create(student=piece.student, words="Hurries.", made_by=self.user)
        link = RecordLink.objects.create(student=piece.student)
        answer = self.client.get(reverse("student-held", args=[piece.student_id]))
        with ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as archive:
            text = archive.read("held.json").decode()
            found = json.loads(text)
            self.assertIn("Ada Shore", archive.read("README.txt").decode())
            jpeg = archive.read(f"photographs/{piece.photograph.pk}.jpg")
        self.assertEqual(found["places in classes"][0]["name"], "Ada Shore")
        self.assertEqual(found["private notes"][0]["words"], "Hurries.")
        self.assertEqual(found["photographs"][0]["digest"], piece.photograph.digest)
        self.assertNotIn(link.key, text)
        self.assertNotIn("Bo Strand", text)
        with piece.photograph.full.open() as file:
            self.assertEqual(jpeg, file.read())

    def test_for_owners_alone(self):
        piece = photographed(self.brief, self.user)
        self.user.role = Role.MODERATOR
        self.user.save()
        answer = self.client.get(reverse("student-held", args=[piece.student_id]))
        self.assertEqual(answer.status_code, 403)

    def test_students_read_what_is_stored(self):
        School.objects.update(picture_months=18)
        text = token(make_link(self.brief, self.user))
        link = RecordLink.objects.create(student=self.brief.pieces.first().student)
        self.client.logout()
        for name, key in (("student-stored", text), ("own-stored", link.key)):
            page = self.client.get(reverse(name, args=[key]))
            self.assertContains(page, "18 months after your class")
            self.assertContains(page, "at most 30 days")
