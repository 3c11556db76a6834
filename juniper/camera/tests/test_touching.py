import unittest

import numpy as np

from juniper.evaluation.brush_trials import WIDE, next_touch
from juniper.scene import Label, Raster


def truth(*blooms):
    """Of blooms (colour, column, row, radius, visible pixels)."""
    return {
        "blooms": [
            {"albedo_hex": c, "centre": [x, y], "radius": r, "visible_px": n}
            for c, x, y, r, n in blooms
        ]
    }


class Touching(unittest.TestCase):
    BLOOMS = truth(
        ("#ffffff", 20, 20, 8, 200),
        ("#ffffff", 60, 20, 8, 150),
        ("#aa2020", 20, 70, 14, 300),
        ("#aa2020", 70, 70, 14, 600),
    )

    def raster(self, *found):
        """A hundred pixels square of plant, of which the places `found` (row, column slices) are
        petal.
        """
        flowers = np.zeros((100, 100), np.uint8)
        for place in found:
            flowers[place] = 1
        return Raster(
            np.full((100, 100), Label.PLANT, np.uint8), flowers, np.zeros((100, 100), np.uint8), 1.0
        )

    def test_the_colour_most_missed_and_its_largest_bloom(self):
        stroke = next_touch(self.BLOOMS, self.raster())
        self.assertEqual(
            (stroke.points, stroke.petal, stroke.radius), (((70, 70),), True, WIDE * 14)
        )
        stroke = next_touch(self.BLOOMS, self.raster(np.s_[50:100]))
        self.assertEqual(stroke.points, ((20, 20),))

    def test_nothing_where_nothing_is_missed(self):
        self.assertIsNone(next_touch(self.BLOOMS, self.raster(np.s_[:])))
        self.assertIsNone(next_touch(truth(), self.raster()))

    def test_what_lies_off_the_plant_is_not_touched(self):
        bare = Raster(np.zeros((100, 100), np.uint8), *(np.zeros((100, 100), np.uint8),) * 2, 1.0)
        self.assertIsNone(next_touch(self.BLOOMS, bare))
