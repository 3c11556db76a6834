"""Paints a piece as a camera would see it, with a label for each pixel.

A painter's picture, not yet a traced one: turned walls, soft window light from the left, layered
petals, contact shadow, grain. Truth is read off the labels that were painted, so it is exact.
"""

from __future__ import annotations

import io
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from juniper.photobooth.pieces import PIECES, VESSELS, Piece
from juniper.scene.separation import BACKDROP, CONTAINER, PLANT, TABLE

WIDTH, HEIGHT, OVER = 900, 1200, 2
OPEN = 0.045  # how open rim and foot ellipses look: a camera just above rim height
LEAVES = ("#3d6b35", "#4f7d3f", "#2f5a30", "#6b8a62", "#587a3a")


@dataclass(frozen=True, eq=False)
class Picture:
    """A picture taken: JPEG bytes, label raster uint8 (h, w), and its truth."""

    jpeg: bytes
    labels: np.ndarray
    truth: dict


def _rgb(text: str) -> np.ndarray:
    return np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)], np.float32)


class _Canvas:
    """Colour, label and petal rasters painted together."""

    def __init__(self, width: int, height: int):
        self.colour = np.zeros((height, width, 3), np.float32)
        self.labels = np.zeros((height, width), np.uint8)
        self.petal = np.zeros((height, width), bool)

    def shape(self, points, colour, label, petal=False, shade=(0.0, 0.0)):
        """Fill a polygon; `shade` is the change of light across it, along x and along y."""
        points = np.asarray(points, np.float32)
        height, width = self.labels.shape
        x0, y0 = np.maximum(np.floor(points.min(0)).astype(int) - 1, 0)
        x1 = min(width, int(np.ceil(points[:, 0].max())) + 2)
        y1 = min(height, int(np.ceil(points[:, 1].max())) + 2)
        if x1 - x0 < 2 or y1 - y0 < 2:
            return
        mask = np.zeros((y1 - y0, x1 - x0), np.uint8)
        cv2.fillPoly(mask, [np.round((points - (x0, y0)) * 16).astype(np.int32)], 1, shift=4)
        inside = mask > 0
        u = np.linspace(-1, 1, x1 - x0, dtype=np.float32)[None, :]
        v = np.linspace(-1, 1, y1 - y0, dtype=np.float32)[:, None]
        light = 1 + shade[0] * u + shade[1] * v
        part = np.s_[y0:y1, x0:x1]
        self.colour[part][inside] = (np.asarray(colour)[None, None, :] * light[..., None])[inside]
        self.labels[part][inside] = label
        self.petal[part][inside] = petal


def take(number: int, seed: int | None = None) -> Picture:
    """The picture of piece `number` (counted round the shelf); the same number, the same picture."""
    piece = PIECES[number % len(PIECES)]
    rng = np.random.default_rng(1000 + number if seed is None else seed)
    return photograph(piece, rng)


def photograph(piece: Piece, rng: np.random.Generator) -> Picture:
    """Photograph a piece; `rng` decides petals, leaves and grain."""
    vessel = VESSELS[piece.vessel]
    height = piece.height
    total = vessel.height_cm * (1 + height)
    wide = 2 * piece.spread * height * vessel.height_cm
    scale = OVER * min(0.74 * HEIGHT / total, 0.8 * WIDTH / max(wide, vessel.width_cm))
    canvas = _Canvas(WIDTH * OVER, HEIGHT * OVER)
    base = np.array([WIDTH * OVER * (0.5 - 0.12 * piece.lean), HEIGHT * OVER * 0.88])
    rim = base - (0, vessel.height_cm * scale)
    plant = height * vessel.height_cm * scale
    _room(canvas, piece, base[1], rng)
    _shadow(canvas, base, vessel, scale)
    _rim_back(canvas, vessel, rim, scale)
    stems = _layout(piece, plant, rng)
    blooms: list[dict] = []
    origin = rim + (0, 0.02 * plant)
    for tip in stems["lines"]:
        _stem(canvas, origin, origin + tip, scale, rng)
        _sprig(canvas, origin + 0.35 * tip, origin + tip, 1.5 * scale, rng)
    for tip in stems["spikes"]:
        _stem(canvas, origin, origin + tip, scale, rng)
        _spike(canvas, origin + 0.5 * tip, origin + tip, 1.0 * scale, _rgb(piece.flowers[2]), rng)
    _wall(canvas, vessel, rim, base, scale)
    for spot in stems["leaves"]:
        _sprig(canvas, origin + 0.2 * spot, origin + spot, 2.0 * scale, rng)
    for place, radius, colour, kind in stems["blooms"]:
        centre = origin + place
        _bloom(canvas, centre, radius * scale, _rgb(colour), kind, rng)
        blooms.append({"centre": centre, "radius": radius * scale, "hex": colour, "kind": kind})
    colour = cv2.GaussianBlur(canvas.colour, (0, 0), 0.9)
    return _develop(colour, canvas, piece, rim, base, vessel, scale, blooms, rng)


def _room(canvas, piece, floor, rng):
    h, w = canvas.labels.shape
    edge = int(floor - 0.11 * h)
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    light = 1.06 - 0.22 * x / w - 0.10 * y / h
    cloud = cv2.GaussianBlur(rng.standard_normal((h // 40, w // 40)).astype(np.float32), (0, 0), 3)
    light += 0.25 * cv2.resize(cloud, (w, h), interpolation=cv2.INTER_CUBIC)
    canvas.colour[:] = _rgb(piece.backdrop) * light[..., None]
    table = np.s_[edge:]
    depth = (y[table] - edge) / (h - edge)
    canvas.colour[table] = _rgb(piece.table) * (0.9 + 0.16 * depth - 0.12 * x[table] / w)[..., None]
    canvas.labels[:edge], canvas.labels[edge:] = BACKDROP, TABLE


def _shadow(canvas, base, vessel, scale):
    h, w = canvas.labels.shape
    soft = np.zeros((h // 4, w // 4), np.float32)
    foot = vessel.profile[0] * scale
    for reach, depth in ((1.15, 0.5), (2.6, 0.16)):
        centre = (int((base[0] + (reach - 1) * foot) / 4), int((base[1] + 0.02 * foot) / 4))
        patch = np.zeros_like(soft)
        cv2.ellipse(patch, centre, (int(foot * reach / 4), max(2, int(foot * 0.10 * reach / 4))), 0, 0, 360, depth, -1)
        soft = np.maximum(soft, cv2.GaussianBlur(patch, (0, 0), 5 * reach))
    soft = cv2.resize(soft, (w, h))
    soft[canvas.labels != TABLE] = 0
    canvas.colour *= (1 - soft)[..., None]


def _half_width(vessel, t):
    # Catmull-Rom through the profile: a turned wall has no corners.
    profile = np.asarray(vessel.profile, float)
    k = np.clip(t, 0, 1) * (len(profile) - 1)
    i = np.minimum(k.astype(int), len(profile) - 2)
    u = k - i
    p = np.pad(profile, 1, mode="edge")
    a, b, c, d = p[i], p[i + 1], p[i + 2], p[i + 3]
    return 0.5 * (2 * b + (c - a) * u + (2 * a - 5 * b + 4 * c - d) * u**2 + (3 * b - a - 3 * c + d) * u**3)


def _rim_back(canvas, vessel, rim, scale):
    a = np.linspace(0, 2 * np.pi, 80)
    half = vessel.profile[-1] * scale
    ring = np.column_stack([rim[0] + half * np.cos(a), rim[1] + OPEN * half * np.sin(a)])
    canvas.shape(ring, 0.35 * _rgb(vessel.colour), CONTAINER)


def _wall(canvas, vessel, rim, base, scale):
    """The wall, row by row: lit from the left, darker to the right edge, with a soft highlight."""
    tall = base[1] - rim[1]
    colour = _rgb(vessel.colour)
    bottom = OPEN * vessel.profile[0] * scale
    top = OPEN * vessel.profile[-1] * scale
    for y in range(int(rim[1]), int(base[1] + bottom) + 1):
        half = float(_half_width(vessel, np.array([(base[1] - y) / tall]))[0]) * scale
        if y > base[1]:
            half *= np.sqrt(max(0.0, 1 - ((y - base[1]) / max(bottom, 1e-6)) ** 2))
        x0, x1 = int(np.ceil(rim[0] - half)), int(rim[0] + half)
        if x1 <= x0:
            continue
        u = (np.arange(x0, x1 + 1) - rim[0]) / max(half, 1)
        keep = np.ones(len(u), bool)
        if y < rim[1] + top:  # the front lip hangs below the rim's middle
            keep = (y - rim[1]) >= top * np.sqrt(np.clip(1 - u * u, 0, 1)) - 1
        light = 0.42 + 0.62 * np.clip(np.sqrt(np.clip(1 - u * u, 0, 1)) * 0.8 - 0.45 * u, 0, 1)
        light += 0.16 * np.exp(-(((u + 0.42) / 0.13) ** 2)) - 0.06 * (y - rim[1]) / tall
        row = np.s_[y, x0 : x1 + 1]
        canvas.colour[row][keep] = (colour[None] * light[:, None])[keep]
        canvas.labels[row][keep] = CONTAINER
        canvas.petal[row][keep] = False


def _layout(piece: Piece, plant: float, rng) -> dict:
    """Stem tips and bloom places relative to the binding point, y up being negative, by form."""
    wide = piece.spread * plant
    lean = piece.lean

    def edge(angle: float) -> np.ndarray:
        """Tip on the form's outline at an angle from upright (radians, right positive)."""
        side, s = np.sin(angle), abs(np.sin(angle))
        reach = {
            "vertical": (1 - 0.35 * s, 1.0),
            "round": (1.0, 1.0),
            "fan": (1 - 0.08 * s, 1.0),
            "horizontal": (1 - 0.2 * s, 1.0),
        }.get(piece.form, (1 - 0.62 * s**0.8, 1.0))[0]
        up = plant * reach * max(np.cos(angle), 0.02)
        across = wide * side * (1.0 + 0.5 * lean * np.sign(side))
        if piece.form == "right-angle L" and angle < -0.2:
            across *= 0.45
        if piece.form == "crescent":
            up += 0.18 * plant * s * (side > 0 if lean >= 0 else side < 0)
        return np.array([across, -up])

    tips = [edge(a) for a in np.concatenate([[0.0], np.linspace(-1.45, 1.45, 11) + rng.normal(0, 0.05, 11)])]
    tips[0] = np.array([0.02 * wide, -plant])
    tips[1:] = [t * rng.uniform(0.86, 0.98) for t in tips[1:]]
    if piece.fault == "twin tips":
        tips[0] = np.array([-0.28 * wide, -plant])
        tips.append(np.array([0.30 * wide, -0.985 * plant]))
        tips = [t for t in tips if abs(t[0]) > 0.2 * wide or t[1] > -0.7 * plant]
    spikes = [edge(a) * rng.uniform(0.78, 0.9) for a in (-0.35, 0.12, 0.45)]
    leaves = []
    if piece.fault != "bare rim":
        leaves = [
            np.array([s * rng.uniform(0.25, 0.8) * wide, rng.uniform(-0.02, 0.07) * plant]) for s in (-1, 1, -1, 1, -0.5, 0.5)
        ]
    leaves += [edge(a) * rng.uniform(0.4, 0.6) for a in np.linspace(-1.3, 1.3, 8)]
    blooms = []
    for a, far in (
        (-0.9, 0.75),
        (0.95, 0.72),
        (-0.5, 0.6),
        (0.5, 0.62),
        (0.05, 0.66),
        (-0.2, 0.82),
        (0.75, 0.45),
        (-0.8, 0.42),
        (0.15, 0.44),
    ):
        place = edge(a + 0.25 * lean) * (far + rng.uniform(-0.05, 0.05))
        blooms.append((place, rng.uniform(1.9, 2.5), piece.flowers[1], "daisy" if a * 10 % 2 > 1 else "mum"))
    low = -0.62 if piece.fault == "focal high" else -0.17
    for shift, radius in ((-0.16, 2.9), (0.17, 2.8), (0.0, 3.9)):
        blooms.append(
            (
                np.array([(shift + 0.25 * lean) * min(wide, 0.6 * plant), (low + abs(shift) * 0.4) * plant]),
                radius,
                piece.flowers[0],
                "rose",
            )
        )
    return {"lines": tips, "spikes": spikes, "leaves": leaves, "blooms": blooms}


def _stem(canvas, start, end, scale, rng):
    t = np.linspace(0, 1, 24)[:, None]
    bow = np.array([rng.normal(0, 0.04), 0]) * np.linalg.norm(end - start)
    line = start + t * (end - start) + 4 * t * (1 - t) * bow * 0.5
    thick = 0.16 * scale
    normal = np.array([-(end - start)[1], (end - start)[0]]) / max(np.linalg.norm(end - start), 1)
    band = np.concatenate([line + normal * thick, (line - normal * thick)[::-1]])
    canvas.shape(band, _rgb("#47713b") * rng.uniform(0.8, 1.0), PLANT)


def _leaf(canvas, root, direction, length, rng):
    direction = direction / max(np.linalg.norm(direction), 1e-6)
    normal = np.array([-direction[1], direction[0]])
    t = np.linspace(0, 1, 14)
    half = 0.23 * length * np.sin(np.pi * t**0.8) * (1 - 0.25 * t)
    spine = root + np.outer(t * length, direction) + np.outer(np.sin(np.pi * t) * 0.06 * length, normal)
    green = _rgb(LEAVES[rng.integers(len(LEAVES))]) * rng.uniform(0.75, 1.12)
    upper, lower = spine + half[:, None] * normal, spine - half[:, None] * normal
    canvas.shape(np.concatenate([upper, lower[::-1]]), green, PLANT, shade=(-0.12, 0.15))
    canvas.shape(np.concatenate([spine, upper[::-1]]), green * 1.13, PLANT, shade=(-0.1, 0.1))


def _sprig(canvas, start, end, leaf, rng):
    """Leaves in pairs along a stem, smaller towards the tip, which ends in a leaf."""
    way = end - start
    count = max(3, int(np.linalg.norm(way) / (0.95 * leaf)))
    normal = np.array([-way[1], way[0]]) / max(np.linalg.norm(way), 1)
    ahead = way / max(np.linalg.norm(way), 1)
    last = leaf * 0.9
    for k in range(count):
        root = start + way * (k / count)
        size = leaf * rng.uniform(0.8, 1.25) * (1.15 - 0.4 * k / count)
        for sign in (-1, 1):
            _leaf(canvas, root, ahead * rng.uniform(0.5, 0.9) + sign * normal, size, rng)
    _leaf(canvas, end - ahead * last, ahead, last, rng)


def _spike(canvas, start, end, size, colour, rng):
    for t in np.linspace(0, 0.97, 13):
        for _ in range(3):
            spot = start + t * (end - start) + rng.normal(0, 0.55 * size, 2)
            _disc(canvas, spot, size * (1.1 - 0.7 * t) * rng.uniform(0.6, 0.9), colour * rng.uniform(0.75, 1.1), 5)


def _disc(canvas, centre, radius, colour, lobes):
    a = np.linspace(0, 2 * np.pi, 28, endpoint=False)
    ripple = radius * (1 + 0.18 * np.cos(lobes * a))
    points = np.column_stack([centre[0] + ripple * np.cos(a), centre[1] + ripple * np.sin(a)])
    canvas.shape(points, np.clip(colour, 0, 255), PLANT, petal=True, shade=(-0.14, 0.2))


def _petal(canvas, centre, angle, inner, outer, half, colour, rng):
    a = np.linspace(-1, 1, 12)
    reach = outer * (1 - 0.22 * a**2) * rng.uniform(0.95, 1.05)
    outer_edge = np.column_stack([reach * np.cos(angle + half * a), reach * np.sin(angle + half * a)])
    root = np.array([[inner * np.cos(angle), inner * np.sin(angle)]])
    tone = colour * rng.uniform(0.82, 1.1) * (1.05 - 0.28 * max(0.0, np.sin(angle))) * (1 - 0.08 * np.cos(angle))
    canvas.shape(centre + np.concatenate([root, outer_edge]), np.clip(tone, 0, 255), PLANT, petal=True, shade=(-0.08, 0.1))


def _bloom(canvas, centre, radius, colour, kind, rng):
    """A layered bloom, petals laid ring upon ring at the golden angle."""
    rings = {"rose": ((1.0, 9, 0.45), (0.8, 8, 0.5), (0.58, 6, 0.6), (0.36, 5, 0.75)), "mum": ((1.0, 18, 0.2), (0.8, 16, 0.22), (0.6, 13, 0.28), (0.4, 9, 0.36), (0.22, 6, 0.55)), "daisy": ((1.0, 15, 0.2), (0.92, 13, 0.2))}[kind]  # fmt: skip
    turn = rng.uniform(0, 6.28)
    for layer, (reach, count, half) in enumerate(rings):
        for k in range(count):
            angle = turn + 2.399963 * layer + 2 * np.pi * k / count + rng.normal(0, 0.05)
            _petal(canvas, centre, angle, 0.05 * radius, reach * radius, half, colour * (0.82 + 0.09 * layer), rng)
    if kind == "daisy":
        _disc(canvas, centre, 0.27 * radius, _rgb("#5c4320"), 9)
    elif kind == "rose":
        _disc(canvas, centre, 0.16 * radius, colour * 0.72, 3)


def _develop(colour, canvas, piece, rim, base, vessel, scale, blooms, rng) -> Picture:
    """Roll, shrink, vignette, grain, JPEG; the truth goes through the same roll."""
    h, w = canvas.labels.shape
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), piece.roll, 1.0)
    if piece.roll:
        colour = cv2.warpAffine(colour, turn, (w, h), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        labels = cv2.warpAffine(canvas.labels, turn, (w, h), flags=cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)
        petal = cv2.warpAffine(canvas.petal.astype(np.uint8), turn, (w, h), flags=cv2.INTER_NEAREST) > 0
    else:
        labels, petal = canvas.labels, canvas.petal

    def moved(point) -> np.ndarray:
        return (turn @ np.array([point[0], point[1], 1.0])) / OVER

    small = cv2.resize(colour, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA)
    labels, petal = labels[::OVER, ::OVER], petal[::OVER, ::OVER]
    y, x = np.mgrid[-1 : 1 : HEIGHT * 1j, -1 : 1 : WIDTH * 1j]
    small *= (1 - 0.10 * (x * x + y * y))[..., None].astype(np.float32)
    grain = cv2.GaussianBlur(rng.standard_normal(small.shape).astype(np.float32), (0, 0), 0.6)
    small += 2.6 * grain
    out = io.BytesIO()
    Image.fromarray(np.clip(small, 0, 255).astype(np.uint8)).save(out, "JPEG", quality=88)
    half = vessel.profile[-1] * scale
    datum = {
        "rim": moved(rim),
        "base": moved(base),
        "rim_left": moved(rim - (half, 0)),
        "rim_right": moved(rim + (half, 0)),
    }
    truth = {
        "image": {"width": WIDTH, "height": HEIGHT},
        "container": {
            "kind": vessel.name,
            "height_cm": vessel.height_cm,
            "max_width_cm": vessel.width_cm,
            **{k: [round(float(c), 2) for c in v] for k, v in datum.items()},
        },
        "form": piece.form,
        "flaws": [piece.fault] if piece.fault else [],
        "findings": _true_findings(labels, petal, datum),
        "blooms": [
            {
                "centre": [round(float(c), 1) for c in moved(b["centre"])],
                "radius": round(b["radius"] / OVER, 1),
                "albedo_hex": b["hex"],
                "kind": b["kind"],
            }
            for b in blooms
        ],
    }
    return Picture(out.getvalue(), labels, truth)


def _true_findings(labels, petal, datum) -> dict:
    ys, xs = np.nonzero(labels == PLANT)
    up = (datum["rim"] - datum["base"]) / np.linalg.norm(datum["rim"] - datum["base"])
    step = np.column_stack([xs + 0.5, ys + 0.5]) - datum["rim"]
    along, side = step @ up, step @ np.array([-up[1], up[0]])
    tall = float(along.max() + 0.5)
    return {
        "height_ratio": round(tall / float(np.linalg.norm(datum["rim"] - datum["base"])), 4),
        "spread": round(float(side.max() - side.min() + 1) / tall, 4),
        "left_area_share": round(float((side < 0).mean()), 4),
        "foliage_share": round(1 - float(petal[ys, xs].mean()), 4),
    }
