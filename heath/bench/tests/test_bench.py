import re

from django.urls import reverse

from heath.assessment.models import Correction, Mark, Override, Piece
from heath.planner.models import Plan
from heath.testing import SchoolTestCase, photographed, picture

GESTURE = "abcdef123456"


class Bench(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def move(self, handle="rim", x=450.0, y=500.0, gesture=GESTURE):
        return self.client.post(
            reverse("move", args=[self.piece.pk]),
            {"handle": handle, "x": x, "y": y, "gesture": gesture, "rests": "1"},
            headers={"HX-Request": "true"},
        )

    def figure(self, answer, measure):
        found = re.search(rf'data-measure="{measure}">([^<]+)<', answer.content.decode())
        return float(found.group(1))

    def test_what_the_brief_leaves_out_of_the_figures_is_named(self):
        items = [{"slug": "candle-wax", "role": "part", "colour": "white", "stems": 3}]
        Plan.objects.create(brief=self.brief, items=items)
        url = reverse("bench", args=[self.piece.pk])
        self.assertSays(self.client.get(url), "<b>This brief leaves out</b> wax candles:")
        type(self.brief).objects.update(count_parts=True)
        self.assertNotContains(self.client.get(url), "This brief leaves out")

    def test_the_page_shows_picture_handles_evidence_and_lines(self):
        page = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertContains(page, 'data-handle="focal"')
        self.assertContains(page, 'id="evidence"')
        self.assertContains(page, "Height to container")
        self.assertContains(page, "Next cut")
        self.assertContains(page, " cm")
        self.assertNotContains(page, "style=")

    def test_a_moved_handle_changes_measure_and_score_by_the_right_amount(self):
        truth = picture().truth["container"]
        for handle in ("base", "rim_left", "rim_right"):
            self.move(handle, *truth[handle], gesture=f"truth-{handle}".replace("_", "-"))
        answer = self.move("rim", *truth["rim"])
        self.assertAlmostEqual(
            self.figure(answer, "governing_ratio"),
            picture().truth["findings"]["height_ratio"],
            delta=0.03,
        )
        # A rim 40 px lower: plant 40 longer, container 40 shorter (arithmetic).
        height = truth["base"][1] - truth["rim"][1]
        plant = picture().truth["findings"]["height_ratio"] * height
        lower = self.move("rim", truth["rim"][0], truth["rim"][1] + 40)
        self.assertAlmostEqual(
            self.figure(lower, "governing_ratio"), (plant + 40) / (height - 40), delta=0.05
        )
        self.assertContains(lower, "hx-swap-oob")

    def test_one_drag_is_one_correction_and_undo_takes_it_back(self):
        before = self.figure(
            self.client.get(reverse("bench", args=[self.piece.pk])), "governing_ratio"
        )
        for y in (520, 530, 545):
            moved = self.move(y=y)
        self.assertEqual(Correction.objects.filter(photograph__piece=self.piece).count(), 1)
        kept = Correction.objects.get()
        self.assertEqual((kept.y, kept.made_by), (545, self.user))
        self.assertNotEqual(self.figure(moved, "governing_ratio"), before)
        undone = self.client.post(reverse("undo", args=[self.piece.pk]))
        self.assertEqual(self.figure(undone, "governing_ratio"), before)
        self.assertTrue(Correction.objects.get().undone)

    def test_a_correction_survives_measuring_anew(self):
        from heath.assessment.photographs import see_photograph

        self.move(y=540)
        see_photograph(self.piece.photograph)
        page = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertContains(page, "rim,450.0,540.0,1")

    def test_moves_that_make_no_sense(self):
        for values in (
            {"handle": "lid"},
            {"x": "nan"},
            {"x": "inf"},
            {"y": "far"},
            {"gesture": "<script>"},
        ):
            with self.subTest(values):
                good = {"handle": "rim", "x": 1.0, "y": 2.0, "gesture": GESTURE} | values
                self.assertEqual(
                    self.client.post(reverse("move", args=[self.piece.pk]), good).status_code, 400
                )
        base = self.piece.photograph.core_scene().datum.base
        self.assertContains(self.move("rim", *base), "Two handles would be in the same place")
        self.assertFalse(Correction.objects.exists())
        self.move("rim", -500, 99999)
        kept = Correction.objects.get()
        self.assertEqual((kept.x, kept.y), (0, self.piece.photograph.height))

    def test_override_needs_a_reason_and_keeps_what_was_typed(self):
        url = reverse("override", args=[self.piece.pk])
        self.assertContains(
            self.client.post(url, {"rule": "visible-height", "score": "7,5"}),
            "Write a short reason",
        )
        refused = self.client.post(
            url, {"rule": "visible-height", "score": "12", "reason": "a niche"}
        )
        self.assertContains(refused, "between 0 and 10")
        self.assertContains(refused, 'value="a niche"')
        taken = self.client.post(
            url, {"rule": "visible-height", "score": "7,5", "reason": "made for a niche"}
        )
        self.assertContains(taken, "made for a niche")
        word = Override.objects.get()
        self.assertEqual((word.score, word.made_by), (7.5, self.user))
        self.assertIsNotNone(word.old_score)
        waived = self.client.post(
            url, {"rule": "visible-height", "waive": "1", "reason": "line rules here"}
        )
        self.assertContains(waived, "Your mark: waived")
        back = self.client.post(reverse("take-back", args=[self.piece.pk, "visible-height"]))
        self.assertNotContains(back, "Your mark: waived")
        self.assertEqual(Override.objects.filter(taken_back=False).count(), 0)

    def test_accept_keeps_the_mark_with_its_rule_set_version(self):
        self.client.post(reverse("accept", args=[self.piece.pk]))
        mark = Mark.objects.get()
        self.assertEqual((mark.rule_set, mark.rule_set_version), ("classical-line-mass", "7"))
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.MARKED)
        self.assertEqual(mark.in_force["corrections"], [])

    def test_while_a_handle_moves_only_what_is_seen_is_made_anew(self):
        url = reverse("move", args=[self.piece.pk])
        moving = {"handle": "rim", "gesture": "gesture-moving", "x": 450, "y": 520, "lens": "focal"}
        part = self.client.post(url, moving).json()
        whole = self.client.post(url, moving | {"rests": "1"}, headers={"HX-Request": "true"})
        self.assertEqual(list(part["lenses"]), ["focal"])
        self.assertIn("focal zone", part["lenses"]["focal"])
        figure = self.figure(whole, "governing_ratio")
        self.assertAlmostEqual(float(part["lines"]["visible-height"][0]), figure, delta=0.011)
        self.assertGreater(float(part["score"]), 0)
        self.assertContains(whole, 'id="layers"')
        self.assertEqual(Correction.objects.count(), 1)

    def test_the_column_is_read_anew_without_a_move(self):
        self.move()
        page = self.client.get(reverse("reading", args=[self.piece.pk]))
        self.assertContains(page, 'id="layers"')
        self.assertEqual(Correction.objects.count(), 1)

    def test_few_queries_for_a_move(self):
        self.move()
        # Three of them hold the piece for the one who was first, four ask for its snapshot.
        with self.assertNumQueries(21):
            self.move(y=505)
        moving = {"handle": "rim", "gesture": GESTURE, "x": 450, "y": 507, "lens": "all"}
        with self.assertNumQueries(10):
            self.client.post(reverse("move", args=[self.piece.pk]), moving)

    def test_nobody_from_another_school(self):
        self.client.force_login(self.stranger)
        for name in ("bench", "ready", "reading", "sheet"):
            self.assertEqual(self.client.get(reverse(name, args=[self.piece.pk])).status_code, 404)
        for what in ("eye", "petals"):
            self.assertEqual(
                self.client.get(reverse("layer", args=[self.piece.pk, what])).status_code, 404
            )
        for name in ("move", "undo", "override", "accept", "return", "sheet-pdf"):
            self.assertEqual(self.client.post(reverse(name, args=[self.piece.pk])).status_code, 404)
        self.assertEqual(
            self.client.get(reverse("photograph", args=[self.piece.photograph.pk])).status_code, 404
        )
