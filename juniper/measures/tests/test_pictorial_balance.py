"""Balance against the published measures of pictorial balance, computed apart from the core.

Wilson & Chatterjee 2005 ("The assessment of preference for balance"): about the vertical axis the
score is the difference of what lies on the two sides over all of it. Huebner & Fillinger 2016
("Comparison of objective measures for predicting perceptual balance and visual aesthetic
preference"): the deviation of the centre of mass from the middle. Both formulae from memory;
centres by scipy.
"""

import unittest

import cv2
import numpy as np
from scipy import ndimage

from juniper.colour.heaviness import visual_weight
from juniper.measures import View, balance, surface_of
from juniper.scene import Label, Raster, given_datum

DATUM = given_datum((200.0, 300.0), (200.0, 380.0), (160.0, 300.0), (240.0, 300.0))


def stimulus(discs) -> tuple[Raster, np.ndarray]:
    """Discs (x, y, radius, lightness) above a vase, as raster and as a picture of visual weight (h,
    w).
    """
    labels, light = np.zeros((400, 400), np.uint8), np.full((400, 400), 90, np.uint8)
    labels[300:380, 160:240] = Label.CONTAINER
    for x, y, radius, tone in discs:
        cv2.circle(labels, (x, y), radius, Label.PLANT, -1)
        cv2.circle(light, (x, y), radius, tone, -1)
    weight = np.where(labels == Label.PLANT, visual_weight(light), 0.0)
    return Raster(labels, np.zeros_like(labels), light, 1.0), weight


class PictorialBalance(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(4)
        self.trials = [
            stimulus(
                [
                    (
                        int(rng.integers(60, 340)),
                        int(rng.integers(60, 290)),
                        int(rng.integers(8, 40)),
                        int(rng.integers(10, 95)),
                    )
                    for _ in range(7)
                ]
            )
            for _ in range(12)
        ]

    def test_the_two_sides_differ_as_by_wilson_and_chatterjee(self):
        for raster, weight in self.trials:
            published = abs(weight[:, :200].sum() - weight[:, 200:].sum()) / weight.sum()
            share = balance.heavier_share(View(surface_of(raster), DATUM, None))
            self.assertAlmostEqual(2 * share - 1, published, places=6)

    def test_the_centre_of_mass_deviates_as_by_huebner_and_fillinger(self):
        for raster, weight in self.trials:
            row, column = ndimage.center_of_mass(weight)
            along, side = View(surface_of(raster), DATUM, None).centre
            self.assertAlmostEqual(side, column + 0.5 - 200, places=4)
            self.assertAlmostEqual(along, 300 - (row + 0.5), places=4)

    def test_a_mirrored_picture_deviates_by_as_much_to_the_other_side(self):
        for raster, _ in self.trials:
            turned = Raster(
                *(
                    np.ascontiguousarray(a[:, ::-1])
                    for a in (raster.labels, raster.flowers, raster.light)
                ),
                1.0,
            )
            sides = [View(surface_of(r), DATUM, None).centre[1] for r in (raster, turned)]
            self.assertAlmostEqual(sides[0], -sides[1], places=6)
