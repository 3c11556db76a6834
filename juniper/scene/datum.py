"""The datum: the container's axis, base point, rim point and rim ends.

All measures rest on it (handbook of the trade, "The datum"). Points are pixels of the upright
photograph, x right, y down. `uncertainty` is one standard deviation, in the same pixels.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property

import cv2
import numpy as np

from juniper.scene.container import Profile, Wall, band_of
from juniper.scene.vessel import Fit, Vessel, fitted

Point = tuple[float, float]
NEEDS_CHECK_BELOW = 0.6
ENOUGH = 0.07  # share of the lines up the wall that must reach the rim
LIP = 0.008  # of the container's height: the lip, which catches the light or the shade and is not of the wall's colour
RIM_LINES = 24  # lines up the wall at which its end is read
MOST_OPEN = 0.72  # of a foot that is believed
LOWER = 0.18  # of the followed sides' height: how far below them wall may still seem to show
HIDDEN = 0.26  # share of the rim line below which the rim is hidden
HARDLY, TWICE = 0.185, 0.05  # ... unless so much shows and two readings have it within this part of the container's height
PARTLY = 0.4  # share of the rim line below which sides must stand out more to be believed
FAR_ABOVE = 1.3  # of the followed sides' height
FAINT_SCORE = 0.05  # of an outline, to the pixel of its height
AGREES = 0.07  # of the container's height: how near the rim that is seen and that of the known shape lie together
EVEN_SIDES = 1.08  # times as wide: a container whose sides vary by less may be a box
DEEP = 0.7  # of a box's width, taken as its depth, which one front view hides
OVER_RIM = 0.02  # of the camera's distance: how far above the rim it is usually held
LONGER = 0.5  # of the angle by the shortest usual lens: most pictures are taken from further away with a longer one
SHALLOW = 1.1  # times its height: the width from which a straight front may be a box whose depth is not seen
SECOND = 0.82  # what the second reading of the rim counts
SAME_RIM = 0.03  # of the container's height: two rims that lie no further apart are one
ELSEWHERE, ELSEWHERE_BY_CARD = (
    0.12,
    0.09,
)  # relative to the height that is seen, or told by the card: where the rim of a known shape may not lie
UNDER_RIM = 0.08  # of the container's height: what below the rim tells its width
KNOWN = 0.85  # confidence in a rim that was laid where a known shape has it
KNOWN_DOUBT = 0.02  # of the container's height, the uncertainty of such a rim
SEEN_DOUBT, UNSEEN_DOUBT = (
    0.01,
    0.06,
)  # of its height: standard uncertainty of a height read off a bare rim, and what a hidden one adds
CARD_AGREES = 2.5  # standard uncertainties by which the height that is seen and that by the reference card may differ
STEEPEST_VIEW = 0.22  # foot ellipse, short to long axis, of a camera held at the height of the flowers


@dataclass(frozen=True)
class Spread:
    """Standard uncertainties of the datum in pixels: along the axis at rim and base, across it."""

    rim: float = 2.0
    base: float = 2.0
    across: float = 2.0


@dataclass(frozen=True)
class Told:
    """The container's height in the picture as a reference card and its true height tell it: pixels, and relative standard uncertainty."""

    height: float
    doubt: float


@dataclass(frozen=True)
class Datum:
    """Where the container stands in the picture.

    `source` is "automatic" or "given"; `confidence` 0..1; `doubts` says in words what made it low.
    """

    rim: Point
    base: Point
    rim_left: Point
    rim_right: Point
    source: str = "automatic"
    confidence: float = 1.0
    spread: Spread = field(default_factory=Spread)
    doubts: tuple[str, ...] = ()

    @property
    def needs_check(self) -> bool:
        """Whether the datum should not be trusted unseen."""
        return self.source == "automatic" and self.confidence < NEEDS_CHECK_BELOW

    @cached_property
    def height(self) -> float:
        """Container height, base point to rim point, pixels."""
        return float(np.hypot(self.rim[0] - self.base[0], self.rim[1] - self.base[1]))

    @cached_property
    def rim_width(self) -> float:
        """Distance of the rim ends, pixels."""
        return float(np.hypot(self.rim_right[0] - self.rim_left[0], self.rim_right[1] - self.rim_left[1]))

    @cached_property
    def up(self) -> np.ndarray:
        """Unit vector from base to rim."""
        step = np.subtract(self.rim, self.base)
        length = np.hypot(*step)
        return step / length if length > 0 else np.array([0.0, -1.0])

    @cached_property
    def right(self) -> np.ndarray:
        """Unit vector across the axis, to the viewer's right."""
        up = self.up
        return np.array([-up[1], up[0]])

    def scaled(self, factor: float) -> Datum:
        """The same datum in a picture enlarged by `factor`."""
        points = {
            name: tuple(float(v) * factor for v in getattr(self, name)) for name in ("rim", "base", "rim_left", "rim_right")
        }
        spread = Spread(*(getattr(self.spread, n) * factor for n in ("rim", "base", "across")))
        return replace(self, **points, spread=spread)

    def moved(self, **points: Point) -> Datum:
        """This datum with points put by hand; what a hand has put is known to about two pixels in a
        thousand of the container's height."""
        new = replace(self, **{k: (float(v[0]), float(v[1])) for k, v in points.items()}, source="given")
        hand = max(1.0, 0.004 * new.height)
        spread = replace(
            self.spread,
            rim=hand if "rim" in points else self.spread.rim,
            base=hand if "base" in points else self.spread.base,
        )
        return replace(new, spread=spread)


class NoContainer(ValueError):
    """No container could be made out in the picture."""


def given_datum(rim: Point, base: Point, rim_left: Point, rim_right: Point) -> Datum:
    """A datum put by a person. Raises ValueError when the points cannot be a container."""
    datum = Datum(rim, base, rim_left, rim_right, source="given", confidence=1.0)
    if not np.isfinite([*rim, *base, *rim_left, *rim_right]).all():
        raise ValueError("The datum holds something that is not a number.")
    if datum.height < 2:
        raise ValueError("Rim and base lie on one another: drag them apart.")
    if datum.rim_width < 2:
        raise ValueError("The two rim ends lie on one another: drag them apart.")
    hand = max(1.0, 0.004 * datum.height)
    return replace(datum, spread=Spread(hand, hand, hand))


def find_datum(
    labels: np.ndarray,
    profile: Profile | None,
    wall: Wall | None,
    focal: float,
    horizon: np.ndarray | None = None,
    known: Vessel | None = None,
    likely: np.ndarray | None = None,
    told: Told | None = None,
) -> Datum:
    """Datum of the container whose outline and wall were seen; `labels` (uint8 h x w) is the picture's label raster,
    `focal` the focal length in its pixels, `horizon` the row of the table's far edge by column, `known` the container's shape from the
    shelf, `likely` (bool h x w) what looks like wall, `told` its height by the reference card. Raises NoContainer when there is nothing to measure from.

    Axis: that of the outline. Rim: where the highest of the lines up the wall end; where the known shape has it when that line is hidden, or
    lies elsewhere, or as high as the reference card says when it is hidden. Base: the lower edge read as half an ellipse, whose middle is the axis at table level.
    """
    if profile is None or wall is None or wall.mask.sum() < 0.0004 * wall.mask.size:
        raise NoContainer("No container can be made out.")
    read = _read(profile, wall, focal, known, likely, told)
    if read.height < 4:
        raise NoContainer("No container can be made out.")
    rim, base = (read.origin + level * read.up for level in (read.rim, read.base))
    above_table = (
        horizon is not None
        and np.isfinite(horizon).all()
        and base[1] < float(horizon[int(np.clip(base[0], 0, len(horizon) - 1))]) + 0.01 * len(labels)
    )
    confidence, doubts = _doubted(read, profile, wall, above_table, max(labels.shape))
    return Datum(
        tuple(map(float, rim)),
        tuple(map(float, base)),
        tuple(map(float, rim - read.rim_half * read.across)),
        tuple(map(float, rim + read.rim_half * read.across)),
        confidence=float(np.clip(confidence, 0.02, 1)),
        spread=_spread(read, confidence, told),
        doubts=doubts,
    )


@dataclass(frozen=True, eq=False)
class _Read:
    """What was read of a container: levels of rim and base along its axis from `origin`, the rim's half width and the share of it that shows, and how they
    were come by. `arc` is the height of the foot's half ellipse; `fit` is how a known shape lies on it, and `laid` whether that has the rim."""

    origin: np.ndarray
    up: np.ndarray
    rim: float
    base: float
    rim_half: float
    shown: float
    arc: float
    straight: bool
    width: float
    box: bool
    twice: bool
    deeper: bool
    fit: Fit | None
    laid: bool
    by_card: bool
    contradicted: bool
    another: bool

    @property
    def across(self) -> np.ndarray:
        """Unit vector to the right of the axis."""
        return np.array([-self.up[1], self.up[0]])

    @property
    def height(self) -> float:
        """Base to rim."""
        return self.rim - self.base

    @property
    def hidden(self) -> float:
        """How much of the rim is hidden, 0..1."""
        return 1 - min(1.0, self.shown / 0.6)


def _read(
    profile: Profile, wall: Wall, focal: float, known: Vessel | None, likely: np.ndarray | None, told: Told | None
) -> _Read:
    """Levels of rim and base, by each way there is."""
    ys, xs = np.nonzero(wall.mask)
    up = np.array([-profile.slope, -1.0]) / np.hypot(profile.slope, 1.0)
    across = np.array([-up[1], up[0]])
    origin = np.array(profile.foot)
    along = (xs - origin[0]) * up[0] + (ys - origin[1]) * up[1]
    side = (xs - origin[0]) * across[0] + (ys - origin[1]) * across[1]

    boxed = float(np.percentile(profile.half, 90)) < EVEN_SIDES * float(np.percentile(profile.half, 30))
    base, arc, straight = _base(along, side, boxed, focal)
    foot_half = max(4.0, float(np.median(profile.half[: max(2, len(profile.half) // 20)])))
    foot_open, round_foot = arc / foot_half, foot_ellipse(along, side, len(profile.half))
    if round_foot is not None and 0.03 < round_foot[1] < MOST_OPEN:
        base, foot_open = round_foot
        arc, straight = foot_open * foot_half, False
    seen_under = np.arcsin(min(0.9, foot_open)) - np.arctan(len(profile.half) / focal)
    open_ = 0.0 if straight else max(0.0, float(np.sin(seen_under)))
    rim, rim_half, shown = _rim(along, side, profile, open_)
    width = 2 * float(np.percentile(profile.half, 95))
    box = straight and width > SHALLOW * (rim - base)
    twice = deeper = False
    if not box:
        second = _second_rim(likely, profile, origin, up, across)
        apart = abs(second.level - rim) / max(rim - base, 1.0) if second else np.inf
        deeper = second is not None and second.lowest < -LOWER * len(profile.half)
        rim, rim_half, shown = _agreed(rim, rim_half, shown, apart, second, profile)
        twice = shown > HARDLY and apart < TWICE
    fit = fitted(profile, base, known) if known is not None else None
    laid = fit is not None and fit.good
    another = laid and _another(fit.height, rim - base, shown, told)
    if laid and (shown < PARTLY or (abs(fit.height / (rim - base) - 1) > AGREES and not another)):
        rim, rim_half = base + fit.height, known.half[-1] * fit.height
    by_card, contradicted = told is not None and not laid, False
    if by_card:
        hidden = 1 - min(1.0, shown / 0.6)
        high, contradicted = _weighed(rim - base, SEEN_DOUBT + UNSEEN_DOUBT * hidden, told)
        rim = base + high
        rim_half = float(np.interp(rim, np.arange(len(profile.half)), profile.half))
    return _Read(
        origin,
        up,
        rim,
        base,
        rim_half,
        shown,
        arc,
        straight,
        width,
        box,
        twice,
        deeper,
        fit,
        laid,
        by_card,
        contradicted,
        another,
    )


def _another(known: float, seen: float, shown: float, told: Told | None) -> bool:
    """Whether a container is likely another than the known one though its sides are alike: its rim shows elsewhere than the known height
    has it, or the card tells another height (all in pixels)."""
    if shown >= HIDDEN and abs(known / seen - 1) > ELSEWHERE:
        return True
    return told is not None and abs(known / told.height - 1) > ELSEWHERE_BY_CARD


def _doubted(read: _Read, profile: Profile, wall: Wall, above_table: bool, side: int) -> tuple[float, tuple[str, ...]]:
    """Confidence 0..1 and what made it low, in words; `above_table` is whether the base lies above the table's far edge, `side` the
    picture's longer side."""
    doubts, confidence = [], 1.0
    if wall.clear:
        confidence *= 0.45
        doubts.append("no plain container wall was seen; it may be glass or much covered")
    if read.fit is not None and not read.fit.good:
        confidence *= 0.5
        doubts.append("its sides are not those of the container on the shelf")
    if read.another:
        confidence *= 0.45
        doubts.append("it does not stand as high as the container on the shelf would: is it the one of the brief?")
    if read.contradicted:
        confidence *= 0.4
        doubts.append("by the reference card the container is higher or lower than it looks: is its height in the brief right?")
    elif read.laid or read.by_card:
        confidence *= KNOWN if read.hidden else 1.0
    elif read.shown < HIDDEN and not read.twice:
        confidence *= 0.3 + 0.9 * read.shown
        doubts.append("the rim is hidden")
    elif read.rim > FAR_ABOVE * len(profile.half):
        confidence *= 0.55
        doubts.append("the sides were not followed up to the rim")
    faint = FAINT_SCORE if read.shown >= PARTLY else 1.7 * FAINT_SCORE
    if not read.laid and profile.score < faint * len(profile.half):
        confidence *= 0.55
        doubts.append("the container hardly stands out from what is behind it")
    if read.box and not read.laid:
        confidence *= 0.5
        doubts.append("a shallow vessel with a straight front: how deep it is cannot be seen from here")
    if read.height > 3.2 * read.width or read.height < 0.08 * read.width:
        confidence *= 0.5
        doubts.append("the container's shape is unusual")
    if read.deeper or above_table:
        confidence *= 0.4
        doubts.append("the foot was not followed down to the table")
    if read.height < 0.06 * side and not read.straight:
        confidence *= 0.7
        doubts.append("the container is small in the picture")
    return confidence, tuple(doubts)


def _spread(read: _Read, confidence: float, told: Told | None) -> Spread:
    """Standard uncertainties of what was read."""
    hidden, high = read.hidden, read.height
    if read.laid or read.by_card:
        hidden = min(hidden, (told.doubt if read.by_card else KNOWN_DOUBT) / 0.05)
    doubt = 0.25 * max(0.0, NEEDS_CHECK_BELOW - confidence) * high
    return Spread(
        rim=min(0.4 * high, 1.2 + (0.008 + 0.05 * hidden) * high + doubt),
        base=min(0.4 * high, 1.2 + 0.006 * high + 0.35 * read.arc + doubt + (0.12 * high if read.box else 0)),
        across=1.0 + 0.01 * read.width,
    )


def _weighed(seen: float, doubt: float, told: Told) -> tuple[float, bool]:
    """The container's height of the one that is seen, with its relative uncertainty, and the one told, by the weight of each
    (inverse variances), and whether they contradict one another; then the rim that shows is believed."""
    if abs(seen / told.height - 1) > CARD_AGREES * np.hypot(doubt, told.doubt):
        return seen, True
    weights = np.array([doubt, told.doubt]) ** -2.0
    return float(weights @ [seen, told.height] / weights.sum()), False


@dataclass(frozen=True)
class _Second:
    """What looks like wall, read by itself: `level` of the rim, the share of the rim line at which it shows, and its `lowest` level."""

    level: float
    shown: float
    lowest: float


def _second_rim(likely, profile: Profile, origin, up, across) -> _Second | None:
    """The rim by what looks like wall (bool h x w); None where that is no container's."""
    if likely is None:
        return None
    number, parts = cv2.connectedComponents(likely.astype(np.uint8), connectivity=4)
    band, _ = band_of(profile, likely.shape)
    meets = np.bincount(parts[band], minlength=number)
    meets[0] = 0
    if meets.max() < 0.4 * band.sum():
        return None
    ys, xs = np.nonzero(parts == int(meets.argmax()))
    x, y = xs - origin[0], ys - origin[1]
    # What looks like wall holds the inside of the rim as well, so its ends lie about the rim's middle as they are.
    along = x * up[0] + y * up[1]
    level, _, shown = _rim(along, x * across[0] + y * across[1], profile, 0.0)
    return _Second(level, shown, float(along.min()))


def _agreed(level: float, half: float, shown: float, apart: float, second: _Second | None, profile: Profile):
    """Level, half width and shown share of the rim by two readings: their middle where they are of one rim, else the second."""
    if second is None:
        return level, half, shown
    level = (level + second.level) / 2 if apart < SAME_RIM else second.level
    # A rim that shows by either is no hidden one, but it shows less plainly by what looks like wall, which is blurred.
    return (
        level,
        float(np.interp(level, np.arange(len(profile.half)), profile.half)),
        max(shown, min(second.shown, PARTLY) * SECOND),
    )


def _rim(along, side, profile: Profile, open_: float) -> tuple[float, float, float]:
    """Level of the rim's middle, its half width, and the share of the rim line at which wall shows.

    The wall ends at the rim's front lip, the lower half of an ellipse `open_` as high as it is wide; leaves before it
    make it end lower. The rim is where the highest of the lines up the wall end.
    """
    levels = np.arange(len(profile.half))
    half_at = np.interp(along, levels, profile.half)
    u = side / np.maximum(half_at, 1.0)
    lines = np.clip(((u + 1) / 2 * RIM_LINES).astype(int), 0, RIM_LINES - 1)
    ends = np.full(RIM_LINES, np.nan)
    for k in range(RIM_LINES):
        on_line = along[lines == k]
        if len(on_line) > 12:
            ends[k] = np.partition(on_line, -4)[-4] + 0.5
    known = np.isfinite(ends)
    if known.sum() < 3:
        top = float(np.percentile(along, 99))
        return top, float(np.interp(top, levels, profile.half)), 0.0
    high = float(np.nanpercentile(ends, 90))
    half = float(np.interp(high, levels, profile.half))
    middle = (np.arange(RIM_LINES) + 0.5) / RIM_LINES * 2 - 1
    lifted = ends + open_ * half * np.sqrt(1 - middle**2)
    top = float(np.nanpercentile(lifted, 100 * (1 - ENOUGH))) + LIP * (high - float(along.min()))
    shown = float((lifted[known] > top - max(2.5, 0.025 * (top - along.min()))).sum()) / RIM_LINES
    # The outline often tapers off in its last pixels, where the rim does not.
    near = profile.half[(levels > top - UNDER_RIM * (top - float(along.min()))) & (levels <= top)]
    half = float(np.interp(top, levels, profile.half))
    return top, max(half, float(np.median(near))) if len(near) else half, shown


def foot_ellipse(along: np.ndarray, side: np.ndarray, height: float) -> tuple[float, float] | None:
    """The foot of a round container as (level of its middle, openness): its lower edge is half an ellipse, whose short axis over its long
    one is the openness. From the wall's pixels (n,), `along` the axis from near the base upward and to its `side`; None when it is no half ellipse.
    """
    columns, levels = np.round(side).astype(int), np.round(along).astype(int)
    low, floor = columns.min(), levels.min()
    edge = np.full(columns.max() - low + 1, np.inf)
    np.minimum.at(edge, columns - low, along)
    x = (np.arange(len(edge)) + low).astype(float)
    x, edge = x[np.isfinite(edge)], edge[np.isfinite(edge)]
    first, last = np.full(np.ptp(levels) + 1, np.inf), np.full(np.ptp(levels) + 1, -np.inf)
    np.minimum.at(first, levels - floor, side)
    np.maximum.at(last, levels - floor, side)
    centre = floor + 0.05 * height
    # The foot's ends lie on the level of its middle: found in turns, the level from the fit, the ends from the level.
    for _ in range(8):
        row = int(np.clip(round(centre - floor), 0, len(first) - 1))
        near = slice(max(0, row - 1), row + 2)
        if not np.isfinite(first[near]).all():
            return None
        half, middle = float(np.mean(last[near] - first[near])) / 2, float(np.mean(last[near] + first[near])) / 2
        inner = np.abs(x - middle) < 0.82 * half
        if inner.sum() < 12 or half < 8:
            return None
        u = (x[inner] - middle) / half
        design = np.column_stack([np.ones_like(u), u, -np.sqrt(1 - u**2)])
        weight = np.ones(len(u))
        for _ in range(4):
            solved, *_ = np.linalg.lstsq(design * weight[:, None], edge[inner] * weight, rcond=None)
            miss = np.abs(design @ solved - edge[inner])
            weight = 1 / np.sqrt(1 + (miss / max(0.7, 1.5 * np.median(miss))) ** 2)
        centre = 0.5 * centre + 0.5 * float(np.clip(solved[0], floor, floor + 0.4 * height))
    if np.percentile(miss, 80) > max(2.0, 0.06 * half):
        return None
    return centre, float(max(0.0, solved[2] / half))


def _base(along, side, boxed: bool, focal: float) -> tuple[float, float, bool]:
    """Level of the axis at table height, the depth of the lower edge's arc, and whether that edge
    is straight. The lower edge of a round foot is half an ellipse whose ends lie at the middle."""
    columns = np.round(side).astype(int)
    low = columns.min()
    edge = np.full(columns.max() - low + 1, np.inf)
    np.minimum.at(edge, columns - low, along)
    x = np.arange(len(edge)) + low
    bottom = np.percentile(edge[np.isfinite(edge)], 2)
    height = along.max() - bottom
    foot = np.isfinite(edge) & (edge < bottom + 0.06 * height)
    if foot.sum() < 6:
        return float(bottom), 0.0, False
    reach = max(3.0, float(np.percentile(np.abs(x[foot]), 96)))
    inner = foot & (np.abs(x) < 0.93 * reach)
    if inner.sum() < 6:
        return float(bottom), 0.0, False
    u = x[inner] / reach
    shape = np.sqrt(np.clip(1 - u * u, 0, 1))
    design = np.stack([np.ones_like(u), u, -shape], axis=1)
    weight = np.ones(len(u))
    target = edge[inner]
    for _ in range(6):
        solved, *_ = np.linalg.lstsq(design * weight[:, None], target * weight, rcond=None)
        residual = np.abs(design @ solved - target)
        weight = np.sqrt(1 / (1 + (residual / max(1.0, 1.5 * np.median(residual))) ** 2))
    depth = float(np.clip(solved[2], 0, STEEPEST_VIEW * reach))
    straight = depth < 0.03 * reach
    middle = inner & (np.abs(x) < 0.5 * reach)
    front = float(np.percentile(edge[middle], 25)) if middle.any() else float(bottom)
    if straight:
        # A straight front edge, or an arc too flat to read: the axis stands half the vessel's depth behind it, and a camera a little
        # above the rim looks down on it by the angle under which the container is seen and that little more.
        depth = (DEEP if boxed else 1.0) * reach * (LONGER * height / focal + OVER_RIM)
    return front + depth, depth, straight and boxed
