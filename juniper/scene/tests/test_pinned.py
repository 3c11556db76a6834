"""The scene, step by step: drawn cases small enough to be worked by hand."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from juniper.scene import Bloom
from juniper.scene.blooms import BLOOM, _numbered, _strung, _truth
from juniper.scene.container.foot import FOOT, lower_edge
from juniper.scene.segment.classical import _keep_plant
from juniper.scene.tests.test_trying import TIP, measured, piece
from juniper.scene.trying import Cut, apply_change


class Kept(unittest.TestCase):
    def blocks(self, *corners):
        out = np.zeros((80, 80), bool)
        for top, left, side in corners:
            out[top : top + side, left : left + side] = True
        return out

    def test_the_mass_by_the_container_is_kept_before_a_larger_one_apart(self):
        container = self.blocks((50, 10, 20))
        # 324 pixels on the pot, 625 apart: .3 of these is 187
        plant = self.blocks((30, 10, 18), (5, 50, 25))
        np.testing.assert_array_equal(_keep_plant(plant, container), self.blocks((30, 10, 18)))
        # 100 on the pot, 1024 apart: .3 of these is 307
        far = self.blocks((30, 10, 10), (5, 45, 32))
        np.testing.assert_array_equal(_keep_plant(far, container), self.blocks((5, 45, 32)))

    def test_without_a_container_the_largest_mass_is_kept(self):
        none = np.zeros((80, 80), bool)
        plant = self.blocks((30, 10, 18), (5, 50, 25))
        np.testing.assert_array_equal(_keep_plant(plant, none), self.blocks((5, 50, 25)))
        np.testing.assert_array_equal(_keep_plant(none, none), none)


class Spikes(unittest.TestCase):
    def floret(self, x, swatch=1, confidence=BLOOM.floret - 0.1, radius=10.0):
        return Bloom((x, 0.0), radius, "#804080", "violet", swatch, confidence=confidence)

    def test_unsure_blooms_of_one_colour_that_hang_together_are_one_spike(self):
        near = BLOOM.strung * 20
        chain = [self.floret(0.0), self.floret(0.9 * near), self.floret(1.8 * near)]
        self.assertEqual(_strung(chain), [[0, 1, 2]])
        self.assertEqual(_strung([self.floret(0.0), self.floret(1.01 * near)]), [[0], [1]])
        self.assertEqual(_strung([self.floret(0.0), self.floret(5.0, swatch=2)]), [[0], [1]])
        self.assertEqual(
            _strung([self.floret(0.0), self.floret(5.0, confidence=BLOOM.floret)]), [[0], [1]]
        )

    @given(
        st.lists(
            st.tuples(st.floats(0, 200), st.integers(1, 2), st.sampled_from((0.5, 0.9))), max_size=9
        )
    )
    @settings(max_examples=60)
    def test_every_bloom_is_in_one_chain(self, rows):
        found = _strung([self.floret(x, swatch, sure) for x, swatch, sure in rows])
        self.assertEqual(sorted(i for chain in found for i in chain), list(range(len(rows))))


class Middles(unittest.TestCase):
    def test_a_petal_belongs_to_the_nearest_middle_it_points_to(self):
        shape = (20, 40)
        toward = np.zeros((2, *shape), np.float32)
        toward[0, 10, 14], toward[0, 10, 26] = -4, 4  # towards columns 10 and 30
        petal = np.zeros(shape, bool)
        petal[10, [14, 26, 39]] = True
        found = _numbered(_Toward(toward), petal, np.array([[10.0, 10.0, 0.9], [30.0, 10.0, 0.9]]))
        # 9 past the second: astray
        self.assertEqual((found[10, 14], found[10, 26], found[10, 39], found.sum()), (1, 2, 0, 3))

    def test_how_likely_a_bloom_is_rises_with_each_sign_of_one(self):
        likely, cells, bright = np.array([0.5, 0.5]), np.array([30.0, 30.0]), np.array([0.8, 0.8])
        usual = _truth(likely, cells, bright)
        # By hand: -7.8 + 12.04 x .5 + 1.7 ln(3.09) + 2.78 x .8 = 2.36, of which the logistic is
        # .914.
        self.assertAlmostEqual(usual[0], 0.914, delta=0.002)
        self.assertGreater(_truth(likely + 0.1, cells, bright)[0], usual[0])
        self.assertGreater(_truth(likely, cells, bright + 0.1)[0], usual[0])
        self.assertEqual(_truth(likely, np.array([0.0, 30.0]), bright)[0], 0.0)


class _Toward:
    """The part of a look that numbering reads."""

    def __init__(self, toward):
        self.toward = toward


class Feet(unittest.TestCase):
    def round_foot(self, deep):
        """A foot 60 to either side whose arc is so deep: its ends lie at level 0, its lowest point
        that much below.
        """
        edge = -deep * np.sqrt(1 - (np.arange(-60.0, 61.0) / 60) ** 2)
        along = np.concatenate([np.linspace(low, 400, 40) for low in edge])
        return lower_edge(along, np.repeat(np.arange(-60.0, 61.0), 40), False, 1000.0)

    def test_a_round_foot_is_half_an_ellipse(self):
        level, depth, straight = self.round_foot(10)
        self.assertAlmostEqual(level, 0.0, delta=1.2)
        self.assertAlmostEqual(depth, 10.0, delta=1.2)
        self.assertFalse(straight)

    def test_no_foot_is_seen_more_steeply_than_from_over_the_flowers(self):
        # 58: nearly all of its half width
        self.assertAlmostEqual(self.round_foot(20)[1], FOOT.steepest_view * 58, delta=0.2)

    def test_what_is_too_narrow_to_be_read_keeps_its_lowest_point(self):
        along, side = np.array([0.0, 0.0, 0.0, 90.0]), np.array([0.0, 1.0, 2.0, 1.0])
        self.assertEqual(lower_edge(along, side, True, 1000.0)[1:], (0.0, False))


class Cuts(unittest.TestCase):
    def test_a_stem_is_cut_by_less_than_its_length(self):
        trial = piece()  # its stem is 200 pixels long
        for length in (0.0, -5.0, 191.0, 250.0):
            with self.assertRaises(ValueError, msg=length):
                apply_change(trial, Cut(TIP, length))
        self.assertLess(
            measured(apply_change(trial, Cut(TIP, 150.0)))["height_ratio"].value,
            measured(trial)["height_ratio"].value,
        )


if __name__ == "__main__":
    unittest.main()
