"""A piece turned: what the view from above, from a seat, from the side and from behind tell that
the front does not.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.lengths import length
from juniper.measures.finding import EvidenceMark, Finding, finding_of, missing_of
from juniper.measures.measuring import Findings
from juniper.measures.surface import Surface, View
from juniper.scene.scene import Scene
from juniper.values import Point

ABOVE = ("top_even", "top_quarters", "top_gap")
SEAT = ("sight_blocked", "over_eye_line")


@dataclass(frozen=True)
class TurningSettings:
    """What the views are read by. Common practice or from memory, as said."""

    sectors: int = 12  # round the middle, in which the piece's reach is told
    reach: float = (
        95.0  # percentile of the plant's distance in a sector: single twigs reach further
    )
    # cm over the table: eyes of guests who sit at it, and half the height and width of a face
    # (from memory)
    eyes: float = 45.0
    face: tuple[float, float] = (12.0, 9.0)


TURNING = TurningSettings()


def evenness(surface: Surface, settings: TurningSettings = TURNING) -> tuple[float, float, Point]:
    """How evenly a piece reaches round its middle as seen from above: the standard deviation of its
    reach in each sector over their mean; how full its emptiest quarter is, over the mean of the
    four; and the middle (x, y) of what it covers. nan where no plant shows.
    """
    if not len(surface.x):
        return float("nan"), float("nan"), (0.0, 0.0)
    box = [np.percentile(v, (2, 98)) for v in (surface.x, surface.y)]
    middle = (float(box[0].mean()), float(box[1].mean()))
    dx, dy = surface.x - middle[0], surface.y - middle[1]
    turn, away = np.arctan2(dy, dx) % (2 * np.pi), np.hypot(dx, dy)
    sector = np.minimum((turn / (2 * np.pi) * settings.sectors).astype(int), settings.sectors - 1)
    reach = np.array(
        [
            np.percentile(away[sector == k], settings.reach) if (sector == k).any() else 0.0
            for k in range(settings.sectors)
        ]
    )
    quarter = np.bincount((turn / (np.pi / 2)).astype(int) % 4, minlength=4).astype(float)
    return (
        float(reach.std() / reach.mean()) if reach.mean() > 0 else float("nan"),
        float(quarter.min() / quarter.mean()),
        middle,
    )


def seen_from_above(surface: Surface) -> tuple[Finding, ...]:
    """The measures of the view from above."""
    even, emptiest, middle = evenness(surface)
    cross = tuple(
        EvidenceMark(
            "dashed",
            (
                (middle[0] - step[0], middle[1] - step[1]),
                (middle[0] + step[0], middle[1] + step[1]),
            ),
            "",
            "The quarters of the piece seen from above.",
        )
        for step in _half_spans(surface, middle)
    )
    return (
        finding_of(
            "top_even",
            even,
            0.04,
            f"standard deviation of its reach in {TURNING.sectors} directions ÷ their mean",
            cross,
            "no plant shows from above",
            view="top",
        ),
        finding_of(
            "top_quarters",
            emptiest,
            0.06,
            "plant in the emptiest quarter ÷ the mean of the four",
            cross,
            "no plant shows from above",
            view="top",
        ),
        finding_of(
            "top_gap",
            surface.hole,
            0.01,
            "largest opening seen from above ÷ area inside the outline",
            _outlined(surface),
            view="top",
        ),
    )


def _half_spans(surface: Surface, middle: Point) -> tuple[Point, Point]:
    if not len(surface.x):
        return (0.0, 0.0), (0.0, 0.0)
    wide = max(abs(surface.x.max() - middle[0]), abs(surface.x.min() - middle[0]))
    high = max(abs(surface.y.max() - middle[1]), abs(surface.y.min() - middle[1]))
    return (float(wide), 0.0), (0.0, float(high))


def _outlined(surface: Surface) -> tuple[EvidenceMark, ...]:
    if len(surface.hole_outline) < 3:
        return ()
    points = tuple((float(x), float(y)) for x, y in surface.hole_outline)
    return (EvidenceMark("outline", points, "gap", "The largest gap seen from above."),)


def seen_from_a_seat(view: View, scene: Scene, cm_per_px: float | None) -> tuple[Finding, ...]:
    """What a guest sees of the other side: how much of a face opposite the piece hides, and how
    much of the blooms stands over the line of sight. `cm_per_px` is the scale of this view.
    """
    if cm_per_px is None:
        return tuple(
            missing_of(n, "the brief tells no container height", view="seated") for n in SEAT
        )
    line = TURNING.eyes / cm_per_px - view.container_height  # over the rim, pixels
    half_high, half_wide = (v / cm_per_px for v in TURNING.face)
    along, side = view.along, view.side
    inside = (np.abs(along - line) < half_high) & (np.abs(side) < half_wide)
    # of the window's own area: each plant pixel of the raster stands for 1 / scale squared
    blocked = float(inside.sum() / view.surface.scale**2 / (4 * half_high * half_wide))
    window = [
        view.at(line + a * half_high, b * half_wide)
        for a, b in ((1, -1), (1, 1), (-1, 1), (-1, -1), (1, -1))
    ]
    sight = (view.at(line, -2.5 * half_wide), view.at(line, 2.5 * half_wide))
    marks = (
        EvidenceMark("outline", tuple(window), "face", "Where a guest opposite has their face."),
        EvidenceMark("dashed", sight, "sight", "The line of sight of guests who sit."),
    )
    blooms = [b for b in scene.blooms if b.role != "filler"]
    areas = np.array([b.radius**2 for b in blooms])
    over = np.array([float(view.place(np.array([b.centre]))[0][0]) > line for b in blooms], bool)
    share = float(areas[over].sum() / areas.sum()) if len(areas) else float("nan")
    at = length(TURNING.eyes, 0)
    return (
        finding_of(
            "sight_blocked",
            min(1.0, blocked),
            0.06,
            f"plant in a window of a face's size, {at} over the table ÷ the window",
            marks,
            view="seated",
        ),
        finding_of(
            "over_eye_line",
            share,
            0.08,
            f"blooms over {at} above the table ÷ all blooms, by area",
            marks,
            "no bloom was told apart",
            view="seated",
        ),
    )


def blooms_behind(front: Findings, back: Findings) -> Finding:
    """How much flower shows from behind beside what shows from in front."""
    before, behind = front.measured("foliage_share"), back.measured("foliage_share")
    if before is None or behind is None or before.value >= 0.999:
        return missing_of("blooms_behind", "no flowers were told from leaf", view="back")
    value = (1 - behind.value) / (1 - before.value)
    unsure = float(np.hypot(before.uncertainty, behind.uncertainty)) / (1 - before.value)
    return finding_of(
        "blooms_behind",
        value,
        unsure,
        f"flowers are {100 * (1 - behind.value):.0f} % of the plant from behind ÷"
        f" {100 * (1 - before.value):.0f} % from in front",
        view="back",
    )
