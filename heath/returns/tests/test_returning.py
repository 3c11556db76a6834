"""Where a brief's pieces are returned: all links, by text, CSV and mail."""

import csv
import io
from unittest import mock

from django.core import mail
from django.urls import reverse

from heath.assessment.models import Piece
from heath.returns.issuing import issue_sheet
from heath.testing import SchoolTestCase, done, photographed


class Returning(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        Piece.objects.filter(pk=cls.piece.pk).update(state=Piece.State.MARKED)
        cls.sheet = issue_sheet(Piece.objects.get(pk=cls.piece.pk), cls.user)
        cls.student = cls.piece.student
        cls.student.email = "ada@reef.test"
        cls.student.save()

    def page(self):
        return self.client.get(reverse("returning", args=[self.brief.pk]))

    def send(self):
        return done(self.client.post(reverse("links-mail", args=[self.brief.pk])))

    def address(self):
        return "http://testserver" + reverse("own-sheet", args=[self.sheet.key])

    def test_all_links_as_text_and_as_csv(self):
        self.assertContains(self.page(), f"Ada Shore: {self.address()}")
        answer = self.client.get(reverse("links-csv", args=[self.brief.pk]))
        head, row = csv.reader(io.StringIO(answer.content.decode("utf-8-sig")))
        self.assertEqual(
            dict(zip(head, row, strict=True)),
            {
                "Student": "Ada Shore",
                "E-mail": "ada@reef.test",
                "Brief": "Column",
                "Version": "1",
                "Link": self.address(),
                "Ends": "",
            },
        )

    def test_each_student_gets_one_letter_with_the_own_link_only(self):
        self.user.email = "ruth@cliffend.test"
        self.user.save()
        self.assertContains(self.page(), "E-mail 1 student their link")
        job = self.send()
        self.assertEqual((job.fault, job.to), ("", reverse("returning", args=[self.brief.pk])))
        (letter,) = mail.outbox
        self.assertEqual((letter.to, letter.reply_to), (["ada@reef.test"], ["ruth@cliffend.test"]))
        self.assertIn(self.address(), letter.body)
        self.assertNotIn("Bo Strand", letter.body)
        self.send()
        self.assertEqual(len(mail.outbox), 1)
        self.assertContains(self.page(), "1 of 1 e-mail sent")

    def test_a_mail_server_that_is_away_is_said_and_nothing_is_lost(self):
        with mock.patch(
            "django.core.mail.backends.locmem.EmailBackend.send_messages",
            side_effect=ConnectionRefusedError,
        ):
            job = self.send()
        self.assertIn("No e-mail could be sent to Ada Shore", job.fault)
        self.send()
        self.assertEqual(len(mail.outbox), 1)

    def test_a_withdrawn_sheet_has_no_link(self):
        self.client.post(reverse("sheet-withdraw", args=[self.piece.pk]))
        self.assertNotContains(self.page(), self.address())

    def test_while_names_are_hidden_no_link_is_shown(self):
        self.brief.names_hidden = True
        self.brief.save()
        page = self.page()
        self.assertNotContains(page, self.address())
        self.assertNotContains(page, "Ada Shore")
        self.assertContains(page, "The names are hidden")
        self.assertNotContains(
            self.client.get(reverse("links-csv", args=[self.brief.pk])), self.sheet.key
        )

    def test_without_an_address_the_student_is_named(self):
        self.student.email = ""
        self.student.save()
        self.assertSays(self.page(), "No e-mail address: Ada Shore")
        self.send()
        self.assertEqual(mail.outbox, [])

    def test_another_schools_brief_is_not_found(self):
        for name in ("returning", "links-csv"):
            answer = self.client.get(reverse(name, args=[self.other_brief.pk]))
            self.assertEqual(answer.status_code, 404)
