"""Pictures of files, for the drawing of lessons."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np


def picture_at(path: Path, how: int = cv2.IMREAD_COLOR) -> np.ndarray:
    """The picture of a file as cv2.imread gives it. Raises ValueError where there is none."""
    picture = cv2.imread(str(path), how)
    if picture is None:
        raise ValueError(f"{path} holds no picture")
    return picture
