"""Wiring and extending: when, with which gauge, and how (common practice; the gauges of support are
the handbook's, the others from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

from juniper.planning.materials import Material
from juniper.planning.recipe import Item
from juniper.planning.stems import StemPlan

ORDINARY, HEAVY, BINDING = 0.71, 0.90, 0.28  # mm
# Wire is sold by the Imperial Standard Wire Gauge: 0.028 inch is number 22, 0.036 inch 20, 0.0108
# inch 32. (Statutory table of 1883, as in BS 3737; from memory.)
GAUGES = {0.71: 22, 0.90: 20, 0.28: 32}
# cm: a head so wide, or a stem so long as it shows, asks for the thicker wire
HEAVY_HEAD, TALL = 9.0, 35.0


@dataclass(frozen=True)
class Wiring:
    """How a material is wired: gauge in mm, how, and when it is worth it."""

    material: Material
    gauge: float
    how: str
    when: str


def wire_words(gauge: float, way: str = "mm") -> str:
    """A wire as a school tells it: in millimetres, with its gauge beside it, or the other way
    round.
    """
    number = GAUGES[gauge]
    millimetres = f"{gauge:.2f} mm"
    return (
        f"{number} gauge ({millimetres})" if way == "gauge" else f"{millimetres} ({number} gauge)"
    )


def wiring(items: tuple[Item, ...], plan: StemPlan) -> tuple[Wiring, ...]:
    """How the kinds of a recipe are wired, each once; woody stems and those that stand by
    themselves are left out.
    """
    tall = max(s.length for s in plan.stems) >= TALL
    found: dict[str, Wiring] = {}
    for item in items:
        one = _wired(item.material, item.role, tall)
        if one is not None:
            found.setdefault(item.material.slug, one)
    return tuple(found.values())


def _wired(material: Material, role: str, tall: bool) -> Wiring | None:
    if not material.plant:
        return None
    heavy = material.across >= HEAVY_HEAD
    gauge = HEAVY if heavy and tall else ORDINARY
    if role == "foliage":
        if material.texture != "leaf":
            return None
        return Wiring(
            material,
            BINDING,
            "a small stitch across the midrib from behind, both ends down the stalk, bound",
            "a leaf that is to be bent, or that hangs",
        )
    return _wired_by_texture(material, role, gauge, heavy)


def _wired_by_texture(material: Material, role: str, gauge: float, heavy: bool) -> Wiring | None:
    if material.texture == "dried":
        return Wiring(
            material,
            ORDINARY,
            "two or three stems together, the wire's leg along them and twisted round (a mount)",
            "brittle stems, or stems too short for the holding",
        )
    if material.texture in ("hollow", "milky"):
        return Wiring(
            material,
            gauge,
            "pushed up inside the stem, to just under the head",
            "a head that bends its stem, after the stem has drunk its fill",
        )
    if material.texture == "soft" and heavy and role != "filler":
        return Wiring(
            material,
            gauge,
            "along the stem, in wide turns from the head down, the tip set into the head's base and"
            " not through it",
            "a soft stem under a heavy head",
        )
    if material.texture == "bulb":
        return Wiring(
            material,
            ORDINARY,
            "up inside the stem, to just under the flower",
            "stems that go on growing to the light and are to stay as set",
        )
    return None


EXTENDING = (
    (
        "A stem cut too short, or one that is to stand higher than it grew: set it in a small tube"
        " of water, bind the tube to a cane or a straight twig, and hide both with foliage."
    ),
    "Dried stems need no tube: bind them to a cane a hand's breadth long, and cover the binding.",
    "Count the extension with the stem: what the plan asks to show is measured over the rim.",
    "Wired and tubed material cannot drink from the vessel: top the tubes up every day.",
)
