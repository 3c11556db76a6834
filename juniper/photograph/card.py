"""Finding the reference card in a photograph: identity, scale, turn, roll and white.

Each is given as far as what shows of the card allows. The upper left of a rotation has 1 as its
larger singular value and the cosine of the turn as its smaller: so the scale is read off the card's
map however the card is turned.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
import zxingcpp

from juniper.colour.spaces import linear_from_srgb
from juniper.photograph.card_layout import GREY_LIGHTNESS, PAPER, Layout, grey_value, layout_of
from juniper.photograph.code import code_of
from juniper.values import Point, triple

CARD_SIDE = (
    # longer side of the picture the card is looked for in: half of what phones take, which a JPEG
    # decoder makes at once
    2000
)
# how far from level with the piece's middle a card is usually put (standard uncertainty)
STANDING_CM = 3.0
# focal length over the picture's longer side of a phone held upright, at its least
USUAL_FOCAL = 0.9
CORNER_PX = 0.25  # standard uncertainty of a marker's corner
_FIT = 0.035  # largest misfit of markers to one plane, in marker sides


@dataclass(frozen=True)
class White:
    """White balance from the greys: factors on linear red, green, blue that make them neutral and
    as light as printed.

    `spread` is how well the greys agree (standard deviation of log factors), `steps` how many were
    used.
    """

    gains: tuple[float, float, float]
    spread: float
    steps: int

    @property
    def warmth(self) -> float:
        """How much warmer than daylight the light reads: log2 of the blue over the red factor."""
        return float(np.log2(self.gains[2] / self.gains[0]))


@dataclass(frozen=True)
class Card:
    """The reference card as it shows in a photograph, in its full pixels.

    `code` is None when the symbol could not be read; `px_per_cm` is the scale at the card in a
    plane facing the camera, with its relative standard uncertainty, the depth of the piece
    included; angles in degrees, `roll_deg` positive when the picture leans to the right; `plane`
    (3, 3) carries centimetres on the card to pixels.
    """

    size: str
    corners: tuple[Point, ...]
    markers: int
    code: str | None
    px_per_cm: float | None
    scale_uncertainty: float
    turned_deg: float
    roll_deg: float | None
    white: White | None
    plane: tuple[tuple[float, float, float], ...] | None

    def scaled(self, factor: float) -> Card:
        """The same card in a picture enlarged by `factor`."""
        corners = tuple((x * factor, y * factor) for x, y in self.corners)
        per_cm = None if self.px_per_cm is None else self.px_per_cm * factor
        plane = self.plane and (
            triple(v * factor for v in self.plane[0]),
            triple(v * factor for v in self.plane[1]),
            self.plane[2],
        )
        return replace(self, corners=corners, px_per_cm=per_cm, plane=plane)

    def on_card(self, points) -> np.ndarray:
        """Places (n, 2) in cm on the card's plane of pixels (n, 2): perspective undone. Needs
        `plane`.
        """
        inverse = np.linalg.inv(np.asarray(self.plane))
        return cv2.perspectiveTransform(np.asarray(points, np.float64).reshape(1, -1, 2), inverse)[
            0
        ]


def _detector() -> cv2.aruco.ArucoDetector:
    how = cv2.aruco.DetectorParameters()
    how.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    how.cornerRefinementWinSize = 4
    how.minMarkerPerimeterRate = 0.02
    how.adaptiveThreshWinSizeMin, how.adaptiveThreshWinSizeMax, how.adaptiveThreshWinSizeStep = (
        5,
        45,
        10,
    )
    how.errorCorrectionRate = 0.3
    return cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_4X4_50), how)


def find_card(pixels: np.ndarray, scale: float = 1.0, focal: float = USUAL_FOCAL) -> Card | None:
    """The card in a picture (h, w, 3) uint8 sRGB, or None.

    `scale` is this picture's size over the full one's, `focal` the focal length over the longer
    side.
    """
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    found = _markers(grey)
    if not found:
        return _symbol_alone(grey, scale)
    layout, seen = found
    plane, order = _plane(layout, seen)
    if plane is None:
        return _symbol_alone(grey, scale)
    code = _code(grey, layout, plane)
    white = _white(pixels, layout, plane)
    if len(seen) == 1 and code is None and white is None:
        return None  # one marker alone may be a chance likeness among leaves
    corners = _through(
        plane, [(0, 0), (layout.width, 0), (layout.width, layout.height), (0, layout.height)]
    )
    middle = (pixels.shape[1] / 2, pixels.shape[0] / 2)
    local = _local(plane, (layout.width / 2, layout.height / 2), middle)
    s = np.linalg.svd(local, compute_uv=False)
    span = np.ptp(np.vstack(list(seen.values())), axis=0).max()
    reading = CORNER_PX * np.sqrt(2 / order) / span * (1.0 if len(seen) > 1 else 2.0)
    px_per_cm = float(s[0]) * 10 / scale
    far = focal * max(pixels.shape[:2]) / scale / px_per_cm
    back = np.diag([1 / scale, 1 / scale, 1.0]) @ plane @ np.diag([10.0, 10.0, 1.0])
    return Card(
        size=layout.name,
        corners=tuple((float(x) / scale, float(y) / scale) for x, y in corners),
        markers=len(seen),
        code=code,
        px_per_cm=px_per_cm,
        scale_uncertainty=float(np.hypot(reading, STANDING_CM / far)),
        turned_deg=float(np.degrees(np.arccos(np.clip(s[1] / s[0], 0, 1)))),
        # The turn left over when the card's own lean and turn, which stretch but do not rotate, are
        # taken off.
        roll_deg=float(
            np.degrees(np.arctan2(local[1, 0] - local[0, 1], local[0, 0] + local[1, 1]))
        ),
        white=white,
        plane=tuple(triple(row) for row in back),
    )


def _markers(grey) -> tuple[Layout, dict[int, np.ndarray]] | None:
    """The layout most markers belong to, and corner places (4, 2) by marker number (the largest of
    each).
    """
    corners, numbers, _ = _detector().detectMarkers(grey)
    if numbers is None:
        return None
    by: dict[str, tuple[Layout, dict[int, np.ndarray]]] = {}
    for four, number in zip(corners, numbers.ravel(), strict=True):
        layout = layout_of(int(number))
        if layout is None:
            continue
        _, group = by.setdefault(layout.name, (layout, {}))
        four = four[0].astype(np.float64)  # noqa: PLW2901
        if int(number) not in group or cv2.contourArea(four.astype(np.float32)) > cv2.contourArea(
            group[int(number)].astype(np.float32)
        ):
            group[int(number)] = four
    if not by:
        return None
    return max(by.values(), key=lambda found: len(found[1]))


def _ideal(layout: Layout, number: int) -> np.ndarray:
    x, y, side = layout.markers[number]
    return np.array([(x, y), (x + side, y), (x + side, y + side), (x, y + side)])


def _plane(layout: Layout, seen: dict[int, np.ndarray]) -> tuple[np.ndarray | None, int]:
    """Map (3, 3) from mm on the card to pixels, and the number of corners used; markers that do not
    fit are dropped.
    """
    while seen:
        ideal = np.vstack([_ideal(layout, n) for n in seen])
        places = np.vstack(list(seen.values()))
        if len(seen) == 1:
            flat, _ = cv2.estimateAffine2D(ideal, places)
            if flat is None:
                return None, 0
            return np.vstack([flat, [0, 0, 1]]), 4
        plane, _ = cv2.findHomography(ideal, places)
        if plane is None or np.linalg.det(plane[:2, :2]) <= 0:
            worst = next(iter(seen))
        else:
            miss = np.linalg.norm(_through(plane, ideal) - places, axis=1).reshape(-1, 4).max(1)
            side = np.mean([np.linalg.norm(p[0] - p[1]) for p in seen.values()])
            if miss.max() < max(_FIT * side, 1.5):
                return plane, len(places)
            # The marker whose leaving makes the rest agree best is the wrong one.
            worst = list(seen)[int(miss.argmax())]
        del seen[worst]
    return None, 0


def _through(plane, points) -> np.ndarray:
    return cv2.perspectiveTransform(
        np.asarray(points, np.float64).reshape(1, -1, 2), np.asarray(plane)
    )[0]


def _local(plane, at, middle) -> np.ndarray:
    """Upper left (2, 2) of the card's rotation, times its scale in pixels a millimetre at a place
    on it.

    For a pinhole with its principal point in the picture's middle the plane's map is K [r1 r2 t]
    (Hartley & Zisserman 2004, 8.1.1); with the middle as origin its upper rows are the rotation's
    times the focal length, which need not be known.
    """
    centred = np.array([[1.0, 0.0, -middle[0]], [0.0, 1.0, -middle[1]], [0.0, 0.0, 1.0]]) @ plane
    depth = centred[2] @ np.array([*at, 1.0])
    return centred[:2, :2] / depth


def _warped(picture, plane, x, y, w, h, per_mm) -> np.ndarray:
    """A part of the card seen straight on."""
    to = np.array([[per_mm, 0, -x * per_mm], [0, per_mm, -y * per_mm], [0, 0, 1.0]])
    size = (max(1, round(w * per_mm)), max(1, round(h * per_mm)))
    return cv2.warpPerspective(
        picture,
        to @ np.linalg.inv(plane),
        size,
        flags=cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REPLICATE,
    )


def _read(grey) -> str | None:
    for result in zxingcpp.read_barcodes(
        np.ascontiguousarray(grey), formats=zxingcpp.BarcodeFormat.QRCode
    ):
        code = code_of(result.text)
        if code:
            return code
    return None


def _code(grey, layout: Layout, plane) -> str | None:
    x, y, side = layout.qr
    for pixels in (200, 300, 120):
        code = _read(_warped(grey, plane, x - 1, y - 1, side + 2, side + 2, pixels / side))
        if code:
            return code
    return _read(grey)


def _symbol_alone(grey, scale) -> Card | None:
    """No marker shows: the symbol may still say whose piece it is."""
    for result in zxingcpp.read_barcodes(grey, formats=zxingcpp.BarcodeFormat.QRCode):
        code = code_of(result.text)
        if code:
            p = result.position
            corners = tuple(
                (q.x / scale, q.y / scale)
                for q in (p.top_left, p.top_right, p.bottom_right, p.bottom_left)
            )
            return Card("", corners, 0, code, None, 1.0, 0.0, None, None, None)
    return None


def grey_readings(pixels: np.ndarray, layout: Layout, plane) -> list[np.ndarray | None]:
    """Linear RGB (3,) of each grey step, None where it is hidden, clipped or uneven."""
    out: list[np.ndarray | None] = []
    for x, y, w, h in layout.greys:
        patch = _warped(pixels, plane, x + 0.22 * w, y + 0.22 * h, 0.56 * w, 0.56 * h, 3).reshape(
            -1, 3
        )
        level = np.median(patch, axis=0)
        uneven = np.percentile(np.abs(patch - level), 75)
        hidden = level.max() > 251 or level.min() < 3 or uneven > 9
        out.append(None if hidden else linear_from_srgb(patch / 255).mean(0))
    return out


def _white(pixels, layout: Layout, plane) -> White | None:
    printed = PAPER * linear_from_srgb(np.array([grey_value(v) for v in GREY_LIGHTNESS]) / 255)
    pairs = [
        (want, got)
        for want, got in zip(printed, grey_readings(pixels, layout, plane), strict=True)
        if got is not None
    ]
    if len(pairs) < 3:
        return None
    factors = np.array([np.log(want / np.maximum(got, 1e-4)) for want, got in pairs])
    gains = np.median(factors, axis=0)
    good = np.abs(factors - gains).max(1) < 0.25
    if good.sum() < 3:
        return None
    gains, spread = factors[good].mean(0), factors[good].std(0).mean()
    if np.abs(gains).max() > 2.2:
        return None  # more than a stop and a half off in one channel: not our greys
    return White(triple(np.exp(gains)), float(spread), int(good.sum()))
