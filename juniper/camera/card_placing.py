"""A reference card stood anew in a photograph of the roll, wherever and however turned, for trials
of the card.
"""

from __future__ import annotations

import io
import json
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from juniper.camera.capture import CLUTTER
from juniper.camera.mesh import about_z
from juniper.camera.roll import Frame
from juniper.colour.spaces import linear_from_srgb, srgb_from_linear
from juniper.photograph.card_layout import LAYOUTS


@dataclass(frozen=True, eq=False)
class FrameWithCard:
    """A frame with a blank card in it; taken like one of the roll."""

    piece: int
    view: str
    jpeg: bytes
    labels: np.ndarray
    truth: dict


class NoRoom(ValueError):
    """The card would stand outside the picture."""


def _seen(truth: dict, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pixels (n, 2) and depths (n,) in cm of points (n, 3) through a truth's camera."""
    c = truth["camera"]
    eye, target = np.array(c["position"]), np.array(c["target"])
    forward = (target - eye) / np.linalg.norm(target - eye)
    right = np.cross(forward, [0.0, 0.0, 1.0])
    right /= np.linalg.norm(right)
    local = (points - eye) @ np.stack([right, np.cross(forward, right), forward]).T
    middle = np.array([truth["image"]["width"], truth["image"]["height"]]) / 2
    return local[:, :2] / local[:, 2:] * c["focal_px"] + middle, local[:, 2]


def seen_places(truth: dict, points: np.ndarray) -> np.ndarray:
    """Pixels (n, 2) of points (n, 3) in cm about the container's foot, through a truth's camera."""
    return _seen(truth, points)[0]


def stand_card(
    frame: Frame,
    x_cm: float,
    yaw_deg: float,
    lean_deg: float = 8.0,
    size: str = "A6",
    hide: float = 0.0,
) -> FrameWithCard:
    """Stand a blank card beside the axis at `x_cm`, turned and leaning back; `hide` covers a share
    of it from the outer side.

    Raises NoRoom when it would stand outside the picture. Its light falls off softly across it;
    leaves that hang before it are left out, since they would hide it.
    """
    layout = LAYOUTS[size]
    wide, tall = layout.width / 10, layout.height / 10
    flat = np.array(
        [[-wide / 2, 0, tall], [wide / 2, 0, tall], [wide / 2, 0, 0], [-wide / 2, 0, 0]]
    )
    lean = np.radians(lean_deg)
    flat[:, 1], flat[:, 2] = flat[:, 2] * np.sin(lean), flat[:, 2] * np.cos(lean)
    corners = flat @ about_z(yaw_deg).T + [x_cm, -2.0, 0.05]
    places, _ = _seen(frame.truth, corners)
    _, depth = _seen(frame.truth, corners.mean(0, keepdims=True))
    base = np.asarray(Image.open(io.BytesIO(frame.jpeg)).convert("RGB"))
    h, w = base.shape[:2]
    if places.min() < 4 or (places > np.array(base.shape[1::-1]) - 4).any():
        raise NoRoom("the card would not be in the picture")
    fine = 4
    mask = np.zeros((h * fine, w * fine), np.uint8)
    cv2.fillConvexPoly(mask, np.round(places * fine).astype(np.int32), 255)
    if hide:
        edge = places[[0, 3]] * (1 - hide) + places[[1, 2]] * hide
        cv2.fillConvexPoly(
            mask,
            np.round(np.array([places[0], edge[0], edge[1], places[3]]) * fine).astype(np.int32),
            0,
        )
    cover = cv2.resize(mask, (w, h), interpolation=cv2.INTER_AREA).astype(np.float64) / 255
    ys, xs = np.mgrid[0:h, 0:w]
    light = (
        0.62
        - 0.10 * (xs - places[:, 0].mean()) / max(1.0, np.ptp(places[:, 0]))
        + 0.05 * (places[:, 1].mean() - ys) / np.ptp(places[:, 1])
    )
    out = linear_from_srgb(base / 255) * (1 - cover[..., None]) + (light * cover)[..., None]
    file = io.BytesIO()
    Image.fromarray(np.round(srgb_from_linear(np.clip(out, 0, 1)) * 255).astype(np.uint8)).save(
        file, "PNG", compress_level=1
    )
    labels = np.where(cover > 0.5, CLUTTER, frame.labels).astype(np.uint8)
    truth = json.loads(json.dumps(frame.truth))
    truth["card"] = {
        "corners": places.tolist(),
        "yaw_deg": yaw_deg,
        "before_axis_cm": 2.0,
        "px_per_cm": truth["camera"]["focal_px"] / float(depth[0]),
    }
    return FrameWithCard(frame.piece, frame.view, file.getvalue(), labels, truth)


def with_card(frame: Frame) -> Frame | FrameWithCard:
    """A photograph with a blank card: as it is, or with one stood close beside its container.

    Raises NoRoom when there is none on either side.
    """
    if "card" in frame.truth:
        return frame
    away = frame.truth["container"]["max_width_cm"] / 2 + LAYOUTS["A6"].width / 20
    try:
        return stand_card(frame, away, 0.0)
    except NoRoom:
        return stand_card(frame, -away, 0.0)
