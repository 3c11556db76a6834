"""Records in a real browser: a second marking set, marked by keys and settled; the gradebook; the
student's own page on a phone.
"""

import re

from playwright.sync_api import expect

from heath.assessment.models import Mark, Piece
from heath.bench.accepting import accept_marks, confirm_handles
from heath.exemplars.models import Exemplar
from heath.moderation.models import SecondMark, Settlement
from heath.people.models import Role, User
from heath.records.models import MarkCorrection, RecordLink
from heath.returns.issuing import issue_sheet
from tests.journeys.test_correcting import OnTheBench


class Records(OnTheBench):
    def setUp(self):
        super().setUp()
        self.ruth = User.objects.get()
        oz = User.objects.create_user("oz", school=self.ruth.school, role=Role.ASSISTANT)
        confirm_handles(self.piece.photograph, oz)
        accept_marks(Piece.objects.get(pk=self.piece.pk), oz)
        issue_sheet(Piece.objects.get(pk=self.piece.pk), self.ruth)
        self.course = self.piece.brief.course

    def test_a_second_marking_set_marked_and_settled(self):
        page = self.page
        self.go(f"classes/{self.course.pk}/agreement/")
        page.get_by_label(self.ruth.shown_name).check()
        page.get_by_label("How many of the marked pieces").fill("100")
        page.get_by_role("button", name="Set the second marking").click()
        expect(page.locator(".messages")).to_contain_text("1 piece of Column")
        self.go("")
        page.get_by_role("link", name="1 to mark: Second marking: Column").click()
        page.get_by_role("link", name=re.compile("^Mark Piece")).click()
        page.wait_for_load_state("load")  # keys are heard once the scripts have started
        expect(page.locator("#score")).to_have_text(re.compile(r"^\d+$"))
        expect(page.locator(".history li")).to_have_count(0)  # nothing of the first marker's
        page.keyboard.press("s")
        expect(page.locator(".history summary")).to_have_text("1 correction")
        page.keyboard.press("a")
        expect(page.locator("#reading b", has_text=re.compile("^marked$"))).to_be_visible()
        second = SecondMark.objects.get()
        self.go(f"second-marks/{second.pk}/")
        page.get_by_label("Reason").fill("Looked at together")
        page.get_by_role("button", name=re.compile("^The mean")).click()
        expect(page.locator(".messages")).to_contain_text("is settled at")
        marks = [Mark.objects.get(piece=p) for p in (self.piece, second.copy)]
        settled = Settlement.objects.get()
        self.assertEqual(marks[0].score, settled.mark)
        self.assertAlmostEqual(settled.mark, (settled.first_mark + marks[1].score) / 2, delta=0.06)

    def test_a_mark_corrected_in_the_gradebook_survives_a_reload(self):
        page = self.page
        self.go(f"classes/{self.course.pk}/gradebook/")
        page.get_by_role("link", name="Late, excused, corrections").click()
        page.get_by_label("Corrected mark").first.fill("61.5")
        page.get_by_role("button", name="Correct", exact=True).first.click()
        expect(page.get_by_role("alert").first).to_contain_text("Write the reason")
        expect(page.get_by_label("Corrected mark").first).to_have_value("61.5")
        page.locator(".cell-says input[name=reason]").nth(1).fill("Recount")
        page.get_by_role("button", name="Correct", exact=True).first.click()
        expect(page.locator(".book tbody tr").first).to_contain_text("61.5")
        page.reload()
        expect(page.locator(".cell-says").first).to_contain_text("Recount")
        self.assertEqual(MarkCorrection.objects.get().mark, 61.5)

    def test_the_students_own_page_on_a_phone(self):
        page = self.page
        Exemplar.objects.create(piece=self.piece, rules=["form"], state="asked")
        link = RecordLink.objects.create(student=self.piece.student)
        page.context.clear_cookies()
        page.set_viewport_size({"width": 390, "height": 844})
        self.go(f"record/{link.key}/")
        expect(page.locator(".in-time")).to_contain_text("of 100")
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        page.get_by_role("button", name="Yes, show it").click()
        expect(page.get_by_role("button", name="Stop showing it")).to_be_visible()
        self.assertEqual(Exemplar.objects.get().state, "allowed")
