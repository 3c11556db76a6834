"""Every piece of a brief on its wall: state, mark, chief fault, next step; filters and spread."""

import re
from datetime import timedelta
from types import SimpleNamespace

from django.test import SimpleTestCase
from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Flag, Piece, PieceSnapshot
from heath.assessment.reading import read
from heath.assessment.snapshot import keep_snapshot
from heath.bench.accepting import accept_marks, confirm_handles
from heath.intake.models import Arrival
from heath.people.models import Role
from heath.returns.issuing import issue_sheet
from heath.testing import SchoolTestCase, photographed
from heath.wall.spread import place, spread_of
from juniper.rules.faults import chief_fault


def hung(mark, given=True, pk=1):
    return SimpleNamespace(
        mark=mark, given=given, piece=SimpleNamespace(pk=pk, shown_name=f"Piece {pk}")
    )


class SpreadTests(SimpleTestCase):
    def test_places_run_from_nought_to_a_hundred(self):
        self.assertEqual((place(0), place(50), place(100)), (14.0, 215.0, 416.0))
        self.assertEqual((place(-3), place(120)), (14.0, 416.0))

    def test_marks_that_are_near_stand_over_one_another(self):
        spread = spread_of([hung(80), hung(80.4), hung(60, given=False)], 50)
        low, first, second = spread.dots
        self.assertEqual((low.given, first.given), (False, True))
        self.assertEqual(first.x, second.x)
        self.assertAlmostEqual(first.y - second.y, 7.2)
        self.assertIn("3 marks, 2 accepted", spread.words)
        self.assertIn("3 pass", spread.words)

    def test_median_and_middle_half(self):
        # Quartiles by linear interpolation between order statistics (Hyndman & Fan 1996, type 7):
        # of 40, 50, 60, 70, 80 they are 50, 60, 70.
        spread = spread_of([hung(m) for m in (70, 40, 80, 50, 60)], 55)
        self.assertEqual(spread.half, (place(50), place(70)))
        self.assertEqual(spread.middle, place(60))
        self.assertIn("the middle half 50 to 70, median 60; 3 pass", spread.words)

    def test_few_marks_have_no_quartiles_and_none_say_nothing(self):
        self.assertIsNone(spread_of([hung(1), hung(2), hung(3)], 50).half)
        self.assertEqual(spread_of([hung(None)], 50).dots, ())


class WallTests(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        cls.waiting = cls.brief.pieces.order_by("student__sorting").last()

    def wall(self, **asked):
        return self.client.get(reverse("brief", args=[self.brief.pk]), asked)

    def row(self, piece, **asked):
        """What stands with one piece, without its tags."""
        page = self.wall(**asked).content.decode()
        found = re.search(rf'<figure[^>]*id="piece-{piece.pk}".*?</figure>', page, re.S)
        return " ".join(re.sub(r"<[^>]+>", " ", found[0]).split()) if found else None

    def test_each_has_its_state_mark_fault_and_one_next_step(self):
        verdict = read(self.piece).verdict
        row = self.row(self.piece)
        self.assertIn(f"{verdict.score:.0f}", row)
        self.assertIn(f"±{verdict.uncertainty:.0f}", row)
        self.assertIn(chief_fault(verdict), row)
        self.assertTrue(row.endswith("Mark") or row.endswith("Check the handles"), row)
        empty = self.row(self.waiting)
        self.assertIn("no photograph yet", empty)
        self.assertIn("Add a photograph", empty)

    def test_the_next_step_follows_the_piece(self):
        confirm_handles(self.piece.photograph, self.user)
        self.piece.revision += 1
        self.piece.save()
        accept_marks(Piece.objects.get(pk=self.piece.pk), self.user)
        marked = self.row(self.piece)
        self.assertIn("marked", marked)
        self.assertTrue(marked.endswith("Return"), marked)
        self.assertNotIn("±", marked)
        self.user.role = Role.ASSISTANT
        self.user.save()
        self.assertTrue(self.row(self.piece).endswith("Open on the bench"))
        issue_sheet(Piece.objects.get(pk=self.piece.pk), self.user)
        self.assertTrue(self.row(self.piece).endswith("Return sheet"))

    def test_a_flag_takes_the_place_of_the_state(self):
        kept = keep_snapshot(self.piece)
        PieceSnapshot.objects.filter(pk=kept.pk).update(flags=[Flag.HANDLES])
        row = self.row(self.piece)
        self.assertIn("handles to check", row)
        self.assertTrue(row.endswith("Check the handles"))
        self.assertIsNone(self.row(self.waiting, only="flagged"))
        self.assertIsNotNone(self.row(self.piece, only="flagged"))

    def test_filters_show_what_they_say_and_count_it(self):
        for only, there, missing in (
            ("marking", self.piece, self.waiting),
            ("waiting", self.waiting, self.piece),
        ):
            self.assertIsNotNone(self.row(there, only=only))
            self.assertIsNone(self.row(missing, only=only))
        page = self.wall(only="returned")
        self.assertContains(page, "No piece of this brief is here")
        self.assertContains(page, "Show all 2")
        counts = dict((name, many) for name, _, many in page.context["filters"])
        self.assertEqual((counts[""], counts["marking"], counts["waiting"]), (2, 1, 1))
        self.assertIsNotNone(self.row(self.piece, only="no such filter"))

    def test_order_is_by_family_name_and_by_code_while_names_are_hidden(self):
        names = [h.piece.student.name for h in self.wall().context["wall"].pieces]
        self.assertEqual(names, ["Ada Shore", "Bo Strand"])
        self.waiting.student.name = "Bo Aster"
        self.waiting.student.save()
        names = [h.piece.student.name for h in self.wall().context["wall"].pieces]
        self.assertEqual(names, ["Bo Aster", "Ada Shore"])
        self.brief.names_hidden = True
        self.brief.save()
        page = self.wall()
        codes = [h.piece.code for h in page.context["wall"].pieces]
        self.assertEqual(codes, sorted(codes))
        self.assertNotContains(page, "Ada Shore")

    def test_a_piece_being_measured_is_asked_after_until_it_hangs(self):
        Arrival.objects.create(brief=self.brief, piece=self.waiting, digest="x")
        asked = reverse("piece-state", args=[self.waiting.pk])
        self.assertContains(self.wall(), f'hx-get="{asked}"')
        self.assertNotIn("HX-Trigger", self.client.get(asked).headers)
        Arrival.objects.update(state=Arrival.State.FAILED, reason="This is not a photograph.")
        self.assertEqual(self.client.get(asked)["HX-Trigger"], "wall-changed")
        self.assertIn("This is not a photograph.", self.row(self.waiting))

    def test_a_brief_whose_class_has_nobody_says_what_to_do(self):
        self.brief.pieces.all().delete()
        self.assertContains(self.wall(), "Write their names")

    def test_the_one_main_action_follows_the_evening(self):
        self.assertContains(self.wall(), 'title="Ada Shore">Mark')
        Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.WAITING)
        self.assertContains(self.wall(), "Bring photographs in")

    def test_sixty_places_ask_no_more_of_the_database_than_two(self):
        keep_snapshot(self.piece)
        students = self.brief.course.students
        students.bulk_create(
            students.model(course=self.brief.course, name=f"Pupil Number{i}") for i in range(58)
        )
        self.brief.give_pieces()
        with self.assertNumQueries(7):
            page = self.wall()
        self.assertEqual(page.content.count(b"<figure"), 61)  # and the spread's own

    def test_a_name_of_any_script_or_length_is_shown_whole_under_the_pointer(self):
        long = "Ἑλένη " + "W" * 110
        self.waiting.student.name = long
        self.waiting.student.save()
        self.assertContains(self.wall(), f'title="{long}"')

    def test_what_is_deleted_is_not_found(self):
        self.brief.deleted_at = timezone.now() - timedelta(days=1)
        self.brief.save()
        self.assertEqual(self.wall().status_code, 404)
