import re
from unittest import mock

from django.urls import reverse
from procrastinate.contrib.django.models import ProcrastinateJob

from heath.assessment.models import Piece, PieceSnapshot
from heath.assessment.photographs import add_photograph, see_photograph
from heath.assessment.reading import read
from heath.assessment.snapshot import KEEP, keep_snapshot, key_of
from heath.assessment.tasks import keep_snapshot_of
from heath.testing import SchoolTestCase, photographed, picture
from heath.wall import arranging


class LineUp(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.first = photographed(cls.brief, cls.user)
        second = cls.brief.pieces.order_by("student__sorting").last()
        photograph, _ = add_photograph(second, picture(20).data, "piece.jpg", cls.user)
        see_photograph(photograph)
        cls.second = Piece.objects.get(pk=second.pk)

    def wall(self, **way):
        page = self.client.get(reverse("line-up", args=[self.brief.pk]), way)
        return " ".join(page.content.decode().split())

    def test_containers_are_equal_and_rims_on_one_line(self):
        for piece in (self.first, self.second):
            kept = keep_snapshot(piece)
            seen = read(piece)
            # The rim point is the wall's origin, the base point a thousand below it, the top as
            # high as the picture shows it.
            numbers = [float(n) for n in re.findall(r"-?[\d.]+", kept.upright.split("(")[1])]
            a, b, c, d, e, f = numbers

            def onto(p, m=(a, b, c, d, e, f)):
                return m[0] * p[0] + m[2] * p[1] + m[4], m[1] * p[0] + m[3] * p[1] + m[5]

            for place, wanted in ((seen.datum.rim, (0, 0)), (seen.datum.base, (0, 1000))):
                self.assertAlmostEqual(onto(place)[0], wanted[0], delta=1.5)
                self.assertAlmostEqual(onto(place)[1], wanted[1], delta=1.5)
            self.assertAlmostEqual(
                -kept.top / 1000, seen.findings["height_ratio_image"].value, delta=0.03
            )

    def test_what_cannot_be_read_anew_in_time_is_shown_as_it_was_kept(self):
        keep_snapshot(self.first)
        PieceSnapshot.objects.update(score=12.0, key="older")
        pieces = [Piece.objects.get(pk=self.first.pk)]
        ProcrastinateJob.objects.all().delete()
        with mock.patch.object(arranging, "READING", 0.0):
            kept, older = arranging.snapshots(pieces)
            self.assertEqual((kept[self.first.pk].score, older), (12.0, 1))
            self.assertIn("1 piece has changed and is shown as before", self.wall())
        self.assertEqual(ProcrastinateJob.objects.get().task_name, KEEP)
        kept, older = arranging.snapshots(pieces)
        self.assertEqual(older, 0)
        self.assertNotEqual(kept[self.first.pk].score, 12.0)

    def test_order_by_a_measure_and_groups_by_its_band(self):
        ratio = {
            p.student.name: keep_snapshot(p).measures["height_ratio"]
            for p in (self.first, self.second)
        }
        page = re.sub(r">\s+", ">", self.wall(by="height_ratio"))
        places = sorted(
            ratio, key=lambda name: page.index(f'<figcaption><b class="name" title="{name}"')
        )
        self.assertEqual(places, sorted(ratio, key=ratio.get, reverse=True))
        self.assertIn("the band", self.wall(by="governing_ratio", group="1"))
        self.assertIn("<image", self.wall())
        self.assertNotIn("<image", self.wall(show="outline"))
        self.assertIn("drawn in true size", self.wall(**{"in": "cm"}))
        self.assertIn("Ada Shore", self.wall(by="no such measure"))

    def test_two_are_laid_over_one_another(self):
        page = self.wall(over=f"{self.first.pk},{self.second.pk}")
        self.assertIn("laid over one another", page)
        self.assertNotIn("laid over one another", self.wall(over=f"{self.first.pk},999999"))

    def keys(self):
        return {s.piece_id: s.key for s in PieceSnapshot.objects.all()}

    def test_what_changed_is_read_anew_and_kept_in_the_background(self):
        for piece in (self.first, self.second):
            keep_snapshot(piece)
        before = self.keys()
        self.client.post(
            reverse("override", args=[self.first.pk]),
            {"rule": "visible-height", "score": "1", "reason": "x"},
        )
        self.assertNotEqual(key_of(Piece.objects.get(pk=self.first.pk)), before[self.first.pk])
        self.wall()
        self.assertEqual(self.keys(), before)  # nothing is written by looking
        asked = ProcrastinateJob.objects.filter(task_name=KEEP)
        self.assertEqual([j.args for j in asked], [{"piece_id": self.first.pk}])
        keep_snapshot_of(self.first.pk)
        after = self.keys()
        self.assertEqual([p for p in before if before[p] != after[p]], [self.first.pk])

    def test_a_changed_brief_makes_every_snapshot_old(self):
        keys = {p.pk: key_of(p) for p in (self.first, self.second)}
        self.brief.container_height_cm = 30
        self.brief.save()
        for piece in Piece.objects.filter(pk__in=keys):
            self.assertNotEqual(key_of(piece), keys[piece.pk])

    def test_a_marked_piece_stands_on_the_wall_already(self):
        self.client.post(reverse("accept", args=[self.first.pk]))
        self.assertEqual(
            PieceSnapshot.objects.get().key, key_of(Piece.objects.get(pk=self.first.pk))
        )

    def test_few_queries_and_own_school_only(self):
        for piece in (self.first, self.second):
            keep_snapshot(piece)
        with self.assertNumQueries(7):
            self.wall(by="mark")
        self.assertEqual(
            self.client.get(reverse("line-up", args=[self.other_brief.pk])).status_code, 404
        )

    def test_an_empty_wall_says_what_to_do(self):
        Piece.objects.update(state=Piece.State.WAITING)
        self.assertIn("Bring its photographs in", self.wall())
