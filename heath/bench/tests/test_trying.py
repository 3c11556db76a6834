import json
from io import BytesIO

import numpy as np
from django.urls import reverse
from PIL import Image

from heath.assessment.models import Correction, Piece
from heath.assessment.reading import read
from heath.bench.trying import WISHES, try_on
from heath.shelf.models import Container
from heath.testing import SchoolTestCase, photographed


class Trying(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)
        cls.bowl = Container.objects.create(
            school=cls.brief.course.school, name="Low bowl", height_cm=10, width_cm=22
        )

    def wish(self, *changes):
        return self.client.post(
            reverse("try", args=[self.piece.pk]), {"changes": json.dumps(changes)}
        )

    def tried(self, *changes):
        piece = Piece.objects.get(pk=self.piece.pk)
        return try_on(piece, read(piece), WISHES.validate_python(changes))

    def test_a_cut_lowers_the_height_by_its_centimetres_and_leaves_the_record_alone(self):
        before = read(self.piece)
        cut = {"act": "cut", "at": list(before.findings.top), "cm": 4}
        answer = self.wish(cut)
        self.assertContains(answer, "Stem cut by 4.0 cm")
        self.assertContains(answer, "Height to container")
        self.assertContains(answer, "Nothing of this is kept")
        after = self.tried(cut).after.findings["height_ratio"].value
        lost = 24 * (before.findings["height_ratio"].value - after)
        self.assertTrue(0 < lost < 4.6, lost)
        again = read(Piece.objects.get(pk=self.piece.pk))
        self.assertEqual(again.verdict.score, before.verdict.score)
        self.assertFalse(Correction.objects.exists())

    def test_blooms_move_double_and_go(self):
        bloom = max(read(self.piece).scene.blooms, key=lambda b: b.radius)
        at, to = list(bloom.centre), [bloom.centre[0] - 120, bloom.centre[1] - 40]
        for act, more in (("move", 0), ("another", 1), ("out", -1)):
            tried = self.tried({"act": act, "at": at, "to": to})
            self.assertEqual(len(tried.after.scene.blooms) - len(tried.before.scene.blooms), more)
        self.assertContains(self.wish({"act": "out", "at": at}), "bloom taken out")

    def test_what_cannot_be_done_is_said_and_the_rest_is_done(self):
        answer = self.wish({"act": "out", "at": [1, 1]}, {"act": "swap", "which": self.bowl.pk})
        self.assertContains(answer, "No bloom lies there")
        self.assertContains(answer, "Set in Low bowl, 10 cm high")

    def test_another_container_is_scored_by_its_own_height(self):
        tried = self.tried({"act": "swap", "which": self.bowl.pk})
        lengths = [
            24 * tried.before.findings["height_ratio"].value,
            10 * tried.after.findings["height_ratio"].value,
        ]
        self.assertAlmostEqual(*lengths, places=4)
        titles = {c.after.rule.title for c in tried.changes}
        self.assertIn("Height to container", titles)

    def test_a_container_of_another_school_is_not_to_be_had(self):
        other = Container.objects.create(
            school=self.stranger.school, name="Secret urn", height_cm=30, width_cm=20
        )
        answer = self.wish({"act": "swap", "which": other.pk})
        self.assertContains(answer, "no longer on the shelf")
        self.assertNotContains(answer, "Secret urn")

    def test_the_overlay_is_clear_where_nothing_changes(self):
        changes = json.dumps([{"act": "cut", "at": list(read(self.piece).findings.top), "cm": 5}])
        answer = self.client.get(
            reverse("tried-picture", args=[self.piece.pk]), {"changes": changes}
        )
        picture = np.asarray(Image.open(BytesIO(answer.content)))
        self.assertEqual(picture.shape[2], 4)
        self.assertTrue(0.0005 < (picture[..., 3] > 0).mean() < 0.2)

    def test_nonsense_is_refused(self):
        for changes in (
            "[",
            '[{"act": "burn"}]',
            '[{"act": "out", "at": [1e999, 2]}]',
            json.dumps([{"act": "out", "at": [1, 1]}] * 21),
        ):
            self.assertEqual(
                self.client.post(
                    reverse("try", args=[self.piece.pk]), {"changes": changes}
                ).status_code,
                400,
            )

    def test_another_school_sees_nothing(self):
        self.client.force_login(self.stranger)
        self.assertEqual(self.wish().status_code, 404)
        self.assertEqual(
            self.client.get(reverse("tried-picture", args=[self.piece.pk])).status_code, 404
        )
