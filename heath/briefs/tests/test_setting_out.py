"""The vessels of a composition, as a brief's form sends them."""

import json

from django.urls import reverse

from heath.briefs.models import Brief
from heath.shelf.models import Container
from heath.testing import SchoolTestCase

ROWS = [
    {"name": "jug", "height_cm": 20, "width_cm": 9, "x_cm": 12, "y_cm": 2, "colour": "#31506f"},
    {"name": "jar", "height_cm": "11.5", "width_cm": 8, "x_cm": -9, "clear": True},
]


class SettingOut(SchoolTestCase):
    def send(self, rows, **more):
        data = {
            "name": "Counter",
            "course": self.brief.course_id,
            "viewpoint": "front only",
            "views": ["front"],
            "form": "free",
            "rule_set": "grouped-vessels",
            "split": "60 : 30 : 10",
            "pass_mark": "50",
            "kind": "several vessels",
            "support": "sill",
            "vessels": rows if isinstance(rows, str) else json.dumps(rows),
        }
        return self.client.post(reverse("brief-new"), data | more)

    def test_what_was_set_out_is_kept_and_stands_for_the_container(self):
        self.assertEqual(self.send(ROWS).status_code, 302)
        brief = Brief.objects.get(name="Counter")
        self.assertEqual([v.name for v in brief.core_vessels], ["jar", "jug"])
        self.assertEqual(brief.core_vessels[1].x_cm, 12.0)
        self.assertEqual((brief.container, float(brief.container_height_cm)), ("2 vessels", 20.0))
        self.assertEqual(brief.vessel_kind, "clear")
        self.assertEqual(brief.pattern_in_force.slug, "grouped-vessels")
        page = self.client.get(reverse("brief-change", args=[brief.pk]))
        self.assertContains(page, "&quot;jug&quot;")
        self.assertContains(page, "The dashed line joins the tops")

    def test_one_of_the_shelf_keeps_its_name_and_another_schools_does_not(self):
        own = Container.objects.create(school=self.user.school, name="Urn")
        theirs = Container.objects.create(school=self.stranger.school, name="Secret")
        rows = [dict(ROWS[0], name="", shelf=own.pk), dict(ROWS[1], name="", shelf=theirs.pk)]
        self.send(rows)
        kept = Brief.objects.get(name="Counter").vessels
        self.assertEqual([r["name"] for r in kept], ["Urn", "vessel 2"])
        self.assertEqual([r["shelf"] for r in kept], [own.pk, None])

    def test_what_makes_no_sense_is_told_and_nothing_is_lost(self):
        for rows, words in (
            (ROWS[:1], "two vessels or more"),
            ([ROWS[0], dict(ROWS[1], height_cm="tall")], "Vessel 2: write its height"),
            ([ROWS[0], dict(ROWS[1], width_cm=900)], "Vessel 2: write its greatest width"),
            ([ROWS[0]] * 13, "13 vessels are listed; 12 are the most"),
            ("[[", "could not be read"),
            ('{"a": 1}', "could not be read"),
        ):
            page = self.send(rows)
            self.assertSays(page, words)
            self.assertFalse(Brief.objects.filter(name="Counter").exists())
        self.assertContains(self.send(ROWS[:1]), "&quot;jug&quot;")

    def test_the_drawing_answers_while_it_is_filled_in(self):
        data = {"kind": "several vessels", "vessels": json.dumps(ROWS)}
        page = self.client.post(reverse("brief-new"), data, HTTP_HX_REQUEST="true")
        self.assertContains(page, "2 vessels with their stems")
        data["vessels"] = "[["
        page = self.client.post(reverse("brief-new"), data, HTTP_HX_REQUEST="true")
        self.assertContains(page, "The wanted outline over the container")
