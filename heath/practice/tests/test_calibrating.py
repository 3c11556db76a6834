"""Markers who mark known pieces, and what moderation sees of it."""

from django.urls import reverse

from heath.people.models import Role, User
from heath.practice import calibrating
from heath.practice.models import Calibration
from heath.practice.tests.scene import Practising, drawn_pictures


class Calibrating(Practising):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.pictures[0].__class__.objects.all().delete()
        cls.pictures = drawn_pictures(12)

    def mark_all(self, balance=0.0, colour=0.0):
        self.client.post(reverse("calibrate"), {"rules": "classical-line-mass"})
        one = Calibration.objects.get(user=self.user)
        at = reverse("calibration", args=[one.pk])
        for place in range(1, 11):
            page = self.client.get(at)
            self.assertContains(page, f"Known piece {place} of 10")
            known = calibrating._known(one, place)
            self.client.post(
                at,
                {
                    "place": place,
                    "balance": known["balance"] + balance,
                    "colour": known["colour"] + colour * (1 if place % 2 else -1),
                },
            )
        one.refresh_from_db()
        return one

    def test_too_strict_on_balance_by_six_points(self):
        one = self.mark_all(balance=-0.6, colour=0.5)
        leans = {x.family: x for x in calibrating.leans_of(one)}
        self.assertAlmostEqual(leans["balance"].by, -6)
        self.assertTrue(leans["balance"].sure)
        self.assertFalse(leans["colour"].sure)  # half a point up and down in turn
        # of two families of one weight the whole leans by half
        self.assertAlmostEqual(leans[""].by, -3)
        page = self.client.get(reverse("calibration", args=[one.pk]))
        self.assertContains(page, "too strict by 6 points of 100")
        page = self.client.get(reverse("agreement", args=[self.course.pk]))
        self.assertContains(page, "ten known pieces")
        self.assertContains(page, "too strict by 6 points of 100")

    def test_the_first_marks_stay_and_bad_ones_are_told(self):
        self.client.post(reverse("calibrate"))
        one = Calibration.objects.get()
        at = reverse("calibration", args=[one.pk])
        page = self.client.post(at, {"place": 1, "balance": "x", "colour": 3}, follow=True)
        self.assertContains(page, "a mark from 0 to 10")
        self.assertEqual(one.given.count(), 0)
        for balance in (4, 9):
            self.client.post(at, {"place": 1, "balance": balance, "colour": 3})
        self.assertEqual(one.given.get().marks["balance"], 4)
        self.assertEqual(self.client.post(at, {"place": 99}).status_code, 404)

    def test_pieces_are_spread_over_poor_and_good_and_new_the_next_time(self):
        one = calibrating.begin(self.user, "classical-line-mass")
        scores = sorted(
            p.marks["classical-line-mass"]["score"] for p in self.pictures if p.pk in one.pictures
        )
        self.assertEqual(len(set(one.pictures)), 10)
        self.assertLessEqual(scores[0], 45)
        self.assertGreaterEqual(scores[-1], 90)

    def test_only_the_marker_sees_it_and_few_pictures_are_told(self):
        one = calibrating.begin(self.user, "classical-line-mass")
        oz = User.objects.create_user("oz", school=self.user.school, role=Role.ASSISTANT)
        self.client.force_login(oz)
        self.assertEqual(self.client.get(reverse("calibration", args=[one.pk])).status_code, 404)
        for picture in self.pictures[5:]:
            picture.delete()
        page = self.client.post(reverse("calibrate"), follow=True)
        self.assertContains(page, "being made ready")
