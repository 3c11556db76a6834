"""What makes a picture one that cannot be used, in a sentence: no piece, two pieces, a container
cut off, or a view from above.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.container.datum import Datum
from juniper.scene.parts import Label, Part
from juniper.scene.segment.probabilities import PartProbabilities

NO_PIECE = (
    "No flowers or foliage in a container were found. Take the picture so that the whole piece"
    " shows, before a plain wall if there is one."
)
NO_CONTAINER = (
    "No container was found. Take the picture so that the whole container shows, or show the"
    " container by hand."
)
CUT_OFF = (
    "The container is cut off by the edge of the picture. Step back so that all of it shows, and"
    " take it again."
)
FROM_ABOVE = (
    "The picture was taken from above: the rim opens to over a third of its width, and heights"
    " cannot be read. Hold the phone level with the rim, and take it again."
)
SEVERAL = (
    "More than one piece stands in this picture. Photograph them one by one, or draw over the"
    " container of the one that you mean."
)


@dataclass(frozen=True)
class UsableSettings:
    """When a picture cannot be used."""

    least: float = 0.002  # of the picture: plant of less is no piece
    # of container and plant, from which a pixel counts when pieces are told apart
    likeness: float = 0.5
    # of the chief piece: a second one has at least this much container and plant
    as_large: float = 0.2
    # of the chief piece's longer side: how far apart pieces stand that are no composition
    apart: float = 0.25
    cut: float = 0.4  # of the container's foot that lies on the picture's edge where it is cut off
    plain: float = 0.5  # share of a keypoint's map at its peak, from which its place is told
    open: float = 1 / 3  # of the rim's width: how far it opens in a picture from above


USABLE = UsableSettings()


def pieces_apart(look: PartProbabilities, settings: UsableSettings = USABLE) -> int:
    """How many pieces, each a container with plant in it, stand clearly apart in a picture."""
    standing = (look.piece > settings.likeness).astype(np.uint8)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(standing, connectivity=8)
    kinds = look.likely.argmax(0)
    sizes = [
        np.bincount(parts[np.isin(kinds, kind)], minlength=count).astype(float)
        for kind in ((Part.CONTAINER,), (Part.LEAF, Part.PETAL))
    ]
    for size in sizes:
        size[0] = 0
    both = np.minimum(*sizes)
    if count < 3 or both.max() <= 0:
        return int(count > 1)
    chief = int(both.argmax())
    x, y, wide, high = stats[chief, :4]
    reach = settings.apart * max(wide, high)
    found = 1
    for k in range(1, count):
        if k == chief or any(size[k] < settings.as_large * size[chief] for size in sizes):
            continue
        left, top, broad, tall = stats[k, :4]
        gap = max(left - (x + wide), x - (left + broad), top - (y + high), y - (top + tall))
        found += int(gap > reach)
    return found


def cut_off(labels: np.ndarray, settings: UsableSettings = USABLE) -> bool:
    """Whether the container of a label raster (h, w) runs off the lower edge or a side."""
    wall = labels == Label.CONTAINER
    columns, rows = int(wall.any(axis=0).sum()), int(wall.any(axis=1).sum())
    below = int(wall[-2:].any(axis=0).sum())
    aside = max(int(wall[:, edge].any(axis=1).sum()) for edge in (slice(0, 2), slice(-2, None)))
    return below > settings.cut * columns or aside > settings.cut * rows


def from_above(datum: Datum, look: PartProbabilities, settings: UsableSettings = USABLE) -> bool:
    """Whether the rim of a container plainly opens so far that it was looked into from above; where
    the rim can hardly be told, nothing is said of it.
    """
    if (
        min(look.points[n].mass for n in ("rim", "rim_front", "rim_left", "rim_right"))
        < settings.plain
    ):
        return False
    front = look.points["rim_front"]
    drop = float((np.array(look.points["rim"].at) - front.at) @ datum.up)
    spread = float(np.sqrt(datum.up @ front.covariance @ datum.up))
    return drop - spread > settings.open * datum.rim_width / 2
