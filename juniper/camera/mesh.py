"""Triangle meshes with a colour at each corner: the stuff the simulated pieces are made of."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from juniper.colour.spaces import from_hex, linear_from_srgb


@dataclass(frozen=True, eq=False)
class Mesh:
    """Corners (n, 3) in cm, z up; faces (m, 3) of corner numbers; colours (n, 3), linear
    reflectance.
    """

    corners: np.ndarray
    faces: np.ndarray
    colours: np.ndarray

    def moved(self, turn: np.ndarray, to) -> Mesh:
        """Turned by the matrix (3, 3), then shifted to a point."""
        return Mesh(self.corners @ np.asarray(turn).T + np.asarray(to), self.faces, self.colours)


EMPTY = Mesh(np.zeros((0, 3)), np.zeros((0, 3), int), np.zeros((0, 3)))


def linear(colour: str) -> np.ndarray:
    """Linear reflectance (3,) of an sRGB colour such as '#b7431f' (IEC 61966-2-1)."""
    return linear_from_srgb(from_hex(colour))


def joined(meshes) -> Mesh:
    """One mesh of many."""
    meshes = [m for m in meshes if len(m.corners)]
    if not meshes:
        return EMPTY
    starts = np.cumsum([0] + [len(m.corners) for m in meshes[:-1]])
    return Mesh(
        np.vstack([m.corners for m in meshes]),
        np.vstack([m.faces + s for m, s in zip(meshes, starts, strict=True)]),
        np.vstack([m.colours for m in meshes]),
    )


def sheets(points: np.ndarray, colours: np.ndarray, closed: bool = False) -> Mesh:
    """Grids of points (k, a, b, 3) as surfaces; `closed` joins the last column of each to its
    first.
    """
    k, a, b = points.shape[:3]
    number = np.arange(k * a * b).reshape(k, a, b)
    right = np.roll(number, -1, axis=2) if closed else number[:, :, 1:]
    left = number if closed else number[:, :, :-1]
    q = np.stack([left[:, :-1], right[:, :-1], right[:, 1:], left[:, 1:]], -1).reshape(-1, 4)
    faces = np.vstack([q[:, [0, 1, 2]], q[:, [0, 2, 3]]])
    colours = np.broadcast_to(colours, points.shape)
    return Mesh(points.reshape(-1, 3), faces, np.clip(colours.reshape(-1, 3), 0.004, 0.93))


def frame(toward) -> np.ndarray:
    """Turn (3, 3) that carries +z into a direction."""
    z = np.asarray(toward, float)
    z = z / np.linalg.norm(z)
    side = np.cross([0.0, 1.0, 0.0] if abs(z[1]) < 0.9 else [1.0, 0.0, 0.0], z)
    x = side / np.linalg.norm(side)
    return np.column_stack([x, np.cross(z, x), z])


def about_z(degrees: float) -> np.ndarray:
    """Turn about the upright line, anticlockwise seen from above."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def bezier(start, bend, end, count: int) -> np.ndarray:
    """Points (count, 3) on a quadratic curve."""
    t = np.linspace(0, 1, count)[:, None]
    return (
        (1 - t) ** 2 * np.asarray(start)
        + 2 * t * (1 - t) * np.asarray(bend)
        + t**2 * np.asarray(end)
    )


def tube(path: np.ndarray, radii, colour, sides: int = 7) -> Mesh:
    """A round tube along a path (n, 3); radius and colour given once or for each point."""
    path = np.asarray(path, float)
    along = np.gradient(path, axis=0)
    along /= np.linalg.norm(along, axis=1, keepdims=True) + 1e-9
    aside = np.cross(along, [0.31, 0.87, 0.38])
    aside /= np.linalg.norm(aside, axis=1, keepdims=True) + 1e-9
    other = np.cross(along, aside)
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    radii = np.broadcast_to(radii, len(path))[:, None, None]
    ring = (
        np.cos(angle)[None, :, None] * aside[:, None]
        + np.sin(angle)[None, :, None] * other[:, None]
    )
    points = path[:, None] + radii * ring
    colours = np.broadcast_to(np.asarray(colour, float), (len(path), 3))[:, None]
    return sheets(points[None], colours[None], closed=True)


def ball(centre, radius, colour, rows: int = 7, flat: float = 1.0) -> Mesh:
    """A ball, its height times `flat`."""
    polar = np.linspace(0, np.pi, rows)
    path = np.column_stack([0 * polar, 0 * polar, -np.cos(polar) * radius * flat]) + np.asarray(
        centre
    )
    return tube_upright(path, np.sin(polar) * radius, colour, 2 * rows)


def tube_upright(path, radii, colour, sides: int) -> Mesh:
    """A turned surface: circles of the given radii about the points of an upright path."""
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    ring = np.stack([np.cos(angle), np.sin(angle), 0 * angle], -1)
    points = np.asarray(path)[:, None] + np.asarray(radii)[:, None, None] * ring[None]
    colours = np.broadcast_to(np.asarray(colour, float), (len(path), 3))[:, None]
    return sheets(points[None], colours[None], closed=True)


def box(low, high, colour) -> Mesh:
    """An upright box with sharp edges between two corners."""
    low, high = np.asarray(low, float), np.asarray(high, float)
    corners = (
        np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)]) * (high - low) + low
    )
    sides = np.array(
        [[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
    )
    points = corners[sides].reshape(-1, 3)
    start = np.arange(6)[:, None] * 4
    faces = np.vstack([start + [0, 1, 2], start + [0, 2, 3]])
    return Mesh(points, faces, np.broadcast_to(np.asarray(colour, float), points.shape).copy())


def write_ply(mesh: Mesh, path: Path) -> None:
    """Write binary PLY (Turk 1994) with colours as r, g, b floats."""
    head = (
        f"ply\nformat binary_little_endian 1.0\nelement vertex {len(mesh.corners)}\n"
        + "".join(f"property float {n}\n" for n in ("x", "y", "z", "r", "g", "b"))
        + f"element face {len(mesh.faces)}\nproperty list uchar int vertex_indices\nend_header\n"
    )
    faces = np.empty(len(mesh.faces), dtype=[("n", "u1"), ("i", "<i4", 3)])
    faces["n"], faces["i"] = 3, mesh.faces
    body = np.hstack([mesh.corners, mesh.colours]).astype("<f4").tobytes()
    path.write_bytes(head.encode() + body + faces.tobytes())
