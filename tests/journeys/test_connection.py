"""The line drops, or somebody signs out elsewhere: every action says so in a sentence, the page
stays, and what was typed is sent once the site is back.
"""

import re

from django.urls import reverse
from playwright.sync_api import expect

from heath.assessment.models import Remark
from tests.journeys.test_correcting import OnTheBench

LOST = "The site cannot be reached. Nothing was sent: check the connection and try again."
STAYS = "The site cannot be reached. This page stays as it is: check the connection."
SUBMITTED = "form => { form.noValidate = true; form.requestSubmit() }"
CHANGED = "form => form.dispatchEvent(new Event('change', { bubbles: true }))"


class Connection(OnTheBench):
    def setUp(self):
        super().setUp()
        self.strip = self.page.locator("#connection")
        self.brief = self.piece.brief

    def open(self, name, *args):
        self.page.goto(self.live_server_url + reverse(name, args=args))

    def test_no_form_of_any_page_leaves_while_the_site_cannot_be_reached(self):
        brief, piece = self.brief, self.piece
        places = [
            ("brief", brief.pk),
            ("brief-change", brief.pk),
            ("returning", brief.pk),
            ("course", brief.course.pk),
            ("settings",),
            ("plan", brief.pk),
            ("bench", piece.pk),
            ("intake", brief.pk),
        ]
        forms = 0
        for place in places:
            self.open(*place)
            at = self.page.url
            found = self.page.locator("form")
            self.context.set_offline(True)
            for n in range(found.count()):
                form = found.nth(n)
                method = (form.get_attribute("method") or "").lower()
                if method != "post" and not form.get_attribute("hx-post"):
                    continue
                self.page.evaluate("document.getElementById('connection').hidden = true")
                by_change = "change" in (form.get_attribute("hx-trigger") or "")
                form.evaluate(CHANGED if by_change else SUBMITTED)
                with self.subTest(place=place, form=n):
                    expect(self.strip).to_have_text(re.compile(re.escape(LOST)))
                    self.assertEqual(self.page.url, at)
                forms += 1
            self.context.set_offline(False)
        self.assertGreater(forms, 15)

    def test_what_was_typed_is_sent_when_the_line_is_back(self):
        page = self.page
        self.open("brief-change", self.brief.pk)
        self.context.set_offline(True)
        page.fill("[name=name]", "Low and long")
        expect(self.strip).to_contain_text(STAYS)  # of the drawing that follows what is typed
        page.get_by_role("link", name="Term", exact=True).click()
        expect(self.strip).to_contain_text(STAYS)
        page.get_by_role("button", name="Save the brief").click()
        expect(self.strip).to_contain_text(LOST)
        expect(page.locator("[name=name]")).to_have_value("Low and long")
        self.context.set_offline(False)
        expect(self.strip).to_be_hidden()
        page.get_by_role("button", name="Save the brief").click()
        expect(page.locator("h1")).to_contain_text("Low and long")

    def test_signed_out_elsewhere_what_was_done_waits_for_the_next_sign_in(self):
        page = self.page
        cookies = self.context.cookies()
        self.context.clear_cookies(name="sessionid")
        page.keyboard.press("b")
        x, y = self.now().findings.top
        page.mouse.move(*self.at(x, y - 70))
        page.mouse.down()
        page.mouse.up()
        expect(page.locator("#saved")).to_have_text("Signed out. Sign in again; nothing is lost")
        expect(self.strip).to_contain_text("You are signed out")
        expect(self.strip.get_by_role("link", name="Sign in")).to_be_visible()
        self.context.add_cookies(cookies)
        page.reload()
        self.saved()
        self.assertEqual(self.piece.photograph.corrections.count(), 1)
        self.assertFalse(Remark.objects.exists())
