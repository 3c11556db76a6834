"""Coverage of uncertainties and repeatability of marks: their arithmetic by hand, and a small
sample of the roll.
"""

import io
import unittest

import numpy as np
from PIL import Image

from juniper.camera.roll import FOLDER as ROLL
from juniper.evaluation.coverage import Held, Picture, coverage, crossed, held_to_truth
from juniper.evaluation.repeat import RESHOOTS, Shot, repeat

SAMPLE = ("00", "06", "12", "18")  # fronts of the roll


class Coverage(unittest.TestCase):
    def rows(self, *offs, uncertainty=1.0, check=False):
        return [
            Picture((Held(str(n), "spread", 5.0, 5.0 + off, uncertainty, check),))
            for n, off in enumerate(offs)
        ]

    def test_shares_within_one_and_two(self):
        # Of .5, 1, 1.5, 2, 3 two lie within one, four within two; root mean square 1.817.
        found = coverage(self.rows(0.5, -1.0, 1.5, -2.0, 3.0))["spread"]
        self.assertEqual((found.n, found.one_u, found.two_u, found.stated), (5, 0.4, 0.8, 1.0))
        self.assertAlmostEqual(found.error, 1.8166, places=4)

    def test_what_is_flagged_is_left_out(self):
        self.assertEqual(
            coverage([*self.rows(0.5), *self.rows(9.0, check=True)])["spread"].two_u, 1.0
        )
        self.assertEqual(coverage(self.rows(9.0, check=True)), {})

    def test_lines_that_lie_elsewhere(self):
        mark = Held("a", "mark", 70.0, 71.0, 2.0, False)
        flagged = Held("b", "mark", 70.0, 71.0, 2.0, True)
        self.assertEqual(
            crossed(
                [Picture((), mark, (True, False, False)), Picture((), flagged, (True,)), Picture()]
            ),
            (3, 1),
        )


class Repeats(unittest.TestCase):
    def shots(self, *scores, uncertainty=2.0, check=False):
        return [Shot(str(n), s, uncertainty, check, {}) for n, s in enumerate(scores)]

    def test_the_pooled_deviation(self):
        # Variances of 1 (two degrees of freedom) and 8 (one): (2 x 1 + 1 x 8) / 3.
        found = repeat(
            [
                ("a", self.shots(69.0, 70.0, 71.0)),
                ("b", self.shots(50.0, 54.0)),
                ("c", self.shots(9.0)),
            ]
        )
        self.assertEqual((found.pieces, found.shots, found.mark_u), (2, 5, 2.0))
        self.assertAlmostEqual(found.mark_sd, round((10 / 3) ** 0.5, 2))

    def test_shifts_from_the_piece_as_it_mostly_is(self):
        found = repeat(
            [("a", [*self.shots(70.0, 70.0, 70.0, 64.0), *self.shots(80.0, check=True)])]
        )
        self.assertEqual((found.shift_over_5, found.unflagged_over_5, found.most), (0.4, 0.2, 10.0))

    def test_each_shot_is_another_picture_of_the_same(self):
        pixels = np.random.default_rng(1).integers(0, 255, (240, 200, 3), np.uint8)
        sizes = {
            name: Image.open(io.BytesIO(again(pixels))).size for name, again in RESHOOTS.items()
        }
        self.assertEqual(
            (len(sizes), sizes["half size"], sizes["cropped by 5 %"], sizes["mirrored"]),
            (9, (100, 120), (190, 228), (200, 240)),
        )
        light, plain, dark = (
            np.asarray(
                Image.open(io.BytesIO(RESHOOTS[n](np.full((240, 200, 3), 120, np.uint8))))
            ).mean()
            for n in ("a tenth lighter", "as taken", "a tenth darker")
        )
        self.assertAlmostEqual((light / plain) ** 2.2, 1.1, delta=0.02)
        self.assertAlmostEqual((dark / plain) ** 2.2, 0.9, delta=0.02)


class Sample(unittest.TestCase):
    def test_stated_uncertainties_hold(self):
        # Wanted are 63 to 75 in a hundred within one and 92 to 98 within two, of each measure over
        # several studios: `bin/trials coverage` prints that. Of all measures of six pictures
        # together, looked at once, this holds.
        done = [held_to_truth(ROLL / f"{name}-front.jpg", steady=False) for name in SAMPLE]
        rows = [r for p in done for r in p.held if not r.needs_check]
        ratios = np.array(
            [abs(r.value - r.true) / r.uncertainty for r in rows if r.uncertainty > 0]
        )
        self.assertGreater(len(ratios), 100)
        self.assertGreater((ratios <= 1).mean(), 0.55)
        self.assertGreater((ratios <= 2).mean(), 0.85)
        lines, astray = crossed(done)
        self.assertLess(astray, 0.1 * lines)


if __name__ == "__main__":
    unittest.main()
