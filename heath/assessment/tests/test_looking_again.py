import math
from unittest import mock

from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment import tasks
from heath.assessment.models import Correction, Photograph, Piece, PieceSnapshot
from heath.assessment.photographs import card_of, kept_copy, look_again, see_photograph
from heath.assessment.reading import read
from heath.testing import SchoolTestCase, job, photographed, picture
from juniper import VERSION
from juniper.photograph import Card, decode
from juniper.scene import NothingFound


class LookingAgain(SchoolTestCase):
    """How steadily a photograph is seen, and what an older core saw."""

    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def photograph(self):
        return Photograph.objects.get(pk=self.piece.photograph.pk)

    def test_the_spread_is_kept_with_the_scene_and_nothing_else_changes(self):
        before = read(Piece.objects.get(pk=self.piece.pk))
        look_again(self.photograph())
        after = read(Piece.objects.get(pk=self.piece.pk))
        self.assertEqual(before.scene.unsteady, ())
        self.assertGreater(len(after.scene.unsteady), 20)
        self.assertTrue(all(math.isfinite(sd) and sd >= 0 for _, sd in after.scene.unsteady))
        for name in ("height_ratio", "left_weight_share", "foliage_share"):
            self.assertEqual(after.findings[name].value, before.findings[name].value)
        self.assertNotEqual(
            after.findings["left_weight_share"].uncertainty,
            before.findings["left_weight_share"].uncertainty,
        )
        self.assertNotEqual(self.photograph().raster.name, self.piece.photograph.raster.name)

    def test_it_is_done_once_for_what_nobody_works_on(self):
        with mock.patch.object(tasks, "look_again") as looked:
            tasks.look_steadily(job(0), self.piece.photograph.pk)
            self.assertEqual(looked.call_count, 1)
            self.assertEqual(
                PieceSnapshot.objects.get(piece=self.piece).photograph, self.photograph()
            )
            Correction.objects.create(
                photograph=self.photograph(),
                gesture="g-aaaaaa",
                handle="rim",
                x=1,
                y=2,
                made_by=self.user,
            )
            tasks.look_steadily(job(0), self.piece.photograph.pk)
            Correction.objects.all().delete()
            Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.MARKED)
            tasks.look_steadily(job(0), self.piece.photograph.pk)
            tasks.look_steadily(job(0), 999999)
        self.assertEqual(looked.call_count, 1)

    def test_another_look_meanwhile_is_not_overwritten(self):
        stale = self.photograph()
        see_photograph(self.photograph())
        fresh = self.photograph().raster.name
        look_again(stale)
        self.assertEqual(self.photograph().raster.name, fresh)

    def test_a_changed_picture_in_which_nothing_is_found_is_left_out(self):
        with mock.patch("juniper.steadiness.see", side_effect=NothingFound("cut off")):
            look_again(self.photograph())
        self.assertEqual(self.photograph().core_scene().unsteady, ())

    def test_what_an_older_core_saw_is_looked_at_anew_until_its_mark_is_given(self):
        def jobs():
            return ProcrastinateJob.objects.filter(
                task_name="assessment.measure_photograph", queueing_lock__startswith="renew"
            ).count()

        Photograph.objects.update(core_version=VERSION)
        self.assertEqual((tasks.renew_old(), jobs()), (0, 0))
        Photograph.objects.update(core_version="0.6.0")
        self.assertEqual((tasks.renew_old(), jobs()), (1, 1))
        tasks.renew_old()  # it is in the queue already
        self.assertEqual(jobs(), 1)
        Piece.objects.filter(pk=self.piece.pk).update(state=Piece.State.RETURNED)
        ProcrastinateJob.objects.all().delete()
        self.assertEqual((tasks.renew_old(), jobs()), (0, 0))


class OneDecode(SchoolTestCase):
    """A picture that comes in is decoded once and its card searched once; its kept copy has the
    card of then.
    """

    def test_adding_and_seeing(self):
        piece = self.brief.pieces.first()
        with mock.patch.object(decode, "find_card", wraps=decode.find_card) as searched:
            from heath.assessment.photographs import add_photograph

            photograph, _ = add_photograph(
                piece, picture(10, code=piece.code).data, "a.jpg", self.user
            )
            see_photograph(photograph)
        self.assertEqual(searched.call_count, 1)
        card = card_of(photograph)
        self.assertEqual(card.code, piece.code)
        self.assertEqual(kept_copy(photograph).card, card)

    def test_of_a_card_kept_in_part_the_rest_is_searched_for_again(self):
        piece = self.brief.pieces.first()
        from heath.assessment.photographs import add_photograph

        photograph, _ = add_photograph(piece, picture(10, code=piece.code).data, "a.jpg", self.user)
        photograph.card = {"code": piece.code, "px_per_cm": photograph.card["px_per_cm"]}
        self.assertIsNone(card_of(photograph))
        self.assertEqual(kept_copy(photograph).card.code, piece.code)

    def test_a_card_in_a_larger_picture(self):
        card = Card(
            "a6",
            ((10.0, 20.0),),
            4,
            None,
            8.0,
            0.02,
            0.0,
            None,
            None,
            ((1.0, 2.0, 3.0), (4.0, 5.0, 6.0), (0.0, 0.0, 1.0)),
        )
        half = card.scaled(0.5)
        self.assertEqual(
            (half.corners, half.px_per_cm, half.plane),
            (((5.0, 10.0),), 4.0, ((0.5, 1.0, 1.5), (2.0, 2.5, 3.0), (0.0, 0.0, 1.0))),
        )
