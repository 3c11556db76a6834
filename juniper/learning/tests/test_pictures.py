"""Studies of pictures whose truth is known, of the roll and made on demand."""

import unittest
from functools import lru_cache
from unittest import mock

import numpy as np

from juniper.camera import daylight, practice_pieces, tracing
from juniper.camera.arranging import arrange
from juniper.camera.practice_pieces import CYCLE, practice_piece
from juniper.camera.roll import frame
from juniper.learning.pictures import FAMILIES, SCHOOLS, known_picture


@lru_cache
def known(piece):
    f = frame(piece)
    return known_picture(f.jpeg, f.labels, f.truth)


@lru_cache
def small(number):
    with mock.patch.object(practice_pieces, "SCALE", 0.3):
        return practice_pieces.picture(number)


class FromTheRoll(unittest.TestCase):
    def test_measures_are_those_of_the_truth(self):
        study, truth = known(0).study, frame(0).truth
        self.assertAlmostEqual(
            study.plant_px / study.container_px, truth["findings"]["height_ratio"], delta=0.02
        )
        self.assertAlmostEqual(
            study.values["left_area_share"], truth["findings"]["left_area_share"], delta=0.01
        )
        self.assertEqual((study.scheme, study.exact), ("analogous", True))
        self.assertEqual({c.name for c in study.colours}, {"orange", "yellow", "yellow-orange"})
        self.assertAlmostEqual(sum(c.share for c in study.colours), 1, delta=0.001)

    def test_places_of_faults_made_on_purpose(self):
        stray = next(b for b in frame(16).truth["blooms"] if b["role"] == "accent")
        self.assertEqual(known(16).study.spots["stray accent"], (tuple(stray["centre"]),))
        twins = known(13).study.spots["twin tips"]
        self.assertEqual(len(twins), 2)
        self.assertLess(abs(twins[0][1] - twins[1][1]), 0.1 * known(13).study.plant_px)

    def test_what_schools_give_it(self):
        marks = known(0).marks
        self.assertEqual(set(marks), set(SCHOOLS))
        self.assertGreater(marks["classical-line-mass"]["proportion"], 9)  # as taught
        lower = known(20).marks["classical-line-mass"]  # made too tall on purpose
        self.assertLess(lower["proportion"], marks["classical-line-mass"]["proportion"] - 1)
        for by_family in marks.values():
            self.assertEqual(set(by_family), {*FAMILIES, "score"})


class OnDemand(unittest.TestCase):
    def test_the_same_number_is_the_same_piece_and_faults_go_in_turn(self):
        self.assertEqual(practice_piece(17), practice_piece(17))
        self.assertNotEqual(practice_piece(0), practice_piece(4))
        for n, fault in enumerate(CYCLE):
            self.assertEqual(practice_piece(n).faults, (fault,) if fault else ())
        with self.assertRaises(ValueError):
            practice_piece(-1)

    def test_a_stray_accent_lies_where_its_truth_says(self):
        one = small(3)
        (spot,) = one.truth["spots"]["stray accent"]
        bloom = next(b for b in one.truth["blooms"] if b["role"] == "accent")
        self.assertLess(np.hypot(*np.subtract(spot, bloom["centre"])), 2 * bloom["radius"])
        study = known_picture(one.jpeg, one.labels, one.truth).study
        self.assertEqual(study.spots["stray accent"], (tuple(bloom["centre"]),))

    def test_the_picture_has_the_piece_in_its_own_light(self):
        one = small(3)
        self.assertEqual(one.pixels.shape, (360, 270, 3))
        # petals are more colourful than wall and table, and what is in shadow is not black
        plant, wall = one.labels == tracing.PLANT, one.labels == tracing.BACKDROP
        spread = np.ptp(one.pixels.astype(int), axis=2)
        self.assertGreater(np.percentile(spread[plant], 90), 2 * spread[wall].mean())
        self.assertGreater(np.percentile(one.pixels[plant].max(axis=1), 2), 8)

    def test_clear_glass_is_left_to_the_path_tracer(self):
        piece = practice_piece(0)
        stage = tracing.staged_as(arrange(piece, 1), "front", np.random.default_rng(0), 0.1)
        clear = mock.Mock(material="glass")
        with mock.patch.object(stage.done, "container", clear), self.assertRaises(ValueError):
            daylight.photograph(stage)
