import numpy as np
from django.urls import reverse

from heath.briefs.drawing import target
from heath.briefs.models import Brief
from heath.testing import SchoolTestCase


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
        self.assertContains(answer, "waits for a photograph")

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
