"""Vessels of many families and surfaces to teach from: turned, boxed, footed, slim, handled;
glazed, matt, metal, glass, woven.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.camera.containers import Container, half_widths
from juniper.camera.mesh import Mesh, bezier, box, joined, sheets, tube
from juniper.values import triple

WALL_CM = 0.3  # thickness of a thrown or blown wall (common practice)
SIDES = 240  # of a turned surface, fine enough for flutes

# Half widths at even heights from foot to rim, in parts of the greatest, and usual heights in cm
# (common shapes of the trade).
FAMILIES = {
    "cylinder": ((1, 1, 1, 1), (12, 30)),
    "bottle": ((0.95, 1, 1, 0.95, 0.5, 0.34, 0.36), (16, 34)),
    "slim bottle": ((0.9, 1, 1, 0.9, 0.72, 0.6, 0.58, 0.66), (18, 36)),
    "gourd": ((0.75, 1, 1, 0.8, 0.55, 0.62, 0.6, 0.35, 0.38), (16, 32)),
    "drop": ((0.72, 0.95, 1, 0.9, 0.72, 0.52, 0.42), (14, 32)),
    "ball": ((0.5, 0.9, 1, 0.95, 0.7, 0.4, 0.45), (9, 22)),
    "ginger jar": ((0.6, 0.85, 1, 0.98, 0.77, 0.54, 0.56), (14, 28)),
    "flared": ((0.6, 0.56, 0.62, 0.75, 1), (14, 32)),
    "trumpet": ((0.55, 0.3, 0.34, 0.45, 0.65, 1), (18, 36)),
    "urn": ((0.66, 0.4, 0.24, 0.32, 0.76, 1, 0.98, 0.88), (14, 28)),
    "goblet": ((0.7, 0.22, 0.16, 0.2, 0.8, 1, 0.95), (12, 26)),
    "bowl": ((0.4, 0.68, 0.88, 0.98, 1), (6, 13)),
    "footed bowl": ((0.42, 0.3, 0.7, 0.93, 1), (8, 17)),
    "bucket": ((0.7, 0.78, 0.86, 0.93, 1), (12, 26)),
    "bud vase": ((0.72, 0.95, 1, 0.73, 0.34, 0.36), (9, 18)),
    "pot": ((0.74, 0.82, 0.9, 1, 1), (8, 18)),
    "jug": ((0.7, 0.92, 1, 0.91, 0.71, 0.6, 0.71), (14, 28)),
    "tumbler": ((0.8, 0.86, 0.92, 0.96, 1), (8, 15)),
    "dish": ((0.72, 0.9, 1, 1), (3.5, 8)),
}
LOW = ("bowl", "footed bowl", "dish")
SLENDER = {"slim bottle", "bottle", "bud vase", "trumpet", "drop", "gourd"}
SURFACES = ("plain", "fluted", "faceted", "ringed", "hammered", "woven")


@dataclass(frozen=True)
class RandomContainer:
    """A vessel to teach from: its `shape`, its linear reflectance `tone` (3,), and what its wall is
    like.

    `surface` is one of SURFACES, `relief` its depth in parts of the radius, `count` how often it
    goes round; `water` is how full a clear one is (0 empty); `handles` 0, 1 or 2; `speckle` 0..1;
    `dip` the height from which another glaze runs, and its `second` tone.
    """

    shape: Container
    tone: tuple[float, float, float]
    surface: str = "plain"
    relief: float = 0.0
    count: int = 1
    water: float = 0.7
    handles: int = 0
    speckle: float = 0.0
    dip: float = 2.0
    second: tuple[float, float, float] = (0.5, 0.5, 0.5)


def any_tone(rng: np.random.Generator) -> tuple[float, float, float]:
    """A glaze's linear reflectance: near white in a third, near black in a tenth, else any."""
    kind = rng.random()
    if kind < 0.36:
        value = rng.uniform(0.55, 0.88) * np.exp(rng.normal(0, 0.04, 3))
    elif kind < 0.48:
        value = rng.uniform(0.01, 0.06) * np.exp(rng.normal(0, 0.1, 3))
    elif kind < 0.7:  # clay, stone, linen
        value = rng.uniform(0.12, 0.6) * np.array(
            [1.0, rng.uniform(0.72, 0.95), rng.uniform(0.45, 0.9)]
        )
    else:
        value = rng.uniform(0.03, 0.7, 3)
    return triple(np.clip(value, 0.008, 0.9))


def any_vessel(rng: np.random.Generator, glass: float = 0.16, low: float = 0.0) -> RandomContainer:
    """A vessel by chance; `glass` is the share of clear ones, `low` that of trays, dishes and bowls
    beside those that come by themselves.
    """
    flat = low > 0 and rng.random() < low
    if rng.random() < (0.5 if flat else 0.14):
        high, half = (
            (rng.uniform(3, 8), rng.uniform(9, 19))
            if flat
            else (rng.uniform(5, 24), rng.uniform(5, 16))
        )
        deep = min(float(half * rng.uniform(0.6, 2.0)), 26.0)
        shape = Container("box", high, (half, half), "matt", depth_cm=deep)
        return RandomContainer(shape, any_tone(rng))
    name = str(rng.choice(LOW if flat else [n for n in FAMILIES if n != "dish"]))
    parts, heights = FAMILIES[name]
    high = rng.uniform(*heights)
    widest = high * rng.uniform(0.16, 0.34) if name in SLENDER else high * rng.uniform(0.26, 0.62)
    if name in LOW:
        widest = rng.uniform(7, 16)
    half = np.array(parts) * np.clip(widest, 2.2, 16) * np.exp(rng.normal(0, 0.06, len(parts)))
    material = str(rng.choice(["glaze", "matt", "metal"], p=[0.5, 0.37, 0.13]))
    if rng.random() < glass / 0.86:
        material = "glass"
    surface = (
        "plain"
        if rng.random() < 0.5
        else str(rng.choice(SURFACES[1:], p=[0.4, 0.2, 0.2, 0.1, 0.1]))
    )
    shape = Container(
        name,
        float(high),
        tuple(float(v) for v in np.maximum(half, 0.8)),
        material,
        oval=float(rng.uniform(0.45, 1.0)) if rng.random() < (0.5 if flat else 0.12) else 1.0,
    )
    return RandomContainer(
        shape,
        any_tone(rng),
        surface,
        relief=float(rng.uniform(0.015, 0.07)),
        count=int(rng.integers(10, 60)),
        water=float(rng.uniform(0.25, 0.9)) if rng.random() < 0.8 else 0.0,
        handles=1 if name == "jug" or rng.random() < 0.04 else 2 if rng.random() < 0.04 else 0,
        speckle=float(rng.uniform(0.1, 0.5)) if rng.random() < 0.2 else 0.0,
        dip=float(rng.uniform(0.2, 0.9)) if rng.random() < 0.15 else 2.0,
        second=any_tone(rng),
    )


def _relief(
    vessel: RandomContainer, turn: np.ndarray, level: np.ndarray, rng: np.random.Generator
) -> np.ndarray:
    """What the wall's radius is multiplied by at angles (n,) and levels (m,): (m, n)."""
    deep, count = vessel.relief, vessel.count
    if vessel.surface == "fluted":
        return (
            1 + deep * np.abs(np.cos(count * turn / 2))[None] * np.ones_like(level)[:, None] - deep
        )
    if vessel.surface == "faceted":
        sides = 5 + count % 8
        step = 2 * np.pi / sides
        return np.broadcast_to(
            (np.cos(step / 2) / np.cos((turn % step) - step / 2))[None], (len(level), len(turn))
        )
    if vessel.surface == "ringed":
        return 1 + 0.6 * deep * np.sin(count * level / 1.5)[:, None] * np.ones_like(turn)[None]
    if vessel.surface == "hammered":
        return (
            1
            + 0.5
            * deep
            * np.sin(count * turn + 3 * np.sin(7 * level)[:, None])
            * np.cos(count * 0.6 * level)[:, None]
        )
    if vessel.surface == "woven":
        over = np.sin(count * turn)[None] * np.sign(np.sin(40 * level))[:, None]
        return 1 + 0.8 * deep * over
    return np.ones((len(level), len(turn)))


def _turned(vessel: RandomContainer, rng: np.random.Generator) -> Mesh:
    c = vessel.shape
    z, r = half_widths(c.profile, c.height_cm, 110)
    turn = np.linspace(0, 2 * np.pi, SIDES, endpoint=False)
    # a foot and a lip are plain
    fades = np.clip(np.minimum(z / 0.6, (c.height_cm - z) / 0.6), 0, 1)[:, None]
    outer = r[:, None] * (1 + (_relief(vessel, turn, z / c.height_cm, rng) - 1) * fades)
    keep = z[::-1] > 0.8
    inner = np.maximum(r[::-1][keep] - WALL_CM, 0.05)[:, None] * np.ones(SIDES)
    lip = np.full((1, SIDES), r[-1] - WALL_CM / 2)
    floor, dot = np.full((1, SIDES), r[0] * 0.97), np.full((1, SIDES), 0.01)
    radii = np.vstack([dot, floor, outer, lip, inner, dot])
    heights = np.concatenate([[0.02], [0.02], z, [c.height_cm + 0.12], z[::-1][keep], [0.8]])
    points = np.stack(
        [
            radii * np.cos(turn),
            radii * np.sin(turn) * c.oval,
            np.broadcast_to(heights[:, None], radii.shape),
        ],
        -1,
    )
    tone = np.broadcast_to(np.array(vessel.tone), points.shape).copy()
    run = vessel.dip + 0.03 * np.sin(5 * turn + rng.uniform(0, 6)) + 0.02 * np.sin(11 * turn)
    tone[heights[:, None] / c.height_cm > run[None]] = vessel.second
    tone *= 1 + 0.03 * np.sin(heights * 1.3 + rng.uniform(0, 6))[:, None, None]
    if vessel.surface == "woven":
        tone *= rng.uniform(0.6, 1.2, (*radii.shape, 1))
    if vessel.speckle:
        tone[rng.random(radii.shape) < 0.12 * vessel.speckle] *= rng.uniform(0.2, 0.6)
    return sheets(points[None], tone[None], closed=True)


def _boxed(vessel: RandomContainer) -> Mesh:
    c, colour = vessel.shape, vessel.tone
    w, h = c.profile[-1], c.height_cm
    d = w if c.depth_cm is None else c.depth_cm / 2
    wall = min(0.6, 0.2 * w)
    return joined(
        [
            box((-w, -d, 0.02), (w, d, 0.7), colour),
            box((-w, -d, 0.02), (w, -d + wall, h), colour),
            box((-w, d - wall, 0.02), (w, d, h), colour),
            box((-w, -d, 0.02), (-w + wall, d, h), colour),
            box((w - wall, -d, 0.02), (w, d, h), colour),
        ]
    )


def _water(vessel: RandomContainer) -> Mesh:
    z, r = half_widths(vessel.shape.profile, vessel.shape.height_cm, 110)
    full = (z > 0.9) & (z < vessel.water * vessel.shape.height_cm)
    if full.sum() < 3:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), int), np.zeros((0, 3)))
    turn = np.linspace(0, 2 * np.pi, 96, endpoint=False)
    radii = np.concatenate([[0.01], r[full] - WALL_CM - 0.02, [0.01]])
    heights = np.concatenate([[0.92], z[full], [z[full][-1]]])
    points = np.stack(
        [
            radii[:, None] * np.cos(turn),
            radii[:, None] * np.sin(turn) * vessel.shape.oval,
            np.broadcast_to(heights[:, None], (len(radii), 96)),
        ],
        -1,
    )
    return sheets(points[None], np.full((*points.shape,), 0.5)[None], closed=True)


def _handle(vessel: RandomContainer, rng: np.random.Generator) -> Mesh:
    c = vessel.shape
    h, low, high = c.height_cm, c.half_at(0.35 * c.height_cm), c.half_at(0.86 * c.height_cm)
    reach = max(low, high) + rng.uniform(0.12, 0.3) * h
    curve = bezier((high - 0.2, 0, 0.86 * h), (reach + 1, 0, 0.92 * h), (reach, 0, 0.6 * h), 14)
    curve = np.vstack(
        [
            curve,
            bezier((reach, 0, 0.6 * h), (reach - 1, 0, 0.36 * h), (low - 0.2, 0, 0.33 * h), 12)[1:],
        ]
    )
    return tube(curve, rng.uniform(0.025, 0.04) * h, vessel.tone, 12)


def built(vessel: RandomContainer, rng: np.random.Generator) -> list[tuple[str, Mesh]]:
    """The vessel's surfaces (material, mesh), standing on its support at the origin; cm, z up."""
    c = vessel.shape
    if c.depth_cm is not None:
        return [(c.material, _boxed(vessel))]
    parts = [(c.material, _turned(vessel, rng))]
    for n in range(vessel.handles):
        handle = _handle(vessel, rng)
        if n:
            handle = Mesh(handle.corners * [-1, 1, 1], handle.faces[:, ::-1], handle.colours)
        parts.append((c.material, handle))
    if c.material == "glass" and vessel.water:
        parts.append(("water", _water(vessel)))
    return parts
