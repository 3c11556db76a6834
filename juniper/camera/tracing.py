"""Path-traces a piece and casts a ray through every pixel for its exact truth.

Needs the development extras (a path tracer, a ray caster and a denoiser); the site does not.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from juniper.camera import room
from juniper.camera.arranging import Arrangement, arrange, surfaces
from juniper.camera.containers import SHELF
from juniper.camera.mesh import Mesh, about_z, box, joined, linear, write_ply
from juniper.camera.pieces import PIECES
from juniper.camera.roll import EMPTY, TURNS
from juniper.camera.truth import truth_of, truth_of_empty
from juniper.colour.spaces import srgb_from_linear

WIDTH, HEIGHT, FIELD = 900, 1200, 33.0
CARD_MM = (105.0, 148.0)
MARGIN = 0.008  # of the picture, kept clear round the piece
BLANK = 0.86  # reflectance of the unprinted card
BACKDROP, TABLE, CONTAINER, PLANT, CLUTTER = range(5)
TRIALS = ("above", "below", "crowded")  # fronts taken badly on purpose, at two thirds of the size


@dataclass(frozen=True, eq=False)
class Camera:
    """A pinhole: where it stands and looks (cm), pixels per unit tangent, and the picture's
    middle.
    """

    eye: np.ndarray
    target: np.ndarray
    focal: float
    width: int
    height: int

    @property
    def axes(self) -> np.ndarray:
        """Right, down and forward as rows."""
        forward = self.target - self.eye
        forward = forward / np.linalg.norm(forward)
        right = np.cross(forward, [0.0, 0.0, 1.0])
        right /= np.linalg.norm(right)
        return np.stack([right, np.cross(forward, right), forward])

    def pixel(self, points) -> np.ndarray:
        """Pixels (n, 2) of points (n, 3)."""
        seen = (np.atleast_2d(points) - self.eye) @ self.axes.T
        return seen[:, :2] / seen[:, 2:] * self.focal + np.array([self.width, self.height]) / 2

    def rays(self) -> np.ndarray:
        """Directions (h * w, 3) through pixel centres."""
        y, x = np.mgrid[0 : self.height, 0 : self.width].astype(np.float64) + 0.5
        flat = np.stack(
            [
                (x - self.width / 2) / self.focal,
                (y - self.height / 2) / self.focal,
                np.ones_like(x),
            ],
            -1,
        )
        way = flat.reshape(-1, 3) @ self.axes
        return way / np.linalg.norm(way, axis=1, keepdims=True)


def stand(done: Arrangement, view: str, rng, size=(WIDTH, HEIGHT)) -> Camera:
    """Where the photographer stands for a view."""
    c, piece = done.container, done.piece
    total = c.height_cm + done.plant_cm * 1.04
    wide = max(piece.spread * done.plant_cm * 1.1, c.widest_cm * 1.15, 46 if done.others else 0) + (
        9 if piece.card_yaw is not None else 0
    )
    focal = size[1] / 2 / np.tan(np.radians(FIELD / 2))
    far = max(total / 0.72, wide * size[1] / size[0] / 0.86) * focal / size[1]
    if done.broad:
        wide = done.broad * 1.08 + (9 if piece.card_yaw is not None else 0)
    toward = 0.0 if piece.card_yaw is None or view == "top" else -4.5 if piece.mirror else 4.5
    toward += done.middle
    aim = np.array([toward, 0.0, 0.47 * total])
    raise_, aside = piece.camera
    if view == "top":
        return Camera(aim + np.array([0.0, -0.30 * far, 1.0 * far]), aim, focal, *size)
    if view in ("above", "below", "seated"):
        # Held over the flowers; laid on the table; a guest's eye about 45 cm over the table's top.
        high = {
            "above": c.height_cm + far * np.tan(np.radians(rng.uniform(15, 24))),
            "below": rng.uniform(1.5, 3.0),
            "seated": 45.0,
        }[view]
        return Camera(np.array([toward, -far, high]), aim, focal, *size)
    eye = np.array(
        [toward + rng.normal(0, 0.01) * far + aside, -far, c.height_cm + 0.03 * far + raise_]
    )
    return Camera(eye, aim, focal, *size)


def stepped_back(camera: Camera, seen: list[Surface]) -> Camera:
    """The camera as far back on its own line as it takes to have all of the piece in the frame."""
    corners = np.concatenate([s.mesh.corners for s in seen if s.label in (CONTAINER, PLANT)])
    size = np.array([camera.width, camera.height])
    while True:
        at = camera.pixel(corners)
        if (at.min(0) > MARGIN * size).all() and (at.max(0) < (1 - MARGIN) * size).all():
            return camera
        camera = replace(camera, eye=camera.target + 1.04 * (camera.eye - camera.target))


def _card(done: Arrangement) -> np.ndarray:
    """The standing card's corners (4, 3): upper left, upper right, lower right, lower left."""
    wide, tall = CARD_MM[0] / 10, CARD_MM[1] / 10
    x = (done.container.widest_cm / 2 + wide / 2 + 3.2) * (-1 if done.piece.mirror else 1)
    if done.broad:
        x = done.middle + done.broad / 2 + wide / 2 + 1.5
    elif done.others:
        x = 25.0
    flat = np.array(
        [[-wide / 2, 0, tall], [wide / 2, 0, tall], [wide / 2, 0, 0], [-wide / 2, 0, 0]]
    )
    lean = np.radians(9)
    flat[:, 1] = flat[:, 2] * np.sin(lean)
    flat[:, 2] *= np.cos(lean)
    return flat @ about_z(done.piece.card_yaw or 0.0).T + [x, -2.0, 0.05]


@dataclass(frozen=True, eq=False)
class Surface:
    """A mesh with its label, the item it belongs to (or -1) and what it is made of."""

    label: int
    material: str
    item: int
    mesh: Mesh


def _all(done: Arrangement, view: str, rng) -> list[Surface]:
    labels = {"container": CONTAINER, "plant": PLANT, "holding": CONTAINER}
    out = [Surface(labels[a], b, c, m) for a, b, c, m in surfaces(done, TURNS[view])]
    if done.stand is not None:
        half, deep = done.stand
        block = box((-half, -deep, -done.floor), (half, deep, 0.0), linear("#b7ab98"))
        out.append(Surface(TABLE, "matt", -1, block))
    if done.piece.clutter or view == "crowded":
        out.append(Surface(CLUTTER, "matt", -1, room.clutter(rng)))
    if done.piece.jumble:
        out.append(Surface(CLUTTER, "matt", -1, room.jumble(rng)))
    if room.WALLS[done.piece.wall][0] == "drape":
        out.append(Surface(BACKDROP, "matt", -1, room.drape(rng, room.WALLS[done.piece.wall][1])))
    if done.piece.card_yaw is not None and view != "top":
        corners = _card(done)
        mesh = Mesh(corners, np.array([[0, 1, 2], [0, 2, 3]]), np.full((4, 3), BLANK))
        out.append(Surface(CLUTTER, "matt", -2, mesh))
        block = box((-1.6, 1.1, 0.02), (1.6, 3.6, 4.0), linear("#a98860"))
        out.append(
            Surface(
                CLUTTER,
                "matt",
                -1,
                block.moved(about_z(done.piece.card_yaw), corners[2:].mean(0) * [1, 1, 0]),
            )
        )
    return out


def materials() -> dict:
    """The tracer's descriptions of what surfaces are made of, by name."""
    colour = {"type": "mesh_attribute", "name": "vertex_color"}
    return {
        "petal": {
            "type": "principledthin",
            "base_color": colour,
            "roughness": 0.62,
            "diff_trans": 0.72,
            "eta": 1.25,
        },
        "leaf": {
            "type": "principledthin",
            "base_color": colour,
            "roughness": 0.42,
            "diff_trans": 0.42,
            "eta": 1.45,
        },
        "berry": {"type": "principled", "base_color": colour, "roughness": 0.2, "specular": 0.6},
        "stem": {"type": "principled", "base_color": colour, "roughness": 0.6, "specular": 0.3},
        "glaze": {
            "type": "principled",
            "base_color": colour,
            "roughness": 0.22,
            "specular": 0.55,
            "clearcoat": 0.3,
        },
        "matt": {"type": "twosided", "bsdf": {"type": "diffuse", "reflectance": colour}},
        "metal": {
            "type": "principled",
            "base_color": colour,
            "roughness": 0.38,
            "metallic": 0.75,
            "specular": 0.5,
        },
        "glass": {"type": "dielectric", "int_ior": 1.5, "ext_ior": 1.0},
        "water": {"type": "dielectric", "int_ior": 1.33, "ext_ior": 1.0},
    }


def _textured(mi, textures: dict[str, np.ndarray], name: str) -> dict:
    bitmap = mi.Bitmap(np.ascontiguousarray(textures[name]))
    return {
        "type": "twosided",
        "bsdf": {
            "type": "diffuse",
            "reflectance": {"type": "bitmap", "bitmap": bitmap, "raw": True},
        },
    }


def render(
    done: Arrangement, camera: Camera, seen: list[Surface], textures, samples: int
) -> np.ndarray:
    """Linear light (h, w, 3) of the scene, not denoised."""
    import mitsuba as mi

    mi.set_variant("scalar_rgb")
    mi.set_log_level(mi.LogLevel.Error)
    at = mi.ScalarTransform4f
    side = done.piece.light
    scene = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 9},
        "sensor": {
            "type": "perspective",
            "fov": float(2 * np.degrees(np.arctan(camera.height / 2 / camera.focal))),
            "fov_axis": "y",
            "to_world": at().look_at(list(camera.eye), list(camera.target), [0, 0, 1]),
            "film": {
                "type": "hdrfilm",
                "width": camera.width,
                "height": camera.height,
                "rfilter": {"type": "box"},
                "pixel_format": "rgb",
            },
            "sampler": {"type": "independent", "sample_count": samples},
        },
        "sky": {"type": "constant", "radiance": {"type": "rgb", "value": [0.30, 0.31, 0.33]}},
        "window": {
            "type": "rectangle",
            "to_world": (
                at().look_at([side * 150.0, -95.0, 125.0], [0, 0, 30], [0, 0, 1]).scale([36, 52, 1])
            ),
            "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [17.5, 16.9, 15.8]}},
        },
        "table": {
            "type": "rectangle",
            "bsdf": _textured(mi, textures, "table"),
            "to_world": (
                at()
                .translate([0, room.TABLE_BACK - 80, -done.floor])
                .scale([room.TABLE_HALF, 80, 1])
            ),
        },
        "edge": {
            "type": "rectangle",
            "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": [0.16, 0.13, 0.1]}},
            "to_world": at().translate([0, 0, -75 - done.floor]).scale([400, 400, 1]),
        },
    }
    if "wall" in textures:
        scene["wall"] = {
            "type": "rectangle",
            "bsdf": _textured(mi, textures, "wall"),
            "to_world": (
                at().translate([0, room.WALL_AT, 70]).rotate([1, 0, 0], 90).scale([130, 97.5, 1])
            ),
        }
    with tempfile.TemporaryDirectory() as folder:
        for material, bsdf in materials().items():
            mesh = joined([s.mesh for s in seen if s.material == material])
            if len(mesh.corners):
                path = Path(folder) / f"{material}.ply"
                write_ply(mesh, path)
                scene[f"m_{material}"] = {
                    "type": "ply",
                    "filename": str(path),
                    "bsdf": bsdf,
                    "face_normals": (
                        material in ("matt", "metal") and done.container.depth_cm is not None
                    ),
                }
        loaded = mi.load_dict(scene)
        return np.array(mi.render(loaded, seed=3))


@dataclass(frozen=True, eq=False)
class Cast:
    """What each pixel's ray meets: surface number (h, w) or -1, albedo and normal (h, w, 3), and
    how far it is along the ray, cm (inf where nothing is met).
    """

    surface: np.ndarray
    albedo: np.ndarray
    normal: np.ndarray
    distance: np.ndarray


def cast(camera: Camera, seen: list[Surface], textures, floor: float = 0.0) -> Cast:
    """First hits of the rays through all pixel centres; clear glass and water let the ray pass for
    albedo only. The table lies `floor` cm below what the piece stands on.
    """
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    def shoot(chosen):
        scene = rtcore_scene.EmbreeScene()
        for i in chosen:
            m = seen[i].mesh
            TriangleMesh(scene, m.corners[m.faces].astype(np.float32))
        rays = camera.rays().astype(np.float32)
        start = np.broadcast_to(camera.eye.astype(np.float32), rays.shape).copy()
        return rays, scene.run(start, rays, query="INTERSECT", output=True)

    whole = list(range(len(seen)))
    solid = [i for i in whole if seen[i].material not in ("glass", "water")]
    rays, first = shoot(solid)
    number = np.where(first["geomID"] >= 0, np.array([*solid, -1])[first["geomID"]], -1)
    far = np.where(first["geomID"] >= 0, first["tfar"], np.inf)
    albedo = np.zeros((len(rays), 3), np.float32)
    normal = np.zeros((len(rays), 3), np.float32)
    for i in solid:
        hit = number == i
        if hit.any():
            m = seen[i].mesh
            tri = m.faces[first["primID"][hit]]
            u, v = first["u"][hit][:, None], first["v"][hit][:, None]
            albedo[hit] = (
                (1 - u - v) * m.colours[tri[:, 0]]
                + u * m.colours[tri[:, 1]]
                + v * m.colours[tri[:, 2]]
            )
            smooth = _normals(m)
            n = (1 - u - v) * smooth[tri[:, 0]] + u * smooth[tri[:, 1]] + v * smooth[tri[:, 2]]
            normal[hit] = n / (np.linalg.norm(n, axis=1, keepdims=True) + 1e-9)
    surface, distance = number.copy(), far.copy()
    eye, flat = camera.eye, rays.astype(np.float64)
    down = np.where(flat[:, 2] < -1e-6, -(eye[2] + floor) / np.minimum(flat[:, 2], -1e-6), np.inf)
    spot = eye[:2] + flat[:, :2] * np.where(np.isfinite(down), down, 0)[:, None]
    table = (
        np.isfinite(down)
        & (down < far)
        & (spot[:, 1] < room.TABLE_BACK)
        & (np.abs(spot[:, 0]) < room.TABLE_HALF)
    )
    surface[table] = -2
    distance[table] = down[table]
    albedo[table] = _look_up(
        textures["table"],
        (spot[table, 0] + room.TABLE_HALF) / (2 * room.TABLE_HALF),
        (spot[table, 1] - room.TABLE_BACK + 160) / 160,
    )
    normal[table] = [0, 0, 1]
    if "wall" in textures:
        back = np.where(
            flat[:, 1] > 1e-6, (room.WALL_AT - eye[1]) / np.maximum(flat[:, 1], 1e-6), np.inf
        )
        wall = np.isfinite(back) & (back < far) & ~table
        spot = eye + flat * np.where(np.isfinite(back), back, 0)[:, None]
        albedo[wall] = _look_up(
            textures["wall"], (spot[wall, 0] + 130) / 260, (spot[wall, 2] - 70 + 97.5) / 195
        )
        normal[wall] = [0, -1, 0]
        distance[wall] = back[wall]
        surface[wall] = -1
    glassy = [i for i in whole if seen[i].material in ("glass", "water")]
    if glassy:
        _, pane = shoot(glassy)
        before = (pane["geomID"] >= 0) & (pane["tfar"] < np.where(table, down, far))
        surface[before] = glassy[0]
    shape = (camera.height, camera.width)
    return Cast(
        surface.reshape(shape),
        np.clip(albedo, 0, 1).reshape(*shape, 3),
        normal.reshape(*shape, 3),
        distance.reshape(shape),
    )


def _normals(m: Mesh) -> np.ndarray:
    a, b, c = (m.corners[m.faces[:, i]] for i in range(3))
    face = np.cross(b - a, c - a)
    out = np.zeros_like(m.corners)
    for i in range(3):
        for axis in range(3):
            out[:, axis] += np.bincount(m.faces[:, i], face[:, axis], len(m.corners))
    return out / (np.linalg.norm(out, axis=1, keepdims=True) + 1e-12)


def _look_up(texture, u, v) -> np.ndarray:
    h, w = texture.shape[:2]
    return texture[
        np.clip(((1 - v) * h).astype(int), 0, h - 1), np.clip((u * w).astype(int), 0, w - 1)
    ]


def develop(light: np.ndarray, rng) -> np.ndarray:
    """sRGB picture (h, w, 3) uint8 of linear light: exposed, shoulder in the lights, a little
    vignette and grain.
    """
    bright = light @ [0.2126, 0.7152, 0.0722]
    x = light * min(0.36 / bright.mean(), 0.92 / np.percentile(bright, 98))
    x = np.where(x > 0.7, 0.7 + 0.3 * np.tanh((x - 0.7) / 0.3), x)
    h, w = x.shape[:2]
    gy, gx = np.mgrid[-1 : 1 : h * 1j, -0.75 : 0.75 : w * 1j]
    x = x * (1 - 0.07 * (gx**2 + gy**2))[..., None]
    out = srgb_from_linear(x) * 255
    grain = cv2.GaussianBlur(rng.standard_normal((h, w, 3)).astype(np.float32), (0, 0), 0.6)
    out += grain * (2.2 - 1.0 * out / 255) + 0.9 * rng.standard_normal((h, w, 1))
    return np.clip(np.round(out), 0, 255).astype(np.uint8)


@dataclass(frozen=True, eq=False)
class Stage:
    """A piece set up before the camera: everything that is traced."""

    done: Arrangement
    view: str
    camera: Camera
    seen: list[Surface]
    textures: dict[str, np.ndarray]
    rng: np.random.Generator


def staged(number: int, view: str = "front", scale: float = 1.0) -> Stage:
    """Set up one view of a piece; the same number and view, the same scene."""
    rng = np.random.default_rng(5000 + number)
    return staged_as(arrange(PIECES[number], 100 + number), view, rng, scale)


def staged_as(
    done: Arrangement, view: str, rng: np.random.Generator, scale: float = 1.0, lying: bool = False
) -> Stage:
    """Set up one view of an arrangement; a picture that is `lying` is wider than high."""
    piece = done.piece
    size = (round(WIDTH * scale), round(HEIGHT * scale))
    camera = stand(done, view, rng, size[::-1] if lying else size)
    textures = {"table": room.texture(*room.TABLES[piece.table], rng)}
    if room.WALLS[piece.wall][0] != "drape":
        textures["wall"] = room.texture(*room.WALLS[piece.wall], rng)
    seen = _all(done, view, rng)
    return Stage(done, view, stepped_back(camera, seen), seen, textures, rng)


def staged_empty(number: int, scale: float = 1.0) -> Stage:
    """Set up a container of the shelf by itself, with a blank card beside it, by its number on the
    shelf.
    """
    container = list(SHELF.values())[number]
    piece = next(p for p in PIECES if p.container == container.name)
    piece = replace(
        piece,
        height=0.35,
        spread=1.0,
        wall="plaster grey",
        table="oak",
        clutter=False,
        mirror=False,
        card_yaw=0.0,
    )
    return replace(
        staged_as(
            Arrangement(piece, container), "front", np.random.default_rng(9000 + number), scale
        ),
        view=EMPTY,
    )


def photograph(stage: Stage, samples: int = 10) -> np.ndarray:
    """The traced picture (h, w, 3) uint8 sRGB of a stage."""
    from pyoidn import denoise

    # light finds its way through glass only by chance
    clear = stage.done.container.material == "glass"
    light = render(
        stage.done, stage.camera, stage.seen, stage.textures, samples * (4 if clear else 1)
    )
    met = cast(stage.camera, stage.seen, stage.textures, stage.done.floor)
    clean = denoise(light.astype(np.float32), met.albedo, met.normal.astype(np.float32), hdr=True)
    return develop(clean, stage.rng)


def what_is_seen(stage: Stage) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Label, number of the item (-1 none) and whether it is petal, of each pixel of a stage: three
    (h, w).
    """
    met = cast(stage.camera, stage.seen, stage.textures, stage.done.floor)
    labels = np.array([s.label for s in stage.seen] + [TABLE, BACKDROP], np.uint8)[met.surface]
    items = np.array([s.item for s in stage.seen] + [-1, -1])[met.surface]
    petal = np.array([s.material in ("petal", "berry") for s in stage.seen] + [False, False])[
        met.surface
    ]
    return labels, items, petal


def truth(stage: Stage, picture: np.ndarray) -> tuple[np.ndarray, dict]:
    """Label raster and exact truth of a stage; `picture` lends the colours as they came out."""
    labels, items, petal = what_is_seen(stage)
    has_card = stage.done.piece.card_yaw is not None and stage.view != "top"
    card = stage.camera.pixel(_card(stage.done)) if has_card else None
    depth = (
        float((_card(stage.done).mean(0) - stage.camera.eye) @ stage.camera.axes[2])
        if has_card
        else None
    )
    if stage.view == EMPTY:
        return labels, truth_of_empty(stage.done, stage.camera, labels, card, depth)
    return labels, truth_of(
        stage.done, stage.view, stage.camera, labels, items, petal, picture, card, depth
    )
