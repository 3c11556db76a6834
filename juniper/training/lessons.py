"""Lessons for the network that tells parts and keypoints: pictures with known truth, laid anew
before rooms, recoloured, reframed and taken badly.

What is not known of a pixel is not taught: a target holds, for each pixel, the set of Parts that it
may be, one bit for each.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np

from juniper.camera.card_placing import seen_places
from juniper.camera.containers import SHELF
from juniper.scene.parts import Part
from juniper.training.pictures import picture_at
from juniper.training.scenes import KEYPOINTS, Example

LONG = 760  # pixels: longer side at which sources are held in memory
PARTS_STRIDE, POINTS_STRIDE = 2, 4  # pixels of the picture to one of the targets
PLANT = 1 << Part.LEAF | 1 << Part.PETAL
THING = 1 << Part.NOT_PIECE | 1 << Part.OTHER_VESSEL
ROOM = THING | 1 << Part.SUPPORT
# of NAME.mask.png
MASKED = np.array(
    [1 << Part.NOT_PIECE, 1 << Part.SUPPORT, 1 << Part.CONTAINER, PLANT, THING], np.uint8
)
CANVASES = ((320, 416), (416, 320), (352, 352))  # width, height of lessons


@dataclass(frozen=True, eq=False)
class Source:
    """A picture with truth: `picture` uint8 (h, w, 3) sRGB, `sets` uint8 (h, w) of bits of Part,
    `points` (6, 2) of KEYPOINTS, and whether the container is `clear`.
    """

    picture: np.ndarray
    sets: np.ndarray
    points: np.ndarray
    clear: bool
    traced_room: bool

    def mirrored(self) -> Source:
        """The same, left for right."""
        points = self.points[[0, 1, 3, 2, 4, 5]] * [-1, 1] + [self.sets.shape[1] - 1, 0]
        return Source(
            self.picture[:, ::-1], self.sets[:, ::-1], points, self.clear, self.traced_room
        )


@dataclass(frozen=True, eq=False)
class Lesson:
    """One lesson: `picture` uint8 (h, w, 3); `hints` uint8 (2, h / 2, w / 2), the foreground map
    (128 for none) and the click; `sets` uint8 at PARTS_STRIDE; `points` float32 (6, 2) in pixels,
    nan where a keypoint is not in view; `size`, the container's height in pixels.
    """

    picture: np.ndarray
    hints: np.ndarray
    sets: np.ndarray
    points: np.ndarray
    size: float


def _held(
    picture: np.ndarray, sets: np.ndarray, points: np.ndarray, clear: bool, traced: bool
) -> Source:
    scale = min(1.0, LONG / max(picture.shape[:2]))
    size = (round(picture.shape[1] * scale), round(picture.shape[0] * scale))
    return Source(
        cv2.resize(picture, size, interpolation=cv2.INTER_AREA),
        cv2.resize(sets, size, interpolation=cv2.INTER_NEAREST),
        points * scale,
        clear,
        traced,
    )


def masked_source(mask: Path) -> Source | None:
    """A picture with NAME.mask.png and NAME.json beside it, of any of the studios; None where no
    container shows.
    """
    base = Path(str(mask)[: -len(".mask.png")])
    truth, labels = json.loads(base.with_suffix(".json").read_text()), picture_at(mask, 0)
    c = truth["container"]
    names = [
        ("base", "base_centre_px"),
        ("rim", "rim_centre_px"),
        ("rim_left", "rim_left_px"),
        ("rim_right", "rim_right_px"),
    ]
    points = np.array([*(c[a] if a in c else c[b] for a, b in names), *_fronts(truth)], float)
    if np.sum(labels == 2) < 300 or np.sum(labels == 3) < 300:
        return None
    if truth.get("view") == "top":
        points[:] = np.nan  # seen from above base and rim lie on one another
    picture = picture_at(base.with_suffix(".jpg"))[..., ::-1]
    return _held(
        picture, MASKED[labels], points, bool(c.get("clear") or c.get("material") == "glass"), False
    )


def _fronts(truth: dict) -> list:
    """Where foot and rim of a piece of the roll are nearest to the viewer, in pixels; nan where the
    truth does not tell.
    """
    shape = SHELF.get(truth["container"].get("kind", ""))
    if shape is None or truth.get("view") not in ("front", "back", "above", "below", "crowded"):
        return [[np.nan, np.nan]] * 2
    deep = (shape.profile[0], shape.rim_cm) if shape.depth_cm is None else (shape.depth_cm / 2,) * 2
    return seen_places(truth, np.array([[0, -deep[0], 0], [0, -deep[1], shape.height_cm]])).tolist()


def traced_source(path: Path) -> Source | None:
    """An Example kept at a path (.json); None where hardly any of its container shows."""
    one = Example.kept(path)
    if (one.parts == Part.CONTAINER).sum() < 250:
        return None
    points = np.array([one.truth[k] for k in KEYPOINTS], float)
    return _held(
        one.picture, (1 << one.parts.astype(int)).astype(np.uint8), points, one.truth["clear"], True
    )


def _smooth_noise(rng, h: int, w: int, cell: int) -> np.ndarray:
    return cv2.resize(
        rng.normal(0, 1, (max(2, h // cell), max(2, w // cell))).astype(np.float32),
        (w, h),
        interpolation=cv2.INTER_CUBIC,
    )


class Teacher:
    """Draws lessons from sources and photographs of rooms."""

    def __init__(self, sources: list[Source], rooms: list[np.ndarray], seed: int):
        self.sources, self.rooms, self.rng = sources, rooms, np.random.default_rng(seed)

    def lesson(self, canvas: tuple[int, int]) -> Lesson:
        """A lesson of a canvas (width, height)."""
        rng = self.rng
        if rng.random() < 0.03:
            return self._empty(canvas)
        source, moved = self._chosen(canvas)
        picture, sets, points = self._framed(source, canvas, moved)
        own = (sets & (1 << Part.CONTAINER | PLANT)) > 0
        container = sets == 1 << Part.CONTAINER
        picture = picture.astype(np.float32) / 255
        if moved and rng.random() < 0.35:
            gone = (sets & PLANT > 0) & (
                _smooth_noise(rng, own.shape[0], own.shape[1], int(rng.integers(8, 40)))
                > rng.uniform(-0.2, 1.0)
            )
            own &= ~gone
            sets[gone] = 0
        if not source.clear and rng.random() < (0.25 if source.traced_room else 0.6):
            picture = _recoloured(picture, container, sets & PLANT > 0, rng)
        if not source.clear and rng.random() < (0.1 if source.traced_room else 0.3):
            _textured(picture, container, rng)
        if moved:
            picture, sets = self._elsewhere(picture, sets, own, container, canvas)
        hints = self._hints(sets, container)
        size = float(np.nan_to_num(np.linalg.norm(points[0] - points[1]), nan=1.0))
        inside = (points > -2).all(1) & (points < np.array(canvas) + 2).all(1)
        points = np.where(inside[:, None], np.clip(points, 0, np.array(canvas) - 1), np.nan)
        if not container.any():
            points[:] = np.nan
        half = PARTS_STRIDE // 2
        return Lesson(
            _taken(picture, rng),
            hints,
            sets[half::PARTS_STRIDE, half::PARTS_STRIDE],
            points.astype(np.float32),
            size,
        )

    def _chosen(self, canvas: tuple[int, int]) -> tuple[Source, bool]:
        """A source, and whether its piece is to be laid elsewhere; one that stays where it is has
        about the canvas's shape.
        """
        rng, aspect = self.rng, canvas[0] / canvas[1]
        while True:
            source = self.sources[int(rng.integers(len(self.sources)))]
            if not source.clear and rng.random() < (0.3 if source.traced_room else 0.75):
                return source, True
            h, w = source.sets.shape
            if abs(np.log(w / h / aspect)) < 0.3:
                return source, False

    def _framed(self, source: Source, canvas: tuple[int, int], moved: bool):
        """The source in a frame of its own: scaled, turned, mirrored, stretched level by level,
        seen through a lens.
        """
        rng = self.rng
        if rng.random() < 0.5:
            source = source.mirrored()
        wide, high = canvas
        ys, xs = np.nonzero(source.sets & (1 << Part.CONTAINER | PLANT))
        low, top = np.array([xs.min(), ys.min()]), np.array([xs.max() + 1, ys.max() + 1])
        extent = np.maximum(top - low, 8)
        fill = rng.uniform(0.3, 0.97) if rng.random() < 0.55 else rng.uniform(0.6, 0.95)
        scale = fill * min(wide / extent[0], high / extent[1])
        if rng.random() < 0.1:  # something of it is cut off
            scale *= rng.uniform(1.05, 1.4)
        h, w = source.sets.shape
        if not moved:
            scale = max(scale, 1.02 * wide / w, 1.02 * high / h)
        stretch = np.exp(rng.normal(0, 0.07)) if moved else 1.0
        turn = np.radians(rng.normal(0, 2.2))
        slack = np.maximum(0, np.array(canvas) - extent * scale * [stretch, 1]) / 2
        middle = (low + top) / 2
        to = np.array(canvas) / 2 + rng.uniform(-0.95, 0.95, 2) * slack
        if not moved:  # no more of the frame is asked for than the source shows
            to = np.clip(to, canvas - (np.array([w, h]) - middle) * scale, middle * scale)
        # From the canvas back to the source.
        x, y = np.meshgrid(np.arange(wide, dtype=np.float32), np.arange(high, dtype=np.float32))
        dx, dy = x - to[0], y - to[1]
        if rng.random() < 0.3:
            bend = rng.normal(0, 0.05) / (max(canvas) / 2) ** 2
            r2 = (x - wide / 2) ** 2 + (y - high / 2) ** 2
            dx, dy = dx * (1 + bend * r2), dy * (1 + bend * r2)
        c, s = np.cos(turn), np.sin(turn)
        u = (c * dx + s * dy) / (scale * stretch) + middle[0]
        v = (-s * dx + c * dy) / scale + middle[1]
        if (
            rng.random() < (0.2 if source.traced_room else 0.5)
            and not source.clear
            and np.isfinite(source.points[:2]).all()
        ):
            u = self._stretched(source, u, v)
        shrink = min(1.0, 1.3 * scale)
        picture = source.picture
        if shrink < 0.8:
            picture = cv2.resize(picture, None, fx=shrink, fy=shrink, interpolation=cv2.INTER_AREA)
        ratio = (
            picture.shape[1] / source.picture.shape[1],
            picture.shape[0] / source.picture.shape[0],
        )
        picture = cv2.remap(
            picture,
            ((u + 0.5) * ratio[0] - 0.5).astype(np.float32),
            ((v + 0.5) * ratio[1] - 0.5).astype(np.float32),
            cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )
        sets = cv2.remap(
            source.sets,
            u.astype(np.float32),
            v.astype(np.float32),
            cv2.INTER_NEAREST,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=0,
        )
        points = np.array([_found(u, v, p) for p in source.points])
        return picture, sets, points

    def _stretched(self, source: Source, u: np.ndarray, v: np.ndarray) -> np.ndarray:
        """Columns of the source with the container made wider or narrower level by level about its
        axis.
        """
        rng = self.rng
        base, rim = source.points[:2]
        knots = int(rng.integers(2, 7))
        factor = np.interp(
            np.linspace(0, 1, 64), np.linspace(0, 1, knots), np.exp(rng.normal(0, 0.22, knots))
        )
        level = (v - rim[1]) / max(1.0, base[1] - rim[1])
        wide = np.interp(np.clip(level, 0, 1), np.linspace(0, 1, 64), factor)
        above = np.clip(1 + level * max(1.0, base[1] - rim[1]) / max(8.0, rim[1]), 0, 1)
        wide = np.where(level < 0, 1 + (factor[0] - 1) * above, wide)
        axis = rim[0] + (base[0] - rim[0]) * level
        return (axis + (u - axis) / wide).astype(np.float32)

    def _elsewhere(self, picture, sets, own, container, canvas):
        """The piece cut out and laid before a room, on a table of its own or not, with other things
        beside.
        """
        rng = self.rng
        ground = self._room(canvas)
        h, w = own.shape
        allowed = np.full((h, w), ROOM, np.uint8)
        foot = np.nonzero(container.any(1))[0]
        foot = int(foot.max()) if len(foot) else int(0.8 * h)
        if rng.random() < 0.6:
            line = int(np.clip(foot - rng.uniform(0.0, 0.14) * h, 1, h - 2))
            slope = rng.normal(0, 0.02)
            edge = (line + slope * (np.arange(w) - w / 2)).clip(1, h - 1)
            table = np.arange(h)[:, None] > edge[None]
            front = h if rng.random() < 0.6 else min(h, foot + int(rng.uniform(0.01, 0.12) * h) + 1)
            table &= np.arange(h)[:, None] < front
            other = self._room(canvas)
            tone = other[int(rng.integers(h)), int(rng.integers(w))]
            grain = 0.03 * _smooth_noise(rng, h, w, int(rng.integers(3, 20)))[..., None]
            mix = rng.uniform(0.4, 1.0)
            ground = np.where(
                table[..., None], np.clip(mix * tone + (1 - mix) * ground + grain, 0, 1), ground
            )
            allowed[table] = 1 << Part.SUPPORT
            if front < h:
                ground[front:] = np.clip(ground[front:] * rng.uniform(0.3, 1.2), 0, 1)
        for _ in range(int(rng.choice([0, 1, 2], p=[0.5, 0.32, 0.18]))):
            self._other_vessel(ground, allowed, foot)
        shade = np.roll(
            own.astype(np.float32), (int(rng.integers(0, 10)), int(rng.integers(-20, 21))), (0, 1)
        )
        ground = (
            ground
            * (1 - rng.uniform(0, 0.45) * cv2.GaussianBlur(shade, (0, 0), rng.uniform(1.5, 12)))[
                ..., None
            ]
        )
        picture = picture * np.exp(rng.normal(0, 0.2)) if rng.random() < 0.5 else picture
        soft = cv2.GaussianBlur(own.astype(np.float32), (0, 0), rng.uniform(0.4, 0.9))[..., None]
        return np.clip(picture, 0, 1) * soft + ground * (1 - soft), np.where(
            own, sets, allowed
        ).astype(np.uint8)

    def _room(self, canvas) -> np.ndarray:
        """Some part of a room's photograph, float32 (h, w, 3) 0..1."""
        rng = self.rng
        room = self.rooms[int(rng.integers(len(self.rooms)))]
        wide, high = canvas
        part = rng.uniform(0.25, 1.0)
        h = int(min(room.shape[0], room.shape[1] * high / wide) * part)
        w = int(h * wide / high)
        y, x = (
            int(rng.integers(0, room.shape[0] - h + 1)),
            int(rng.integers(0, room.shape[1] - w + 1)),
        )
        out = (
            cv2.resize(room[y : y + h, x : x + w], canvas, interpolation=cv2.INTER_AREA).astype(
                np.float32
            )
            / 255
        )
        if rng.random() < 0.5:
            out = out[:, ::-1]
        if rng.random() < 0.3:
            out = cv2.GaussianBlur(out, (0, 0), rng.uniform(0.5, 5))
        return np.ascontiguousarray(out)

    def _other_vessel(self, ground, allowed, foot: int) -> None:
        rng = self.rng
        other = self.sources[int(rng.integers(len(self.sources)))]
        if other.clear:
            return
        mask = other.sets == 1 << Part.CONTAINER
        ys, xs = np.nonzero(mask)
        part = np.s_[ys.min() : ys.max() + 1, xs.min() : xs.max() + 1]
        h, w = ground.shape[:2]
        scale = rng.uniform(0.1, 0.4) * h / (np.ptp(ys) + 1)
        size = (max(3, int((np.ptp(xs) + 1) * scale)), max(3, int((np.ptp(ys) + 1) * scale)))
        if size[0] >= w or size[1] >= h:
            return
        look = (
            cv2.resize(other.picture[part], size, interpolation=cv2.INTER_AREA).astype(np.float32)
            / 255
        )
        seen = cv2.resize(mask[part].astype(np.uint8), size, interpolation=cv2.INTER_NEAREST) > 0
        look = np.clip(look * np.exp(rng.normal(0, 0.3) + rng.normal(0, 0.15, 3)), 0, 1)
        x, y = (
            int(rng.integers(0, w - size[0])),
            int(np.clip(foot - size[1] + rng.normal(0, 0.04 * h), 0, h - size[1])),
        )
        at = np.s_[y : y + size[1], x : x + size[0]]
        ground[at][seen] = look[seen]
        allowed[at][seen] = 1 << Part.OTHER_VESSEL

    def _hints(self, sets: np.ndarray, container: np.ndarray) -> np.ndarray:
        """What a general network might say is foreground, made worse as such networks fail, and
        where a person clicked.
        """
        rng = self.rng
        h, w = sets.shape
        hints = np.zeros((2, h // 2, w // 2), np.uint8)
        hints[0] = 128
        if rng.random() < 0.35:
            front = (sets & (1 << Part.CONTAINER | PLANT) > 0).astype(np.float32)
            u = rng.random()
            if u < 0.25:
                front[container] *= rng.uniform(0, 0.8)
            elif u < 0.4:
                front[sets == 1 << Part.OTHER_VESSEL] = 1
            if rng.random() < 0.4:
                front *= _smooth_noise(rng, h, w, int(rng.integers(20, 80))) > rng.uniform(
                    -2.5, -0.8
                )
            front = cv2.GaussianBlur(front, (0, 0), rng.uniform(0.5, 2.5))
            hints[0] = np.clip(
                cv2.resize(front, (w // 2, h // 2), interpolation=cv2.INTER_AREA) * 255, 0, 255
            )
        if container.any() and rng.random() < 0.2:
            ys, xs = np.nonzero(container)
            k = int(rng.integers(len(ys)))
            cv2.circle(hints[1], (int(xs[k]) // 2, int(ys[k]) // 2), 4, 255, -1)
        return hints

    def _empty(self, canvas) -> Lesson:
        """A room without a piece."""
        picture = self._room(canvas)
        half = PARTS_STRIDE
        sets = np.full((canvas[1] // half, canvas[0] // half), ROOM, np.uint8)
        hints = np.zeros((2, canvas[1] // 2, canvas[0] // 2), np.uint8)
        hints[0] = 128
        return Lesson(
            _taken(picture, self.rng),
            hints,
            sets,
            np.full((len(KEYPOINTS), 2), np.nan, np.float32),
            1.0,
        )


def _found(u: np.ndarray, v: np.ndarray, point: np.ndarray) -> np.ndarray:
    """Where (x, y) a map (u, v) of source coordinates shows a point of the source; nearest pixel,
    then one step of Newton's.
    """
    if not np.isfinite(point).all():
        return np.full(2, np.nan)
    miss = (u - point[0]) ** 2 + (v - point[1]) ** 2
    y, x = np.unravel_index(int(miss.argmin()), miss.shape)
    x, y = np.clip(x, 1, u.shape[1] - 2), np.clip(y, 1, u.shape[0] - 2)
    slope = (
        np.array(
            [
                [u[y, x + 1] - u[y, x - 1], u[y + 1, x] - u[y - 1, x]],
                [v[y, x + 1] - v[y, x - 1], v[y + 1, x] - v[y - 1, x]],
            ],
            float,
        )
        / 2
    )
    if abs(np.linalg.det(slope)) < 1e-6:
        return np.array([x, y], float)
    return np.array([x, y], float) + np.linalg.solve(slope, point - [u[y, x], v[y, x]])


def _recoloured(picture, container, plant, rng) -> np.ndarray:
    """The piece with another glaze and other leaves or petals, its light and shade kept."""
    lab = cv2.cvtColor(picture.astype(np.float32), cv2.COLOR_RGB2LAB)
    if container.any() and rng.random() < 0.8:
        light, a, b = lab[container].T
        u = rng.random()
        want, chroma = (
            (rng.uniform(70, 92), rng.uniform(0, 9))
            if u < 0.38
            else (
                (rng.uniform(8, 26), rng.uniform(0, 8))
                if u < 0.5
                else (rng.uniform(25, 80), rng.uniform(0, 45))
            )
        )
        hue, keep = rng.uniform(0, 2 * np.pi), rng.uniform(0, 0.5)
        lab[container] = np.stack(
            [
                np.clip(want + (light - light.mean()) * rng.uniform(0.5, 1.3), 2, 98),
                chroma * np.cos(hue) + keep * (a - a.mean()),
                chroma * np.sin(hue) + keep * (b - b.mean()),
            ],
            1,
        )
    if plant.any() and rng.random() < 0.7:
        light, a, b = lab[plant].T
        turn = rng.normal(0, 0.4) if rng.random() < 0.6 else rng.uniform(0, 2 * np.pi)
        chroma = rng.choice([1.0, 1.0, 0.4, 0.15]) * np.exp(rng.normal(0, 0.2))
        tint = rng.uniform(0, (8, 22)) if chroma < 0.5 else np.zeros(2)
        lab[plant] = np.stack(
            [
                np.clip(light * np.exp(rng.normal(0, 0.25)) + rng.normal(0, 6), 1, 98),
                chroma * (a * np.cos(turn) - b * np.sin(turn)) + tint[0],
                chroma * (a * np.sin(turn) + b * np.cos(turn)) + tint[1],
            ],
            1,
        )
    return np.clip(cv2.cvtColor(lab, cv2.COLOR_LAB2RGB), 0, 1)


def _textured(picture, container, rng) -> None:
    """Ribs, rings or mottling on the container, in place."""
    h, w = container.shape
    x, y = np.meshgrid(np.arange(w, dtype=np.float32), np.arange(h, dtype=np.float32))
    u, deep = rng.random(), rng.uniform(0.05, 0.25)
    if u < 0.5:
        factor = 1 + deep * np.sin(x * 2 * np.pi / rng.uniform(3.5, 22) + rng.uniform(0, 6))
    elif u < 0.75:
        factor = 1 + deep * np.sin(y * 2 * np.pi / rng.uniform(4, 50) + rng.uniform(0, 6))
    else:
        factor = 1 + deep * _smooth_noise(rng, h, w, int(rng.integers(2, 14)))
    picture[container] = np.clip(picture[container] * factor[container][:, None], 0, 1)


def _taken(picture: np.ndarray, rng) -> np.ndarray:
    """As a phone takes it: exposure, white balance, tone, vignette, blur or sharpening, noise of
    light and colour, JPEG; uint8.
    """
    out = np.clip(
        picture * np.exp(rng.normal(0, 0.2)) * np.exp(rng.normal(0, 0.08, 3)), 0, 1
    ) ** np.exp(rng.normal(0, 0.2))
    h, w = out.shape[:2]
    if rng.random() < 0.3:
        gy, gx = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j]
        out = out * (1 - rng.uniform(0, 0.25) * (gx**2 + gy**2))[..., None]
    if rng.random() < 0.2:  # a lamp's or a window's fall of light across the picture
        ramp = np.linspace(-1, 1, w)[None, :, None] * rng.normal(0, 0.25) + np.linspace(-1, 1, h)[
            :, None, None
        ] * rng.normal(0, 0.2)
        out = out * np.exp(ramp)
    out = out.astype(np.float32)
    u = rng.random()
    if u < 0.35:
        out = cv2.GaussianBlur(out, (0, 0), rng.uniform(0.3, 1.4))
    elif u < 0.5:
        out = out + rng.uniform(0.2, 1.0) * (out - cv2.GaussianBlur(out, (0, 0), 1.2))
    noise = rng.uniform(0, 0.03)
    out = out + rng.normal(0, noise, (h, w, 1)).astype(np.float32)
    if rng.random() < 0.4:
        out = out + noise * np.dstack([_smooth_noise(rng, h, w, 3) for _ in range(3)])
    out = np.clip(out * 255, 0, 255).astype(np.uint8)
    if rng.random() < 0.5:
        out = cv2.imdecode(
            cv2.imencode(".jpg", out, [cv2.IMWRITE_JPEG_QUALITY, int(rng.integers(35, 92))])[1],
            cv2.IMREAD_COLOR,
        )
    return out
