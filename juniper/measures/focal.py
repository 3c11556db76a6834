"""Focal placement: how high and how far off the axis the focal point sits, and whether it rules."""

from __future__ import annotations

import math

import numpy as np

from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View
from juniper.scene.blooms import BLOOM, Bloom

# Times as broad as the next bloom. Chosen on two traced studios, where the focal point that was
# found lay off its bloom in 4 of 4 pictures under it and in none of 23 from it on; on the simulated
# camera's fronts, which had no part in the choice, in 4 of 9 and in none of 26.
SURE = 1.25


def focal_height(view: View) -> float:
    """Height of the focal point over the rim as a share of plant height."""
    along, _ = view.place(np.array([view.focal]))
    return float(along[0]) / view.plant_height if view.plant_height > 0 else float("nan")


def focal_offset(view: View) -> float:
    """Distance of the focal point from the axis as a share of half the plant's width."""
    _, side = view.place(np.array([view.focal]))
    return abs(float(side[0])) / max(view.plant_width / 2, 1e-6)


def chief_bloom(focal: tuple[float, float], blooms: tuple[Bloom, ...]) -> Bloom | None:
    """The bloom at the focal point: the largest whose disc holds it, else the nearest one."""
    if not blooms:
        return None
    away = [np.hypot(b.centre[0] - focal[0], b.centre[1] - focal[1]) for b in blooms]
    holding = [b for b, d in zip(blooms, away, strict=True) if d <= 1.3 * b.radius]
    return max(holding, key=lambda b: b.radius) if holding else blooms[int(np.argmin(away))]


def focal_dominance(
    focal: tuple[float, float], blooms: tuple[Bloom, ...]
) -> tuple[float, Bloom, Bloom] | None:
    """Diameter of the focal bloom over that of the broadest full bloom outside the focal group:
    (ratio, focal, next), or None.

    Without another bloom there is nothing to rule over. Blooms of its own kind count, too: equal
    ones leave the eye undecided.
    """
    chief = chief_bloom(focal, blooms)
    if chief is None:
        return None
    group = {id(b) for b in blooms if b.role == "focal"} if chief.role == "focal" else set()
    others = [
        b
        for b in blooms
        if b is not chief
        and id(b) not in group
        and b.slender < BLOOM.slender
        and b.role != "filler"
    ]
    if not others:
        return None
    rival = max(others, key=lambda b: b.radius)
    return chief.radius / rival.radius, chief, rival


def focal_doubt(
    focal: tuple[float, float] | None, blooms: tuple[Bloom, ...], sure: float = SURE
) -> str:
    """Why a focal point that was found automatically may be another one.

    Args:
        focal: where it was found, in the photograph's pixels, or None.
        blooms: those in force.
        sure: how many times as broad as the next one the focal bloom has to be.

    Returns:
        A sentence; '' where nothing speaks against it.
    """
    if not blooms:
        return ""
    if focal is None:
        return "No focal point was found."
    rules = focal_dominance(focal, blooms)
    if rules is None or rules[0] >= sure:
        return ""
    if rules[0] < 1:
        return "Another bloom is broader than the one that was taken for focal."
    return f"The next bloom is nearly as broad: the focal one is {rules[0]:.2f} times as broad."


def eye_distance(view: View) -> float:
    """Distance of the most salient spot from the focal point over plant height."""
    eye = view.surface.eye_at
    if eye is None or view.focal is None:
        return float("nan")
    return math.dist(eye, view.focal) / view.plant_height


def drawn_eye(view: View) -> tuple[EvidenceMark, ...]:
    """Where the eye goes, and the way from there to the focal point."""
    eye = view.surface.eye_at
    if eye is None or view.focal is None:
        return ()
    return (
        EvidenceMark("cross", (eye,), "eye", "The most salient spot of the piece."),
        EvidenceMark("dashed", (eye, view.focal), "", "From there to the focal point."),
    )


def drawn(view: View, blooms: tuple[Bloom, ...]) -> tuple[EvidenceMark, ...]:
    """The wanted zone, the focal point and its bloom."""
    half = 0.2 * view.plant_width / 2
    low, high = 0.05 * view.plant_height, 0.33 * view.plant_height
    zone = tuple(view.at(a, s) for a, s in ((low, -half), (low, half), (high, half), (high, -half)))
    marks = [
        EvidenceMark(
            "outline", zone, "focal zone", "Where a focal point is wanted in symmetrical work."
        )
    ]
    chief = None if view.focal is None else chief_bloom(view.focal, blooms)
    if chief is not None:
        marks.append(
            EvidenceMark(
                "ring", (chief.centre,), "", f"The focal bloom, {chief.hue}.", size=chief.radius
            )
        )
    return tuple(marks)
