"""Scenes to teach parts and keypoints from: any vessel, plants, support, room, things about and
light, before any camera.

A scene is traced with a photograph of a room as its backdrop, or a wall, under a measured
environment of light; its parts and keypoints are exact. Lengths in cm: x to the right, y away from
the viewer, z up from the support.
"""

from __future__ import annotations

import json
import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from juniper.camera import room
from juniper.camera.arranging import Arrangement, arrange, surfaces
from juniper.camera.mesh import Mesh, about_z, ball, box, joined, tube, tube_upright, write_ply
from juniper.camera.random_pieces import random_piece
from juniper.camera.tracing import Camera, Surface, materials
from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.scene.parts import Part
from juniper.training.pictures import picture_at
from juniper.training.sprigs import sprigs_in
from juniper.training.vessels import RandomContainer, any_tone, any_vessel, built

AREA = 330_000  # pixels of a scene
# width to height of pictures that people take
SHAPES = ((3, 4), (2, 3), (9, 16), (1, 1), (4, 3), (3, 2))
ARRANGED = 0.5  # share of scenes that hold an arranged piece; the others hold a few stems
# from this number on vessels are more often clear, or low and broad, and cameras held higher
HARDER = 3000
PITCHES = (0.45, 0.35, 0.2)  # shares of cameras held level, slightly above and well above
PITCHES_HARDER = (0.25, 0.35, 0.4)
# the first needs libLLVM (DRJIT_LIBLLVM_PATH) and is twice as quick
TRACERS = ("llvm_ad_rgb", "scalar_rgb")
KEYPOINTS = ("base", "rim", "rim_left", "rim_right", "foot_front", "rim_front")


@dataclass(frozen=True, eq=False)
class Scenery:
    """What scenes are drawn from: photographs of rooms (uint8 h x w x 3 sRGB) and files of
    environments.
    """

    rooms: tuple[np.ndarray, ...]
    lights: tuple[Path, ...]

    @staticmethod
    def of(rooms: Path, lights: Path) -> Scenery:
        """All pictures and .exr files of two folders. Raises ValueError when either is empty."""
        pictures = tuple(
            picture_at(p)[..., ::-1]
            for p in sorted(rooms.iterdir())
            if p.suffix in (".jpg", ".png")
        )
        files = tuple(sorted(lights.glob("*.exr")))
        if not pictures or not files:
            raise ValueError(
                "A folder of room photographs and one of .exr environments are needed."
            )
        return Scenery(pictures, files)


@dataclass(frozen=True, eq=False)
class Example:
    """A traced scene: `picture` uint8 (h, w, 3) sRGB, `parts` uint8 (h, w) of Part, and its truth.

    `truth` holds KEYPOINTS in pixels (the last two are where foot and rim are nearest to the
    viewer), whether the container is `clear`, and the camera's `pitch_deg` (looking down above 0),
    `focal_px`, `height_ratio_image` and `height_ratio_3d`.
    """

    picture: np.ndarray
    parts: np.ndarray
    truth: dict

    def keep(self, path: Path) -> None:
        """Write PATH.jpg, PATH.png (parts) and PATH.json."""
        cv2.imwrite(
            str(path.with_suffix(".jpg")), self.picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 96]
        )
        cv2.imwrite(str(path.with_suffix(".png")), self.parts)
        path.with_suffix(".json").write_text(json.dumps(self.truth))

    @staticmethod
    def kept(path: Path) -> Example:
        """Read what keep() wrote; `path` is that of the .json."""
        picture = picture_at(path.with_suffix(".jpg"))[..., ::-1]
        parts = picture_at(path.with_suffix(".png"), 0)
        return Example(picture, parts, json.loads(path.read_text()))


def _support(rng) -> tuple[list[Surface], dict]:
    """What the vessel stands on: meshes, and the textured top (kind, tone, back edge) if it is a
    plane.
    """
    tone = np.array(any_tone(rng))
    kind = rng.random()
    kinds = list(room.TABLES.values())
    top = kinds[int(rng.integers(len(kinds)))]
    if kind < 0.45:
        return [], {"texture": top, "front": -160.0, "back": float(rng.uniform(14, 60))}
    if kind < 0.8:  # a board, shelf or sideboard seen from the front
        front, back, thick = -rng.uniform(11, 30), rng.uniform(12, 40), rng.uniform(1.5, 5)
        half = rng.uniform(18, 120)
        shift = rng.uniform(-0.6, 0.6) * (half - 14)
        parts = [box((shift - half, front, -thick), (shift + half, back, -0.02), tone)]
        low = tone * rng.uniform(0.2, 1.1)
        if rng.random() < 0.7:
            inset = rng.uniform(0, 4)
            count = int(rng.integers(0, 5)) if half > 30 else 0
            edges = np.sort(rng.uniform(-half, half, count))
            left = -half + inset
            for right in [*edges, half - inset]:
                parts.append(
                    box(
                        (shift + left, front + inset, -80),
                        (shift + right - 0.4, back, -thick),
                        low * rng.uniform(0.85, 1.1),
                    )
                )
                left = right
        else:
            parts += [
                box(
                    (shift + s * half - 2, front + 2, -80),
                    (shift + s * half + 2, front + 6, -thick),
                    tone * 0.8,
                )
                for s in (-0.9, 0.9)
            ]
        texture = (
            {
                "texture": top,
                "front": front,
                "back": back,
                "left": shift - half,
                "right": shift + half,
            }
            if rng.random() < 0.6
            else {}
        )
        return [Surface(Part.SUPPORT, "matt", -1, joined(parts))], texture
    radius, thick = rng.uniform(13, 45), rng.uniform(1.2, 4)
    z = np.array([-thick, -thick, -0.02, -0.02])
    disc = tube_upright(
        np.column_stack([0 * z, 0 * z, z]), np.array([0.05, radius, radius, 0.05]), tone, 90
    )
    legs = [
        tube(
            np.array(
                [
                    [0.5 * radius * np.cos(a), 0.5 * radius * np.sin(a), -thick],
                    [0.9 * radius * np.cos(a), 0.9 * radius * np.sin(a), -60],
                ]
            ),
            1.4,
            tone * 0.8,
        )
        for a in rng.uniform(0, 6.3) + np.arange(4) * 1.571
    ]
    back = tube_upright(
        np.column_stack([0 * z, 0 * z, z]),
        np.array([0.05, radius, radius, 0.05]),
        tone * rng.uniform(0.7, 1.2),
        60,
    )
    chair = (
        []
        if rng.random() < 0.6
        else [
            back.moved(
                np.array([[1, 0, 0], [0, 0, -1], [0, 1.0, 0]]),
                [rng.normal(0, 6), radius + 4, rng.uniform(10, 40)],
            )
        ]
    )
    return [Surface(Part.SUPPORT, "matt", -1, joined([disc, *legs, *chair]))], {}


def _thing(rng, x: float, y: float, tone: np.ndarray) -> list[Mesh]:
    """Books, fruit, a tube, a frame on the wall or a box, at a place of the table (cm)."""
    made: list[Mesh] = []
    u = rng.random()
    if u < 0.35:  # books, standing or lying
        wide, tall = (
            (rng.uniform(2, 5), rng.uniform(14, 26))
            if rng.random() < 0.5
            else (rng.uniform(12, 24), rng.uniform(2, 5))
        )
        foot = 0.05
        for _ in range(int(rng.integers(1, 4))):
            made.append(box((x, y, foot), (x + wide, y + 12, foot + tall), np.array(any_tone(rng))))
            if wide > tall:
                foot += tall
            else:
                x += wide + 0.2
    elif u < 0.5:
        radius = rng.uniform(2, 5)
        made.append(ball((x, y, radius), radius, tone, 15))
    elif u < 0.65:  # a tap, a lamp's arm, a cable
        far = rng.uniform(15, 50)
        path = np.array(
            [
                [x, y, 0],
                [x, y, far],
                [x + rng.normal(0, 0.2) * far, y, far * 1.2],
                [x + rng.normal(0, 0.4) * far, y, far],
            ]
        )
        made.append(
            tube(
                np.column_stack(
                    [np.interp(np.linspace(0, 3, 24), range(4), path[:, i]) for i in range(3)]
                ),
                rng.uniform(0.3, 1.6),
                tone,
                12,
            )
        )
    elif u < 0.85:  # a frame on the wall
        wide, tall, z = rng.uniform(10, 45), rng.uniform(10, 45), rng.uniform(5, 60)
        made += [
            box((x, 38, z), (x + wide, 39, z + tall), tone),
            box((x + 2, 37.8, z + 2), (x + wide - 2, 38, z + tall - 2), np.array(any_tone(rng))),
        ]
    else:
        made.append(
            box(
                (x, y, 0.05),
                (x + rng.uniform(4, 18), y + rng.uniform(3, 10), rng.uniform(3, 40)),
                tone,
            )
        )
    return made


def _beside(rng, vessel: RandomContainer) -> list[Surface]:
    """Other vessels, books, fruit, tubes and frames beside and behind."""
    out = []
    clear_of = vessel.shape.widest_cm / 2 * (1.6 if vessel.handles else 1.1)
    for _ in range(int(rng.choice([0, 1, 2, 3], p=[0.45, 0.3, 0.15, 0.1]))):
        other = any_vessel(rng, glass=0.08)
        x = rng.choice([-1, 1]) * (clear_of + other.shape.widest_cm * 0.75 + rng.uniform(-1, 22))
        turn = about_z(rng.uniform(0, 360))
        for material, mesh in built(replace(other, handles=int(rng.random() < 0.5)), rng):
            out.append(
                Surface(
                    Part.OTHER_VESSEL, material, -1, mesh.moved(turn, [x, rng.uniform(-3, 22), 0])
                )
            )
    things: list[Mesh] = []
    for _ in range(int(rng.choice([0, 1, 3, 6], p=[0.4, 0.25, 0.2, 0.15]))):
        tone, x, y = np.array(any_tone(rng)), rng.uniform(-60, 60), rng.uniform(-2, 34)
        if abs(x) < clear_of + 6:
            x += np.sign(x) * (clear_of + 6)
        things += _thing(rng, x, y, tone)
    if things:
        out.append(Surface(Part.NOT_PIECE, "matt", -1, joined(things)))
    return out


def _piece(number: int, vessel: RandomContainer, rng) -> list[Surface]:
    shape = vessel.shape
    if rng.random() < ARRANGED:
        piece = replace(
            random_piece(number), shape=shape, jumble=False, clutter=False, card_yaw=None
        )
        if piece.form == "grouped vessels":
            piece = replace(piece, form="garden")
        done = arrange(piece, 800 + number)
    else:
        done = Arrangement(random_piece(number), shape)
        sprigs_in(done, vessel, rng)
    turn = about_z(
        float(rng.choice([0.0, 90.0, 180.0, rng.uniform(0, 360)]))
        if shape.depth_cm is None
        else 0.0
    )
    out = [
        Surface(
            Part.CONTAINER,
            material,
            -1,
            mesh.moved(about_z(rng.normal(0, 35)) if vessel.handles else turn, np.zeros(3)),
        )
        for material, mesh in built(vessel, rng)
    ]
    for label, material, item, mesh in surfaces(done, 0.0):
        if label == "plant":
            part = Part.PETAL if material in ("petal", "berry") else Part.LEAF
            out.append(Surface(part, material, item, mesh.moved(turn, np.zeros(3))))
    return out


def _camera(rng, seen: list[Surface], pitches: tuple[float, ...]) -> Camera:
    wide, high = SHAPES[int(rng.choice(len(SHAPES), p=[0.45, 0.15, 0.1, 0.1, 0.14, 0.06]))]
    scale = np.sqrt(AREA / (wide * high))
    size = (int(wide * scale) // 8 * 8, int(high * scale) // 8 * 8)
    corners = np.concatenate(
        [
            s.mesh.corners[:: max(1, len(s.mesh.corners) // 4000)]
            for s in seen
            if s.label in (Part.CONTAINER, Part.LEAF, Part.PETAL)
        ]
    )
    low, top = corners.min(0), corners.max(0)
    focal = (
        size[1] * rng.uniform(0.85, 1.9) if size[1] >= size[0] else size[0] * rng.uniform(0.85, 1.9)
    )
    fill = rng.uniform(0.3, 0.95) if rng.random() < 0.6 else rng.uniform(0.75, 0.97)
    extent = max((top[2] - low[2]) / size[1], (top[0] - low[0]) / size[0])
    far = extent * focal / fill
    pitch = np.radians(
        float(
            np.clip(
                rng.choice(
                    [rng.normal(2, 3), rng.uniform(0, 12), rng.uniform(8, 24)], p=[0.45, 0.35, 0.2]
                ),
                -6,
                26,
            )
        )
    )
    aim = 0.5 * (low + top)
    aim[1] = 0
    eye = aim + np.array([rng.normal(0, 0.05) * far, -far * np.cos(pitch), far * np.sin(pitch)])
    eye[2] = max(eye[2], 1.5)
    # Off the middle, as far as the frame has room.
    room_left = (
        1 - np.array([(top[0] - low[0]) / size[0], (top[2] - low[2]) / size[1]]) * focal / far
    ).clip(0) / 2
    shift = rng.uniform(-0.9, 0.9, 2) * room_left * np.array(size) * far / focal
    to = np.array([shift[0], 0, shift[1]])
    return Camera(eye + to, aim + to, focal, *size)


def _backdrop(rng, scenery: Scenery, camera: Camera) -> tuple[dict, bool]:
    """What closes the view: a room's photograph that shines by itself, or a wall; and whether it is
    a wall.
    """
    import mitsuba as mi

    at = mi.ScalarTransform4f
    forward = camera.axes[2]
    if rng.random() < 0.62:
        picture = scenery.rooms[int(rng.integers(len(scenery.rooms)))]
        aspect = camera.width / camera.height
        part = rng.uniform(0.3, 1.0)
        high = int(min(picture.shape[0], picture.shape[1] / aspect) * part)
        wide = int(high * aspect)
        y, x = (
            rng.integers(0, picture.shape[0] - high + 1),
            rng.integers(0, picture.shape[1] - wide + 1),
        )
        crop = picture[y : y + high, x : x + wide][::-1].astype(np.float32) / 255
        if rng.random() < 0.5:
            crop = crop[:, ::-1]
        if rng.random() < 0.35:
            crop = cv2.GaussianBlur(crop, (0, 0), rng.uniform(0.002, 0.02) * high)
        if rng.random() < 0.3:
            crop = crop * np.exp(rng.normal(0, 0.15, 3)).astype(np.float32)
        distance = np.linalg.norm(camera.eye) + rng.uniform(45, 140)
        centre = camera.eye + distance * forward
        half = 1.03 * distance / camera.focal * np.array([camera.width, camera.height]) / 2
        shine = np.ascontiguousarray(
            linear_from_srgb(np.clip(crop, 0, 1)).astype(np.float32)
        ) * rng.uniform(0.45, 1.1)
        return {
            "type": "rectangle",
            "to_world": (
                at().look_at(list(centre), list(camera.eye), [0, 0, 1]).scale([half[0], half[1], 1])
            ),
            "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": 0.0}},
            "emitter": {
                "type": "area",
                "radiance": {
                    "type": "bitmap",
                    "bitmap": mi.Bitmap(shine.astype(np.float32)),
                    "raw": True,
                },
            },
        }, False
    kind, tone = list(room.WALLS.values())[int(rng.choice(len(room.WALLS)))]
    if kind == "drape" or rng.random() < 0.55:
        kind = "plaster"
    colour = "#" + "".join(
        f"{int(v * 255):02x}"
        for v in srgb_from_linear(np.clip(np.array(any_tone(rng)), 0.03, 0.85))
    )
    bitmap = mi.Bitmap(
        np.ascontiguousarray(
            room.texture(kind, colour if rng.random() < 0.8 else tone, rng).astype(np.float32)
        )
    )
    return {
        "type": "rectangle",
        "bsdf": {
            "type": "twosided",
            "bsdf": {
                "type": "diffuse",
                "reflectance": {"type": "bitmap", "bitmap": bitmap, "raw": True},
            },
        },
        "to_world": (
            at()
            .translate([0, float(rng.uniform(40, 90)), 60])
            .rotate([0, 0, 1], float(rng.normal(0, 6)))
            .rotate([1, 0, 0], 90)
            .scale([320, 240, 1])
        ),
    }, True


def _light(rng, scenery: Scenery, walled: bool) -> dict:
    """An environment turned by chance, and now and then a low sun or a window."""
    import mitsuba as mi

    at = mi.ScalarTransform4f
    path = scenery.lights[int(rng.integers(len(scenery.lights)))]
    sky = np.array(mi.Bitmap(str(path)).convert(mi.Bitmap.PixelFormat.RGB, mi.Struct.Type.Float32))
    sky = np.minimum(sky, 60 * sky.mean()) / sky.mean() * 0.6
    if rng.random() < 0.5:  # less of its colour, as white balance leaves it
        sky = 0.35 * sky + 0.65 * sky.mean(-1, keepdims=True)
    out = {
        "sky": {
            "type": "envmap",
            "bitmap": mi.Bitmap(np.ascontiguousarray(sky.astype(np.float32))),
            "to_world": at().rotate([1, 0, 0], 90).rotate([0, 1, 0], float(rng.uniform(0, 360))),
        }
    }
    if rng.random() < 0.35:
        side, up = rng.choice([-1, 1]) * rng.uniform(0.4, 1.5), -rng.uniform(0.3, 1.2)
        out["sun"] = {
            "type": "directional",
            "direction": [float(side), float(rng.uniform(0.1, 1.0)), float(up)],
            "irradiance": {
                "type": "rgb",
                "value": [float(v) for v in rng.uniform(0.6, 3.0) * np.array([1.0, 0.93, 0.8])],
            },
        }
    if rng.random() < 0.4 or walled:
        side = float(rng.choice([-1, 1]) * rng.uniform(80, 160))
        out["window"] = {
            "type": "rectangle",
            "to_world": (
                at()
                .look_at(
                    [side, -float(rng.uniform(20, 140)), float(rng.uniform(40, 140))],
                    [0, 0, 20],
                    [0, 0, 1],
                )
                .scale([40, 50, 1])
            ),
            "emitter": {
                "type": "area",
                "radiance": {
                    "type": "rgb",
                    "value": [float(v) for v in rng.uniform(2, 12) * np.exp(rng.normal(0, 0.1, 3))],
                },
            },
        }
    return out


def _shot(
    camera: Camera, surfaces_: list[Surface], extra: dict, samples: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Linear light, albedo and normals (h, w, 3) of a scene."""
    import mitsuba as mi

    at = mi.ScalarTransform4f
    scene = {
        "type": "scene",
        "integrator": {
            "type": "aov",
            "aovs": "a:albedo,n:sh_normal",
            "inner": {"type": "path", "max_depth": 8},
        },
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
        **extra,
    }
    with tempfile.TemporaryDirectory() as folder:
        for material, bsdf in materials().items():
            mesh = joined([s.mesh for s in surfaces_ if s.material == material])
            if len(mesh.corners):
                path = Path(folder) / f"{material}.ply"
                write_ply(mesh, path)
                scene[f"m_{material}"] = {"type": "ply", "filename": str(path), "bsdf": bsdf}
        loaded = mi.load_dict(scene)
        out = np.array(mi.render(loaded, seed=3)).astype(np.float32)
    return (
        np.ascontiguousarray(out[..., :3]),
        np.ascontiguousarray(np.clip(out[..., 3:6], 0, 1)),
        np.ascontiguousarray(out[..., 6:9]),
    )


def _parts_seen(camera: Camera, surfaces_: list[Surface], top: dict) -> np.ndarray:
    """The Part of each pixel (h, w) by the first surface that its ray meets; water and glass are
    container.
    """
    from embreex import rtcore_scene
    from embreex.mesh_construction import TriangleMesh

    plane = []
    if top:
        left, right = top.get("left", -400.0), top.get("right", 400.0)
        plane = [
            Surface(
                Part.SUPPORT,
                "matt",
                -1,
                box((left, top["front"], -0.02), (right, top["back"], 0.0), np.full(3, 0.5)),
            )
        ]
    all_of = [*surfaces_, *plane]
    scene = rtcore_scene.EmbreeScene()
    for s in all_of:
        TriangleMesh(scene, s.mesh.corners[s.mesh.faces].astype(np.float32))
    rays = camera.rays().astype(np.float32)
    start = np.broadcast_to(camera.eye.astype(np.float32), rays.shape).copy()
    met = scene.run(start, rays, query="INTERSECT", output=True)["geomID"]
    labels = np.array([int(s.label) for s in all_of] + [int(Part.NOT_PIECE)], np.uint8)
    return labels[met].reshape(camera.height, camera.width)


def _exposed(light: np.ndarray, rng) -> np.ndarray:
    """Linear light as a phone shows it: exposure by the mean, a shoulder and a tone curve; float32
    sRGB 0..1.
    """
    bright = light @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    x = light * min(
        rng.uniform(0.2, 0.42) / max(1e-4, float(bright.mean())),
        1.15 / max(1e-4, float(np.percentile(bright, 97))),
    )
    x = np.where(x > 0.7, 0.7 + 0.3 * np.tanh((x - 0.7) / 0.3), x)
    out = srgb_from_linear(np.clip(x, 0, 1))
    bend = rng.normal(0, 0.12)
    return np.clip(out + bend * np.sin(2 * np.pi * out) / (2 * np.pi), 0, 1)


def example(number: int, scenery: Scenery, samples: int = 5) -> Example:
    """Trace scene `number`; the same number and scenery, the same scene."""
    import mitsuba as mi
    from pyoidn import denoise

    mi.set_variant(*TRACERS)
    mi.set_log_level(mi.LogLevel.Error)
    rng = np.random.default_rng(310_000 + number)
    vessel = any_vessel(rng) if number < HARDER else any_vessel(rng, glass=0.3, low=0.35)
    piece = _piece(number, vessel, rng)
    stands_on, top = _support(rng)
    seen = [*piece, *stands_on, *_beside(rng, vessel)]
    camera = _camera(rng, piece, PITCHES if number < HARDER else PITCHES_HARDER)
    backdrop, walled = _backdrop(rng, scenery, camera)
    extra = {"backdrop": backdrop, **_light(rng, scenery, walled)}
    if top:
        at = mi.ScalarTransform4f
        left, right = top.get("left", -120.0), top.get("right", 120.0)
        bitmap = mi.Bitmap(
            np.ascontiguousarray(
                room.texture(top["texture"][0], top["texture"][1], rng).astype(np.float32)
            )
        )
        extra["top"] = {
            "type": "rectangle",
            "bsdf": {
                "type": "twosided",
                "bsdf": {
                    "type": "diffuse",
                    "reflectance": {"type": "bitmap", "bitmap": bitmap, "raw": True},
                },
            },
            "to_world": (
                at()
                .translate([(left + right) / 2, (top["front"] + top["back"]) / 2, 0])
                .scale([(right - left) / 2, (top["back"] - top["front"]) / 2, 1])
            ),
        }
    clear = any(s.material == "glass" for s in seen)
    light, albedo, normal = _shot(camera, seen, extra, samples * (2 if clear else 1))
    clean = denoise(light, albedo, normal, hdr=True)
    picture = (_exposed(clean, rng) * 255).round().astype(np.uint8)
    return Example(picture, _parts_seen(camera, seen, top), _truth(camera, vessel, piece))


def _truth(camera: Camera, vessel: RandomContainer, piece: list[Surface]) -> dict:
    high = vessel.shape.height_cm
    wall = np.concatenate(
        [s.mesh.corners for s in piece if s.label == Part.CONTAINER and s.material != "water"]
    )
    lip, foot = wall[wall[:, 2] > high - 0.05], wall[wall[:, 2] < 0.1]
    spots = np.array(
        [
            [0, 0, 0],
            [0, 0, high],
            [lip[:, 0].min(), 0, high],
            [lip[:, 0].max(), 0, high],
            [0, foot[:, 1].min(), 0],
            [0, lip[:, 1].min(), high],
        ]
    )
    places = camera.pixel(spots)
    corners = np.concatenate([s.mesh.corners for s in piece if s.label in (Part.LEAF, Part.PETAL)])
    up = (places[1] - places[0]) / np.linalg.norm(places[1] - places[0])
    along = ((camera.pixel(corners) - places[1]) @ up).max() / np.linalg.norm(places[1] - places[0])
    return {
        **{
            name: [round(float(v), 2) for v in at]
            for name, at in zip(KEYPOINTS, places, strict=True)
        },
        "clear": vessel.shape.material == "glass",
        "family": vessel.shape.name,
        "boxed": vessel.shape.depth_cm is not None,
        "pitch_deg": round(float(-np.degrees(np.arcsin(camera.axes[2][2]))), 2),
        "focal_px": round(float(camera.focal), 1),
        "height_ratio_image": round(float(along), 4),
        "height_ratio_3d": round(float((corners[:, 2].max() - high) / high), 4),
    }
