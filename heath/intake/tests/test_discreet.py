"""Names that are hidden, and originals that are let go."""

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from heath.intake.arriving import let_originals_go, put_aside
from heath.intake.models import Arrival
from heath.intake.tests.test_arriving import arrive
from heath.testing import SchoolTestCase, photographed, picture


class HiddenNames(SchoolTestCase):
    def setUp(self):
        super().setUp()
        self.piece = photographed(self.brief, self.user)
        self.name = self.piece.student.name
        self.brief.names_hidden = True
        self.brief.save()

    def test_on_the_board_where_photographs_come_in(self):
        arrive(self.brief, picture(11).data, f"{self.name}.jpg", said=self.name)
        arrive(self.brief, picture(11).data, f"{self.name} again.jpg")
        arrive(self.brief, b"none", f"{self.name} none.jpg")
        page = self.client.get(reverse("intake", args=[self.brief.pk]))
        self.assertNotContains(page, self.name)
        self.assertNotContains(page, "Bo Strand")
        self.assertContains(page, f"Piece {self.piece.code[:4]}")
        self.brief.names_hidden = False
        self.brief.save()
        self.assertContains(self.client.get(reverse("intake", args=[self.brief.pk])), self.name)

    def test_on_a_sheet_that_was_issued_before(self):
        self.brief.names_hidden = False
        self.brief.save()
        self.client.post(reverse("accept", args=[self.piece.pk]))
        self.assertContains(
            self.client.post(reverse("return", args=[self.piece.pk]), follow=True), self.name
        )
        self.brief.names_hidden = True
        self.brief.save()
        page = self.client.get(reverse("sheet", args=[self.piece.pk]))
        self.assertNotContains(page, self.name)
        self.assertContains(page, f"Piece {self.piece.code[:4]}")
        self.assertNotIn(
            self.name, self.client.get(reverse("sheet-svg", args=[self.piece.pk])).content.decode()
        )


class Originals(SchoolTestCase):
    def test_what_nobody_sorted_goes_after_its_days(self):
        waits = arrive(self.brief, picture(11).data, "IMG_1.jpg")
        aside = put_aside(arrive(self.brief, picture(12).data, "IMG_2.jpg"))
        young = arrive(self.brief, picture(13).data, "IMG_3.jpg")
        old = timezone.now() - timedelta(days=31)
        Arrival.objects.filter(pk__in=(waits.pk, aside.pk)).update(added_at=old)
        files = [Arrival.objects.get(pk=a.pk).file for a in (waits, aside, young)]
        self.assertEqual(let_originals_go(), 2)
        self.assertEqual([f.storage.exists(f.name) for f in files], [False, False, True])
        waits.refresh_from_db()
        self.assertEqual((waits.state, waits.file.name), (Arrival.State.FAILED, ""))
        page = self.client.get(reverse("intake", args=[self.brief.pk]))
        self.assertSays(page, "Nobody sorted it within 30 days")
        self.assertSays(page, "deleted after 30 days")
        self.assertEqual(let_originals_go(), 0)
