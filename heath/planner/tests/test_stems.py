from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from heath.assessment.reading import read
from heath.bench.overlays import wanted_form
from heath.planner.models import Plan, Workshop
from heath.planner.planned import stem_plan
from heath.returns.sheet import planned
from heath.testing import SchoolTestCase, photographed


class Stems(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.page, self.move = (reverse(n, args=[self.brief.pk]) for n in ("plan", "plan-move"))

    def test_a_tip_that_moves_is_answered_and_kept_when_let_go(self):
        answer = self.client.post(self.move, {"stem": "tallest", "side": "0", "up": "32"})
        self.assertContains(answer, "32.0 cm")
        self.assertContains(answer, "1.33")  # 32 over 24 cm
        self.assertFalse(Plan.objects.exists())
        self.client.post(self.move, {"stem": "tallest", "side": "0", "up": "32", "keep": "1"})
        again = self.client.get(self.page)
        self.assertContains(again, "32.0 cm")
        self.assertContains(again, "Some tips were moved by hand")
        self.assertEqual(stem_plan(self.brief)[0].height, 32)
        self.client.post(self.move, {"back": "1"})
        self.assertContains(self.client.get(self.page), "42.0 cm")

    def test_moved_tips_are_set_aside_for_another_container(self):
        self.client.post(self.move, {"stem": "tallest", "side": "0", "up": "32", "keep": "1"})
        self.brief.container_height_cm = 30
        self.brief.save()
        page = self.client.get(self.page)
        self.assertContains(page, "They do not fit here")
        self.assertContains(page, "52.5 cm")  # one and three quarters of 30

    def test_what_makes_no_sense_is_refused_in_words(self):
        for sent in (
            {},
            {"stem": "tallest", "side": "x", "up": "3"},
            {"stem": "nobody", "side": "1", "up": "3"},
            {"stem": "tallest", "side": "nan", "up": "3"},
        ):
            self.assertEqual(self.client.post(self.move, sent).status_code, 400)
        for name in ("plan-move", "recipe", "recipe-answer"):
            self.assertEqual(
                self.client.post(reverse(name, args=[self.other_brief.pk])).status_code, 404
            )

    def test_bench_and_sheet_hold_a_piece_against_what_was_moved(self):
        piece = photographed(self.brief, self.user)
        reading = read(piece)
        before = wanted_form(piece, reading).paths
        self.client.post(self.move, {"stem": "tallest", "side": "0", "up": "38", "keep": "1"})
        self.assertTrue(planned(piece, reading).startswith("Planned 38 cm over the rim, made "))
        self.assertNotEqual(wanted_form(piece, reading).paths, before)

    def test_short_stems_and_depth_are_kept(self):
        self.client.post(self.page, {"what": "stems", "longest_cm": "40", "depth_cm": ""})
        page = self.client.get(self.page)
        self.assertSays(page, "Stems of 40 cm are too short for this plan")
        self.assertSays(page, "The mark would lose about")
        self.assertSays(page, "up to 15.5 cm high would do")
        self.client.post(self.page, {"what": "stems", "longest_cm": "80", "depth_cm": "10"})
        self.assertContains(self.client.get(self.page), "Stems of 80 cm are long enough")
        fault = self.client.post(
            self.page, {"what": "stems", "longest_cm": "long", "depth_cm": "10"}
        )
        self.assertContains(fault, "Write the length as a number of centimetres")
        self.assertContains(fault, "long")

    def test_a_tip_on_its_way_asks_for_no_recipe(self):
        on_the_way = {"stem": "tallest", "side": "1", "up": "40"}
        with CaptureQueriesContext(connection) as asked:
            answer = self.client.post(self.move, on_the_way)
        self.assertNotContains(answer, "water ")
        for table in ("planner_ownmaterial", "planner_workshop"):
            self.assertNotIn(table, " ".join(q["sql"] for q in asked))
        self.assertContains(self.client.post(self.move, on_the_way | {"keep": "1"}), "water ")

    def test_holding_follows_what_is_ticked_and_the_schools_way(self):
        self.client.post(self.page, {"what": "holding", "stems": ["dried"], "clear": "false"})
        self.assertContains(self.client.get(self.page), "Coiled wire</b>: two or three")
        self.client.post(
            self.page, {"what": "holding", "stems": ["heavy", "thick"], "clear": "false"}
        )
        self.assertContains(self.client.get(self.page), "Folded mesh over a pin holder</b>:")
        self.client.post(reverse("ways"), {"foam": "heavy-only", "next": self.page})
        self.assertContains(self.client.get(self.page), "Foam piece</b>:")
        self.assertEqual(Workshop.objects.get().school, self.user.school)
        self.client.post(
            reverse("ways"), {"foam": "nonsense", "next": "https://elsewhere.invalid/"}
        )
        self.assertEqual(Workshop.objects.get().ways, {"foam": "heavy-only"})
