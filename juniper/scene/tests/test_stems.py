"""Main lines: found on drawn plants whose stems are known by construction, and changed by a
person.
"""

import unittest

import cv2
import numpy as np

from juniper.scene import NoStem, Stem, StemChange, change_stems, find_stems, given_datum, trace_of
from juniper.scene.parts import Label

RIM, HEIGHT = (240.0, 480.0), 640


def drawn(stems, thick=7):
    """Labels (640, 480) with a vase and stems given as (lean in degrees, length, bow across the
    chord), and the datum.
    """
    labels = np.zeros((HEIGHT, 480), np.uint8)
    labels[480:600, 200:281] = Label.CONTAINER
    tips = []
    for lean, length, bow in stems:
        tip = np.add(RIM, (length * np.sin(np.radians(lean)), -length * np.cos(np.radians(lean))))
        chord = tip - RIM
        bend = np.add(RIM, chord / 2) + bow * np.array([-chord[1], chord[0]])
        curve = Stem(tuple(tip), tuple(bend), RIM).curve
        cv2.polylines(labels, [np.round(curve).astype(np.int32)], False, Label.PLANT, thick)
        tips.append(tip)
    return labels, given_datum(RIM, (240.0, 600.0), (200.0, 480.0), (280.0, 480.0)), tips


class Found(unittest.TestCase):
    def test_leans_and_lengths_of_straight_stems(self):
        labels, datum, _ = drawn([(0, 300, 0), (-40, 220, 0), (55, 180, 0)])
        found = find_stems(trace_of(labels), datum)
        self.assertEqual(len(found), 3)
        for stem, (lean, length) in zip(found, [(0, 300), (-40, 220), (55, 180)], strict=True):
            self.assertAlmostEqual(stem.lean(datum), lean, delta=3)
            self.assertAlmostEqual(stem.length, length, delta=8)
            self.assertGreater(stem.confidence, 0.9)

    def test_a_bent_stem_is_followed_and_is_longer_than_its_chord(self):
        labels, datum, tips = drawn([(20, 300, 0.16)])
        stem = find_stems(trace_of(labels), datum)[0]
        chord = np.hypot(*np.subtract(tips[0], RIM))
        # Arc of a parabola of rise h over a chord c: about c (1 + 8/3 (h/c)^2), from memory.
        self.assertAlmostEqual(stem.length, chord * (1 + 8 / 3 * 0.16**2), delta=0.025 * chord)
        self.assertGreater(stem.confidence, 0.85)

    def test_a_camera_that_leans_changes_no_lean(self):
        labels, datum, _ = drawn([(10, 280, 0), (-50, 220, 0)])
        turn = cv2.getRotationMatrix2D(RIM, 6, 1.0)
        turned = cv2.warpAffine(labels, turn, labels.shape[::-1], flags=cv2.INTER_NEAREST)
        points = [
            tuple(turn @ [*p, 1]) for p in (datum.rim, datum.base, datum.rim_left, datum.rim_right)
        ]
        for a, b in zip(
            find_stems(trace_of(labels), datum),
            find_stems(trace_of(turned), given_datum(*points)),
            strict=True,
        ):
            self.assertAlmostEqual(a.lean(datum), b.lean(given_datum(*points)), delta=2.5)

    def test_ragged_edges_of_a_mass_are_no_stems(self):
        labels = np.zeros((HEIGHT, 480), np.uint8)
        cv2.circle(labels, (240, 400), 100, Label.PLANT, -1)
        for angle in range(0, 360, 12):
            cv2.circle(
                labels,
                (
                    int(240 + 98 * np.cos(np.radians(angle))),
                    int(400 + 98 * np.sin(np.radians(angle))),
                ),
                6,
                Label.PLANT,
                -1,
            )
        found = find_stems(
            trace_of(labels), given_datum(RIM, (240.0, 600.0), (200.0, 480.0), (280.0, 480.0))
        )
        self.assertLessEqual(len(found), 3)

    def test_nothing_is_found_in_nothing(self):
        labels, datum, _ = drawn([])
        self.assertEqual(find_stems(trace_of(labels), datum), ())


class Changed(unittest.TestCase):
    def setUp(self):
        self.stems = (
            Stem((100.0, 50.0), (110.0, 200.0), (120.0, 400.0)),
            Stem((300.0, 80.0), (250.0, 220.0), (130.0, 400.0)),
        )

    def test_drawn_bent_and_dropped(self):
        more = change_stems(
            self.stems, StemChange("draw", tip=(200.0, 10.0), foot=(125.0, 400.0)), HEIGHT
        )
        self.assertEqual(more[-1].bend, (162.5, 205.0))
        bent = change_stems(
            self.stems,
            StemChange("bend", (302.0, 78.0), (310.0, 70.0), (280.0, 200.0), (130.0, 400.0)),
            HEIGHT,
        )
        self.assertEqual((len(bent), bent[1].tip, bent[0]), (2, (310.0, 70.0), self.stems[0]))
        self.assertEqual(
            change_stems(self.stems, StemChange("drop", (101.0, 52.0)), HEIGHT), self.stems[1:]
        )

    def test_what_cannot_be_is_said(self):
        with self.assertRaisesRegex(NoStem, "Point at a tip"):
            change_stems(self.stems, StemChange("drop", (400.0, 600.0)), HEIGHT)
        with self.assertRaisesRegex(ValueError, "in the same place"):
            change_stems(
                self.stems, StemChange("draw", tip=(200.0, 10.0), foot=(201.0, 11.0)), HEIGHT
            )
        with self.assertRaisesRegex(ValueError, "a tip and a foot"):
            change_stems(self.stems, StemChange("draw", tip=(200.0, 10.0)), HEIGHT)

    def test_scaled_keeps_lean_and_scales_length(self):
        one = self.stems[1]
        self.assertAlmostEqual(one.scaled(2.5).length, 2.5 * one.length, places=6)


if __name__ == "__main__":
    unittest.main()
