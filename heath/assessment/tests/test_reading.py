from dataclasses import replace
from unittest import mock

from django.urls import reverse

from heath.assessment.corrected import handles_put
from heath.assessment.models import Correction, Piece
from heath.assessment.reading import handles, read
from heath.testing import SchoolTestCase, photographed
from juniper.assessment import assess


class Readings(SchoolTestCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.piece = photographed(cls.brief, cls.user)

    def put(self, handle, x, y, gesture, undone=False):
        return Correction.objects.create(
            photograph=self.piece.photograph,
            gesture=gesture,
            handle=handle,
            x=x,
            y=y,
            undone=undone,
            made_by=self.user,
        )

    def test_the_automatic_scene_is_never_changed_by_corrections(self):
        scene = self.piece.photograph.core_scene()
        self.put("rim", 1, 2, "g-aaaaaa")
        self.put("focal", 3, 4, "g-bbbbbb")
        now = read(Piece.objects.get(pk=self.piece.pk))
        self.assertEqual(
            (now.datum.rim, now.focal, now.moved), ((1.0, 2.0), (3.0, 4.0), {"rim", "focal"})
        )
        self.assertEqual(self.piece.photograph.core_scene(), scene)
        self.assertEqual(scene.datum.source, "automatic")

    def test_the_latest_that_stands_counts(self):
        first, second = self.put("rim", 10, 20, "g-aaaaaa"), self.put("rim", 30, 40, "g-bbbbbb")
        self.assertEqual(handles_put([first, second]), {"rim": (30.0, 40.0)})
        second.undone = True
        self.assertEqual(handles_put([first, second]), {"rim": (10.0, 20.0)})
        first.undone = True
        self.assertEqual(handles_put([first, second]), {})

    def test_a_hand_makes_the_datum_surer(self):
        before = read(Piece.objects.get(pk=self.piece.pk))
        for n, handle in enumerate(("rim", "base")):
            x, y = getattr(before.datum, handle)
            self.put(handle, x, y, f"g-hand-{n}")
        after = read(Piece.objects.get(pk=self.piece.pk))
        self.assertEqual(after.datum.source, "given")
        self.assertLess(
            after.findings["height_ratio"].uncertainty, before.findings["height_ratio"].uncertainty
        )
        self.assertAlmostEqual(
            after.findings["height_ratio"].value, before.findings["height_ratio"].value
        )

    def test_the_focal_handle_moves_focal_measures_only(self):
        before = read(self.piece)
        x, y = before.focal
        self.put("focal", x, y - 120, "g-focal")
        after = read(Piece.objects.get(pk=self.piece.pk))
        self.assertGreater(
            after.findings["focal_height"].value, before.findings["focal_height"].value
        )
        for name in ("height_ratio", "left_weight_share", "foliage_share"):
            self.assertEqual(after.findings[name].value, before.findings[name].value)

    def test_a_doubt_stands_until_every_handle_was_put(self):
        photograph = self.piece.photograph
        scene = photograph.core_scene()
        photograph.keep_scene(
            replace(
                scene, datum=replace(scene.datum, confidence=0.1, doubts=("the rim is hidden",))
            )
        )
        seen = (photograph.core_scene(), photograph.core_raster())
        with mock.patch("heath.assessment.reading.corrected", return_value=seen):
            said = []
            for n, handle in enumerate(("rim", "base", "rim_left", "rim_right")):
                said.append(read(self.piece).to_check)
                self.put(handle, *getattr(scene.datum, handle), f"g-doubt-{n}")
            self.assertEqual(said, [True] * 4)
            self.assertFalse(read(self.piece).to_check)

    def test_an_assessment_is_kept_until_what_it_follows_from_changes(self):
        def anew():
            with mock.patch("heath.assessment.reading.assess", wraps=assess) as made:
                now = read(Piece.objects.get(pk=self.piece.pk))
            return made.call_count, now

        anew()
        times, now = anew()
        self.assertEqual(times, 0)
        self.assertIs(now.assessment.views[0], now.at)
        x, y = now.datum.rim
        self.put("rim", x, y + 5, "g-kept")
        self.assertEqual([anew()[0], anew()[0]], [1, 0])
        asked = now.verdict.lines[0].rule.code
        self.piece.overrides.create(rule=asked, score=3, reason="Agreed", made_by=self.user)
        times, said = anew()
        self.assertEqual((times, said.verdict.lines[0].score), (1, 3))
        self.assertEqual(anew()[0], 0)
        type(self.brief).objects.update(container_height_cm=31)
        self.assertEqual(anew()[0], 1)

    def test_another_rule_set_judges_a_kept_assessment_as_a_fresh_one(self):
        first, kept = read(self.piece), read(Piece.objects.get(pk=self.piece.pk))
        self.assertIsNone(kept.findings.scales)
        fresh = assess(kept.assessment.views, kept.brief, kept.verdict.rule_set)
        other = kept.assessment.verdict_under(replace(kept.verdict.rule_set, name="Another"))
        self.assertEqual(other.score, first.verdict.score)
        self.assertEqual(
            [x.addition and x.addition.places for x in other.lines],
            [x.addition and x.addition.places for x in fresh.verdict.lines],
        )

    def test_five_handles_each_with_its_name(self):
        drawn = handles(read(self.piece))
        self.assertEqual([h["name"] for h in drawn], list(Correction.Handle.values))
        self.assertTrue(all(h["label"] for h in drawn))

    def test_a_piece_without_a_photograph_leads_back_to_its_brief(self):
        other = self.brief.pieces.exclude(pk=self.piece.pk).get()
        self.assertRedirects(
            self.client.get(reverse("bench", args=[other.pk])),
            reverse("brief", args=[self.brief.pk]),
        )
        for name in ("accept", "undo", "override"):
            self.assertEqual(self.client.post(reverse(name, args=[other.pk])).status_code, 400)
        move = {"handle": "rim", "x": 1, "y": 1, "gesture": "abcdef12"}
        self.assertEqual(self.client.post(reverse("move", args=[other.pk]), move).status_code, 400)
