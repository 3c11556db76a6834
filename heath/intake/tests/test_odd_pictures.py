import io

import numpy as np
import pillow_heif
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from heath.assessment.models import Photograph, Piece
from heath.assessment.photographs import see_photograph
from heath.testing import SchoolTestCase, look_at_arrivals, picture


class OddPictures(SchoolTestCase):
    """One photograph in every dress it may arrive in: each is measured, or refused in words."""

    def send(self, data, name):
        piece = self.brief.pieces.first()
        self.client.post(
            reverse("photograph-add", args=[piece.pk]),
            {"photograph": SimpleUploadedFile(name, data)},
            headers={"HX-Request": "true"},
        )
        look_at_arrivals()
        return self.client.get(reverse("brief", args=[self.brief.pk]))

    def packed(self, image, kind, **options):
        out = io.BytesIO()
        image.save(out, kind, **options)
        return out.getvalue()

    def test_each_dress_is_measured_alike(self):
        pillow_heif.register_heif_opener()
        whole = Image.open(io.BytesIO(picture().data))
        sideways = Image.Exif()
        sideways[0x0112] = 6
        truth = picture().truth["findings"]["height_ratio"]
        for name, data in (
            ("phone.heic", self.packed(whole, "HEIF", quality=85)),
            ("piece.webp", self.packed(whole, "WEBP", quality=90)),
            ("piece.png", self.packed(whole, "PNG")),
            (
                "turned.jpg",
                self.packed(
                    whole.transpose(Image.Transpose.ROTATE_90), "JPEG", exif=sideways, quality=92
                ),
            ),
            ("print.jpg", self.packed(whole.convert("CMYK"), "JPEG", quality=95)),
            ("clear.png", self.packed(whole.convert("RGBA"), "PNG")),
            ("few.png", self.packed(whole.convert("P", palette=Image.Palette.ADAPTIVE), "PNG")),
        ):
            with self.subTest(name):
                self.assertContains(self.send(data, name), "being measured")
                kept = Photograph.objects.first()
                see_photograph(kept)
                self.assertEqual((kept.width, kept.height), (900, 1200))
                self.assertEqual(kept.fault, "")
                datum, raster = kept.core_scene().datum, kept.core_raster()
                ys = np.nonzero((raster.labels == 3).any(axis=1))[0]
                ratio = (datum.rim[1] - ys[0] / raster.scale) / datum.height
                self.assertAlmostEqual(ratio, truth, delta=0.2 * truth)

    def test_grey_is_measured_and_its_colours_are_not(self):
        self.send(
            self.packed(Image.open(io.BytesIO(picture().data)).convert("L"), "JPEG"), "grey.jpg"
        )
        kept = Photograph.objects.get()
        see_photograph(kept)
        piece = Piece.objects.get(pk=kept.piece_id)
        if not kept.fault:
            page = self.client.get(reverse("bench", args=[piece.pk]))
            self.assertContains(page, "not measured")
        board = self.client.get(reverse("intake", args=[piece.brief_id]))
        self.assertContains(board, "no colour")

    def test_names_of_files_never_reach_a_path_or_page_unescaped(self):
        answer = self.send(picture().data, '../../"><script>alert(1)</script>.jpg')
        self.assertNotContains(answer, "<script>alert")
        self.assertRegex(Photograph.objects.get().full.name, r"^full/[\w-]+\.jpg$")

    def test_what_cannot_be_used_is_said_on_the_wall(self):
        bomb = io.BytesIO()
        Image.new("1", (9000, 9000)).save(bomb, "PNG")
        for data, words in (
            (bomb.getvalue(), "81 megapixels"),
            (b"\xff\xd8\xff\xe0" + b"\0" * 900, "not a photograph|damaged"),
            (self.packed(Image.new("RGB", (120, 120)), "PNG"), "only 120 by 120"),
            (b"GIF89a" + b"\0" * 50, "JPEG, PNG, WebP or HEIC"),
        ):
            self.assertRegex(self.send(data, "x.jpg").content.decode(), words)
        self.assertFalse(Photograph.objects.exists())
