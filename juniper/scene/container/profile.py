"""The container found by what it is: a body that mirrors itself about an upright axis and stands on
the table.

Sides that mirror one another are looked for in the picture's own edges, so that it matters little
whether the wall is lit or shaded, pale before a pale backdrop, or clear glass. For every axis,
level and half width the strength of the two edges is taken together; the profile is the best path
of half widths from the foot upward (dynamic programming; Viterbi 1967).
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class ProfileSettings:
    """What an outline of a container is worth, and where it is looked for.

    Where no source is named: set by trial on simulated pictures (bin/accuracy).
    """

    # longer side of the picture at which the axis is looked for, and then the profile
    coarse: int = 160
    middle: int = 340
    faint: float = 3.0  # CIELAB units to the pixel: an edge of this strength counts half
    cost: float = 0.36  # of every level of the profile: what the two edges must be worth
    turn: float = 0.12  # cost of a step in half width from one level to the next
    rough: float = 1.1  # share of an outline's worth that is lost where all within it is rough
    tallest: float = 0.7  # of the piece's height that the container may take
    sharp: float = 1.0  # pixels: the picture is smoothed by this much before its edges are taken
    filled: float = 0.2  # share of an outline's worth that is lost where the ground shows within it
    # share of an outline's worth that is lost where nothing within it looks like wall
    likely: float = 0.4
    free: float = 0.6  # share of a side's worth that is lost where it does not stand free
    level_edge: float = 0.6  # what a level edge counts: a foot or bowl may curve in to level
    bare: float = 0.04  # what a body without plant above it still counts
    # cost of a level edge right across the outline: the rim, or petals above it
    cross: float = 0.25
    foot: float = 1.4  # levels' worth of a plain foot, times the root of its half width
    jump: float = 3.0  # cost of a sudden change of half width, as where a stem stands on its foot
    step: int = 3  # pixels: the largest such step
    plain: float = 0.35  # worth of an edge that is believed
    held: float = 0.4  # of its width: how firmly a container is held to the picture's own upright
    steepest: float = 0.12  # slope of an axis in a picture of use
    # half widths, of the picture's width
    narrowest: float = 0.006
    widest: float = 0.46


PROFILE = ProfileSettings()


@dataclass(frozen=True, eq=False)
class Profile:
    """A container's outline in pixels of the raster it was looked for in.

    `foot` (x, y) is the point of the axis where the profile starts, `slope` columns per row
    downward; `half` (n,) half widths by row, from the foot upward; `worth` (n,) how strong the two
    edges are there, 0..1; `score` their sum over the cost.
    """

    foot: tuple[float, float]
    slope: float
    half: np.ndarray
    worth: np.ndarray
    score: float

    def scaled(self, factor: float) -> Profile:
        """The same outline in a picture enlarged by `factor`."""
        count = max(2, round(len(self.half) * factor))
        at = np.linspace(0, len(self.half) - 1, count)
        rows = np.arange(len(self.half))
        half = np.interp(at, rows, self.half) * factor
        worth = np.interp(at, rows, self.worth)
        foot = ((self.foot[0] + 0.5) * factor - 0.5, (self.foot[1] + 0.5) * factor - 0.5)
        return Profile(foot, self.slope, half, worth, self.score * factor)

    @property
    def rows(self) -> np.ndarray:
        """Row of each level (n,), foot first."""
        return self.foot[1] - np.arange(len(self.half))

    def axis_at(self, rows) -> np.ndarray:
        """Column of the axis at rows (n,)."""
        return self.foot[0] + self.slope * (np.asarray(rows, float) - self.foot[1])


def edges_of(lab: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Strength 0..1 (h, w) of the edges of a CIELAB picture (float32 h x w x 3): of all, those met
    going sideways above all, and of those met going up or down. Taken at the full size, where the
    end of a body is sharper than the end of a shade on it.
    """
    smooth = cv2.split(cv2.GaussianBlur(lab, (0, 0), PROFILE.sharp))
    out = []
    # The crest of an edge only: its flanks would let the outline wander.
    for step, crest in (((1, 0), (1, 3)), ((0, 1), (3, 1))):
        light, a, b = (cv2.Sobel(plane, cv2.CV_32F, *step, scale=0.25) for plane in smooth)
        steep = cv2.magnitude(cv2.magnitude(light, a), b)
        out.append(
            np.where(
                steep >= cv2.dilate(steep, np.ones(crest, np.uint8)) - 1e-6, steep, 0.35 * steep
            )
        )
    either = np.maximum(out[0], PROFILE.level_edge * out[1])
    return either / (either + PROFILE.faint), out[1] / (out[1] + PROFILE.faint)


def _strongest(edges: np.ndarray, scale: float) -> np.ndarray:
    """An edge picture shrunk so that no edge is lost: each pixel takes the strongest it covers."""
    if scale >= 1:
        return edges
    size = (round(edges.shape[1] * scale), round(edges.shape[0] * scale))
    reach = int(np.ceil(1 / scale))
    return cv2.resize(
        cv2.dilate(edges, np.ones((reach, reach), np.uint8)), size, interpolation=cv2.INTER_NEAREST
    )


def _texture(lab: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """How rough each pixel of a raster of `size` (width, height) is, 0..1: what is left of the
    edges when the picture is looked at from further away. Taken at twice the size, or the two sides
    of a narrow vase would make its wall rough.
    """
    twice = (min(2 * size[0], lab.shape[1]), min(2 * size[1], lab.shape[0]))
    edges = edges_of(cv2.resize(lab, twice, interpolation=cv2.INTER_AREA))[0]
    # grain and JPEG blocks count little, petals and leaves fully
    rough = edges**2 / (edges**2 + (1 - edges) ** 2)
    return cv2.blur(cv2.resize(rough, size, interpolation=cv2.INTER_AREA), (1, 5))


@dataclass(frozen=True, eq=False)
class Relief:
    """Edges of a picture, of all kinds and level ones (h, w; see `edges_of`), and how rough it is
    by the longer side of the raster it is told on.
    """

    edges: np.ndarray
    level: np.ndarray
    rough: dict[int, np.ndarray]


def relief_of(lab: np.ndarray) -> Relief:
    """What of a CIELAB picture (float32 h x w x 3) an outline is looked for on."""
    rough = {}
    for side in (PROFILE.coarse, PROFILE.middle):
        scale = min(1.0, side / max(lab.shape[:2]))
        rough[side] = _texture(lab, (round(lab.shape[1] * scale), round(lab.shape[0] * scale)))
    return Relief(*edges_of(lab), rough)


@dataclass(frozen=True, eq=False)
class _Lattice:
    """All levels, axes and half widths at once: `rows` (n,), and the columns of both sides, int32
    (n, axes, halves).
    """

    rows: np.ndarray
    halves: np.ndarray
    left: np.ndarray
    right: np.ndarray

    @staticmethod
    def of(rows: np.ndarray, centres: np.ndarray, slope: float, halves: np.ndarray) -> _Lattice:
        at = (centres[None] + slope * (rows - rows[0])[:, None])[:, :, None]
        return _Lattice(
            rows, halves, (at - halves + 0.5).astype(np.int32), (at + halves + 0.5).astype(np.int32)
        )

    def taken(self, values: np.ndarray, columns: np.ndarray) -> np.ndarray:
        """What stands in `values` (h, w) on each level at columns (n, axes, halves)."""
        return values.ravel().take(
            columns + (self.rows * values.shape[1]).astype(np.int32)[:, None, None]
        )


def _worth(
    grid: _Lattice, edges, standing, inside: np.ndarray, rough: np.ndarray, likely: np.ndarray
) -> np.ndarray:
    """What two edges are worth: (levels, axes, halves). `inside`, `rough` and `likely` are running
    sums along the row of what stands, of how rough it is (walls are smooth, leaves and flowers are
    not), and of how likely it is wall.
    """
    width = edges.shape[1]
    ok = (grid.left >= 1) & (grid.right < width - 1)
    li, ri = np.clip(grid.left, 1, width - 2), np.clip(grid.right, 1, width - 2)
    count = np.maximum(ri - li + 1, 4).astype(np.float32)
    filled = (grid.taken(inside, ri + 1) - grid.taken(inside, li)) / count
    wall = (grid.taken(likely, ri + 1) - grid.taken(likely, li)) / count
    texture = (grid.taken(rough, ri - 1) - grid.taken(rough, li + 2)) / (count - 3)
    # Beyond a side lies ground; beyond the edge of a shade on the wall lies wall, beyond one among
    # leaves more leaves.
    free = 1 - np.float32(PROFILE.free) * standing
    reach = np.maximum(3, grid.halves * 0.12).astype(np.int32)
    a = grid.taken(edges, li) * grid.taken(free, np.maximum(li - reach, 0))
    b = grid.taken(edges, ri) * grid.taken(free, np.minimum(ri + reach, width - 1))
    both = np.float32(0.8) * np.sqrt(a * b) + np.float32(0.2) * np.maximum(a, b)
    return np.where(
        ok,
        both
        * (np.float32(1 - PROFILE.filled) + np.float32(PROFILE.filled) * filled)
        * (np.float32(1 - PROFILE.likely) + np.float32(PROFILE.likely) * wall)
        * np.maximum(0, 1 - np.float32(PROFILE.rough) * texture),
        0,
    )


def _grown_above(grid: _Lattice, leafy: np.ndarray, high: int) -> np.ndarray:
    """How much rough matter stands right above a level between two sides, 0..1: (levels, axes,
    halves). `leafy` is its integral image.
    """
    bottom, width = leafy.shape[0] - 1, leafy.shape[1] - 1
    left, right = np.clip(grid.left, 0, width), np.clip(grid.right + 1, 0, width)
    top, low = np.maximum(0, grid.rows - high), np.minimum(bottom, grid.rows)
    run = np.zeros_like(leafy)
    run[grid.rows] = leafy[low] - leafy[top]
    return (grid.taken(run, right) - grid.taken(run, left)) / np.maximum(
        (right - left) * (low - top)[:, None, None], 1
    )


def _foot(grid: _Lattice, level: np.ndarray) -> np.ndarray:
    """How plainly a foot ends, 0..1: (levels, axes, halves). `level` is the running sum along the
    rows of level edges, each spread upward, since the front edge of a round foot is the lower half
    of a flat ellipse.
    """
    width = level.shape[1] - 1
    inset = (0.25 * grid.halves + 0.5).astype(np.int32)
    left, right = np.clip(grid.left + inset, 0, width), np.clip(grid.right - inset + 1, 0, width)
    return (grid.taken(level, right) - grid.taken(level, left)) / np.maximum(
        right - left, 1
    ).astype(np.float32)


def _climbed(value: np.ndarray) -> np.ndarray:
    """The best worth with which each half width can be reached from the level below, whose worth is
    `value` (axes, halves).
    """
    carried = value.copy()
    for step in range(1, PROFILE.step + 1):
        turned = value - np.float32(PROFILE.turn * step)
        np.maximum(carried[:, step:], turned[:, :-step], out=carried[:, step:])
        np.maximum(carried[:, :-step], turned[:, step:], out=carried[:, :-step])
    # From a foot to the stem on it the way upward leaps inward, never outward.
    jump = value.argmax(axis=1)
    leapt = np.take_along_axis(value, jump[:, None], axis=1) - np.float32(PROFILE.jump)
    inward = np.arange(value.shape[1]) < jump[:, None]
    return np.maximum(carried, leapt, out=carried, where=inward)


def _from_below(value: np.ndarray, half: int) -> tuple[float, int]:
    """The best way to one half width from the level below, whose worth on the same axis is `value`
    (halves,): (worth, half width it came from).
    """
    near = np.arange(max(0, half - PROFILE.step), min(len(value), half + PROFILE.step + 1))
    worth = value[near] - np.float32(PROFILE.turn) * np.abs(near - half)
    best, source = float(worth.max()), int(near[worth.argmax()])
    jump = int(value.argmax())
    if half < jump and value[jump] - np.float32(PROFILE.jump) > best:
        return float(value[jump] - np.float32(PROFILE.jump)), jump
    return best, source


def _paths(
    edges,
    texture,
    level,
    standing,
    likely,
    ground_line,
    centres,
    slopes,
    halves,
    lowest,
    highest_row,
    bare,
) -> Profile | None:
    """The best profile over all axes and slopes. `ground_line` (h,) is what it costs to stand at a
    row, `bare` what a body counts that has no plant above it.
    """
    height = len(edges)
    zero = np.zeros((height, 1), np.float32)
    inside = np.concatenate([zero, np.cumsum(standing, axis=1, dtype=np.float32)], axis=1)
    rough = np.concatenate([zero, np.cumsum(texture, axis=1, dtype=np.float32)], axis=1)
    likely = np.concatenate([zero, np.cumsum(likely, axis=1, dtype=np.float32)], axis=1)
    leafy = cv2.integral((standing * texture).astype(np.float32), sdepth=cv2.CV_32F)
    sag = max(1, height // 110)
    spread = cv2.dilate(level, np.ones((2 * sag + 1, 1), np.uint8), anchor=(0, sag // 2))
    level = np.concatenate([zero, np.cumsum(spread, axis=1, dtype=np.float32)], axis=1)
    high = max(3, int(0.3 * (lowest - highest_row)))
    rows = np.arange(lowest, highest_row, -1)
    best, found = 0.0, None
    for slope in slopes:
        grid = _Lattice.of(rows, centres, slope, halves)
        worth = _worth(grid, edges, standing, inside, rough, likely)
        end = _foot(grid, level)
        plain = (end - np.float32(0.3)) * np.minimum(1, 2 * worth)
        fresh = (
            ground_line[rows].astype(np.float32)[:, None, None]
            + (PROFILE.foot * np.sqrt(halves)).astype(np.float32) * plain
        )
        gain = (
            worth
            - np.float32(PROFILE.cost)
            - np.float32(PROFILE.cross) * np.maximum(0, end - np.float32(0.35))
        )
        value = np.full((len(centres), len(halves)), -1e6, np.float32)
        values = np.empty_like(gain)
        for i in range(len(rows)):
            value = np.add(np.maximum(fresh[i], _climbed(value)), gain[i], out=values[i])
        ends = values * (np.float32(bare) + _grown_above(grid, leafy, high))
        i = int(ends.argmax())
        if ends.flat[i] <= best:
            continue
        best = float(ends.flat[i])
        found = _traced(
            grid, centres, slope, worth, values, fresh, np.unravel_index(i, ends.shape), best
        )
    return found


def _traced(
    grid: _Lattice, centres, slope: float, worth, values, fresh, end, score: float
) -> Profile:
    """The profile that ends at `end` (level, axis, half width), followed down to its foot: where to
    begin anew (`fresh`) is as good as what comes from below (`values` of the level under it).
    """
    i, axis, half = (int(v) for v in end)
    wide, plain = [], []
    while half >= 0:
        wide.append(grid.halves[half])
        plain.append(worth[i, axis, half])
        carried, source = _from_below(values[i - 1, axis], half) if i else (-np.inf, -1)
        half = -1 if fresh[i, axis, half] >= carried else source
        i -= 1
    row = float(grid.rows[i + 1])
    half_widths, bare = np.array(wide[::-1], float), np.array(plain[::-1], float)
    # A leap inward is a foot's; near the top it is one onto a flower.
    leap = np.flatnonzero(half_widths[1:] < half_widths[:-1] - PROFILE.step)
    if len(leap) and leap[-1] > 0.6 * len(half_widths):
        half_widths, bare = half_widths[: leap[-1] + 1], bare[: leap[-1] + 1]
    return Profile(
        (float(centres[axis] + slope * (row - grid.rows[0])), row),
        float(slope),
        half_widths,
        bare,
        score,
    )


def find_profile(
    lab: np.ndarray,
    standing: np.ndarray,
    horizon: np.ndarray,
    lean: float = 0.0,
    trust: float = 1.0,
    empty: bool = False,
    likely: np.ndarray | None = None,
    relief: Relief | None = None,
) -> Profile | None:
    """The outline of the container in a CIELAB picture (float32 h x w x 3), in its pixels; None
    when nothing mirrors itself.

    `standing` (h, w) is how much each pixel stands off the ground, 0..1; `horizon` (w,) the row of
    the table's far edge, NaN where none was seen; `lean` the slope of upright lines, columns per
    row downward, as far as it is known, and how far to `trust` it. An `empty` container has nothing
    above it and may take all of the height. `likely` (h, w) says how far each pixel looks like
    wall, 0..1.
    """
    likely = np.ones_like(standing) if likely is None else likely
    relief = relief or relief_of(lab)
    tallest, bare = (1.0, 1e3) if empty else (PROFILE.tallest, PROFILE.bare)
    whole = lab.shape[0]
    found, found_scale = None, 1.0
    for side in (PROFILE.coarse, PROFILE.middle):
        scale = min(1.0, side / max(lab.shape[:2]))
        edges, level = _strongest(relief.edges, scale), _strongest(relief.level, scale)
        # Whole axes and half widths give even widths only: an edge is as good a column further on.
        edges = cv2.dilate(edges, np.ones((1, 2), np.uint8))
        texture = relief.rough[side]
        height, width = texture.shape
        foreground = cv2.resize(
            standing.astype(np.float32), (width, height), interpolation=cv2.INTER_AREA
        )
        walls = cv2.resize(likely.astype(np.float32), (width, height), interpolation=cv2.INTER_AREA)
        columns = np.flatnonzero(foreground.max(axis=0) > 0.5)
        rows = np.flatnonzero((foreground > 0.5).sum(axis=1) >= 2)
        if len(columns) < 4 or len(rows) < 8:
            return None
        far = np.nan_to_num(horizon, nan=0.55 * whole) * scale
        # A pale vase may not stand off the ground at all: its foot is looked for well down the
        # table.
        below = max(
            rows[-1] + 0.04 * height, min(rows[-1] + 0.5 * np.ptp(rows), far.mean() + 0.25 * height)
        )
        lowest = int(min(height - 2, below))
        highest = int(max(1, lowest - tallest * (lowest - rows[0])))
        # The table's far edge is no foot.
        columns = np.arange(width)
        edge = (
            np.interp(
                columns, np.linspace(0, width - 1, len(horizon)), np.nan_to_num(horizon, nan=-99.0)
            )
            * scale
        )
        level[np.abs(np.arange(height)[:, None] - edge[None]) < 0.012 * height] = 0
        # A foot stands on the table: it is below the table's far edge, or it costs.
        above = far.mean() - np.arange(height)
        start = np.where(above <= 0.01 * height, 0.0, -0.3 * above)
        halves = np.arange(max(3.0, PROFILE.narrowest * width), PROFILE.widest * width, 1.0)
        if found is None:
            weight = foreground.sum(axis=0)
            spread = np.cumsum(weight) / weight.sum()
            first, last = np.searchsorted(spread, (0.04, 0.96))
            centres = np.arange(first, last + 1, 1.0)
            slopes = [0.0] if abs(lean) < 0.01 else [0.0, lean]
        else:
            old = _set_to_edges(
                found.scaled(1 / found_scale), relief.edges, trust * lean, 1 / found_scale
            ).scaled(scale)
            at = float(old.axis_at(lowest))
            centres = np.arange(at - 3, at + 3.5, 1.0)
            slopes = [old.slope]
            near = old.half.max() + 8
            halves = np.arange(
                max(3.0, PROFILE.narrowest * width), min(PROFILE.widest * width, near), 1.0
            )
        found, found_scale = (
            _paths(
                edges,
                texture,
                level,
                foreground,
                walls,
                start,
                centres,
                slopes,
                halves,
                lowest,
                highest,
                bare,
            ),
            scale,
        )
        if found is None:
            return None
    if found is None:
        return None
    return _set_to_edges(found.scaled(1 / found_scale), relief.edges, trust * lean, 1 / found_scale)


def _set_to_edges(profile: Profile, edges: np.ndarray, lean: float, reach: float) -> Profile:
    """The outline moved onto the crests of its edges at full size, its axis a robust line through
    the middles.
    """
    height, width = edges.shape
    rows = np.clip(np.floor(profile.rows + 0.5).astype(int), 0, height - 1)
    axis = profile.axis_at(rows)
    shifts = np.arange(-int(np.ceil(reach)) - 1, int(np.ceil(reach)) + 2)
    ends, plain = [], profile.worth > PROFILE.plain
    for sign in (-1, 1):
        at = np.clip(
            np.round(axis + sign * profile.half)[:, None].astype(int) + shifts[None], 0, width - 1
        )
        line = edges[rows[:, None], at]
        best = line.argmax(axis=1)
        ends.append(np.take_along_axis(at, best[:, None], axis=1)[:, 0].astype(float))
        plain = plain & (np.take_along_axis(line, best[:, None], axis=1)[:, 0] > PROFILE.plain)
    if plain.sum() < 8:
        return profile
    y, mid = rows[plain].astype(float), (ends[0][plain] + ends[1][plain]) / 2
    slope, centre, weight = profile.slope, float(np.median(mid)), np.ones(len(y))
    span = 2 * float(np.median(profile.half))
    for _ in range(10):
        total = weight.sum()
        ym, mm = (weight * y).sum() / total, (weight * mid).sum() / total
        # a short container says little of its lean, the level of the table more
        held = total * (PROFILE.held * span) ** 2
        slope = float(
            ((weight * (y - ym) * (mid - mm)).sum() + held * lean)
            / ((weight * (y - ym) ** 2).sum() + held)
        )
        centre = mm - slope * ym
        miss = np.abs(mid - centre - slope * y)
        weight = 1 / (1 + (miss / (1.5 * max(0.7, 1.4826 * float(np.median(miss))))) ** 2)
    slope = float(np.clip(slope, -PROFILE.steepest, PROFILE.steepest))
    centre = float((weight * (mid - slope * y)).sum() / weight.sum())
    half = profile.half.copy()
    half[plain] = (ends[1] - ends[0])[plain] / 2
    foot = (centre + slope * profile.foot[1], profile.foot[1])
    return Profile(foot, slope, half, profile.worth, profile.score)


def band_of(
    profile: Profile, shape: tuple[int, int], above: float = 0.0, below: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """The outline filled (h, w), and each pixel's place across it, -1 at the left side and 1 at the
    right.

    `above` and `below` carry it on by that share of its height, as wide as it is at its ends.
    """
    height, width = shape
    count = len(profile.half)
    more, less = round(above * count), round(below * count)
    few = max(3, count // 12)
    ends = [float(np.median(profile.half[:few])), float(np.median(profile.half[-few:]))]
    half = np.concatenate([np.full(less, ends[0]), profile.half, np.full(more, ends[1])])
    rows = int(np.floor(profile.foot[1] + 0.5)) + less - np.arange(len(half))
    halves = np.zeros(height)
    ok = (rows >= 0) & (rows < height)
    halves[rows[ok]] = half[ok]
    axis = profile.axis_at(np.arange(height))
    across = np.arange(width, dtype=np.float32)[None] - axis.astype(np.float32)[:, None]
    across /= np.maximum(halves, 1e-3).astype(np.float32)[:, None]
    return (np.abs(across) <= 1) & (halves > 0)[:, None], across
