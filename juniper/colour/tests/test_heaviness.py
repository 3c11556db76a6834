"""Visual weight, against the published formulae worked by hand."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from juniper.colour import Swatch
from juniper.colour.heaviness import (
    active_passive,
    heavy_light,
    pull,
    pulls_of,
    visual_weight,
    warm_cool,
)

GREY, WARM, COOL = (
    (50.0, 0.0, 0.0),
    (50.0, 60 * np.cos(np.radians(50)), 60 * np.sin(np.radians(50))),
    None,
)
COOL = (50.0, -WARM[1], -WARM[2])


class Scales(unittest.TestCase):
    """Ou, Luo, Woodcock & Wright 2004 (formulae from memory)."""

    def test_heavy_and_light(self):
        np.testing.assert_allclose(heavy_light([100, 50, 0]), (-2.1, 0.4, 2.9))
        np.testing.assert_allclose(visual_weight([100, 50, 0]), (1.0, 1.625, 2.25))

    def test_warm_and_cool(self):
        # 60 ** 1.07 = 79.92; .02 of it is 1.598.
        np.testing.assert_allclose(warm_cool([WARM, GREY, COOL]), (1.098, -0.5, -2.098), atol=1e-3)

    def test_active_and_passive(self):
        # Medium grey is the most passive; .03 x 60 = 1.8 for chroma alone, .03 x 30 / 1.5 = .6 for
        # 30 of lightness.
        np.testing.assert_allclose(
            active_passive([GREY, WARM, (80, 0, 0), (20, 0, 0)]), (-1.1, 0.7, -0.5, -0.5), atol=1e-9
        )

    def test_what_colour_adds(self):
        np.testing.assert_allclose(
            pull([GREY, WARM, COOL]), (0.0, 0.25 * (1.598 + 1.8), 0.25 * (1.8 - 1.598)), atol=1e-3
        )

    @given(st.floats(0, 100), st.floats(0, 100), st.floats(0, 360))
    def test_no_cool_colour_weighs_more_than_its_warm_opposite(self, light, chroma, hue):
        a = np.radians(hue)
        one, other = (
            np.array([light, s * chroma * np.cos(a), s * chroma * np.sin(a)]) for s in (1, -1)
        )
        warmer, cooler = (one, other) if np.cos(a - np.radians(50)) > 0 else (other, one)
        self.assertGreaterEqual(float(pull(warmer)), float(pull(cooler)) - 1e-9)


class OfAPiece(unittest.TestCase):
    def test_leaves_by_their_shares_then_the_flowers_in_order(self):
        palette = (
            Swatch("flower", WARM, "#c07030", "orange", 0.7),
            Swatch("flower", COOL, "#3080a0", "blue", 0.3),
            Swatch("foliage", GREY, "#777777", "green", 0.75),
            Swatch("foliage", WARM, "#c07030", "orange", 0.25),
            Swatch("container", WARM, "#c07030", "orange", 1.0),
        )
        np.testing.assert_allclose(
            pulls_of(palette), (0.25 * float(pull(WARM)), float(pull(WARM)), float(pull(COOL)))
        )
        self.assertEqual(pulls_of(()), (0.0,))


if __name__ == "__main__":
    unittest.main()
