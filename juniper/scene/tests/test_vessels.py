"""Several vessels: what looks are joined to, whose plant is whose, and what a person changes."""

import unittest

import cv2
import numpy as np

from juniper.scene.container.datum import HANDLES, given_datum
from juniper.scene.parts import Label
from juniper.scene.segment.probabilities import VesselPlace
from juniper.scene.several import group_datum
from juniper.scene.vessel_plants import of_the_vessels, tops_of, vessel_of_plant
from juniper.scene.vessels import (
    VESSELS,
    Vessel,
    VesselChange,
    _apart,
    _joined,
    _walls,
    _with_walls,
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

    def test_a_vessel_has_wall_between_foot_and_rim_and_none_under_its_foot(self):
        likely = np.zeros((300, 200), np.float32)
        likely[120:200, 40:80] = 1.0
        hanging = VesselPlace((60.0, 160.0), (60.0, 80.0), 15.0, 0.4, 1.0)  # half over the wall
        places = [self.place(60, likely=0.16), hanging, self.place(150, likely=0.4)]
        (found,) = _with_walls(places, likely, VESSELS)
        # Place and wall weigh alike: the root of .16 by 1 (arithmetic).
        self.assertEqual((found.foot, round(found.likely, 6)), ((60.0, 200.0), 0.4))

    def test_two_places_on_one_wall_are_of_one_vessel(self):
        inner = VesselPlace((62.0, 170.0), (62.0, 130.0), 10.0, 0.7, 1.0)
        self.assertEqual(_apart([self.place(60), inner], VESSELS), [self.place(60)])
        beside = self.place(78)  # 30 wide each: 12 of 30 in common
        self.assertEqual(len(_apart([self.place(60), beside], VESSELS)), 2)

    def test_the_brief_says_how_many_are_looked_for(self):
        self.assertEqual((VESSELS.hardly, VESSELS.kept, VESSELS.plainly), (0.2, 0.3, 0.5))
        places = [self.place(60 * n, likely=v) for n, v in enumerate((0.8, 0.5, 0.31, 0.25))]
        for asked, found in ((None, 3), (1, 2), (2, 2), (3, 3), (4, 4), (9, 4)):
            self.assertEqual(len(as_many(places, asked)), found, asked)

    def test_one_foot_has_one_rim(self):
        low = VesselPlace((60.0, 200.0), (60.0, 160.0), 15.0, 0.7, 1.0)
        self.assertEqual(_apart([self.place(60), low], VESSELS), [self.place(60)])

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

    def test_what_hangs_in_the_room_behind_belongs_to_no_vessel(self):
        datums = tuple(v.datum for v in ROW)  # 80 high: gaps of up to 32 are bridged
        for gap, kept in ((24, True), (44, False)):
            labels = self.picture()
            labels[labels == Label.PLANT] = Label.BACKDROP
            cv2.line(labels, (60, 120), (60, 90), int(Label.PLANT), 4)
            cv2.line(labels, (60, 88 - gap), (60, 30), int(Label.PLANT), 4)
            own = of_the_vessels(labels, datums)
            self.assertTrue(own[100, 60])
            self.assertEqual(bool(own[34, 60]), kept, gap)

    def test_a_speck_of_the_wall_behind_is_no_plant_and_a_thin_stem_is(self):
        labels = self.picture()
        labels[labels == Label.PLANT] = Label.BACKDROP
        cv2.line(labels, (60, 112), (60, 30), int(Label.PLANT), 1)
        cv2.circle(labels, (160, 92), 2, int(Label.PLANT), -1)
        own = of_the_vessels(labels, tuple(v.datum for v in ROW))
        self.assertTrue(own[40, 60])
        self.assertFalse(own[92, 160])

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

    def test_a_top_put_by_hand_moves_no_handle_of_the_vessel(self):
        now = change_vessels(ROW, (VesselChange("move", 2, (("top", (150.0, 20.0)),)),))
        self.assertEqual((now[1].top, now[1].top_put), ((150.0, 20.0), True))
        self.assertEqual(now[1].datum, ROW[1].datum)
        # From the rim at 120 to 20, over 80 of the vessel (arithmetic).
        self.assertAlmostEqual(now[1].height_ratio, 100 / 80)

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
