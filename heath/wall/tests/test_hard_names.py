"""Names that are long, written from right to left, or hold pictures, and places without pieces."""

from django.urls import reverse

from heath.assessment.models import Piece
from heath.bench.models import Phrase
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.testing import SchoolTestCase, photographed

HARD = ("W" * 120, "نور الهدى عبد الرحمن", "Zoë 🌷 Tidewrack", "<b>Ada</b> & 'Co'")


class HardNames(SchoolTestCase):
    def test_every_place_shows_them_whole_and_as_text(self):
        for name in HARD:
            Student.objects.create(course=self.brief.course, name=name)
        self.brief.give_pieces()
        for place in ("brief", "line-up", "intake", "returning"):
            self.client.get(reverse(place, args=[self.brief.pk]))
        page = self.client.get(reverse("course", args=[self.brief.course.pk]))
        wall = self.client.get(reverse("brief", args=[self.brief.pk]))
        for answer in (page, wall):
            for name in HARD[:3]:
                self.assertContains(answer, f'title="{name}"')
            self.assertNotContains(answer, "<b>Ada</b> &")
            self.assertContains(answer, "&lt;b&gt;Ada&lt;/b&gt;")

    def test_a_class_takes_no_name_that_is_too_long_and_keeps_the_list_as_typed(self):
        long = "W" * 300
        answer = self.client.post(
            reverse("course", args=[self.brief.course.pk]),
            {"name": "Tuesday class", "term": "Autumn", "students": f"Cai Reef\n{long}"},
        )
        self.assertContains(answer, "120", status_code=answer.status_code)
        self.assertContains(answer, long, status_code=answer.status_code)
        self.assertFalse(Student.objects.filter(name="Cai Reef").exists())


class Empty(SchoolTestCase):
    def test_a_class_without_students_and_a_brief_without_pieces_say_what_to_do(self):
        course = Course.objects.create(school=self.user.school, name="New class", term="Spring")
        brief = Brief.objects.create(
            course=course,
            name="First",
            container="Bowl",
            container_height_cm=10,
            container_width_cm=20,
        )
        self.assertSays(
            self.client.get(reverse("course", args=[course.pk])), "The class has no students yet"
        )
        for place in ("brief", "line-up", "returning", "intake", "plan", "recipe"):
            answer = self.client.get(reverse(place, args=[brief.pk]))
            self.assertEqual(answer.status_code, 200, place)
        self.assertContains(self.client.get(reverse("brief", args=[brief.pk])), "no students")


class TwoTabs(SchoolTestCase):
    """The same piece open twice; its mark is accepted in one tab."""

    def test_the_other_tab_changes_nothing_and_says_what_to_do(self):
        piece = photographed(self.brief, self.user)

        def post(name, **values):
            return self.client.post(reverse(name, args=[piece.pk]), values)

        post("accept")
        piece.refresh_from_db()
        self.assertEqual(piece.state, Piece.State.MARKED)
        was = piece.mark.score
        for name, values in (
            ("override", {"rule": "visible-height", "score": "2", "reason": "Mine."}),
            ("cap", {"family": "", "at": "10", "reason": "Mine."}),
            ("remark", {"words": "Mine."}),
            ("move", {"handle": "rim", "gesture": "abcdef123456", "x": "450", "y": "500"}),
            ("confirm", {}),
            ("undo", {}),
        ):
            self.assertContains(post(name, **values), "Press “Change this mark” first.")
        again = post("accept")
        self.assertContains(again, "Change this mark")
        piece.refresh_from_db()
        self.assertEqual(piece.mark.score, was)
        self.assertFalse(piece.overrides.exists() or piece.caps.exists() or piece.remarks.exists())
        self.assertFalse(Phrase.objects.exists())
