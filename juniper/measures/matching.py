"""Views of one piece matched in scale by its container: what one of them tells laid over another,
how deep a piece is beside its width, and whether two pictures show one piece at all.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from juniper.colour import Swatch, ciede2000, flowers_of
from juniper.measures.finding import EvidenceMark, Finding, finding_of, missing_of
from juniper.measures.stages import by_datum
from juniper.measures.surface import View
from juniper.scene.container.datum import Datum

NOTHING_ASIDE = "no plant stands above the rim in the side view"
FROM = {"side": "from the side", "back": "from behind", "seated": "from a seat"}


@dataclass(frozen=True)
class MatchSettings:
    """From where two views are doubted to be of one piece. The figures lie well over what twenty
    pairs of the simulated camera's pictures of one piece differ by (.2, .14 and .05), and under
    what most pairs of different pieces do.
    """

    height: float = 0.3  # natural logarithm of the two heights' ratio, in containers
    width: float = 0.25  # the same of rim width over container height; not from the side
    unlike: float = 20.0  # CIEDE2000: from here two flower colours are different ones
    colours: float = 0.35  # of the other view's flower area: share of colours unlike the front's
    upper: float = 2 / 3  # of the plant's height, over which a piece's lean is read


MATCHING = MatchSettings()


def unlike_share(
    front: tuple[Swatch, ...], other: tuple[Swatch, ...], settings: MatchSettings = MATCHING
) -> float:
    """Share (0..1) of the flower colours of `other` that nothing in `front` is like; 0 where one of
    the palettes has no flowers, since a back may well show foliage alone.
    """
    ours, theirs = flowers_of(front), flowers_of(other)
    if not ours or not theirs:
        return 0.0
    from_ours = np.array([s.lab for s in ours])
    apart = [float(ciede2000(np.array(s.lab), from_ours).min()) for s in theirs]
    shares = np.array([s.share for s in theirs])
    return float(shares[np.array(apart) > settings.unlike].sum() / shares.sum())


def doubt_of_view(
    name: str,
    front: tuple[View, tuple[Swatch, ...]],
    other: tuple[View, tuple[Swatch, ...]],
    settings: MatchSettings = MATCHING,
) -> str:
    """Why a view may show another piece than the front does.

    Parameters:
        name: from where the other view is seen: side, back or seated.
        front, other: each view, and the palette of its picture.
        settings: from where a difference counts.

    Returns a sentence for the instructor, '' where nothing speaks against one piece.
    """
    (ours, palette), (theirs, colours) = front, other
    a, b = (v.plant_height / v.container_height for v in (ours, theirs))
    start = f"The picture {FROM[name]} may show another piece: "
    if min(a, b) > 0 and abs(np.log(b / a)) > settings.height:
        return f"{start}its plant stands {b:.1f} container heights over the rim, in front {a:.1f}."
    wide, other_wide = (v.rim_width / v.container_height for v in (ours, theirs))
    if name != "side" and abs(np.log(other_wide / wide)) > settings.width:
        return f"{start}its rim is {other_wide:.2f} container heights wide, in front {wide:.2f}."
    unlike = unlike_share(palette, colours, settings)
    if unlike > settings.colours:
        return f"{start}{100 * unlike:.0f} % of its flowers are in colours that the front has not."
    return ""


def mirrored(datum: Datum) -> np.ndarray:
    """The reflection (2, 3) about a datum's axis: what is seen from behind, as from in front."""
    along = np.subtract(datum.rim, datum.base)
    along = along / np.hypot(*along)
    turn = 2 * np.outer(along, along) - np.eye(2)
    return np.column_stack([turn, np.array(datum.base) - turn @ np.array(datum.base)])


def front_over(name: str, front: View, other: Datum) -> np.ndarray:
    """The front's outline (n, 2) in the pixels of a view from behind or from a seat, laid on its
    container; from behind it is turned left to right.
    """
    edge = np.column_stack([front.surface.outline, np.ones(len(front.surface.outline))])
    if name == "back":
        edge[:, :2] = edge @ mirrored(front.datum).T
    return np.asarray(edge @ by_datum(front.datum, other).T)


def depth_of(side: View, front: View) -> Finding:
    """The plant's depth in the view from the side over its width in front, each in container
    heights.
    """
    if not _stands(side) or front.plant_width <= 0:
        return missing_of("depth_ratio", NOTHING_ASIDE, view="side")
    deep = side.plant_width / side.container_height
    wide = front.plant_width / front.container_height
    return finding_of(
        "depth_ratio",
        deep / wide,
        0.08 * deep / wide,
        f"{deep:.2f} container heights deep from the side ÷ {wide:.2f} wide from in front",
        (EvidenceMark("line", side.extremes, f"{deep:.2f}", "The plant's depth from the side."),),
        view="side",
    )


def lean_of(side: View, settings: MatchSettings = MATCHING) -> Finding:
    """How the plant's upper third leans in the view from the side, the front to the right: degrees
    from upright, to the front above 0.
    """
    if not _stands(side):
        return missing_of("leans_out", NOTHING_ASIDE, view="side")
    upper = side.along > settings.upper * side.plant_height
    up, out = float(side.along[upper].mean()), float(side.side[upper].mean())
    lean = float(np.degrees(np.arctan2(out, up)))
    # a rim point that lies off to one side turns the lean by as much
    unsure = float(np.degrees(np.arctan2(side.datum.spread.across, up)))
    return finding_of(
        "leans_out",
        lean,
        unsure,
        f"its upper third lies {out / side.container_height:+.2f} container heights off the"
        f" axis, {up / side.container_height:.2f} over the rim",
        (
            EvidenceMark(
                "dashed",
                (side.at(0, 0), side.at(up, out)),
                f"{lean:+.0f}°",
                "From the rim to the middle of the plant's upper third.",
            ),
        ),
        view="side",
    )


def _stands(side: View) -> bool:
    return side.plant_height > 0.02 * side.container_height
