import io

from django.urls import reverse
from PIL import Image

from heath.intake.arriving import sort_arrival
from heath.intake.models import Arrival
from heath.testing import SchoolTestCase


class Camera(SchoolTestCase):
    """The camera's stand-in takes pictures and sends them to a brief."""

    def chosen(self, **changes):
        return {
            "scene": "10-front",
            "piece": self.brief.pieces.first().pk,
            "kind": "jpg",
            "strength": "0.5",
        } | changes

    def test_the_finder_shows_the_picture(self):
        self.assertContains(self.client.get(reverse("camera")), "Simulated camera")
        answer = self.client.get(reverse("camera-picture"), self.chosen(faults=["roll"]))
        self.assertEqual(Image.open(io.BytesIO(answer.content)).size, (900, 1200))
        self.assertEqual(
            self.client.get(reverse("camera-picture"), {"scene": "no"}).status_code, 422
        )

    def test_a_picture_as_a_file(self):
        answer = self.client.post(reverse("camera"), self.chosen(kind="heic"))
        self.assertIn(".heic", answer["Content-Disposition"])
        self.assertEqual(answer.content[4:12], b"ftypheic")

    def test_it_sees_compositions_too(self):
        page = self.client.get(reverse("camera"))
        for words in ("composition: garland 0", "tied lying", "group 5"):
            self.assertContains(page, words)
        answer = self.client.post(reverse("camera"), self.chosen(scene="group-5", piece=""))
        self.assertIn("picture-group-5.jpg", answer["Content-Disposition"])
        wide, high = Image.open(io.BytesIO(answer.content)).size
        self.assertGreater(wide, high)

    def test_a_picture_to_a_brief(self):
        self.client.post(reverse("camera"), self.chosen(kind="sideways", brief=self.brief.pk))
        sort_arrival(Arrival.objects.get().pk)
        done = Arrival.objects.get()
        self.assertEqual(
            (done.state, done.matched, done.piece), ("sorted", "card", self.brief.pieces.first())
        )

    def test_other_schools_cards_and_briefs_are_out_of_reach(self):
        self.client.post(
            reverse("camera"),
            self.chosen(brief=self.other_brief.pk, piece=self.other_brief.pieces.first().pk),
        )
        self.assertFalse(Arrival.objects.exists())
