"""Mixed mechanics: each ingredient to its own hold, by vessel, weight, water and transport, and the
line to which the vessel is filled (handbook sections 5 and 9, common practice).

What juniper.planning.holding chooses holds most of a piece; here is what else it takes.
"""

from __future__ import annotations

from dataclasses import dataclass

from juniper.lengths import length
from juniper.planning.holding import HEAVY_HEAD, Holding, vessel_traits
from juniper.planning.materials import Material
from juniper.planning.recipe import Item
from juniper.planning.stems import ContainerSize

BASE_HEAD, BASE_COUNT = 14.0, 3  # cm, and heads: so many so broad ones hold the rest
FULL = 0.75  # of its height: a vessel before the flowers go in (handbook section 5)
SHALLOW_WATER = 7.0  # cm: bulb flowers rot in more (common practice)
OVER_PINS = 2.0  # cm of water over the pins (from memory)
PINS = 1.5  # cm: how high the pins of a pin holder stand (from memory)
CARRIED = 1 / 3  # of its height: filled no higher while it travels
HIDDEN = ("Pin holder", "Folded mesh", "Rigid grid")  # never in clear glass, where they show
# what may be seen through glass
SEEN_IN_GLASS = frozenset(
    {"Tape grid", "Interlaced foliage", "Glass pebbles", "The neck itself", "Twig lattice"}
)


@dataclass(frozen=True)
class Hold:
    """What holds some materials of a recipe: its name, the materials, and why."""

    name: str
    materials: tuple[Material, ...]
    why: str


@dataclass(frozen=True)
class FillLine:
    """How high a vessel is filled, cm over its base, as a share of its height, and why; and how
    high while it travels (None where it stays).
    """

    height: float
    share: float
    why: str
    on_the_way: float | None = None


def mixed_mechanics(
    items: tuple[Item, ...],
    container: ContainerSize,
    main: Holding,
    clear: bool = False,
    carried: bool = False,
) -> tuple[Hold, ...]:
    """Which material is held by what, `main` being the piece's chief holding material; each
    material once, the chief hold first. No pin holder and no mesh is put in `clear` glass, where it
    would show: an inner vase takes its place.
    """
    traits = vessel_traits(container, clear)
    holds: dict[str, tuple[list[Material], str]] = {}
    chief = main.name
    if carried and "deep" in traits and not clear and chief.startswith(("Folded mesh", "Tape")):
        chief = "Rigid grid insert"
    if clear and chief not in SEEN_IN_GLASS:
        chief = "Inner vase"
    for item in items:
        if not item.stems:
            continue
        name, why = _hold_of(item, container, chief, main)
        if clear and name.startswith(HIDDEN):
            name, why = "Inner vase", OF_CHIEF["Inner vase"]
        holds.setdefault(name, ([], why))[0].append(item.material)
    order = sorted(holds, key=lambda n: (n != chief, -len(holds[n][0]), n))
    return tuple(Hold(n, tuple(dict.fromkeys(holds[n][0])), holds[n][1]) for n in order)


# holds by a material's further steps (juniper.planning.treatment.ALSO), the first that fits
BY_STEP = (
    ("holder", "A cup of its own", "a candle stands upright and clear of everything that dries"),
    ("skewer", "Two skewers", "one alone lets fruit turn"),
    ("tubes", "Water tubes", "its stem is too short to reach the water"),
    ("wire-base", "Its own wire", "its own stem is too short or too brittle to stand in a hold"),
    ("wire-stem", "Its own wire", "its own stem is too short or too brittle to stand in a hold"),
)


def _hold_of(item: Item, container: ContainerSize, chief: str, main: Holding) -> tuple[str, str]:
    """The hold of one line of a recipe, and why."""
    material = item.material
    for step, name, why in BY_STEP:
        if step in material.treatment.also:
            return name, why
    if not material.plant:
        return "Its own wire or tie", "it is no stem, and goes in last"
    if material.treatment.dry:
        return "A cane, bound on", "dried stems rot in water: bound to a cane they stand over it"
    return _of_plant(item, container) or (
        chief,
        OF_CHIEF.get(chief, main.why[:1].lower() + main.why[1:].rstrip(".")),
    )


OF_CHIEF = {
    "Rigid grid insert": "it neither shifts nor opens on the way",
    "Inner vase": "a smaller vase within the glass hides what holds it",
}


def _of_plant(item: Item, container: ContainerSize) -> tuple[str, str] | None:
    """The hold of heads and branches that the chief one does not suit; None for the others."""
    material = item.material
    traits = vessel_traits(container, False)
    if item.role == "mass" and material.across >= BASE_HEAD and item.stems >= BASE_COUNT:
        return "Natural base", "three broad heads at the rim hold what goes through them"
    if material.texture == "woody" and item.role == "line":
        if "narrow" in traits:
            return "The neck itself", "so narrow a mouth holds a branch by itself"
        if "shallow" in traits:
            return "Pin holder", "a branch stands on pins, where mesh would let it swing"
        return "Twig lattice", "forked twigs wedged across the neck take a branch's weight"
    heavy = material.across >= HEAVY_HEAD and item.role != "foliage"
    if heavy and "shallow" not in traits:
        return "Folded mesh over a pin holder", "a heavy head pulls its stem out of mesh alone"
    return None


def fill_line(
    container: ContainerSize,
    materials: tuple[Material, ...],
    holding: Holding,
    carried: bool = False,
) -> FillLine:
    """How high the vessel is filled before the flowers go in, and, if it is `carried` finished, on
    the way.
    """
    fresh = [m for m in materials if m.plant and not m.treatment.dry]
    if materials and not fresh:
        return FillLine(0.0, 0.0, "nothing in it drinks")
    full = FULL * container.height
    way = CARRIED * container.height if carried else None
    if holding.name.startswith("Pin holder"):
        # A shallow bowl: the pins stay under water.
        level = min(max(PINS + OVER_PINS, 0.5 * container.height), 0.9 * container.height)
        return FillLine(level, level / container.height, "the pins stay under water", way)
    flowers = [m for m in fresh if m.role != "foliage"]
    if flowers and all(m.treatment.water[1] == "shallow" for m in flowers):
        level = min(SHALLOW_WATER, full)
        why = f"bulb flowers rot in more than {length(level, 0)}"
        return FillLine(level, level / container.height, why, way and min(way, level))
    why = "about three quarters before the flowers go in, topped up to the rim when all are set"
    return FillLine(full, FULL, why, way)
