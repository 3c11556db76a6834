"""Several vessels as one composition: whether neighbours differ, whether the tallest leaves the
rest, how far apart they stand, what ties them, and which neighbours clash.

The first four are of plain lengths, so that a plan in centimetres and a photograph in pixels are
measured by the same functions.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from juniper.colour.harmony import pair_harmony
from juniper.measures.finding import EvidenceMark, Finding, finding_of, missing_of
from juniper.values import Point

GROUPED = (
    "vessels_differ",
    "tops_differ",
    "tallest_detached",
    "vessel_spacing",
    "neighbour_harmony",
    "tied_by_colour",
)
ALONE = "it needs two vessels or more"
HELD = 0.1  # of a vessel's flowers: a colour that holds less is not counted as its own
GROUND = 0.02  # of a vessel's height: how surely the top of its flowers is told (from memory)


@dataclass(frozen=True)
class VesselShape:
    """One vessel of a composition and what stands in it, in one unit of length: the places of its
    walls across, its own height, and how high its highest point stands over its foot.
    """

    left: float
    right: float
    height: float
    top: float

    @property
    def width(self) -> float:
        """Its greatest width."""
        return self.right - self.left


@dataclass(frozen=True)
class VesselColours:
    """The flower colours of one vessel: (hue name, CIELAB, share), the largest first; and whether
    the vessel is of clear glass.
    """

    colours: tuple[tuple[str, tuple[float, float, float], float], ...]
    clear: bool = False


def in_line(shapes: tuple[VesselShape, ...]) -> tuple[VesselShape, ...]:
    """Vessels from the left, by the middle of each."""
    return tuple(sorted(shapes, key=lambda s: s.left + s.right))


def vessels_differ(shapes: tuple[VesselShape, ...]) -> float:
    """The least difference between a vessel and the next: of height or of width, whichever is
    larger, over the larger of the two; nan for fewer than two.

    >>> vessels_differ((VesselShape(0, 10, 20, 40), VesselShape(12, 22, 15, 30)))
    0.25
    """
    steps = [
        max(
            abs(a.height - b.height) / max(a.height, b.height),
            abs(a.width - b.width) / max(a.width, b.width),
        )
        for a, b in pairwise(in_line(shapes))
    ]
    return min(steps, default=float("nan"))


def tops_differ(shapes: tuple[VesselShape, ...]) -> float:
    """The least difference between the highest point in a vessel and that in the next, over the
    height of the whole; nan for fewer than two.
    """
    whole = max((s.top for s in shapes), default=0.0)
    steps = [abs(a.top - b.top) / whole for a, b in pairwise(in_line(shapes)) if whole > 0]
    return min(steps, default=float("nan"))


def tallest_detached(shapes: tuple[VesselShape, ...]) -> float:
    """By how much the highest point stands over that of the next highest vessel, over the height of
    the whole; nan for fewer than two.
    """
    tops = sorted((s.top for s in shapes), reverse=True)
    return (tops[0] - tops[1]) / tops[0] if len(tops) > 1 and tops[0] > 0 else float("nan")


def vessel_spacing(shapes: tuple[VesselShape, ...]) -> float:
    """The widest gap between the walls of two neighbours over the vessels' mean width; nan for
    fewer than two.
    """
    if len(shapes) < 2:
        return float("nan")
    gaps = [max(0.0, b.left - a.right) for a, b in pairwise(in_line(shapes))]
    return max(gaps) / float(np.mean([s.width for s in shapes]))


def of_lengths(shapes: tuple[VesselShape, ...]) -> dict[str, float]:
    """The four measures of lengths by name."""
    return {
        "vessels_differ": vessels_differ(shapes),
        "tops_differ": tops_differ(shapes),
        "tallest_detached": tallest_detached(shapes),
        "vessel_spacing": vessel_spacing(shapes),
    }


def neighbour_harmony(vessels: tuple[VesselColours, ...]) -> tuple[float, int]:
    """The harmony of the leading colours of two neighbours where it is least, and the number, from
    0, of the first of the two; nan and -1 where no two neighbours hold flowers.
    """
    found = [
        (pair_harmony(a.colours[0][1], b.colours[0][1]).value, n)
        for n, (a, b) in enumerate(pairwise(vessels))
        if a.colours and b.colours
    ]
    return min(found, default=(float("nan"), -1))


def mending_swap(vessels: tuple[VesselColours, ...]) -> tuple[int, int, float] | None:
    """The two vessels (numbers from 0) whose exchange leaves the least harmony of neighbours
    highest, and what it then is; None where no exchange betters it.
    """
    best, swap = neighbour_harmony(vessels)[0], None
    for a in range(len(vessels)):
        for b in range(a + 1, len(vessels)):
            tried = list(vessels)
            tried[a], tried[b] = tried[b], tried[a]
            value = neighbour_harmony(tuple(tried))[0]
            if value > best + 1e-9:
                best, swap = value, (a, b)
    return None if swap is None else (*swap, float(best))


def tied_by_colour(vessels: tuple[VesselColours, ...]) -> tuple[float, str]:
    """The share of the vessels that the commonest colour is seen in, and its hue; or, if that is
    more, of those of clear glass, and 'glass'. nan and '' for fewer than two.
    """
    if len(vessels) < 2:
        return float("nan"), ""
    seen = Counter(
        hue for v in vessels for hue in {h for h, _, share in v.colours if share >= HELD}
    )
    hue, count = max(seen.items(), key=lambda x: (x[1], x[0]), default=("", 0))
    glass = sum(v.clear for v in vessels)
    if glass > count:
        return glass / len(vessels), "glass"
    return count / len(vessels), hue


def group_findings(
    shapes: tuple[VesselShape, ...],
    colours: tuple[VesselColours, ...],
    uncertainty: float,
    marks: tuple[EvidenceMark, ...] = (),
) -> tuple[Finding, ...]:
    """The measures of a group of vessels from the left; `uncertainty` is that of a top, in parts of
    the whole height, and `marks` what is drawn of it.
    """
    if len(shapes) < 2:
        return tuple(missing_of(name, ALONE) for name in GROUPED)
    values = of_lengths(shapes)
    whole = max(s.top for s in shapes)
    words = {
        "vessels_differ": "the least difference of height or width between a vessel and the next",
        "tops_differ": (
            f"the least step from top to top between neighbours ÷ {whole:.0f} px of the whole"
        ),
        "tallest_detached": (f"highest top less the next vessel's ÷ {whole:.0f} px of the whole"),
        "vessel_spacing": "the widest gap between two walls ÷ the vessels' mean width",
    }
    unsure = {
        "vessels_differ": uncertainty * np.sqrt(2),
        "tops_differ": uncertainty * np.sqrt(2),
        "tallest_detached": uncertainty * np.sqrt(2),
        "vessel_spacing": 2 * uncertainty,
    }
    found = [
        finding_of(name, values[name], float(unsure[name]), words[name], marks) for name in words
    ]
    least, at = neighbour_harmony(colours)
    swap = mending_swap(colours) if at >= 0 else None
    said = ""
    if at >= 0:
        said = f"vessels {at + 1} and {at + 2} from the left, by Ou & Luo 2006: {least:.2f}"
        if swap is not None:
            said += (
                f"; with vessels {swap[0] + 1} and {swap[1] + 1} exchanged the least would be"
                f" {swap[2]:.2f}"
            )
    found.append(
        finding_of("neighbour_harmony", least, 0.1, said, marks, "no two neighbours hold flowers")
    )
    share, tie = tied_by_colour(colours)
    by = "clear glass" if tie == "glass" else tie or "no colour"
    found.append(
        finding_of(
            "tied_by_colour",
            share,
            0.5 / len(colours),
            f"{by} in {round(share * len(colours))} of {len(colours)} vessels",
            marks,
        )
    )
    return tuple(found)


def drawn_group(
    feet: tuple[Point, ...], rims: tuple[Point, ...], tops: tuple[Point | None, ...]
) -> tuple[EvidenceMark, ...]:
    """Each vessel's axis from foot to rim, on to the top of what stands in it, with its number."""
    out = []
    for n, (foot, rim, top) in enumerate(zip(feet, rims, tops, strict=True), 1):
        out.append(EvidenceMark("line", (foot, rim), str(n), f"Vessel {n} from foot to rim."))
        if top is not None:
            out.append(EvidenceMark("dashed", (rim, top), "", f"The highest point in vessel {n}."))
    return tuple(out)
