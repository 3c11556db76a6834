import unittest

import numpy as np

from juniper.camera import Shot, frame, take
from juniper.photograph import read_photograph
from juniper.scene import see
from juniper.scene.container.reading import ANOTHER_HEIGHT


class ByTheCard(unittest.TestCase):
    """Pictures of the roll with the printed card in them, against their exact truth."""

    def seen(self, number, height_cm=None):
        picture = take(frame(number), Shot(code="K7Q2M9XA"))
        c = picture.truth["container"]
        datum = see(
            read_photograph(picture.data),
            container_height_cm=height_cm and height_cm * c["height_cm"],
        )[0].datum
        high = np.hypot(*np.subtract(c["rim"], c["base"]))
        return datum, (datum.height - high) / high

    def test_a_rim_that_flowers_hide_is_put_where_the_card_has_it(self):
        (before, _), (after, still) = self.seen(12), self.seen(12, 1.0)
        self.assertLess(abs(still), 0.03)
        self.assertLess(after.spread.rim, before.spread.rim)

    def test_a_brief_with_another_height_is_asked_about(self):
        datum, off = self.seen(0, 1.4)
        self.assertIn(ANOTHER_HEIGHT, datum.doubts)
        self.assertTrue(datum.needs_check)
        self.assertLess(abs(off), 0.03)  # the rim that shows is believed

    def test_without_a_card_the_height_changes_nothing(self):
        photo = read_photograph(take(frame(13), Shot()).data)
        self.assertEqual(see(photo)[0].datum, see(photo, container_height_cm=99)[0].datum)
