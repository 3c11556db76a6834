import re
from itertools import pairwise

import cv2
import numpy as np
from django.urls import reverse

from heath.assessment.models import Piece
from heath.briefs.drawing import target
from heath.briefs.models import Brief
from heath.classes.models import Course
from heath.testing import SchoolTestCase, photographed
from juniper.measures.form import joined_outline, outlines


def _filled(parts):
    """Parts of a form as one mask."""
    mask = np.zeros((600, 600), np.uint8)
    for part in parts:
        cv2.fillPoly(mask, [np.int32(part * 250 + [300, 200])], 1)
    return mask


class Briefs(SchoolTestCase):
    def values(self, **changes):
        return {
            "name": "Niche urn",
            "course": self.brief.course_id,
            "container": "Urn",
            "container_height_cm": "21",
            "container_width_cm": "16",
            "viewpoint": "front only",
            "form": "symmetrical triangle",
            "rule_set": "classical-line-mass",
            "scheme": "analogous",
            "pass_mark": "55",
        } | changes

    def test_a_brief_gives_each_student_a_piece(self):
        answer = self.client.post(reverse("brief-new"), self.values(), follow=True)
        made = Brief.objects.get(name="Niche urn")
        self.assertEqual(made.pieces.count(), 2)
        self.assertContains(answer, "Ada Shore")
        self.assertContains(answer, "no photograph yet")

    def test_what_a_brief_says_of_vessel_material_and_rings(self):
        self.client.post(
            reverse("brief-new"),
            self.values(made_of="basket", material="no flowers", rings="6, 6, 5 1"),
        )
        core = Brief.objects.get(name="Niche urn").as_core()
        self.assertEqual(
            (core.vessel, core.material, core.rings, core.views),
            ("basket", "no flowers", (6, 6, 5, 1), ("front",)),
        )
        self.assertLessEqual({"basket", "no flowers"}, core.traits)
        plain = self.brief.as_core()
        self.assertEqual((plain.vessel, plain.material, plain.rings), ("opaque", "flowers", ()))
        wrong = self.client.post(
            reverse("brief-new"), self.values(name="Six and six", rings="six and six")
        )
        self.assertContains(wrong, "the outermost first: 6, 6, 6")
        self.assertContains(wrong, "six and six")

    def test_sizes_that_make_no_sense_lose_nothing_typed(self):
        for value, words in (
            ("0", "at least 1 cm"),
            ("-4", "at least 1 cm"),
            ("900", "3 metres"),
            ("tall", "number of centimetres"),
            ("nan", "number of centimetres"),
        ):
            with self.subTest(value):
                answer = self.client.post(
                    reverse("brief-new"),
                    self.values(container_height_cm=value, container="My dented urn"),
                )
                self.assertContains(answer, words)
                self.assertContains(answer, "My dented urn")
        self.assertFalse(Brief.objects.filter(name="Niche urn").exists())

    def test_another_schools_class_cannot_be_chosen(self):
        answer = self.client.post(
            reverse("brief-new"), self.values(course=self.other_brief.course_id)
        )
        self.assertEqual(answer.status_code, 200)
        self.assertFalse(Brief.objects.filter(name="Niche urn").exists())
        self.assertEqual(
            self.client.get(reverse("brief", args=[self.other_brief.pk])).status_code, 404
        )

    def test_the_drawing_follows_the_figures(self):
        answer = self.client.post(
            reverse("brief-new"),
            self.values(container_height_cm="30"),
            headers={"HX-Request": "true"},
        )
        # 1.5 and 2 times 30 cm (common practice).
        self.assertContains(answer, "45.0 cm")
        self.assertContains(answer, "60.0 cm")
        self.assertFalse(Brief.objects.filter(name="Niche urn").exists())

    def test_three_stems_and_a_low_table_piece_are_drawn_too(self):
        # Thirds: main one and a half times the vessel, second two thirds of it, third two thirds of
        # that (handbook, common practice).
        drawn = target(
            self.values(
                rule_set="three-stem-thirds",
                form="three-stem",
                container_height_cm="5",
                container_width_cm="30",
            )
        )
        lengths = [float(words.split()[1]) for *_, words in drawn.tips]
        self.assertEqual(lengths, [45, 30, 20])
        low = target(
            self.values(
                rule_set="low-table-piece",
                form="horizontal",
                container_height_cm="10",
                container_width_cm="20",
            )
        )
        self.assertEqual((low.low_cm, low.high_cm), (2, 22))

    def test_drawing_is_to_scale_and_waits_for_sizes(self):
        drawn = target(self.values())
        x, y = np.array([p.split(" ") for p in drawn.container.strip("MZ").split("L")], float).T
        high = np.ptp(y)
        self.assertAlmostEqual(np.ptp(x) / high, 16 / 21, places=2)
        self.assertAlmostEqual((drawn.rim - drawn.high) / high, 2.0, places=2)
        for height in ("", "-1", "none"):
            example = target(self.values(container_height_cm=height))
            self.assertTrue(example.example)
            self.assertIn("M", example.outline)
        self.assertFalse(drawn.example)
        for form in (
            "crescent",
            "right-angle L",
            "round",
            "vertical",
            "horizontal",
            "S-curve",
            "fan",
        ):
            self.assertIn("M", target(self.values(form=form)).outline)

    def test_shares_lead_somewhere_and_make_a_hundred(self):
        for split, kept in (
            ("60 : 60 : 60", False),
            ("30 : 60 : 10", False),
            ("50 : 30 : 10", False),
            ("65 : 25 : 10", True),
            ("34 : 33 : 33", True),
            ("", True),
        ):
            answer = self.client.post(reverse("brief-new"), self.values(split=split))
            self.assertEqual(answer.status_code, 302 if kept else 200, split)
            if not kept:
                self.assertContains(answer, "These parts make")
        self.assertFalse(Brief.objects.filter(split="60 : 60 : 60").exists())

    def test_a_backdrop_is_chosen_by_name_or_mixed(self):
        for sent, kept in (
            ({"setting": ""}, ""),
            ({"setting": "#a8b49a"}, "#a8b49a"),
            ({"setting": "own", "setting_own": "#123456"}, "#123456"),
        ):
            self.client.post(reverse("brief-new"), self.values(**sent))
            self.assertEqual(Brief.objects.first().setting, kept)
        page = self.client.get(reverse("brief-change", args=[Brief.objects.first().pk]))
        self.assertContains(page, 'name="setting_own" value="#123456"')
        self.assertContains(page, "bottle green")
        bad = self.client.post(
            reverse("brief-new"), self.values(setting="own", setting_own="mauve")
        )
        self.assertContains(bad, "Choose one of the colours shown")

    def test_four_named_groups_hold_every_field_once(self):
        page = self.client.get(reverse("brief-new"))
        form = page.context["form"]
        grouped = [f.name for _, _, fields in form.groups for f in fields]
        self.assertEqual(sorted(grouped), sorted(form.fields))
        for title in ("The brief and its place", "Vessels", "Form, pattern", "School and"):
            self.assertContains(page, f"<legend>{title}")

    def test_words_beside_the_drawing_never_touch_it_or_one_another(self):
        for form in ("round", "vertical", "crescent", "horizontal"):
            for school in ("classical-line-mass", "low-table-piece"):
                drawn = target(self.values(form=form, rule_set=school))
                xs = [float(x) for x in re.findall(r"[ML](-?[\d.]+) ", drawn.outline)]
                self.assertLess(max(xs), drawn.margin)
                places = [at for _, at, _ in drawn.words]
                self.assertTrue(all(b - a >= 15 for a, b in pairwise(places)), places)

    def test_a_crescent_and_an_s_are_drawn_without_a_seam(self):
        for form in ("crescent", "S-curve"):
            self.assertEqual(target(self.values(form=form)).outline.count("M"), 1)
            apart, joined = outlines(form), joined_outline(form)
            self.assertEqual((len(apart), len(joined)), (2, 1))
            first, second = _filled(apart), _filled(joined)
            self.assertLess((first != second).sum(), 0.02 * first.sum())


class TermPage(SchoolTestCase):
    def test_tonight_begins_with_what_cannot_be_used_and_ends_with_what_is_returned(self):
        first = photographed(self.brief, self.user)
        second = self.brief.pieces.order_by("student__sorting").last()
        page = self.client.get(reverse("term"))
        self.assertContains(page, 'title="Ada Shore">Mark')
        self.assertEqual([w for w, _ in page.context["tasks"]], ["1 to mark: Column"])
        Piece.objects.filter(pk=second.pk).update(state=Piece.State.FAILED)
        Piece.objects.filter(pk=first.pk).update(state=Piece.State.MARKED)
        tasks = [w for w, _ in self.client.get(reverse("term")).context["tasks"]]
        self.assertEqual(tasks, ["1 photograph cannot be used: Column", "1 to return: Column"])

    def test_photographs_show_and_the_strokes_have_a_key(self):
        piece = photographed(self.brief, self.user)
        page = self.client.get(reverse("term"))
        self.assertContains(
            page, reverse("photograph-copy", args=[piece.photograph.pk, "thumb"]), count=2
        )
        for words in ("without a photograph", "to mark", "marked", "returned"):
            self.assertContains(page, words)

    def test_a_first_evening_leads_from_class_to_brief(self):
        self.brief.course.delete()
        self.assertContains(self.client.get(reverse("term")), "Make the first class")
        Course.objects.create(school=self.user.school, name="New", term="")
        self.assertContains(self.client.get(reverse("term")), "Set the first brief")
