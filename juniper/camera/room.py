"""The room a piece stands in: table, wall, things behind; as textures and surfaces."""

from __future__ import annotations

import cv2
import numpy as np

from juniper.camera.mesh import Mesh, box, joined, linear, sheets, tube, tube_upright
from juniper.values import triple

TABLE_HALF = 90.0  # cm, the table's half width; its back edge stands this far behind the piece
TABLE_BACK = 34.0
WALL_AT = 62.0


def _noise(rng, shape, cells) -> np.ndarray:
    small = rng.standard_normal(cells).astype(np.float32)
    return cv2.resize(small, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC)


def wood(rng, tone: str, shape=(1000, 1600)) -> np.ndarray:
    """A planked wood texture (h, w, 3), linear, its grain along x."""
    h = shape[0]
    y = np.linspace(0, 1, h, dtype=np.float32)[:, None]
    warp = 0.5 * _noise(rng, shape, (6, 4)) + 0.12 * _noise(rng, shape, (24, 9))
    grain = np.sin(2 * np.pi * (26 * y + 1.1 * warp)) * 0.5 + 0.5
    streak = _noise(rng, shape, (h // 2, 14)) * 0.35 + _noise(rng, shape, (h, 90)) * 0.25
    value = 1 + 0.10 * (grain - 0.5) + 0.05 * streak
    planks = 7
    for i in range(planks):
        top, bottom = i * h // planks, (i + 1) * h // planks
        value[top:bottom] *= rng.uniform(0.88, 1.08)
        value[top : top + 2] *= 0.45
    return np.clip(
        linear(tone) * value[..., None] ** np.array([1.0, 1.12, 1.25]), 0.01, 0.9
    ).astype(np.float32)


def cloth(rng, tone: str, shape=(1400, 2000)) -> np.ndarray:
    """A woven texture."""
    h, w = shape
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    weave = (
        0.035 * (np.sin(x * 2.1) * np.sin(y * 2.1))
        + 0.03 * _noise(rng, shape, (h, 60))
        + 0.03 * _noise(rng, shape, (50, w))
    )
    return np.clip(
        linear(tone) * (1 + weave + 0.02 * _noise(rng, shape, (9, 12)))[..., None], 0.01, 0.9
    ).astype(np.float32)


def plaster(rng, tone: str, shape=(900, 1200)) -> np.ndarray:
    """A painted wall, a little uneven."""
    value = (
        1
        + 0.025 * _noise(rng, shape, (7, 9))
        + 0.02 * _noise(rng, shape, (60, 80))
        + 0.015 * _noise(rng, shape, (450, 600))
    )
    return np.clip(linear(tone) * value[..., None], 0.01, 0.92).astype(np.float32)


def paper(rng, tone: str, second: str, shape=(1200, 1600)) -> np.ndarray:
    """Wall paper: a drop pattern of simple sprigs (our own)."""
    base = plaster(rng, tone, shape)
    motif = np.zeros(shape, np.float32)
    for row in range(0, shape[0] + 100, 110):
        for col in range(0, shape[1] + 100, 120):
            cx, cy = col + (60 if (row // 110) % 2 else 0), row
            for a, far in ((-0.9, 26), (-0.3, 36), (0.3, 36), (0.9, 26)):
                tip = (int(cx + far * np.sin(a)), int(cy - far * np.cos(a)))
                cv2.ellipse(
                    motif,
                    (int(cx + tip[0]) // 2, int(cy + tip[1]) // 2),
                    (far // 2, 7),
                    np.degrees(a) - 90,
                    0,
                    360,
                    1,
                    -1,
                )
            cv2.line(motif, (cx, cy), (cx, cy + 28), 1, 3)
    motif = cv2.GaussianBlur(motif, (0, 0), 1.2)[..., None]
    return base * (1 - motif) + plaster(rng, second, shape) * motif


def boards(rng, tone: str, shape=(900, 1200)) -> np.ndarray:
    """Painted upright boards."""
    base = plaster(rng, tone, shape)
    for x in range(0, shape[1], 100):
        base[:, x : x + 100] *= rng.uniform(0.95, 1.03)
        base[:, x : x + 4] *= 0.5
        base[:, x + 4 : x + 8] *= 1.12
    return np.clip(base, 0.01, 0.92)


def stripes(rng, tone: str, shape=(1200, 1600)) -> np.ndarray:
    """Stripes one way or a check of two, of any width."""
    base, second = (
        plaster(rng, tone, shape),
        plaster(rng, tone, shape) * rng.uniform(0.3, 1.6, 3).astype(np.float32),
    )
    wide = rng.uniform(18, 110)
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]].astype(np.float32)
    which = np.sin(2 * np.pi * x / wide) > rng.uniform(-0.6, 0.6)
    if rng.random() < 0.5:
        which = which ^ (np.sin(2 * np.pi * y / wide) > 0)
    return np.clip(np.where(which[..., None], base, second), 0.01, 0.92)


def tiles(rng, tone: str, shape=(1200, 1600)) -> np.ndarray:
    """Laid tiles or bricks with their joints, each a little different."""
    base = plaster(rng, tone, shape)
    high, wide = int(rng.uniform(40, 110)), int(rng.uniform(60, 220))
    for n, top in enumerate(range(0, shape[0], high)):
        for left in range(-wide, shape[1], wide):
            at = left + (wide // 2 if n % 2 else 0)
            base[top : top + high, max(0, at) : max(0, at + wide)] *= rng.uniform(0.75, 1.12)
            base[top : top + high, max(0, at) : max(0, at + 5)] *= 1.5
        base[top : top + 5] *= 1.5
    return np.clip(base, 0.01, 0.92)


def print_of_leaves(rng, tone: str, shape=(1200, 1600)) -> np.ndarray:
    """A printed cloth: leaf and petal shapes strewn over it, in any colours."""
    out = plaster(rng, tone, shape)
    size = rng.uniform(10, 45)
    inks = [
        linear("#" + "".join(f"{int(v):02x}" for v in rng.uniform(30, 235, 3))) for _ in range(4)
    ]
    for _ in range(int(0.25 * shape[0] * shape[1] / size**2)):
        at = tuple(int(v) for v in rng.uniform(0, 1, 2) * shape[::-1])
        axes = (
            max(2, int(size * rng.uniform(0.5, 1.2))),
            max(2, int(size * rng.uniform(0.15, 0.6))),
        )
        ink = triple(inks[rng.integers(4)] * rng.uniform(0.8, 1.2))
        cv2.ellipse(out, at, axes, float(rng.uniform(0, 180)), 0, 360, ink, -1, cv2.LINE_AA)
    return np.clip(out, 0.01, 0.92)


TABLES = {
    "oak": ("wood", "#a97d51"),
    "walnut": ("wood", "#6a4630"),
    "pale ash": ("wood", "#c9ae8a"),
    "white cloth": ("cloth", "#e6e3db"),
    "grey cloth": ("cloth", "#8d8c89"),
    "blue cloth": ("cloth", "#4c5a70"),
    "slate": ("plaster", "#55585a"),
}
WALLS = {
    "plaster grey": ("plaster", "#b3b2ae"),
    "plaster warm": ("plaster", "#cdbfa9"),
    "plaster blue": ("plaster", "#8497a4"),
    "plaster white": ("plaster", "#dedbd3"),
    "charcoal": ("plaster", "#45484c"),
    "sage": ("plaster", "#8f9a86"),
    "boards": ("boards", "#b9c0bd"),
    "paper": ("paper", "#cfc6b4"),
    "drape": ("drape", "#9a938a"),
    "stripes": ("stripes", "#b9ab98"),
    "tiles": ("tiles", "#a9a39a"),
    "print": ("print", "#c8c2b6"),
}


def texture(kind: str, tone: str, rng) -> np.ndarray:
    """Texture of a table or wall."""
    if kind == "paper":
        return paper(rng, tone, "#8fa08e")
    made = {
        "wood": wood,
        "cloth": cloth,
        "plaster": plaster,
        "boards": boards,
        "drape": plaster,
        "stripes": stripes,
        "tiles": tiles,
        "print": print_of_leaves,
    }
    return made[kind](rng, tone)


def drape(rng, tone: str) -> Mesh:
    """A hung cloth with soft folds instead of a wall."""
    x = np.linspace(-120, 120, 420)
    z = np.linspace(-20, 190, 60)
    phase = 0.35 * x / 10 + 2.2 * np.sin(x / 23 + rng.uniform(0, 6))
    fold = 2.6 * np.sin(phase) + 1.3 * np.sin(2.1 * phase + 1)
    gx, gz = np.meshgrid(x, z)
    gy = WALL_AT - 6 + fold[None] * (0.75 + 0.25 * gz / 190) + 0.5 * np.sin(gz / 30 + gx / 17)
    colours = np.broadcast_to(linear(tone), (*gx.shape, 3)) * (
        1 + 0.02 * rng.standard_normal((*gx.shape, 1))
    )
    return sheets(np.stack([gx, gy, gz], -1)[None], colours[None])


def clutter(rng) -> Mesh:
    """Jars, tins, books and a shelf that stand about behind a piece."""
    tones = ["#7d8a91", "#a4573c", "#d2c7b0", "#3f5a4a", "#c49a4a", "#6d5a78", "#2f3a48", "#b7b0a2"]
    things = [box((-85, WALL_AT - 14, 52), (85, WALL_AT, 54.5), linear("#8a6a4a"))]
    x = -75.0
    while x < 75:
        tone = linear(tones[rng.integers(len(tones))])
        shelf = rng.random() < 0.5
        foot, y = (54.5, WALL_AT - 8) if shelf else (0.05, rng.uniform(22, 30))
        tall = rng.uniform(9, 24)
        if rng.random() < 0.5:
            wide = rng.uniform(2.5, 6)
            things.append(box((x, y - 5, foot), (x + wide, y + 5, foot + tall), tone))
        else:
            wide = rng.uniform(6, 12)
            r = wide / 2
            z = np.array([0, 0.05, 0.5, 0.8, 0.86, 1.0, 1.0]) * tall + foot
            half = np.array([0.02, 0.92, 1.0, 0.95, 0.6, 0.62, 0.02]) * r
            jar = tube_upright(np.column_stack([0 * z, 0 * z, z]), half, tone, 40)
            things.append(jar.moved(np.eye(3), [x + r, y, 0]))
        x += wide + rng.uniform(1, 9)
    return joined(things)


def jumble(rng) -> Mesh:
    """Any boxes, jars and poles about behind a piece, and panels hung on the wall, in any
    colours.
    """

    def tone():
        return linear(
            "#"
            + "".join(
                f"{int(v):02x}"
                for v in np.clip(rng.uniform(20, 235) + rng.normal(0, 45, 3), 8, 245)
            )
        )

    things = []
    for _ in range(int(rng.integers(2, 9))):
        x, y, wide, tall = (
            rng.uniform(-60, 60),
            rng.uniform(16, WALL_AT - 14),
            rng.uniform(3, 20),
            rng.uniform(5, 48),
        )
        kind = rng.random()
        if kind < 0.5:
            things.append(
                box((x - wide / 2, y, 0.05), (x + wide / 2, y + rng.uniform(3, 12), tall), tone())
            )
        elif kind < 0.85:
            z = np.array([0, 0.03, 0.3, 0.6, 0.8, 1.0, 1.0]) * tall
            half = np.array([0.02, *rng.uniform(0.4, 1.0, 5), 0.02]) * min(wide, 14) / 2
            things.append(
                tube_upright(np.column_stack([0 * z, 0 * z, z]), half, tone(), 32).moved(
                    np.eye(3), [x, y + 6, 0.05]
                )
            )
        else:
            pole = np.array([[x, y, 0.0], [x + rng.uniform(-12, 12), y + 6, rng.uniform(40, 120)]])
            things.append(tube(np.linspace(pole[0], pole[1], 8), rng.uniform(0.3, 1.6), tone(), 10))
    for _ in range(int(rng.integers(0, 4))):
        x, z, wide, tall = (
            rng.uniform(-70, 70),
            rng.uniform(30, 110),
            rng.uniform(10, 45),
            rng.uniform(10, 45),
        )
        things.append(
            box((x - wide / 2, WALL_AT - 2, z), (x + wide / 2, WALL_AT - 0.5, z + tall), tone())
        )
        if rng.random() < 0.5:
            inner = box(
                (x - wide / 2 + 2, WALL_AT - 2.2, z + 2),
                (x + wide / 2 - 2, WALL_AT - 1.9, z + tall - 2),
                tone(),
            )
            things.append(inner)
    return joined(things)
