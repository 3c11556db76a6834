from django.urls import reverse

from heath.classes.models import Course, Student
from heath.interface.testing import SchoolTestCase


class Classes(SchoolTestCase):
    def test_a_class_by_hand(self):
        answer = self.client.post(
            reverse("course-new"),
            {"name": "Thursday class", "term": "Spring", "students": "Una Reef\n\n  Vik  Sand \nUna Reef\n"},
            follow=True,
        )
        made = Course.objects.get(name="Thursday class")
        self.assertEqual([s.name for s in made.students.all()], ["Una Reef", "Vik Sand"])
        self.assertEqual(made.school, self.user.school)
        self.assertContains(answer, "Vik Sand")

    def test_students_added_later_get_their_pieces(self):
        course = self.brief.course
        self.client.post(reverse("course", args=[course.pk]), {"name": course.name, "term": course.term, "students": "Wyn Tide"})
        self.assertEqual(self.brief.pieces.count(), 3)

    def test_faults_keep_what_was_typed(self):
        twin = self.client.post(reverse("course-new"), {"name": "Tuesday class", "term": "Autumn", "students": "Una Reef"})
        self.assertContains(twin, "There is a class of that name")
        self.assertContains(twin, "Una Reef")
        long = self.client.post(reverse("course-new"), {"name": "X class", "students": "ok\n" + "n" * 130})
        self.assertContains(long, "Line 2 is too long")
        self.assertFalse(Student.objects.filter(name="Una Reef").exists())

    def test_term_counts_own_school_only(self):
        page = self.client.get(reverse("term"))
        self.assertContains(page, "Column", count=1)
        self.assertEqual(self.client.get(reverse("course", args=[self.other_brief.course_id])).status_code, 404)

    def test_few_queries(self):
        with self.assertNumQueries(6):
            self.client.get(reverse("term"))


class Doors(SchoolTestCase):
    def test_everything_asks_to_sign_in(self):
        self.client.logout()
        for name, arguments in (
            ("term", []),
            ("brief", [self.brief.pk]),
            ("course-new", []),
            ("bench", [1]),
            ("photograph", [1]),
        ):
            answer = self.client.get(reverse(name, args=arguments))
            self.assertRedirects(answer, f"{reverse('sign-in')}?next={reverse(name, args=arguments)}")

    def test_headers(self):
        answer = self.client.get(reverse("term"))
        policy = answer["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertEqual(answer["X-Frame-Options"], "DENY")
        self.assertEqual(answer["X-Content-Type-Options"], "nosniff")

    def test_sign_in_page_says_what_is_wrong(self):
        self.client.logout()
        answer = self.client.post(reverse("sign-in"), {"username": "ruth", "password": "wrong"})
        self.assertContains(answer, "do not go together")

    def test_not_found_is_in_our_words(self):
        self.assertContains(self.client.get("/nowhere/"), "Nothing lies here", status_code=404)
