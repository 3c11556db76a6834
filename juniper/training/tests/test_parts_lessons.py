import unittest

import numpy as np

from juniper.camera.roll import FOLDER
from juniper.scene.parts import Part
from juniper.training.lessons import CANVASES, PLANT, ROOM, Source, Teacher, _found, masked_source
from juniper.training.vessels import FAMILIES, RandomContainer, any_vessel, built


def source() -> Source:
    """A red container under a green square, with keypoints."""
    picture = np.full((300, 200, 3), 128, np.uint8)
    sets = np.full((300, 200), 1 << Part.NOT_PIECE, np.uint8)
    picture[180:260, 80:120], sets[180:260, 80:120] = (200, 30, 30), 1 << Part.CONTAINER
    picture[80:180, 60:140], sets[80:180, 60:140] = (30, 150, 30), PLANT
    points = np.array(
        [[100, 260], [100, 180], [80, 180], [120, 180], [100, 263], [100, 182]], float
    )
    return Source(picture, sets, points, False, True)


class Lessons(unittest.TestCase):
    def lessons(self, count=40):
        rng = np.random.default_rng(5)
        rooms = [rng.integers(0, 256, (400, 500, 3)).astype(np.uint8)]
        teacher = Teacher([source()], rooms, 3)
        return [teacher.lesson(CANVASES[n % 3]) for n in range(count)]

    def test_keypoints_lie_on_the_container_they_belong_to(self):
        known = 0
        for lesson in self.lessons():
            wall = (lesson.sets & (1 << Part.CONTAINER) > 0) & (lesson.sets != ROOM)
            ys, _xs = np.nonzero(wall)
            base, rim, left, right = lesson.points[:4]
            if (
                len(ys) < 60
                or not np.isfinite(lesson.points[:4]).all()
                or (lesson.points[:4] < 8).any()
            ):
                continue
            known += 1
            self.assertAlmostEqual(2 * ys.max() + 1, base[1], delta=0.06 * lesson.size + 4)
            self.assertAlmostEqual(2 * ys.min() + 1, rim[1], delta=0.12 * lesson.size + 4)
            self.assertLess(left[0], right[0])  # mirrored or not
        self.assertGreater(known, 15)

    def test_targets_hold_only_what_is_known(self):
        for lesson in self.lessons(12):
            width, height = lesson.picture.shape[1::-1]
            self.assertEqual(lesson.sets.shape, (height // 2, width // 2))
            self.assertEqual(lesson.hints.shape, (2, height // 2, width // 2))
            self.assertTrue((lesson.sets < 64).all())

    def test_a_point_is_found_again_through_any_map(self):
        y, x = np.mgrid[0:80, 0:60].astype(np.float32)
        u, v = 0.5 * x + 0.1 * y + 3, 0.7 * y + 0.002 * x**2
        at = _found(
            u,
            v,
            np.array([float(0.5 * 20.3 + 0.1 * 33.6 + 3), float(0.7 * 33.6 + 0.002 * 20.3**2)]),
        )
        np.testing.assert_allclose(at, [20.3, 33.6], atol=0.05)
        self.assertTrue(np.isnan(_found(u, v, np.array([np.nan, 1.0]))).all())

    def test_mirrored_ends_change_places(self):
        one = source()
        np.testing.assert_allclose(one.mirrored().mirrored().points, one.points)
        self.assertEqual(one.mirrored().points[2, 0], 199 - 120)

    def test_a_picture_of_the_roll_is_a_source(self):
        made = masked_source(FOLDER / "00-front.mask.png")
        self.assertEqual(
            set(np.unique(made.sets))
            - {1 << Part.NOT_PIECE, 1 << Part.SUPPORT, 1 << Part.CONTAINER, PLANT, 33},
            set(),
        )
        # the foot is nearest below its middle
        self.assertGreater(made.points[4, 1], made.points[0, 1])


class Vessels(unittest.TestCase):
    def test_a_vessel_stands_on_the_table_and_is_as_high_as_it_says(self):
        rng = np.random.default_rng(7)
        seen = set()
        for _ in range(60):
            vessel = any_vessel(rng)
            seen.add(vessel.shape.material)
            wall = np.concatenate(
                [m.corners for material, m in built(vessel, rng) if material != "water"]
            )
            self.assertAlmostEqual(wall[:, 2].min(), 0.02, delta=0.05)
            self.assertAlmostEqual(wall[:, 2].max(), vessel.shape.height_cm, delta=0.2)
        self.assertEqual(seen, {"glaze", "matt", "metal", "glass"})
        self.assertGreater(len(FAMILIES), 12)

    def test_flutes_are_cut_into_the_wall_and_leave_foot_and_lip_round(self):
        rng = np.random.default_rng(1)
        plain = any_vessel(np.random.default_rng(3))
        while plain.shape.depth_cm is not None or plain.shape.oval != 1.0:
            plain = any_vessel(rng)
        fluted = RandomContainer(plain.shape, plain.tone, "fluted", relief=0.06, count=20)
        radii = np.hypot(*built(fluted, rng)[0][1].corners[:, :2].T)
        heights = built(fluted, rng)[0][1].corners[:, 2]
        middle = np.abs(heights - 0.5 * plain.shape.height_cm) < 0.02 * plain.shape.height_cm
        outer = radii[middle][radii[middle] > np.median(radii[middle])]
        self.assertGreater(outer.max() / outer.min(), 1.02)
