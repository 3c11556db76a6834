"""A hand-tied bunch drawn with its tie, and a garland with its edge, at places that are known."""

import unittest

import cv2
import numpy as np

from juniper.scene.edge import NoEdge, read_edge
from juniper.scene.parts import Label
from juniper.scene.tied import LYING, NO_TIE, NoTie, cut_at_tie, read_tied


def bunch(tie=(200, 300), foot=420, dome=60, spread=45, waist=10) -> np.ndarray:
    """Labels of a dome over a tie and stems that spread to their ends below it."""
    out = np.full((480, 400), int(Label.BACKDROP), np.uint8)
    x, y = tie
    cv2.ellipse(out, (x, y - 130), (2 * dome, 130), 0, 0, 360, int(Label.PLANT), -1)
    cv2.fillPoly(
        out,
        [np.array([(x - waist, y), (x + waist, y), (x + dome, y - 90), (x - dome, y - 90)])],
        int(Label.PLANT),
    )
    cv2.fillPoly(
        out,
        [np.array([(x - waist, y), (x + waist, y), (x + spread, foot), (x - spread, foot)])],
        int(Label.CONTAINER),
    )
    return out


class Tied(unittest.TestCase):
    def test_the_tie_is_the_narrowest_place_and_the_ends_the_foot(self):
        labels, datum = read_tied(bunch())
        self.assertLess(abs(datum.rim[1] - 300), 8)
        self.assertLess(abs(datum.base[1] - 420), 3)
        self.assertLess(abs(datum.rim[0] - 200), 2)
        self.assertAlmostEqual(datum.rim_width, 20, delta=6)
        self.assertGreater(datum.confidence, 0.65)
        ys, _ = np.nonzero(labels == Label.CONTAINER)
        self.assertGreater(ys.min(), datum.rim[1] - 1)
        ys, _ = np.nonzero(labels == Label.PLANT)
        self.assertLess(ys.max(), datum.rim[1] + 1)

    def test_a_bunch_further_up_is_read_further_up(self):
        _, low = read_tied(bunch())
        _, high = read_tied(bunch(tie=(200, 280), foot=400))
        self.assertAlmostEqual(low.rim[1] - high.rim[1], 20, delta=2)
        self.assertAlmostEqual(low.height, high.height, delta=3)

    def test_one_that_lies_on_the_table_is_refused(self):
        with self.assertRaisesRegex(NoTie, LYING[:24]):
            read_tied(np.ascontiguousarray(np.rot90(bunch())))

    def test_one_that_narrows_nowhere_is_refused(self):
        with self.assertRaisesRegex(NoTie, NO_TIE[:24]):
            read_tied(bunch(waist=75, spread=80))
        with self.assertRaises(NoTie):
            read_tied(np.full((100, 100), int(Label.BACKDROP), np.uint8))

    def test_a_tie_put_by_hand_parts_dome_and_stems(self):
        labels, datum = read_tied(bunch())
        lower = cut_at_tie(labels, datum.moved(rim=(200.0, 340.0)))
        rows = np.nonzero((lower == Label.PLANT).any(axis=1))[0]
        self.assertAlmostEqual(rows.max(), 339, delta=1)


class Edges(unittest.TestCase):
    def garland(self, slope=0.0) -> np.ndarray:
        out = np.full((300, 500), int(Label.BACKDROP), np.uint8)
        line = np.array([(50, 120 + 50 * slope), (450, 120 + 450 * slope)])
        cv2.line(out, *(tuple(map(int, p)) for p in line), int(Label.PLANT), 24)
        cv2.line(out, (60, 120), (60, 250), int(Label.PLANT), 20)
        cv2.line(out, (440, 120), (440, 200), int(Label.PLANT), 20)
        return out

    def test_the_edge_is_the_ropes_underside_between_its_falls(self):
        labels, datum = read_edge(self.garland(), fall=0.3)
        self.assertFalse((labels == Label.CONTAINER).any())
        self.assertLess(abs(datum.rim[1] - 132), 3)
        self.assertAlmostEqual(datum.rim_left[1], datum.rim_right[1], delta=2)
        self.assertAlmostEqual(datum.rim_width, 412, delta=14)
        self.assertAlmostEqual(datum.height, 0.3 * datum.rim_width, delta=1)
        self.assertTrue(datum.needs_check)

    def test_too_little_to_tell_an_edge(self):
        with self.assertRaises(NoEdge):
            read_edge(np.full((100, 100), int(Label.BACKDROP), np.uint8))
