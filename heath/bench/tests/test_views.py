"""A piece photographed from more sides: each has its bench, and all of them their say."""

from django.urls import reverse

from heath.assessment.models import Correction, Piece
from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.reading import read
from heath.testing import SchoolTestCase, photographed
from juniper.camera import Shot, frame, take

OTHER = 6  # a piece of other flowers and another height


class Views(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user, 2)
        for view in ("side", "back"):
            picture = take(frame(2, view), Shot())
            photograph, _ = add_photograph(cls.piece, picture.data, f"{view}.jpg", cls.user, view)
            see_photograph(photograph)

    def now(self, view="front"):
        piece = Piece.objects.get(pk=self.piece.pk)
        return read(piece, shown=piece.view(view))

    def test_each_view_is_shown_with_its_own_handles(self):
        page = self.client.get(reverse("bench", args=[self.piece.pk]) + "?view=back")
        self.assertContains(page, 'aria-current="page">Back')
        self.assertContains(page, reverse("move", args=[self.piece.pk]) + "?view=back")
        self.assertNotContains(page, 'data-handle="focal"')
        self.assertNotContains(page, 'data-tool="try"')
        self.assertEqual(
            self.client.get(reverse("bench", args=[self.piece.pk]) + "?view=top").status_code, 404
        )

    def test_a_handle_moved_on_the_side_view_changes_what_lies_behind(self):
        before = self.now()
        self.assertEqual(before.findings["behind_share"].view, "side")
        datum = self.now("side").datum
        self.client.post(
            reverse("move", args=[self.piece.pk]) + "?view=side",
            {
                "handle": "base",
                "x": datum.base[0] + 40,
                "y": datum.base[1],
                "gesture": "abcdef123456",
            },
        )
        self.assertEqual(Correction.objects.get().photograph.view, "side")
        after = self.now()
        self.assertNotAlmostEqual(
            after.findings["behind_share"].value, before.findings["behind_share"].value, places=2
        )
        self.assertEqual(
            after.findings["height_ratio"].value, before.findings["height_ratio"].value
        )

    def test_the_front_is_laid_over_the_other_views_by_the_container(self):
        for view, words in (("back", "turned left to right"), ("side", "The height of the tip")):
            over = self.client.get(
                reverse("overlay", args=[self.piece.pk, "front"]) + f"?view={view}"
            )
            self.assertContains(over, words)
            page = self.client.get(reverse("bench", args=[self.piece.pk]) + f"?view={view}")
            self.assertContains(page, 'data-over="front"')

    def test_views_of_one_piece_raise_no_doubt_and_another_pieces_side_does(self):
        self.assertEqual(self.now().views_doubt, ())
        self.piece.photographs.get(view="side").delete()
        other = take(frame(OTHER, "side"), Shot())
        photograph, _ = add_photograph(self.piece, other.data, "other.jpg", self.user, "side")
        see_photograph(photograph)
        (found,) = self.now().views_doubt
        self.assertEqual(found[0], "side")
        page = self.client.get(reverse("bench", args=[self.piece.pk]))
        self.assertContains(page, "The picture from the side may show another piece")

    def test_only_a_piece_seen_all_round_is_judged_from_behind(self):
        before = self.now().findings.by_name.values()
        self.assertFalse([f for f in before if f.view == "back" and f.measured])
        self.brief.viewpoint = "all round"
        self.brief.save()
        after = self.now().findings.by_name.values()
        found = [f for f in after if f.view == "back" and f.measured and f.name != "blooms_behind"]
        self.assertTrue(found)
        self.assertIn("from behind", found[0].arithmetic)
