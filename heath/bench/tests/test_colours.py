import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from heath.assessment.models import Correction, Piece
from heath.assessment.reading import read
from heath.testing import SchoolTestCase, done, photographed
from juniper.camera import frame
from juniper.colour import flowers_of
from juniper.colour.formats import read as read_palette


class Colours(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def now(self):
        return read(Piece.objects.get(pk=self.piece.pk))

    def tint(self, **change):
        every = {"tint": "name", "at": None, "which": None, "to": None, "name": None} | change
        gesture = f"{Correction.objects.count():024x}"
        return self.client.post(
            reverse("change", args=[self.piece.pk]),
            {"change": json.dumps(every), "gesture": gesture},
        )

    def flowers(self):
        return [s for s in self.now().scene.palette if s.part == "flower"]

    def test_the_bench_shows_the_circle_the_parts_and_the_scheme(self):
        answer = self.client.get(reverse("bench", args=[self.piece.pk]))
        chief = self.flowers()[0]
        self.assertContains(answer, f"<b>{chief.name}</b>")
        self.assertContains(
            answer, "artists&#x27; circle" if "artists&#x27;" in answer.text else "artists' circle"
        )
        self.assertContains(answer, f"Reads as <b>{self.now().findings.scheme.name}</b>")
        self.assertContains(answer, 'filter id="deutan"')

    def test_colours_are_set_right_kept_and_undone(self):
        before = len(self.flowers())
        self.assertEqual(self.tint(tint="merge", which=2, to=1).status_code, 200)
        self.assertEqual(len(self.flowers()), before - 1)
        self.tint(tint="name", which=1, name="harbour red")
        self.assertEqual(self.flowers()[0].name, "harbour red")
        made = Correction.objects.get(what__tint="name")
        self.assertEqual((made.words, made.made_by), ("Colour called harbour red", self.user))
        self.client.post(reverse("undo", args=[self.piece.pk]))
        self.client.post(reverse("undo", args=[self.piece.pk]))
        self.assertEqual(len(self.flowers()), before)

    def test_what_makes_no_sense_is_refused_and_not_kept(self):
        for change in (
            {"tint": "dye", "which": 1},
            {"tint": "neutral"},
            {"tint": "name", "which": 1, "name": "x" * 500},
            {"tint": "neutral", "at": [1e7, 3]},
        ):
            self.assertEqual(self.tint(**change).status_code, 400, change)
        self.assertContains(self.tint(tint="split", which=30), "no longer in the palette")
        self.assertFalse(Correction.objects.exists())

    def test_a_white_spot_changes_the_colours(self):
        where = self.now()
        self.tint(tint="neutral", at=[40, 40])
        self.assertNotEqual(
            [s.lab for s in self.flowers()],
            [s.lab for s in where.scene.palette if s.part == "flower"],
        )

    def test_palettes_are_taken_along_and_read_again(self):
        for suffix in ("gpl", "csv", "svg"):
            answer = self.client.get(reverse("palette", args=[self.piece.pk, suffix]))
            self.assertIn("attachment", answer["Content-Disposition"])
            self.assertEqual(
                [c.hex for c in read_palette(answer.text)],
                [s.chip for s in flowers_of(self.flowers())],
            )

    def test_a_brief_wishes_for_a_palette_from_a_file_or_a_photograph(self):
        where = reverse("brief-palette", args=[self.brief.pk])
        text = b"GIMP Palette\n#\n181 32 42\tharbour red\n55 99 180\tsea\n"
        self.client.post(where, {"file": SimpleUploadedFile("evening.gpl", text)})
        self.brief.refresh_from_db()
        self.assertEqual(
            self.brief.wished,
            [{"name": "harbour red", "hex": "#b5202a"}, {"name": "sea", "hex": "#3763b4"}],
        )
        answer = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertContains(answer, "harbour red")
        refused = self.client.post(
            where,
            {"file": SimpleUploadedFile("evening.gpl", b"GIMP Palette\n#\n999 1 1\n")},
            follow=True,
        )
        self.assertContains(refused, "Line 3 is no colour")
        done(self.client.post(where, {"file": SimpleUploadedFile("piece.jpg", frame(4).jpeg)}))
        self.brief.refresh_from_db()
        self.assertEqual(
            {w["name"] for w in self.brief.wished} & {"yellow", "gold", "red", "blue"},
            {w["name"] for w in self.brief.wished},
        )
        wrong = done(self.client.post(where, {"file": SimpleUploadedFile("a.jpg", b"no picture")}))
        self.assertIn("not a photograph", wrong.fault)
        self.client.post(where, {"none": "1"})
        self.brief.refresh_from_db()
        self.assertEqual(self.brief.wished, [])

    def test_the_split_is_the_briefs_own(self):
        before = self.now().findings["colour_split"]
        type(self.brief).objects.filter(pk=self.brief.pk).update(split="40 : 30 : 30")
        after = self.now().findings["colour_split"]
        self.assertIn("held against 40, 30, 30", after.arithmetic)
        self.assertNotEqual(before.value, after.value)
        self.assertContains(
            self.client.get(reverse("bench", args=[self.piece.pk])), "M0-4H300M120.0-9V1M210.0-9V1"
        )

    def test_another_school_sees_nothing_of_it(self):
        self.client.force_login(self.stranger)
        self.assertEqual(
            self.client.get(reverse("palette", args=[self.piece.pk, "csv"])).status_code, 404
        )
        self.assertEqual(
            self.client.post(
                reverse("brief-palette", args=[self.brief.pk]), {"none": "1"}
            ).status_code,
            404,
        )
