"""What money buys: stems that are divided, heads that fill a bowl, the same outline from foliage
only to lavish, what takes the place of a material that is not to be had, and what is left over
(handbook section 9, common practice).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal

from juniper.colour import lab_from_srgb
from juniper.colour.spaces import ciede2000, from_hex
from juniper.planning.buying import Bill, Bunch, bill
from juniper.planning.held import OUT_OF, held_by
from juniper.planning.materials import COLOURS, Material
from juniper.planning.recipe import VARIANTS, Item, values_of
from juniper.planning.treatment import STAGES
from juniper.rules import Brief, RuleSet

# of a bowl's opening that round heads cover when they lie close (hexagonal packing is .907; heads
# overlap leaves and one another unevenly: from memory)
CLOSE = 0.8
DOME = 1.25  # area of a low dome over its flat opening (a dome a quarter as high as wide: 1.25)
ONE_FLOWER = "foliage and one focal flower"
STEPS = ("foliage only", ONE_FLOWER, *VARIANTS)
# measures that a recipe alone decides
BY_RECIPE = (
    "foliage_share",
    "flower_kinds",
    "flower_colours",
    "dominant_share",
    "odd_counts",
    "colour_split",
    "accent_share",
    "setting_share",
)
SIZE, HUE, EASE = 0.45, 0.45, 0.10  # weights of a substitute's likeness (from memory)
UNLIKE = 30.0  # CIEDE2000 from which two colours have nothing in common (from memory)
SAME_SIZE = 0.87  # of the width: what the eye takes for as large (from memory)
SMALL_VASE = 3  # stems of a small vase of leftovers: one to look at and two beside it


def heads_to_fill(width: float, head: float) -> int:
    """Heads that fill a bowl of a given width in a low dome without stems showing.

    Both in cm. The heads of the outer ring hang half over the rim, so the opening counts half a
    head wider all round. Raises ValueError where a width is not positive.

    >>> heads_to_fill(15, 7)
    7
    """
    if not (width > 0 and head > 0):
        raise ValueError("A bowl and a head are wider than nothing.")
    return max(1, math.ceil(CLOSE * DOME * ((width + 0.5 * head) / head) ** 2 - 1e-9))


def stems_to_fill(width: float, material: Material) -> int:
    """Bought stems of a material that fill a bowl `width` cm wide: heads by what a stem yields.

    >>> from juniper.planning.materials import catalogue
    >>> stems_to_fill(12, next(m for m in catalogue() if m.slug == "rose-spray"))
    3
    """
    return math.ceil(heads_to_fill(width, material.across) / material.treatment.yields)


@dataclass(frozen=True)
class Purchase:
    """What is bought on a day, at which stage, so that it stands as it should on the day of the
    class.
    """

    on: date
    material: Material
    stems: int
    stage: str


def buying_dates(needs: tuple[tuple[Material, int], ...], class_day: date) -> tuple[Purchase, ...]:
    """When and at which stage each material is bought: (material, stems) to purchases, the earliest
    day first.
    """
    found = [
        Purchase(class_day - timedelta(days=m.treatment.ahead), m, stems, STAGES[m.treatment.stage])
        for m, stems in needs
    ]
    return tuple(sorted(found, key=lambda p: (p.on, p.material.common)))


@dataclass(frozen=True)
class PriceStep:
    """One step of the same outline: its name, what it is made of, what a piece costs (None where no
    line has a price), the points of 100 that the rules on material give it, and what is gained over
    the step before.
    """

    name: str
    items: tuple[Item, ...]
    bill: Bill
    points: float
    gained: float

    @property
    def stems(self) -> int:
        """Stems of a piece."""
        return sum(i.stems for i in self.items)

    @property
    def each(self) -> Decimal | None:
        """What a piece costs, or None where no line has a price."""
        return self.bill.each if self.bill.cost else None


def price_steps(
    variants: dict[str, tuple[Item, ...]],
    rules: RuleSet,
    brief: Brief,
    bunches: tuple[Bunch, ...],
    pieces: int,
    carried: bool = False,
) -> tuple[PriceStep, ...]:
    """The same outline from foliage only to lavish: `variants` are a recipe's lines by the names of
    juniper.planning.recipe.VARIANTS. In the first step foliage takes the place of the flowers, area
    for area; in the second one focal flower (or the largest, where there is none) comes back.
    Empty without foliage in the recipe.
    """
    usual = variants["usual"]
    leaves = [i for i in usual if i.role == "foliage" and i.stems]
    if not leaves or len(leaves) == len(usual):
        return ()
    steps, before = [], 0.0
    for name in STEPS:
        items = variants[name] if name in variants else _of_foliage(usual, name == ONE_FLOWER)
        points = recipe_points(items, rules, brief)
        cost = bill(items, bunches, pieces, carried)
        steps.append(PriceStep(name, items, cost, points, points - before))
        before = points
    return tuple(steps)


def _of_foliage(items: tuple[Item, ...], one_flower: bool) -> tuple[Item, ...]:
    """The recipe with its flowers' area given to the foliage, but for one of them."""
    flowers = [i for i in items if i.role not in ("foliage", "part") and i.stems]
    kept: tuple[Item, ...] = ()
    if one_flower and flowers:
        chief = max(flowers, key=lambda i: (i.role == "focal", i.material.across))
        kept = (replace(chief, stems=1),)
    area = sum(i.area for i in flowers) - sum(i.area for i in kept)
    leaves = [i for i in items if i.role == "foliage" and i.stems]
    whole = sum(i.area for i in leaves)
    grown = tuple(replace(i, stems=round(i.stems * (1 + area / whole))) for i in leaves)
    return (*kept, *grown, *(i for i in items if i.role == "part"))


def recipe_points(items: tuple[Item, ...], rules: RuleSet, brief: Brief) -> float:
    """Points of 100 of the mark that a recipe earns by the rules that it alone decides (colours,
    kinds, counts, shares); a rule on flowers gives none where there are none.
    """
    whole = sum(r.weight for r in rules.rules if r.applies(brief))
    values = {m: v for m, v in values_of(items, brief).items() if m in BY_RECIPE}
    held = held_by(rules, values, brief)
    return 100 * sum(h.rule.weight * h.score for h in held) / (OUT_OF * whole)


@dataclass(frozen=True)
class Substitute:
    """A material that takes another's place: in which of its colours, how alike it is (0 to 1), and
    in words what is the same and what differs.
    """

    material: Material
    colour: str
    likeness: float
    why: str


def substitutes(
    wanted: Material,
    role: str,
    colour: str,
    materials: tuple[Material, ...],
    month: int,
    south: bool = False,
    barred: frozenset[str] = frozenset(),
    most: int = 5,
) -> tuple[Substitute, ...]:
    """What takes a material's place, the likest first: of the same role, in season in a month (1 to
    12), fresh for fresh and dry for dry, without any of the cautions that are `barred`, by colour
    (CIEDE2000), size and stem.
    """
    found = []
    for one in materials:
        if one.slug == wanted.slug or one.role != role or not one.in_season(month, south):
            continue
        if barred & set(one.cautions) or one.treatment.dry != wanted.treatment.dry:
            continue
        near = min(one.colours, key=lambda c: colours_apart(colour, c), default="")
        if not near:
            continue
        apart = colours_apart(colour, near)
        if apart >= UNLIKE:
            continue
        size = min(one.across, wanted.across) / max(one.across, wanted.across)
        ease = 1.0 if one.texture == wanted.texture else 0.0
        likeness = SIZE * size + HUE * max(0.0, 1 - apart / UNLIKE) + EASE * ease
        found.append(Substitute(one, near, likeness, _why(wanted, one, colour, near)))
    return tuple(sorted(found, key=lambda s: (-s.likeness, s.material.slug))[:most])


def colours_apart(one: str, other: str) -> float:
    """CIEDE2000 between two colours by their words (keys of COLOURS)."""
    first, second = (lab_from_srgb(from_hex(COLOURS[c])) for c in (one, other))
    return float(ciede2000(first, second))


def _why(wanted: Material, one: Material, colour: str, near: str) -> str:
    by = one.across / wanted.across
    size = "as large"
    if not SAME_SIZE <= by <= 1 / SAME_SIZE:
        size = f"{by:.1f} times as large"
    shade = f"the same {near}" if near == colour else f"{near} in the place of {colour}"
    lasts = one.life[0] - wanted.life[0]
    days = f"{abs(lasts)} day{'' if abs(lasts) == 1 else 's'}"
    time = f", lasts {days} {'longer' if lasts > 0 else 'less'}" if lasts else ""
    return f"{shade}, {size}{time}"


@dataclass(frozen=True)
class Leftovers:
    """What is left over after the pieces are made, as (material, stems), and how many small vases
    it fills, each with one stem to look at and others beside it.
    """

    stems: tuple[tuple[Material, int], ...]
    vases: tuple[tuple[tuple[Material, int], ...], ...]


def leftovers(whole: Bill) -> Leftovers:
    """Stems of bunches beyond what is used and the reserve, and small vases of SMALL_VASE each made
    of them: a flower to look at first, then what differs most from it.
    """
    left = {x.item.material: x.over for x in whole.lines if x.over}
    stems = tuple(sorted(left.items(), key=lambda m: m[0].common))
    chief = [m for m in left if m.role in ("focal", "mass", "line")]
    vases = []
    while sum(left.values()) >= SMALL_VASE and any(left.get(m) for m in chief):
        first = max((m for m in chief if left.get(m)), key=lambda m: (left[m], m.slug))
        made = {first: 1}
        left[first] -= 1
        for _ in range(SMALL_VASE - 1):
            beside = max(
                (m for m in left if left[m]),
                key=lambda m: (m not in made, m.role in ("filler", "foliage"), left[m], m.slug),
            )
            made[beside] = made.get(beside, 0) + 1
            left[beside] -= 1
        vases.append(tuple(made.items()))
    return Leftovers(stems, tuple(vases))
