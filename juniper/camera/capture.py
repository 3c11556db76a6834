"""Taking a picture of a frame of the roll as a phone would, faults and all; the truth follows
through.

The reference card stands blank in the traced scene, so its light and shadow are true; here it is
printed with any code, in linear light, at the size the picture is taken in.
"""

from __future__ import annotations

import io
import json
import struct
from dataclasses import dataclass, replace
from typing import Any, Protocol

import cv2
import numpy as np
import pillow_heif
from PIL import ExifTags, Image

from juniper.camera.roll import STAGES, composition
from juniper.camera.roll import frame as frame_of
from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.photograph.card_layout import LAYOUTS, card_reflectance

CLUTTER = 4
PHONE = (3024, 4032)  # twelve megapixels, upright
MODEL = "Simulated camera 12"


class Photographable(Protocol):
    """What a picture can be taken of: a frame of the roll, or one that a card was put into."""

    @property
    def piece(self) -> int:
        """Its number."""

    @property
    def jpeg(self) -> bytes:
        """The photograph as it was traced."""

    @property
    def truth(self) -> dict:
        """What is truly there."""

    @property
    def labels(self) -> np.ndarray:
        """Label raster (h, w) uint8."""


@dataclass(frozen=True)
class Shot:
    """How a picture is taken. Without arguments: upright, in daylight, sharp, in the roll's size.

    `size` is the upright picture's (width, height); `code` is printed on the card; `roll_deg` leans
    the picture to the right; `crop` cuts shares off left, top, right, bottom; `zoom` below 1 steps
    back; `kelvin` is the light's temperature (6504 none), `kelvin_right` another on the right side;
    `stops` of exposure; `blur` and `shake` in pixels of a picture 1200 high; `noise` in levels;
    `orientation` is the EXIF value the file is stored under.
    """

    size: tuple[int, int] = (900, 1200)
    code: str | None = None
    card_size: str = "A6"
    roll_deg: float = 0.0
    crop: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    zoom: float = 1.0
    kelvin: float = 6504.0
    kelvin_right: float | None = None
    stops: float = 0.0
    blur: float = 0.0
    shake: float = 0.0
    noise: float = 0.0
    orientation: int = 1
    profile: str = "sRGB"
    kind: str = "JPEG"
    place: bool = False
    quality: int = 90


@dataclass(frozen=True, eq=False)
class Picture:
    """A picture taken: the file's bytes, label raster (h, w) of the upright picture, and its
    truth.
    """

    data: bytes
    labels: np.ndarray
    truth: dict

    @property
    def ending(self) -> str:
        """The file's usual ending."""
        return "heic" if self.truth["shot"]["kind"] == "HEIC" else "jpg"


def beside_card(piece: int, code: str) -> bytes:
    """The file of a plain picture of a piece of the roll from the front, its reference card set
    beside it.
    """
    return take(frame_of(piece), Shot(code=code, place=True)).data


def of_the_roll(what: int | str, view: str, code: str) -> bytes:
    """The file of a plain picture of a piece of the roll by its number, from the front or at a
    stage of its making, with its card; or of a composition by its name.
    """
    if isinstance(what, str):
        return take(composition(what), Shot(size=(1200, 900))).data
    if view in STAGES:
        return take(frame_of(what, view), Shot(code=code)).data
    return beside_card(what, code)


def take(frame: Photographable, shot: Shot = Shot(), seed: int = 0) -> Picture:
    """Take a picture; the same frame, shot and seed give the same picture."""
    rng = np.random.default_rng((seed, frame.piece))
    base = np.asarray(Image.open(io.BytesIO(frame.jpeg)).convert("RGB"))
    move, size = _move(shot, base.shape[1], base.shape[0])
    light = cv2.warpAffine(
        linear_from_srgb(np.arange(256) / 255).astype(np.float32)[base],
        move,
        size,
        flags=cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REPLICATE,
    )
    labels = cv2.warpAffine(
        frame.labels, move, size, flags=cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE
    )
    truth = _moved(frame.truth, move, size)
    if shot.code and "card" in truth:
        _print(light, labels, truth["card"]["corners"], shot)
        truth["card"] |= {"code": shot.code, "size": shot.card_size}
    pixels = _expose(np.clip(light, 0, None), shot, size[1] / 1200, rng)
    truth["shot"] = {k: v for k, v in shot.__dict__.items()}
    focal_35 = round(36 * truth["camera"]["focal_px"] / max(size))
    return Picture(_written(pixels, shot, focal_35), labels, truth)


def _move(shot: Shot, width: int, height: int) -> tuple[np.ndarray, tuple[int, int]]:
    """Map (2, 3) from the roll's pixels to the picture's, and the picture's size."""
    left, top, right, bottom = shot.crop
    kept = (width * (1 - left - right), height * (1 - top - bottom))
    factor = shot.size[0] / width
    middle = (width * (1 + left - right) / 2, height * (1 + top - bottom) / 2)
    move = cv2.getRotationMatrix2D((width / 2, height / 2), -shot.roll_deg, factor * shot.zoom)
    size = (round(kept[0] * factor), round(kept[1] * factor))
    at = move @ [
        *((np.array(middle) - [width / 2, height / 2]) / shot.zoom + [width / 2, height / 2]),
        1.0,
    ]
    move[:, 2] += np.array(size) / 2 - (at if shot.roll_deg == 0 else move @ [*middle, 1.0])
    return move, size


def _moved(truth: dict, move: np.ndarray, size) -> dict:
    """Truth with every point carried by the map; lengths and areas scaled with it."""
    scale = float(np.sqrt(abs(np.linalg.det(move[:, :2]))))

    def point(p):
        return [round(float(v), 2) for v in move @ [*p, 1.0]]

    out = json.loads(json.dumps(truth))
    out["image"] = {"width": size[0], "height": size[1]}
    out["camera"]["focal_px"] *= scale
    out["camera"]["roll_deg"] = round(float(np.degrees(np.arctan2(move[1, 0], move[0, 0]))), 3)
    for name in ("rim", "base", "rim_left", "rim_right"):
        out["container"][name] = point(out["container"][name])
    if "plant" in out:
        for name in ("top", "left", "right"):
            out["plant"][name] = point(out["plant"][name])
        out["plant"]["area_px"] = round(out["plant"]["area_px"] * scale**2)
    for bloom in out["blooms"]:
        bloom["centre"] = point(bloom["centre"])
        bloom["radius"] = round(bloom["radius"] * scale, 1)
        bloom["visible_px"] = round(bloom["visible_px"] * scale**2)
        bloom.pop("full_box")
    for stem in out["stems"]:
        stem["tip"] = point(stem["tip"])
    if "card" in out:
        out["card"]["px_per_cm"] *= scale
        out["card"]["corners"] = [point(p) for p in out["card"]["corners"]]
    return out


def _print(light: np.ndarray, labels: np.ndarray, corners, shot: Shot) -> None:
    """Print the card in place: what its blank paper sends back, times what the print lets back."""
    layout = LAYOUTS[shot.card_size]
    corners = np.array(corners, np.float32)
    x0, y0 = np.maximum(np.floor(corners.min(0)).astype(int) - 2, 0)
    x1, y1 = np.ceil(corners.max(0)).astype(int) + 3
    x1, y1 = min(x1, light.shape[1]), min(y1, light.shape[0])
    if x1 - x0 < 4 or y1 - y0 < 4:
        return
    fine = 4
    per_mm = 6
    sheet = card_reflectance(shot.code or "", shot.card_size, per_mm)
    h, w = sheet.shape
    source = np.array([[0, 0], [w, 0], [w, h], [0, h]], np.float32)
    plane = cv2.getPerspectiveTransform(source, (corners - [x0, y0]).astype(np.float32) * fine)
    # Averaged on a grid four times as fine, as a sensor's pixel averages what falls on it.
    step = np.linalg.norm(corners[1] - corners[0]) * fine / (layout.width * per_mm)
    if step < 1:
        sheet = cv2.GaussianBlur(sheet, (0, 0), float(0.45 / step))
    drawn = cv2.warpPerspective(
        sheet, plane, ((x1 - x0) * fine, (y1 - y0) * fine), flags=cv2.INTER_LINEAR, borderValue=1.0
    )
    drawn = cv2.resize(drawn, (x1 - x0, y1 - y0), interpolation=cv2.INTER_AREA)
    open_ = cv2.GaussianBlur((labels[y0:y1, x0:x1] == CLUTTER).astype(np.float32), (0, 0), 0.6)
    light[y0:y1, x0:x1] *= (1 - open_ * (1 - drawn))[..., None]


def cast_matrix(kelvin: float) -> np.ndarray:
    """Linear sRGB (3, 3) of daylight surfaces in a light of a temperature; white stays as light.

    Planckian locus by Kang et al. 2002 (valid 1667 to 25000 K), adaptation by the Bradford
    transform (Lam 1985).
    """
    if abs(kelvin - 6504) < 1:
        return np.eye(3)
    t = 1e3 / kelvin
    x = (
        (-0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910)
        if kelvin <= 4000
        else (-3.0258469 * t**3 + 2.1070379 * t**2 + 0.2226347 * t + 0.240390)
    )
    if kelvin <= 2222:
        y = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    elif kelvin <= 4000:
        y = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    else:
        y = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    to_xyz = np.array(
        [
            [0.4124564, 0.3575761, 0.1804375],
            [0.2126729, 0.7151522, 0.0721750],
            [0.0193339, 0.1191920, 0.9503041],
        ]
    )
    cone = np.array(
        [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
    )
    white = np.array([x / y, 1.0, (1 - x - y) / y])
    adapt = np.linalg.inv(cone) @ np.diag((cone @ white) / (cone @ to_xyz.sum(1))) @ cone
    return np.linalg.inv(to_xyz) @ adapt @ to_xyz


# The sRGB curve in steps far finer than its levels.
_LEVELS = (srgb_from_linear(np.linspace(0, 1, 65536)) * 255).astype(np.float32)


def _expose(light: np.ndarray, shot: Shot, fine: float, rng) -> np.ndarray:
    """Linear light to 8-bit levels: cast, exposure, blur, noise."""
    if shot.kelvin_right is not None:
        side = np.clip(np.linspace(-0.4, 1.4, light.shape[1], dtype=np.float32), 0, 1)[
            None, :, None
        ]
        light = (
            light @ cast_matrix(shot.kelvin).T.astype(np.float32) * (1 - side)
            + light @ cast_matrix(shot.kelvin_right).T.astype(np.float32) * side
        )
    elif abs(shot.kelvin - 6504) >= 1:
        light = light @ cast_matrix(shot.kelvin).T.astype(np.float32)
    light = np.maximum(light, 0)
    if abs(shot.kelvin - 6504) >= 1:
        # A camera meters so that its strongest channel does not run out.
        light = light * min(1.0, 0.97 / np.percentile(light.max(-1), 99.5))
    light = light * np.float32(2.0**shot.stops)
    if shot.blur:
        light = cv2.GaussianBlur(light, (0, 0), shot.blur * fine)
    if shot.shake:
        length = max(3, round(shot.shake * fine) | 1)
        kernel = np.zeros((length, length), np.float32)
        cv2.line(kernel, (0, round(0.35 * length)), (length - 1, round(0.65 * length)), 1.0)
        light = cv2.filter2D(light, -1, kernel / kernel.sum(), borderType=cv2.BORDER_REFLECT)
    light = np.clip(light, 0, 1)
    if shot.profile == "Display P3":
        light = np.clip(light @ _SRGB_TO_P3.T.astype(np.float32), 0, 1)
    level = _LEVELS[np.round(light * (len(_LEVELS) - 1)).astype(np.uint16)]
    grain = shot.noise if shot.noise else (0.6 if fine > 1 else 0.0)
    if grain:
        level += rng.standard_normal(level.shape, np.float32) * grain * (1.3 - level / 400)
    return np.clip(np.round(level), 0, 255).astype(np.uint8)


# Display P3 has sRGB's curve and white (SMPTE EG 432-1 primaries).
_SRGB_TO_P3 = np.array(
    [[0.8224620, 0.1775380, 0.0], [0.0331942, 0.9668058, 0.0], [0.0170827, 0.0723974, 0.9105199]]
)


def display_p3_profile() -> bytes:
    """A small ICC profile of Display P3 (ICC.1:2022: matrix and parametric curve; colorants for
    D50).
    """

    def fixed(*values):
        return b"".join(struct.pack(">i", round(v * 65536)) for v in values)

    curve = (
        b"para"
        + bytes(4)
        + struct.pack(">HH", 3, 0)
        + fixed(2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
    )
    text = "Display P3".encode("utf-16-be")
    words = b"mluc" + bytes(4) + struct.pack(">IIHHII", 1, 12, 0x656E, 0x5553, len(text), 28) + text
    tags = {
        b"desc": words,
        b"cprt": words,
        b"wtpt": b"XYZ " + bytes(4) + fixed(0.96420, 1.0, 0.82491),
        b"rXYZ": b"XYZ " + bytes(4) + fixed(0.515102, 0.241182, -0.001050),
        b"gXYZ": b"XYZ " + bytes(4) + fixed(0.291965, 0.692236, 0.041882),
        b"bXYZ": b"XYZ " + bytes(4) + fixed(0.157153, 0.066582, 0.784378),
        b"rTRC": curve,
        b"gTRC": curve,
        b"bTRC": curve,
    }
    table, body, start = b"", b"", 128 + 4 + 12 * len(tags)
    for name, data in tags.items():
        data += bytes(-len(data) % 4)  # noqa: PLW2901
        table += name + struct.pack(">II", start + len(body), len(data))
        body += data
    size = start + len(body)
    head = struct.pack(
        ">I4sI4s4s4s", size, bytes(4), 0x04300000, b"mntr", b"RGB ", b"XYZ "
    ) + struct.pack(">6H", 2026, 1, 1, 0, 0, 0)
    head += b"acsp" + bytes(28) + fixed(0.96420, 1.0, 0.82491)
    return head.ljust(128, b"\0") + struct.pack(">I", len(tags)) + table + body


_STORED = {
    1: None,
    3: Image.Transpose.ROTATE_180,
    6: Image.Transpose.ROTATE_90,
    8: Image.Transpose.ROTATE_270,
}


def _written(pixels: np.ndarray, shot: Shot, focal_35: int) -> bytes:
    image = Image.fromarray(pixels)
    stored = _STORED[shot.orientation]
    if stored is not None:
        image = image.transpose(stored)
    exif = Image.Exif()
    exif[ExifTags.Base.Make] = "Juniper Heath"
    exif[ExifTags.Base.Model] = MODEL
    if shot.orientation != 1:
        exif[ExifTags.Base.Orientation] = shot.orientation
    exif.get_ifd(ExifTags.IFD.Exif)[ExifTags.Base.DateTimeOriginal] = "2026:11:19 20:41:07"
    exif.get_ifd(ExifTags.IFD.Exif)[ExifTags.Base.FocalLengthIn35mmFilm] = focal_35
    if shot.place:
        exif.get_ifd(ExifTags.IFD.GPSInfo).update(
            {1: "N", 2: (54.0, 12.0, 30.0), 3: "W", 4: (3.0, 1.0, 15.0)}
        )
    more = {"icc_profile": display_p3_profile()} if shot.profile == "Display P3" else {}
    out = io.BytesIO()
    if shot.kind == "HEIC":
        pillow_heif.from_pillow(image).save(out, quality=80, exif=exif.tobytes(), **more)
    else:
        image.save(out, shot.kind, quality=shot.quality, exif=exif, **more)
    return out.getvalue()


def with_fault(shot: Shot, name: str, strength: float, frame: Photographable) -> Shot:
    """A shot of a frame with one named fault of capture, at a strength from 0 (just a fault) to 1
    (a bad one).
    """
    s = strength
    top, height = frame.truth["plant"]["top"][1], frame.truth["image"]["height"]
    plant = frame.truth["container"]["rim"][1] - top
    many: dict[str, dict[str, Any]] = {
        "blur": {"blur": 2.6 + 2.0 * s},
        "shake": {"shake": 11 + 9 * s},
        "dark": {"stops": -2.0 - s},
        "bright": {"stops": 1.35 + s},
        "roll": {"roll_deg": 5.0 + 6 * s},
        "cut off": {"crop": (0.0, (top + (0.06 + 0.14 * s) * plant) / height, 0.0, 0.0)},
        "small": {"zoom": 0.5 - 0.12 * s},
        "warm cast": {"kelvin": 3600 - 700 * s},
        "cold cast": {"kelvin": 11500 + 6000 * s},
        "mixed light": {"kelvin": 3700 - 600 * s, "kelvin_right": 8200 + 2500 * s},
        "noise": {"noise": 16 + 10 * s},
    }
    if name not in many:
        raise LookupError(f"no fault is called {name}; there are: {', '.join(many)}")
    return replace(shot, **many[name])


FAULTS = (
    "blur",
    "shake",
    "dark",
    "bright",
    "roll",
    "cut off",
    "small",
    "warm cast",
    "cold cast",
    "mixed light",
    "noise",
)
