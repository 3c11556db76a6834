"""Proportion: how the plant's height and width stand to the container's."""

from __future__ import annotations

from juniper.measures.finding import Mark
from juniper.measures.surface import View


def height_ratio(view: View) -> float:
    """Plant height over container height, both along the axis."""
    return view.plant_height / view.datum.height


def governing_ratio(view: View) -> float:
    """Plant height over the larger of the container's height and width ("visible height :
    governing dimension", the commonest classical figure)."""
    return view.plant_height / max(view.datum.height, view.container_width)


def plant_share(view: View) -> float:
    """Plant height as a share of the total height, base to plant top."""
    return view.plant_height / (view.plant_height + view.datum.height)


def width_ratio(view: View) -> float:
    """Plant width over the container's greatest width."""
    return view.plant_width / view.container_width


def spread(view: View) -> float:
    """Plant width over plant height."""
    return view.plant_width / view.plant_height if view.plant_height > 0 else float("nan")


def drawn_height(view: View) -> tuple[Mark, ...]:
    """The two heights beside the piece, and the line at plant top."""
    _, side = view.place(view.surface.hull)
    beside = float(side.max()) + 0.06 * view.plant_height
    top, rim, base = (view.at(a, beside) for a in (view.plant_height, 0.0, -view.datum.height))
    return (
        Mark("bracket", (rim, top), "plant", f"Plant height, {view.plant_height:.0f} pixels above the rim."),
        Mark("bracket", (base, rim), "container", f"Container height, {view.datum.height:.0f} pixels."),
        Mark("dashed", (view.top, top), "", "The plant's highest point."),
    )


def drawn_width(view: View) -> tuple[Mark, ...]:
    """Plant width over container width, drawn under the piece."""
    _, side = view.place(view.surface.hull)
    low = -view.datum.height * 1.12
    ends = view.at(low, float(side.min())), view.at(low, float(side.max()))
    return (Mark("bracket", ends, "width", f"Plant width, {view.plant_width:.0f} pixels."),)


def arithmetic(view: View, cm: float | None) -> dict[str, str]:
    """How each figure is made, down to pixels and, with a scale (cm per pixel), centimetres."""

    def length(pixels: float) -> str:
        return f"{pixels:.0f} px" + (f" = {pixels * cm:.1f} cm" if cm else "")

    plant, pot = view.plant_height, view.datum.height
    wide, vessel = view.plant_width, view.container_width
    which = "height" if pot >= vessel else "width"
    return {
        "height_ratio": f"{length(plant)} ÷ {length(pot)} = {plant / pot:.2f}",
        "governing_ratio": (
            f"container {which} governs: {length(plant)} ÷ {length(max(pot, vessel))} = {plant / max(pot, vessel):.2f}"
        ),
        "plant_share": f"{length(plant)} ÷ ({length(plant)} + {length(pot)}) = {plant / (plant + pot):.2f}",
        "width_ratio": f"{length(wide)} ÷ {length(vessel)} = {wide / vessel:.2f}",
        "spread": f"{length(wide)} ÷ {length(plant)} = {wide / max(plant, 1e-6):.2f}",
    }
