import math
import re

from django.test import SimpleTestCase

from heath.drawing.bands import anchors
from heath.rulebook.drawing import band_on_scale
from juniper.rules import Band


class Figures(SimpleTestCase):
    def test_figures_of_near_edges_are_set_away_from_one_another(self):
        self.assertEqual(anchors(40, 100), ("middle", "middle"))
        self.assertEqual(anchors(40, 60), ("end", "start"))
        drawn = band_on_scale(Band(0.6, 0.95, 1.06, 1.7), (0.4, 1.9), [], "width to height")
        self.assertEqual(
            re.findall(r'text-anchor="(\w+)">([\d.]+)<', drawn),
            [("end", "0.95"), ("start", "1.06")],
        )

    def test_one_figure_stands_in_the_middle_of_its_edge(self):
        for band in (Band(-math.inf, -math.inf, 0.34, 0.5), Band(0.9, 1.0, 1.0, 1.1)):
            drawn = band_on_scale(band, (0, 2), [], "one")
            self.assertEqual(re.findall(r'text-anchor="(\w+)"', drawn), ["middle"])
