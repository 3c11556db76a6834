"""A composition of several vessels and a piece in stages on the bench: pictures of the simulated
camera, of which the truth is known.
"""

import json

from django.urls import reverse

from heath.assessment.models import Correction, Piece
from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.reading import handles, read
from heath.demo.term import _vessels
from heath.testing import SchoolTestCase
from juniper.camera.capture import of_the_roll
from juniper.camera.roll import composition
from juniper.scene.container.datum import HANDLES


def with_picture(piece, user, data, view="front"):
    photograph, _ = add_photograph(piece, data, f"{view}.jpg", user, view)
    see_photograph(photograph)
    return Piece.objects.get(pk=piece.pk)


class Groups(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.brief.kind, cls.brief.vessels = "several vessels", _vessels()
        cls.brief.form, cls.brief.rule_set = "free", "grouped-vessels"
        cls.brief.save()
        piece = cls.brief.pieces.first()
        cls.piece = with_picture(piece, cls.user, of_the_roll("counter-1", "front", piece.code))
        cls.truth = composition("counter-1").truth["vessels"]

    def change(self, change, gesture):
        return self.client.post(
            reverse("change", args=[self.piece.pk]),
            {"change": json.dumps(change), "gesture": gesture},
        )

    def reading(self):
        return read(Piece.objects.get(pk=self.piece.pk))

    def test_every_vessel_has_its_own_handles_where_it_stands(self):
        reading = self.reading()
        self.assertEqual(len(reading.vessels), len(self.truth))
        scale = self.piece.photograph.width / composition("counter-1").truth["image"]["width"]
        for vessel, true in zip(reading.vessels, self.truth, strict=True):
            high = scale * (true["base"][1] - true["rim"][1])
            self.assertLess(abs(vessel.datum.base[0] - scale * true["base"][0]), 0.2 * high)
            self.assertLess(abs(vessel.datum.base[1] - scale * true["base"][1]), 0.2 * high)
        names = [h["name"] for h in handles(reading)]
        self.assertIn("rim@1", names)
        self.assertNotIn("rim", names)
        self.assertEqual(len(names), 1 + 5 * len(self.truth))
        page = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertContains(page, 'data-handle="rim_left@3"')
        self.assertTrue(reading.findings["tops_differ"].measured)

    def test_a_handle_of_one_vessel_is_moved_and_taken_back(self):
        before = self.reading()
        second = before.vessels[1]
        to = (second.datum.rim[0] + 3, second.datum.rim[1] - 12)
        sent = {"handle": f"rim@{second.key}", "x": to[0], "y": to[1], "gesture": "vessel-rim-1"}
        self.client.post(reverse("move", args=[self.piece.pk]), sent | {"rests": "1"})
        after = self.reading().vessels[1].datum
        self.assertEqual(after.rim, to)
        self.assertEqual(after.put, {"rim"})
        self.assertEqual(self.reading().vessels[0].datum, before.vessels[0].datum)
        self.client.post(reverse("undo", args=[self.piece.pk]))
        self.assertEqual(self.reading().vessels[1].datum, second.datum)

    def test_the_highest_point_in_a_vessel_is_put_by_hand(self):
        before = self.reading()
        first = before.vessels[0]
        # as high over its own foot as its neighbour: the two tops do not differ
        second = before.vessels[1]
        to = (first.top[0], first.datum.base[1] + second.top[1] - second.datum.base[1])
        sent = {"handle": f"top@{first.key}", "x": to[0], "y": to[1], "gesture": "vessel-top-1"}
        self.client.post(reverse("move", args=[self.piece.pk]), sent | {"rests": "1"})
        now = self.reading()
        self.assertEqual((now.vessels[0].top, now.vessels[0].datum), (to, first.datum))
        self.assertGreater(before.findings["tops_differ"].value, 0.1)
        self.assertLess(now.findings["tops_differ"].value, 0.03)
        self.assertContains(
            self.client.get(reverse("bench", args=[self.piece.pk])),
            "Highest point of a vessel moved",
        )
        self.client.post(reverse("undo", args=[self.piece.pk]))
        self.assertEqual(self.reading().vessels[0].top, first.top)

    def test_one_that_is_none_of_it_is_taken_out_and_one_that_was_missed_drawn(self):
        before = self.reading().vessels
        gone = before[0]
        self.change({"without": gone.key}, "vessel-out-1")
        left = self.reading().vessels
        self.assertEqual([v.key for v in left], [v.key for v in before[1:]])
        datum = gone.datum
        self.change(
            {
                "start": list(datum.rim_left),
                "end": [datum.base[0] + datum.rim_width / 2, datum.base[1]],
            },
            "vessel-drawn-1",
        )
        again = self.reading().vessels
        self.assertEqual(len(again), len(before))
        self.assertLess(abs(again[0].datum.base[0] - datum.base[0]), 0.25 * datum.height)
        kinds = list(Correction.objects.values_list("kind", flat=True))
        self.assertEqual(kinds, ["vessel", "vessel"])

    def test_confirmed_together_they_need_no_check(self):
        self.client.post(reverse("confirm", args=[self.piece.pk]))
        reading = self.reading()
        self.assertTrue(all(v.datum.put >= HANDLES for v in reading.vessels))
        self.assertFalse(reading.to_check)
        self.assertTrue(reading.confirmed)

    def test_a_vessel_that_is_missing_is_told(self):
        self.brief.vessels = [*_vessels(), dict(_vessels()[0], name="a sixth", x_cm=40.0)]
        self.brief.save()
        see_photograph(self.piece.photograph)
        words = [a["text"] for a in self.piece.photograph.advice if a["code"] == "vessels"]
        self.assertEqual(len(words), 1)
        self.assertIn("where the brief lists 6", words[0])

    def test_a_vessel_that_is_not_there_is_refused_with_a_sentence(self):
        sent = {"handle": "rim@77", "x": 5, "y": 5, "gesture": "vessel-none-1", "rests": "1"}
        page = self.client.post(reverse("move", args=[self.piece.pk]), sent)
        self.assertContains(page, "not part of the composition any more")
        sent["handle"] = "rim@x"
        self.assertEqual(
            self.client.post(reverse("move", args=[self.piece.pk]), sent).status_code, 400
        )

    def test_the_plan_names_each_vessel(self):
        page = self.client.get(reverse("plan", args=[self.brief.pk]))
        self.assertContains(page, "stoneware bottle")
        self.assertContains(page, "milk bottle")
        self.assertNotContains(page, "over the middle of the rim")
        self.assertContains(page, "Neighbours of different heights")


class Stages(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.brief.views = ["front", "foliage", "before"]
        cls.brief.save()
        piece = cls.brief.pieces.first()
        for view in ("front", "foliage", "before"):
            piece = with_picture(piece, cls.user, of_the_roll(0, view, piece.code), view)
        cls.piece = piece

    def test_a_rule_is_judged_at_its_stage(self):
        lines = {x.rule.code: x for x in read(self.piece).verdict.lines}
        line = lines["foliage-makes-the-form"]
        self.assertTrue(line.finding.measured)
        self.assertEqual(line.finding.view, "foliage")
        self.assertIn("foliage alone", line.arithmetic)
        self.assertTrue(lines["hidden-before-flowers"].asked)

    def test_without_the_stage_the_rule_is_not_asked(self):
        self.brief.views = ["front"]
        self.brief.save()
        piece = Piece.objects.get(pk=self.piece.pk)
        codes = {x.rule.code for x in read(piece).verdict.lines}
        self.assertNotIn("foliage-makes-the-form", codes)

    def test_the_stage_before_is_laid_over_with_what_changed(self):
        address = reverse("overlay", args=[self.piece.pk, "stage"])
        self.assertContains(self.client.get(address), "Since before the focal flower:")
        laid = self.client.get(f"{address}?view=before")
        self.assertContains(laid, "Since foliage alone:")
        self.assertContains(laid, "more plant")
        first = self.client.get(f"{address}?view=foliage")
        self.assertContains(first, "No photograph of an earlier stage")

    def test_stages_in_the_wrong_order_or_twice_are_told(self):
        front = self.piece.view("front")
        with front.full.open("rb") as file:
            piece = with_picture(self.piece, self.user, file.read(), "before")
        page = self.client.get(reverse("overlay", args=[piece.pk, "stage"]))
        self.assertContains(page, "photographed twice")
        piece = with_picture(piece, self.user, of_the_roll(0, "foliage", piece.code), "before")
        with front.full.open("rb") as file:
            piece = with_picture(piece, self.user, file.read(), "foliage")
        page = self.client.get(f"{reverse('overlay', args=[piece.pk, 'stage'])}?view=before")
        self.assertContains(page, "wrong order")
