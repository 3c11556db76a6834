"""What to add opposite, and where, so that a piece out of balance comes inside the band: the scales
solved for the side that is too light.

Weight is counted in blooms such as the piece already has, since that is what a person can set.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import lru_cache

import cv2
import numpy as np

from juniper.colour.heaviness import LEAST, visual_weight
from juniper.lengths import length
from juniper.measures.balance import half_foot, moments
from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View
from juniper.scene.blooms import Bloom
from juniper.scene.parts import Label
from juniper.scene.scene import Scene
from juniper.values import Point


@dataclass(frozen=True)
class CounterweightSettings:
    """What blooms may be added, and where.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    most: int = 5  # blooms that it makes sense to add to a made piece
    # of the piece's reach on its wider side: how far out a bloom may be set and still belong to it
    out: float = 0.85
    # of a bloom's disc: what of it is expected to show beyond what it covers
    half_shown: float = 0.6
    touching: float = 0.93  # free share of a bloom's disc up to which it touches the piece
    levels: int = 24  # heights at which a place is looked for
    left: int = 0
    right: int = 1


COUNTERWEIGHT = CounterweightSettings()


@dataclass(frozen=True)
class Addition:
    """`count` more blooms like `like` set on a `side`, about `distance` from the axis, at `places`
    (photograph pixels; none when it would take more than COUNTERWEIGHT.most).
    """

    side: str
    count: int
    distance: float
    like: Bloom
    places: tuple[Point, ...]

    def words(self, cm_per_px: float | None, plant_width: float) -> str:
        """What to do, as a sentence."""
        other = "right" if self.side == "left" else "left"
        if not self.places:
            return (
                f"It would take more than {COUNTERWEIGHT.most} blooms on the {self.side} to"
                f" outweigh it: take weight off the {other} instead."
            )
        size = 2 * self.like.radius
        across = f", {length(size * cm_per_px, 0)} across," if cm_per_px else ""
        far = (
            length(self.distance * cm_per_px, 0)
            if cm_per_px
            else f"{self.distance / plant_width:.2f} of the piece's width"
        )
        one = (
            f"One more bloom like the {self.like.hue} one"
            if self.count == 1
            else f"{self.count} more blooms like the {self.like.hue} ones"
        )
        return f"{one}{across} about {far} {self.side} of the axis should bring it inside."

    @property
    def marks(self) -> tuple[EvidenceMark, ...]:
        """A ring where each would be set."""
        return tuple(
            EvidenceMark(
                "ring",
                (place,),
                "add here",
                f"One more {self.like.hue} bloom here should balance it.",
                size=self.like.radius,
            )
            for place in self.places
        )


@dataclass(frozen=True, eq=False)
class Scales:
    """The two sides of a piece, each as (left, right): `area` and `weight` in raster pixels,
    `moment` weight times photograph pixels, `reach` and `rest` the furthest and the mean distance
    from the axis; and the bloom by which weight is counted, with its own area and weight.
    """

    view: View
    area: tuple[float, float]
    weight: tuple[float, float]
    moment: tuple[float, float]
    reach: tuple[float, float]
    rest: tuple[float, float]
    half_foot: float
    like: Bloom
    like_area: float
    like_weight: float
    _known: dict[tuple[int, float], list[_Place]] = field(default_factory=dict, init=False)

    def inside(self, measure: str, value: float, low: float, high: float) -> Addition | None:
        """The fewest blooms that bring a measure of balance inside its band; None for another
        measure, or one that is inside.

        A bloom adds what it shows beyond the plant that it covers.
        """
        if low <= value <= high:
            return None
        if measure in ("left_weight_share", "heavier_share", "left_area_share"):
            sides, each = (
                (self.area, self.like_area)
                if measure == "left_area_share"
                else (self.weight, self.like_weight)
            )
            heavy = (
                COUNTERWEIGHT.left
                if sides[COUNTERWEIGHT.left] > sides[COUNTERWEIGHT.right]
                else COUNTERWEIGHT.right
            )
            if measure == "heavier_share" and value < low:
                # One side is to lead: (heavy + added) / (all + added) = low.
                if not low < 1:
                    return None
                blooms, side = (low * sum(sides) - sides[heavy]) / (1 - low) / each, heavy
            else:
                # The heavier side's share comes down to the edge: heavy / (all + added) = edge.
                edge = high if value > high else 1 - low
                if not 0 < edge < 1:
                    return None
                blooms, side = (sides[heavy] / edge - sum(sides)) / each, 1 - heavy
            # Further out less of a bloom is lost before what stands there already, so that fewer
            # may do.
            out = max(COUNTERWEIGHT.out * self.reach[side], self.rest[side])
            ways = [self.rest[side] + part * (out - self.rest[side]) for part in (0.0, 0.5, 1.0)]
            return self._added(
                side, lambda count: [(blooms / count, distance) for distance in ways]
            )
        if measure == "moment_ratio":
            heavy = COUNTERWEIGHT.left if value > high else COUNTERWEIGHT.right
            edge = high if value > high else 1 / low if low > 0 else math.inf
            wanting = self.moment[heavy] / edge - self.moment[1 - heavy]
        elif measure == "weight_offset":
            heavy = (
                COUNTERWEIGHT.left
                if self.moment[COUNTERWEIGHT.left] > self.moment[COUNTERWEIGHT.right]
                else COUNTERWEIGHT.right
            )
            wanting = abs(
                self.moment[COUNTERWEIGHT.left] - self.moment[COUNTERWEIGHT.right]
            ) - high * self.half_foot * (sum(self.weight) + self.like_weight)
        else:
            return None
        furthest = COUNTERWEIGHT.out * max(self.reach)

        def each_of(count: int) -> list[tuple[float, float]]:
            distance = min(
                furthest, wanting / (self.like_weight * count * COUNTERWEIGHT.half_shown)
            )
            return [
                (wanting / (self.like_weight * count * far), far) for far in (distance, furthest)
            ]

        return self._added(1 - heavy, each_of) if wanting > 0 else None

    def _added(self, side: int, each_of) -> Addition:
        """The fewest blooms on a side of which each shows the part that `each_of` (count) asks for
        at one of its distances.
        """
        distance = 0.0
        for count in range(1, COUNTERWEIGHT.most + 1):
            for shown, distance in each_of(count):
                found = self._places(side, count, distance)
                if sum(free for _, free in found) >= shown * count:
                    return Addition(
                        ("left", "right")[side],
                        count,
                        distance,
                        self.like,
                        tuple(at for at, _ in found),
                    )
        return Addition(("left", "right")[side], COUNTERWEIGHT.most + 1, distance, self.like, ())

    def _places(self, side: int, count: int, distance: float) -> list[tuple[Point, float]]:
        """The places at a distance from the axis, a bloom apart, that are least covered and lie
        closest to the outline, and how much of each is free.
        """
        chosen: list[_Place] = []
        for one in self._tried(side, distance):
            apart = all(abs(one.level - c.level) >= 1.8 * self.like.radius for c in chosen)
            if len(chosen) < count and apart:
                chosen.append(one)
        return [(place.at, place.free) for place in chosen]

    def _tried(self, side: int, distance: float) -> list[_Place]:
        """Every place that is looked at, the best first; found once for a side and distance,
        since one number of blooms after the other is tried there.
        """
        known = self._known.get((side, distance))
        if known is not None:
            return known
        surface, across = self.view.surface, distance * (-1 if side == COUNTERWEIGHT.left else 1)
        radius = self.like.radius
        high, wide = (side / surface.scale for side in surface.labels.shape)
        tried = []
        for level in np.linspace(
            min(radius, 0.3 * self.view.plant_height),
            0.8 * self.view.plant_height,
            COUNTERWEIGHT.levels,
        ):
            at = self.view.at(float(level), across)
            if not (radius <= at[0] <= wide - radius and radius <= at[1] <= high - radius):
                continue  # nobody can be shown a bloom outside the picture
            off = (
                -cv2.pointPolygonTest(surface.hull.astype(np.float32), at, True)
                if len(surface.hull) > 2
                else 0.0
            )
            free = 1 - _covered(surface, at, radius)
            loose = (
                0.5 if free > COUNTERWEIGHT.touching else 0.0
            )  # a bloom in the air belongs to nothing
            worth = free - loose - 0.4 * max(0.0, off) / radius
            tried.append(_Place(worth, float(level), at, free))
        found = self._known[side, distance] = sorted(tried, key=lambda place: -place.worth)
        return found


@dataclass(frozen=True)
class _Place:
    """Where a bloom may be added: how well it would lie there, its height above the rim and its
    middle (photograph pixels), and the share of its disc that is free.
    """

    worth: float
    level: float
    at: Point
    free: float


def _covered(surface, at: Point, radius: float) -> float:
    """Share of a disc on which plant shows already."""
    x, y, r = (round(v * surface.scale) for v in (*at, max(radius, 1 / surface.scale)))
    left, top = max(0, x - r), max(0, y - r)
    part = surface.labels[top : max(0, y + r + 1), left : max(0, x + r + 1)]
    if part.size == 0:
        return 1.0
    disc = _disc(r)[top - y + r :, left - x + r :][: part.shape[0], : part.shape[1]]
    return float((part[disc] == Label.PLANT).mean()) if disc.any() else 1.0


@lru_cache(maxsize=16)
def _disc(radius: int) -> np.ndarray:
    """A filled disc, (2 radius + 1, 2 radius + 1) bool."""
    across = np.arange(-radius, radius + 1)
    return np.hypot(across[None], across[:, None]) <= radius


def scales_of(view: View, scene: Scene) -> Scales | None:
    """The two sides of a piece; None where no bloom is there to count by, or one side is empty."""
    full = [b for b in scene.blooms if b.role in ("mass", "filler")] or [
        b for b in scene.blooms if b.role != "line"
    ]
    left = view.side < 0
    if not full or left.all() or not left.any():
        return None
    like = sorted(full, key=lambda b: b.radius)[3 * len(full) // 4]
    petals = [s for s in scene.palette if s.part == "flower"]
    light = petals[like.swatch - 1].lab[0] if 0 < like.swatch <= len(petals) else 60.0
    more = view.pulls[min(like.swatch, len(view.pulls) - 1)] if view.pulls else 0.0
    area = float(np.pi * like.radius**2) * view.surface.scale**2
    weight = float(view.weight[left].sum())
    weights, pulls = (weight, view.total - weight), moments(view)
    return Scales(
        view=view,
        area=(float(left.sum()), float((~left).sum())),
        weight=weights,
        moment=pulls,
        reach=(-float(view.side.min()), float(view.side.max())),
        rest=(
            pulls[COUNTERWEIGHT.left] / weights[COUNTERWEIGHT.left],
            pulls[COUNTERWEIGHT.right] / weights[COUNTERWEIGHT.right],
        ),
        half_foot=half_foot(view),
        like=like,
        like_area=area,
        like_weight=area * max(LEAST, float(visual_weight(light)) + more),
    )
