"""The rulebook in a real browser: a band dragged by mouse and by keys, released, taken up; a check
answered beside its crop.
"""

import re

from playwright.sync_api import expect

from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.people.models import School, User
from heath.rulebook.models import RuleSetVersion
from heath.testing import photographed
from tests.journeys.test_first_light import InTheBrowser, work_off


class Rulebook(InTheBrowser):
    def setUp(self):
        super().setUp()
        course = Course.objects.create(
            school=School.objects.get(), name="Tuesday class", term="Autumn"
        )
        Student.objects.create(course=course, name="Ada Shore")
        self.brief = Brief.objects.create(
            course=course,
            name="Column",
            container="Tall cylinder",
            container_height_cm=24,
            container_width_cm="10.4",
            viewpoint="front only",
            form="symmetrical triangle",
            scheme="analogous",
            pass_mark=50,
        )
        self.brief.give_pieces()
        self.piece = photographed(self.brief, User.objects.get())
        self.sign_in()

    def edge(self, number):
        return self.page.locator("#visible-height input[name=edge]").nth(number)

    def test_a_band_is_dragged_kept_and_released(self):
        page = self.page
        self.go("rulebook/classical-line-mass/")
        page.get_by_role("button", name="Make it our own").click()
        grip = page.locator("#visible-height .edge-grip").nth(2)
        box = grip.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 30, y, steps=4)
        with page.expect_response(re.compile("/change/")):
            page.mouse.up()
        expect(self.edge(2)).not_to_have_value("2")
        dragged = float(self.edge(2).input_value())
        self.assertGreater(dragged, 2.05)
        # The edge keeps the focus, and an arrow key moves it on.
        expect(page.locator("#visible-height .edge-grip").nth(2)).to_be_focused()
        with page.expect_response(re.compile("/change/")):
            page.keyboard.press("ArrowLeft")
        page.reload()
        self.assertLess(float(self.edge(2).input_value()), dragged)
        page.get_by_role("button", name="See what it would change").click()
        work_off()
        page.get_by_label("Column").check()
        page.get_by_label("Why it changes").fill("Our urns are taller")
        page.get_by_role("button", name="Release version 1").click()
        expect(page.locator(".messages")).to_contain_text("is released")
        self.assertIsNotNone(RuleSetVersion.objects.get().released_at)
        self.go(f"pieces/{self.piece.pk}/")
        expect(page.locator(".total")).to_contain_text("Classical line-mass, our own, version 1")
        self.assertEqual(self.faults, [])

    def test_a_check_is_answered_beside_what_is_to_be_looked_at(self):
        page = self.page
        self.go(f"pieces/{self.piece.pk}/")
        line = page.locator("#line-holding-hidden")
        line.locator("summary").click()
        expect(line.locator(".crop")).to_be_visible()
        line.get_by_role("button", name="Yes").click()
        expect(line.locator(".mark-of")).to_have_text("10.0")
        page.reload()
        expect(page.locator("#line-holding-hidden .mark-of")).to_have_text("10.0")
        page.get_by_label("Declared principle").select_option("line")
        expect(page.locator("#line-focal-height")).to_have_count(0)
        self.assertEqual(self.faults, [])

    def test_an_open_rule_draws_what_it_rests_on(self):
        page = self.page
        self.go(f"pieces/{self.piece.pk}/")
        page.locator("#line-levels summary").click()
        expect(page.locator("#opened .mk-point").first).to_be_attached()
        page.locator("#line-levels summary").click()
        expect(page.locator("#opened .mark")).to_have_count(0)
        self.assertEqual(self.faults, [])
