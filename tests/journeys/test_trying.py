"""Trying a change on the picture, in a real browser: nothing of it is kept with the piece, and it
outlives a reload.
"""

import re

from playwright.sync_api import expect

from heath.assessment.models import Correction
from heath.shelf.models import Container
from tests.journeys.test_correcting import OnTheBench


class Trying(OnTheBench):
    def setUp(self):
        super().setUp()
        Container.objects.create(
            school=self.piece.brief.course.school, name="Low bowl", height_cm=10, width_cm=22
        )
        self.page.reload()

    def ready(self):
        expect(self.page.locator("#saved")).to_have_text("Tried; nothing of it is kept")

    def test_a_bloom_is_carried_a_stem_cut_and_the_container_changed(self):
        page, before = self.page, self.now()
        page.get_by_role("button", name="Try it", exact=True).click()
        self.ready()
        bloom = max(before.scene.blooms, key=lambda b: b.radius)
        page.mouse.move(*self.at(*bloom.centre))
        page.mouse.down()
        page.mouse.move(*self.at(bloom.centre[0] - 150, bloom.centre[1] - 30), steps=5)
        page.mouse.up()
        expect(page.locator(".tries li")).to_have_text([re.compile(r"bloom moved \d+\.\d cm")])
        stem = page.locator("#tried .stem").first
        stem.focus()
        page.keyboard.press("Shift+ArrowDown")
        expect(page.locator(".tries li")).to_have_count(2)
        expect(page.locator(".tries li").nth(1)).to_contain_text("Stem cut by 5.0 cm")
        page.get_by_role("combobox", name="Container", exact=True).select_option(
            label="Low bowl, 10 cm"
        )
        expect(page.locator(".tries li").nth(2)).to_contain_text("Set in Low bowl")
        expect(page.locator("#tried image")).to_have_count(1)
        page.reload()
        page.keyboard.press("y")
        expect(page.locator(".tries li")).to_have_count(3)
        page.locator(".tries li").nth(1).get_by_role("button").click()
        expect(page.locator(".tries li")).to_have_count(2)
        page.get_by_role("button", name="Start over").click()
        expect(page.locator(".tries li")).to_have_count(0)
        page.keyboard.press("h")
        expect(page.locator("#score")).to_have_text(f"{before.verdict.score:.0f}")
        self.assertFalse(Correction.objects.exists())
