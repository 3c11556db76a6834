"""Proportion: how the plant's height and width stand to the container's."""

from __future__ import annotations

from juniper import lengths as written
from juniper.measures.finding import EvidenceMark
from juniper.measures.surface import View

ROOM = 0.12  # of the picture's width, for the words beside a measuring line


def height_ratio(view: View) -> float:
    """Plant height over container height, both along the axis."""
    return view.plant_height / view.container_height


def height_ratio_image(view: View) -> float:
    """The same as the upright picture shows it, not corrected for pitch and nearness."""
    return height_ratio(view.as_shown)


def governing_ratio(view: View) -> float:
    """Plant height over the larger of the container's height and width ("visible height :
    governing dimension", the commonest classical figure)."""
    return view.plant_height / max(view.container_height, view.container_width)


def plant_share(view: View) -> float:
    """Plant height as a share of the total height, base to plant top."""
    return view.plant_height / (view.plant_height + view.container_height)


def width_ratio(view: View) -> float:
    """Plant width over the container's greatest width."""
    return view.plant_width / view.container_width


def spread(view: View) -> float:
    """Plant width over plant height."""
    return view.plant_width / view.plant_height if view.plant_height > 0 else float("nan")


def drawn_height(view: View) -> tuple[EvidenceMark, ...]:
    """The two heights beside the piece, and the line at plant top."""
    top, rim, base = _beside(view)
    return (
        EvidenceMark(
            "bracket",
            (rim, top),
            "plant",
            f"Plant height, {view.plant_height:.0f} pixels above the rim.",
        ),
        EvidenceMark(
            "bracket",
            (base, rim),
            "container",
            f"Container height, {view.container_height:.0f} pixels.",
        ),
        EvidenceMark("dashed", (view.top, top), "", "The plant's highest point."),
    )


def _beside(view: View) -> list[tuple[float, float]]:
    """Places of top, rim and base a little beside the piece, within the picture: to the right,
    where its words have room, else to the left.
    """
    _, side = view.place(view.surface.hull)
    wide = view.surface.labels.shape[1] / view.surface.scale
    room, gap = ROOM * wide, 0.06 * view.plant_height
    for off, left, right in (
        (side.max() + gap, 0.0, wide - room),
        (side.min() - gap, 0.2 * room, wide),
    ):
        ends = [view.at(a, float(off)) for a in (view.plant_height, 0.0, -view.container_height)]
        if left <= min(x for x, _ in ends) and max(x for x, _ in ends) <= right:
            return ends
    # A piece that fills the picture has them drawn over its right side.
    over = max(
        x
        for x, _ in (
            view.at(a, float(side.max()) + gap) for a in (view.plant_height, -view.container_height)
        )
    ) - (wide - room)
    return [
        view.at(a, float(side.max()) + gap - over)
        for a in (view.plant_height, 0.0, -view.container_height)
    ]


def drawn_width(view: View) -> tuple[EvidenceMark, ...]:
    """Plant width over container width, drawn under the piece."""
    _, side = view.place(view.surface.hull)
    low = -view.container_height * 1.12
    ends = view.at(low, float(side.min())), view.at(low, float(side.max()))
    return (EvidenceMark("bracket", ends, "width", f"Plant width, {view.plant_width:.0f} pixels."),)


def arithmetic(view: View, cm: float | None) -> dict[str, str]:
    """How each figure is made, down to pixels and, with a scale (cm per pixel), centimetres."""

    def length(pixels: float) -> str:
        return f"{pixels:.0f} px" + (f" = {written.length(pixels * cm)}" if cm else "")

    plant, container = view.plant_height, view.container_height
    wide, vessel, plain = view.plant_width, view.container_width, view.as_shown
    which = "height" if container >= vessel else "width"
    return {
        "height_ratio": f"{length(plant)} ÷ {length(container)} = {plant / container:.2f}",
        "height_ratio_image": (
            f"{plain.plant_height:.0f} px ÷ {plain.datum.height:.0f} px = {height_ratio(plain):.2f}"
        ),
        "governing_ratio": (
            f"container {which} governs: {length(plant)} ÷ {length(max(container, vessel))} ="
            f" {plant / max(container, vessel):.2f}"
        ),
        "plant_share": (
            f"{length(plant)} ÷ ({length(plant)} + {length(container)})"
            f" = {plant / (plant + container):.2f}"
        ),
        "width_ratio": f"{length(wide)} ÷ {length(vessel)} = {wide / vessel:.2f}",
        "spread": f"{length(wide)} ÷ {length(plant)} = {wide / max(plant, 1e-6):.2f}",
    }
