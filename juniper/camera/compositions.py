"""Pieces that are not one vase from the front: groups of vessels, hand-tied bunches, what hangs,
and pieces in the stages of their making. All by chance, from a number (invented).

Coordinates in cm as in juniper.camera.arranging.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from juniper.camera import room
from juniper.camera.arranging import COLOURS, Arrangement, Beside, Item, Piece, _Hand, arrange
from juniper.camera.containers import SHELF, Container
from juniper.camera.flowers import HEADS
from juniper.camera.greenery import FOLIAGE
from juniper.camera.mesh import bezier, frame, joined, linear, tube

# small vessels that a group is made up from, beside those of the shelf
SINGLES = (
    SHELF["bottle"],
    SHELF["bud vase"],
    SHELF["tall cylinder"],
    Container("milk bottle", 17.0, (3.6, 3.8, 3.8, 3.7, 2.6, 1.9, 2.1), "glass"),
    Container("small jar", 9.0, (3.4, 3.8, 3.8, 3.4, 2.9, 3.0)),
    Container("clear jar", 11.0, (3.6, 4.0, 4.0, 3.8, 3.1, 3.2), "glass"),
    Container("narrow neck", 21.0, (3.4, 4.6, 4.9, 3.6, 1.7, 1.3, 1.5), "matt"),
    Container("tumbler", 8.0, (2.9, 3.1, 3.3, 3.5), "metal"),
    Container("beaker", 13.0, (2.7, 2.8, 3.0, 3.3, 3.7)),
)
GLAZES = (
    "#8f9ca8", "#cfc9ba", "#31506f", "#5f6f78", "#2c2c2e", "#e4ddcc",
    "#3c5a48", "#8a5a3c", "#7d8f97", "#b9b2a4", "#a5562f", "#6e2f3a",
)  # fmt: skip
GLASS = "#d5e2dd"
APART = (2.0, 6.5)  # cm between the walls of neighbours
# what has been placed by the end of each stage but the last
PLACED = (
    {"foliage"},
    {"foliage", "line", "main", "second", "third"},
    {"foliage", "line", "main", "second", "third", "mass", "filler", "accent"},
)
FAULTS = ("two alike", "detached", "clash", "far apart")
CLASHING = (("magenta", "orange"), ("red", "rose pink"), ("violet", "flame"))


@dataclass(frozen=True)
class _Single:
    """A vessel of a group and what stands in it; `high` is the tallest over its own height."""

    container: Container
    glaze: str
    high: float
    flowers: tuple[tuple[str, str], ...]
    foliage: str


def _of(rng: np.random.Generator, some):
    some = list(some)
    return some[int(rng.integers(len(some)))]


def _piece(rng: np.random.Generator, form: str, container: str, colours: tuple[str, ...]) -> Piece:
    """A piece before any wall, with nothing in it yet."""
    return Piece(
        container,
        _of(rng, GLAZES),
        form,
        1.5,
        1.0,
        "",
        (_of(rng, HEADS), colours[0]),
        tuple((_of(rng, HEADS), c) for c in colours[1:]),
        None,
        (_of(rng, FOLIAGE), _of(rng, FOLIAGE)),
        table=_of(rng, room.TABLES),
        wall=_of(rng, [w for w in room.WALLS if w not in ("drape", "print")]),
        clutter=bool(rng.random() < 0.15),
        camera=(float(rng.normal(0, 4)), float(rng.uniform(0, 8))),
        light=float(_of(rng, [-1.0, 1.0]) * rng.uniform(0.4, 1.1)),
    )


def group(
    number: int, count: int, faults: tuple[str, ...] = (), vessels: tuple[Container, ...] = SINGLES
) -> Arrangement:
    """A composition of `count` of some `vessels`, with some of FAULTS made on purpose."""
    rng = np.random.default_rng(41_000 + number)
    tie = _of(rng, ["colour", "glass", "none"])
    colours = tuple(rng.permutation(list(COLOURS))[:5])
    singles = [_single(rng, tie, colours, vessels) for _ in range(count)]
    for before, after in zip(range(count), range(1, count), strict=False):
        while abs(singles[after].container.height_cm - singles[before].container.height_cm) < 1.5:
            singles[after] = _single(rng, tie, colours, vessels)
    at = int(rng.integers(max(1, count - 1)))
    if "two alike" in faults:
        singles[at + 1] = replace(singles[at], flowers=singles[at + 1].flowers)
    x, places = 0.0, []
    for n, one in enumerate(singles):
        half = one.container.widest_cm / 2
        gap = rng.uniform(*APART) * (0.35 if count > 6 else 1.0)
        if "far apart" in faults and n == at + 1:
            gap += 16
        x += half + (gap if n else 0)
        row = (n % 2 * 2 - 1) * (3.5 if count < 6 else 5.0) + rng.normal(0, 0.8)
        places.append((x, row))
        x += half * (0.75 if count > 6 else 1.0)
    return _set_out(rng, singles, places, colours, faults)


def _set_out(
    rng,
    singles: list[_Single],
    places: list[tuple[float, float]],
    colours: tuple[str, ...],
    faults: tuple[str, ...],
) -> Arrangement:
    """Vessels with what stands in them on their places."""
    count = len(singles)
    at = int(rng.integers(max(1, count - 1)))
    if "clash" in faults:
        for n, colour in enumerate(_of(rng, CLASHING)):
            kind = singles[at + n].flowers[0][0]
            singles[at + n] = replace(singles[at + n], flowers=((kind, colour),))
    if "detached" in faults:
        tall = max(range(count), key=lambda n: singles[n].container.height_cm)
        singles[tall] = replace(singles[tall], high=3.2)
    first = max(range(count), key=lambda n: singles[n].container.height_cm)
    order = [first, *(n for n in range(count) if n != first)]
    home = np.array(places[first])
    piece = replace(
        _piece(rng, "grouped vessels", "bud vase", colours),
        glaze=singles[first].glaze,
        height=singles[first].high,
        faults=faults,
    )
    done = Arrangement(piece, singles[first].container)
    for number_, n in enumerate(order):
        place = np.array([*(np.array(places[n]) - home), 0.0])
        done.items += _stems(rng, piece, singles[n], place, number_)
        if number_:
            done.others.append(
                Beside(singles[n].container, float(place[0]), float(place[1]), singles[n].glaze)
            )
    lefts, rights = (
        [p[0] + s * c.container.widest_cm / 2 for p, c in zip(places, singles, strict=True)]
        for s in (-1, 1)
    )
    done.middle = float((min(lefts) + max(rights)) / 2 - home[0])
    done.broad = float(max(rights) - min(lefts)) + 8
    return done


# The vessels that the demo's brief sets out on the ticket counter, from the left: what they are,
# their glaze, and their places (cm from the middle, and toward the back).
COUNTER = (
    (
        Container("stoneware bottle", 21.0, (3.4, 4.6, 4.9, 3.6, 1.7, 1.3, 1.5), "matt"),
        "#31506f",
        -21.0,
        2.0,
    ),
    (Container("clear jar", 11.0, (3.6, 4.0, 4.0, 3.8, 3.1, 3.2), "glass"), GLASS, -10.5, -4.0),
    (Container("tall beaker", 25.0, (3.6, 3.7, 3.9, 4.2, 4.6)), "#cfc9ba", 0.0, 3.0),
    (Container("small jar", 8.5, (3.4, 3.8, 3.8, 3.4, 2.9, 3.0)), "#8a5a3c", 10.5, -4.0),
    (
        Container("milk bottle", 17.0, (3.6, 3.8, 3.8, 3.7, 2.6, 1.9, 2.1), "glass"),
        GLASS,
        21.0,
        1.0,
    ),
)  # fmt: skip


def counter_group(number: int, faults: tuple[str, ...] = ()) -> Arrangement:
    """A piece for the demo's brief of several vessels: the vessels of COUNTER nearly where it sets
    them, with any flowers, and some of FAULTS.
    """
    rng = np.random.default_rng(46_000 + number)
    colours = tuple(rng.permutation([c for c in COLOURS if c not in ("green", "lime")])[:4])
    singles = [
        replace(_single(rng, "colour", colours, (c,)), container=c, glaze=glaze)
        for c, glaze, _, _ in COUNTER
    ]
    places = [(x + rng.normal(0, 0.8), y + rng.normal(0, 0.6)) for _, _, x, y in COUNTER]
    return _set_out(rng, singles, places, colours, faults)


def _single(rng, tie: str, colours: tuple[str, ...], vessels: tuple[Container, ...]) -> _Single:
    glass = [c for c in vessels if c.material == "glass"]
    like = _of(rng, glass if tie == "glass" and glass else vessels)
    by = rng.uniform(0.7, 1.25)
    container = replace(
        like,
        height_cm=float(like.height_cm * by),
        profile=tuple(float(v * by * rng.uniform(0.95, 1.05)) for v in like.profile),
    )
    kinds = tuple(
        (_of(rng, HEADS), colours[0] if tie == "colour" and i == 0 else _of(rng, colours))
        for i in range(int(rng.integers(1, 3)))
    )
    glaze = GLASS if container.material == "glass" else _of(rng, GLAZES)
    return _Single(container, glaze, float(rng.uniform(0.55, 1.7)), kinds, _of(rng, FOLIAGE))


def _stems(rng, piece: Piece, one: _Single, place: np.ndarray, vessel: int) -> list[Item]:
    """What stands in one vessel of a group."""
    part = Arrangement(replace(piece, height=one.high), one.container)
    hand = _Hand(part, rng)
    hand.wide, hand.deep = 0.3 * hand.high, 0.2 * hand.high
    for n in range(int(rng.integers(1, 4))):
        kind, colour = one.flowers[n % len(one.flowers)]
        radius = float(np.clip(rng.uniform(0.55, 0.95) * one.container.widest_cm / 2, 1.6, 3.8))
        tip = (
            rng.uniform(-0.8, 0.8) * hand.wide,
            rng.uniform(-0.6, 0.2) * hand.deep,
            max(1.2, hand.high * (1 - 0.27 * n) - radius),
        )
        hand.head(kind, colour, tip, radius * (1 - 0.1 * n), "focal" if not vessel + n else "mass")
    for _ in range(int(rng.integers(0, 3))):
        hand.spray(
            one.foliage, (rng.uniform(-1, 1) * hand.wide, 1.0, hand.high * rng.uniform(0.4, 0.9))
        )
    return [
        replace(
            item,
            parts=[(m, mesh.moved(np.eye(3), place)) for m, mesh in item.parts],
            foot=item.foot + place,
            tip=item.tip + place,
            vessel=vessel,
        )
        for item in part.items
    ]


def hand_tied(number: int, white: bool = True) -> Arrangement:
    """A bunch tied in a spiral that stands on its own stems; before white, or any wall."""
    rng = np.random.default_rng(42_000 + number)
    below = float(rng.uniform(11, 17))
    above = below * float(rng.uniform(1.4, 2.3))
    foot, tie = float(rng.uniform(4.5, 7.0)), float(rng.uniform(1.3, 2.0))
    colours = tuple(rng.permutation(list(COLOURS))[:4])
    piece = replace(
        _piece(rng, "round", "bud vase", colours),
        height=above / below,
        spread=float(rng.uniform(0.85, 1.25)),
    )
    if white:
        piece = replace(piece, wall="plaster white", table="white cloth")
    done = Arrangement(piece, Container("tied stems", below, (foot, tie)), bound=True)
    hand = _Hand(done, rng)
    half, twist = piece.spread * above / 2, float(rng.uniform(0.5, 1.1))
    uneven = float(rng.uniform(0, 0.12))  # of the stems' length, by which ends differ

    def way(tip: np.ndarray) -> np.ndarray:
        """From the table through the tie to a tip given from the tie."""
        turn = np.arctan2(tip[1], tip[0])
        out = min(1.0, np.hypot(*tip[:2]) / half)
        end = np.array([*(foot * out * np.array([np.cos(turn + np.pi - twist),
                                                 np.sin(turn + np.pi - twist)])),
                        -below * (1 - uneven * rng.random())])  # fmt: skip
        # the tie is the waist: halfway round from the foot to the head, as in a true spiral
        half_way = turn + (np.pi - twist) / 2
        through = np.array(
            [*(tie * 0.8 * out * np.array([np.cos(half_way), np.sin(half_way)])), 0.0]
        )
        bend = through + [0.25 * tip[0], 0.25 * tip[1], 0.55 * tip[2]]
        return np.vstack([np.linspace(end, through, 8)[:-1], bezier(through, bend, tip, 16)])

    def path(tip, count: int = 18) -> np.ndarray:
        return way(np.asarray(tip, float)) + hand.rim

    hand.path = path  # type: ignore[method-assign]
    flowers = (piece.focal, *piece.mass)
    for n in range(26):
        kind, colour = flowers[n % len(flowers)]
        radius = float(np.clip(0.13 * above * rng.uniform(0.7, 1.1), 1.6, 4.4))
        up = np.arccos(1 - rng.random() * 0.95)
        turn = rng.uniform(0, 2 * np.pi)
        tip = np.array(
            [half * np.sin(up) * np.cos(turn), half * np.sin(up) * np.sin(turn),
             above * (0.42 + 0.58 * np.cos(up)) - radius]
        )  # fmt: skip
        if hand.free(tip, radius, 0.7):
            face = tip / np.linalg.norm(tip) + [0, -0.3, 0.1]
            hand.head(kind, colour, tip, radius, "focal" if n == 0 else "mass", face=face)
    for n in range(16):
        turn = 2 * np.pi * n / 16
        low = 0.3 if n % 2 else 0.72
        tip = half * (1.1 - 0.5 * low) * np.array([np.cos(turn), np.sin(turn)])
        whole = path((*tip, above * low))
        bare = int(np.searchsorted(whole[:, 2], below + 0.1 * above))  # stripped below the tie
        hand.spray(piece.foliage[n % 2], None, curve=whole[bare:])
        stem = ("stem", tube(whole[: bare + 1], 0.16, linear("#5c7c42")))
        done.items[-1] = replace(done.items[-1], parts=[*done.items[-1].parts, stem])
    ring, girth = np.linspace(0, 2 * np.pi, 30), 0.8 * tie + 0.2
    binding = [
        tube(
            np.column_stack([girth * np.cos(ring), girth * np.sin(ring), 0 * ring + z]) + hand.rim,
            0.15,
            linear("#c9b890"),
            8,
        )
        for z in np.linspace(-0.9, 0.9, 6)
    ]
    done.items.append(
        Item("tie", "holding", "", "", [("matt", joined(binding))], hand.rim, hand.rim,
             label="holding")
    )  # fmt: skip
    return done


def lying(done: Arrangement) -> Arrangement:
    """A hand-tied bunch laid on its side on the table."""
    turn = np.array([[0.0, 0, 1], [0, 1, 0], [-1, 0, 0]])
    corners = np.concatenate([m.corners @ turn.T for i in done.items for _, m in i.parts])
    shift = np.array([-corners[:, 0].mean(), 0.0, -corners[:, 2].min()])
    items = [
        replace(i, parts=[(m, mesh.moved(turn, shift)) for m, mesh in i.parts]) for i in done.items
    ]
    wide = float(np.ptp(corners[:, 0]))
    return replace(done, items=items, middle=0.01, broad=wide)


def cascade(number: int) -> Arrangement:
    """A piece that hangs over the rim of a tall vessel on a stand, to one side or both."""
    rng = np.random.default_rng(43_000 + number)
    colours = tuple(rng.permutation(list(COLOURS))[:4])
    name = _of(rng, ["urn on a foot", "flared vase", "tapered bucket", "ginger jar"])
    piece = replace(_piece(rng, "round", name, colours), height=float(rng.uniform(0.7, 1.1)),
                    spread=float(rng.uniform(1.1, 1.5)))  # fmt: skip
    done = arrange(piece, 44_000 + number)
    done.floor, done.stand = 26.0, (14.0, 13.0)
    hand = _Hand(done, rng)
    reach = float(rng.uniform(0.7, 1.35)) * done.container.height_cm
    side, rim = float(_of(rng, [-1.0, 1.0])), done.container.rim_cm
    for n in range(11):
        share = 1.0 if n == 0 else float(rng.uniform(0.4, 0.95))
        way = side * (0.25 + 0.5 * rng.random()) * rim
        t = np.linspace(0, 1, 18)[:, None]
        over = np.array([way, -1.1 * rim, 2.0])
        low = np.array([way * (1 + 0.5 * rng.random()), -1.45 * rim, -reach * share])
        start = np.array([0.2 * way, -0.2 * rim, -1.5])
        points = (1 - t) ** 2 * start + 2 * t * (1 - t) * (over * [1, 1, 2.2]) + t**2 * low
        curve = points + hand.rim
        if n % 3 == 2:
            kind, colour = piece.mass[n % len(piece.mass)]
            radius = 0.05 * done.container.height_cm * (1.6 - share)
            head = HEADS[kind](rng, radius, COLOURS[colour][0])
            parts = [
                (m, mesh.moved(frame(np.array([0.1 * side, -0.9, 0.1])), curve[-1]))
                for m, mesh in head
            ]
            parts.append(("stem", tube(curve, 0.14, linear("#5c7c42"))))
            done.items.append(Item(kind, "mass", *COLOURS[colour], parts, curve[0], curve[-1],
                                   radius))  # fmt: skip
        else:
            hand.spray(_of(rng, ("ivy", "ruscus", "eucalyptus")), None, curve=curve)
    return done


def garland(number: int) -> Arrangement:
    """A rope of foliage along the front edge of a shelf, with groups of flowers, that falls over it
    at both ends to different lengths.
    """
    rng = np.random.default_rng(45_000 + number)
    half, deep, edge = float(rng.uniform(34, 46)), 11.0, -11.2
    falls = sorted(rng.uniform(10, 34, 2), reverse=bool(rng.random() < 0.5))
    colours = tuple(rng.permutation(list(COLOURS))[:4])
    piece = _piece(rng, "round", "bud vase", colours)
    high = float(max(falls))
    done = Arrangement(
        replace(piece, height=0.3), Container("edge", high, (half, half)), bound=True
    )
    done.floor, done.stand, done.broad = 60.0, (half + 8, deep), 2 * half + 20
    hand = _Hand(done, rng)
    rope = [np.array([x, edge + 1.5, 1.2]) for x in np.linspace(-half, half, 40)]
    left = [np.array([-half - 0.5, edge - 0.6, -z]) for z in np.linspace(0.5, float(falls[0]), 14)][
        ::-1
    ]
    right = [np.array([half + 0.5, edge - 0.6, -z]) for z in np.linspace(0.5, float(falls[1]), 14)]
    line = np.array([*left, *rope, *right])
    for n in range(0, len(line) - 3):
        along = line[n + 1] - line[n]
        for _ in range(3):
            tip = line[n] + along * 3 + rng.normal(0, 1.6, 3) - [0, 0.9, 0]
            curve = bezier(line[n], line[n] + along * 1.5 + rng.normal(0, 0.5, 3), tip, 8)
            hand.spray(_of(rng, piece.foliage), None, curve=curve)
    for n, at in enumerate((-0.62, -0.1, 0.05, 0.15, 0.55, 0.68)):
        kind, colour = (piece.focal, *piece.mass)[0 if n in (1, 2, 3) else 1 + n % len(piece.mass)]
        radius = 3.4 if n in (1, 2, 3) else 2.4
        spot = np.array([at * half, edge - 1.0 - rng.random(), 2.0 + rng.uniform(-0.6, 0.8)])
        head = HEADS[kind](rng, radius, COLOURS[colour][0])
        parts = [(m, mesh.moved(frame(np.array([0.1, -0.9, 0.35])), spot)) for m, mesh in head]
        done.items.append(
            Item(kind, "focal" if n in (1, 2, 3) else "mass", *COLOURS[colour], parts, spot, spot,
                 radius)
        )  # fmt: skip
    return done


def stage_of(done: Arrangement, number: int) -> Arrangement:
    """An arrangement as it stood at the end of a stage of its making, the first 0."""
    if number >= len(PLACED):
        return done
    return replace(
        done, items=[i for i in done.items if i.role in PLACED[number] or i.label == "holding"]
    )


# What is traced for the roll beside its pieces: a name, how it is made, and whether the picture is
# wider than high.
COMPOSITIONS: dict[str, tuple[Callable[[], Arrangement], bool]] = {
    **{
        f"counter-{n}": (partial(counter_group, n, faults), True)
        for n, faults in enumerate(((), ("clash",), ("detached",), (), (), ("clash",)))
    },
    "group-3": (partial(group, 901, 3), False),
    "group-5": (partial(group, 902, 5), True),
    "group-10": (partial(group, 903, 10), True),
    "tied-0": (partial(hand_tied, 911), False),
    "tied-1": (partial(hand_tied, 912), False),
    "tied-2": (partial(hand_tied, 913, False), False),
    "tied-lying": (lambda: lying(hand_tied(914)), True),
    "cascade-0": (partial(cascade, 921), False),
    "cascade-1": (partial(cascade, 922), False),
    "garland-0": (partial(garland, 931), True),
}
# pieces of the roll that are photographed at the stages of their making as well
STAGED = (0, 12, 13, 18, 20, 25)
