"""What is kept of a piece between two moves of a drag, and what ends it."""

from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Correction, Piece
from heath.assessment.reading import handles, read
from heath.drawing.lines import moving_line
from heath.people.models import User
from heath.testing import SchoolTestCase, photographed


class Dragging(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def drag(self, gesture, x=450.0, handle="rim", **more):
        sent = {"handle": handle, "x": x, "y": 510.0, "gesture": gesture, "lens": "proportion"}
        return self.client.post(reverse("move", args=[self.piece.pk]), sent | more)

    def test_a_move_asks_the_database_for_little(self):
        for x in (450, 452):  # a gesture that begins counts as a change
            self.drag("drag-asks-little", x)
        self.drag("drag-asks-little", 453)
        # session, person, whether the piece may be seen and has changed, the place itself
        with self.assertNumQueries(4):
            self.drag("drag-asks-little", 455)

    def test_the_figures_are_those_of_the_place_sent_and_of_earlier_gestures(self):
        at = {h["name"]: (h["x"], h["y"]) for h in handles(read(self.piece))}
        for handle in ("base", "rim"):
            x, y = at[handle]
            for step in (2, 4, 6):
                found = self.drag(f"drag-figures-{handle}", x + step, handle, y=y + step).json()
        now = read(Piece.objects.get(pk=self.piece.pk))
        line = next(x for x in now.verdict.lines if x.rule.code == "visible-height")
        self.assertEqual(found["lines"]["visible-height"][0], moving_line(line)[0])
        self.assertEqual(
            [now.datum.rim, now.datum.base], [(at[n][0] + 6, at[n][1] + 6) for n in ("rim", "base")]
        )

    def test_what_somebody_else_does_meanwhile_is_seen(self):
        for x in (450, 451, 452):
            self.drag("drag-meanwhile", x)
        other = User.objects.create_user("second", school=self.user.school, first_name="Ines")
        Piece.objects.filter(pk=self.piece.pk).update(
            revision=90, changed_by=other, changed_at=timezone.now()
        )
        answer = self.drag("drag-meanwhile", 453, seen="5")
        self.assertContains(answer, "changed this piece")
        self.assertEqual(Correction.objects.get().x, 452)

    def test_marks_that_are_locked_meanwhile_stay(self):
        for x in (450, 451, 452):
            self.drag("drag-locked", x)
        type(self.brief).objects.update(locked_at=timezone.now())
        self.assertContains(self.drag("drag-locked", 460), "The marks of this brief are locked")
        self.assertEqual(Correction.objects.get().x, 452)

    def test_a_piece_that_is_theirs_no_more_is_not_found(self):
        for x in (450, 451, 452):
            self.drag("drag-deleted", x)
        type(self.brief).objects.update(deleted_at=timezone.now())
        self.assertEqual(self.drag("drag-deleted", 460).status_code, 404)
