"""A taught band: limit, ideal, ideal, limit; and the score expected of an uncertain value."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Band:
    """Full marks from `low` to `high`, falling in a straight line to none at `low_limit` and
    `high_limit`. A side without end has -inf or inf for both of its figures."""

    low_limit: float
    low: float
    high: float
    high_limit: float

    def __post_init__(self):
        if not self.low_limit <= self.low <= self.high <= self.high_limit:
            raise ValueError("a band must rise: limit, ideal from, ideal to, limit")

    @property
    def edges(self) -> tuple[float, float, float, float]:
        """The four edges, as they rise."""
        return self.low_limit, self.low, self.high, self.high_limit

    def score(self, value: float) -> float:
        """Score 0..1 of an exact value.

        >>> Band(1.0, 1.5, 2.0, 2.5).score(1.25)
        0.5
        """
        if self.low <= value <= self.high:
            return 1.0
        if value < self.low:
            return (
                0.0
                if value <= self.low_limit
                else (value - self.low_limit) / (self.low - self.low_limit)
            )
        return (
            0.0
            if value >= self.high_limit
            else (self.high_limit - value) / (self.high_limit - self.high)
        )

    def expected(self, value: float, uncertainty: float) -> float:
        """Mean of score() over a normal distribution of the value, in closed form.

        Each ramp from a to b integrates to (G(b) - G(a)) / (b - a) with
        G(x) = (x - m) Phi((x - m) / s) + s phi((x - m) / s), the integral of the normal's
        distribution function; a band is a rising ramp less a falling one.

        >>> round(Band(1.0, 1.5, 2.0, 2.5).expected(2.0, 0.1), 3)
        0.92
        """
        if uncertainty <= 0:
            return self.score(value)
        rise = 1.0 if math.isinf(self.low) else _ramp(self.low_limit, self.low, value, uncertainty)
        fall = (
            0.0 if math.isinf(self.high) else _ramp(self.high, self.high_limit, value, uncertainty)
        )
        # A tail too thin to matter is none: 1e-255 of a mark is nothing that can be shown.
        return round(min(1.0, max(0.0, rise - fall)), 9)

    def deviation(self, value: float, uncertainty: float) -> float:
        """Standard deviation of score() over a normal distribution of the value (mean `value`,
        standard deviation `uncertainty`), in closed form: the root of the mean square less the
        squared mean (JCGM 101, 5.9, in closed form).
        """
        if uncertainty <= 0:
            return 0.0
        rise = (
            1.0
            if math.isinf(self.low)
            else _ramp_square(self.low_limit, self.low, value, uncertainty)
        )
        fall = (
            1.0
            if math.isinf(self.high)
            else _ramp_square(-self.high_limit, -self.high, -value, uncertainty)
        )
        # Between the ramps the score is 1, and each side's mean square counts it: of the two
        # together the whole is taken once.
        square = rise + fall - 1.0
        return math.sqrt(max(0.0, square - self.expected(value, uncertainty) ** 2))

    def earning(self, part: float, value: float) -> float | None:
        """The exact value that earns `part` (0..1) of the marks on the side on which `value` lies;
        None inside the band.

        >>> Band(1.0, 1.5, 2.0, 2.5).earning(0.8, 3.0)
        2.1
        """
        if value < self.low:
            return self.low_limit + part * (self.low - self.low_limit)
        return self.high_limit - part * (self.high_limit - self.high) if value > self.high else None

    def state(self, value: float) -> str:
        """'met' within the ideal, 'near' short of a limit, else 'missed'.

        >>> Band(1.0, 1.5, 2.0, 2.5).state(2.2)
        'near'
        """
        if self.low <= value <= self.high:
            return "met"
        return "near" if self.low_limit < value < self.high_limit else "missed"

    def borderline(self, value: float, uncertainty: float) -> bool:
        """Whether an edge of the band lies within the uncertainty of the value.

        >>> Band(1.0, 1.5, 2.0, 2.5).borderline(2.05, 0.1)
        True
        """
        return any(math.isfinite(e) and abs(e - value) < uncertainty for e in self.edges)


# A ramp narrower than this part of the standard deviation is taken as the step at its middle: its
# own formula would be a difference of nearly equal figures (error then under 1e-9 of a score).
NARROW = 1e-4
WIDE = 1e12  # standard deviations from which a ramp is as straight as its own line
FAR = 9.0  # standard deviations beyond which the normal's tail is under 1e-18


def _below(x: float) -> float:
    """The standard normal's distribution function."""
    return 0.5 * (1 + math.erf(x / math.sqrt(2)))


def _density(x: float) -> float:
    """The standard normal's density."""
    return math.exp(-x * x / 2) / math.sqrt(2 * math.pi)


def _straight(start: float, end: float, value: float) -> float:
    """How high a ramp from `start` to `end` is at a value."""
    return min(1.0, max(0.0, (value - start) / (end - start)))


def _ramp_square(start: float, end: float, mean: float, sd: float) -> float:
    """Expectation of the square of a ramp that is 0 before `start` and 1 after `end`."""
    a, b = (start - mean) / sd, (end - mean) / sd
    if a > FAR or b < -FAR:
        return 0.0 if a > FAR else 1.0
    wide = (end - start) / sd
    if wide > WIDE:
        return _straight(start, end, mean) ** 2
    if wide < NARROW:
        middle = (a + b) / 2
        return _below(-middle) - wide / 6 * _density(middle)
    share = _below(b) - _below(a)
    first, second = _density(a) - _density(b), share + a * _density(a) - b * _density(b)
    return (a * a * share - 2 * a * first + second) / wide**2 + 1 - _below(b)


def _ramp(start: float, end: float, mean: float, sd: float) -> float:
    """Expectation of a ramp that is 0 before `start` and 1 after `end`."""
    a, b = (start - mean) / sd, (end - mean) / sd
    if a > FAR or b < -FAR:
        return 0.0 if a > FAR else 1.0
    wide = (end - start) / sd
    if wide > WIDE:
        return _straight(start, end, mean)
    if wide < NARROW:
        return _below(-(a + b) / 2)

    def area(x: float) -> float:
        return _density(x) - x * _below(-x)

    return (area(a) - area(b)) / wide
