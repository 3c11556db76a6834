"""The shelf of containers: turned, boxed and handled shapes, drawn to centimetres (invented)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.camera.flowers import Parts
from juniper.camera.mesh import Mesh, bezier, box, joined, linear, tube, tube_upright

WALL = 0.35


@dataclass(frozen=True)
class Container:
    """A container: half widths (cm) at even heights from table to rim, or a box; and what it is
    made of.

    `material` is 'glaze', 'matt', 'metal' or 'glass'; a box has `depth_cm` and straight sides; a
    turned shape may be `oval` (depth over width) and painted with `bands` (from and to in parts of
    its height, colour).
    """

    name: str
    height_cm: float
    profile: tuple[float, ...]
    material: str = "glaze"
    depth_cm: float | None = None
    handle: bool = False
    oval: float = 1.0
    bands: tuple[tuple[float, float, str], ...] = ()

    @property
    def rim_cm(self) -> float:
        """Half width of the rim."""
        return self.profile[-1]

    @property
    def widest_cm(self) -> float:
        """Greatest width."""
        return 2 * max(self.profile)

    def half_at(self, height: float) -> float:
        """Half width at a height above the table."""
        return float(
            np.interp(height, np.linspace(0, self.height_cm, len(self.profile)), self.profile)
        )


def half_widths(profile, height, count=72) -> tuple[np.ndarray, np.ndarray]:
    """Heights and half widths of a profile, its corners rounded (Catmull-Rom through the
    points).
    """
    p = np.array([2 * profile[0] - profile[1], *profile, 2 * profile[-1] - profile[-2]])
    s = np.linspace(0, len(profile) - 1, count)
    i = np.minimum(s.astype(int), len(profile) - 2)
    t = s - i
    a, b, c, d = p[i], p[i + 1], p[i + 2], p[i + 3]
    half = 0.5 * (
        2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3
    )
    return np.linspace(0, height, count), np.maximum(half, 0.3)


def _turned(container: Container, colour, rng) -> Mesh:
    z, r = half_widths(container.profile, container.height_cm)
    inner_z, inner_r = z[::-1], np.maximum(r[::-1] - WALL, 0.05)
    keep = inner_z > 0.8
    foot = np.array([[0, 0, 0.02]]), np.array([0.01])
    path_z = np.concatenate([foot[0][:, 2], [0.02], z, [z[-1] + 0.16], inner_z[keep], [0.8]])
    radii = np.concatenate([foot[1], [r[0] - 0.1], r, [r[-1] - WALL / 2], inner_r[keep], [0.01]])
    tone = np.repeat(np.asarray(colour)[None], len(path_z), 0)
    tone = (
        tone
        * (1 + 0.018 * np.sin(path_z * 1.3 + rng.uniform(0, 6)))[:, None]
        * (1 - 0.1 * np.exp(-path_z / 2))[:, None]
    )
    for low, high, paint in container.bands:
        tone[(path_z > low * container.height_cm) & (path_z < high * container.height_cm)] = linear(
            paint
        )
    path = np.column_stack([0 * path_z, 0 * path_z, path_z])
    return tube_upright(path, radii, tone, 96).moved(
        np.diag([1.0, container.oval, 1.0]), np.zeros(3)
    )


def _tray(container: Container, colour) -> Mesh:
    w, h = container.profile[-1], container.height_cm
    d = w if container.depth_cm is None else container.depth_cm / 2
    floor = box((-w, -d, 0.02), (w, d, 0.7), colour)
    walls = [
        box((-w, -d, 0.02), (w, -d + 0.6, h), colour),
        box((-w, d - 0.6, 0.02), (w, d, h), colour),
        box((-w, -d, 0.02), (-w + 0.6, d, h), colour),
        box((w - 0.6, -d, 0.02), (w, d, h), colour),
    ]
    return joined([floor, *walls])


def built(container: Container, colour: str, rng: np.random.Generator) -> Parts:
    """The container's surfaces, standing on the table at the origin."""
    tone = linear(colour)
    if container.material == "glass":
        z, r = half_widths(container.profile, container.height_cm)
        level = int(0.74 * len(z))
        inner = r[3:level] - WALL - 0.02
        path = np.concatenate(
            [[0.85], [0.85], z[3:level] + 0.86 - z[3], [z[level - 1] + 0.86 - z[3]]]
        )
        water = tube_upright(
            np.column_stack([0 * path, 0 * path, path]),
            np.concatenate([[0.01], inner[:1], inner, [0.01]]),
            tone,
            96,
        )
        return [("glass", _turned(container, tone, rng)), ("water", water)]
    if container.depth_cm is not None:
        return [(container.material, _tray(container, tone))]
    parts = [_turned(container, tone, rng)]
    if container.handle:
        h, low, high = (
            container.height_cm,
            container.half_at(0.35 * container.height_cm),
            container.half_at(0.86 * container.height_cm),
        )
        reach = max(low, high) + 5.5
        curve = bezier(
            (high - 0.3, 0, 0.86 * h), (reach + 2, 0, 0.9 * h), (reach - 2.4, 0, 0.58 * h), 14
        )
        curve = np.vstack(
            [
                curve,
                bezier(
                    (reach - 2.4, 0, 0.58 * h),
                    (reach - 3.4, 0, 0.42 * h),
                    (low - 0.3, 0, 0.35 * h),
                    12,
                )[1:],
            ]
        )
        parts.append(tube(curve, 0.62, tone, 12))
    return [(container.material, joined(parts))]


SHELF = {
    c.name: c
    for c in (
        Container("tall cylinder", 24.0, (5.2, 5.2, 5.2, 5.2, 5.2)),
        Container("flared vase", 25.0, (4.4, 4.1, 4.4, 5.3, 7.0)),
        Container("urn on a foot", 21.0, (5.4, 3.2, 1.9, 2.6, 6.2, 8.2, 8.0, 7.2), "matt"),
        Container("low bowl", 9.5, (5.0, 8.6, 11.2, 12.6, 13.2)),
        Container("shallow tray", 5.5, (13.0, 13.0), "matt", depth_cm=17.0),
        Container("jug", 22.0, (5.4, 7.0, 7.6, 6.9, 5.4, 4.6, 5.4), handle=True),
        Container("clear glass cylinder", 24.0, (5.6, 5.6, 5.6, 5.6), "glass"),
        Container("bottle", 27.0, (4.6, 5.0, 5.0, 4.6, 2.2, 1.6, 1.8)),
        Container("ginger jar", 21.0, (5.2, 7.3, 8.6, 8.4, 6.6, 4.6, 4.8)),
        Container("tapered bucket", 20.0, (6.2, 7.0, 7.9, 8.7, 9.4), "metal"),
        Container("bud vase", 14.0, (3.2, 4.2, 4.4, 3.2, 1.5, 1.6)),
    )
}
