"""Students' records, the class picture, levels, and what a student sees of their own."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from heath.assessment.models import MarkLine, Piece
from heath.bench.accepting import accept_marks, confirm_handles
from heath.briefs.models import Brief
from heath.classes.models import Course, Level, Student, levels_of
from heath.people.models import Role, User
from heath.records.class_picture import class_picture
from heath.records.comparing import compare
from heath.records.models import Lesson, Note, RecordLink
from heath.records.student_record import pieces_in_time, record_of
from heath.returns.issuing import issue_sheet
from heath.returns.models import ReturnSheet
from heath.testing import SchoolTestCase, given_mark, photographed, printed, text_of


class Term(SchoolTestCase):
    """A class of two students with three briefs, a week between them."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.course = cls.brief.course
        cls.start = timezone.now() - timedelta(days=60)
        cls.briefs = [cls.brief]
        for name in ("Bowl", "Fan"):
            brief = Brief.objects.get(pk=cls.brief.pk)
            brief.pk, brief._state.adding, brief.name = None, True, name
            brief.save()
            brief.give_pieces()
            cls.briefs.append(brief)
        for n, brief in enumerate(cls.briefs):
            brief.closes_at = cls.start + timedelta(days=7 * n)
            brief.save()
        cls.ada, cls.bo = cls.course.students.order_by("name")

    def piece(self, student, n):
        return Piece.objects.get(student=student, brief=self.briefs[n])

    def give(self, student, n, score, **rules):
        piece = self.piece(student, n)
        given_mark(piece, self.user, score, self.briefs[n].closes_at, **rules)
        return Piece.objects.get(pk=piece.pk)

    def returned(self, student, n, score, **rules):
        piece = self.give(student, n, score, **rules)
        Piece.objects.filter(pk=piece.pk).update(state=Piece.State.RETURNED)
        ReturnSheet.objects.create(piece=piece, version=1, figures={}, issued_by=self.user)
        return piece


class StudentRecords(Term):
    def record(self, student=None, **how):
        one = student or self.ada
        return record_of(one, pieces_in_time(one, **how))

    def test_pieces_in_the_order_of_their_briefs_whenever_marked(self):
        self.give(self.ada, 2, 80.0)
        self.give(self.ada, 0, 60.0)
        self.assertEqual([h.piece.brief.name for h in self.record().pieces], ["Column", "Fan"])

    def test_what_became_of_the_next_cut(self):
        self.give(self.ada, 0, 60.0, rim_cover=4.0, height_ratio=9.0)
        self.give(self.ada, 1, 70.0, rim_cover=9.5, height_ratio=5.0)
        self.give(self.ada, 2, 70.0, rim_cover=9.5, height_ratio=5.5)
        became = [h.became for h in self.record().pieces]
        self.assertEqual(became, ["taken", "not taken", ""])

    def test_a_rule_not_judged_in_the_next_piece_is_looked_for_in_the_one_after(self):
        self.give(self.ada, 0, 60.0, rim_cover=4.0)
        self.give(self.ada, 1, 70.0, height_ratio=8.0)
        self.give(self.ada, 2, 70.0, rim_cover=6.0)
        self.assertEqual(self.record().pieces[0].became, "partly")

    def test_first_and_last_time_surely_held_by_the_briefs_names(self):
        for n, mark in enumerate((4.0, 9.5, 3.0)):
            self.give(self.ada, n, 70.0, rim_cover=mark)
        (_, (rule,)), *_ = self.record().rules
        self.assertEqual((rule.first, rule.last, rule.latest), ("Bowl", "Bowl", 3.0))

    def test_pieces_of_briefs_that_hide_names_are_left_out_until_locked(self):
        self.give(self.ada, 0, 60.0)
        Brief.objects.filter(pk=self.brief.pk).update(names_hidden=True)
        self.assertEqual(self.record().pieces, ())
        self.assertEqual(class_picture(self.course).count, 0)
        Brief.objects.filter(pk=self.brief.pk).update(locked_at=timezone.now())
        self.assertEqual(len(self.record().pieces), 1)
        self.assertEqual(class_picture(self.course).count, 1)

    def test_the_page_and_its_notes(self):
        self.give(self.ada, 0, 61.0, rim_cover=4.0)
        page = reverse("student-record", args=[self.ada.pk])
        self.assertSays(self.client.get(page), "<b>61</b> of 100, pass")
        self.client.post(reverse("student-note", args=[self.ada.pk]), {"words": "Hurries."})
        self.assertSays(self.client.get(page), "Hurries.")
        self.assertEqual(
            self.client.post(
                reverse("student-note", args=[self.ada.pk]), {"words": " "}
            ).status_code,
            422,
        )
        assistant = User.objects.create_user(
            "oz", password=None, school=self.user.school, role=Role.ASSISTANT
        )
        self.client.force_login(assistant)
        self.assertNotContains(self.client.get(page), "Hurries.")
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.get(page).status_code, 404)

    def test_the_same_person_in_another_class_is_named_by_number_or_address(self):
        other = Course.objects.create(school=self.user.school, name="Friday class", term="Spring")
        Student.objects.create(course=other, name="A. Shore", number="S7")
        Student.objects.filter(pk=self.ada.pk).update(number="S7")
        page = self.client.get(reverse("student-record", args=[self.ada.pk]))
        self.assertContains(page, "Friday class, Spring")

    def test_as_many_questions_to_the_database_for_three_pieces_as_for_one(self):
        self.give(self.ada, 0, 61.0, rim_cover=4.0)
        page = reverse("student-record", args=[self.ada.pk])
        self.client.get(page)
        with self.assertNumQueries(FEW):
            self.client.get(page)
        self.give(self.ada, 1, 61.0, rim_cover=4.0, height_ratio=3.0)
        self.give(self.ada, 2, 61.0, rim_cover=4.0)
        with self.assertNumQueries(FEW):
            self.client.get(page)


FEW = 10  # questions of a student's page


class OwnRecords(Term):
    def setUp(self):
        super().setUp()
        self.client.post(reverse("record-link", args=[self.ada.pk]), {"do": "make"})
        self.link = RecordLink.objects.get()
        self.page = reverse("own-record", args=[self.link.key])

    def test_returned_pieces_alone_and_nothing_private(self):
        self.returned(self.ada, 0, 61.0, rim_cover=4.0)
        self.give(self.ada, 1, 77.0)
        self.returned(self.bo, 2, 88.0)
        Note.objects.create(student=self.ada, words="Hurries.", made_by=self.user)
        self.client.logout()
        page = self.client.get(self.page)
        self.assertSays(page, "<b>61</b> of 100")
        for hidden in ("<b>77<", "<b>88<", "Hurries", "Bo Strand", "Bowl"):
            self.assertNotContains(page, hidden)

    def test_a_withdrawn_sheet_is_not_shown_nor_its_picture(self):
        piece = self.returned(self.ada, 0, 61.0)
        ReturnSheet.objects.update(withdrawn_at=timezone.now())
        self.assertNotContains(self.client.get(self.page), "of 100")
        picture = reverse("own-record-picture", args=[self.link.key, piece.pk])
        self.assertEqual(self.client.get(picture).status_code, 404)

    def test_a_withdrawn_link_says_so_and_a_replaced_one_too(self):
        self.client.post(reverse("record-link", args=[self.ada.pk]), {"do": "make"})
        self.assertContains(self.client.get(self.page), "withdrawn", status_code=410)
        newer = RecordLink.objects.get(withdrawn_at=None)
        self.client.post(reverse("record-link", args=[self.ada.pk]), {"do": "withdraw"})
        address = reverse("own-record", args=[newer.key])
        self.assertContains(self.client.get(address), "withdrawn", status_code=410)
        self.assertEqual(self.client.get(reverse("own-record", args=["no-such"])).status_code, 404)

    def test_somebody_elses_picture_is_not_there(self):
        other = self.returned(self.bo, 0, 61.0)
        picture = reverse("own-record-picture", args=[self.link.key, other.pk])
        self.assertEqual(self.client.get(picture).status_code, 404)


class ClassPictures(Term):
    def test_the_dearest_rule_first_with_its_pieces(self):
        self.give(self.ada, 0, 60.0, rim_cover=2.0, height_ratio=9.5)
        self.give(self.bo, 0, 70.0, rim_cover=6.0, height_ratio=8.0)
        picture = class_picture(self.course)
        rim, height = picture.missed
        self.assertEqual([p.student_name for p in rim.pieces], ["Ada Shore", "Bo Strand"])
        # weights are equal: 8 and 4 of ten lost at half the weight are 40 and 20 of 100
        self.assertAlmostEqual(rim.missed.lost, 30)
        self.assertEqual([p.student_name for p in height.pieces], ["Bo Strand"])
        self.assertIn("2 of 2 pieces (100", picture.again[0].sentences[0])

    def test_before_and_after_a_lesson(self):
        for student, before, after in ((self.ada, 4.0, 8.0), (self.bo, 6.0, 9.0)):
            self.give(student, 0, 60.0, rim_cover=before)
            self.give(student, 2, 60.0, rim_cover=after)
        day = (self.start + timedelta(days=7)).date()
        told = {"name": "Rims", "taught_on": day.isoformat(), "about": "finish"}
        self.client.post(reverse("lesson", args=[self.course.pk]), told)
        (taught,) = class_picture(self.course).lessons
        self.assertEqual((taught.change.before, taught.change.after, taught.students), (5, 8.5, 2))
        page = self.client.get(reverse("class-picture", args=[self.course.pk]))
        self.assertSays(page, "mean mark 5.0 of 10 before, 8.5 after")
        remove = {"remove": Lesson.objects.get().pk}
        self.client.post(reverse("lesson", args=[self.course.pk]), remove)
        self.assertFalse(Lesson.objects.exists())

    def test_a_lesson_without_a_day_is_told_and_what_was_typed_stays(self):
        told = {"name": "Rims", "taught_on": "soon", "about": "finish"}
        answer = self.client.post(reverse("lesson", args=[self.course.pk]), told)
        self.assertContains(answer, 'value="Rims"', status_code=422)

    def test_the_page_on_paper(self):
        self.give(self.ada, 0, 60.0, rim_cover=2.0)
        paper = printed(self.client.post(reverse("class-picture-pdf", args=[self.course.pk])))
        words = " ".join(text_of(paper).split())
        self.assertIn("Class picture of", words)
        self.assertIn("What to teach again", words)

    def test_a_class_without_marks_says_what_to_do(self):
        page = self.client.get(reverse("class-picture", args=[self.course.pk]))
        self.assertSays(page, "No mark is given in this class yet")

    def test_as_many_questions_for_six_pieces_as_for_one(self):
        page = reverse("class-picture", args=[self.course.pk])
        self.give(self.ada, 0, 60.0, rim_cover=2.0)
        self.client.get(page)
        with self.assertNumQueries(FEW_OF_A_CLASS):
            self.client.get(page)
        for n in range(3):
            self.give(self.bo, n, 60.0, rim_cover=2.0, height_ratio=4.0)
        with self.assertNumQueries(FEW_OF_A_CLASS):
            self.client.get(page)

    def test_two_classes_beside_one_another(self):
        other = Course.objects.create(school=self.user.school, name="Friday class", term="Autumn")
        student = Student.objects.create(course=other, name="Cy Reef")
        brief = Brief.objects.get(pk=self.brief.pk)
        brief.pk, brief._state.adding, brief.course = None, True, other
        brief.save()
        brief.give_pieces()
        piece = Piece.objects.get(student=student)
        given_mark(piece, self.user, 90.0, rim_cover=9.0)
        self.give(self.ada, 0, 60.0, rim_cover=2.0)
        self.give(self.bo, 0, 70.0, rim_cover=4.0)
        courses = list(Course.objects.filter(school=self.user.school).order_by("name"))
        found = compare(courses, f"class:{self.course.pk}", f"class:{other.pk}")
        self.assertEqual((found.change.before, found.change.after), (65, 90))
        self.assertEqual(found.families, (("Finish", 3.0, 9.0),))
        self.assertIsNone(compare(courses, f"class:{self.course.pk}", "class:0"))
        asked = {"this": f"class:{self.course.pk}", "with": f"class:{other.pk}"}
        self.assertSays(self.client.get(reverse("records"), asked), "Mean mark 65.0 of 100")


FEW_OF_A_CLASS = 9  # questions of a class picture


class Levels(Term):
    def test_the_levels_that_ship_and_one_of_the_schools_own(self):
        page = self.client.get(reverse("levels"))
        self.assertSays(page, "beginner")
        told = {"name": "first year", "asks_for": "One line.\nOne bloom.", "shown_only": ["steps"]}
        self.client.post(reverse("levels"), told)
        own = Level.objects.get(name="first year")
        self.assertEqual(
            (own.asks, own.shown, own.place), (["One line.", "One bloom."], ["steps"], 4)
        )
        twice = self.client.post(reverse("levels"), told)
        self.assertContains(twice, "There is a level called first year already", status_code=422)
        self.client.post(reverse("level", args=[own.pk]), {"do": "remove"})
        self.assertFalse(Level.objects.filter(pk=own.pk).exists())

    def test_a_level_of_another_school_is_not_there(self):
        other = levels_of(self.stranger.school)[0]
        self.assertEqual(self.client.get(reverse("level", args=[other.pk])).status_code, 404)
        answer = self.client.post(reverse("student-level", args=[self.ada.pk]), {"level": other.pk})
        self.assertEqual(answer.status_code, 404)

    def test_what_is_only_shown_carries_no_marks_in_a_real_piece(self):
        piece = photographed(self.brief, self.user)
        level = levels_of(self.user.school)[0]
        self.client.post(reverse("student-level", args=[piece.student_id]), {"level": level.pk})
        piece = Piece.objects.get(pk=piece.pk)
        confirm_handles(piece.photograph, self.user)
        accept_marks(piece, self.user)
        lines = {x.rule: x for x in MarkLine.objects.filter(mark__piece=piece)}
        shown = set(level.shown) & set(lines)
        self.assertTrue(shown)
        self.assertEqual({lines[code].share for code in shown}, {0.0})
        self.assertTrue(any(lines[code].score is not None for code in shown))
        self.assertAlmostEqual(sum(x.share for x in lines.values()), 1)
        issue_sheet(piece, self.user)
        page = self.client.get(reverse("student-record", args=[piece.student_id]))
        self.assertSays(page, "shown, not marked yet")
        self.assertSays(page, "Step card: beginner")


class Lines(SchoolTestCase):
    def test_rows_say_what_the_verdict_says(self):
        piece = photographed(self.brief, self.user)
        confirm_handles(piece.photograph, self.user)
        piece.overrides.create(rule="rim-softened", score=3.0, reason="Bare.", made_by=self.user)
        mark = accept_marks(Piece.objects.get(pk=piece.pk), self.user)
        rows = {x.rule: x for x in mark.lines.all()}
        self.assertEqual(len(rows), len(mark.verdict["lines"]))
        rim = rows["rim-softened"]
        self.assertEqual((rim.score, rim.spoken, rim.family), (3.0, True, "finish"))
        height = rows["visible-height"]
        self.assertEqual((height.low, height.measure), (1.5, "governing_ratio"))
        self.assertGreater(height.uncertainty, 0)
        # accepted again, there is one set of rows
        accept_marks(Piece.objects.get(pk=piece.pk), self.user)
        self.assertEqual(MarkLine.objects.filter(mark=mark).count(), len(rows))
