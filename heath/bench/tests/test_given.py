import json

from django.urls import reverse

from heath.assessment.models import Correction, Mark, Photograph, Piece
from heath.testing import SchoolTestCase, photographed


class Given(SchoolTestCase):
    """A mark that was given: nothing moves it by accident, and it can be changed on purpose."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def setUp(self):
        super().setUp()
        self.post("override", rule="visible-height", score="7", reason="Leans on purpose.")
        self.post("accept")
        self.post("return")

    def post(self, name, *more, **values):
        return self.client.post(
            reverse(name, args=[self.piece.pk, *more]), values, headers={"HX-Request": "true"}
        )

    def now(self):
        return Piece.objects.get(pk=self.piece.pk)

    def touches(self):
        """One of everything that a person can do to a piece."""
        photo = self.piece.photograph
        yield self.post(
            "move",
            handle="rim",
            gesture="gesture-01",
            x=photo.width / 2,
            y=photo.height / 2,
            rests="1",
        )
        yield self.post(
            "change",
            gesture="change-001",
            change=json.dumps({"points": [[10, 10]], "radius": 5, "plant": True}),
        )
        yield self.post("override", rule="no-bare-stem", score="1", reason="No.")
        yield self.post("cap", family="", at="5", reason="No.")
        yield self.post("remark", words="No.")
        yield self.post("answer", rule="condition", answer="no")
        yield self.post("declare", dominant="line")
        yield self.post("confirm")
        yield self.post("undo")
        yield self.post("take-back", "visible-height")

    def test_no_touch_moves_it(self):
        before, mark = self.now().revision, Mark.objects.get()
        for answer in self.touches():
            self.assertContains(answer, "Press “Change this mark” first")
        piece = self.now()
        self.assertEqual(
            (piece.state, piece.revision, piece.overrides.get().taken_back),
            (Piece.State.RETURNED, before, False),
        )
        self.assertEqual((Correction.objects.count(), Mark.objects.get().score), (0, mark.score))

    def test_mark_and_sheet_stay_while_it_is_open(self):
        page = self.post("reopen")
        self.assertContains(page, "The mark given is")
        self.assertContains(page, reverse("sheet", args=[self.piece.pk]))
        self.post("cap", family="", at="5", reason="Not its own work.")
        piece, mark = self.now(), Mark.objects.get()
        self.assertEqual((piece.state, piece.reopened), (Piece.State.RETURNED, True))
        self.assertGreater(mark.score, 5)
        self.assertEqual(self.client.get(reverse("sheet", args=[self.piece.pk])).status_code, 200)
        self.post("accept")
        self.assertEqual(
            (self.now().state, self.now().reopened, Mark.objects.get().score),
            (Piece.State.MARKED, False, 5),
        )

    def test_undoing_everything_gives_it_back(self):
        self.post("reopen")
        self.post("cap", family="", at="5", reason="Not its own work.")
        self.post("remark", words="Look again.")
        self.post("undo")
        self.assertTrue(self.now().reopened)
        self.post("undo")
        piece = self.now()
        self.assertEqual((piece.reopened, piece.state), (False, Piece.State.RETURNED))

    def test_leaving_it_puts_everything_back(self):
        self.post("reopen")
        self.post("override", rule="visible-height", score="2", reason="Looked again.")
        self.post("declare", dominant="line")
        self.post("answer", rule="condition", answer="no")
        list(self.touches())
        self.post("reopen", leave="1")
        piece = self.now()
        self.assertEqual(
            (piece.reopened, piece.state, piece.dominant), (False, Piece.State.RETURNED, "")
        )
        self.assertEqual(
            [(o.rule, o.score) for o in piece.overrides.filter(taken_back=False)],
            [("visible-height", 7)],
        )
        self.assertEqual(Correction.objects.filter(undone=False).count(), 0)
        self.assertFalse(piece.answers.exists() or piece.caps.filter(taken_back=False).exists())

    def test_a_piece_without_a_mark_is_not_reopened(self):
        Mark.objects.all().delete()
        Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.MARKING)
        self.post("reopen")
        self.assertFalse(self.now().reopened)


class Doubtful(SchoolTestCase):
    """No mark without a datum: while the handles are doubtful the mark is grey, and accepting asks
    for them.
    """

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        photograph = cls.piece.photograph
        photograph.scene["datum"] |= {"confidence": 0.2, "doubts": ["the rim is hidden"]}
        Photograph.objects.filter(pk=photograph.pk).update(scene=photograph.scene)

    def post(self, name, **values):
        return self.client.post(
            reverse(name, args=[self.piece.pk]), values, headers={"HX-Request": "true"}
        )

    def test_accept_asks_for_the_handles_until_they_are_confirmed(self):
        page = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertContains(page, 'class="total unsure"')
        self.assertContains(page, "The rim is hidden")
        self.assertContains(self.post("accept"), "Check the handles first")
        self.assertFalse(Mark.objects.exists())
        page = self.post("confirm")
        self.assertNotContains(page, 'class="total unsure"')
        self.assertNotContains(page, "The rim is hidden")
        self.post("accept")
        self.assertTrue(Mark.objects.exists())

    def test_one_handle_put_is_not_all_four(self):
        photo = self.piece.photograph
        page = self.post(
            "move",
            handle="rim",
            gesture="gesture-01",
            x=photo.width / 2,
            y=photo.height / 2,
            rests="1",
        )
        self.assertContains(page, 'class="total unsure"')
        self.assertSays(page, "Check the other handles")
        self.assertContains(self.post("accept"), "Check the handles first")
