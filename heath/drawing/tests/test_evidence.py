import json

from django.template.loader import render_to_string
from django.test import SimpleTestCase

from heath.drawing.bands import band_drawing
from heath.drawing.evidence import LENS_OF, drawable, lenses
from heath.drawing.lines import figure, spread
from heath.testing import picture
from heath.web.templatetags.heath import signed
from juniper.assessment import analyse
from juniper.measures import EvidenceMark, Measured, Missing
from juniper.rules import FAMILIES, Brief, judge, school


class Drawing(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.found = analyse(picture().data).measured(Brief(form="", container_height_cm=24))
        cls.verdict = judge(
            cls.found,
            school("classical-line-mass"),
            Brief(container_height_cm=24, scheme="analogous"),
        )

    def test_each_kind_of_mark_can_be_drawn_and_kept(self):
        marks = [
            EvidenceMark("line", ((0, 0), (10, 0))),
            EvidenceMark("dashed", ((0, 0), (10, 5)), "x"),
            EvidenceMark("bracket", ((0, 0), (0, 90)), "plant", "Says it."),
            EvidenceMark("outline", ((0, 0), (10, 0), (5, 9))),
            EvidenceMark("ring", ((5, 5),), size=4),
            EvidenceMark("cross", ((5, 5),)),
            EvidenceMark("label", ((5, 5),), "46"),
        ]
        drawn = [drawable(m) for m in marks]
        self.assertEqual(json.loads(json.dumps(drawn)), drawn)
        svg = render_to_string("drawing/_marks.html", {"marks": drawn, "height": 1200})
        self.assertEqual(svg.count('class="mark '), len(marks))
        self.assertIn('aria-label="Says it."', svg)
        self.assertNotIn("style=", svg)

    def test_every_family_has_its_lens(self):
        self.assertEqual(tuple(LENS_OF), FAMILIES)
        drawn = {lens["name"]: lens["marks"] for lens in lenses(self.found)}
        for family in ("proportion", "balance", "focal"):
            self.assertTrue(drawn[family])
            self.assertTrue(any(m["says"] for m in drawn[family]))

    def test_labels_are_escaped(self):
        svg = render_to_string(
            "drawing/_marks.html",
            {"marks": [drawable(EvidenceMark("label", ((1, 1),), "<b>"))], "height": 100},
        )
        self.assertNotIn("<b>", svg)

    def test_bands_are_drawn_in_order_and_inside_the_figure(self):
        for line in self.verdict.lines:
            drawn = band_drawing(line)
            if drawn is None:
                self.assertFalse(line.finding.measured)
                continue
            with self.subTest(line.rule.code):
                edges = [drawn[k] for k in ("low_limit", "low", "high", "high_limit")]
                self.assertEqual(edges, sorted(edges))
                self.assertTrue(all(8 <= drawn[k] <= 252 for k in ("low", "high", "value", "from")))
                inside = line.rule.band.low <= line.finding.value <= line.rule.band.high
                self.assertEqual(
                    drawn["low"] - 0.1 <= drawn["value"] <= drawn["high"] + 0.1, inside
                )

    def test_figures_as_they_are_written(self):
        for finding, shown, error in (
            (Measured("a", "line", 1.0, "count"), "1", ""),
            (Measured("a", "colour", 41.3, "L*", 3.0), "41", "±3"),
            (Measured("a", "balance", 0.456, "share", 0.021), "46\u00a0%", "±2\u00a0%"),
            (Missing("a", "focal", "share", "no focal point"), "not measured", ""),
        ):
            self.assertEqual((figure(finding), spread(finding)), (shown, error))

    def test_nought_has_no_sign(self):
        self.assertEqual(
            [signed(v) for v in (-0.001, 0.0, 0.004, -0.006, 0.25)],
            ["0.00", "0.00", "0.00", "−0.01", "+0.25"],
        )
