"""A stand, plinth or pedestal that was taken for part of the container upon it: cut off at the foot
that the keypoints tell.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.scene.parts import Label
from juniper.scene.segment.probabilities import Keypoint


@dataclass(frozen=True)
class StandSettings:
    """When a stand is cut off. Where no source is named: by trial on traced cascades."""

    told: float = 0.5  # share of a keypoint's map at its peak, from which the foot is believed
    clear: float = 0.03  # of the picture's height: how far over its lower edge the foot stands
    room: float = 0.02  # of the container's height: what is left under the foot's nearest point
    flare: float = 1.2  # by how much a wall may widen in a row, each side: more is a stand's top
    from_: float = 0.6  # of the way from rim to base, below which a stand's top may show


STAND = StandSettings()


def without_stand(
    labels: np.ndarray, points: dict[str, Keypoint], settings: StandSettings = STAND
) -> np.ndarray:
    """The labels (h, w) with what stands under the container's foot as table; as they are where the
    keypoints do not tell a foot well above the picture's lower edge.
    """
    base, rim, front = (points[n] for n in ("base", "rim", "foot_front"))
    height = labels.shape[0]
    high = float(base.at[1] - rim.at[1])
    if min(base.mass, rim.mass, front.mass) < settings.told or high < 8:
        return labels
    foot = max(float(base.at[1]), float(front.at[1])) + settings.room * high
    if foot > height * (1 - settings.clear):
        return labels
    wall = labels == Label.CONTAINER
    out = labels.copy()
    rows = np.arange(height)[:, None]
    out[wall & (rows > foot)] = Label.TABLE
    left, right = None, None
    middle = rim.at[0] + (base.at[0] - rim.at[0]) * (np.arange(height) - rim.at[1]) / high
    for y in range(int(rim.at[1] + settings.from_ * high), min(height, int(foot) + 1)):
        own = np.flatnonzero(wall[y])
        if not len(own):
            continue
        if left is not None and right is not None:
            left, right = left - settings.flare, right + settings.flare
            out[y, own[(own < left) | (own > right)]] = Label.TABLE
            own = own[(own >= left) & (own <= right)]
            if not len(own):
                continue
            half = max(middle[y] - own[0], own[-1] - middle[y])
            left, right = middle[y] - half, middle[y] + half
        else:
            half = max(middle[y] - own[0], own[-1] - middle[y])
            left, right = middle[y] - half, middle[y] + half
    return out
