import csv
import io
from datetime import datetime, timedelta
from decimal import Decimal

from django.urls import reverse
from django.utils import timezone
from icalendar import Calendar

from heath.planner.models import Plan, Workshop
from heath.planner.planned import Planned
from heath.testing import SchoolTestCase, printed, text_of

LINES = [
    {"slug": "rose", "role": "focal", "colour": "red", "stems": 3},
    {"slug": "delphinium", "role": "line", "colour": "blue", "stems": 5},
    {"slug": "ruscus", "role": "foliage", "colour": "green", "stems": 8},
]
PRICES = "Rose, 10, £8\nDelphinium, 5, £9\nRuscus, 10, £4"


class Lesson(SchoolTestCase):
    def setUp(self):
        super().setUp()
        Plan.objects.create(brief=self.brief, items=LINES, pieces=16)
        Workshop.objects.create(school=self.brief.course.school, prices=PRICES)
        self.url = reverse("lesson-plan", args=[self.brief.pk])

    def planned(self, **more):
        sent = {
            "lesson_at": "2031-12-04T18:30",
            "lesson_minutes": "120",
            "people": "1",
            "transport": "driven",
            "way_minutes": "20",
        }
        return self.client.post(self.url, sent | more)

    def test_it_is_kept_and_worked_out_backwards_from_its_end(self):
        self.assertContains(self.client.get(self.url), "Say when the lesson begins")
        self.planned()
        page = self.client.get(self.url)
        plan = Plan.objects.get()
        self.assertEqual(timezone.localtime(plan.lesson_at).hour, 18)
        self.assertEqual((plan.transport, plan.way_minutes, plan.carried), ("driven", 20, True))
        for words in ("17:45", "18:05", "20:05", "20:20", "On the way: driven finished"):
            self.assertContains(page, words)
        self.assertContains(page, "2 from a stem")
        self.assertContains(page, "16 bags, each with the student")

    def test_the_timetable_ends_where_the_bags_begin(self):
        self.planned()
        planned = Planned(self.brief)
        bags = min(r.start for r in planned.run_sheet[0])
        self.assertTrue(all(j.ready <= bags for j in planned.jobs))
        page = self.client.get(reverse("conditioning", args=[self.brief.pk]))
        for job in planned.jobs:
            self.assertContains(page, f"<b>{job.start:%H:%M}</b>")

    def test_blooms_that_travel_have_more_in_reserve(self):
        lines = {x.item.material.slug: x.needed for x in Planned(self.brief).bill.lines}
        self.assertEqual(lines["rose"], 48 + 5)  # one in ten
        self.planned()
        lines = {x.item.material.slug: x.needed for x in Planned(self.brief).bill.lines}
        self.assertEqual(lines["rose"], 48 + 10)  # one in five
        self.assertEqual(lines["ruscus"], 64 + 7)

    def test_faults_are_told_and_nothing_is_lost(self):
        for sent, words in (
            ({"lesson_at": ""}, "When does the lesson begin?"),
            ({"lesson_minutes": "20"}, "45"),
            ({"way_minutes": "900"}, "600"),
            ({"people": "3"}, "3"),
            ({"transport": "flown"}, "flown"),
        ):
            page = self.planned(**sent)
            self.assertSays(page, 'class="fault"', 422)
            self.assertSays(page, words, 422)
            self.assertIsNone(Plan.objects.get().lesson_at)
        self.planned(lesson_at="2020-01-02T10:00")
        self.assertContains(self.client.get(self.url), "lies in the past")
        self.planned(lesson_minutes="45")
        self.assertContains(self.client.get(self.url), "Plan a longer lesson")

    def test_where_nobody_is_free_in_time_it_is_said(self):
        soon = timezone.localtime() + timedelta(minutes=50)
        self.planned(lesson_at=f"{soon:%Y-%m-%dT%H:%M}", people="2")
        for url in (self.url, reverse("conditioning", args=[self.brief.pk])):
            self.assertSays(self.client.get(url), "so nobody is free in time")
        asked = {"have": "rose:7", "at": "2020-01-02T10:00"}
        page = self.client.get(reverse("conditioning", args=[self.brief.pk]), asked)
        self.assertSays(page, "This class lies in the past")

    def test_on_paper_with_a_label_for_each_bag(self):
        self.planned()
        self.brief.give_pieces()
        text = text_of(printed(self.client.post(reverse("lesson-pdf", args=[self.brief.pk]))))
        for piece in self.brief.pieces.all():
            self.assertIn(piece.code, text)
        for words in ("Who does what", "On the board", "To buy", "2 from a stem", "Clear up"):
            self.assertIn(words, text)

    def test_shopping_list_and_calendar(self):
        self.planned()
        answer = self.client.get(reverse("shopping", args=[self.brief.pk]))
        rows = {
            r["material"]: r
            for r in csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig")))
        }
        self.assertEqual(rows["Rose"]["buy_on"], "2031-12-02")  # two days ahead, half open
        self.assertEqual(rows["Rose"]["stage"], "half open")
        self.assertEqual(rows["Rose"]["bunches"], "6")  # 58 of 10
        self.assertEqual(Decimal(rows["Rose"]["cost"]), Decimal("48.00"))
        answer = self.client.get(reverse("lesson-ics", args=[self.brief.pk]))
        events = Calendar.from_ical(answer.content).walk("VEVENT")
        planned = Planned(self.brief)
        self.assertEqual(len(events), len(planned.run_sheet[0]) + len(planned.jobs))

    def test_another_school_sees_none_of_it(self):
        for name in ("lesson-plan", "lesson-ics", "shopping"):
            url = reverse(name, args=[self.other_brief.pk])
            self.assertEqual(self.client.get(url).status_code, 404)


class Value(SchoolTestCase):
    def setUp(self):
        super().setUp()
        Plan.objects.create(
            brief=self.brief, items=LINES, pieces=16, lesson_at=timezone.make_aware(JANUARY)
        )
        self.url = reverse("recipe", args=[self.brief.pk])

    def test_steps_and_no_price_of_nought(self):
        page = self.client.get(self.url)
        self.assertContains(page, "foliage and one focal flower")
        self.assertContains(page, "nothing is costed")
        self.assertNotContains(page, "0.00 a piece")
        Workshop.objects.create(school=self.brief.course.school, prices=PRICES)
        page = self.client.get(self.url)
        self.assertContains(page, "a piece")
        self.assertNotContains(page, "nothing is costed")
        # every number is typed, so that thrifty, usual and lavish cannot differ
        self.assertContains(page, "every number is")

    def test_two_colours_that_are_neither_neighbours_nor_opposites(self):
        self.assertContains(self.client.get(self.url), "two of a triad")

    def test_a_price_list_of_ten_thousand_lines_is_kept_whole(self):
        text = "\n".join(["Rose, 10, £8", *(f"weed {n}, 10, £3" for n in range(9_999))])
        page = self.client.post(self.url, {"prices": text}, follow=True)
        self.assertSays(page, "9999 lines cannot be read; the first 20 are shown")
        self.assertEqual(Workshop.objects.get().prices, text)
        sent = {"prices": "x" * 500_001}
        self.assertSays(self.client.post(self.url, sent), "was not kept")
        self.assertEqual(Workshop.objects.get().prices, text)

    def test_what_takes_the_place_of_what_is_not_to_be_had(self):
        self.assertContains(self.client.get(self.url), "Not in season in January")
        page = self.client.get(self.url, {"instead": "delphinium"})
        self.assertContains(page, "<b>Dutch iris</b>")
        self.assertContains(self.client.get(self.url, {"instead": "nothing"}), "not to be had")

    def test_the_schools_ways_reach_water_wire_and_foliage(self):
        plan = reverse("plan", args=[self.brief.pk])
        self.assertSays(self.client.get(plan), "Add flower food as its packet says.")
        greens = ("ruscus", "hedera", "eucalyptus", "box")
        Plan.objects.update(
            items=[
                LINES[0] | {"slug": "amaryllis"},
                *({"slug": g, "role": "foliage", "colour": "green", "stems": 2} for g in greens),
            ]
        )
        self.assertSays(self.client.get(self.url), "4 kinds of foliage; the school's way")
        for question, way in (("bleach", "bleach"), ("wire", "gauge"), ("foliage-kinds", "many")):
            self.client.post(reverse("ways"), {question: way, "next": plan})
        page = self.client.get(plan)
        self.assertSays(page, "Add a few drops of bleach, and no flower food.")
        self.assertNotContains(page, "Add flower food")
        self.assertContains(page, "gauge (")
        self.assertNotContains(self.client.get(self.url), "kinds of foliage; the school")
        # bleach with flower food cannot be chosen
        self.client.post(reverse("ways"), {"bleach": "bleach-with-food", "next": plan})
        self.assertEqual(Workshop.objects.get().ways["bleach"], "bleach")

    def test_parts_count_only_where_the_brief_says_so(self):
        Plan.objects.update(
            items=[*LINES, {"slug": "bauble-plain", "role": "part", "colour": "gold", "stems": 9}]
        )
        self.assertNotIn("gold", [s.called for s in Planned(self.brief).swatches])
        self.brief.count_parts = True
        self.assertIn("gold", [s.called for s in Planned(self.brief).swatches])


JANUARY = datetime(2031, 1, 9, 18, 30)
