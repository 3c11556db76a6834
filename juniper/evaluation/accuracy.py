"""How near the automatic result comes to the truth of pictures whose truth is known."""

from __future__ import annotations

import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np

from juniper.assessment import Analysis, analyse
from juniper.evaluation.sheet import tile
from juniper.evaluation.truth import Truth, truth_beside
from juniper.photograph import UnusablePhotograph
from juniper.scene import Bloom, CutOut, Label, NothingFound, installed_cutout
from juniper.scene.container.datum import NEEDS_CHECK_BELOW

OFF = 0.08  # relative error of the height ratio from which a datum should be flagged
# of the picture: a bloom of which less is visible cannot be found, and need not be
SLIVER = 0.00025


@dataclass(frozen=True)
class Row:
    """One picture. Lengths are shares of the container's true height, `ratio_error` is relative;
    shares are differences.

    `axis` is how far the rim point lies across from the true one, `ends` how far the worse rim end
    does; `ratio_error` is that of the ratio which the upright picture shows, `own_error` that of
    the piece's own. `masked` is False for pictures with a datum only. `blooms` holds how many are
    truly visible, how many of those were found, how many were called, how many of those are truly
    there. `fault` is the sentence of a picture that could not be measured; its figures count as
    wrong.
    """

    name: str
    backdrop: str
    container: str
    plant_iou: float = 0.0
    container_iou: float = 0.0
    rim: float = 1.0
    base: float = 1.0
    axis: float = 1.0
    ends: float = 1.0
    top: float = 1.0
    ratio_truth: float = 0.0
    ratio: float = 0.0
    ratio_error: float = 1.0
    own_error: float = float("nan")
    left_share: float = float("nan")
    foliage_share: float = float("nan")
    blooms: tuple[int, int, int, int] = (0, 0, 0, 0)
    confidence: float = 0.0
    needs_check: bool = True
    top_error_given: float = 1.0
    seconds: float = 0.0
    fault: str = ""
    masked: bool = True

    @property
    def off(self) -> bool:
        """Whether the height ratio is so far off that a person must be asked."""
        return not abs(self.ratio_error) <= OFF

    @property
    def words(self) -> str:
        """The ratio that was found and the true one, or why none was found."""
        return (
            self.fault
            or f"{self.ratio:.2f} for {self.ratio_truth:.2f} ({self.ratio_error:+.0%}) confidence"
            f" {self.confidence:.2f}{' CHECK' if self.needs_check else ''}"
        )


def iou(a: np.ndarray, b: np.ndarray) -> float:
    """Intersection over union of two masks (h, w); 1 where both are empty (Jaccard 1901)."""
    union = float((a | b).sum())
    return float((a & b).sum()) / union if union else 1.0


def overlap(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    """Intersection over union of two discs given as (x, y, radius)."""
    apart = float(np.hypot(a[0] - b[0], a[1] - b[1]))
    r, s = a[2], b[2]
    if apart >= r + s:
        return 0.0
    if apart <= abs(r - s):
        both = np.pi * min(r, s) ** 2
    else:
        at_r = np.arccos(np.clip((apart**2 + r**2 - s**2) / (2 * apart * r), -1, 1))
        at_s = np.arccos(np.clip((apart**2 + s**2 - r**2) / (2 * apart * s), -1, 1))
        both = r**2 * (at_r - np.sin(2 * at_r) / 2) + s**2 * (at_s - np.sin(2 * at_s) / 2)
    return float(both / (np.pi * (r**2 + s**2) - both))


def bloom_counts(
    found: Sequence[Bloom], truth: Sequence[dict], pixels: int
) -> tuple[int, int, int, int]:
    """(truly visible, of those found, called, of those truly there): a bloom is met by one whose
    disc overlaps it by .3 or whose centre lies inside it; each meets one other at most. Slivers of
    a bloom need not be found, and are no fault when they are.
    """
    discs = [(*b["centre"], b["radius"]) for b in truth]
    called = [(*b.centre, b.radius) for b in found]
    pairs = []
    for i, t in enumerate(discs):
        for j, c in enumerate(called):
            part = overlap(t, c)
            inside = np.hypot(t[0] - c[0], t[1] - c[1]) < t[2]
            if part >= 0.3 or inside:
                pairs.append((part + inside, i, j))
    met, by = set(), set()
    for _, i, j in sorted(pairs, reverse=True):
        if i not in met and j not in by:
            met.add(i)
            by.add(j)
    whole = {i for i, b in enumerate(truth) if b["visible_px"] >= SLIVER * pixels}
    return len(whole), len(met & whole), len(called), len(by)


def compare(
    name: str, data: bytes, truth: Truth, cutout: CutOut | None = None, sized: bool = False
) -> tuple[Row, Analysis | None]:
    """Measure a photograph untouched and hold it against its truth; `sized` tells it the
    container's height, as a brief does. Returns what was measured beside the row, None where
    nothing was.
    """
    began = time.perf_counter()
    try:
        done = analyse(data, cutout=cutout, container_height_cm=truth.height_cm if sized else None)
    except (UnusablePhotograph, NothingFound) as error:
        return (
            Row(
                name,
                truth.backdrop,
                truth.kind,
                ratio_truth=truth.ratio,
                blooms=(len(truth.blooms), 0, 0, 0),
                fault=str(error),
                masked=truth.mask is not None,
            ),
            None,
        )
    spent = time.perf_counter() - began
    if truth.top is None:
        raise ValueError(f"{name}: the truth tells no top of the plant")
    high, up, right = truth.height, truth.up, np.array([-truth.up[1], truth.up[0]])
    datum, found = done.scene.datum, done.measured()
    own, shown = found.measured("height_ratio"), found.measured("height_ratio_image")
    ratio = shown.value if shown is not None else float("nan")
    overlaps, given = (0.0, 0.0), 1.0
    if truth.mask is not None:
        labels = done.raster.labels_at(truth.mask.shape[::-1])
        overlaps = (
            iou(labels == Label.PLANT, truth.mask == Label.PLANT),
            iou(labels == Label.CONTAINER, truth.mask == Label.CONTAINER),
        )
        ys, xs = np.nonzero(labels == Label.PLANT)
        tops = (np.column_stack([xs, ys]) + 0.5 - truth.rim) @ up
        given = (
            float(tops.max() / (np.subtract(truth.top, truth.rim) @ up) - 1) if len(tops) else 1.0
        )
    share, foliage = found.measured("left_area_share"), found.measured("foliage_share")
    ends = [
        np.subtract(a, b) @ right
        for a, b in ((datum.rim_left, truth.rim_left), (datum.rim_right, truth.rim_right))
    ]
    return (
        Row(
            name=name,
            backdrop=truth.backdrop,
            container=truth.kind,
            plant_iou=overlaps[0],
            container_iou=overlaps[1],
            rim=float(np.subtract(datum.rim, truth.rim) @ up) / high,
            base=float(np.subtract(datum.base, truth.base) @ up) / high,
            axis=float(np.subtract(datum.rim, truth.rim) @ right) / high,
            ends=float(np.abs(ends).max()) / high,
            top=float(np.subtract(found.top, truth.top) @ up) / high,
            ratio_truth=truth.ratio,
            ratio=ratio,
            ratio_error=ratio / truth.ratio - 1,
            own_error=(
                own.value / truth.own_ratio - 1
                if own is not None and truth.own_ratio
                else float("nan")
            ),
            left_share=(
                share.value - truth.left_share
                if share is not None and truth.left_share is not None
                else float("nan")
            ),
            foliage_share=(
                foliage.value - truth.foliage_share
                if foliage is not None and truth.foliage_share is not None
                else float("nan")
            ),
            blooms=(
                bloom_counts(done.scene.blooms, truth.blooms, truth.mask.size)
                if truth.mask is not None
                else (0, 0, 0, 0)
            ),
            confidence=datum.confidence,
            needs_check=datum.needs_check,
            top_error_given=given,
            seconds=spent,
            masked=truth.mask is not None,
        ),
        done,
    )


def pictures(folder: Path, like: str = "*") -> list[Path]:
    """The photographs of a folder that have NAME.json beside NAME.jpg. Raises ValueError when there
    are none.
    """
    found = [p for p in sorted(folder.glob(f"{like}.jpg")) if p.with_suffix(".json").exists()]
    if not found:
        raise ValueError(f"No picture in {folder} has its NAME.json beside NAME.jpg.")
    return found


def held_against_truth(
    path: Path, second: bool = False, sized: bool = False, drawn: bool = False
) -> tuple[Row, np.ndarray | None]:
    """The row of one photograph of a folder, seen by the default engine or with the `second` one,
    its container's height told or not; and, where it is to be `drawn`, a tile of the contact sheet.
    """
    truth = truth_beside(path)
    data = path.read_bytes()
    row, done = compare(path.stem, data, truth, installed_cutout() if second else None, sized)
    return row, tile(data, (row.name, row.words), done, truth) if drawn else None


@dataclass(frozen=True)
class Band:
    """Pictures whose datum was believed between two degrees: how many, how many of them were off,
    and their median error.
    """

    low: float
    high: float
    pictures: int
    off: int
    error: float


def calibration(
    rows: Iterable[Row], edges: Sequence[float] = (0.0, 0.2, 0.4, NEEDS_CHECK_BELOW, 0.8, 1.0)
) -> list[Band]:
    """How often the height ratio is off, by the confidence it was given; confidence means something
    when that share falls as it rises.
    """
    out = []
    for low, high in pairwise(edges):
        here = [
            r
            for r in rows
            if low <= r.confidence < high or (high == edges[-1] and r.confidence == high)
        ]
        error = float(np.median([abs(r.ratio_error) for r in here])) if here else 0.0
        out.append(Band(low, high, len(here), sum(r.off for r in here), round(error, 4)))
    return out


def summary(rows: Iterable[Row]) -> dict[str, float | None]:
    """Medians, percentiles and counts over pictures; see the keys. What no picture's truth tells is
    None.
    """
    rows = list(rows)
    masked = [r for r in rows if r.masked]

    def of(values: Iterable[float], percent: float) -> float | None:
        known = np.array([v for v in values if np.isfinite(v)], float)
        return round(float(np.percentile(np.abs(known), percent)), 4) if len(known) else None

    true, met, called, right = (sum(r.blooms[i] for r in rows) for i in range(4))
    off, fine = [r for r in rows if r.off], [r for r in rows if not r.off]
    # A ratio that was not measured is wrong altogether.
    ratio = [r.ratio_error if np.isfinite(r.ratio_error) else 1.0 for r in rows]
    return {
        "pictures": len(rows),
        "plant_iou_median": of([r.plant_iou for r in masked], 50),
        "plant_iou_p10": of([r.plant_iou for r in masked], 10),
        "container_iou_median": of([r.container_iou for r in masked], 50),
        "container_iou_p10": of([r.container_iou for r in masked], 10),
        "rim_median": of([r.rim for r in rows], 50),
        "base_median": of([r.base for r in rows], 50),
        "base_p90": of([r.base for r in rows], 90),
        "axis_median": of([r.axis for r in rows], 50),
        "ends_median": of([r.ends for r in rows], 50),
        "top_median": of([r.top for r in rows], 50),
        "top_given_median": of([r.top_error_given for r in masked], 50),
        "height_ratio_median": of(ratio, 50),
        "height_ratio_p90": of(ratio, 90),
        "own_ratio_median": of([r.own_error for r in rows], 50),
        "own_ratio_p90": of([r.own_error for r in rows], 90),
        "within_8_percent": len(fine),
        "left_share_median": of([r.left_share for r in rows], 50),
        "foliage_share_median": of([r.foliage_share for r in rows], 50),
        "bloom_recall": round(met / true, 4) if true else None,
        "bloom_precision": round(right / called, 4) if called else None,
        "off": len(off),
        "off_flagged": sum(r.needs_check for r in off),
        "fine": len(fine),
        "fine_flagged": sum(r.needs_check for r in fine),
        "seconds_median": of([r.seconds for r in rows], 50),
    }
