"""Estimate and choice: against known laws of the normal distribution, and on simulated learners."""

import json
import unittest
from datetime import timedelta

import numpy as np

from juniper.learning.choosing import (
    EDGE,
    Standing,
    next_kind,
    rating_of,
    wanted_strength,
    weights_of,
)
from juniper.learning.estimate import SLIP, Estimate, chance_of_right, estimate_of, lean_of, unknown
from juniper.learning.judging import Outcome, Seen
from juniper.learning.kinds import KIND, KINDS, SKILLS
from juniper.learning.simulated import A_SITTING, START, SimulatedLearner, practise


def answers(error, count, axes=1, seed=3):
    rng = np.random.default_rng(seed)
    drawn = np.abs(rng.normal(0, error, (count, axes)) / np.sqrt(axes))
    return [Seen("height", float(np.hypot.reduce(d)), axes) for d in drawn]


class Estimates(unittest.TestCase):
    def test_the_chance_of_a_right_answer_is_phi_of_distance_over_error(self):
        # Phi(1) = .8413 (tables of the normal distribution)
        pair = Seen("comparing", right=True, strength=0.5, guess=0.5)
        self.assertAlmostEqual(
            float(chance_of_right(pair, 0.5)), (1 - SLIP) * 0.8413 + SLIP * 0.5, places=4
        )
        # a thing a beginner just sees is found by half of those who do not guess it
        fault = Seen("faults", right=True, strength=1.0, guess=0.1, graded=False)
        self.assertAlmostEqual(
            float(chance_of_right(fault, 1.0)), (1 - SLIP) * 0.55 + SLIP * 0.1, places=6
        )

    def test_many_steady_answers_tell_the_error(self):
        for error in (0.3, 1.0):
            for axes in (1, 2):
                with self.subTest(error=error, axes=axes):
                    found = estimate_of(answers(error, 200, axes))
                    self.assertAlmostEqual(found.error, error, delta=0.15 * error)
                    self.assertLess(found.rate, 0.02)
        self.assertLess(
            estimate_of(answers(0.5, 60)).uncertainty, estimate_of(answers(0.5, 6)).uncertainty
        )

    def test_larger_errors_raise_it_and_right_answers_lower_it(self):
        start = unknown()
        self.assertGreater(start.after(Seen("height", 2.5)).error, start.error)
        self.assertLess(start.after(Seen("height", 0.05)).error, start.error)
        hard = {"strength": 0.4, "guess": 0.5}
        self.assertLess(
            start.after(Seen("comparing", right=True, **hard)).error,
            start.after(Seen("comparing", right=False, **hard)).error,
        )

    def test_answers_that_are_wildly_off_are_no_slips_when_they_come_again(self):
        now = estimate_of([Seen("balance", 30.0)] * 7 + [Seen("balance", 0.1)] * 3)
        self.assertGreater(now.error, 1.5)

    def test_an_error_that_shrinks_is_followed(self):
        rng, error, now = np.random.default_rng(5), 1.2, unknown()
        for _ in range(30):
            now = now.after(Seen("height", abs(float(rng.normal(0, error)))))
            error = 0.1 + (error - 0.1) * 0.9
        self.assertAlmostEqual(now.error, error, delta=0.15)
        self.assertGreater(now.rate, 0.04)

    def test_rest_makes_it_less_sure(self):
        now = estimate_of(answers(0.5, 20))
        self.assertGreater(now.rested(30).uncertainty, now.uncertainty)
        self.assertEqual(now.rested(0), now)

    def test_it_survives_json_and_another_row_is_refused(self):
        now = estimate_of(answers(0.5, 3))
        again = Estimate.read(json.loads(json.dumps(now.as_document())))
        self.assertAlmostEqual(again.error, now.error, places=4)
        with self.assertRaises(ValueError):
            Estimate.read({"weights": [[1.0, 2.0]], "answers": 3})

    def test_a_lean_is_spoken_of_from_five_answers(self):
        self.assertIsNone(lean_of([0.1] * 4))
        lean = lean_of([0.0, 0.1, 0.2, 0.1, 0.1])
        # mean .1; standard deviation .0707, by the root of five
        self.assertAlmostEqual(lean.by, 0.1)
        self.assertAlmostEqual(lean.uncertainty, 0.0316, places=4)
        self.assertTrue(lean.sure)


class Choosing(unittest.TestCase):
    def weak_in(self, skill):
        kind = next(k for k in KINDS if k.skill == skill and k.answer not in ("choice", "pair"))
        standing = Standing()
        for s in SKILLS:
            own = next(k for k in KINDS if k.skill == s.code)
            size = 1.6 if s.code == skill else 0.2
            for _ in range(6):
                out = Outcome(size, size, False, "", (Seen(s.code, size),))
                standing = standing.after(own, out, START)
        return standing, kind

    def test_the_weakest_skill_comes_most_often_and_not_three_times_in_a_row(self):
        standing, _ = self.weak_in("balance")
        weights = weights_of(standing, [s.code for s in SKILLS])
        self.assertEqual(max(weights, key=weights.get), "balance")
        self.assertAlmostEqual(sum(weights.values()), 1)
        self.assertEqual(weights_of(standing, list(weights), ["balance"] * 2)["balance"], 0)
        rng, recent = np.random.default_rng(0), []
        for _ in range(60):
            recent.append(next_kind(standing, KINDS, START, rng, recent).code)
        skills = [KIND[c].skill for c in recent]
        self.assertGreater(skills.count("balance"), 25)
        self.assertFalse(any(len(set(skills[i : i + 3])) == 1 for i in range(58)))

    def test_the_edge_is_where_85_in_100_are_right(self):
        for code in ("higher", "twins", "scheme"):
            kind, estimate = KIND[code], estimate_of(answers(0.5, 40))
            plain = wanted_strength(kind, estimate)
            graded = kind.answer == "pair"
            seen = Seen(kind.skill, True, 1, True, plain, kind.guess, graded)
            right = (float(chance_of_right(seen, estimate.error)) - SLIP * kind.guess) / (1 - SLIP)
            self.assertAlmostEqual(right, EDGE, places=3)

    def test_what_went_well_comes_later_than_what_went_badly(self):
        def due(size):
            out = Outcome(size, size, False, "", (Seen("height", size),))
            return Standing().after(KIND["reach"], out, START).cards["reach"].due

        self.assertGreater(due(0.05), due(0.3))
        self.assertGreater(due(0.3), due(2.0))
        self.assertGreater(due(0.05), START + timedelta(days=2))
        standing = Standing().after(
            KIND["reach"], Outcome(1, 1, False, "", (Seen("height", 2.0),)), START
        )
        self.assertEqual(standing.due(START), ())
        self.assertEqual(standing.due(START + timedelta(days=60)), ("reach",))

    def test_what_was_not_practised_for_a_month_is_less_surely_known(self):
        standing, _ = self.weak_in("balance")
        later = START + timedelta(days=30)
        self.assertGreater(
            standing.rested("balance", later).uncertainty, standing.of("balance").uncertainty
        )
        self.assertEqual(standing.rested("balance", START), standing.of("balance"))
        self.assertEqual(Standing().rested("balance", later), unknown())

    def test_ratings_go_by_what_is_right_and_by_the_learner_s_own_error(self):
        start = unknown()
        rated = [
            rating_of(Outcome(s, s, False, "", (Seen("height", s),)), start).name
            for s in (0.05, 0.3, 0.7, 2.0)
        ]
        self.assertEqual(rated, ["Easy", "Good", "Hard", "Again"])

    def test_a_standing_survives_json(self):
        standing, _ = self.weak_in("focal")
        again = Standing.read(json.loads(json.dumps(standing.as_document())))
        self.assertEqual(again.cards["reach"].due, standing.cards["reach"].due)
        self.assertAlmostEqual(again.of("focal").error, standing.of("focal").error, places=4)


class Simulated(unittest.TestCase):
    def test_the_estimate_follows_a_learner(self):
        close = []
        for n in range(14):
            skill = SKILLS[n % len(SKILLS)].code
            own = tuple(k for k in KINDS if k.skill == skill)
            off, _ = practise(SimulatedLearner.by_chance(n), 30, True, own, n).off[skill]
            close.append(abs(off) <= 0.15)
        self.assertGreaterEqual(np.mean(close), 0.9)

    def test_chosen_pictures_teach_faster_than_pictures_at_random(self):
        left = {
            way: np.mean(
                [
                    practise(SimulatedLearner.by_chance(n), 40, way, seed=n).errors[-1]
                    / SimulatedLearner.by_chance(n).whole
                    for n in range(12)
                ]
            )
            for way in (True, False)
        }
        self.assertLess(left[True], 0.93 * left[False])

    def test_somebody_who_guesses_does_not_appear_to_learn(self):
        for n in range(4):
            early, late = (
                practise(SimulatedLearner.by_chance(n, guesses=True), days * A_SITTING, seed=n)
                for days in (3, 8)
            )
            before, after = (
                np.mean([early_or_late.standing.of(s.code).error for s in SKILLS])
                for early_or_late in (early, late)
            )
            self.assertGreater(after, 1.2)
            self.assertGreater(after, before - 0.1)
            self.assertEqual(late.errors[0], late.errors[-1])
