import csv
import io

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from openpyxl import load_workbook

from heath.assessment.models import Piece
from heath.assessment.snapshot import keep_snapshot
from heath.briefs.exporting import HEAD
from heath.briefs.models import Brief
from heath.intake.links import make_link, token
from heath.testing import SchoolTestCase, photographed, picture
from heath.web.tables import plain


class Marks(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def accept(self):
        self.client.post(reverse("accept", args=[self.piece.pk]))

    def names(self, do):
        return self.client.post(
            reverse("brief-names", args=[self.brief.pk]), {"do": do}, follow=True
        )

    def test_csv_and_spreadsheet_hold_the_same(self):
        self.accept()
        answer = self.client.get(reverse("brief-marks", args=[self.brief.pk, "csv"]))
        table = list(csv.reader(io.StringIO(answer.content.decode("utf-8-sig"))))
        self.assertEqual(tuple(table[0]), HEAD)
        self.assertEqual([row[0] for row in table[1:]], ["Ada Shore", "Bo Strand"])
        mark = self.piece.mark
        self.assertAlmostEqual(float(table[1][3]), mark.score, delta=0.051)
        self.assertEqual(table[2][3], "")
        book = load_workbook(
            io.BytesIO(
                self.client.get(reverse("brief-marks", args=[self.brief.pk, "xlsx"])).content
            )
        )

        def same(cell):
            return (
                ""
                if cell is None
                else f"{float(cell):g}"
                if str(cell).replace(".", "", 1).isdigit()
                else str(cell)
            )

        sheet = [[same(c) for c in row] for row in book.active.iter_rows(values_only=True)]
        self.assertEqual(sheet, [[same(c) for c in row] for row in table])
        self.assertEqual(
            self.client.get(reverse("brief-marks", args=[self.other_brief.pk, "csv"])).status_code,
            404,
        )

    def test_few_queries_however_many_pieces(self):
        keep_snapshot(self.piece)
        with self.assertNumQueries(7):
            self.client.get(reverse("brief", args=[self.brief.pk]))
        with self.assertNumQueries(7):
            self.client.get(reverse("brief-marks", args=[self.brief.pk, "csv"]))

    def test_no_cell_is_a_formula(self):
        # OWASP, "CSV injection": cells that begin with = + - @ are run by spreadsheets.
        for cell in ("=1+1", "+1", "-1", "@sum"):
            self.assertEqual(plain(cell), "'" + cell)
        self.assertEqual(plain(-1.5), -1.5)

    def test_names_are_hidden_until_the_marks_are_locked(self):
        self.assertNotContains(self.names("hide"), "Ada Shore")
        page = self.client.get(reverse("brief", args=[self.brief.pk]))
        self.assertNotContains(page, "Ada Shore")
        self.assertContains(page, self.piece.code[:4])
        bench = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertNotContains(bench, "Ada Shore")
        self.assertNotContains(
            self.client.get(reverse("line-up", args=[self.brief.pk])), "Ada Shore"
        )
        self.assertNotContains(self.client.get(reverse("term")), "Ada Shore")
        self.assertContains(self.names("lock"), "not marked yet")
        self.accept()
        refused = self.client.post(reverse("return", args=[self.piece.pk]), follow=True)
        self.assertContains(refused, "Names are hidden until")
        self.assertContains(self.names("lock"), "Ada Shore")
        self.client.post(reverse("return", args=[self.piece.pk]))
        self.assertEqual(self.piece.sheets.count(), 1)

    def test_locked_marks_do_not_change(self):
        self.accept()
        self.names("lock")
        word = {"rule": "visible-height", "score": "3", "reason": "no"}
        answer = self.client.post(reverse("override", args=[self.piece.pk]), word)
        self.assertContains(answer, "are locked")
        self.assertFalse(self.piece.overrides.exists())
        # Nor does a photograph that comes late open a piece again; the class's link has ended.
        late = SimpleUploadedFile("late.jpg", picture(16).data, "image/jpeg")
        sent = self.client.post(
            reverse("photograph-add", args=[self.piece.pk]),
            {"photograph": late},
            headers={"HX-Request": "true"},
        )
        self.assertContains(sent, "are locked")
        removed = self.client.post(
            reverse("photograph-remove", args=[self.piece.photograph.pk]), follow=True
        )
        self.assertContains(removed, "are locked")
        link = token(make_link(self.brief, self.user))
        self.assertSays(
            self.client.get(reverse("student-add", args=[link])),
            "This brief is marked",
            status_code=410,
        )
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.MARKED)
        self.names("unlock")
        self.client.post(reverse("reopen", args=[self.piece.pk]))
        self.client.post(reverse("override", args=[self.piece.pk]), word)
        self.assertTrue(self.piece.overrides.exists())

    def test_a_brief_is_set_again_without_its_pieces(self):
        answer = self.client.post(reverse("brief-copy", args=[self.brief.pk]))
        again = Brief.objects.exclude(pk__in=(self.brief.pk, self.other_brief.pk)).get()
        self.assertRedirects(answer, reverse("brief-change", args=[again.pk]))
        self.assertEqual(
            (again.form, again.scheme, again.rule_set),
            (self.brief.form, self.brief.scheme, self.brief.rule_set),
        )
        self.assertEqual(set(again.pieces.values_list("state", flat=True)), {"waiting"})
        other = self.client.post(
            reverse("brief-copy", args=[self.brief.pk]), {"course": self.other_brief.course_id}
        )
        self.assertEqual(other.status_code, 404)
