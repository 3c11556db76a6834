"""Several vessels: what looks are joined to, whose plant is whose, and what a person changes."""

import unittest

import cv2
import numpy as np

from juniper.scene.container.datum import HANDLES, given_datum
from juniper.scene.parts import Label
from juniper.scene.segment.probabilities import VesselPlace
from juniper.scene.several import group_datum
from juniper.scene.vessel_plants import tops_of, vessel_of_plant
from juniper.scene.vessels import (
    VESSELS,
    Vessel,
    VesselChange,
    _joined,
    _walls,
    as_many,
    change_vessels,
)


def datum(x: float, foot: float = 200.0, high: float = 80.0, half: float = 15.0):
    return given_datum(
        (x, foot - high), (x, foot), (x - half, foot - high), (x + half, foot - high)
    )


ROW = tuple(Vessel(n, datum(x), 34.0, key=n) for n, x in enumerate((60.0, 160.0, 260.0), 1))


class Looks(unittest.TestCase):
    def place(self, x, y=200.0, likely=0.8, pitch=1.0):
        return VesselPlace((x, y), (x, y - 80.0), 15.0, likely, pitch)

    def test_what_several_looks_say_of_one_vessel_is_one(self):
        found = _joined([self.place(60), self.place(64, likely=0.6), self.place(160)], VESSELS)
        self.assertEqual(len(found), 2)
        # 60 and 64 weighed by .64 and .36: 61.44 (arithmetic).
        self.assertAlmostEqual(min(p.foot[0] for p in found), 61.44)

    def test_the_finer_look_counts_more(self):
        (one,) = _joined([self.place(60, pitch=2.0), self.place(64, pitch=1.0)], VESSELS)
        self.assertAlmostEqual(one.foot[0], (60 / 4 + 64) / 1.25)

    def test_what_one_look_hardly_saw_is_none(self):
        found = _joined([self.place(60, likely=VESSELS.kept)], VESSELS)
        self.assertEqual(as_many(found, None), [])
        self.assertEqual(_joined([self.place(60, likely=VESSELS.hardly)], VESSELS), [])

    def test_the_brief_says_how_many_are_looked_for(self):
        self.assertEqual((VESSELS.hardly, VESSELS.kept, VESSELS.plainly), (0.15, 0.24, 0.45))
        places = [self.place(60 * n, likely=v) for n, v in enumerate((0.8, 0.5, 0.3, 0.2))]
        for asked, found in ((None, 3), (1, 2), (2, 2), (3, 3), (4, 4), (9, 4)):
            self.assertEqual(len(as_many(places, asked)), found, asked)

    def test_one_foot_has_one_rim(self):
        low = VesselPlace((60.0, 200.0), (60.0, 160.0), 15.0, 0.7, 1.0)
        self.assertEqual(len(_joined([self.place(60), self.place(60), low, low], VESSELS)), 1)

    def test_each_pixel_of_vessel_goes_to_the_nearest_axis(self):
        likely = np.zeros((240, 320), np.float32)
        likely[120:200, 45:75] = likely[120:200, 80:110] = 0.9
        first, second = _walls([self.place(60), self.place(95)], likely, VESSELS)
        self.assertEqual((int(first.sum()), int(second.sum())), (80 * 30, 80 * 30))
        self.assertFalse((first & second).any())


class Plants(unittest.TestCase):
    def picture(self) -> np.ndarray:
        out = np.full((240, 320), int(Label.BACKDROP), np.uint8)
        for x in (60, 160, 260):
            cv2.rectangle(out, (x - 15, 120), (x + 15, 199), int(Label.CONTAINER), -1)
        cv2.line(out, (60, 120), (60, 30), int(Label.PLANT), 4)
        cv2.line(out, (160, 120), (240, 60), int(Label.PLANT), 4)  # leans over its neighbour
        cv2.line(out, (260, 120), (262, 90), int(Label.PLANT), 4)
        return out

    def test_a_stem_belongs_to_the_rim_that_it_springs_from(self):
        owner = vessel_of_plant(self.picture(), tuple(v.datum for v in ROW))
        self.assertEqual(owner[40, 60], 1)
        self.assertEqual(owner[62, 237], 2)
        self.assertEqual(owner[95, 262], 3)
        self.assertEqual(owner[150, 60], 0)
        tops = tops_of(owner, ROW)
        self.assertLess(abs(tops[0][1] - 29), 3)
        self.assertLess(abs(tops[1][0] - 240), 5)
        self.assertLess(abs(tops[2][1] - 89), 3)

    def test_an_empty_vessel_has_no_top(self):
        labels = self.picture()
        labels[:, 240:] = np.where(labels[:, 240:] == Label.PLANT, 0, labels[:, 240:])
        tops = tops_of(vessel_of_plant(labels, tuple(v.datum for v in ROW)), ROW)
        self.assertIsNone(tops[2])


class Changes(unittest.TestCase):
    def test_vessels_are_numbered_from_the_left_and_keep_their_keys(self):
        new = VesselChange("add", 100, tuple((n, getattr(datum(110.0), n)) for n in HANDLES))
        now = change_vessels(ROW, (new, VesselChange("remove", 1)))
        self.assertEqual([(v.number, v.key) for v in now], [(1, 100), (2, 2), (3, 3)])

    def test_a_moved_handle_is_one_that_was_put(self):
        now = change_vessels(ROW, (VesselChange("move", 2, (("rim", (161.0, 110.0)),)),))
        self.assertEqual(now[1].datum.rim, (161.0, 110.0))
        self.assertEqual(now[1].datum.source, "given")
        gone = change_vessels(ROW, (VesselChange("move", 9, (("rim", (1.0, 1.0)),)),))
        self.assertEqual(gone, ROW)

    def test_confirmed_together_they_need_no_check(self):
        now = change_vessels(ROW, (VesselChange("confirm"),))
        self.assertTrue(all(v.datum.put >= HANDLES for v in now))
        self.assertFalse(group_datum(now).needs_check)

    def test_the_group_stands_about_the_middle_of_its_outer_walls(self):
        whole = group_datum(ROW)
        # Walls from 60 - 17 to 260 + 17: the middle is 160, 234 wide (arithmetic).
        self.assertAlmostEqual(whole.rim[0], 160)
        self.assertAlmostEqual(whole.rim_width, 234)
        self.assertAlmostEqual(whole.height, 80)
        self.assertAlmostEqual(whole.base[1], 200)
