import unittest

import numpy as np

from juniper.scene.container.pose import Ellipse, Plane, Pose, pose_of

F, CENTRE = 1500.0, (450.0, 600.0)


def seen(pitch: float, points: np.ndarray, far: float = 120.0, high: float = 30.0) -> np.ndarray:
    """Pixels (n, 2) of points (n, 3) (x right, y away, z up, cm; the axis at x = y = 0) by a
    pinhole held so high and far, looking down by `pitch` radians (Hartley & Zisserman 2004, 6.1).
    """
    step = np.asarray(points, float) - [0.0, -far, high]
    c, s = np.cos(pitch), np.sin(pitch)
    forward, down = step[:, 1] * c - step[:, 2] * s, -step[:, 1] * s - step[:, 2] * c
    return np.column_stack([step[:, 0] / forward, down / forward]) * F + CENTRE


class Planes(unittest.TestCase):
    def plane(self, pitch):
        return Plane(Pose(pitch, 0.0, F, 0.0, CENTRE), np.array([0.0, -1.0]))

    def test_heights_and_widths_on_the_axis_plane_are_true(self):
        pitch = np.radians(14)
        base, rim, top, left, right = seen(
            pitch, [[0, 0, 0], [0, 0, 20], [0, 0, 62], [-15, 0, 40], [11, 0, 5]]
        )
        height, aside = self.plane(pitch).of(np.array([base, rim, top, left, right]))
        self.assertAlmostEqual((height[2] - height[1]) / (height[1] - height[0]), 42 / 20, places=6)
        self.assertAlmostEqual((aside[4] - aside[3]) / (height[1] - height[0]), 26 / 20, places=6)

    def test_a_picture_from_above_shows_too_high_a_ratio(self):
        # Handbook of the trade, section 2: a camera held high or near shortens the container more
        # than the plant.
        pitch = np.radians(14)
        base, rim, top = seen(pitch, [[0, 0, 0], [0, 0, 20], [0, 0, 62]])
        self.assertGreater((rim[1] - top[1]) / (base[1] - rim[1]), 1.05 * 42 / 20)

    def test_to_the_plane_and_back(self):
        rng = np.random.default_rng(2)
        points = rng.uniform(0, 1000, (30, 2))
        plane = Plane(Pose(0.2, 0.0, F, 0.0, CENTRE), np.array([0.04, -np.sqrt(1 - 0.04**2)]))
        np.testing.assert_allclose(plane.at(*plane.of(points)), points, atol=1e-6)

    def test_a_level_camera_changes_nothing(self):
        height, aside = self.plane(0.0).of(np.array([[450.0, 600.0], [470.0, 500.0]]))
        np.testing.assert_allclose([height, aside], [[0, 100], [0, 20]])


class Pitch(unittest.TestCase):
    def ellipses(self, pitch, doubt=0.002):
        out = []
        for z, r in ((0.0, 5.0), (20.0, 4.0)):
            middle, front, left, right = seen(
                pitch, [[0, 0, z], [0, -r, z], [-r, 0, z], [r, 0, z]], far=400.0
            )
            out.append(
                Ellipse(
                    float(middle[1] - CENTRE[1]),
                    float(front[1] - middle[1]) / (float(right[0] - left[0]) / 2),
                    doubt,
                )
            )
        return out

    def test_a_circle_seen_from_an_angle_opens_by_its_sine(self):
        for degrees in (4.0, 9.0, 15.0):
            pose = pose_of(self.ellipses(np.radians(degrees)), 1500.0, 1.0, CENTRE)
            with self.subTest(degrees):
                self.assertAlmostEqual(pose.degrees, degrees, delta=0.25 * degrees)
                self.assertAlmostEqual(pose.focal, F, delta=0.1 * F)
                self.assertEqual(
                    pose.words, f"corrected for a camera held {pose.degrees:.0f} degrees high"
                )

    def test_without_ellipses_it_is_what_is_usual(self):
        pose = pose_of([], 1200.0, None, CENTRE)
        self.assertAlmostEqual(pose.degrees, 4.0, delta=0.05)
        self.assertAlmostEqual(np.degrees(pose.doubt), 6.0, delta=0.1)
        self.assertAlmostEqual(pose.focal, 1200.0, delta=1)
        self.assertGreater(pose.focal_doubt, 5 * pose_of([], 1200.0, 1.0, CENTRE).focal_doubt)

    def test_surer_ellipses_leave_less_doubt(self):
        sure, loose = (pose_of(self.ellipses(0.15, d), F, 1.0, CENTRE).doubt for d in (0.001, 0.2))
        self.assertLess(sure, loose)

    def test_an_unknown_lens_goes_with_another_pitch_and_the_same_ray(self):
        # Both ellipses lie below the middle: with a longer lens their rays fall less below it, so
        # the camera has to be pitched more.
        pose = pose_of(self.ellipses(0.02), F, None, CENTRE)
        self.assertGreater(pose.tied, 0)
        longer = pose.shifted(focal=0.1)
        self.assertGreater(longer.pitch, pose.pitch)
        self.assertAlmostEqual(longer.focal, 1.1 * pose.focal)
