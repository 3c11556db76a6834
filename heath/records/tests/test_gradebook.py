"""The gradebook: the term's mark, late and excused work, corrections, files, the school's list."""

import csv
import io
from datetime import timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from openpyxl import Workbook, load_workbook

from heath.assessment.models import Photograph
from heath.briefs.models import Brief
from heath.classes.models import Course, Student
from heath.classes.people import move, remove
from heath.records.gradebook import book_of
from heath.records.models import Attendance, Gradebook, MarkCorrection, Weight
from heath.records.tests.test_records import Term


class Gradebooks(Term):
    def setUp(self):
        super().setUp()
        self.page = reverse("gradebook", args=[self.course.pk])

    def line(self, student=None):
        one = student or self.ada
        return next(x for x in book_of(self.course).lines if x.student == one)

    def say(self, **what):
        told = {"student": self.ada.pk, "piece": self.piece(self.ada, 0).pk} | what
        return self.client.post(reverse("gradebook-cell", args=[self.course.pk]), told)

    def test_weights_and_the_best_two(self):
        for n, mark in enumerate((60.0, 90.0, 75.0)):
            self.give(self.ada, n, mark)
        told = {
            "best": 2,
            "late_off": 0,
            "pass_mark": 50,
            "awards_of": "classical-line-mass",
            **{f"weight-{b.pk}": w for b, w in zip(self.briefs, (1, 3, 1), strict=True)},
        }
        self.client.post(self.page, told)
        self.assertAlmostEqual(self.line().mark, (3 * 90 + 75) / 4)
        self.assertEqual(self.line().award, "distinction")
        self.assertEqual([c.use for c in self.line().cells], ["dropped", "counted", "counted"])

    def test_a_weight_that_is_none_is_told_and_what_was_typed_stays(self):
        told = {"late_off": 0, "pass_mark": 50, "awards_of": "classical-line-mass"}
        told |= {f"weight-{b.pk}": 1 for b in self.briefs} | {f"weight-{self.brief.pk}": "much"}
        answer = self.client.post(self.page, told)
        self.assertContains(answer, "Weight of Column", status_code=422)
        self.assertContains(answer, 'value="much"', status_code=422)
        self.assertFalse(Weight.objects.exists() or Gradebook.objects.exists())

    def test_late_by_the_closing_time_unless_the_instructor_says_otherwise(self):
        Gradebook.objects.create(course=self.course, late_off=10)
        piece = self.give(self.ada, 0, 80.0)
        Photograph.objects.filter(piece=piece).update(
            added_at=self.briefs[0].closes_at + timedelta(minutes=1)
        )
        self.assertEqual((self.line().cells[0].came, self.line().mark), ("late", 70))
        self.say(do="came", came="on time", reason="The bus")
        self.assertEqual((self.line().cells[0].came, self.line().mark), ("on time", 80))
        self.say(do="came", came="")
        self.assertFalse(Attendance.objects.exists())
        self.assertEqual(self.line().cells[0].came, "late")

    def test_excused_needs_a_reason_and_is_left_out(self):
        self.give(self.ada, 0, 20.0)
        self.give(self.ada, 1, 80.0)
        answer = self.say(do="came", came="excused", reason="")
        self.assertContains(answer, "Write the reason", status_code=422)
        self.say(do="came", came="excused", reason="Ill")
        self.assertEqual(self.line().mark, 80)

    def test_missing_after_the_closing_time_counts_as_nought_where_that_is_set(self):
        self.give(self.ada, 0, 80.0)
        self.assertEqual(self.line().mark, 80)
        self.assertEqual([c.came for c in self.line().cells], ["on time", "missing", "missing"])
        Gradebook.objects.create(course=self.course, missing_is_nought=True)
        self.assertAlmostEqual(self.line().mark, 80 / 3)

    def test_a_correction_keeps_its_reason_and_can_be_taken_back(self):
        self.give(self.ada, 0, 60.0)
        for mark, reason, words in (
            ("", "Recount", "Write the corrected mark"),
            ("120", "Recount", "from 0 to 100"),
            ("64", "", "Write the reason"),
        ):
            answer = self.say(do="correct", mark=mark, reason=reason)
            self.assertContains(answer, words, status_code=422)
        self.say(do="correct", mark="64", reason="Recount")
        self.say(do="correct", mark="66", reason="Recount again")
        self.assertEqual(self.line().mark, 66)
        self.assertEqual(MarkCorrection.objects.count(), 2)
        self.say(do="take back")
        self.assertEqual(self.line().mark, 60)
        self.assertEqual(MarkCorrection.objects.filter(taken_back=True).count(), 2)

    def test_the_terms_mark_may_be_corrected_too(self):
        self.give(self.ada, 0, 60.0)
        self.say(do="correct", piece="", mark="49.6", reason="Appeal")
        self.assertEqual((self.line().worked_out, self.line().mark), (60, 49.6))
        self.assertEqual(self.line().award, "")  # 49.6 is under "pass" from 50 on
        self.assertContains(self.client.get(self.page), "corrected from 60.0")

    def test_somebody_elses_piece_or_class_is_not_there(self):
        self.assertEqual(
            self.say(
                do="correct", piece=self.piece(self.bo, 0).pk, mark=1, reason="no"
            ).status_code,
            404,
        )
        other = Student.objects.get(course=self.other_brief.course, name="Ada Shore")
        self.assertEqual(self.say(do="take back", student=other.pk, piece="").status_code, 404)

    def test_removed_and_moved_students_stay_with_what_they_made(self):
        self.give(self.ada, 0, 60.0)
        self.give(self.bo, 0, 70.0)
        remove(self.ada)
        other = Course.objects.create(school=self.user.school, name="Friday class")
        move(self.bo, other)
        book = book_of(self.course)
        self.assertEqual(
            {(x.student.name, x.mark, x.here) for x in book.lines},
            {("Ada Shore", 60.0, False), ("Bo Strand", 70.0, False)},
        )
        self.assertContains(self.client.get(self.page), "not in the class now")

    def test_a_brief_moved_to_another_class_goes_with_its_marks(self):
        self.give(self.ada, 0, 60.0)
        other = Course.objects.create(school=self.user.school, name="Friday class")
        Brief.objects.filter(pk=self.brief.pk).update(course=other)
        (line,) = (x for x in book_of(other).lines if x.student == self.ada)
        self.assertEqual((line.mark, line.here), (60, False))
        self.assertIsNone(self.line().mark)

    def test_hidden_names_keep_marks_out_of_the_book(self):
        self.give(self.ada, 0, 60.0)
        Brief.objects.filter(pk=self.brief.pk).update(names_hidden=True)
        self.assertIsNone(self.line().mark)
        self.assertContains(self.client.get(self.page), "names hidden")

    def rows(self, layout, suffix="csv"):
        answer = self.client.get(reverse("gradebook-file", args=[self.course.pk, layout, suffix]))
        self.assertEqual(answer.status_code, 200)
        return answer.content

    def test_both_layouts_in_both_formats_say_the_same(self):
        Student.objects.filter(pk=self.ada.pk).update(number="S7", name="=Ada")
        piece = self.give(self.ada, 0, 60.5, rim_cover=4.0)
        for layout, many in (("students", 2), ("marks", 6)):
            table = list(csv.reader(io.StringIO(self.rows(layout).decode("utf-8-sig"))))
            self.assertEqual(len(table), many + 1)
            book = load_workbook(io.BytesIO(self.rows(layout, "xlsx")))
            sheet = [["" if c is None else str(c) for c in r] for r in book.active.values]
            self.assertEqual(
                [[c.removesuffix(".0") for c in r] for r in sheet],
                [[c.removesuffix(".0") for c in r] for r in table],
            )
            self.assertIn("'=Ada", [row[2] for row in table])  # no formula
        marks = csv.DictReader(io.StringIO(self.rows("marks").decode("utf-8-sig")))
        own = next(row for row in marks if row["Piece id"] == str(piece.pk))
        self.assertEqual(
            (own["Student number"], own["Mark of 100"], own["Finish"], own["Award"]),
            ("S7", "60.5", "4.0", "pass"),
        )

    def test_as_many_questions_for_two_students_as_for_twelve(self):
        self.give(self.ada, 0, 60.0)
        self.client.get(self.page)
        with self.assertNumQueries(FEW):
            self.client.get(self.page)
        for n in range(10):
            Student.objects.create(course=self.course, name=f"Cy Reef {n}")
        for brief in self.briefs:
            brief.give_pieces()
        self.give(self.bo, 0, 60.0)
        with self.assertNumQueries(FEW):
            self.client.get(self.page)


FEW = 11  # questions of a gradebook


class SchoolLists(Term):
    def send(self, text, name="list.csv"):
        data = text.encode() if isinstance(text, str) else text
        return self.client.post(
            reverse("school-list", args=[self.course.pk]), {"file": SimpleUploadedFile(name, data)}
        )

    def test_known_by_name_then_by_address_then_by_number(self):
        self.send("name,e-mail,number\nAda Shore,ada@reef.test,S1\nBo Strand,,S2\n")
        self.send("name,e-mail,number\nAda Zennor,ADA@reef.test,\nBob Strand,bo@reef.test,S2\n")
        self.assertEqual(
            set(self.course.students.values_list("name", "email", "number")),
            {("Ada Zennor", "ADA@reef.test", "S1"), ("Bob Strand", "bo@reef.test", "S2")},
        )

    def test_two_students_may_swap_their_names(self):
        self.send("name,number\nAda Shore,S1\nBo Strand,S2\n")
        self.send("name,number\nBo Strand,S1\nAda Shore,S2\n")
        self.assertEqual(Student.objects.get(pk=self.ada.pk).name, "Bo Strand")

    def test_the_same_address_or_number_twice_is_named_by_its_line_and_changes_nothing(self):
        for text, words in (
            ("name,e-mail\nAda Shore,x@reef.test\nBo Strand,X@reef.test\n", "in line 2 already"),
            ("name,number\nAda Shore,7\nBo Strand,7\n", "the number 7 is in line 2 already"),
            ("name\nAda Shore\nBo Strand\n", "neither numbers nor e-mail addresses"),
            ("name,number\nAda Shore,1\nAda Shore,2\n", "in line 2 already"),
            ("name,number\nAda Shore," + "9" * 41 + "\n", "40 is the most"),
        ):
            self.assertContains(self.send(text), words, status_code=422)
        self.assertEqual(set(self.course.students.values_list("number", "email")), {("", "")})

    def test_a_number_that_another_student_of_the_class_has_is_refused(self):
        Student.objects.filter(pk=self.bo.pk).update(number="S9", email="bo@reef.test")
        answer = self.send(
            "name,e-mail,number\nAda Shore,bo2@reef.test,S1\nCy Reef,bo@reef.test,S1\n"
        )
        self.assertContains(answer, "line 2 already", status_code=422)
        answer = self.send("name,number,e-mail\nAda Shore,S9,new@reef.test\n")
        self.assertContains(answer, "would have the same name", status_code=422)

    def test_who_is_not_in_the_class_is_named_and_nobody_is_added(self):
        answer = self.send("name,number\nAda Shore,S1\nZed Wrack,S3\n")
        self.assertEqual(answer.url, reverse("gradebook", args=[self.course.pk]))
        page = self.client.get(reverse("gradebook", args=[self.course.pk]))
        self.assertContains(page, "Not in this class: Zed Wrack")
        self.assertEqual(self.course.students.count(), 2)

    def test_a_spreadsheet_is_read_as_well_and_a_broken_one_told(self):
        book = Workbook()
        book.active.append(["Name", "Number"])
        book.active.append(["Ada Shore", 1207])
        out = io.BytesIO()
        book.save(out)
        self.send(out.getvalue(), "list.xlsx")
        self.assertEqual(Student.objects.get(pk=self.ada.pk).number, "1207")
        self.assertContains(
            self.send(b"PK\x03\x04broken", "list.xlsx"), "cannot be read", status_code=422
        )
        self.assertContains(self.send(b"\xff\0\0", "list.csv"), "neither text nor", status_code=422)
