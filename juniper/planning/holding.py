"""What holds the stems: chosen from the container and the stems that go into it, foam-free first
(handbook section 5, common practice).
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from juniper.lengths import length, number
from juniper.patterns import Mechanic, Pattern
from juniper.planning.materials import Material
from juniper.planning.stems import ContainerSize

STEMS = ("thin", "thick", "woody", "soft", "heavy", "dried")
SHALLOW, FLAT = 8.0, 0.5  # cm, and of its width: a container no higher is shallow
NARROW = 6.0  # cm: a mouth that holds stems by itself
# sheet of mesh over the container's width: about 30 by 15 cm for a vase of 10 to 11 cm
SHEET = (2.8, 1.4)
HEAVY_HEAD = 13.0  # cm: a head so wide weighs on its stem
PIN = 0.33  # of the width: a pin holder's diameter
PIN_LEAST, PIN_MOST = 5.0, 12.0  # cm


@dataclass(frozen=True)
class Holding:
    """One holding material: how much of it, how it is fixed and hidden, why it suits; `cautions`
    names what can hurt (see cautions).
    """

    name: str
    amount: str
    fixed: str
    hidden: str
    why: str
    cautions: tuple[str, ...] = ()


def choose_holding(
    container: ContainerSize,
    stems: tuple[str, ...] = (),
    clear: bool = False,
    carried: bool = False,
    foam: str = "no-foam",
    pattern: Pattern | None = None,
) -> tuple[Holding, ...]:
    """Holding materials for a container, the one to take first, then those that other schools
    would; `stems` are some of STEMS, `clear` whether the wall is glass, `carried` whether the
    finished piece travels, `foam` the school's way with it (see juniper.planning.ways). What a
    `pattern` of its own holds by comes first. Raises ValueError for a kind of stem that is not
    known.
    """
    unknown = set(stems) - set(STEMS)
    if unknown:
        raise ValueError(
            f"No kind of stem is called {sorted(unknown)[0]}; there are: {', '.join(STEMS)}."
        )
    heavy = bool({"thick", "heavy"} & set(stems))
    order = _order(container, set(stems), clear, carried)
    own = pattern.holds(vessel_traits(container, clear)) if pattern else None
    if own is not None and (own.hold in BY_THEMSELVES or own.says):
        first = _named(container, heavy, own)
        if own.hold in BY_THEMSELVES:
            return (first, *[h for h in order if h.name != first.name][:2])
        order = [first, *(h for h in order if h.name != first.name)]
    block = _foam()
    if block in order and (foam == "foam" or (foam == "heavy-only" and heavy)):
        order = [block, *(h for h in order if h != block)]
    return tuple(order)


def _order(container: ContainerSize, stems: set[str], clear: bool, carried: bool) -> list[Holding]:
    """Holding materials for a vessel and its kinds of stem, the one to take first."""
    heavy = bool({"thick", "heavy"} & stems)
    pin, mesh, grid = _pin(container), _mesh(container, heavy), _grid(container)
    shallow = "shallow" in vessel_traits(container, clear)
    if shallow and clear:  # nothing that must be hidden
        return [_pebbles(), _woven(), grid]
    if shallow:
        return [pin, mesh, _foam()] if heavy or not carried else [mesh, pin, _foam()]
    if stems == {"dried"}:
        return [_wire(), mesh, grid]
    if container.width <= NARROW:
        return [_neck(), _woven()]
    if clear:
        return [grid, _woven(), _pebbles()]
    return [mesh, pin, _foam()] if heavy else [mesh, grid, _woven(), _foam()]


def vessel_traits(container: ContainerSize, clear: bool) -> frozenset[str]:
    """What of juniper.patterns' vessels a container is, as far as holding depends on it."""
    shallow = container.height <= SHALLOW or container.height <= FLAT * container.width
    found = {"shallow" if shallow else "deep"}
    if container.width <= NARROW:
        found.add("narrow")
    if clear:
        found.add("clear")
    return frozenset(found)


# ways of holding that are the pattern's own, whatever the vessel
BY_THEMSELVES = frozenset({"flower heads", "twine", "wired rope", "interlaced foliage"})


def _named(container: ContainerSize, heavy: bool, mechanic: Mechanic) -> Holding:
    """A holding material by what a pattern calls it, with what the pattern says of it."""
    made = {
        "pin holder": lambda: _pin(container),
        "folded mesh": lambda: _mesh(container, heavy),
        "tape grid": lambda: _grid(container),
        "neck": _neck,
        "interlaced foliage": _woven,
        "glass pebbles": _pebbles,
        "coiled wire": _wire,
        "flower heads": _heads,
        "twine": _twine,
        "wired rope": _rope,
    }[mechanic.hold]()
    return replace(made, why=mechanic.says or made.why)


TEXTURES = {
    "woody": "woody",
    "soft": "soft",
    "milky": "soft",
    "bulb": "soft",
    "dried": "dried",
    "hollow": "thick",
    "leaf": "thick",
}


def kinds_of_stem(materials: tuple[Material, ...]) -> tuple[str, ...]:
    """The kinds of stem (of STEMS) that some materials have: by their texture, and heavy by their
    head.
    """
    found = {TEXTURES.get(m.texture, "thin") for m in materials} | {
        "heavy" for m in materials if m.across >= HEAVY_HEAD and m.role != "foliage"
    }
    return tuple(k for k in STEMS if k in found)


def _pin(container: ContainerSize) -> Holding:
    wide = min(PIN_MOST, max(PIN_LEAST, PIN * container.width))
    return Holding(
        "Pin holder",
        f"one of about {length(wide, 0)} across",
        "pressed with putty on a bowl that is dry and clean",
        "pebbles, moss or a low leaf",
        "A shallow vessel gives stems no wall to lean on; pins hold each by itself, and can be used"
        " for years.",
        ("pins",),
    )


def _mesh(container: ContainerSize, heavy: bool) -> Holding:
    long, short = (5 * round(side * container.width / 5) or 5 for side in SHEET)
    return Holding(
        "Folded mesh" + (" over a pin holder" if heavy else ""),
        f"a sheet of about {number(long, 0)} by {length(short, 0)}, folded to a loose ball",
        "wedged below the rim, not crushed, and taped across it"
        + ("; the pin holder takes the weight" if heavy else ""),
        "foliage over the rim, set first",
        "It holds stems of every thickness at every angle, lets them drink, and is used again.",
        ("mesh",),
    )


def _grid(container: ContainerSize) -> Holding:
    lines = max(2, round(container.width / 4))
    return Holding(
        "Tape grid",
        f"{lines} strips each way across the rim",
        "on a dry rim, ends turned down a finger's breadth",
        "foliage and low flowers over the rim",
        "It cannot be seen in the water, and leaves the stems of a clear vessel to be looked at.",
    )


def _woven() -> Holding:
    return Holding(
        "Interlaced foliage",
        "three to five forked stems",
        "crossed in the neck, each holding the next",
        "it is part of the piece",
        "Nothing is added that must be hidden or thrown away; it wants a practised hand.",
    )


def _pebbles() -> Holding:
    return Holding(
        "Glass pebbles",
        "a third of the height",
        "poured in round the stems",
        "they are meant to be seen",
        "They hold a few stems in glass; marbles do not, they roll.",
        ("glass",),
    )


def _foam() -> Holding:
    return Holding(
        "Foam piece",
        "as wide as the rim, a finger's breadth above it",
        "soaked by sinking by itself, taped across",
        "foliage over all of it",
        "It holds heavy thick stems at any angle, once only in each place; it cannot be used again,"
        " and many schools do without.",
        ("foam",),
    )


def _wire() -> Holding:
    return Holding(
        "Coiled wire",
        "two or three loose coils",
        "wedged in the mouth, dry",
        "moss, or the stems themselves",
        "Dried stems need no water, and snap in a tight hold.",
        ("mesh",),
    )


def _neck() -> Holding:
    return Holding(
        "The neck itself",
        "nothing",
        "stems crossed once in the neck",
        "nothing to hide",
        "So narrow a mouth holds a few stems upright by itself.",
    )


def _heads() -> Holding:
    return Holding(
        "Natural base of flower heads",
        "three broad heads in a triangle",
        "stems crossed in the neck, heads at the rim",
        "nothing to hide: they are part of the piece",
        "Every other stem is held by the heads that it goes through.",
    )


def _twine() -> Holding:
    return Holding(
        "Tie",
        "twine or raffia, three times the bunch's girth",
        "twice round at the binding point, tied on itself",
        "ribbon over it, if it is to be seen",
        "Stems laid on at one slant lock one another; the tie only keeps them so.",
        ("knives",),
    )


def _rope() -> Holding:
    return Holding(
        "Cord or wire along the edge",
        "as long as the edge and its falls, and a hand more at each end",
        "small bunches bound on, each over the ends of the last",
        "foliage all round",
        "A bound rope bends round a corner and hangs in one line.",
        ("mesh",),
    )
