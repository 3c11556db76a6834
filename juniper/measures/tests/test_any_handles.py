"""Handles are dragged anywhere: wherever they lie apart, something is measured or named as not
measured, and nothing breaks.
"""

import math
import random
import unittest
from dataclasses import replace

from juniper.assessment import analyse
from juniper.camera import frame
from juniper.measures import measure
from juniper.rules import Brief, judge, school, school_slugs

PLACES = 60


class AnyHandles(unittest.TestCase):
    def test_wherever_they_are_put(self):
        done = analyse(frame(12).jpeg)
        wide, high = done.scene.width, done.scene.height
        rng = random.Random(5)
        tried = 0
        while tried < PLACES:
            spots = {
                n: (rng.uniform(0, wide), rng.uniform(0, high))
                for n in rng.sample(("rim", "base", "rim_left", "rim_right"), rng.randint(1, 4))
            }
            if tried % 6 == 0:  # the rim's ends along the axis
                spots = {"rim_left": done.scene.datum.base, "rim_right": done.scene.datum.rim}
            if tried % 6 == 1:  # a tiny container whose rim's ends are the wrong way round
                x, y = done.scene.datum.rim
                spots = {
                    "rim": (x, y),
                    "base": (x, y + 10),
                    "rim_left": (x + 5, y),
                    "rim_right": (x - 5, y),
                }
            datum = replace(done.scene.datum, **spots)
            # As the bench has it: two handles that lie on one another are refused before they are
            # measured.
            if (
                math.dist(datum.rim, datum.base) < 8
                or math.dist(datum.rim_left, datum.rim_right) < 8
            ):
                continue
            tried += 1
            with self.subTest(spots):
                found = measure(done.surface, done.scene, datum, done.scene.focal, 24.0)
                for one in found.by_name.values():
                    self.assertTrue(not one.measured or math.isfinite(one.value), one.name)
                verdict = judge(
                    found,
                    school(school_slugs()[tried % len(school_slugs())]),
                    Brief(container_height_cm=24.0),
                )
                self.assertTrue(verdict.score is None or 0 <= verdict.score <= 100)


if __name__ == "__main__":
    unittest.main()
