import json
from unittest.mock import patch

from django.urls import reverse

from heath.assessment.models import Correction, Piece
from heath.assessment.reading import read
from heath.bench.context import queue_of
from heath.testing import SchoolTestCase, photographed
from juniper.scene import petals


class Correcting(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def now(self):
        return read(Piece.objects.get(pk=self.piece.pk))

    def change(self, gesture="change-01", client=None, **what):
        return (client or self.client).post(
            reverse("change", args=[self.piece.pk]),
            {"gesture": gesture, "change": json.dumps(what)},
            headers={"HX-Request": "true"},
        )

    def undo(self, **which):
        return self.client.post(
            reverse("undo", args=[self.piece.pk]), which, headers={"HX-Request": "true"}
        )

    def stroke(self, gesture="stroke-01", plant=True):
        x, y = self.now().findings.top
        return self.change(
            gesture, points=[[x - 40, y - 60], [x + 40, y - 60]], radius=10, plant=plant
        )

    def test_a_stroke_is_kept_as_it_was_made_and_measured(self):
        before = self.now().findings
        answer = self.stroke()
        self.assertContains(answer, 'id="layers"')
        self.assertContains(answer, "Brushed as plant")
        kept = Correction.objects.get()
        self.assertEqual(
            (kept.kind, kept.made_by, len(kept.as_core().points)), ("brush", self.user, 2)
        )
        self.assertLess(self.now().findings.top[1], before.top[1] - 50)
        self.assertGreater(self.now().findings["height_ratio"].value, before["height_ratio"].value)

    def test_a_stroke_of_leaf_and_of_petal_is_kept_and_told(self):
        before = self.now()
        bloom = max(before.scene.blooms, key=lambda b: b.radius)
        answer = self.change(
            "petal-01", points=[bloom.centre], radius=0.6 * bloom.radius, petal=False, alone=True
        )
        self.assertContains(answer, "Brushed as leaves")
        after = self.now()
        self.assertGreater(
            after.findings["foliage_share"].value, before.findings["foliage_share"].value
        )
        self.assertNotEqual(before.laid_over, after.laid_over)
        answer = self.change(
            "petal-02", points=[bloom.centre], radius=0.6 * bloom.radius, petal=True
        )
        self.assertContains(answer, "Brushed as petals")
        self.assertLess(
            self.now().findings["foliage_share"].value, after.findings["foliage_share"].value
        )
        self.assertEqual(
            [c.as_core().petal for c in Correction.objects.order_by("pk")], [False, True]
        )

    def test_a_stroke_of_petal_beside_the_plant_says_what_to_do(self):
        self.assertContains(
            self.change("petal-03", points=[[3, 3]], radius=2, petal=True),
            "Brush it as plant first",
        )
        self.assertFalse(Correction.objects.exists())

    def test_what_counts_as_petal_is_shown_as_it_stands(self):
        url = reverse("layer", args=[self.piece.pk, "petals"])
        first = self.client.get(url)
        self.assertEqual(first["Content-Type"], "image/png")
        bloom = self.now().scene.blooms[0]
        self.change("petal-04", points=[bloom.centre], radius=bloom.radius, petal=False, alone=True)
        self.assertNotEqual(self.client.get(url).content, first.content)

    def test_blooms_changed_by_hand_survive_a_later_stroke(self):
        bloom = self.now().scene.blooms[0]
        self.change("bloom-07", act="role", at=bloom.centre, role="line")
        self.stroke("stroke-07")
        again = min(
            self.now().scene.blooms,
            key=lambda b: abs(b.centre[0] - bloom.centre[0]) + abs(b.centre[1] - bloom.centre[1]),
        )
        self.assertEqual(again.role, "line")

    def test_a_piece_made_ready_needs_no_second_look(self):
        petals.forget()
        answer = self.client.get(reverse("ready", args=[self.piece.pk]))
        self.assertEqual((answer.status_code, answer.content), (204, b""))
        with patch("juniper.scene.petals._looked", side_effect=AssertionError("looked at again")):
            before, (x, y) = self.now(), self.now().focal
            self.change(points=[[x - 3, y], [x + 3, y]], radius=6, plant=False)
            self.assertNotEqual(self.now().outline, before.outline)

    def test_a_correction_survives_a_new_look_at_the_picture(self):
        self.stroke()
        taller = self.now().findings["height_ratio"].value
        photograph = self.piece.photograph
        old = photograph.raster.name
        from heath.assessment.photographs import see_photograph

        see_photograph(photograph)
        self.assertNotEqual(Piece.objects.get(pk=self.piece.pk).photograph.raster.name, old)
        self.assertAlmostEqual(self.now().findings["height_ratio"].value, taller, places=6)

    def test_sent_twice_is_kept_once(self):
        self.stroke()
        self.stroke()
        self.assertEqual(Correction.objects.count(), 1)

    def test_each_is_undone_by_itself_and_put_back(self):
        untouched = self.now().findings["height_ratio"].value
        self.stroke()
        bloom = self.now().scene.blooms[0]
        self.change("bloom-01", act="remove", at=bloom.centre)
        count = len(self.now().scene.blooms)
        first, second = Correction.objects.order_by("pk")
        answer = self.undo(which=first.pk)
        self.assertContains(answer, "Put back")
        self.assertEqual(self.now().findings["height_ratio"].value, untouched)
        self.assertTrue(Correction.objects.get(pk=first.pk).undone)
        self.assertFalse(Correction.objects.get(pk=second.pk).undone)
        self.undo(which=first.pk, back="1")
        self.assertGreater(self.now().findings["height_ratio"].value, untouched)
        self.undo()
        self.assertEqual(len(self.now().scene.blooms), count + 1)

    def test_blooms_by_every_act(self):
        count = len(self.now().scene.blooms)
        one = max(self.now().scene.blooms, key=lambda b: b.radius)
        for n, (what, left) in enumerate(
            [
                ({"act": "split"}, 1),
                ({"act": "merge"}, 0),
                ({"act": "role", "role": "line"}, 0),
                ({"act": "remove"}, -1),
            ]
        ):
            bloom = min(
                self.now().scene.blooms,
                key=lambda b: abs(b.centre[0] - one.centre[0]) + abs(b.centre[1] - one.centre[1]),
            )
            self.assertEqual(self.change(f"act-00{n}", at=bloom.centre, **what).status_code, 200)
            self.assertEqual(len(self.now().scene.blooms), count + left, what)
        self.assertContains(
            self.change("act-009", act="add", at=[60, 60], radius=30), "Bloom added"
        )
        self.assertEqual(len(self.now().scene.blooms), count)
        self.assertEqual(Correction.objects.filter(kind="bloom").count(), 5)

    def test_stems_drawn_moved_and_taken_out(self):
        before = self.now().stems
        self.assertGreater(len(before), 0)
        rim = self.now().datum.rim
        answer = self.change(
            "stem-001", line="draw", tip=[rim[0] + 200, rim[1] - 300], foot=list(rim)
        )
        self.assertContains(answer, "Stem drawn")
        self.assertContains(answer, "leans 3")  # atan(200 / 300) is 34 degrees
        self.assertEqual(len(self.now().stems), len(before) + 1)
        tip = before[0].tip
        self.change(
            "stem-002",
            line="bend",
            at=tip,
            tip=[tip[0] + 9, tip[1]],
            bend=before[0].bend,
            foot=before[0].foot,
        )
        self.assertAlmostEqual(self.now().stems[0].tip[0], tip[0] + 9, places=3)
        self.change("stem-003", line="drop", at=[rim[0] + 200, rim[1] - 300])
        self.assertEqual(len(self.now().stems), len(before))
        self.assertContains(self.change("stem-004", line="drop", at=[1, 1]), "No stem ends there")
        self.assertEqual(Correction.objects.filter(kind="stem").count(), 3)

    def test_stems_follow_a_handle_once_it_rests(self):
        rim = self.now().datum.rim
        move = {"handle": "rim", "gesture": "move-0001", "x": rim[0], "y": rim[1] + 30}
        send = lambda **more: self.client.post(reverse("move", args=[self.piece.pk]), move | more)  # noqa: E731
        self.assertNotContains(send(), 'class="stems"')
        self.assertContains(send(rests="1"), 'class="stems"')

    def test_a_bloom_that_is_not_there_is_said_and_not_kept(self):
        self.assertContains(self.change(act="remove", at=[1, 1]), "No bloom lies there")
        self.assertFalse(Correction.objects.exists())

    def test_what_makes_no_sense_is_refused(self):
        for what in (
            {},
            {"points": [], "radius": 5, "plant": True},
            {"points": [[1, 2]] * 401, "radius": 5, "plant": True},
            {"points": [[1e9, 2]], "radius": 5, "plant": True},
            {"points": [[5, 5]], "radius": 5000, "plant": True},
            {"points": [[5, 5]], "radius": -1, "plant": True},
            {"act": "explode", "at": [5, 5]},
            {"act": "role", "at": [5, 5]},
            {"act": "role", "at": [5, 5], "role": "<b>"},
            {"line": "knot", "at": [5, 5]},
            {"line": "draw"},
        ):
            self.assertEqual(self.change(**what).status_code, 400, what)
        self.assertEqual(self.change(gesture="'; --", act="remove", at=[5, 5]).status_code, 400)
        self.assertFalse(Correction.objects.exists())

    def test_another_school_sees_and_changes_nothing(self):
        self.stroke()
        self.client.force_login(self.stranger)
        self.assertEqual(self.change(act="add", at=[60, 60]).status_code, 404)
        self.assertEqual(self.undo(which=Correction.objects.get().pk).status_code, 404)
        self.assertFalse(Correction.objects.get().undone)

    def test_a_given_mark_does_not_move_by_a_touch(self):
        self.client.post(reverse("accept", args=[self.piece.pk]), headers={"HX-Request": "true"})
        self.assertContains(self.stroke(), "Press “Change this mark” first")
        self.assertFalse(Correction.objects.exists())
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.MARKED)

    def test_a_group_of_blooms_is_changed_and_undone_as_one(self):
        before = self.now()
        group = max(before.groups, key=lambda g: len(g.blooms))
        first, *others = (b.centre for b in group.blooms)
        answer = self.change(act="role", role="foliage", at=first, others=others)
        self.assertContains(answer, f"{len(group.blooms)} blooms called foliage")
        after = {b.centre: b.role for b in self.now().scene.blooms}
        self.assertEqual({after[b.centre] for b in group.blooms}, {"foliage"})
        self.assertEqual(Correction.objects.count(), 1)
        self.undo()
        self.assertEqual(self.now().scene.blooms, before.scene.blooms)
        self.change("change-02", act="remove", at=first, others=others)
        left = len(before.scene.blooms) - len(group.blooms)
        self.assertEqual(len(self.now().scene.blooms), left)

    def test_a_group_is_neither_split_nor_taken_from_outside_the_picture(self):
        first, second = (b.centre for b in self.now().scene.blooms[:2])
        for what in (
            {"act": "split", "at": first, "others": [second]},
            {"act": "remove", "at": first, "others": [[-5, 3]]},
            {"act": "remove", "at": first, "others": [first] * 401},
        ):
            self.assertEqual(self.change(**what).status_code, 400)
        self.assertFalse(Correction.objects.exists())

    def test_an_unsure_focal_point_says_so_until_a_person_names_it(self):
        scene = self.now().scene
        chief = next(b for b in scene.blooms if b.role == "focal")
        page = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertEqual(
            "Check the focal point" in page.content.decode(), bool(self.now().focal_doubt)
        )
        with patch("heath.assessment.reading.focal_doubt", return_value="Two are alike."):
            page = self.client.get(reverse("bench", args=[self.piece.pk]))
            self.assertSays(page, "<b>Check the focal point.</b> Two are alike.")
            self.change(act="role", role="focal", at=chief.centre)
            page = self.client.get(reverse("bench", args=[self.piece.pk]))
            self.assertNotContains(page, "Check the focal point")

    def test_the_frame_holds_piece_container_and_card_and_nothing_beyond_the_picture(self):
        reading = self.now()
        left, top, wide, high = reading.frame
        photograph = reading.photograph
        self.assertTrue(left >= 0 and top >= 0)
        self.assertTrue(left + wide <= photograph.width and top + high <= photograph.height)
        for x, y in (*reading.outer, reading.datum.rim_left, reading.datum.base):
            self.assertTrue(left <= x <= left + wide and top <= y <= top + high)
        self.assertLess(wide * high, photograph.width * photograph.height)
        corners = photograph.card["corners"] if photograph.card else []
        for x, y in corners:
            self.assertTrue(left <= x <= left + wide and top <= y <= top + high)


class NextPiece(SchoolTestCase):
    def test_after_accepting_the_next_waiting_piece_comes_and_then_one_before_it(self):
        students = self.brief.course.students
        for name in ("Cy Tide", "Di Wrack"):
            students.create(name=name)
        self.brief.give_pieces()
        pieces = list(self.brief.pieces.order_by("student__sorting"))
        Piece.objects.update(state=Piece.State.MARKING)
        for place, wanted in ((1, 2), (2, 3), (3, 0)):
            found = queue_of(self.user, pieces[place])
            self.assertEqual(found["next"], pieces[wanted].pk)
        Piece.objects.filter(pk=pieces[2].pk).update(state=Piece.State.MARKED)
        self.assertEqual(queue_of(self.user, pieces[1])["next"], pieces[3].pk)
        Piece.objects.exclude(pk=pieces[1].pk).update(state=Piece.State.RETURNED)
        self.assertIsNone(queue_of(self.user, pieces[1])["next"])
