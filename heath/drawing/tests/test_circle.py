import math

from django.test import SimpleTestCase

from heath.drawing.circle import NUMBER, circle_of
from juniper.colour.palette import swatch_of
from juniper.colour.spaces import from_hex, lab_from_srgb


def swatches(*colours):
    """Flowers of (hex, share)."""
    return tuple(
        swatch_of(lab_from_srgb(from_hex(hex_))[None], "flower", share) for hex_, share in colours
    )


class Circle(SimpleTestCase):
    def test_a_number_stands_clear_of_smaller_discs(self):
        dots = circle_of(swatches(("#c03028", 0.7), ("#bd332b", 0.1), ("#2f4f9f", 0.2)))["dots"]
        large, _, small = dots
        self.assertLess(math.dist((large["x"], large["y"]), (small["x"], small["y"])), small["r"])
        at = large["number_x"], large["number_y"]
        self.assertLess(math.dist(at, (large["x"], large["y"])), large["r"])
        self.assertGreaterEqual(math.dist(at, (small["x"], small["y"])) - small["r"], NUMBER - 1e-6)

    def test_a_disc_that_none_covers_has_it_in_its_middle(self):
        for dot in circle_of(swatches(("#c03028", 0.6), ("#2f4f9f", 0.4)))["dots"]:
            self.assertEqual((dot["number_x"], dot["number_y"]), (dot["x"], dot["y"]))
