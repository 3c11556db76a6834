import unittest

import numpy as np

from juniper.photobooth import Shot, frame, take
from juniper.photograph import read_photograph
from juniper.scene import see
from juniper.scene.datum import CARD_AGREES, Told, _weighed


class Weighed(unittest.TestCase):
    def test_as_an_inverse_variance_weighted_mean(self):
        # NIST/SEMATECH e-handbook, weighted mean: weights 1/s^2. By hand: (200/4 + 210/1) / (1/4 + 1) = 208.
        height, contradicted = _weighed(200.0, 0.04, Told(210.0, 0.02))
        self.assertAlmostEqual(height, 208.0)
        self.assertFalse(contradicted)

    def test_a_surer_card_is_followed_further(self):
        near, far = (_weighed(200.0, 0.06, Told(210.0, doubt))[0] for doubt in (0.01, 0.05))
        self.assertTrue(200 < far < near < 210)

    def test_where_they_contradict_the_rim_that_shows_is_kept(self):
        told = Told(200.0, 0.02)
        apart = 1 + CARD_AGREES * np.hypot(0.01, 0.02)
        self.assertFalse(_weighed(200 * (apart - 0.001), 0.01, told)[1])
        self.assertEqual(_weighed(200 * (apart + 0.001), 0.01, told), (200 * (apart + 0.001), True))


class ByTheCard(unittest.TestCase):
    """Pictures of the roll with the printed card in them, against their exact truth."""

    def seen(self, number, height_cm=None):
        picture = take(frame(number), Shot(code="K7Q2M9XA"))
        c = picture.truth["container"]
        datum = see(read_photograph(picture.data), container_height_cm=height_cm and height_cm * c["height_cm"])[0].datum
        high = np.hypot(*np.subtract(c["rim"], c["base"]))
        return datum, (datum.height - high) / high

    def test_a_rim_that_flowers_hide_is_put_where_the_card_has_it(self):
        (before, off), (after, still) = self.seen(12), self.seen(12, 1.0)
        self.assertGreater(abs(off), 0.04)
        self.assertLess(abs(still), 0.03)
        self.assertIn("the rim is hidden", before.doubts)
        self.assertNotIn("the rim is hidden", after.doubts)
        self.assertLess(after.spread.rim, before.spread.rim)

    def test_a_brief_with_another_height_is_asked_about(self):
        datum, off = self.seen(0, 1.4)
        self.assertTrue(any("brief" in words for words in datum.doubts))
        self.assertTrue(datum.needs_check)
        self.assertLess(abs(off), 0.03)  # the rim that shows is believed

    def test_without_a_card_the_height_changes_nothing(self):
        photo = read_photograph(take(frame(13), Shot()).data)
        self.assertEqual(see(photo)[0].datum, see(photo, container_height_cm=99)[0].datum)
