"""A picture segmented: which pixels are plant, container, table or backdrop; by the parts network,
or without it by flat ground and mirrored sides.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.scene.container.profile import Profile
from juniper.scene.parts import Label, Part
from juniper.scene.segment.classical import separate
from juniper.scene.segment.engine import NoEngine
from juniper.scene.segment.outline import GROUND, PLANT, VESSEL, outlined
from juniper.scene.segment.probabilities import PartProbabilities, part_probabilities

NETWORK, JOINED, CLASSICAL = "network", "network with foreground", "classical"  # engines


@dataclass(frozen=True)
class Cleanup:
    """Which patches belong to the piece."""

    near: float = 0.05  # of the piece's longer side: patches no further from the rest belong to it
    speck: float = 2e-5  # of the picture: a patch of less is noise
    other: float = 0.1  # of the chief patch: one further off that holds less is none of the piece


CLEANUP = Cleanup()


@dataclass(frozen=True, eq=False)
class Segmentation:
    """`labels` uint8 (h, w) of Label; `look` what the network saw, None where it did not run, and
    `fault` then says why; `profile` the sides that the classical engine followed; `engine` one of
    NETWORK, JOINED and CLASSICAL; `clarity` 0..1, how plainly the plant stands out.
    """

    labels: np.ndarray
    look: PartProbabilities | None
    profile: Profile | None
    engine: str
    clarity: float
    fault: str = ""


def segment(
    pixels: np.ndarray,
    lab: np.ndarray,
    foreground: np.ndarray | None = None,
    click: tuple[float, float] | None = None,
    several: bool = False,
) -> Segmentation:
    """Segment a picture given as sRGB (uint8 h x w x 3) and CIELAB (float32); `foreground` (h, w)
    is a general network's map, `click` a place on the container. Of a composition of `several`
    vessels all that stands belongs to the piece.
    """
    try:
        look = part_probabilities(pixels, foreground, click)
    except NoEngine as error:
        parts = separate(lab)
        return Segmentation(
            parts.labels, None, parts.profile, CLASSICAL, parts.plant_confidence, str(error)
        )
    kinds = outlined(look.likely, lab)
    labels = np.where(
        look.likely[Part.SUPPORT] > look.likely[Part.NOT_PIECE], Label.TABLE, Label.BACKDROP
    ).astype(np.uint8)
    which = kinds.argmax(0)
    standing = which != GROUND
    kept = without_specks(standing) if several else of_the_piece(standing, which == VESSEL)
    labels[kept & (which == VESSEL)] = Label.CONTAINER
    labels[kept & (which == PLANT)] = Label.PLANT
    return Segmentation(
        labels, look, None, NETWORK if foreground is None else JOINED, look.agreement
    )


def without_specks(standing: np.ndarray, settings: Cleanup = CLEANUP) -> np.ndarray:
    """All that stands (bool h x w) but for patches that are noise."""
    _, patches, stats, _ = cv2.connectedComponentsWithStats(
        standing.astype(np.uint8), connectivity=8
    )
    large = stats[:, cv2.CC_STAT_AREA] >= settings.speck * standing.size
    return large[patches] & standing


def chief_patch(mask: np.ndarray) -> np.ndarray:
    """The largest part of a mask (bool h x w), with what nearly touches it."""
    reach = max(3, round(0.01 * max(mask.shape))) | 1
    near = cv2.dilate(mask.astype(np.uint8), np.ones((reach, reach), np.uint8))
    count, parts, _, _ = cv2.connectedComponentsWithStats(near, connectivity=8)
    if count < 2:
        return mask
    held = np.bincount(parts[mask], minlength=count)
    held[0] = 0
    return mask & (parts == int(held.argmax()))


def of_the_piece(
    standing: np.ndarray, vessel: np.ndarray, settings: Cleanup = CLEANUP
) -> np.ndarray:
    """What of all that stands (bool h x w) belongs to the piece: the chief patch, the one with most
    `vessel` in it, what is near it, and what is large.
    """
    count, patches, stats, _ = cv2.connectedComponentsWithStats(
        standing.astype(np.uint8), connectivity=8
    )
    if count < 2:
        return standing
    size = stats[:, cv2.CC_STAT_AREA].astype(float)
    size[0] = 0
    held = np.bincount(patches[vessel], minlength=count).astype(float)
    held[0] = 0
    chief = int((held * size).argmax()) if held.any() else int(size.argmax())
    _x, _y, wide, high = (int(v) for v in stats[chief, :4])
    reach = max(2, round(settings.near * max(wide, high)))
    kept = {chief}
    # Patches are joined one to the next, as the florets of an airy tip are.
    near = cv2.dilate(standing.astype(np.uint8), np.ones((reach, reach), np.uint8))
    _, clusters = cv2.connectedComponents(near, connectivity=8)
    cluster_of = np.zeros(count, int)
    ys, xs = np.nonzero(standing)
    cluster_of[patches[ys, xs]] = clusters[ys, xs]
    for k in range(1, count):
        if size[k] < settings.speck * standing.size:
            continue
        if cluster_of[k] == cluster_of[chief] or size[k] > settings.other * size[chief]:
            kept.add(k)
    return np.isin(patches, list(kept))
