"""What to buy: bunches from a typed price list, what is left over, and what a piece costs."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

from juniper.planning.materials import Material
from juniper.planning.recipe import Item

RESERVE = 10  # one stem in so many is kept in reserve
# one bloom in so many where the pieces travel: heads bruise on the way (from memory)
SPARE_CARRIED = 5
BLOOMS = frozenset({"focal", "mass", "line"})
MOST_STEMS = 200  # in a bunch
LINE = re.compile(
    r"^(?P<name>.*?)[\s,;:]+(?P<stems>\d{1,4})\s*(?:stems?|heads?)?[\s,;:]+(?P<sign>[£$€]?)\s*(?P<price>\d{1,5}(?:[.,]\d{1,2})?)\s*(?P<after>[£$€]?)$"
)
# a price in another currency than the three signs: a code of three letters, or another sign
OTHER_MONEY = re.compile(
    r"\b(?:[A-Z]{3}|kr|zł|Fr\.?)(?=\s*\d)|(?<=\d)\s*\b(?:[A-Z]{3}|kr|zł|Fr\.?)$|[¥₹₩₽]"
)
BROKEN = re.compile(r"[\s,;]\d+$")  # a name that ends in a number: "Iris, 0" of "Iris, 0,5, 9"
PENNY = Decimal("0.01")


class FaultyPrices(ValueError):
    """A price list that cannot be read; `faults` tells each line (from 1) and what is wrong with
    it.
    """

    def __init__(self, faults: list[tuple[int, str]]):
        self.faults = tuple(faults)
        super().__init__("; ".join(f"line {n}: {words}" for n, words in faults))


@dataclass(frozen=True)
class Bunch:
    """A bunch as it is sold: how many stems, at which price, with the currency's sign if one was
    typed.
    """

    slug: str
    stems: int
    price: Decimal
    sign: str = ""


@dataclass(frozen=True)
class Buying:
    """A material to buy for some pieces: pieces of it that are placed (`used`), stems to buy with
    the reserve (`needed`; a stem may yield several pieces), bunches, what is left over beyond the
    reserve, and the cost; bunches and cost are None where the price list has it not.
    """

    item: Item
    used: int
    needed: int
    bunches: int | None
    over: int | None
    cost: Decimal | None


@dataclass(frozen=True)
class Bill:
    """What some pieces need, what all of it costs, and what one piece's share is; `missing` are
    materials without a price.
    """

    pieces: int
    lines: tuple[Buying, ...]
    cost: Decimal
    missing: tuple[str, ...]
    sign: str

    @property
    def each(self) -> Decimal:
        """The cost of one piece, to the penny."""
        return (self.cost / self.pieces).quantize(PENNY, ROUND_HALF_UP)


def read_prices(text: str, materials: tuple[Material, ...]) -> tuple[Bunch, ...]:
    """Bunches from a typed list, one in a line: name, stems, price ("Rose, 20, 14.50"). Empty lines
    and those that begin with # are passed over. Raises FaultyPrices with every line at fault.
    """
    names: dict[str, str] = {}
    for m in materials:
        names |= {_plain(n): m.slug for n in (m.botanical, m.common, m.slug)}
    common = {m.slug: m.common for m in materials}
    found: dict[str, Bunch] = {}
    at: dict[str, int] = {}
    sign, faults = "", []
    for number, line in enumerate(text.splitlines(), 1):
        words = " ".join(line.split())
        if not words or words.startswith("#"):
            continue
        try:
            bunch = _bunch(words, names)
            if bunch.slug in found:
                raise ValueError(f"{common[bunch.slug]} stands in line {at[bunch.slug]} already")
            if bunch.sign and sign and bunch.sign != sign:
                raise ValueError(
                    f"this price is in {bunch.sign}, those above are in {sign}: write all in one"
                    " currency"
                )
        except ValueError as error:
            faults.append((number, str(error)))
            continue
        sign = sign or bunch.sign
        found[bunch.slug], at[bunch.slug] = bunch, number
    if faults:
        raise FaultyPrices(faults)
    return tuple(found.values())


def _bunch(words: str, names: dict[str, str]) -> Bunch:
    """A bunch from one line; `names` are materials by their plain names. Raises ValueError with
    what is wrong.
    """
    match = LINE.match(words)
    if match is None:
        other = OTHER_MONEY.search(words)
        if other:
            raise ValueError(f"the currency “{other[0]}” is not known: write the number alone")
        raise ValueError("write name, stems in a bunch, price of a bunch: Rose, 20, 14.50")
    plain = _plain(match["name"])
    slug = names.get(plain) or names.get(plain.removesuffix("s"))
    if slug is None and BROKEN.search(match["name"]):
        raise ValueError("stems in a bunch are a whole number: Rose, 20, 14.50")
    if slug is None:
        raise ValueError(f"no material is called “{match['name']}”")
    if not 1 <= int(match["stems"]) <= MOST_STEMS:
        raise ValueError(f"a bunch has 1 to {MOST_STEMS} stems")
    price = Decimal(match["price"].replace(",", ".")).quantize(PENNY)
    return Bunch(slug, int(match["stems"]), price, match["sign"] or match["after"])


def to_buy(item: Item, used: int, carried: bool = False) -> int:
    """Stems to buy for so many placed pieces of a material, with the reserve: one in RESERVE, of
    blooms that are `carried` finished one in SPARE_CARRIED; of what is no plant none.
    """
    stems = math.ceil(used / item.material.treatment.yields)
    if not item.material.plant:
        return stems
    return stems + math.ceil(
        stems / (SPARE_CARRIED if carried and item.role in BLOOMS else RESERVE)
    )


def bill(
    items: tuple[Item, ...], bunches: tuple[Bunch, ...], pieces: int, carried: bool = False
) -> Bill:
    """What so many pieces of a recipe need, whether or not they are `carried` finished. Only whole
    bunches are sold; lines of one material are bought together.
    """
    if pieces < 1:
        raise ValueError("There is one piece at least.")
    sold = {b.slug: b for b in bunches}
    together: dict[str, Item] = {}
    stems: dict[str, int] = {}
    for item in items:
        together.setdefault(item.material.slug, item)
        stems[item.material.slug] = stems.get(item.material.slug, 0) + item.stems
    lines, missing = [], []
    for slug, item in together.items():
        used = stems[slug] * pieces
        if not used:
            continue
        needed = to_buy(item, used, carried)
        one = sold.get(slug)
        if one is None:
            missing.append(item.material.common)
            lines.append(Buying(item, used, needed, None, None, None))
            continue
        count = math.ceil(needed / one.stems)
        lines.append(
            Buying(item, used, needed, count, count * one.stems - needed, count * one.price)
        )
    return Bill(
        pieces,
        tuple(lines),
        sum((x.cost for x in lines if x.cost is not None), Decimal(0)),
        tuple(missing),
        next((b.sign for b in bunches if b.sign), ""),
    )


def _plain(name: str) -> str:
    return " ".join(name.lower().replace("’", "'").split())
