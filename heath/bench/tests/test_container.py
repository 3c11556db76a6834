import json
from unittest import mock

from django.urls import reverse

from heath.assessment.models import Correction, Piece
from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.reading import read
from heath.testing import SchoolTestCase, done, photographed, picture
from juniper.scene import NothingFound
from juniper.scene.usable import CUT_OFF


class OneDrag(SchoolTestCase):
    """The container drawn in one drag, against the truth of the simulated picture."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        cls.truth = picture(30).truth["container"]

    def draw(self, start, end, gesture="drawn-container-1", client=None):
        change = json.dumps({"start": start, "end": end})
        return (client or self.client).post(
            reverse("change", args=[self.piece.pk]), {"change": change, "gesture": gesture}
        )

    def test_the_handles_are_right_as_they_stand(self):
        before = read(self.piece)
        self.assertContains(
            self.client.get(reverse("bench", args=[self.piece.pk])), "The handles are right"
        )
        page = self.client.post(reverse("confirm", args=[self.piece.pk]))
        self.assertContains(page, "Handles confirmed as they stand.")
        self.assertNotContains(page, "Handles put by hand")
        self.assertNotContains(page, "The handles are right")
        after = read(Piece.objects.get(pk=self.piece.pk))
        for name in ("rim", "base", "rim_left", "rim_right"):
            self.assertAlmostEqual(getattr(after.datum, name)[0], getattr(before.datum, name)[0])
        self.assertLessEqual(
            after.findings["height_ratio"].uncertainty, before.findings["height_ratio"].uncertainty
        )
        moved = {
            "handle": "rim",
            "x": before.datum.rim[0],
            "y": before.datum.rim[1] + 9,
            "gesture": "moved-after-1",
            "rests": "1",
        }
        self.assertContains(
            self.client.post(reverse("move", args=[self.piece.pk]), moved), "Handles put by hand"
        )
        for _ in range(2):
            self.client.post(reverse("undo", args=[self.piece.pk]))
        self.assertEqual(read(Piece.objects.get(pk=self.piece.pk)).datum, before.datum)

    def test_four_handles_go_where_the_container_is_and_one_undo_takes_all_back(self):
        before = read(self.piece)
        # As quickly as a hand does it: a fiftieth of the height off at both ends.
        off = 0.02 * before.datum.height
        start = [self.truth["rim_left"][0] + off, self.truth["rim_left"][1] - off]
        end = [self.truth["rim_right"][0] - off, self.truth["base"][1] + off]
        self.assertContains(self.draw(start, end), "Handles put by hand")
        after = read(Piece.objects.get(pk=self.piece.pk))
        self.assertEqual(after.hands, 4)
        for name in ("rim", "base"):
            self.assertLess(
                abs(getattr(after.datum, name)[1] - self.truth[name][1]), 0.02 * before.datum.height
            )
        self.client.post(reverse("undo", args=[self.piece.pk]))
        self.assertEqual(read(Piece.objects.get(pk=self.piece.pk)).datum, before.datum)

    def test_a_handle_moved_afterwards_lies_over_it(self):
        self.draw([380, 500], [480, 700])
        self.client.post(
            reverse("move", args=[self.piece.pk]),
            {"handle": "rim", "x": 431, "y": 480, "gesture": "afterwards-1", "rests": 1},
        )
        after = read(Piece.objects.get(pk=self.piece.pk))
        self.assertEqual(after.datum.rim, (431.0, 480.0))
        self.assertEqual(after.hands, 4)

    def test_what_is_no_container_is_refused_with_a_sentence_and_nothing_is_kept(self):
        self.assertContains(self.draw([100, 100], [101, 102]), "Drag from one end of the rim")
        self.assertEqual(self.draw([-5, 1], [100, 100]).status_code, 400)
        self.assertEqual(self.draw([1, 1], [1e9, 100]).status_code, 400)
        self.assertFalse(Correction.objects.exists())

    def test_of_another_school_it_is_not_there(self):
        self.client.force_login(self.stranger)
        self.assertEqual(self.draw([380, 500], [480, 700]).status_code, 404)
        self.assertEqual(
            self.client.get(reverse("draw-container", args=[self.piece.pk])).status_code, 404
        )


class Refused(SchoolTestCase):
    """A picture in which nothing is found keeps its place; the container is shown by hand."""

    def setUp(self):
        super().setUp()
        self.piece = self.brief.pieces.order_by("student__sorting").first()
        self.photograph, _ = add_photograph(self.piece, picture(30).data, "piece.jpg", self.user)
        from juniper import assessment

        # The picture itself can be used: it is refused for as long as nobody has drawn.
        whole = assessment.see

        def refuses(read, given=None, *told, **more):
            if given is None:
                raise NothingFound(CUT_OFF)
            return whole(read, given, *told, **more)

        patched = mock.patch.object(assessment, "see", side_effect=refuses)
        patched.start()
        self.addCleanup(patched.stop)
        see_photograph(self.photograph)
        self.page = reverse("draw-container", args=[self.piece.pk])

    def test_the_brief_says_why_and_leads_to_the_page(self):
        self.assertContains(self.client.get(reverse("brief", args=[self.brief.pk])), self.page)
        self.assertContains(self.client.get(self.page), CUT_OFF)
        self.assertRedirects(
            self.client.get(reverse("bench", args=[self.piece.pk])),
            reverse("brief", args=[self.brief.pk]),
        )

    def test_drawn_it_is_on_the_bench_and_stays_there_when_it_is_looked_at_again(self):
        c = picture(30).truth["container"]
        drag = {
            "start_x": c["rim_left"][0],
            "start_y": c["rim_left"][1],
            "end_x": c["rim_right"][0],
            "end_y": c["base"][1],
        }
        self.assertEqual(
            done(self.client.post(self.page, drag)).to, reverse("bench", args=[self.piece.pk])
        )
        datum = read(Piece.objects.get(pk=self.piece.pk)).datum
        self.assertLess(abs(datum.rim[1] - c["rim"][1]), 0.02 * datum.height)
        self.photograph.refresh_from_db()
        see_photograph(self.photograph)
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.MARKING)

    def test_without_a_drag_it_says_what_to_do(self):
        for values in (
            {},
            {"start_x": "a", "start_y": 1, "end_x": 2, "end_y": 3},
            {"start_x": "nan", "start_y": 1, "end_x": 2, "end_y": 3},
        ):
            answer = self.client.post(self.page, values)
            self.assertContains(answer, "ver the container", status_code=422)
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.FAILED)
