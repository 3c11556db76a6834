"""Stages of one piece laid over one another by its container, and what each addition changed."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from juniper.measures.catalogue import DEFINITIONS
from juniper.measures.finding import Measured
from juniper.measures.measuring import Findings
from juniper.scene.container.datum import Datum
from juniper.scene.parts import Label
from juniper.scene.scene import Raster

# what an addition is told to have changed, in this order
CHANGED = (
    "height_ratio",
    "width_ratio",
    "left_weight_share",
    "weight_height",
    "rim_cover",
    "outline_fill",
    "largest_gap",
    "foliage_share",
    "flower_colours",
)


@dataclass(frozen=True)
class StageSettings:
    """How stages are laid over one another, and when they cannot be what they are said to be."""

    # of the container's height: how far the fit is looked for about the datum's own, in steps
    search: tuple[float, ...] = (0.03, 0.015, 0.0075)
    cells: int = 220  # of the container's height, in which walls are compared
    # common over joint area of plant and of petals, from which two stages are one picture twice
    same: float = 0.92
    same_petals: float = 0.8
    less: float = 0.88  # of the plant before: a later stage that shows less comes too early
    # of the two's joint uncertainty: what two pictures of one piece differ by, since vessel, light
    # and camera are the same (from memory); and how many of that make a change a sure one
    shared: float = 0.35
    sure: float = 2.0


STAGING = StageSettings()


@dataclass(frozen=True)
class StageChange:
    """What an addition changed in one measure: its title, before and after, and whether that is
    more than the two are uncertain by.
    """

    measure: str
    title: str
    unit: str
    before: float
    after: float
    sure: bool

    @property
    def by(self) -> float:
        """After less before."""
        return self.after - self.before


def changes_between(
    before: Findings, after: Findings, settings: StageSettings = STAGING
) -> tuple[StageChange, ...]:
    """What changed from one stage to the next, of CHANGED; measures that one of them lacks are left
    out.
    """
    out = []
    for name in CHANGED:
        a, b = before.by_name.get(name), after.by_name.get(name)
        if not isinstance(a, Measured) or not isinstance(b, Measured):
            continue
        unsure = settings.shared * float(np.hypot(a.uncertainty, b.uncertainty))
        d = DEFINITIONS[name]
        changed = abs(b.value - a.value) > settings.sure * unsure
        out.append(StageChange(name, d.title, d.unit, a.value, b.value, changed))
    return tuple(out)


def by_datum(first: Datum, second: Datum) -> np.ndarray:
    """The similarity (2, 3) that lays the first datum's base and rim on the second's."""
    a, b = (np.subtract(d.rim, d.base) for d in (first, second))
    ratio = complex(b[0], b[1]) / complex(a[0], a[1])
    turn = np.array([[ratio.real, -ratio.imag], [ratio.imag, ratio.real]])
    return np.column_stack([turn, np.array(second.base) - turn @ np.array(first.base)])


def laid_over(
    first: tuple[Raster, Datum], second: tuple[Raster, Datum], settings: StageSettings = STAGING
) -> np.ndarray:
    """The similarity (2, 3) from the pixels of one photograph to those of another of the same piece
    at another stage (each its raster and datum, photograph pixels): by the two data, then moved and
    scaled a little to where the walls that both show lie best on one another.
    """
    start = by_datum(first[1], second[1])
    (one, _), (two, b) = first, second
    high = b.height
    grid = settings.cells / high
    width = max(8, round(2.2 * max(b.rim_width, high) * grid))
    tall = round(1.5 * settings.cells)
    origin = np.array(b.base) - np.array([width / 2, 1.3 * settings.cells]) / grid

    def drawn(raster: Raster, lay: np.ndarray, label: int) -> np.ndarray:
        """A label of a raster on the grid, `lay` from its photograph to the second one."""
        whole = lay.copy()
        whole[:, 2] -= origin
        whole = grid * whole
        whole[:, :2] /= raster.scale
        return cv2.warpAffine(
            (raster.labels == label).astype(np.uint8), whole, (width, tall), flags=cv2.INTER_NEAREST
        )

    plain = np.array([[1.0, 0, 0], [0, 1, 0]])
    wall = drawn(two, plain, Label.CONTAINER)
    covered = drawn(two, plain, Label.PLANT)

    def fits(lay: np.ndarray) -> float:
        own, over = drawn(one, lay, Label.CONTAINER), drawn(one, lay, Label.PLANT)
        free = ((covered | over) == 0).astype(np.uint8)  # where neither has plant before it
        joint = float((own | wall)[free > 0].sum())
        return float((own & wall)[free > 0].sum()) / joint if joint else 0.0

    best, value = start, fits(start)
    centre = np.array(b.base) + 0.5 * (np.array(b.rim) - np.array(b.base))
    for step in settings.search:
        moved = True
        while moved:
            moved = False
            for dx, dy, by in (step * np.vstack([np.eye(3), -np.eye(3)])).tolist():
                tried = best.copy()
                tried[:, :2] *= 1 + by
                tried[:, 2] = (1 + by) * (best[:, 2] - centre) + centre + high * np.array([dx, dy])
                now = fits(tried)
                if now > value + 1e-4:
                    best, value, moved = tried, now, True
    return best


@dataclass(frozen=True, eq=False)
class Overlaid:
    """What two stages show, on one grid (bool h x w each): plant and petals before and after."""

    plant_before: np.ndarray
    plant_after: np.ndarray
    petals_before: np.ndarray
    petals_after: np.ndarray


def overlaid(first: Raster, second: Raster, lay: np.ndarray) -> Overlaid:
    """Two stages on the second's raster, `lay` (2, 3) from the first photograph to the second."""
    whole = lay.copy()
    whole[:, :2] *= second.scale / first.scale
    whole[:, 2] *= second.scale
    size = second.labels.shape[::-1]

    def laid(mask: np.ndarray) -> np.ndarray:
        return cv2.warpAffine(mask.astype(np.uint8), whole, size, flags=cv2.INTER_NEAREST) > 0

    return Overlaid(
        laid(first.labels == Label.PLANT),
        second.labels == Label.PLANT,
        laid(first.flowers > 0),
        second.flowers > 0,
    )


def doubt_of_order(both: Overlaid, settings: StageSettings = STAGING) -> str:
    """Whether two stages were photographed as they should be.

    Parameters:
        both: plant and petals of two stages in the later picture's pixels.
        settings: shares at which two stages count as the same, or the later as less.

    Returns 'twice' where both show the same plant and petals, 'order' where the later shows plainly
    less plant than the one before, '' where neither is so.
    """
    before, after = both.plant_before, both.plant_after
    if not (before | after).any():
        return ""
    if (
        _alike(before, after) >= settings.same
        and _alike(both.petals_before, both.petals_after) >= settings.same_petals
    ):
        return "twice"
    return "order" if after.sum() < settings.less * before.sum() else ""


def _alike(a: np.ndarray, b: np.ndarray) -> float:
    """Common over joint area of two masks; 1 where both are empty."""
    joint = float((a | b).sum())
    return float((a & b).sum()) / joint if joint else 1.0
