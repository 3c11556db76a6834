"""Help inside the site, from the documentation, and the bar that leads to it."""

import re
from pathlib import Path

from django.conf import settings
from django.urls import get_resolver, reverse

from heath.testing import SchoolTestCase, photographed
from heath.web.guide import PAGES, page
from heath.web.letters import printable
from heath.web.templatetags.shell import HELP, OF_BRIEF, PLACES


class Guide(SchoolTestCase):
    def test_every_page_of_the_guide_is_shown_and_its_links_lead_on(self):
        written = {p.stem for p in (Path(settings.BASE_DIR) / "docs" / "guide").glob("*.md")}
        self.assertEqual(written, set(PAGES))
        for name in PAGES:
            answer = self.client.get(reverse("help", args=[name]))
            self.assertContains(answer, f"<h1>{page(name).title}</h1>")
            for link in re.findall(r'href="(/help/[^"]*)"', answer.content.decode()):
                self.assertEqual(self.client.get(link).status_code, 200, link)
        self.assertEqual(self.client.get(reverse("help", args=["no-such"])).status_code, 404)

    def test_each_page_leads_to_its_own_help(self):
        self.assertLessEqual(set(HELP.values()), set(PAGES))
        for name, args, wanted in (
            ("term", [], "term"),
            ("brief", [self.brief.pk], "wall"),
            ("intake", [self.brief.pk], "photographs"),
            ("rulebook", [], "rulebook"),
            ("settings", [], "people"),
        ):
            answer = self.client.get(reverse(name, args=args))
            self.assertContains(answer, f'href="{reverse("help", args=[wanted])}"')

    def test_the_names_on_the_bar_are_addresses_of_the_site(self):
        known = {p.name for r in get_resolver().url_patterns for p in r.url_patterns}
        for place in (*PLACES, *OF_BRIEF):
            self.assertLessEqual(place.pages, known, place.title)
        self.assertLessEqual(set(HELP), known)

    def test_the_present_place_is_marked_once_on_each_line(self):
        piece = photographed(self.brief, self.user)
        for name, pk, inside in (("brief", self.brief.pk, "Wall"), ("bench", piece.pk, "Wall")):
            html = self.client.get(reverse(name, args=[pk])).content.decode()
            marked = re.findall(r'aria-current="page">([^<]+)<', html)
            self.assertEqual(marked[:2], ["Briefs", inside])

    def test_which_names_the_type_can_print(self):
        for name in ("Zoë Dvořák", "Łukasz Żak", "Ελένη", "Юлия", "Nguyễn Thị Hoa"):
            self.assertTrue(printable(name), name)
        for name in ("李小龙", "אורה", "नेहा", "Ada 🌿"):
            self.assertFalse(printable(name), name)
