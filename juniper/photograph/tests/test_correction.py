"""Taking the light's colour out of a picture, where nothing in it tells what is white."""

import unittest

import numpy as np

from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.photograph import adaptation, adapted, guessed_light

LIGHT = np.array([1.3, 0.95, 0.6])
RNG = np.random.default_rng(2)


def grey_room(light) -> np.ndarray:
    """A picture (80, 60, 3) of greys from dark to light under a light."""
    shades = RNG.uniform(0.05, 0.6, (80, 60, 1))
    return np.round(255 * srgb_from_linear(shades * light)).astype(np.uint8)


class Guess(unittest.TestCase):
    def test_grey_ground_tells_the_light_and_half_of_it_is_believed(self):
        ground = np.ones((80, 60), bool)
        found = np.array(guessed_light(grey_room(LIGHT), ground))
        half = np.sqrt(LIGHT / (LIGHT @ [0.2126, 0.7152, 0.0722]))
        np.testing.assert_allclose(found, half / (half @ [0.2126, 0.7152, 0.0722]), rtol=0.02)

    def test_what_is_no_ground_has_no_say(self):
        picture, ground = grey_room(np.ones(3)), np.ones((80, 60), bool)
        picture[20:60, 20:40], ground[20:60, 20:40] = (200, 20, 30), False
        np.testing.assert_allclose(guessed_light(picture, ground), 1.0, atol=0.01)
        self.assertEqual(guessed_light(picture, np.zeros((80, 60), bool)), (1.0, 1.0, 1.0))

    def test_a_picture_is_led_back_to_what_it_shows_under_white(self):
        fair = grey_room(np.ones(3))
        cast = np.round(255 * srgb_from_linear(linear_from_srgb(fair / 255) * LIGHT / 1.4)).astype(
            np.uint8
        )
        back = adapted(cast, adaptation(1 / LIGHT)).astype(float)
        # Greys come out grey, and all as much darker as the light was.
        self.assertLess(float(np.ptp(back, axis=2).max()), 6)
