import io
import threading
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TransactionTestCase
from django.urls import reverse
from django.utils import timezone
from PIL import Image
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment.models import Photograph, Piece
from heath.assessment.photographs import add_photograph, see_photograph
from heath.testing import SchoolTestCase, look_at_arrivals, picture, school


class Adding(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.piece = self.brief.pieces.first()

    def add(self, data, name="piece.jpg"):
        """Add a photograph; the answer, and the wall once it was read."""
        upload = SimpleUploadedFile(name, data)
        answer = self.client.post(
            reverse("photograph-add", args=[self.piece.pk]),
            {"photograph": upload},
            headers={"HX-Request": "true"},
        )
        look_at_arrivals()
        wall = self.client.get(reverse("brief", args=[self.brief.pk]))
        return answer if answer.status_code == 404 else wall

    def test_a_photograph_is_kept_and_set_to_be_measured(self):
        answer = self.add(picture().data)
        self.assertContains(answer, "being measured")
        kept = Photograph.objects.get()
        self.assertEqual((kept.width, kept.height, kept.added_by), (900, 1200, self.user))
        self.assertEqual(
            ProcrastinateJob.objects.filter(task_name="assessment.measure_photograph").count(), 1
        )
        see_photograph(kept)
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.MARKING)
        self.assertContains(
            self.client.get(reverse("brief", args=[self.brief.pk])), 'title="Ada Shore">Mark'
        )
        shown = self.client.get(reverse("photograph", args=[kept.pk]))
        self.assertEqual(
            Image.open(io.BytesIO(b"".join(shown.streaming_content))).size, (900, 1200)
        )

    def test_what_is_no_photograph_is_refused_in_words_and_changes_nothing(self):
        whole = picture().data
        for data, words in (
            (b"plain text", "not a photograph"),
            (whole[: len(whole) // 2], "cut short"),
        ):
            self.assertContains(self.add(data), words)
        self.assertContains(
            self.client.post(
                reverse("photograph-add", args=[self.piece.pk]), headers={"HX-Request": "true"}
            ),
            "No file came",
        )
        with mock.patch("heath.assessment.photographs.LARGEST_BYTES", 1000):
            self.assertContains(self.add(whole), "MB; ")
        self.assertFalse(Photograph.objects.exists())
        self.assertEqual(Piece.objects.get(pk=self.piece.pk).state, Piece.State.WAITING)

    def test_without_scripts_the_brief_says_what_is_wrong(self):
        answer = self.client.post(
            reverse("photograph-add", args=[self.piece.pk]),
            {"photograph": SimpleUploadedFile("x.jpg", b"no")},
        )
        self.assertRedirects(answer, reverse("brief", args=[self.brief.pk]))
        waits = self.client.get(reverse("brief", args=[self.brief.pk]))
        self.assertContains(waits, "being read")
        look_at_arrivals()
        self.assertContains(self.client.get(answer.url), "not a photograph")

    def test_locked_marks_take_no_photograph(self):
        self.brief.locked_at = timezone.now()
        self.brief.save()
        answer = self.client.post(
            reverse("photograph-add", args=[self.piece.pk]),
            {"photograph": SimpleUploadedFile("x.jpg", picture().data)},
            headers={"HX-Request": "true"},
        )
        self.assertContains(answer, "marks of this brief are locked")
        self.assertFalse(self.piece.arrivals.exists())

    def test_nothing_in_the_picture(self):
        out = io.BytesIO()
        Image.new("RGB", (700, 900), (180, 178, 170)).save(out, "JPEG")
        self.add(out.getvalue())
        see_photograph(Photograph.objects.get())
        wall = self.client.get(reverse("brief", args=[self.brief.pk]))
        self.assertContains(wall, "photograph not usable")
        self.assertContains(wall, "plain wall")

    def test_the_same_again_and_an_earlier_one_back(self):
        first, second = picture().data, picture(0).data
        self.add(first)
        self.assertContains(self.add(first), "is here already")
        self.assertContains(self.add(second), "the earlier one is kept")
        self.assertEqual(Photograph.objects.count(), 2)
        self.assertContains(self.add(first), "is used again")
        self.assertEqual(Photograph.objects.filter(current=True).count(), 1)

    def test_other_schools_pieces_are_not_found(self):
        self.client.force_login(self.stranger)
        self.assertEqual(self.add(picture().data).status_code, 404)


class AtOnce(TransactionTestCase):
    def test_two_uploads_at_once_keep_both_and_show_one(self):
        user, brief = school()
        piece = brief.pieces.first()
        faults = []

        def add(number):
            try:
                add_photograph(Piece.objects.get(pk=piece.pk), picture(number).data, "a.jpg", user)
            except Exception as error:  # carried to the main thread
                faults.append(error)
            finally:
                connection.close()

        picture(0), picture(30)
        threads = [threading.Thread(target=add, args=(n,)) for n in (0, 30)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(faults, [])
        self.assertEqual(Photograph.objects.filter(piece=piece).count(), 2)
        self.assertEqual(Photograph.objects.filter(piece=piece, current=True).count(), 1)
