"""How near the automatic result comes to the truth of pictures whose truth is known."""

from __future__ import annotations

import json
import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
from PIL import Image

from juniper.marking import measure_photograph
from juniper.photograph import UnusablePhotograph
from juniper.scene import Bloom, CutOut, NothingFound, installed_cutout
from juniper.scene.datum import NEEDS_CHECK_BELOW
from juniper.scene.separation import CONTAINER, PLANT

OFF = 0.08  # relative error of the height ratio from which a datum should be flagged
SLIVER = 0.00025  # of the picture: a bloom of which less is visible cannot be found, and need not be


@dataclass(frozen=True)
class Row:
    """One picture. Lengths are shares of the container's true height, `ratio_error` is relative; shares are differences.

    `blooms` holds how many are truly visible, how many of those were found, how many were called, how many of those are
    truly there. `fault` is the sentence of a picture that could not be measured; its figures count as wrong.
    """

    name: str
    backdrop: str
    container: str
    plant_iou: float = 0.0
    container_iou: float = 0.0
    rim: float = 1.0
    base: float = 1.0
    top: float = 1.0
    ratio_truth: float = 0.0
    ratio: float = 0.0
    ratio_error: float = 1.0
    left_share: float = 1.0
    foliage_share: float = 1.0
    blooms: tuple[int, int, int, int] = (0, 0, 0, 0)
    confidence: float = 0.0
    needs_check: bool = True
    top_error_given: float = 1.0
    seconds: float = 0.0
    fault: str = ""

    @property
    def off(self) -> bool:
        """Whether the height ratio is so far off that a person must be asked."""
        return not abs(self.ratio_error) <= OFF


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


def bloom_counts(found: Sequence[Bloom], truth: Sequence[dict], pixels: int) -> tuple[int, int, int, int]:
    """(truly visible, of those found, called, of those truly there): a bloom is met by one whose disc overlaps it by .3 or whose
    centre lies inside it; each meets one other at most. Slivers of a bloom need not be found, and are no fault when they are."""
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


def compare(name: str, data: bytes, truth: dict, mask: np.ndarray, cutout: CutOut | None = None, sized: bool = False) -> Row:
    """Measure a photograph untouched and hold it against its truth and label mask (h, w) (0 backdrop, 1 table, 2 container, 3 plant, 4 other);
    `sized` tells it the container's height, as a brief does."""
    container, backdrop = truth["container"].get("kind", ""), str(truth.get("backdrop", ""))
    wanted = truth["findings"]
    began = time.perf_counter()
    try:
        done = measure_photograph(data, cutout=cutout, container_height_cm=truth["container"]["height_cm"] if sized else None)
    except (UnusablePhotograph, NothingFound) as error:
        return Row(
            name,
            backdrop,
            container,
            ratio_truth=wanted["height_ratio"],
            blooms=(len(truth["blooms"]), 0, 0, 0),
            fault=str(error),
        )
    spent = time.perf_counter() - began
    labels = done.raster.labels_at(mask.shape[::-1])
    c = truth["container"]
    rim, base = np.array(c["rim"]), np.array(c["base"])
    high = float(np.linalg.norm(rim - base))
    up = (rim - base) / high
    datum = done.scene.datum
    height_ratio = done.findings["height_ratio"]
    ratio = float(height_ratio.value) if height_ratio.measured else float("nan")
    ys, xs = np.nonzero(labels == PLANT)
    points = np.column_stack([xs, ys]) + 0.5 - rim
    tops = points @ up
    true_top = (np.array(truth["plant"]["top"]) - rim) @ up
    share, foliage = done.findings["left_area_share"], done.findings["foliage_share"]
    return Row(
        name=name,
        backdrop=backdrop,
        container=container,
        plant_iou=iou(labels == PLANT, mask == PLANT),
        container_iou=iou(labels == CONTAINER, mask == CONTAINER),
        rim=float((np.array(datum.rim) - rim) @ up) / high,
        base=float((np.array(datum.base) - base) @ up) / high,
        top=float((np.array(done.findings.top) - truth["plant"]["top"]) @ up) / high,
        ratio_truth=wanted["height_ratio"],
        ratio=ratio,
        ratio_error=ratio / wanted["height_ratio"] - 1,
        left_share=float(share.value) - wanted["left_area_share"] if share.measured else 1.0,
        foliage_share=float(foliage.value - wanted["foliage_share"]) if foliage.measured else 1.0,
        blooms=bloom_counts(done.scene.blooms, truth["blooms"], mask.size),
        confidence=datum.confidence,
        needs_check=datum.needs_check,
        top_error_given=float(tops.max() / true_top - 1) if len(tops) else 1.0,
        seconds=spent,
    )


def pictures(folder: Path, like: str = "*") -> list[Path]:
    """The photographs of a folder that have NAME.json and NAME.mask.png beside NAME.jpg. Raises ValueError when there are none."""
    found = [p for p in sorted(folder.glob(f"{like}.jpg")) if p.with_suffix(".json").exists() and _mask(p).exists()]
    if not found:
        raise ValueError(f"No picture in {folder} has its NAME.json and NAME.mask.png beside NAME.jpg.")
    return found


def _mask(path: Path) -> Path:
    return path.with_suffix(".mask.png")


def held_against_truth(path: Path, second: bool = False, sized: bool = False) -> Row:
    """The row of one photograph of a folder, seen by the default engine or with the `second` one, its container's height told or not."""
    truth, mask = json.loads(path.with_suffix(".json").read_text()), np.asarray(Image.open(_mask(path)))
    return compare(path.stem, path.read_bytes(), truth, mask, installed_cutout() if second else None, sized)


@dataclass(frozen=True)
class Band:
    """Pictures whose datum was believed between two degrees: how many, how many of them were off, and their median error."""

    low: float
    high: float
    pictures: int
    off: int
    error: float


def calibration(rows: Iterable[Row], edges: Sequence[float] = (0.0, 0.2, 0.4, NEEDS_CHECK_BELOW, 0.8, 1.0)) -> list[Band]:
    """How often the height ratio is off, by the confidence it was given; confidence means something when that share falls as it rises."""
    out = []
    for low, high in pairwise(edges):
        here = [r for r in rows if low <= r.confidence < high or (high == edges[-1] and r.confidence == high)]
        error = float(np.median([abs(r.ratio_error) for r in here])) if here else 0.0
        out.append(Band(low, high, len(here), sum(r.off for r in here), round(error, 4)))
    return out


def summary(rows: Iterable[Row]) -> dict[str, float]:
    """Medians, percentiles and counts over pictures; see the keys."""
    rows = list(rows)

    def of(values, *percentiles):
        values = np.nan_to_num(np.array(values, float), nan=1.0)
        return [round(float(np.percentile(values, p)), 4) for p in percentiles]

    true, met, called, right = (sum(r.blooms[i] for r in rows) for i in range(4))
    off, fine = [r for r in rows if r.off], [r for r in rows if not r.off]
    plant, ratio = [r.plant_iou for r in rows], [abs(r.ratio_error) for r in rows]
    return {
        "pictures": len(rows),
        "plant_iou_median": of(plant, 50)[0],
        "plant_iou_p10": of(plant, 10)[0],
        "container_iou_median": of([r.container_iou for r in rows], 50)[0],
        "container_iou_p10": of([r.container_iou for r in rows], 10)[0],
        "rim_median": of([abs(r.rim) for r in rows], 50)[0],
        "base_median": of([abs(r.base) for r in rows], 50)[0],
        "top_median": of([abs(r.top) for r in rows], 50)[0],
        "top_given_median": of([abs(r.top_error_given) for r in rows], 50)[0],
        "height_ratio_median": of(ratio, 50)[0],
        "height_ratio_p90": of(ratio, 90)[0],
        "left_share_median": of([abs(r.left_share) for r in rows], 50)[0],
        "foliage_share_median": of([abs(r.foliage_share) for r in rows], 50)[0],
        "bloom_recall": round(met / true, 4) if true else 1.0,
        "bloom_precision": round(right / called, 4) if called else 1.0,
        "off": len(off),
        "off_flagged": sum(r.needs_check for r in off),
        "fine": len(fine),
        "fine_flagged": sum(r.needs_check for r in fine),
        "seconds_median": of([r.seconds for r in rows], 50)[0],
    }
