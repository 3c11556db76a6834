"""Petal, leaf and wall told apart by shape as well as colour, and each petal led to the middle of
its bloom.

A small convolutional network of our own (a U-Net; Ronneberger, Fischer & Brox 2015). For each pixel
of a grid it gives what is seen there, how likely it is a bloom's middle, and the step to the middle
of the bloom it belongs to (as in Cheng et al. 2020). It was taught on pieces invented for it whose
truth is known (bin/teach), never on a photograph of a student's.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from functools import cache, cached_property
from pathlib import Path
from threading import Lock

import cv2
import numpy as np

from juniper.scene.segment.engine import NoEngine, loaded

WEIGHTS = Path(__file__).with_name("petals.onnx")
LONG = 576  # pixels: the longer side of what is looked at
ROOM = 0.03  # of the piece's longer side, left about it
# parts of the picture's longer side to which the frame is widened, so that a stroke of the brush
# seldom moves it
EVEN = 16
BLOCK = 32  # sides that the network takes are multiples of this
STRIDE = 2  # pixels looked at to one of the grid
STEP = 16.0  # of the grid, to which steps are given
MEAN, DEVIATION = 0.5, 0.25  # of the values 0..1 as they were taught
GROUND, TABLE, WALL, LEAF, PETAL, OTHER = range(6)
KEPT = 4  # looks kept: of the piece at hand, before and after a stroke, and of the next one


@dataclass(frozen=True, eq=False)
class PetalProbabilities:
    """What was seen on a grid (h, w) within a picture: `parts` float32 (6, h, w), how likely each
    pixel is GROUND .. OTHER; `middle` (h, w), how likely it is a bloom's middle; `toward` (2, h,
    w), the step in columns and rows of the grid to the middle of its bloom.

    Column j of the grid lies at (j + .5) * `pitch` + `left` of the picture, rows likewise from
    `top`.
    """

    parts: np.ndarray
    middle: np.ndarray
    toward: np.ndarray
    left: float
    top: float
    pitch: float

    @cached_property
    def _laid(self) -> dict:
        return {}

    def likeness(self, shape: tuple[int, int], *parts: int) -> np.ndarray:
        """How likely each pixel of a picture of `shape` (h, w) is one of `parts`, float32; kept,
        and not to be written to.
        """
        if (shape, parts) not in self._laid:
            plane = self.parts[parts[0]] if len(parts) == 1 else self.parts[list(parts)].sum(axis=0)
            laid = self.onto(plane, shape)
            laid.flags.writeable = False
            self._laid[shape, parts] = laid
        return self._laid[shape, parts]

    def onto(
        self, plane: np.ndarray, shape: tuple[int, int], how: int = cv2.INTER_LINEAR
    ) -> np.ndarray:
        """A plane (h, w) of the grid laid on a picture of `shape` (rows, columns); 0 beyond the
        grid.
        """
        p = self.pitch
        # Middles of pixels: (x + .5 - left) / pitch - .5
        lay = np.array(
            [[1 / p, 0, (0.5 - self.left) / p - 0.5], [0, 1 / p, (0.5 - self.top) / p - 0.5]]
        )
        return cv2.warpAffine(
            plane,
            lay,
            shape[::-1],
            flags=how | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_CONSTANT,
        )


_looks: OrderedDict = OrderedDict()
_lock = Lock()


@cache
def _second_runner():
    return cv2.dnn.readNetFromONNX(str(WEIGHTS))


def _run(picture: np.ndarray) -> np.ndarray:
    """What the network says of a picture (1, 3, h, w): by OpenVINO, seven times as quick as OpenCV,
    which runs it where OpenVINO cannot. Where neither can, nothing is said: every part is as likely
    as the next.
    """
    try:
        return loaded(WEIGHTS).run(picture)[0][0]
    except NoEngine:
        pass
    try:
        network = _second_runner()
        network.setInput(picture)
        return network.forward()[0]
    except cv2.error:
        return np.zeros((9, picture.shape[2] // STRIDE, picture.shape[3] // STRIDE), np.float32)


def frame_of(mask: np.ndarray) -> tuple[int, int, int, int]:
    """Frame (left, top, right, bottom) in which a piece (bool h x w) is looked at: about it,
    widened to even steps.
    """
    left, top, wide, high = cv2.boundingRect(mask.astype(np.uint8))
    room, even = round(ROOM * max(wide, high)), max(1, max(mask.shape) // EVEN)
    right, bottom = left + wide + room, top + high + room
    left, top = max(0, left - room) // even * even, max(0, top - room) // even * even
    return (
        left,
        top,
        min(mask.shape[1], -(-right // even) * even),
        min(mask.shape[0], -(-bottom // even) * even),
    )


def petal_probabilities(pixels: np.ndarray, frame: tuple[int, int, int, int]) -> PetalProbabilities:
    """Look at a frame of an sRGB picture (uint8 h x w x 3). The last few looks are kept, since a
    correction looks at the same again.
    """
    left, top, right, bottom = frame
    part = pixels[top:bottom, left:right]
    key = (hash(part.tobytes()), frame, pixels.shape)
    with _lock:
        if key in _looks:
            _looks.move_to_end(key)
            return _looks[key]
        look = _looked(part, left, top)
        _looks[key] = look
        while len(_looks) > KEPT:
            _looks.popitem(last=False)
        return look


def forget() -> None:
    """Forget the looks that are kept, as before a picture never seen."""
    with _lock:
        _looks.clear()


def _looked(part: np.ndarray, left: int, top: int) -> PetalProbabilities:
    scale = LONG / max(part.shape[:2])
    high, wide = (max(BLOCK, round(n * scale)) for n in part.shape[:2])
    small = cv2.resize(
        part, (wide, high), interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    )
    small = cv2.copyMakeBorder(small, 0, -high % BLOCK, 0, -wide % BLOCK, cv2.BORDER_REPLICATE)
    picture = np.ascontiguousarray(
        ((small.astype(np.float32) / 255 - MEAN) / DEVIATION).transpose(2, 0, 1)[None]
    )
    out = _run(picture)[:, : -(-high // STRIDE), : -(-wide // STRIDE)]
    parts = np.exp(out[:6] - out[:6].max(axis=0))
    return PetalProbabilities(
        parts / parts.sum(axis=0),
        1 / (1 + np.exp(-out[6])),
        out[7:] * STEP,
        left,
        top,
        STRIDE / scale,
    )
