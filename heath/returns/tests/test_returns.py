import io
from importlib import import_module

from django.apps import apps
from django.core import signing
from django.urls import reverse
from django.utils import timezone
from PIL import Image
from pypdf import PdfReader

from heath.assessment.models import Mark, Piece
from heath.assessment.reading import read
from heath.briefs.models import Brief
from heath.planner.models import Plan
from heath.returns.models import Bundle, ReturnSheet
from heath.returns.tasks import make_bundle
from heath.testing import SchoolTestCase, photographed, printed
from heath.web.paper import INSIDE, laid_out


class Sheets(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def issue(self):
        self.client.post(reverse("accept", args=[self.piece.pk]))
        return self.client.post(reverse("return", args=[self.piece.pk]), follow=True)

    def test_a_piece_must_be_marked_first(self):
        self.client.post(reverse("return", args=[self.piece.pk]))
        self.assertFalse(ReturnSheet.objects.exists())
        self.assertEqual(self.client.get(reverse("sheet", args=[self.piece.pk])).status_code, 404)

    def test_nothing_is_returned_while_a_question_of_safety_is_open(self):
        self.brief.rule_set = "edible-and-herb-bunch"
        self.brief.save()
        page = self.issue()  # it cannot even be accepted
        self.assertContains(page, "Is every kind edible and unsprayed")
        self.assertFalse(Mark.objects.exists())
        # as one accepted before the question was asked
        Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.MARKED)
        self.client.post(reverse("return", args=[self.piece.pk]))
        self.assertFalse(ReturnSheet.objects.exists())
        bundle = Bundle.objects.create(brief=self.brief, made_by=self.user)
        make_bundle(bundle.pk)
        bundle.refresh_from_db()
        self.assertIn("Ada Shore: answer", bundle.fault)
        Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.MARKING)
        self.client.post(
            reverse("answer", args=[self.piece.pk]), {"rule": "food-safe", "answer": "no"}
        )
        page = self.issue()
        self.assertContains(page, "this can hurt somebody")
        figures = ReturnSheet.objects.get().figures
        self.assertEqual((figures["score"], figures["passed"], figures["award"]), (0, False, ""))
        self.assertContains(
            self.client.get(reverse("bench", args=[self.piece.pk])), "this can hurt somebody"
        )

    def test_sheet_on_screen(self):
        self.client.post(
            reverse("override", args=[self.piece.pk]),
            {"rule": "no-bare-stem", "waive": "1", "reason": "airy on purpose"},
        )
        page = self.issue()
        for words in (
            "Ada Shore",
            "Next cut",
            " cm",
            "Proportion",
            "Balance",
            "Focal point",
            "Colour",
            "airy on purpose",
            "<svg",
        ):
            self.assertContains(page, words)
        self.assertNotContains(page, "Bo Strand")

    def test_sheet_on_paper(self):
        self.issue()
        paper = printed(self.client.post(reverse("sheet-pdf", args=[self.piece.pk])))
        document = PdfReader(io.BytesIO(paper))
        text = " ".join(" ".join(page.extract_text() for page in document.pages).split())
        for words in (
            "Ada Shore",
            "Next cut",
            "Proportion",
            "Balance",
            "Focal point",
            "Colour",
            " cm",
        ):
            self.assertIn(words, text)
        self.assertEqual(len(document.pages), 1)
        self.assertGreaterEqual(len(document.pages[0].images), 1)

    def test_what_is_drawn_on_paper_lies_over_the_picture(self):
        # A picture lower than the words beside it: the drawing is as high as the picture all the
        # same.
        html = (
            '<link rel="stylesheet" href="paper.css"><div class="sheet-main">'
            '<figure class="marked"><img src="piece.jpg" width="1200" height="900">'
            '<svg class="evidence" viewBox="0 0 1200 900"></svg></figure>'
            f'<div class="words">{"<p>Many words.</p>" * 40}</div></div>'
        )
        out = io.BytesIO()
        Image.new("RGB", (1200, 900)).save(out, "JPEG")
        pictures = {f"{INSIDE}static/piece.jpg": lambda: ("image/jpeg", out.getvalue())}
        (page, *_) = laid_out(html, pictures).pages
        every = page._page_box.descendants(placeholders=True)
        boxes = {(b.element_tag or "").split("}")[-1]: b for b in every}
        self.assertAlmostEqual(boxes["svg"].height, boxes["img"].height, delta=0.5)
        self.assertAlmostEqual(boxes["svg"].position_y, boxes["img"].position_y, delta=0.5)

    def test_a_sheet_never_changes_and_a_new_mark_makes_a_new_one(self):
        self.issue()
        first = ReturnSheet.objects.get().figures
        self.client.post(reverse("return", args=[self.piece.pk]))
        self.assertEqual(ReturnSheet.objects.count(), 1)
        self.client.post(reverse("reopen", args=[self.piece.pk]))
        self.client.post(
            reverse("override", args=[self.piece.pk]),
            {"rule": "visible-height", "score": "2", "reason": "looked again"},
        )
        self.issue()
        self.assertEqual([s.version for s in ReturnSheet.objects.all()], [1, 2])
        self.assertEqual(ReturnSheet.objects.first().figures, first)
        self.assertRegex(
            ReturnSheet.objects.last().figures["changed"],
            r"^Since sheet 1 the mark went from \d+ to \d+: looked again\.$",
        )
        self.assertEqual(first["changed"], "")

    def test_how_much_was_measured_and_that_less_earns_no_award(self):
        self.issue()
        figures = ReturnSheet.objects.get().figures
        self.assertLess(figures["measured"], figures["called_for"])
        self.assertEqual(figures["enough"], figures["measured"] >= 0.8 * figures["called_for"])
        self.assertEqual(
            [m["name"] for m in figures["family_marks"]], [f["name"] for f in figures["families"]]
        )
        page = self.client.get(reverse("sheet", args=[self.piece.pk]))
        self.assertSays(page, "of the marks could be judged")
        if not figures["enough"]:
            self.assertEqual(figures["award"], "")
            self.assertContains(page, "no award:")

    def test_planned_against_made(self):
        Plan.objects.create(brief=self.brief)
        self.issue()
        figures = ReturnSheet.objects.get().figures
        made = read(self.piece).findings["height_ratio"].value * 24
        # One and a half to two times 24 cm, and the middle of it (common practice).
        self.assertEqual(
            figures["planned"],
            f"Planned 42 cm over the rim, made {made:.0f} cm; 36 to 48 cm is taught.",
        )

    def test_nothing_planned_is_told_where_nobody_planned(self):
        self.issue()
        self.assertEqual(ReturnSheet.objects.get().figures["planned"], "")

    def test_what_held_and_what_to_change(self):
        self.issue()
        figures = ReturnSheet.objects.get().figures
        for part in ("held", "to_change"):
            self.assertTrue(1 <= len(figures[part]) <= 3)
            for sentence in figures[part]:
                self.assertTrue(sentence["seen"].endswith(".") and sentence["do"].endswith("."))

    def test_the_students_own_link(self):
        self.issue()
        own = self.own()
        self.client.logout()
        page = self.client.get(own)
        self.assertContains(page, "Ada Shore")
        self.assertNotContains(page, "Bo Strand")
        for part, kind in (("marked-up.svg", "image/svg+xml"), ("piece.jpg", "image/jpeg")):
            self.assertEqual(self.client.get(own + part)["Content-Type"], kind)
        self.assertTrue(printed(self.client.post(own + "sheet.pdf")).startswith(b"%PDF"))
        for wrong in (self.piece.pk, own.split("/")[-2][:-1], "x" * 300):
            self.assertEqual(self.client.get(reverse("own-sheet", args=[wrong])).status_code, 404)

    def own(self):
        return reverse("own-sheet", args=[self.piece.sheets.last().key])

    def test_a_further_issue_keeps_the_address_of_one_that_stands(self):
        self.issue()
        own = self.own()
        self.client.post(reverse("reopen", args=[self.piece.pk]))
        self.client.post(
            reverse("override", args=[self.piece.pk]),
            {"rule": "visible-height", "score": "2", "reason": "looked again"},
        )
        self.issue()
        self.assertEqual(self.own(), own)
        self.assertContains(self.client.get(own), "Sheet 2 of")

    def test_addresses_of_before_go_on_to_show_the_newest_sheet_or_that_it_is_withdrawn(self):
        migration = import_module("heath.returns.migrations.0003_addresses_of_students")
        for version, withdrawn in ((1, None), (2, timezone.now())):
            ReturnSheet.objects.create(
                piece=self.piece, version=version, figures={}, withdrawn_at=withdrawn
            )
        migration.keep_addresses(apps, None)
        own = reverse("own-sheet", args=[signing.Signer(salt="return-sheet").sign(self.piece.pk)])
        self.assertContains(self.client.get(own), "withdrawn", status_code=410)
        self.issue()
        self.assertEqual(self.client.get(own).status_code, 410)

    def test_an_address_ends_on_its_last_day(self):
        self.issue()
        ends = reverse("sheet-ends", args=[self.piece.pk])
        for day, status in (("2999-01-31", 200), ("2001-01-31", 410), ("", 200)):
            self.client.post(ends, {"ends": day})
            self.assertEqual(self.client.get(self.own()).status_code, status)
        self.assertContains(self.client.post(ends, {"ends": "soon"}, follow=True), "This is no day")
        self.assertContains(
            self.client.post(ends, {"ends": "2026-02-31"}, follow=True), "This is no day"
        )

    def test_withdrawn_and_returned_again(self):
        self.issue()
        own = self.own()
        self.client.post(reverse("sheet-withdraw", args=[self.piece.pk]))
        self.assertContains(self.client.get(own), "withdrawn", status_code=410)
        self.assertEqual(self.client.get(own + "piece.jpg").status_code, 410)
        self.client.post(reverse("return", args=[self.piece.pk]))
        self.assertContains(self.client.get(own), "withdrawn", status_code=410)
        self.assertNotEqual(self.own(), own)
        self.assertContains(self.client.get(self.own()), "Sheet 2 of")
        self.client.force_login(self.stranger)
        self.assertEqual(
            self.client.post(reverse("sheet-withdraw", args=[self.piece.pk])).status_code, 404
        )

    def test_a_class_in_one_pdf(self):
        self.client.post(reverse("accept", args=[self.piece.pk]))
        bundle = Bundle.objects.create(brief=self.brief, made_by=self.user)
        make_bundle(bundle.pk)
        bundle.refresh_from_db()
        self.assertEqual((bundle.total, bundle.done, bundle.fault), (1, 1, ""))
        answer = self.client.get(reverse("bundle-file", args=[bundle.pk]))
        document = PdfReader(io.BytesIO(b"".join(answer.streaming_content)))
        self.assertIn("Ada Shore", document.pages[0].extract_text())
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(reverse("bundle-file", args=[bundle.pk])).status_code, 404)
        empty = Bundle.objects.create(brief=self.other_brief, made_by=self.stranger)
        make_bundle(empty.pk)
        self.assertContains(
            self.client.get(reverse("bundle", args=[empty.pk])),
            "No piece of this brief is marked yet",
        )

    def test_the_sheet_tells_of_the_last_piece(self):
        self.issue()
        again = Brief.objects.create(
            course=self.brief.course,
            name="Column again",
            container="Cylinder",
            container_height_cm=24,
            container_width_cm=10,
            form="vertical",
        )
        again.give_pieces()
        second = photographed(again, self.user)
        self.client.post(reverse("accept", args=[second.pk]))
        self.client.post(reverse("return", args=[second.pk]))
        before = second.sheets.get().figures["before"]
        self.assertEqual(before["brief"], "Column")
        self.assertIn(str(self.piece.sheets.get().figures["score"]), before["words"])
        self.assertIsNone(self.piece.sheets.get().figures["before"])

    def test_the_pdf_fetches_nothing_from_outside(self):
        from heath.web.inside import Inside

        own = "https://sheet.invalid/photograph/1"
        inside = Inside({own: lambda: ("image/jpeg", b"\xff\xd8")})
        self.assertEqual(inside.fetch(own).read(), b"\xff\xd8")
        self.assertIn(b"@page", inside.fetch("https://sheet.invalid/static/paper.css").read())
        for url in (
            "https://sheet.invalid/photograph/99999",
            "https://sheet.invalid/static/../settings.py",
            "file:///etc/hostname",
            "http://127.0.0.1/",
            "https://sheet.invalid/static/bench.js",
        ):
            with self.subTest(url), self.assertRaises(ValueError):
                inside.fetch(url)
