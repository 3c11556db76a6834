"""The datum read: levels of base and rim along the axis by each way there is, weighed by their
uncertainties.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import erf, sqrt

import numpy as np

from juniper.scene.container.datum import (
    NEEDS_CHECK_BELOW,
    Datum,
    ExpectedHeight,
    HandleUncertainty,
    NoContainer,
)
from juniper.scene.container.foot import foot_ellipse, lower_edge
from juniper.scene.container.pose import Ellipse
from juniper.scene.container.profile import Profile
from juniper.scene.container.rim import rim_line
from juniper.scene.container.shape import ContainerShape, fitted
from juniper.scene.segment.probabilities import Keypoint
from juniper.values import point


@dataclass(frozen=True)
class Level:
    """A level along the axis and its standard uncertainty, in pixels."""

    at: float
    uncertainty: float


@dataclass(frozen=True)
class ReadingSettings:
    """Uncertainties of each way of reading, in parts of the container's height unless said
    otherwise, and when a doubt is worth words.
    """

    point: float = 0.02  # of a keypoint, beside the spread of its map
    end: float = 0.03  # of a rim end's level: the lip is round there
    stretch: float = 1.4  # times the spread of a keypoint's map: maps are surer than they should be
    round: float = 0.02  # of a foot whose lower edge is half an ellipse
    edge: float = 0.06  # of any other lower edge: a box's depth is not seen
    rim: float = 0.03  # of a rim by the wall's upper end, where it shows
    # share of the rim line from which the wall's upper end is a reading beside keypoints
    shows: float = 0.6
    # without keypoints: what the rim's uncertainty grows by where nothing of it shows
    hidden: float = 0.25
    # openness of a foot under which its arc cannot be told from a straight edge
    flattest: float = 0.03
    most_open: float = 0.6  # openness of a foot over which it is none
    under: float = 0.1  # of the seen height: what below the rim tells its width
    known: float = 0.02  # of a rim where a known shape has it
    # of the height ratio: an error of less is none, and the confidence is its probability
    right: float = 0.08
    # share of a keypoint's map at its peak, below which no ellipse is read by it
    told: float = 0.35
    sure: float = 0.5  # the same, below which its place is doubted in words
    # joint standard uncertainties by which readings may differ before that is said
    apart: float = 2.5
    doubted: float = 0.5  # what each contradiction between readings leaves of the confidence
    # spread of a keypoint across the axis, from which it lies partly on another thing
    elsewhere: float = 0.15
    steady: float = 0.75  # agreement of the looks below which that is said


READING = ReadingSettings()
ANOTHER = "its height does not fit the container on the shelf: is it the one in the brief?"
ANOTHER_HEIGHT = (
    "the reference card gives another height than the brief: is the height in the brief right?"
)


def weighed(*levels: Level) -> tuple[Level, float]:
    """Levels joined by inverse variance, and the Birge ratio: how much more they differ than they
    should (Birge 1932). Where it is over 1 the uncertainty grows by it.
    """
    at, uncertainty = np.array([x.at for x in levels]), np.array([x.uncertainty for x in levels])
    weight = uncertainty**-2
    mean = float(weight @ at / weight.sum())
    ratio = (
        float(np.sqrt(weight @ (at - mean) ** 2 / (len(levels) - 1))) if len(levels) > 1 else 0.0
    )
    return Level(mean, float(weight.sum() ** -0.5) * max(1.0, ratio)), ratio


@dataclass(frozen=True, eq=False)
class Seen:
    """A container's wall laid along its axis: `origin` (x, y) is where the axis meets its lower
    edge, `up` and `across` unit vectors; `along` and `side` (n,) the places of the wall's pixels;
    `profile` its sides.
    """

    profile: Profile
    origin: np.ndarray
    up: np.ndarray
    across: np.ndarray
    along: np.ndarray
    side: np.ndarray

    @property
    def high(self) -> float:
        """What is seen of its height, pixels."""
        return len(self.profile.half) * float(np.hypot(self.profile.slope, 1.0))

    @property
    def boxed(self) -> bool:
        """Whether the sides are so even that it may be a box."""
        return float(np.percentile(self.profile.half, 90)) < 1.08 * float(
            np.percentile(self.profile.half, 30)
        )

    @property
    def foot_half(self) -> float:
        """Half the width of its foot."""
        return max(4.0, float(np.median(self.profile.half[: max(2, len(self.profile.half) // 20)])))

    def point(self, point: Keypoint, more: float, settings: ReadingSettings) -> Level:
        """A keypoint's level along the axis; `more` is its uncertainty beside its map's spread, in
        parts of the height.
        """
        spread = float(np.sqrt(self.up @ point.covariance @ self.up))
        return Level(
            float((point.at - self.origin) @ self.up), settings.stretch * spread + more * self.high
        )


def seen_of(wall: np.ndarray, profile: Profile | None) -> Seen:
    """The wall (bool h x w) along its axis. Raises NoContainer when there is nothing to measure
    from.
    """
    if profile is None or wall.sum() < 0.0003 * wall.size:
        raise NoContainer("No container can be made out.")
    up = np.array([-profile.slope, -1.0]) / np.hypot(profile.slope, 1.0)
    across = np.array([-up[1], up[0]])
    ys, xs = np.nonzero(wall)
    step = np.column_stack([xs, ys]) - np.array(profile.foot)
    # Pixel i covers i to i + 1: its middle stands for it.
    return Seen(profile, np.array(profile.foot) + 0.5, up, across, step @ up, step @ across)


@dataclass(frozen=True)
class Foot:
    """A foot read off the wall's lower edge: the level of its middle, how far it opens (None where
    it is no half ellipse), and whether the edge is straight.
    """

    level: Level
    openness: float | None
    straight: bool


def foot_of(seen: Seen, focal: float, settings: ReadingSettings = READING) -> Foot:
    """The foot by the wall's lower edge; `focal` in pixels."""
    ellipse = foot_ellipse(seen.along, seen.side, seen.high)
    if (
        ellipse is not None
        and settings.flattest < ellipse[1] < settings.most_open
        and not seen.boxed
    ):
        return Foot(Level(ellipse[0], settings.round * seen.high + 1.0), ellipse[1], False)
    level, _, straight = lower_edge(seen.along, seen.side, seen.boxed, focal)
    if ellipse is not None and settings.flattest < ellipse[1] < settings.most_open:
        return Foot(Level(ellipse[0], settings.edge * seen.high / 2 + 1.0), ellipse[1], False)
    return Foot(Level(level, settings.edge * seen.high + 1.0), None, straight)


def find_datum(
    seen: Seen,
    foot: Foot,
    points: dict[str, Keypoint] | None,
    top: np.ndarray,
    focal: float,
    known: ContainerShape | None = None,
    told: ExpectedHeight | None = None,
    agreement: float = 1.0,
    settings: ReadingSettings = READING,
) -> Datum:
    """Datum of a container whose wall and foot were seen. `points` are the network's keypoints,
    None without one; `top` (x, y) is the plant's highest point; `focal` the focal length in pixels,
    `known` the container's shape from the shelf, `told` its height by the reference card,
    `agreement` 0..1 how far the looks agree. Raises NoContainer when base and rim lie on one
    another.

    The confidence is the probability that the height ratio lies within `settings.right` of the
    truth, by the uncertainties of base and rim.
    """
    profile, high, doubts = seen.profile, seen.high, []
    bases = (
        [foot.level]
        if points is None
        else [foot.level, seen.point(points["base"], settings.point, settings)]
    )
    base, apart = weighed(*bases)
    if apart > settings.apart:
        doubts.append("two readings of the foot differ")
    rim, apart = weighed(*_rims(seen, foot, points, focal, settings))
    if apart > settings.apart:
        doubts.append("two readings of the rim differ")
    rim = _with_what_is_known(rim, base, profile, known, told, doubts, settings)
    if rim.at - base.at < 4:
        raise NoContainer("No container can be made out.")
    half = _half_width(seen, rim, points, settings)
    head, low = (seen.origin + level.at * seen.up for level in (rim, base))
    ends = head - half * seen.across, head + half * seen.across
    confidence, more = _confidence(
        seen, rim, base, float((top - seen.origin) @ seen.up), points, agreement, settings
    )
    return Datum(
        point(head),
        point(low),
        point(ends[0]),
        point(ends[1]),
        confidence=float(np.clip(confidence * settings.doubted ** len(doubts), 0.02, 1)),
        spread=HandleUncertainty(
            min(rim.uncertainty, 0.4 * high),
            min(base.uncertainty, 0.4 * high),
            1.0 + 0.01 * 2 * half,
        ),
        doubts=(*doubts, *more),
    )


def _half_width(
    seen: Seen, rim: Level, points: dict[str, Keypoint] | None, settings: ReadingSettings
) -> float:
    """Half the rim's width by the sides right below it and by the keypoints of its ends. Leaves
    only hide, so where the two are not of one thing the broader is believed.
    """
    levels, half = np.arange(len(seen.profile.half)), seen.profile.half
    near = half[(levels > rim.at - settings.under * seen.high) & (levels <= rim.at)]
    sides = max(
        float(np.interp(rim.at, levels, half)), float(np.median(near)) if len(near) else 0.0
    )
    if points is None:
        return sides
    left, right = (points[n] for n in ("rim_left", "rim_right"))
    wide = max(float((right.at - left.at) @ seen.across) / 2, 1.0)
    spread = (
        settings.stretch
        * float(np.sqrt(sum(seen.across @ p.covariance @ seen.across for p in (left, right))))
        / 2
    )
    both = (
        Level(sides, settings.rim * seen.high + 1.0),
        Level(wide, spread + settings.point * seen.high),
    )
    joined, apart = weighed(*both)
    return joined.at if apart <= 1 else max(sides, wide)


def _rims(
    seen: Seen,
    foot: Foot,
    points: dict[str, Keypoint] | None,
    focal: float,
    settings: ReadingSettings,
) -> list[Level]:
    """The rim's level by its keypoints, or without them by the wall's upper end, and by both where
    all of it shows.
    """
    looked_down = 0.0
    if foot.openness is not None and not foot.straight:
        looked_down = max(
            0.0, float(np.sin(np.arcsin(foot.openness) - np.arctan(seen.high / focal)))
        )
    level, _, shown = rim_line(seen.along, seen.side, seen.profile, looked_down)
    if points is None:
        return [
            Level(
                level,
                (settings.rim + settings.hidden * (1 - min(1.0, shown / settings.shows)))
                * seen.high
                + 1.0,
            )
        ]
    out = [seen.point(points["rim"], settings.point, settings)]
    out += [seen.point(points[n], settings.end, settings) for n in ("rim_left", "rim_right")]
    if shown >= settings.shows:
        out.append(Level(level, settings.rim * seen.high + 1.0))
    return out


def _with_what_is_known(
    rim: Level,
    base: Level,
    profile: Profile,
    known,
    told,
    doubts: list[str],
    settings: ReadingSettings,
) -> Level:
    """The rim joined with where a known shape and the reference card have it; where they contradict
    it, the rim that shows is believed, and `doubts` says so.
    """
    fit = fitted(profile, base.at, known) if known is not None else None
    laid = (
        Level(base.at + fit.height, settings.known * fit.height)
        if fit is not None and fit.good
        else None
    )
    by_card = (
        Level(
            base.at + told.height, float(np.hypot(told.uncertainty * told.height, base.uncertainty))
        )
        if told is not None
        else None
    )
    if fit is not None and laid is None:
        doubts.append("its outline does not fit the container on the shelf")
    if (
        laid
        and by_card
        and abs(laid.at - by_card.at)
        > settings.apart * float(np.hypot(laid.uncertainty, by_card.uncertainty))
    ):
        doubts.append(ANOTHER)
        laid = None
    agreeing = []
    for level, words in ((laid, ANOTHER), (by_card, ANOTHER_HEIGHT)):
        if level is None:
            continue
        if abs(level.at - rim.at) > settings.apart * float(
            np.hypot(level.uncertainty, rim.uncertainty)
        ):
            doubts.append(words)
        else:
            agreeing.append(level)
    return weighed(rim, *agreeing)[0]


def ellipses(
    seen: Seen,
    foot: Foot,
    datum: Datum,
    points: dict[str, Keypoint],
    centre: np.ndarray,
    settings: ReadingSettings = READING,
) -> list[Ellipse]:
    """The ellipses of foot and rim by the network's keypoints, and of the foot by the wall's lower
    edge; none of a box's foot, whose depth is not seen. `centre` is the principal point.
    """
    out = []
    if foot.openness is not None:
        below = float((centre - np.array(datum.base)) @ seen.up)
        out.append(Ellipse(below, foot.openness, 0.5 * settings.edge))
    for middle, front, half in (
        ("base", "foot_front", seen.foot_half),
        ("rim", "rim_front", datum.rim_width / 2),
    ):
        if half < 2 or (middle == "base" and seen.boxed):
            continue
        if min(points[n].mass for n in (middle, front)) > settings.told:
            drop = float((points[middle].at - points[front].at) @ seen.up)
            spread = settings.stretch * float(
                np.sqrt(sum(seen.up @ points[n].covariance @ seen.up for n in (middle, front)))
            )
            out.append(
                Ellipse(float((centre - points[middle].at) @ seen.up), drop / half, spread / half)
            )
    return out


def _confidence(
    seen: Seen,
    rim: Level,
    base: Level,
    top: float,
    points: dict[str, Keypoint] | None,
    agreement: float,
    settings: ReadingSettings,
) -> tuple[float, list[str]]:
    """Probability that the height ratio is right, and what makes it unlikely, in words."""
    high, plant = rim.at - base.at, max(top - rim.at, 1.0)
    # To first order: a rim set higher makes the plant shorter and the container taller.
    miss = float(np.hypot(rim.uncertainty * (1 / plant + 1 / high), base.uncertainty / high))
    confidence = erf(settings.right / miss / sqrt(2))
    doubts = []
    if points is not None:
        for name, words in (
            ("rim", "the rim is hidden, or hardly shows"),
            ("base", "the foot hardly shows"),
        ):
            if points[name].mass < settings.sure:
                confidence *= settings.doubted
                doubts.append(words)
        aside = max(
            float(np.sqrt(seen.across @ points[n].covariance @ seen.across))
            for n in ("rim", "base")
        )
        if aside > settings.elsewhere * high:
            confidence *= settings.doubted
            doubts.append("there is another vessel beside it")
    if agreement < settings.steady:
        confidence *= 0.2 + 0.9 * agreement
        doubts.append("two readings of the outline differ")
    if not doubts and confidence < NEEDS_CHECK_BELOW:
        doubts.append("the rim or the foot is hard to see")
    return confidence, doubts
