"""What the bench shows of a photograph at first: the piece with its card, as large as it goes."""

from __future__ import annotations

import numpy as np

from heath.assessment.models import Photograph
from juniper.scene import Datum

Frame = tuple[float, float, float, float]
# of the larger side of piece and card together: room for the measuring lines and their words
ROOM = 0.09


def framed(photograph: Photograph, outline: np.ndarray, datum: Datum) -> Frame:
    """The part of a photograph that shows its piece.

    Args:
        photograph: whose size and card are known.
        outline: the plant's outline (n, 2), in its pixels.
        datum: the container's handles.

    Returns:
        Left, top, width and height in the photograph's pixels, held inside it.
    """
    points = [np.asarray(outline, float).reshape(-1, 2), _container(datum)]
    corners = (photograph.card or {}).get("corners")
    if corners:
        points.append(np.asarray(corners, float).reshape(-1, 2))
    every = np.vstack(points)
    low, high = every.min(axis=0), every.max(axis=0)
    room = ROOM * float((high - low).max())
    size = np.array([photograph.width, photograph.height], float)
    low, high = np.maximum(low - room, 0.0), np.minimum(high + room, size)
    (left, top), (wide, tall) = low, np.maximum(high - low, 1.0)
    return float(left), float(top), float(wide), float(tall)


def _container(datum: Datum) -> np.ndarray:
    """The corners of the container (4, 2): the ends of its rim, and those carried to its foot."""
    ends = np.array([datum.rim_left, datum.rim_right], float)
    return np.vstack([ends, ends + (np.asarray(datum.base) - np.asarray(datum.rim))])
