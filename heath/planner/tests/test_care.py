import io

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from pypdf import PdfReader

from heath.bench.accepting import accept_marks
from heath.people.models import School
from heath.planner.models import OwnMaterial, Plan
from heath.returns.issuing import issue_sheet
from heath.testing import SchoolTestCase, photographed, printed
from juniper.planning.materials import as_csv, catalogue

A6 = (298, 420)  # points (ISO 216: 105 by 148 mm)


class Care(SchoolTestCase):
    def test_nothing_is_made_up_without_a_recipe(self):
        self.assertContains(
            self.client.get(reverse("care", args=[self.brief.pk])), "recipe</a> first"
        )
        self.assertEqual(
            self.client.post(reverse("care-pdf", args=[self.brief.pk])).status_code, 404
        )

    def test_a_card_for_each_piece_on_a6_and_the_days_in_a_calendar(self):
        Plan.objects.create(
            brief=self.brief, items=[{"slug": "tulip", "role": "mass", "colour": "red", "stems": 7}]
        )
        page = self.client.get(reverse("care", args=[self.brief.pk]), {"made": "2026-11-26"})
        self.assertContains(page, "Sat 28 Nov")
        self.assertContains(page, "tulip leans to the light")
        document = PdfReader(
            io.BytesIO(printed(self.client.post(reverse("care-pdf", args=[self.brief.pk]))))
        )
        self.assertEqual(len(document.pages), 2)
        self.assertEqual(tuple(round(v) for v in document.pages[0].mediabox[2:]), A6)
        self.assertIn("Ada Shore", document.pages[0].extract_text())
        days = self.client.get(
            reverse("care-ics", args=[self.brief.pk]), {"made": "2026-11-26"}
        ).content.decode()
        self.assertIn("DTSTART;VALUE=DATE:20261128", days)
        self.assertEqual(
            self.client.get(reverse("care", args=[self.other_brief.pk])).status_code, 404
        )

    def test_the_student_has_it_beside_the_sheet(self):
        Plan.objects.create(
            brief=self.brief, items=[{"slug": "tulip", "role": "mass", "colour": "red", "stems": 7}]
        )
        piece = photographed(self.brief, self.user)
        accept_marks(piece, self.user)
        issue_sheet(piece, self.user)
        self.client.logout()
        own = piece.sheets.last().key
        self.assertContains(self.client.get(reverse("own-sheet", args=[own])), "Aftercare card")
        made = self.client.post(reverse("own-care-pdf", args=[own]))
        self.assertTrue(printed(made).startswith(b"%PDF"))
        self.assertContains(self.client.get(made.url), "It is ready")
        self.assertIn("VEVENT", self.client.get(reverse("own-care", args=[own])).content.decode())
        wrong = self.client.post(reverse("own-care-pdf", args=["x:y"]))
        self.assertEqual(wrong.status_code, 404)
        inside = self.client.post(reverse("piece-care-pdf", args=[piece.pk]))
        self.assertIn("sign-in", inside.url)


class Timer(SchoolTestCase):
    def test_anybody_may_open_it_and_its_worker_keeps_to_its_place(self):
        self.client.logout()
        self.assertContains(self.client.get(reverse("timer")), "Bench timer")
        worker = self.client.get(reverse("timer-worker"))
        self.assertEqual(worker["Content-Type"], "text/javascript; charset=utf-8")
        # what it may keep follows from where it lies
        self.assertEqual(reverse("timer-worker"), "/timer/worker.js")


class Materials(SchoolTestCase):
    ROW = {
        "common": "Sea holly, coast",
        "botanical": "Eryngium maritimum",
        "role": "filler",
        "texture": "medium",
        "across_cm": "5",
        "life_low": "8",
        "life_high": "14",
        "from": "6",
        "to": "9",
        "colours": ["blue", "silver"],
        "cautions": ["thorns"],
        "source": "common practice",
    }

    def test_added_found_and_taken_out(self):
        self.client.post(reverse("materials-add"), self.ROW)
        one = OwnMaterial.objects.get()
        self.assertEqual(
            (one.material.months, one.material.colours), ((6, 7, 8, 9), ("blue", "silver"))
        )
        page = self.client.get(reverse("materials"), {"words": "sea holly"})
        self.assertContains(page, "the school's own")
        self.client.force_login(self.stranger)
        self.assertNotContains(
            self.client.get(reverse("materials"), {"words": "sea holly, coast"}), "maritimum"
        )
        self.assertEqual(
            self.client.post(reverse("materials-remove", args=[one.pk])).status_code, 404
        )
        self.client.force_login(self.user)
        self.client.post(reverse("materials-remove", args=[one.pk]))
        self.assertFalse(OwnMaterial.objects.exists())

    def test_a_fault_is_told_and_what_was_typed_stays(self):
        page = self.client.post(reverse("materials-add"), self.ROW | {"life_low": "20"})
        self.assertContains(page, "its life is a range of days")
        self.assertContains(page, "Eryngium maritimum")
        self.assertContains(
            self.client.post(reverse("materials-add"), self.ROW | {"colours": []}),
            "one colour at least",
        )

    def bring(self, text, name="own.csv"):
        data = text if isinstance(text, bytes) else text.encode()
        return self.client.post(
            reverse("materials-bring"), {"file": SimpleUploadedFile(name, data)}, follow=True
        )

    def test_csv_and_json_in_and_out(self):
        changed = as_csv(catalogue()).replace(
            "rose,Rose,Rosa cultivars,focal,woody,7,6,12",
            "rose,Garden rose,Rosa cultivars,focal,woody,8,4,8",
        )
        self.assertContains(self.bring(changed), "1 materials are now the school")
        self.assertEqual(OwnMaterial.objects.get().material.common, "Garden rose")
        out = self.client.get(reverse("materials-file", args=["json"])).content.decode()
        self.assertIn("Garden rose", out)
        OwnMaterial.objects.all().delete()
        self.bring(out, "own.json")
        self.assertEqual(OwnMaterial.objects.get().material.life, (4, 8))
        own = self.client.get(
            reverse("materials-file", args=["csv"]), {"own": "1"}
        ).content.decode()
        self.assertEqual(len(own.splitlines()), 2)
        self.assertEqual(
            len(self.client.get(reverse("materials-file", args=["json"])).json()), len(catalogue())
        )

    def test_bad_files_take_nothing_in(self):
        wrong = as_csv(catalogue()[:2]) + "x,,Y,focal,wooden,7,6,12,1-12,red,,common practice\n"
        self.assertContains(self.bring(wrong), "Line 4: the common is missing")
        for text, words in (
            (b"\xff\xfe\x00", "not text in UTF-8"),
            ("[1, 2]", "no list of materials"),
            ("a,b\n1,2", "column slug is missing"),
            ("x" * 400_001, "larger than"),
        ):
            self.assertContains(self.bring(text), words)
        self.assertContains(
            self.client.post(reverse("materials-bring"), follow=True), "Choose a file"
        )
        self.assertFalse(OwnMaterial.objects.exists())

    def test_seasons_turn_round_in_the_south(self):
        october = {"words": "Tulipa", "month": "10"}
        self.assertContains(self.client.get(reverse("materials"), october), "No material fits")
        School.objects.filter(pk=self.user.school_id).update(south=True)
        self.assertContains(self.client.get(reverse("materials"), october), "Tulip")

    def test_what_may_stand_near_food(self):
        page = self.client.get(reverse("materials"), {"food": "1"})
        self.assertNotContains(page, "Foxglove")
        self.assertContains(page, "Mint")
