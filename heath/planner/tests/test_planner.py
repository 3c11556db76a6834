import io
import re

from django.urls import reverse
from django.utils.http import urlencode
from pypdf import PdfReader

from heath.planner.drawing import drawn
from heath.planner.models import Plan, Workshop
from heath.testing import SchoolTestCase, printed, text_of
from juniper.planning import ContainerSize, plan_stems
from juniper.planning.materials import catalogue
from juniper.rules import Brief, school


class Planner(SchoolTestCase):
    def test_the_plan_says_what_to_cut(self):
        page = self.client.get(reverse("plan", args=[self.brief.pk]))
        self.assertContains(page, "36.0 cm")  # one and a half times 24 cm (common practice)
        self.assertContains(page, "61.5 cm")
        self.assertContains(page, "one stem in ten")
        self.assertEqual(
            self.client.get(reverse("plan", args=[self.other_brief.pk])).status_code, 404
        )

    def test_the_handout_is_one_page_without_marks(self):
        paper = printed(self.client.post(reverse("plan-pdf", args=[self.brief.pk])))
        document, text = PdfReader(io.BytesIO(paper)), text_of(paper)
        self.assertEqual(len(document.pages), 1)
        self.assertIn("61.5 cm", text)
        self.assertNotIn("of 100", text)

    def test_the_drawing_is_to_scale_and_stays_inside(self):
        for slug, container, form in (
            ("classical-line-mass", ContainerSize(24, 10), "S-curve"),
            ("three-stem-thirds", ContainerSize(5.5, 30), "three-stem"),
            ("layered-round", ContainerSize(9, 28), "round"),
        ):
            brief = Brief(form=form)
            plan = plan_stems(school(slug), container, brief)
            drawing = drawn(plan, container, brief, school(slug))
            for one in drawing.stems:
                self.assertTrue(0 <= one.x <= drawing.width and 0 <= one.y <= drawing.height, one)
                x0, y0, x1, y1 = (float(n) for n in re.findall(r"-?[\d.]+", one.line))
                self.assertAlmostEqual(
                    ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5 / drawing.per_cm,
                    one.stem.length,
                    delta=0.1,
                )
            self.assertAlmostEqual(
                (drawing.table - drawing.rim) / drawing.per_cm, container.height, places=6
            )

    def test_no_tip_hides_a_band_lines_figure(self):
        # Letters of 13 pixels: "2.5 cm" and "22.5 cm over the rim".
        for slug, form in (
            ("classical-line-mass", "horizontal low"),
            ("low-table-piece", "horizontal low"),
            ("low-table-piece", "round"),
        ):
            brief, container, rules = Brief(form=form), ContainerSize(9.5, 26.4), school(slug)
            drawing = drawn(plan_stems(rules, container, brief), container, brief, rules)
            for (at, end), y, wide in (
                (drawing.low_label, drawing.low + 10, 45),
                (drawing.high_label, drawing.high - 10, 125),
            ):
                left = at if end == "start" else at - wide
                for tip in drawing.stems:
                    self.assertFalse(
                        left < tip.x < left + wide and abs(tip.y - y) < 15, (slug, at, end, tip)
                    )

    def test_a_timetable_lives_in_its_address(self):
        url = reverse("conditioning", args=[self.brief.pk])
        self.assertContains(self.client.get(url), "Add what the class will use")
        moved = self.client.get(
            url, {"add": "tulip", "stems": "32", "at": "2026-11-26T18:30", "people": "1"}
        )
        self.assertIn("have=tulip%3A32", moved["Location"])
        page = self.client.get(moved["Location"])
        for words in ("15:55", "16:15", "18:15", "Tulipa cultivars", "take out"):
            self.assertContains(page, words)
        more = self.client.get(moved["Location"] + "&add=Lilac&stems=10", follow=True)
        self.assertContains(more, "whittle the bark off")
        self.assertNotContains(more, "Boiling water")
        Workshop.objects.create(school=self.user.school, ways={"searing": "sear"})
        seared = self.client.get(moved["Location"] + "&add=Daphne&stems=10", follow=True)
        self.assertContains(seared, "30 to 40 seconds")
        self.assertContains(seared, "Boiling water")
        calendar = self.client.get(
            reverse("conditioning-ics", args=[self.brief.pk]),
            {"have": ["tulip:32"], "at": "2026-11-26T18:30"},
        )
        self.assertIn("DTSTART:20261126T155500Z", calendar.content.decode())
        self.assertEqual(
            self.client.get(reverse("conditioning", args=[self.other_brief.pk])).status_code, 404
        )

    def test_what_makes_no_sense_is_told_or_left_out(self):
        url = reverse("conditioning", args=[self.brief.pk])
        self.assertContains(
            self.client.get(url, {"add": "moonflower", "stems": "3"}), "No material is called"
        )
        self.assertContains(
            self.client.get(url, {"add": "rose", "stems": "many"}), "How many stems of rose?"
        )
        page = self.client.get(
            url, {"have": ["rose:x", "nothing:3", "rose:0"], "at": "soon", "people": "9"}
        )
        self.assertContains(page, "Add what the class will use")

    def test_the_timetable_is_the_recipes_and_can_be_hung_up(self):
        url = reverse("conditioning", args=[self.brief.pk])
        Plan.objects.create(
            brief=self.brief,
            items=[{"slug": "wallflower", "role": "filler", "colour": "yellow", "stems": 3}],
        )
        self.client.post(reverse("ways"), {"searing": "sear", "next": url})
        page = self.client.get(url)
        self.assertContains(page, "7 Wallflower")  # two students, three each, and one in reserve
        self.assertContains(page, "/timer/?t=Wallflower%3A10")
        asked = urlencode({"have": "wallflower:7", "at": "2026-11-26T18:30"})
        address = f"{reverse('conditioning-pdf', args=[self.brief.pk])}?{asked}"
        text = text_of(printed(self.client.post(address)))
        self.assertIn("7 Wallflower", " ".join(text.split()))
        self.assertIn("10 seconds", " ".join(text.split()))
        self.client.post(reverse("ways"), {"searing": "no-sear", "next": url})
        self.assertNotContains(self.client.get(url), "10 seconds")

    def test_the_catalogue_is_searched_and_goes_out(self):
        page = self.client.get(reverse("materials"), {"words": "lily"})
        self.assertContains(page, "Lily of the valley")
        self.assertNotContains(page, "Carnation")
        self.assertIn(
            "slug,common", self.client.get(reverse("materials-file", args=["csv"])).content.decode()
        )
        every = self.client.get(reverse("materials-file", args=["json"])).json()
        self.assertEqual(len(every), len(catalogue()))
