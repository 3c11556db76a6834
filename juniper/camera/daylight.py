"""A picture of a staged piece by daylight alone: a window and an even sky, with their shadows, but
no light thrown from surface to surface. Made in seconds where a traced one takes minutes.
"""

from __future__ import annotations

import cv2
import numpy as np

from juniper.camera.tracing import Cast, Stage, cast, develop

# The window and the sky of the traced studio (juniper.camera.tracing.render), as seen from the
# piece: middle of the window for light from the right, its half width and half height, cm.
WINDOW, HALF = np.array([150.0, -95.0, 125.0]), (36.0, 52.0)
TO_WINDOW = 8  # rays a pixel
TO_SKY = 12
SKY_SHARE = 0.42  # of a lit, level surface's light that comes from the sky (that studio's)
REACH = 80.0  # cm, beyond which nothing hides the sky: a room's walls do not darken the piece
THROUGH = 0.45  # of light that a petal or leaf lets through, seen from behind (from memory)
OFF = 0.02  # cm a ray starts over its surface


def photograph(stage: Stage) -> np.ndarray:
    """The picture (h, w, 3) uint8 sRGB of a stage whose container is opaque.

    Raises ValueError for a clear container: its light needs the path tracer.
    """
    if stage.done.container.material == "glass":
        raise ValueError("A clear container needs the path tracer.")
    met = cast(stage.camera, stage.seen, stage.textures, stage.done.floor)
    window, sky = _light(stage, met)
    straight, round_about = _even(window, met)[..., None], _given_back(_even(sky, met), met.albedo)
    warm = np.array([1.03, 1.0, 0.95])  # the window's colour less the sky's
    light = met.albedo * ((1 - SKY_SHARE) * straight * warm + SKY_SHARE * round_about)
    light += _gloss(stage, met)
    return develop(light.astype(np.float64), stage.rng)


def _light(stage: Stage, met: Cast) -> tuple[np.ndarray, np.ndarray]:
    """Light (h, w) that reaches each pixel from the window and from the sky, 1 for a surface that
    faces it with nothing between.
    """
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    scene = rtcore_scene.EmbreeScene()
    for surface in stage.seen:
        TriangleMesh(scene, surface.mesh.corners[surface.mesh.faces].astype(np.float32))
    rays, rng = stage.camera.rays(), np.random.default_rng(11)
    far = met.distance.ravel()
    there = np.isfinite(far)
    to_eye = -rays[there]
    normal = met.normal.reshape(-1, 3)[there].astype(np.float64)
    normal *= np.where((normal * to_eye).sum(1) < 0, -1.0, 1.0)[:, None]
    spot = stage.camera.eye + rays[there] * far[there, None] + OFF * normal
    thin = np.array([s.material in ("petal", "leaf") for s in stage.seen] + [False, False])
    thin = thin[met.surface.ravel()[there]]
    side = np.array([stage.done.piece.light, 1.0, 1.0])
    middle = WINDOW * side
    look = np.array([0, 0, 30.0]) - middle
    look /= np.linalg.norm(look)
    across = np.cross(look, [0, 0, 1.0])
    across /= np.linalg.norm(across)
    up = np.cross(across, look)
    straight = middle - spot
    size = np.linalg.norm(straight, axis=1)
    facing = (normal * straight).sum(1) / size
    window = np.where(facing > 0, facing, np.where(thin, -THROUGH * facing, 0.0))
    window *= (np.linalg.norm(middle) / size) ** 2
    clear = np.zeros(len(spot))
    for n in range(TO_WINDOW):
        at = rng.random((len(spot), 2))
        at[:, 0] = (n % 4 + at[:, 0]) / 4 * 2 - 1
        at[:, 1] = (n // 4 + at[:, 1]) / (TO_WINDOW // 4) * 2 - 1
        way = middle + HALF[0] * at[:, :1] * across + HALF[1] * at[:, 1:] * up - spot
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        clear += ~_hidden(scene, spot, way, None)
    sky = np.zeros(len(spot))
    for n in range(TO_SKY):
        # over the half space before the surface, by the cosine (M. Pharr et al., "Physically based
        # rendering", 13.6.3)
        turn = 2 * np.pi * (n / TO_SKY + rng.random(len(spot)))
        out = np.sqrt((n + rng.random(len(spot))) / TO_SKY)
        way = normal * np.sqrt(np.maximum(0, 1 - out**2))[:, None]
        one = np.cross(normal, [0.31, 0.83, 0.46])
        one /= np.linalg.norm(one, axis=1, keepdims=True) + 1e-9
        two = np.cross(normal, one)
        way += (out * np.cos(turn))[:, None] * one + (out * np.sin(turn))[:, None] * two
        above = way[:, 2] > 0  # the table gives back less than the sky gives
        sky += ~_hidden(scene, spot, way, REACH) * np.where(above, 1.0, 0.35)
    shape = met.distance.shape
    out = np.zeros((2, far.size))
    out[0, there], out[1, there] = window * clear / TO_WINDOW, sky / TO_SKY
    return out[0].reshape(shape), out[1].reshape(shape)


def _given_back(sky: np.ndarray, albedo: np.ndarray) -> np.ndarray:
    """Light (h, w, 3) from the sky with what near surfaces of the same colour throw back into its
    shadows (J. Jimenez et al., "Practical realtime strategies for accurate indirect occlusion",
    2016, multiple bounces).
    """
    open_ = np.clip(sky, 0, 1)[..., None]
    a = 2.0404 * albedo - 0.3324
    b = -4.7951 * albedo + 0.6417
    c = 2.7552 * albedo + 0.6903
    return np.maximum(open_, ((open_ * a + b) * open_ + c) * open_)


def _hidden(scene, spot, way, within: float | None) -> np.ndarray:
    """Whether something stands in a ray's way, within so many cm."""
    start, way = spot.astype(np.float32), way.astype(np.float32)
    if within is None:
        return scene.run(start, way, query="OCCLUDED") >= 0
    return scene.run(start, way, query="DISTANCE") < within


def _even(light: np.ndarray, met: Cast, rounds: int = 2) -> np.ndarray:
    """Light (h, w) without the grain of its few rays: a mean over near pixels of the same surface
    that face the same way (H. Dammertz et al., "Edge-avoiding a-trous wavelet transform", 2010).
    """
    normal, surface = met.normal.astype(np.float32), met.surface
    out = light.astype(np.float32)
    flat = surface < 0  # table and wall are even over more
    for n in range(rounds):
        step = 2**n
        total, weight = out.copy(), np.ones_like(out)
        for dy in (-2, -1, 0, 1, 2):
            for dx in (-2, -1, 0, 1, 2):
                if not dx and not dy:
                    continue
                by = (dy * step, dx * step)
                w = np.exp(-0.3 * (dx * dx + dy * dy)) * (np.roll(surface, by, (0, 1)) == surface)
                w *= np.maximum(0, (np.roll(normal, by, (0, 1)) * normal).sum(-1)) ** 12
                total += w * np.roll(out, by, (0, 1))
                weight += w
        out = total / weight
    soft = cv2.GaussianBlur(np.where(flat, out, 0), (0, 0), 6)
    share = cv2.GaussianBlur(flat.astype(np.float32), (0, 0), 6)
    return np.where(flat, soft / np.maximum(share, 1e-6), out)


def _gloss(stage: Stage, met: Cast) -> np.ndarray:
    """The window's sheen on glaze and metal (Blinn's half-way vector), linear light (h, w, 1)."""
    shiny = {"glaze": (0.35, 60.0), "metal": (0.3, 25.0), "berry": (0.25, 50.0)}
    amount = np.array([shiny.get(s.material, (0, 1))[0] for s in stage.seen] + [0, 0])
    sharp = np.array([shiny.get(s.material, (0, 1))[1] for s in stage.seen] + [1, 1])
    rays = stage.camera.rays().reshape(*met.distance.shape, 3)
    far = np.where(np.isfinite(met.distance), met.distance, 0)
    way = WINDOW * [stage.done.piece.light, 1, 1] - (stage.camera.eye + rays * far[..., None])
    way /= np.linalg.norm(way, axis=-1, keepdims=True)
    half = way - rays
    half /= np.linalg.norm(half, axis=-1, keepdims=True) + 1e-9
    on = np.maximum(0, (half * met.normal).sum(-1))
    return (amount[met.surface] * on ** sharp[met.surface])[..., None]
