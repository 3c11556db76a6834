"""Learners who are simulated, with a known error that shrinks as they practise: what the estimate
and the choice of the next exercise are tried on.

Somebody who learns errs in each skill by a bias and by chance. Each answer whose truth is shown
makes the error a little smaller, most where the case lies at the edge of what they tell (the
gradient of the chance of a right answer: R. Wilson et al., Nature Communications 10 (2019)), down
to what no eye betters.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

import numpy as np

from juniper.learning.choosing import Standing, next_kind, seen_at, wanted_strength
from juniper.learning.estimate import LEAST, chance_of_right
from juniper.learning.judging import Outcome, Seen
from juniper.learning.kinds import CHOICE, FAULT, KINDS, ORDER, PAIR, SKILLS, Kind

RATE = (0.14, 0.27)  # share of an error that an answer takes at best, in the quickest and slowest
START = datetime(2026, 9, 1, 19, tzinfo=UTC)
A_SITTING = 10  # answers a day
PLAIN = (0.2, 2.2)  # plainness of pictures taken at random
OFFERED = 12  # pictures of a kind that there are to choose from


@dataclass
class SimulatedLearner:
    """A learner with a `bias` and a `noise` in each skill (a beginner's errors), who loses the
    share `rate` of an error with an answer at best. One who guesses answers by chance, and learns
    nothing.
    """

    bias: dict[str, float]
    noise: dict[str, float]
    rate: float
    rng: np.random.Generator
    guesses: bool = False

    @staticmethod
    def by_chance(seed: int, guesses: bool = False) -> SimulatedLearner:
        """Somebody by their number: as good or bad a beginner in each skill as it comes."""
        rng = np.random.default_rng((7, seed))
        bias, noise = {}, {}
        for skill in SKILLS:
            error = float(np.clip(rng.lognormal(math.log(0.8), 0.45), 0.25, 1.8))
            part = float(rng.uniform(-0.6, 0.6))
            bias[skill.code] = part * error
            noise[skill.code] = math.sqrt(1 - part**2) * error
        return SimulatedLearner(bias, noise, float(rng.uniform(*RATE)), rng, guesses)

    def error(self, skill: str) -> float:
        """Their true error: the root mean square of what they answer, a beginner's errors."""
        return math.hypot(self.bias[skill], self.noise[skill])

    @property
    def whole(self) -> float:
        """Their mean error over all skills."""
        return sum(self.error(s.code) for s in SKILLS) / len(SKILLS)

    def answer(self, kind: Kind, strength: float) -> Outcome:
        """Answer an exercise of a plainness, see the truth, and learn of it."""
        error = self.error(kind.skill)
        if kind.answer in (CHOICE, PAIR, FAULT, ORDER):
            case = seen_at(kind, strength, True)
            chance = kind.guess or 0.5 if self.guesses else float(chance_of_right(case, error))
            right = bool(self.rng.random() < chance)
            self._learn(kind.skill, _edge(strength / error))
            seen = seen_at(kind, strength, right)
            return Outcome(None, None, right, "", (seen,))
        if self.guesses:
            signed = float(self.rng.uniform(-3, 3))
        else:
            signed = self.bias[kind.skill] + self.noise[kind.skill] * float(self.rng.normal())
        self._learn(kind.skill, 0.8)
        return Outcome(
            signed * kind.scale, signed * kind.scale, abs(signed) < 0.35, "",
            (Seen(kind.skill, abs(signed)),),
        )  # fmt: skip

    def _learn(self, skill: str, share: float) -> None:
        if self.guesses:
            return
        error = self.error(skill)
        after = LEAST + (error - LEAST) * (1 - self.rate * share)
        self.bias[skill] *= after / error
        self.noise[skill] *= after / error


def _edge(z: float) -> float:
    """Share of the most that can be learnt of a case z errors from the edge: 1 at z = 1."""
    return z * math.exp(0.5 - 0.5 * z * z)


@dataclass(frozen=True)
class Course:
    """A learner's way through some pictures: their true error at first and after each, how many it
    took to halve it (None: more), and the largest and each difference of estimate and truth at the
    end, by skill with its answers.
    """

    errors: tuple[float, ...]
    halved: int | None
    off: dict[str, tuple[float, int]]
    standing: Standing


def practise(
    learner: SimulatedLearner,
    pictures: int = 40,
    chosen: bool = True,
    kinds: tuple[Kind, ...] = KINDS,
    seed: int = 0,
) -> Course:
    """A learner practises so many pictures: chosen for them, or taken at random."""
    rng = np.random.default_rng((9, seed))
    recent: list[str] = []
    standing, errors, now = Standing(), [learner.whole], START
    for n in range(pictures):
        now = START + timedelta(days=n // A_SITTING, minutes=n % A_SITTING)
        there = rng.uniform(*PLAIN, OFFERED)
        if chosen:
            kind = next_kind(standing, kinds, now, rng, recent)
            wanted = wanted_strength(kind, standing.of(kind.skill))
            strength = float(there[np.abs(there - wanted).argmin()])
        else:
            kind, strength = kinds[int(rng.integers(len(kinds)))], float(there[0])
        standing = standing.after(kind, learner.answer(kind, strength), now)
        recent.append(kind.code)
        errors.append(learner.whole)
    halved = next((n for n, e in enumerate(errors) if e <= errors[0] / 2), None)
    off = {code: (e.error - learner.error(code), e.answers) for code, e in standing.skills.items()}
    return Course(tuple(errors), halved, off, standing)


@dataclass(frozen=True)
class Trial:
    """What came of many simulated learners: the median of pictures to halve the error, chosen and
    at random (None: fewer than half did), the share of it that is left after `pictures`, and the
    share of learners whose estimate of a skill after `answers` lay `within` so much of the true
    error: in a beginner's errors (`close`) and as a share of it (`relative`), and the same of
    learners who do not learn (`steady`).
    """

    learners: int
    pictures: int
    chosen_halved: float | None
    random_halved: float | None
    chosen_left: float
    random_left: float
    answers: int
    within: float
    close: float
    relative: float
    steady_close: float
    steady_relative: float


def trial(
    learners: int = 200, pictures: int = 40, answers: int = 30, within: float = 0.15
) -> Trial:
    """Try choice and estimate on so many learners; each practises both ways from the same start."""
    halved: dict[bool, list[float]] = {True: [], False: []}
    left: dict[bool, list[float]] = {True: [], False: []}
    offs: dict[bool, list[tuple[float, float]]] = {True: [], False: []}
    for n in range(learners):
        for chosen in (True, False):
            course = practise(SimulatedLearner.by_chance(n), 4 * pictures, chosen, seed=n)
            halved[chosen].append(math.inf if course.halved is None else course.halved)
            left[chosen].append(course.errors[pictures] / course.errors[0])
        skill = SKILLS[n % len(SKILLS)].code
        own = tuple(k for k in KINDS if k.skill == skill)
        for learns in (True, False):
            learner = SimulatedLearner.by_chance(n)
            learner.rate *= learns
            course = practise(learner, answers, True, own, seed=n)
            offs[learns].append((course.off[skill][0], learner.error(skill)))
    shares = [
        float(np.mean([abs(off) <= within * (true if relative else 1) for off, true in offs[way]]))
        for way in (True, False)
        for relative in (False, True)
    ]
    medians = [float(np.median(halved[way])) for way in (True, False)]
    first, second = (m if math.isfinite(m) else None for m in medians)
    return Trial(
        learners,
        pictures,
        first,
        second,
        float(np.mean(left[True])),
        float(np.mean(left[False])),
        answers,
        within,
        close=shares[0],
        relative=shares[1],
        steady_close=shares[2],
        steady_relative=shares[3],
    )
