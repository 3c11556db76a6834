"""How much a learner errs in a skill, and how surely that is known, from their answers.

The error is a root mean square, bias included, in a beginner's errors: 1 errs like a beginner, .5
half as much. What is known of it is a distribution over a row of values, multiplied by the
likelihood of each answer (Bayes) as in QUEST (A. Watson & D. Pelli, Perception & Psychophysics 33
(1983)). The error moves while it is learnt: by an exponential law (A. Heathcote, S. Brown & D.
Mewhort, Psychonomic Bulletin & Review 7 (2000)) at one of a few rates, of which the likelihood
tells as well.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.special import ndtr

from juniper.learning.judging import Seen

LOWEST, HIGHEST, STEPS = 0.05, 4.0, 81  # of the row of errors, in equal ratios
# Share of an error over LEAST that goes with each answer, and how likely each rate is before the
# first (assumed).
RATES = (0.0, 0.03, 0.06, 0.1, 0.15, 0.2)
RATES_PRIOR = (0.3, 0.2, 0.15, 0.15, 0.1, 0.1)
LEAST = 0.1  # a beginner's error that no practice betters (assumed)
# What is believed before the first answer: about a beginner's error, within a factor of this much
# either way in two learners of three (assumed).
PRIOR, PRIOR_SPREAD = 0.9, 1.7
DRIFT = 0.02  # log units that the error may move by itself between two answers
DRIFT_A_DAY = 0.03  # and for the root of each day without practice
SLIP = 0.03  # share of answers that are slips of the finger (common practice in psychophysics)
SLIP_REACH = 6.0  # beginner's errors over which slips are spread evenly
STEEP = 2.0  # of Weibull's curve, for right and wrong answers without a measured distance
FEW = 3  # answers in a skill under which its error is not spoken of
LEAN_FROM = 5  # errors from which a lean is told

_ROW = np.exp(np.linspace(math.log(LOWEST), math.log(HIGHEST), STEPS))
_LOG_STEP = math.log(HIGHEST / LOWEST) / (STEPS - 1)


def _carried(rate: float) -> np.ndarray:
    """Where each error of the row goes with one answer: a matrix (STEPS, STEPS) whose rows add up
    to 1, each error shared between the two of the row that it comes to lie between.
    """
    after = np.where(_ROW > LEAST, LEAST + (_ROW - LEAST) * (1 - rate), _ROW)
    place = np.clip(np.log(after / LOWEST) / _LOG_STEP, 0, STEPS - 1)
    low = np.minimum(np.floor(place + 1e-9).astype(int), STEPS - 2)
    part = np.clip(place - low, 0, 1)
    out = np.zeros((STEPS, STEPS))
    out[np.arange(STEPS), low] += 1 - part
    out[np.arange(STEPS), low + 1] += part
    return out


_LEARNT = np.stack([_carried(rate) for rate in RATES])


def chance_of_right(seen: Seen, error: float | np.ndarray):
    """How likely a right answer is at an error (a beginner's errors; a figure or an array).

    Pairs and bands that lie a distance apart are told by Phi(distance / error), the rule of paired
    comparison (L. Thurstone 1927); a thing to find or to name by Weibull's curve over its
    plainness, as in QUEST.
    """
    error = np.asarray(error, float)
    if seen.graded:
        right = ndtr(seen.strength / error)
    else:
        found = 1 - np.exp(-((seen.strength / error) ** STEEP) * math.log(2))
        right = seen.guess + (1 - seen.guess) * found
    return (1 - SLIP) * right + SLIP * seen.guess


def _likelihood(seen: Seen) -> np.ndarray:
    if seen.error is None:
        right = chance_of_right(seen, _ROW)
        return right if seen.right else 1 - right
    # as if within a fingertip of the true value at the best, and no further off than is told apart
    e = min(max(seen.error, 0.01), HIGHEST)
    if seen.axes == 1:
        told = math.sqrt(2 / math.pi) / _ROW * np.exp(-0.5 * (e / _ROW) ** 2)
    else:
        told = 2 * e / _ROW**2 * np.exp(-((e / _ROW) ** 2))
    return (1 - SLIP) * told + SLIP / SLIP_REACH


@dataclass(frozen=True)
class Estimate:
    """What is known of a learner's error in one skill after `answers`: the `weights` of each rate
    of learning and error of the row, RATES by STEPS, which add up to 1.
    """

    weights: tuple[tuple[float, ...], ...]
    answers: int = 0

    @cached_property
    def _w(self) -> np.ndarray:
        return np.asarray(self.weights)

    @property
    def error(self) -> float:
        """The error, a beginner's errors: the mean."""
        return float(self._w.sum(0) @ _ROW)

    @property
    def uncertainty(self) -> float:
        """Its standard uncertainty, a beginner's errors."""
        return math.sqrt(max(0.0, float(self._w.sum(0) @ _ROW**2) - self.error**2))

    @property
    def rate(self) -> float:
        """The share of the error that goes with an answer: the mean."""
        return float(self._w.sum(1) @ np.asarray(RATES))

    @property
    def known(self) -> bool:
        """Whether there are answers enough to speak of it."""
        return self.answers >= FEW

    def after(self, seen: Seen) -> Estimate:
        """What is known after one more answer, whose truth the learner then sees."""
        told = self._w * _likelihood(seen)
        moved = (told[:, None, :] / told.sum() @ _LEARNT)[:, 0]
        return Estimate(_rows(_widened(moved, DRIFT)), self.answers + 1)

    def rested(self, days: float) -> Estimate:
        """What is known after days without practice."""
        if days <= 0 or not self.answers:
            return self
        return Estimate(_rows(_widened(self._w, DRIFT_A_DAY * math.sqrt(days))), self.answers)

    def as_document(self) -> dict:
        """For JSON; Estimate.read() takes it back."""
        return {
            "weights": [[round(w, 6) for w in row] for row in self.weights],
            "answers": self.answers,
        }

    @staticmethod
    def read(document: dict) -> Estimate:
        """The estimate of a document that as_document() made. Raises ValueError for another row."""
        w = np.asarray(document["weights"], float)
        if w.shape != (len(RATES), STEPS) or not np.isfinite(w).all() or w.sum() <= 0:
            raise ValueError("The estimate was kept over another row.")
        return Estimate(_rows(w), int(document["answers"]))


def _rows(weights: np.ndarray) -> tuple[tuple[float, ...], ...]:
    return tuple(map(tuple, (weights / weights.sum()).tolist()))


def _widened(weights: np.ndarray, by: float) -> np.ndarray:
    """Weights after a walk by chance of `by` log units (one standard deviation), at the most one
    step of the row at a time.
    """
    left = (by / _LOG_STEP) ** 2
    while left > 0:
        part = min(left, 0.5)
        aside = np.pad(weights, ((0, 0), (1, 1)), mode="edge")
        weights = (1 - part) * weights + part / 2 * (aside[:, 2:] + aside[:, :-2])
        left -= part
    return weights


def unknown() -> Estimate:
    """What is known before the first answer."""
    w = np.exp(-0.5 * (np.log(_ROW / PRIOR) / math.log(PRIOR_SPREAD)) ** 2)
    return Estimate(_rows(np.outer(RATES_PRIOR, w)))


def estimate_of(all_seen: Sequence[Seen]) -> Estimate:
    """The estimate after a row of answers in one skill."""
    now = unknown()
    for seen in all_seen:
        now = now.after(seen)
    return now


@dataclass(frozen=True)
class Lean:
    """How far answers lie to one side on average: `by`, with its standard uncertainty, in the
    answers' unit.
    """

    by: float
    uncertainty: float
    answers: int

    @property
    def sure(self) -> bool:
        """Whether it is beyond chance (two standard uncertainties)."""
        return abs(self.by) > 2 * self.uncertainty


def lean_of(signed: Sequence[float]) -> Lean | None:
    """The lean of errors with their direction; None with fewer than LEAN_FROM of them.

    >>> lean_of([0.1, 0.1, 0.1, 0.1, 0.1]).by
    0.1
    """
    n = len(signed)
    if n < LEAN_FROM:
        return None
    values = np.asarray(signed, float)
    return Lean(round(float(values.mean()), 6), float(values.std(ddof=1) / math.sqrt(n)), n)
