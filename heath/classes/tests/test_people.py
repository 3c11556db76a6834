"""Students renamed, moved, removed and taken back; classes archived, deleted and brought back."""

from datetime import timedelta

from django.test import SimpleTestCase
from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import Photograph, Piece
from heath.briefs.models import Brief
from heath.briefs.tasks import clear_deleted
from heath.classes.models import Course, Student
from heath.classes.naming import family_name, sorting_key
from heath.classes.roster import read_roster
from heath.people.keeping import WAY_BACK
from heath.returns.issuing import issue_sheet
from heath.testing import SchoolTestCase, photographed


class NamingTests(SimpleTestCase):
    def test_particles_belong_to_the_family_name(self):
        # British practice: van and de stay with the name, and sort it.
        self.assertEqual(family_name("Mirela van der Cobb"), "van der Cobb")
        self.assertEqual(family_name("Van Morris"), "Morris")
        self.assertEqual(family_name("李小龙"), "李小龙")

    def test_accents_and_capitals_do_not_part_names(self):
        names = ["Zoë Ångström", "Ann Angst", "Bo angstrom"]
        ordered = sorted(names, key=sorting_key)
        self.assertEqual(ordered, ["Ann Angst", "Bo angstrom", "Zoë Ångström"])

    def test_a_list_may_name_the_family_name_and_the_address(self):
        found = read_roster("first name,last name,e-mail\nAna,Costa Lima,ana@reef.test\nBo,Ek,\n")
        self.assertEqual(found.faults, ())
        self.assertEqual(found.entries[0].email, "ana@reef.test")
        self.assertEqual(
            sorting_key(found.entries[0].name, found.entries[0].family), "costa lima ana"
        )
        faulty = read_roster("name,e-mail\nAna Costa,ana at reef\n")
        self.assertIn("not an e-mail address", faulty.faults[0][1])


class StudentsTests(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.ada = Student.objects.get(name="Ada Shore", course=self.brief.course)

    def send(self, student=None, **what):
        return self.client.post(
            reverse("student", args=[(student or self.ada).pk]), what, follow=True
        )

    def test_names_that_the_type_cannot_print_are_named(self):
        page = reverse("course", args=[self.brief.course.pk])
        self.assertNotContains(self.client.get(page), "The type for print")
        Student.objects.create(course=self.brief.course, name="李小龙")
        self.assertContains(self.client.get(page), "<bdi>李小龙</bdi>")

    def test_renamed_and_given_an_address(self):
        page = self.send(do="save", name="  Ada   Zennor ", email="ada@reef.test")
        self.ada.refresh_from_db()
        self.assertEqual((self.ada.name, self.ada.email), ("Ada Zennor", "ada@reef.test"))
        self.assertEqual(self.ada.sorting, "zennor ada")
        self.assertContains(page, "ada@reef.test")

    def test_what_is_wrong_is_said_beside_what_was_typed(self):
        for values, words in (
            ({"name": "Bo Strand", "email": ""}, "in this class already"),
            ({"name": "Ada", "email": "ada at reef"}, "like name@example.org"),
            ({"name": "42", "email": ""}, "a name of letters"),
            ({"name": "x" * 300, "email": ""}, "120"),
        ):
            answer = self.client.post(
                reverse("student", args=[self.ada.pk]), {"do": "save", **values}
            )
            self.assertContains(answer, words, status_code=422)
            self.assertContains(answer, values["name"][:100], status_code=422)
        self.ada.refresh_from_db()
        self.assertEqual(self.ada.name, "Ada Shore")

    def test_a_removed_student_keeps_what_they_made_and_can_be_taken_back(self):
        piece = photographed(self.brief, self.user)
        second = Brief.objects.create(
            course=self.brief.course,
            name="Second",
            container="Bowl",
            container_height_cm=10,
            container_width_cm=20,
        )
        second.give_pieces()
        self.assertContains(self.send(do="remove"), "Ada Shore is removed")
        self.assertTrue(Piece.objects.filter(pk=piece.pk).exists())
        self.assertFalse(second.pieces.filter(student=self.ada).exists())
        second.give_pieces()
        self.assertFalse(second.pieces.filter(student=self.ada).exists())
        self.assertContains(self.client.get(reverse("brief", args=[self.brief.pk])), "Ada Shore")
        page = self.client.get(reverse("course", args=[self.ada.course_id]))
        self.assertContains(page, "1 piece kept")
        self.send(do="back")
        self.assertTrue(second.pieces.filter(student=self.ada).exists())

    def test_a_removed_students_sheet_stays_open(self):
        piece = photographed(self.brief, self.user)
        Piece.objects.filter(pk=piece.pk).update(state=Piece.State.MARKED)
        sheet = issue_sheet(Piece.objects.get(pk=piece.pk), self.user)
        self.send(do="remove")
        self.client.logout()
        self.assertContains(self.client.get(reverse("own-sheet", args=[sheet.key])), "Ada Shore")

    def test_moved_to_another_class(self):
        other = Course.objects.create(school=self.user.school, name="Thursday", term="Autumn")
        self.assertContains(self.send(do="move", to=other.pk), "Ada Shore is now in Thursday")
        self.assertFalse(self.brief.pieces.filter(student=self.ada).exists())
        self.ada.refresh_from_db()
        self.assertEqual(self.ada.course, other)
        twin = Student.objects.create(course=self.brief.course, name="Ada Shore")
        refused = self.send(twin, do="move", to=other.pk)
        self.assertContains(refused, "has a student called Ada Shore")
        self.assertEqual(
            self.client.post(
                reverse("student", args=[twin.pk]), {"do": "move", "to": self.other_brief.course_id}
            ).status_code,
            404,
        )

    def test_another_schools_student_is_not_found(self):
        stranger = self.other_brief.course.students.first()
        self.assertEqual(
            self.client.post(reverse("student", args=[stranger.pk]), {"do": "remove"}).status_code,
            404,
        )


class KeepingTests(SchoolTestCase):
    def keep(self, name, pk, what):
        return self.client.post(reverse(name, args=[pk]), {"do": what}, follow=True)

    def test_an_archived_class_is_out_of_the_way_and_comes_back(self):
        course = self.brief.course
        page = self.keep("course-keep", course.pk, "archive")
        self.assertContains(page, "Use it again")
        self.assertEqual(self.client.get(reverse("term")).context["rows"], [])
        self.assertEqual(self.client.get(reverse("brief", args=[self.brief.pk])).status_code, 200)
        self.keep("course-keep", course.pk, "unarchive")
        self.assertEqual(len(self.client.get(reverse("term")).context["rows"]), 1)

    def test_before_deleting_it_says_what_would_be_lost(self):
        photographed(self.brief, self.user)
        page = self.client.get(reverse("course-keep", args=[self.brief.course_id]))
        for words in ("<b>2</b> students", "<b>1</b> brief", "<b>1</b> photographed piece"):
            self.assertContains(page, words)
        self.assertContains(page, "30 days")

    def test_what_is_deleted_is_found_nowhere_and_comes_back_whole(self):
        piece = photographed(self.brief, self.user)
        course = self.brief.course
        page = self.keep("course-keep", course.pk, "delete")
        self.assertContains(page, "Bring it back")
        for name, pk in (
            ("course", course.pk),
            ("brief", self.brief.pk),
            ("bench", piece.pk),
            ("photograph", piece.photograph.pk),
            ("intake", self.brief.pk),
        ):
            self.assertEqual(self.client.get(reverse(name, args=[pk])).status_code, 404, name)
        self.assertNotContains(self.client.get(reverse("briefs")), self.brief.name)
        self.keep("course-keep", course.pk, "restore")
        self.assertContains(self.client.get(reverse("brief", args=[self.brief.pk])), "Ada Shore")

    def test_a_deleted_briefs_links_end_at_once(self):
        piece = photographed(self.brief, self.user)
        Piece.objects.filter(pk=piece.pk).update(state=Piece.State.MARKED)
        own = reverse("own-sheet", args=[issue_sheet(piece, self.user).key])
        self.keep("brief-keep", self.brief.pk, "delete")
        self.assertEqual(self.client.get(own).status_code, 410)
        self.keep("brief-keep", self.brief.pk, "restore")
        self.assertEqual(self.client.get(own).status_code, 200)

    def test_after_thirty_days_it_is_removed_with_its_files(self):
        piece = photographed(self.brief, self.user)
        storage, name = piece.photograph.full.storage, piece.photograph.full.name
        late = timezone.now() - WAY_BACK - timedelta(minutes=1)
        Brief.objects.filter(pk=self.brief.pk).update(deleted_at=late + timedelta(minutes=2))
        clear_deleted(0)
        self.assertTrue(Brief.objects.filter(pk=self.brief.pk).exists())
        Brief.objects.filter(pk=self.brief.pk).update(deleted_at=late)
        with self.captureOnCommitCallbacks(execute=True):
            clear_deleted(0)
        self.assertFalse(Brief.objects.filter(pk=self.brief.pk).exists())
        self.assertFalse(Photograph.objects.exists())
        self.assertFalse(storage.exists(name))

    def test_nobody_brings_back_what_is_another_schools(self):
        Brief.objects.filter(pk=self.other_brief.pk).update(deleted_at=timezone.now())
        self.keep("brief-keep", self.other_brief.pk, "restore")
        self.assertIsNotNone(Brief.objects.get(pk=self.other_brief.pk).deleted_at)
