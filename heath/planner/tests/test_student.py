from django.urls import reverse

from heath.intake.links import make_link, token, withdraw
from heath.planner.models import Plan
from heath.testing import SchoolTestCase, printed, text_of


class AtTheBench(SchoolTestCase):
    def test_the_plan_behind_the_classs_link(self):
        Plan.objects.create(
            brief=self.brief,
            items=[{"slug": "gerbera", "role": "focal", "colour": "red", "stems": 3}],
        )
        text = token(make_link(self.brief, self.user))
        self.client.logout()
        page = self.client.get(reverse("student-plan", args=[text]))
        for words in (
            "61.5 cm",
            "Gerbera, red",
            "Turn it, step back, correct",
            "cut away from the hand",
        ):
            self.assertContains(page, words)
        for words in ("10.0</b>", "Ada Shore", 'tabindex="0"'):
            self.assertNotContains(page, words)
        paper = printed(self.client.post(reverse("student-plan-pdf", args=[text])))
        self.assertTrue(paper.startswith(b"%PDF"))
        self.assertContains(
            self.client.get(reverse("student-add", args=[text])),
            reverse("student-plan", args=[text]),
        )
        withdraw(self.brief)
        self.assertContains(
            self.client.get(reverse("student-plan", args=[text])),
            "It was withdrawn",
            status_code=410,
        )
        closed = self.client.post(reverse("student-plan-pdf", args=[text]))
        self.assertEqual(closed.status_code, 404)
        self.assertEqual(
            self.client.get(reverse("student-plan", args=["1:forged"])).status_code, 404
        )

    def test_a_school_of_inches_gives_its_students_inches_on_page_and_paper(self):
        # 61.5 cm = 24.2 in: 2.54 cm to the inch (ISO 80000-3).
        school = self.brief.course.school
        school.inches = True
        school.save()
        text = token(make_link(self.brief, self.user))
        self.client.logout()
        page = self.client.get(reverse("student-plan", args=[text])).content.decode()
        paper = printed(self.client.post(reverse("student-plan-pdf", args=[text])))
        for written in (page, text_of(paper)):
            self.assertIn("24.2 in", written)
            self.assertNotRegex(written, r"\d cm\b")
