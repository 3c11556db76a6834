"""The piece as pixels laid along and across the container's axis.

A `Surface` holds what does not depend on the datum and is made once for a photograph; a `View` is
the surface seen from one datum and is made anew, cheaply, whenever a handle moves.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np

from juniper.colour.heaviness import LEAST, visual_weight
from juniper.measures.saliency import eye_map
from juniper.measures.texture import Texture, texture_of
from juniper.scene.container.datum import Datum
from juniper.scene.container.pose import Plane, Pose
from juniper.scene.parts import Label
from juniper.scene.scene import Raster
from juniper.scene.stems import Stem, Trace, find_stems, trace_of
from juniper.values import Point, point


@dataclass(frozen=True)
class SurfaceSettings:
    """How finely a surface is sampled, and what belongs to its outline.

    Where no source is named: set by trial on simulated pieces (bin/trials).
    """

    sampled: int = 3000  # plant pixels that are enough to tell an uncertainty by
    bins: int = 72  # of the plant's width, in which tips are looked for
    thin: int = 3  # of the petals' pixels every so many, each way, are looked at
    # of the container's largest part: smaller ones that lie apart are none of it
    speck: float = 0.05
    slices: int = 24  # of the container's height, in which its width is read
    # of the plant's extent: how far apart twigs may stand and still share an outline
    closing: float = 0.06


SURFACE = SurfaceSettings()


@dataclass(frozen=True, eq=False)
class Surface:
    """Plant pixels of a photograph, in its own full pixels.

    `x`, `y`, `weight` are (n,) floats; `hull` (m, 2) the plant's convex hull; `wall_hull` the
    container's, `wall_edge` (k, 2) the left and the right end of each of its rows, both without
    specks that lie apart, `wall_px` its area; `petals` the number of petal pixels, `flowers` (h, w)
    their swatches; `light` and `dark` the lightness L* that nine tenths of the plant lie between;
    `fill`, `hole` and `hole_outline` describe the closed outline; `labels` and `scale` the raster
    itself; `eye_at` is where the eye goes first; `breadth` (h, w) float16 how far each plant pixel
    lies from the plant's edge, in pixels of the raster; `texture` how fine and how broad the
    material is.
    """

    x: np.ndarray
    y: np.ndarray
    weight: np.ndarray
    hull: np.ndarray
    wall_hull: np.ndarray
    wall_edge: np.ndarray
    outline: np.ndarray
    area_px: float
    petals: int
    light: float
    dark: float
    fill: float
    hole: float
    hole_outline: np.ndarray
    labels: np.ndarray
    scale: float
    eye_at: Point | None
    breadth: np.ndarray
    flowers: np.ndarray
    wall_px: float
    texture: Texture | None = None

    @cached_property
    def trace(self) -> Trace:
        """What the main lines are looked for on, in pixels of the raster."""
        return trace_of(self.labels, self.breadth)

    @cached_property
    def swatches(self) -> np.ndarray:
        """Number of the flower colour of each plant pixel (n,), 0 for leaf and stem."""
        return self.flowers[self.labels == Label.PLANT]

    @cached_property
    def petal_places(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(swatch number, row, column), each (n,), of petal pixels of the raster, thinned: enough
        to tell where a colour lies.
        """
        ys, xs = np.nonzero(self.flowers[:: SURFACE.thin, :: SURFACE.thin])
        return (
            self.flowers[:: SURFACE.thin, :: SURFACE.thin][ys, xs],
            ys * SURFACE.thin,
            xs * SURFACE.thin,
        )


def surface_of(raster: Raster) -> Surface:
    """Make the surface of a raster; plant extents, outline and gaps are found here, once."""
    plant = (raster.labels == Label.PLANT).astype(np.uint8)
    ys, xs = np.nonzero(plant)
    back = 1 / raster.scale
    wall = _without_specks(raster.labels == Label.CONTAINER)
    outline, fill, hole, hole_outline = _closed(plant)
    dark, light = np.percentile(raster.light[ys, xs], (5, 95)) if len(xs) else (0.0, 0.0)
    eye = eye_map(raster.light.astype(np.float32), plant > 0)
    row, column = np.unravel_index(int(eye.argmax()), eye.shape)
    # Pixel i covers i to i + 1: its middle stands for it.
    return Surface(
        x=(xs + 0.5) * back,
        y=(ys + 0.5) * back,
        weight=visual_weight(raster.light[ys, xs]),
        hull=(_hull(plant > 0) + 0.5) * back,
        wall_hull=(_hull(wall) + 0.5) * back,
        wall_edge=_row_ends(wall) * back,
        outline=(outline + 0.5) * back,
        area_px=len(xs) * back * back,
        petals=int((raster.flowers > 0).sum()),
        light=light,
        dark=dark,
        fill=fill,
        hole=hole,
        hole_outline=(hole_outline + 0.5) * back,
        labels=raster.labels,
        scale=raster.scale,
        breadth=cv2.distanceTransform(np.pad(plant, 1), cv2.DIST_L2, 3)[1:-1, 1:-1].astype(
            np.float16
        ),
        flowers=raster.flowers,
        wall_px=int(wall.sum()) * back * back,
        texture=texture_of(raster.light, plant > 0),
        eye_at=((column + 0.5) * back, (row + 0.5) * back) if len(xs) else None,
    )


def stems_under(surface: Surface, datum: Datum) -> tuple[Stem, ...]:
    """The main lines that are found on a surface under a datum, photograph pixels."""
    return tuple(
        s.scaled(1 / surface.scale) for s in find_stems(surface.trace, datum.scaled(surface.scale))
    )


def _without_specks(wall: np.ndarray) -> np.ndarray:
    """A container's mask (bool h x w) without parts under `speck` of its largest one: what of
    plant or table was taken for it.
    """
    count, numbers, stats, _ = cv2.connectedComponentsWithStats(
        wall.astype(np.uint8), connectivity=4
    )
    if count < 3:
        return wall
    area = stats[:, cv2.CC_STAT_AREA].copy()
    area[0] = 0
    return (area >= SURFACE.speck * area.max())[numbers] & wall


def _row_ends(mask: np.ndarray) -> np.ndarray:
    """Left and right ends (k, 2) of the rows of a mask (bool h x w), in its pixels: a pixel i
    reaches from i to i + 1.
    """
    rows = np.flatnonzero(mask.any(axis=1))
    if len(rows) == 0:
        return np.zeros((0, 2))
    first, last = mask[rows].argmax(axis=1), mask.shape[1] - mask[rows, ::-1].argmax(axis=1)
    return np.column_stack(
        [np.concatenate([first, last]), np.concatenate([rows, rows]) + 0.5]
    ).astype(float)


def _hull(mask: np.ndarray) -> np.ndarray:
    """Convex hull (k, 2) of a mask (bool h x w), in columns and rows: only the first and last of
    each row can be on it.
    """
    rows = np.flatnonzero(mask.any(axis=1))
    if len(rows) == 0:
        return np.zeros((0, 2))
    first, last = mask[rows].argmax(axis=1), mask.shape[1] - 1 - mask[rows, ::-1].argmax(axis=1)
    ends = np.column_stack([np.concatenate([first, last]), np.concatenate([rows, rows])])
    return cv2.convexHull(ends.astype(np.float32)).reshape(-1, 2)


def _closed(plant: np.ndarray) -> tuple[np.ndarray, float, float, np.ndarray]:
    """Closed outline of the plant, its fill, and its largest hole (as share, and drawn)."""
    if not plant.any():
        return np.zeros((0, 2)), 0.0, 0.0, np.zeros((0, 2))
    x, y, w, h = cv2.boundingRect(plant)
    reach = max(3, int(SURFACE.closing * max(w, h)))
    # Wide enough that the closing never meets the border, where it would not let go.
    room = 2 * reach + 2
    part = cv2.copyMakeBorder(
        plant[y : y + h, x : x + w], room, room, room, room, cv2.BORDER_CONSTANT
    )
    # At half size the closing costs a quarter and moves the outline by less than a pixel of it.
    share = cv2.resize(part.astype(np.float32), None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    half = (share >= 0.5).astype(np.uint8)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach | 1, reach | 1))
    closed = cv2.morphologyEx(half, cv2.MORPH_CLOSE, kernel)
    contours, _ = cv2.findContours(closed, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    chief = max(contours, key=cv2.contourArea)
    whole = cv2.drawContours(np.zeros_like(closed), [chief], -1, 1, cv2.FILLED)
    area = float(whole.sum())
    empty = (whole > 0) & (half == 0)
    # A hole is room inside the outline, not the ragged edge: what an opening leaves standing.
    open_kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (5, 5))
    inner = cv2.erode(whole, open_kernel, iterations=2)
    holes = cv2.morphologyEx((empty & (inner > 0)).astype(np.uint8), cv2.MORPH_OPEN, open_kernel)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(holes)
    hole, hole_outline = 0.0, np.zeros((0, 2))
    if count > 1:
        which = 1 + int(np.argmax(stats[1:, 4]))
        hole = float(stats[which, 4]) / area
        edges, _ = cv2.findContours(
            (labels == which).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE
        )
        hole_outline = max(edges, key=cv2.contourArea).reshape(-1, 2) * 2.0 + (x - room, y - room)
    contour = cv2.approxPolyDP(chief, 1.0, True).reshape(-1, 2) * 2.0 + (x - room, y - room)
    return contour, float(share[whole > 0].mean()), hole, hole_outline


@dataclass(frozen=True, eq=False)
class View:
    """A surface seen from a datum, with the focal point in force. Lengths in photograph pixels;
    with a `pose` in those of the picture rectified onto the upright plane through the axis. `pulls`
    is what colour adds to the visual weight of leaves and of each flower colour; none where
    lightness alone weighs.
    """

    surface: Surface
    datum: Datum
    focal: Point | None
    thin: int = 1
    pose: Pose | None = None
    pulls: tuple[float, ...] = ()

    @cached_property
    def _places(self) -> tuple[np.ndarray, np.ndarray]:
        return self.place(
            np.column_stack([self.surface.x[:: self.thin], self.surface.y[:: self.thin]])
        )

    @property
    def along(self) -> np.ndarray:
        """Height of each plant pixel over the rim point along the axis (n,)."""
        return self._places[0]

    @property
    def side(self) -> np.ndarray:
        """Distance of each plant pixel from the axis, right positive (n,)."""
        return self._places[1]

    @cached_property
    def _plane(self) -> Plane | None:
        return None if self.pose is None else Plane(self.pose, self.datum.up)

    @cached_property
    def _rim_place(self) -> tuple[float, float]:
        if self._plane is None:
            return 0.0, 0.0
        height, across = self._plane.of(np.array([self.datum.rim]))
        return float(height[0]), float(across[0])

    @cached_property
    def container_height(self) -> float:
        """Base point to rim point along the axis."""
        return (
            self.datum.height
            if self.pose is None
            else -float(self.place(np.array([self.datum.base]))[0][0])
        )

    @cached_property
    def rim_width(self) -> float:
        """Distance of the rim ends across the axis."""
        if self.pose is None:
            return self.datum.rim_width
        _, side = self.place(np.array([self.datum.rim_left, self.datum.rim_right]))
        # the ends may lie along the axis, or the wrong way round
        return max(1.0, abs(float(side[1] - side[0])))

    @property
    def as_shown(self) -> View:
        """The same view as the upright picture shows it, not corrected for the camera."""
        return replace(self, pose=None)

    @cached_property
    def weight(self) -> np.ndarray:
        """Visual weight of each plant pixel (n,)."""
        weight = self.surface.weight[:: self.thin]
        if not self.pulls:
            return weight
        more = np.asarray(self.pulls)[
            np.minimum(self.surface.swatches[:: self.thin], len(self.pulls) - 1)
        ]
        return np.maximum(weight + more, LEAST)

    @cached_property
    def total(self) -> float:
        """All visual weight."""
        return float(self.weight.sum())

    @cached_property
    def on_left(self) -> np.ndarray:
        """Whether each plant pixel lies to the viewer's left of the axis (n,)."""
        return self.side < 0

    @cached_property
    def left_weight(self) -> float:
        """Visual weight to the viewer's left of the axis."""
        return float(self.weight @ self.on_left)

    @cached_property
    def moment(self) -> np.ndarray:
        """Visual weight times distance from the axis, of each plant pixel (n,)."""
        return self.weight * self.side

    @cached_property
    def centre(self) -> tuple[float, float]:
        """(along, side) of the centre of visual weight, pixels from the rim point."""
        return float(self.weight @ self.along) / self.total, float(self.moment.sum()) / self.total

    @cached_property
    def _hull(self) -> tuple[np.ndarray, np.ndarray]:
        return self.place(self.surface.hull)

    def place(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """(along, side) of points (k, 2): on the upright plane through the axis where the camera's
        pose is known, else in the picture.
        """
        if self._plane is None:
            step = np.asarray(points, float) - self.datum.rim
            return step @ self.datum.up, step @ self.datum.right
        height, across = self._plane.of(points)
        return height - self._rim_place[0], across - self._rim_place[1]

    def at(self, along: float, side: float) -> Point:
        """Photograph pixel of a place along and across the axis; inverse of place()."""
        if self._plane is None:
            point = np.asarray(self.datum.rim) + along * self.datum.up + side * self.datum.right
        else:
            height, across = self._rim_place
            point = self._plane.at(np.array(along + height), np.array(side + across))
        return float(point[0]), float(point[1])

    @cached_property
    def top(self) -> Point:
        """The plant pixel furthest along the axis."""
        along, _ = self._hull
        return point(self.surface.hull[int(np.argmax(along))])

    @cached_property
    def extremes(self) -> tuple[Point, Point]:
        """Leftmost and rightmost plant pixels across the axis."""
        _, side = self._hull
        return (
            point(self.surface.hull[int(np.argmin(side))]),
            point(self.surface.hull[int(np.argmax(side))]),
        )

    @cached_property
    def plant_height(self) -> float:
        """Rim point to plant top along the axis, half a raster pixel added for its upper edge."""
        along, _ = self._hull
        return float(along.max()) + 0.5 / self.surface.scale

    @cached_property
    def plant_width(self) -> float:
        """Extent of the plant across the axis."""
        _, side = self._hull
        return float(side.max() - side.min()) + 1 / self.surface.scale

    @cached_property
    def container_width(self) -> float:
        """Greatest visible width of the container across the axis, never less than its rim: of
        slices from foot to rim the second broadest, as the broadest may hold a leaf or a shadow.
        """
        if len(self.surface.wall_edge) == 0:
            return self.rim_width
        along, side = self.place(self.surface.wall_edge)
        at = np.floor((along / self.container_height + 1) * SURFACE.slices).astype(int)
        on = (at >= 0) & (at < SURFACE.slices)
        low, high = np.full(SURFACE.slices, np.inf), np.full(SURFACE.slices, -np.inf)
        np.minimum.at(low, at[on], side[on])
        np.maximum.at(high, at[on], side[on])
        wide = np.sort(np.where(np.isfinite(low), high - low, 0.0))[-2]
        sane = wide < 2.5 * max(self.rim_width, self.container_height)
        return max(float(wide) if sane else 0.0, self.rim_width)

    @cached_property
    def tips(self) -> list[tuple[float, float, float]]:
        """Outward points of the upper outline: (along, side, how far each stands clear), by falling
        height. A tip stands clear by the drop to the saddle that parts it from a higher one.
        """
        # The furthest of any direction is at the plant's edge.
        along, side = self.place(self.surface.trace.edge / self.surface.scale)
        reach, low = self.plant_width, float(side.min())
        index = np.clip(
            ((side - low) / max(reach, 1) * SURFACE.bins).astype(int), 0, SURFACE.bins - 1
        )
        profile = np.full(SURFACE.bins, -np.inf)
        np.maximum.at(profile, index, along)
        profile[~np.isfinite(profile)] = profile[np.isfinite(profile)].min()
        out = []
        for i in range(SURFACE.bins):
            before, after = profile[:i], profile[i + 1 :]
            if (i and profile[i] <= before[-1]) or (i < SURFACE.bins - 1 and profile[i] < after[0]):
                continue
            drops = []
            for part in (before[::-1], after):
                higher = np.flatnonzero(part > profile[i])
                if len(higher):
                    drops.append(profile[i] - part[: higher[0] + 1].min())
            clear = min(drops) if drops else float(profile[i] - profile.min())
            if clear > 0.02 * self.plant_height:
                out.append(
                    (float(profile[i]), low + (i + 0.5) * reach / SURFACE.bins, float(clear))
                )
        return sorted(out, reverse=True)

    def shifted(
        self,
        rim: float = 0,
        base: float = 0,
        lean: float = 0,
        sideways: float = 0,
        pitch: float = 0,
        focal: float = 0,
    ) -> View:
        """The view under a datum off by pixels: along the axis at rim and base, across it at the
        base only (`lean`), and across it as a whole; or under a camera off in `pitch` (radians) and
        `focal` length (relative). Sampled thinly: for uncertainties only.
        """
        datum = self.datum
        up, right = datum.up, datum.right
        whole = sideways * right
        moved = replace(
            datum,
            rim=tuple(np.asarray(datum.rim) + rim * up + whole),
            base=tuple(np.asarray(datum.base) + base * up + whole + lean * right),
            rim_left=tuple(np.asarray(datum.rim_left) + rim * up + whole),
            rim_right=tuple(np.asarray(datum.rim_right) + rim * up + whole),
        )
        pose = None if self.pose is None else self.pose.shifted(pitch, focal)
        return View(
            self.surface,
            moved,
            self.focal,
            max(1, len(self.surface.x) // SURFACE.sampled),
            pose,
            self.pulls,
        )
