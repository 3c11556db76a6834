"""Search, archiving a term, and deleting a person's data with a receipt."""

from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Photograph, Piece
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.intake.links import make_link
from heath.people.models import Role, User
from heath.records.erasing import held_on
from heath.records.models import Erasure, MarkCorrection, Note, RecordLink
from heath.records.tests.test_records import Term


class Search(Term):
    def found(self, q, **more):
        return self.client.get(reverse("search"), {"q": q} | more)

    def test_names_that_are_misspelt(self):
        Student.objects.filter(pk=self.ada.pk).update(name="Ailsa Thornbury")
        for q in ("thornbury", "Thornbery", "Ailsa Thornburry", "thorn"):
            self.assertContains(self.found(q), "Ailsa Thornbury", msg_prefix=q)
        self.assertContains(self.found("Zachary"), "Nothing is found")

    def test_numbers_and_addresses_as_they_are(self):
        Student.objects.filter(pk=self.ada.pk).update(number="S-1207", email="ada@reef.test")
        for q in ("s-1207", "ADA@reef.test"):
            self.assertContains(self.found(q), "Ada Shore")

    def test_remarks_by_another_form_of_a_word_and_marked(self):
        piece = self.give(self.ada, 0, 60.0)
        piece.remarks.create(words="Your <b>stems</b> were crossing low.", made_by=self.user)
        piece.overrides.create(rule="steps", score=4, reason="Crossed twice", made_by=self.user)
        page = self.found("cross stem", **{"in": "words"})
        self.assertContains(page, "<mark>stems</mark>")
        self.assertNotContains(page, "<b>stems")
        self.assertContains(self.found("crossing"), "<mark>Crossed</mark>")

    def test_pieces_by_code_briefs_by_name_and_filters_in_the_address(self):
        piece = self.give(self.ada, 0, 60.0)
        self.assertContains(
            self.found(f"{piece.code[:4]} {piece.code[4:].lower()}"), "Ada Shore, Column"
        )
        self.assertContains(self.found("colum"), "Column")
        self.assertNotContains(self.found("colum", **{"in": "students"}), "<h2>Briefs")
        other = Course.objects.create(school=self.user.school, name="Friday class")
        self.assertContains(self.found("column", **{"class": other.pk}), "Nothing is found")
        page = self.found("column", **{"class": self.course.pk, "in": "briefs"})
        self.assertContains(page, f'value="{self.course.pk}" selected')

    def test_another_schools_are_not_found_and_hidden_names_stay_so(self):
        piece = self.give(self.ada, 0, 60.0)
        piece.remarks.create(words="Wisteria", made_by=self.user)
        Brief.objects.filter(pk=self.brief.pk).update(names_hidden=True)
        page = self.found("wisteria")
        self.assertContains(page, f"Piece {piece.code[:4]}, Column")
        self.assertNotContains(page, "Ada Shore")
        self.client.force_login(self.stranger)
        self.assertContains(self.found("wisteria"), "Nothing is found")

    def test_odd_words_do_no_harm(self):
        for q in (
            "",
            "%_%",
            "'; drop table",
            '"',
            "x" * 5000,
            "!!! & |",
            "\ud800".encode("utf-8", "replace").decode(),
        ):
            self.assertEqual(self.found(q).status_code, 200)


class Archives(Term):
    def archive(self, do="archive"):
        self.client.post(reverse("term-archive"), {"term": self.course.term, "do": do})
        self.course.refresh_from_db()

    def test_an_archived_term_is_read_and_not_changed(self):
        piece = self.give(self.ada, 0, 60.0)
        link = make_link(self.brief, self.user)
        self.archive()
        self.assertIsNotNone(self.course.archived_at)
        for address in (
            reverse("student-record", args=[self.ada.pk]),
            reverse("class-picture", args=[self.course.pk]),
            reverse("gradebook", args=[self.course.pk]),
            reverse("brief", args=[self.brief.pk]),
        ):
            self.assertEqual(self.client.get(address).status_code, 200, address)
        for address, told in (
            (reverse("override", args=[piece.pk]), {"rule": "x", "score": 1, "reason": "no"}),
            (reverse("gradebook", args=[self.course.pk]), {}),
            (reverse("student-note", args=[self.ada.pk]), {"words": "Late."}),
            (reverse("student", args=[self.ada.pk]), {"do": "remove"}),
            (reverse("brief-change", args=[self.brief.pk]), {}),
            (reverse("return", args=[piece.pk]), {}),
            (reverse("lesson", args=[self.course.pk]), {"name": "Rims"}),
            (reverse("photograph-remove", args=[piece.photographs.get().pk]), {}),
        ):
            answer = self.client.post(address, told)
            self.assertContains(
                answer, "This class is archived", status_code=403, msg_prefix=address
            )
        told = {"rule": "x", "score": 1, "reason": "no"}
        on_bench = self.client.post(
            reverse("override", args=[piece.pk]), told, headers={"HX-Request": "true"}
        )
        self.assertEqual(on_bench.headers["HX-Refresh"], "true")
        self.assertFalse(Note.objects.exists())
        link.refresh_from_db()
        self.assertFalse(type(link).objects.get(pk=link.pk).open)
        # what was given out can still be withdrawn
        self.assertEqual(
            self.client.post(reverse("record-link", args=[self.ada.pk])).status_code, 302
        )
        self.archive("unarchive")
        self.client.post(reverse("student-note", args=[self.ada.pk]), {"words": "Late."})
        self.assertTrue(Note.objects.exists())

    def test_another_schools_term_of_the_same_name_is_left(self):
        self.archive()
        self.other_brief.course.refresh_from_db()
        self.assertIsNone(self.other_brief.course.archived_at)
        self.client.force_login(
            User.objects.create_user(
                "una", password=None, school=self.user.school, role=Role.MODERATOR
            )
        )
        answer = self.client.post(reverse("term-archive"), {"term": "Autumn", "do": "unarchive"})
        self.assertEqual(answer.status_code, 403)


class Deletions(Term):
    def setUp(self):
        super().setUp()
        self.first = self.returned(self.ada, 0, 61.0, rim_cover=4.0)
        self.others = self.returned(self.bo, 0, 71.0)
        Note.objects.create(student=self.ada, words="Hurries.", made_by=self.user)
        RecordLink.objects.create(student=self.ada)
        MarkCorrection.objects.create(student=self.ada, mark=60, reason="Recount")
        self.other = Course.objects.create(school=self.user.school, name="Friday class")
        self.again = Student.objects.create(course=self.other, name="A. Shore", number="S7")
        Student.objects.filter(pk=self.ada.pk).update(number="S7")
        self.ada.refresh_from_db()
        self.page = reverse("student-erase", args=[self.ada.pk])

    def test_what_is_held_is_shown_and_nothing_goes_without_being_sure(self):
        page = self.client.get(self.page)
        self.assertContains(page, "Friday class")
        self.assertContains(page, "Private notes")
        for told, words in (
            ({"sure": "1"}, "Choose at least one"),
            ({"student": [self.ada.pk]}, "Tick that you are sure"),
            ({"student": [self.bo.pk], "sure": "1"}, "Choose at least one"),
        ):
            self.assertContains(self.client.post(self.page, told), words, status_code=422)
        self.assertTrue(Student.objects.filter(pk=self.ada.pk).exists())

    def test_all_of_it_goes_and_the_receipt_names_nobody(self):
        self.assertEqual(held_on([self.ada])["pieces"], 3)
        told = {"student": [self.ada.pk, self.again.pk], "sure": "1"}
        answer = self.client.post(self.page, told)
        receipt = Erasure.objects.get()
        self.assertEqual(answer.url, reverse("erasure", args=[receipt.code]))
        self.assertFalse(Student.objects.filter(pk__in=[self.ada.pk, self.again.pk]).exists())
        self.assertFalse(Piece.objects.filter(pk=self.first.pk).exists())
        self.assertFalse(Note.objects.exists() or RecordLink.objects.exists())
        self.assertFalse(MarkCorrection.objects.exists())
        self.assertTrue(Piece.objects.filter(pk=self.others.pk).exists())
        self.client.get(answer.url)  # with it the message that tells the name
        page = self.client.get(answer.url)
        self.assertContains(page, str(self.first.pk))  # the digest that the test gave it
        self.assertNotContains(page, "Shore")
        document = self.client.get(answer.url, {"as": "json"}).json()
        self.assertEqual(document["deleted"]["photographs"], 1)
        self.assertEqual(document["deleted"]["places in classes"], 2)
        self.assertNotIn("Shore", str(document))

    def test_only_the_owner_deletes_and_of_their_school(self):
        self.client.force_login(
            User.objects.create_user(
                "una", password=None, school=self.user.school, role=Role.MODERATOR
            )
        )
        self.assertEqual(self.client.post(self.page, {"sure": "1"}).status_code, 403)
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(self.page).status_code, 404)

    def test_a_request_for_deletion_is_met_in_an_archived_class_too(self):
        Course.objects.filter(pk=self.course.pk).update(archived_at=timezone.now())
        told = {"student": [self.ada.pk], "sure": "1"}
        self.assertEqual(self.client.post(self.page, told).status_code, 302)
        self.assertFalse(Photograph.objects.filter(piece=self.first).exists())
