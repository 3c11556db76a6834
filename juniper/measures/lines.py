"""Line and rhythm: levels of the tips, the three main stems, where stems spring from, and stems
left bare.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations, pairwise

import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View
from juniper.scene.stems import Stem
from juniper.values import Point, point

Tip = tuple[float, float, float]


@dataclass(frozen=True)
class LineSettings:
    """What is a tip, a level and a naked stem.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    # of plant height: stems that meet so near their feet spring from there, and do not cross
    near_foot: float = 0.12
    # of plant height: tips further apart stand at another level: long, medium, short
    level: float = 0.1
    apart: float = 12.0  # degrees between two stems whose crossing tells where they spring from
    # of the plant's width: what stands over the rest is no broader, a single stem's head (common
    # practice)
    slim: float = 0.25
    thin: float = 0.012  # of plant height: the half breadth up to which a line is a naked stem


LINE = LineSettings()


def standing_tips(view: View) -> list[Tip]:
    """Tips of the upper half, by falling height."""
    return [t for t in view.tips if t[0] > 0.5 * view.plant_height]


def level_count(view: View) -> float:
    """How many levels the tips stand at: a new one where the next lower tip is LINE.level or more
    below.
    """
    heights = sorted((t[0] for t in view.tips if t[0] > 0), reverse=True)
    if not heights:
        return float("nan")
    count, last = 1, heights[0]
    for height in heights[1:]:
        if last - height >= LINE.level * view.plant_height:
            count, last = count + 1, height
    return float(count)


def closest_tips(view: View) -> tuple[Tip, Tip] | None:
    """The two neighbouring tips of the upper half that stand nearest to one height."""
    ordered = sorted(standing_tips(view), key=lambda t: t[1])
    pairs = list(pairwise(ordered))
    return min(pairs, key=lambda p: abs(p[0][0] - p[1][0]), default=None)


def tip_step(view: View) -> float:
    """Difference in height of the two neighbouring tips nearest to one height, as a share of plant
    height; nan under two tips.
    """
    pair = closest_tips(view)
    return abs(pair[0][0] - pair[1][0]) / view.plant_height if pair else float("nan")


def clearance(view: View) -> float:
    """How far the tallest stands over the next group, as a share of plant height: the upper part in
    which the plant is no broader than a single stem's head.
    """
    rows = max(int(view.plant_height * view.surface.scale), 1)  # about one to a pixel of the raster
    index = np.minimum((view.along / view.plant_height * rows).astype(int), rows - 1)
    keep = view.along >= 0
    low, high = np.full(rows, np.inf), np.full(rows, -np.inf)
    np.minimum.at(low, index[keep], view.side[keep])
    np.maximum.at(high, index[keep], view.side[keep])
    full = np.flatnonzero(high - low > LINE.slim * view.plant_width)
    return float(1 - (full[-1] + 1) / rows) if len(full) else float("nan")


def drawn_clearance(view: View, share: float) -> tuple[EvidenceMark, ...]:
    """The part of the tallest that stands over the next group."""
    if not np.isfinite(share):
        return ()
    _, side = view.place(np.array([view.top]))
    ends = tuple(
        view.at(along, float(side[0]) + 0.06 * view.plant_height)
        for along in ((1 - share) * view.plant_height, view.plant_height)
    )
    return (
        EvidenceMark("bracket", ends, "clear", "How far the tallest stands over the next group."),
    )


def main_stems(stems: tuple[Stem, ...]) -> tuple[Stem, ...]:
    """The three longest lines: main, second, third."""
    return tuple(sorted(stems, key=lambda s: -s.length)[:3])


def stem_length(view: View, stem: Stem) -> float:
    """Length of a visible line from foot to tip."""
    along, side = view.place(stem.curve)
    return float(np.hypot(np.diff(along), np.diff(side)).sum())


def stem_lean(view: View, stem: Stem) -> float:
    """Degrees of a line's chord from the container's axis, positive to the viewer's right."""
    along, side = view.place(np.array([stem.foot, stem.tip]))
    return float(np.degrees(np.arctan2(side[1] - side[0], along[1] - along[0])))


def springs_from(stems: tuple[Stem, ...]) -> tuple[np.ndarray, np.ndarray] | None:
    """Where the lower ends of the stems, carried on, cross one another: (binding point, crossings
    (n, 2)); None under two crossings.
    """
    lines = [
        (np.asarray(s.foot, float), np.subtract(s.curve[len(s.curve) // 3], s.foot)) for s in stems
    ]
    crossings = []
    for (p, u), (q, v) in combinations(lines, 2):
        turn = u[0] * v[1] - u[1] * v[0]
        if abs(turn) < np.sin(np.radians(LINE.apart)) * np.linalg.norm(u) * np.linalg.norm(v):
            continue
        step = q - p
        crossings.append(p + u * (step[0] * v[1] - step[1] * v[0]) / turn)
    if len(crossings) < 2:
        return None
    return np.median(crossings, axis=0), np.array(crossings)


def radiation(view: View, stems: tuple[Stem, ...]) -> float:
    """Spread of the stems' crossing points (their median distance from the binding point) over the
    container's width.
    """
    found = springs_from(stems)
    return (
        float(np.median(np.hypot(*(found[1] - found[0]).T))) / view.container_width
        if found
        else float("nan")
    )


def binding_height(view: View, stems: tuple[Stem, ...]) -> float:
    """Height of the binding point over the rim as a share of the container's height: at or below 0
    is right.
    """
    found = springs_from(stems)
    return (
        float(view.place(found[0][None])[0][0]) / view.container_height if found else float("nan")
    )


def foot_spread(view: View, stems: tuple[Stem, ...]) -> float:
    """Breadth of the foot that all stems share at the rim, over the container's width."""
    if len(stems) < 2:
        return float("nan")
    _, side = view.place(np.array([s.foot for s in stems]))
    return float(np.ptp(side)) / view.container_width


def crossing_stems(view: View, stems: tuple[Stem, ...]) -> list[Point]:
    """Where two main lines cross over the rim (photograph pixels), further from either foot than
    LINE.near_foot of plant height.
    """
    out = []
    for one, other in combinations(stems, 2):
        at = _crossing(one.curve, other.curve)
        if at is None:
            continue
        away = min(float(np.hypot(*np.subtract(at, s.foot))) for s in (one, other))
        if away > LINE.near_foot * view.plant_height and view.place(np.array([at]))[0][0] > 0:
            out.append(at)
    return out


def _crossing(first: np.ndarray, second: np.ndarray) -> Point | None:
    """Where two curves (n, 2) and (m, 2) cross, the crossing furthest along the first; None where
    they do not.
    """
    p, q = first[:-1, None], second[None, :-1]
    u, v = np.diff(first, axis=0)[:, None], np.diff(second, axis=0)[None]
    turn = u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0]
    step = q - p
    with np.errstate(divide="ignore", invalid="ignore"):
        on_first = (step[..., 0] * v[..., 1] - step[..., 1] * v[..., 0]) / turn
        on_second = (step[..., 0] * u[..., 1] - step[..., 1] * u[..., 0]) / turn
        meet = (
            (on_first >= 0)
            & (on_first < 1)
            & (on_second >= 0)
            & (on_second < 1)
            & (np.abs(turn) > 1e-9)
        )
    if not meet.any():
        return None
    i, j = np.argwhere(meet)[-1]
    return point(first[i] + on_first[i, j] * (first[i + 1] - first[i]))


def drawn_crossing(places: list[Point]) -> tuple[EvidenceMark, ...]:
    """A cross where two stems cross."""
    return tuple(
        EvidenceMark("cross", (at,), "crossing" if i == 0 else "", "Two stems cross here.")
        for i, at in enumerate(places)
    )


def bare_runs(view: View, stems: tuple[Stem, ...]) -> list[np.ndarray]:
    """The naked stretches (k, 2) of the main lines: plant shows, and is no broader than a stem."""
    scale = view.surface.scale
    breadth = view.surface.breadth
    most = max(2.0, LINE.thin * view.plant_height * scale)
    runs = []
    for stem in stems:
        points = stem.curve
        at = np.clip((points * scale).astype(int), 0, np.array(breadth.shape[::-1]) - 1)
        here = breadth[at[:, 1], at[:, 0]]
        bare = (here > 0) & (here <= most)
        edges = np.flatnonzero(np.diff(np.concatenate([[0], bare.astype(int), [0]])))
        runs += [points[a:b] for a, b in edges.reshape(-1, 2) if b - a > 2]
    return runs


def bare_stem(view: View, runs: list[np.ndarray]) -> float:
    """The longest naked stretch of a main line over plant height, of those that bare_runs()
    gives.
    """
    lengths = [float(np.hypot(*np.diff(run, axis=0).T).sum()) for run in runs]
    return max(lengths, default=0.0) / view.plant_height


def drawn_tips(view: View) -> tuple[EvidenceMark, ...]:
    """The tips, and the two that stand nearest to one height, joined."""
    marks = [
        EvidenceMark("point", (view.at(t[0], t[1]),), "", "A tip of the outline.")
        for t in standing_tips(view)
    ]
    pair = closest_tips(view)
    if pair:
        ends = tuple(view.at(t[0], t[1]) for t in pair)
        marks.append(
            EvidenceMark(
                "dashed",
                ends,
                "nearest to level",
                "The two neighbouring tips nearest to one height.",
            )
        )
    return tuple(marks)


def drawn_stems(stems: tuple[Stem, ...]) -> tuple[EvidenceMark, ...]:
    """Main, second and third stem."""
    return tuple(
        EvidenceMark(
            "line",
            tuple(map(tuple, stem.curve[::6].tolist())) + (stem.tip,),
            name,
            f"The {name} stem.",
        )
        for name, stem in zip(("main", "second", "third"), main_stems(stems), strict=False)
    )


def drawn_binding(view: View, stems: tuple[Stem, ...]) -> tuple[EvidenceMark, ...]:
    """The stems' lower ends carried on to the point where they meet."""
    found = springs_from(stems)
    if found is None:
        return ()
    middle = point(found[0])
    rays = tuple(
        EvidenceMark(
            "dashed", (s.tip, s.foot, middle), "", "A stem, carried on to where they meet."
        )
        for s in stems
    )
    return (
        *rays,
        EvidenceMark("cross", (middle,), "spring from here", "Where the stems spring from."),
    )


def drawn_bare(runs: list[np.ndarray]) -> tuple[EvidenceMark, ...]:
    """The naked stretches (k, 2), each a line."""
    return tuple(
        EvidenceMark(
            "line",
            tuple(map(tuple, r[:: max(1, len(r) // 8)].tolist())),
            "bare" if i == 0 else "",
            "A naked stem.",
        )
        for i, r in enumerate(runs)
    )
