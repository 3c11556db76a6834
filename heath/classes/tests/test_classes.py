from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase
from django.urls import reverse

from heath.classes.models import Course, Student
from heath.classes.roster import read_roster
from heath.testing import SchoolTestCase


class Classes(SchoolTestCase):
    def test_a_class_by_hand(self):
        answer = self.client.post(
            reverse("course-new"),
            {"name": "Thursday class", "term": "Spring", "students": "Una Reef\n\n  Vik  Sand \n"},
            follow=True,
        )
        made = Course.objects.get(name="Thursday class")
        self.assertEqual([s.name for s in made.students.all()], ["Una Reef", "Vik Sand"])
        self.assertEqual(made.school, self.user.school)
        self.assertContains(answer, "Vik Sand")

    def test_students_added_later_get_their_pieces(self):
        course = self.brief.course
        self.client.post(
            reverse("course", args=[course.pk]),
            {"name": course.name, "term": course.term, "students": "Wyn Tide"},
        )
        self.assertEqual(self.brief.pieces.count(), 3)

    def test_faults_keep_what_was_typed(self):
        twin = self.client.post(
            reverse("course-new"),
            {"name": "Tuesday class", "term": "Autumn", "students": "Una Reef"},
        )
        self.assertContains(twin, "There is a class of that name")
        self.assertContains(twin, "Una Reef")
        long = self.client.post(
            reverse("course-new"), {"name": "X class", "students": "ok\n" + "n" * 130}
        )
        self.assertContains(long, "Line 2: too long for a name")
        self.assertFalse(Student.objects.filter(name="Una Reef").exists())

    def test_a_file_with_a_fault_brings_nobody_in(self):
        def sent(data):
            file = SimpleUploadedFile("class.csv", data)
            url = reverse("course", args=[self.brief.course_id])
            return self.client.post(
                url, {"name": "Tuesday class", "term": "Autumn", "roster": file}, follow=True
            )

        faulty = sent(b"name\nWyn Tide\n\n,\n")
        self.assertContains(faulty, "Line 4")
        self.assertEqual(Student.objects.filter(name="Wyn Tide").count(), 0)
        self.assertContains(sent("name\nZoë Tide\n".encode("cp1252")), "Zoë Tide")
        self.assertContains(sent(b"\xff\x00PK"), "This is neither text nor a spreadsheet")

    def test_term_counts_own_school_only(self):
        page = self.client.get(reverse("term"))
        self.assertContains(page, f'href="{reverse("brief", args=[self.brief.pk])}"')
        self.assertNotContains(page, reverse("brief", args=[self.other_brief.pk]))
        self.assertEqual(
            self.client.get(reverse("course", args=[self.other_brief.course_id])).status_code, 404
        )

    def test_few_queries(self):
        with self.assertNumQueries(8):
            self.client.get(reverse("term"))


class Rosters(SimpleTestCase):
    def test_a_list_and_a_table_give_the_same_names(self):
        plain = read_roster("Una Reef\nVik Sand\n")
        table = read_roster("\ufefflast name;first name;mail\nReef;Una;una@reef.test\nSand;Vik;\n")
        self.assertEqual(plain.names, ("Una Reef", "Vik Sand"))
        self.assertEqual((table.names, table.faults), (plain.names, ()))
        self.assertEqual(read_roster('name,group\n"Reef, Una",A\n').names, ("Reef, Una",))

    def test_every_fault_has_its_line(self):
        found = read_roster("name,group\nUna Reef,A\n,B\nuna reef,C\n42,D\n")
        self.assertEqual([n for n, _ in found.faults], [3, 4, 5])
        self.assertIn("line 2", found.faults[1][1])
        self.assertEqual([n for n, _ in read_roster("Una Reef,A\nVik Sand").faults], [1])
        self.assertTrue(
            read_roster(
                "\n".join(f"Pupil {chr(65 + i // 26)}{chr(65 + i % 26)}" for i in range(61))
            ).faults
        )


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
            self.assertRedirects(
                answer, f"{reverse('sign-in')}?next={reverse(name, args=arguments)}"
            )

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
        self.assertContains(answer, "do not belong together")

    def test_not_found_is_in_our_words(self):
        self.assertContains(self.client.get("/nowhere/"), "Nothing lies here", status_code=404)
