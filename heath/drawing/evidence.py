"""Evidence to SVG: each mark becomes the few figures that one template draws."""

from __future__ import annotations

import numpy as np

from juniper.measures import EvidenceMark, Findings

LENS_OF = {
    "proportion": ("height_ratio", "width_ratio"),
    "balance": ("left_weight_share",),
    "focal": ("focal_height", "focal_dominance", "stray_accents"),
    "colour": (),
    "line": ("twin_tips", "form_fit"),
    "finish": ("largest_gap", "outline_fill", "bare_stem"),
}


def drawable(mark: EvidenceMark) -> dict:
    """A mark as JSON for the template: kind, path, place of its label."""
    points = np.asarray(mark.points, float)
    middle = points.mean(axis=0)
    out = {
        "kind": mark.kind,
        "label": mark.label,
        "says": mark.says,
        "x": round(middle[0], 1),
        "y": round(middle[1], 1),
    }
    if mark.kind == "ring":
        out["r"] = round(mark.size, 1)
    elif mark.kind == "bracket":
        out["path"] = _bracket(points)
        along = points[1] - points[0]
        if abs(along[1]) > abs(along[0]):
            out["upright"] = True
        else:
            out["below"] = True
    elif mark.kind in ("line", "dashed", "outline"):
        path = "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points)
        out["path"] = path + (" Z" if mark.kind == "outline" else "")
        if mark.kind == "outline":
            out["y"] = round(float(points[:, 1].min()), 1)
        if mark.kind == "line":
            out["x"], out["y"] = (round(float(v), 1) for v in points[-1])
    elif mark.kind == "cross":
        out["below"] = True
    return out


def _bracket(points: np.ndarray) -> str:
    """A measuring line with a tick across each end."""
    way = points[1] - points[0]
    length = max(float(np.hypot(*way)), 1e-6)
    tick = np.array([-way[1], way[0]]) / length * min(14.0, 0.08 * length + 4)
    parts = [
        (points[0], points[1]),
        (points[0] - tick, points[0] + tick),
        (points[1] - tick, points[1] + tick),
    ]
    return " ".join(f"M{a[0]:.1f} {a[1]:.1f} L{b[0]:.1f} {b[1]:.1f}" for a, b in parts)


def lenses(findings: Findings) -> list[dict]:
    """Evidence by lens, each with its drawable marks."""
    out = []
    for family, names in LENS_OF.items():
        if family == "proportion" and findings.measured("tops_differ"):
            names = ("tops_differ",)  # noqa: PLW2901 - of several vessels: each from foot to top
        marks = dict.fromkeys(m for n in names for m in findings[n].evidence)
        out.append({"name": family, "marks": [drawable(m) for m in marks]})
    return out


def ghost(reading, ratio: float) -> tuple[EvidenceMark, ...]:
    """The piece after a cut to a height ratio: its outline with all that stands higher brought
    down, and the line it is cut to.
    """
    datum = reading.datum
    along = ratio * datum.height
    centre = np.asarray(datum.rim) + along * datum.up
    half = (
        0.35 * np.hypot(*np.subtract(reading.findings.right, reading.findings.left)) * datum.right
    )
    step = reading.outer - np.asarray(datum.rim)
    over = np.maximum(0.0, step @ datum.up - along)
    after = reading.outer - over[:, None] * datum.up
    return (
        EvidenceMark(
            "dashed",
            (tuple(centre - half), tuple(centre + half)),
            "cut to here",
            "Height after the next cut.",
        ),
        EvidenceMark(
            "outline",
            tuple(map(tuple, after[:: max(1, len(after) // 160)])),
            "",
            "The piece after the next cut.",
        ),
    )


def container_path(shape, middle: float, table: float, high: float, wide: float) -> str:
    """SVG path of a container `high` and at its widest `wide`, standing on `table` about `middle`;
    straight-sided without a `shape`.
    """
    sides = shape.half if shape else (0.5, 0.5)
    across = wide / 2 / max(sides)
    rows = [table - high * i / (len(sides) - 1) for i in range(len(sides))]
    left, right = (
        [f"{middle + way * across * h:.1f} {y:.1f}" for h, y in zip(sides, rows, strict=True)]
        for way in (-1, 1)
    )
    return "M" + "L".join([*left, *reversed(right)]) + "Z"


MARGIN = 1.1  # of the card as it was found, for its edge and shadow


def card_cover(photograph) -> str:
    """What covers a photograph's reference card, which carries its maker's name, as the points of
    an SVG polygon; '' without a card.
    """
    corners = (photograph.card or {}).get("corners")
    if not corners:
        return ""
    points = np.asarray(corners, float)
    middle = points.mean(axis=0)
    return " ".join(f"{x:.0f},{y:.0f}" for x, y in middle + MARGIN * (points - middle))


# left, right (in rim widths from the axis), top and bottom (in container heights over the base) of
# where a check is to be looked at
LOOKS = {
    "rim": (-0.8, 0.8, 1.35, 0.75),
    "water": (-0.8, 0.8, 1.05, -0.05),
    "foot": (-0.9, 0.9, 0.35, -0.2),
}


def crop(reading, look: str) -> str:
    """The part of the photograph where a check is to be looked at, as an SVG view box."""
    photo, datum = reading.photograph, reading.datum
    box = (0.0, 0.0, float(photo.width), float(photo.height))
    if look in LOOKS:
        left, right, top, bottom = LOOKS[look]
        wide = max(datum.rim_width, 0.5 * datum.height)
        places = [
            np.asarray(datum.base) + a * datum.height * datum.up + s * wide * datum.right
            for a in (top, bottom)
            for s in (left, right)
        ]
        box = (*np.min(places, axis=0), *np.max(places, axis=0))
    elif look == "blooms" and reading.scene.blooms:
        reach = [
            (b.centre[0] + sx * b.radius, b.centre[1] + sy * b.radius)
            for b in reading.scene.blooms
            for sx, sy in ((-1, -1), (1, 1))
        ]
        box = (*np.min(reach, axis=0), *np.max(reach, axis=0))
    x0, y0, x1, y1 = np.clip(box, 0, (photo.width, photo.height) * 2)
    return f"{x0:.0f} {y0:.0f} {max(x1 - x0, 1):.0f} {max(y1 - y0, 1):.0f}"
