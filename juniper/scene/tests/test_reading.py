import unittest

import numpy as np

from juniper.scene.container.datum import ExpectedHeight, NoContainer
from juniper.scene.container.placing import datum_of_drag
from juniper.scene.container.reading import (
    ANOTHER,
    ANOTHER_HEIGHT,
    READING,
    Level,
    ellipses,
    find_datum,
    foot_of,
    seen_of,
    weighed,
)
from juniper.scene.container.shape import ContainerShape
from juniper.scene.container.sides import chief_part, expected_slope, sides_of
from juniper.scene.parts import Label, Part
from juniper.scene.segment.probabilities import POINTS, Keypoint, PartProbabilities
from juniper.scene.usable import cut_off, from_above, pieces_apart

FOCAL = 1200.0


def point(x, y, spread=1.0, mass=0.95) -> Keypoint:
    return Keypoint(np.array([x, y], float), np.eye(2) * spread**2, mass)


def vase(
    rim=200, base=400, top_half=30, foot_half=40, shape=(600, 400), x=200, lean=0.0
) -> np.ndarray:
    """A tapered wall (bool h x w), half an ellipse at its foot as from slightly above."""
    rows, columns = np.mgrid[0 : shape[0], 0 : shape[1]]
    axis = x + lean * (rows - base)
    half = np.interp(rows, [rim, base], [top_half, foot_half])
    body = (np.abs(columns - axis) <= half) & (rows >= rim) & (rows <= base)
    foot = ((columns - x) / foot_half) ** 2 + ((rows - base) / (0.12 * foot_half)) ** 2 <= 1
    return body | foot & (rows >= base)


def points(rim=200, base=400, half=30, x=200, spread=1.0, mass=0.95) -> dict[str, Keypoint]:
    return {
        "base": point(x, base, spread, mass),
        "rim": point(x, rim, spread, mass),
        "rim_left": point(x - half, rim, spread),
        "rim_right": point(x + half, rim, spread),
        "foot_front": point(x, base + 5),
        "rim_front": point(x, rim + 3),
    }


def found(wall=None, keypoints=None, **more):
    seen = seen_of(*walled(vase() if wall is None else wall))
    return find_datum(
        seen, foot_of(seen, FOCAL), keypoints or points(), np.array([200.0, 20.0]), FOCAL, **more
    )


def walled(wall):
    return wall, sides_of(wall, (200, 400, 0.0))


class Weighing(unittest.TestCase):
    def test_as_an_inverse_variance_weighted_mean(self):
        # NIST/SEMATECH e-handbook, weighted mean: weights 1/s^2. By hand: (200/4 + 210/1) / (1/4 +
        # 1) = 208, s = sqrt(1/1.25).
        level, ratio = weighed(Level(200.0, 2.0), Level(210.0, 1.0))
        self.assertAlmostEqual(level.at, 208.0)
        # Birge 1932, by hand: chi^2 = 64/4 + 4/1 = 20 with one degree of freedom.
        self.assertAlmostEqual(ratio, np.sqrt(20))
        self.assertAlmostEqual(level.uncertainty, np.sqrt(1 / 1.25) * np.sqrt(20))

    def test_readings_that_agree_leave_less_doubt_than_each(self):
        level, ratio = weighed(Level(100.0, 2.0), Level(101.0, 2.0))
        self.assertLess(ratio, 1)
        self.assertAlmostEqual(level.uncertainty, 2 / np.sqrt(2))


class Sides(unittest.TestCase):
    def test_axis_and_half_widths_of_a_leaning_vase(self):
        for lean in (0.0, 0.05):
            profile = sides_of(vase(lean=lean), (200, 400, 0.8 * lean))
            with self.subTest(lean):
                self.assertAlmostEqual(profile.slope, lean, delta=0.01)
                self.assertAlmostEqual(float(profile.axis_at(300)), 200 - 100 * lean, delta=1.0)
                at = int(profile.foot[1] - 300)
                self.assertAlmostEqual(profile.half[at], 35, delta=1.5)

    def test_of_a_low_vessel_the_points_say_little_of_its_lean(self):
        # By hand: prior .035, points .02 of the height and 10 px of 200 or 20: shares of .035^2 in
        # all.
        for high, share in (
            (200.0, 0.035**2 / (0.035**2 + 0.02**2 + 0.05**2)),
            (20.0, 0.035**2 / (0.035**2 + 0.02**2 + 0.5**2)),
        ):
            base, rim = np.array([110.0, 300.0]), np.array([110.0 - 0.1 * high, 300.0 - high])
            self.assertAlmostEqual(expected_slope(base, rim, 10.0), 0.1 * share)

    def test_a_leaf_across_one_side_hides_and_does_not_narrow(self):
        wall = vase()
        wall[260:320, :190] = False
        profile = sides_of(wall, (200, 400, 0.0))
        self.assertAlmostEqual(profile.half[int(profile.foot[1] - 290)], 34.5, delta=1.5)
        self.assertEqual(profile.worth[int(profile.foot[1] - 290)], 0)

    def test_the_part_on_which_the_points_lie(self):
        wall = vase() | vase(x=80, rim=300)
        kept = chief_part(wall, np.array([[80.0, 350.0]]))
        self.assertTrue(kept[350, 80])
        self.assertFalse(kept[300, 200])


class Datums(unittest.TestCase):
    def test_a_plain_vase(self):
        datum = found()
        self.assertAlmostEqual(datum.rim[1], 200, delta=2)
        self.assertAlmostEqual(datum.base[1], 400, delta=2)
        self.assertAlmostEqual(datum.rim_width, 60, delta=3)
        self.assertEqual(datum.doubts, ())
        self.assertFalse(datum.needs_check)

    def test_vaguer_keypoints_and_hidden_rims_are_believed_less(self):
        sure = found().confidence
        self.assertLess(found(keypoints=points(spread=12)).confidence, sure)
        hidden = found(keypoints=points(mass=0.3))
        self.assertLess(hidden.confidence, sure)
        self.assertIn("the rim is hidden, or hardly shows", hidden.doubts)

    def test_looks_that_disagree_are_doubted(self):
        datum = found(agreement=0.4)
        self.assertTrue(datum.needs_check)
        self.assertIn("two readings of the outline differ", datum.doubts)

    def test_readings_that_differ_are_said_to(self):
        datum = found(keypoints=points(rim=260))
        self.assertTrue(any("two readings of the rim" in d for d in datum.doubts))
        self.assertTrue(datum.needs_check)

    def test_a_card_that_agrees_makes_surer_and_one_that_does_not_is_asked_about(self):
        plain = found(keypoints=points(spread=6))
        agrees = found(keypoints=points(spread=6), told=ExpectedHeight(203.0, 0.02))
        self.assertLess(agrees.spread.rim, plain.spread.rim)
        apart = found(told=ExpectedHeight(280.0, 0.02))
        self.assertIn(ANOTHER_HEIGHT, apart.doubts)
        self.assertAlmostEqual(apart.rim[1], 200, delta=3)  # the rim that shows is believed
        self.assertTrue(apart.needs_check)

    def test_a_known_shape_that_would_stand_higher_is_asked_about(self):
        # Its sides are those of the taper, carried on to another height.
        taller = ContainerShape(
            tuple(np.interp(np.linspace(0, 260, 48), [0, 200, 260], [40, 30, 27]) / 260)
        )
        self.assertIn(ANOTHER, found(known=taller).doubts)
        same = ContainerShape(tuple(np.linspace(40, 30, 48) / 200))
        self.assertNotIn(ANOTHER, found(known=same).doubts)

    def test_nothing_to_read(self):
        with self.assertRaises(NoContainer):
            found(wall=np.zeros((600, 400), bool))

    def test_a_foot_is_read_off_its_half_ellipse(self):
        # The foot of vase() opens by .12 about its middle at 400.
        seen = seen_of(*walled(vase()))
        foot = foot_of(seen, FOCAL)
        self.assertAlmostEqual(seen.origin[1] - foot.level.at, 400, delta=1.5)
        self.assertAlmostEqual(foot.openness, 0.12, delta=0.03)

    def test_ellipses_open_by_their_fronts(self):
        datum, seen = found(), seen_of(*walled(vase()))
        _, foot, rim = ellipses(
            seen, foot_of(seen, FOCAL), datum, points(), np.array([200.0, 300.0])
        )
        self.assertAlmostEqual(foot.openness, 5 / seen.foot_half)
        self.assertAlmostEqual(rim.openness, 3 / (datum.rim_width / 2))
        self.assertAlmostEqual(foot.middle, 100.0, delta=0.5)

    def test_of_a_boxs_foot_no_depth_is_read(self):
        wall = np.zeros((600, 400), bool)
        wall[200:401, 160:241] = True
        seen = seen_of(*walled(wall))
        self.assertTrue(seen.boxed)
        self.assertIsNone(foot_of(seen, FOCAL).openness)
        self.assertEqual(
            len(ellipses(seen, foot_of(seen, FOCAL), found(wall), points(), np.zeros(2))), 1
        )


def look_of(wall, plant, keypoints=None) -> PartProbabilities:
    likely = np.full((6, *wall.shape), 0.01, np.float32)
    likely[Part.NOT_PIECE] = 0.9
    for part, mask in ((Part.CONTAINER, wall), (Part.LEAF, plant)):
        likely[Part.NOT_PIECE][mask], likely[part][mask] = 0.02, 0.95
    return PartProbabilities(likely, keypoints or points(), 1.0)


class OneDrag(unittest.TestCase):
    def test_either_way_round_and_either_diagonal(self):
        for start, end in (
            ((170, 204), (232, 396)),
            ((232, 396), (170, 204)),
            ((231, 205), (168, 398)),
        ):
            datum = datum_of_drag(start, end, look_of(vase(), np.zeros((600, 400), bool)))
            with self.subTest(start=start):
                self.assertAlmostEqual(datum.rim[1], 200, delta=3)
                self.assertAlmostEqual(datum.base[1], 400, delta=3)
                self.assertAlmostEqual(datum.rim_left[0], 170, delta=3)
                self.assertEqual(datum.source, "given")

    def test_a_rim_narrower_than_the_foot(self):
        wall = np.zeros((600, 400), bool)
        for y in range(200, 401):
            half = round(12 + 28 * (y - 200) / 200)
            wall[y, 200 - half : 201 + half] = True
        ends = points(half=12)
        datum = datum_of_drag(
            (187, 203), (240, 398), look_of(wall, np.zeros((600, 400), bool), ends)
        )
        self.assertAlmostEqual(datum.rim_left[0], 188, delta=2)
        self.assertAlmostEqual(datum.rim_right[0], 212, delta=2)

    def test_what_was_seen_elsewhere_is_not_followed(self):
        datum = datum_of_drag((100, 150), (140, 300), look_of(vase(), np.zeros((600, 400), bool)))
        self.assertAlmostEqual(datum.rim[1], 150, delta=1)
        self.assertAlmostEqual(datum.base[0], 120, delta=1)

    def test_a_click_is_no_drag(self):
        with self.assertRaisesRegex(ValueError, "Drag from one end of the rim"):
            datum_of_drag((100, 100), (101, 103), None)


class Usable(unittest.TestCase):
    def plant(self, x=200, high=90):
        rows, columns = np.mgrid[0:600, 0:400]
        return (columns - x) ** 2 + (rows - (200 - high)) ** 2 < high**2

    def test_pieces_that_stand_apart_are_counted(self):
        one = look_of(vase(), self.plant())
        self.assertEqual(pieces_apart(one), 1)
        wall = vase(x=70, foot_half=20, top_half=15) | vase(x=330, foot_half=20, top_half=15)
        plant = self.plant(70, 40) | self.plant(330, 40)
        self.assertEqual(pieces_apart(look_of(wall, plant)), 2)
        # A bare jug beside a piece is no piece, and vessels close together are one composition.
        self.assertEqual(
            pieces_apart(
                look_of(vase(x=330, foot_half=20, top_half=15) | vase(x=120), self.plant(120, 60))
            ),
            1,
        )
        near = vase(x=170, foot_half=20, top_half=15) | vase(x=230, foot_half=20, top_half=15)
        self.assertEqual(pieces_apart(look_of(near, self.plant(165, 25) | self.plant(235, 25))), 1)
        self.assertEqual(
            pieces_apart(look_of(np.zeros((600, 400), bool), np.zeros((600, 400), bool))), 0
        )

    def test_a_container_that_runs_off_the_picture(self):
        labels = np.where(vase(), Label.CONTAINER, Label.BACKDROP).astype(np.uint8)
        self.assertFalse(cut_off(labels))
        self.assertTrue(cut_off(labels[:380]))
        self.assertTrue(cut_off(labels[:, 200:]))

    def test_a_rim_looked_into_from_above(self):
        datum = found()
        look = look_of(vase(), self.plant(), points() | {"rim_front": point(200, 215)})
        self.assertTrue(from_above(datum, look))  # 15 over 30: half the rim's width
        self.assertFalse(
            from_above(
                datum, look_of(vase(), self.plant(), points() | {"rim_front": point(200, 208)})
            )
        )
        unsure = points() | {"rim_front": point(200, 215, mass=0.3)}
        self.assertFalse(from_above(datum, look_of(vase(), self.plant(), unsure)))


class Names(unittest.TestCase):
    def test_settings_are_told_for_every_keypoint(self):
        self.assertEqual(set(points()), set(POINTS))
        self.assertLess(READING.told, READING.sure)
