"""Arranges a piece: from form, sizes, kinds and named faults to stems, heads and leaves in space.

Coordinates in cm: x to the viewer's right, y away from the viewer, z up from the table.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from juniper.camera import containers, flowers, greenery
from juniper.camera.containers import SHELF, Container
from juniper.camera.flowers import Parts
from juniper.camera.mesh import Mesh, about_z, bezier, frame, joined, linear, tube
from juniper.colour.circle import STEPS

# Flower colours by name: sRGB as it would be in even light, and its step on the artists' circle.
COLOURS = {
    "yellow": ("#f2c81f", "yellow"),
    "primrose": ("#f3e08a", "yellow"),
    "apricot": ("#f0a84a", "yellow-orange"),
    "amber": ("#eca01c", "yellow-orange"),
    "orange": ("#e8761c", "orange"),
    "coral": ("#e4603c", "red-orange"),
    "flame": ("#d8461e", "red-orange"),
    "red": ("#b5202a", "red"),
    "crimson": ("#8e1626", "red"),
    "pink": ("#e79aa6", "red"),
    "rose pink": ("#cf5a78", "red"),
    "magenta": ("#a3246c", "red-violet"),
    "orchid": ("#c283bd", "red-violet"),
    "violet": ("#5d2f8c", "violet"),
    "lilac": ("#a98bcb", "violet"),
    "indigo": ("#433f9c", "blue-violet"),
    "blue": ("#3763b4", "blue"),
    "sky": ("#86a9dc", "blue"),
    "white": ("#f1efe6", "white"),
    "cream": ("#f1e4c4", "cream"),
    "lime": ("#b6c64a", "yellow-green"),
    "green": ("#6f9a45", "green"),
}

_TRIANGLE = [
    (-1, 0.03),
    (-0.55, 0.36),
    (0, 1),
    (0.55, 0.36),
    (1, 0.03),
    (0.45, -0.05),
    (-0.45, -0.05),
]
_DOME = [(np.cos(a), 0.02 + 0.98 * np.sin(a)) for a in np.linspace(0, np.pi, 17)] + [
    (-0.7, -0.08),
    (0.7, -0.08),
]

# Outline (x in half widths, z in plant heights) and the tips that draw it.
REGIONS = {
    "symmetrical triangle": (
        _TRIANGLE,
        [
            (0, 1),
            (-0.24, 0.74),
            (0.25, 0.76),
            (-0.5, 0.47),
            (0.52, 0.45),
            (-0.78, 0.22),
            (0.77, 0.21),
            (-1, 0.03),
            (1, 0.04),
        ],
    ),
    "round": (
        _DOME,
        [(np.cos(a), 0.05 + 0.95 * np.sin(a)) for a in np.linspace(0.05, np.pi - 0.05, 13)],
    ),
    "fan": (
        [
            (0, 0),
            *[(np.cos(a), 0.04 + 0.96 * np.sin(a)) for a in np.linspace(0.1, np.pi - 0.1, 15)],
        ],
        [(np.cos(a), 0.04 + 0.96 * np.sin(a)) for a in np.linspace(0.12, np.pi - 0.12, 11)],
    ),
    "vertical": (
        [(-0.8, 0), (-1, 0.3), (-0.75, 0.7), (0, 1), (0.75, 0.7), (1, 0.3), (0.8, 0)],
        [(0, 1), (-0.4, 0.82), (0.45, 0.74), (-0.8, 0.5), (0.8, 0.42), (-1, 0.15), (1, 0.1)],
    ),
    "horizontal low": (
        [(-1, 0.12), (-0.5, 0.7), (0, 1), (0.5, 0.7), (1, 0.12), (0.6, -0.12), (-0.6, -0.12)],
        [(0, 1), (-0.35, 0.82), (0.35, 0.8), (-0.7, 0.5), (0.7, 0.52), (-1, 0.12), (1, 0.14)],
    ),
    "garden": (
        [
            (-1, 0.2),
            (-0.85, 0.62),
            (-0.35, 0.9),
            (0.15, 0.8),
            (0.4, 1),
            (0.8, 0.7),
            (1, 0.25),
            (0.8, -0.2),
            (0, -0.1),
            (-0.6, -0.18),
        ],
        [
            (0.4, 1),
            (-0.35, 0.92),
            (-0.8, 0.64),
            (0.82, 0.72),
            (-1, 0.2),
            (1, 0.25),
            (0.75, -0.25),
            (-0.55, -0.2),
            (0.1, 0.85),
        ],
    ),
}

# Arms (bend, tip, half thickness at foot and at tip in plant heights) of forms that are lines
# first.
ARMS = {
    "right-angle L": [
        ((-0.32, 0.5), (-0.3, 1.0), 0.17, 0.06),
        ((0.4, 0.02), (1.0, 0.07), 0.15, 0.05),
    ],
    "crescent": [
        ((-1.05, 0.32), (-0.55, 1.0), 0.16, 0.05),
        ((0.75, -0.06), (1.0, 0.38), 0.16, 0.05),
    ],
    "S-curve": [((-0.95, 0.55), (0.5, 1.0), 0.16, 0.05), ((0.95, 0.06), (0.62, -0.42), 0.14, 0.05)],
}
FORMS = (*REGIONS, *ARMS, "three-stem", "grouped vessels")


@dataclass(frozen=True)
class Piece:
    """What is arranged: a container of the shelf, a form, kinds and colours, and faults made on
    purpose.

    `height` is plant height over container height; `spread` plant width over plant height; flowers
    are (kind, colour) from the focal flower outward; `air` thins foliage and mass for line and
    garden styles. `shape` is a container that is not on the shelf; `jumble` sets any things about
    behind the piece; `lead` is how much broader than usual the focal flowers are, 0 for none and
    all masses alike; `amount` how far the faults go.
    """

    container: str
    glaze: str
    form: str
    height: float
    spread: float
    scheme: str
    focal: tuple[str, str]
    mass: tuple[tuple[str, str], ...]
    line: tuple[str, str] | None = None
    foliage: tuple[str, ...] = ("ruscus", "eucalyptus")
    filler: tuple[str, str] | None = None
    air: float = 0.0
    mirror: bool = False
    faults: tuple[str, ...] = ()
    table: str = "oak"
    wall: str = "plaster grey"
    clutter: bool = False
    card_yaw: float | None = None
    views: bool = False
    camera: tuple[float, float] = (0.0, 0.0)
    light: float = -1.0
    shape: Container | None = None
    jumble: bool = False
    lead: float = 1.0
    amount: float = 1.0


# made for eye practice only
EYE_FAULTS = ("bare stem", "crossing stems")
FAULTS = (
    "off-balance",
    "twin tips",
    "no focal",
    "focal too high",
    "stray accent",
    "bare rim",
    "visible mesh",
    "gap",
    "too tall",
    "too squat",
    "top heavy",
)


@dataclass(frozen=True, eq=False)
class Item:
    """One stem with what it carries; `size_cm` is a head's radius, `vessel` the number of the one
    that it stands in, the first 0.
    """

    kind: str
    role: str
    colour: str
    hue: str
    parts: Parts
    foot: np.ndarray
    tip: np.ndarray
    size_cm: float = 0.0
    label: str = "plant"
    vessel: int = 0


@dataclass(frozen=True)
class Beside:
    """A further vessel of a composition: its place on the table, cm from the first one's axis, and
    its glaze (the piece's own if '').
    """

    container: Container
    x: float
    y: float
    glaze: str = ""


@dataclass(eq=False)
class Arrangement:
    """Items of a piece on their containers, in centimetres, with its container's axis through the
    origin. `middle` and `broad` are where a composition's middle stands and how wide it is, 0 for a
    single vessel; one that is `bound` has no container but stems below its tie, as high and as wide
    as `container` says; `floor` is how far the table lies below what the piece stands on, and
    `stand` the half width and half depth of that, where it is no table. `spots` are the places of
    the faults made on purpose, by fault, cm.
    """

    piece: Piece
    container: Container
    items: list[Item] = field(default_factory=list)
    others: list[Beside] = field(default_factory=list)
    middle: float = 0.0
    broad: float = 0.0
    bound: bool = False
    floor: float = 0.0
    stand: tuple[float, float] | None = None
    spots: dict[str, list[np.ndarray]] = field(default_factory=dict)

    @property
    def plant_cm(self) -> float:
        """Intended plant height over the rim."""
        return self.piece.height * self.container.height_cm


class _Hand:
    """Places stems one by one and remembers what stands where."""

    def __init__(self, done: Arrangement, rng: np.random.Generator):
        self.done, self.rng = done, rng
        self.taken: list = []
        self.rim = np.array([0.0, 0.0, done.container.height_cm])
        self.high = done.plant_cm
        self.wide = done.piece.spread * self.high / 2
        self.deep = min(self.wide, 0.9 * self.high) * 0.62

    def path(self, tip, count=18) -> np.ndarray:
        """A stem's way from inside the container through the rim to a tip given from the rim's
        middle.
        """
        c, tip = self.done.container, np.asarray(tip, float)
        reach = 0.62 * c.rim_cm
        depth = reach if c.depth_cm is None else 0.35 * c.depth_cm
        through = np.array(
            [np.clip(0.42 * tip[0], -reach, reach), np.clip(0.42 * tip[1], -depth, depth), 0.0]
        )
        if c.material == "glass":
            foot = np.array([-0.55 * through[0], -0.55 * through[1], -0.9 * c.height_cm])
        else:
            foot = through * 0.5 - [0, 0, min(3.0, 0.6 * c.height_cm)]
        lift = max(0.55 * tip[2], 2.2)
        bend = through + [0.3 * (tip[0] - through[0]), 0.3 * (tip[1] - through[1]), lift]
        bend += self.rng.normal(0, 0.02 * self.high, 3) * [1, 1, 0]
        return np.vstack([foot[None], bezier(through, bend, tip, count)]) + self.rim

    def free(self, spot, radius, near=0.86) -> bool:
        return all(np.linalg.norm(spot - other) > near * (radius + r) for other, r in self.taken)

    def head(self, kind, colour, tip, radius, role, face=None) -> None:
        rng = self.rng
        hexa, hue = COLOURS[colour]
        tip = np.asarray(tip, float)
        path = self.path(tip)
        along = path[-1] - path[-3]
        front = np.array(
            [0.12 * np.sign(tip[0]), -0.75 if tip[1] < 0.35 * self.deep else 0.6, 0.28]
        )
        way = (
            face
            if face is not None
            else 0.55 * along / np.linalg.norm(along) + front + rng.normal(0, 0.16, 3)
        )
        head = (flowers.HEADS | flowers.MORE_HEADS)[kind](rng, radius, hexa)
        parts = [(m, mesh.moved(frame(way), path[-1])) for m, mesh in head]
        parts.append(
            (
                "stem",
                tube(
                    path, 0.22 if radius > 2 else 0.14, linear("#5c7c42") * rng.uniform(0.85, 1.1)
                ),
            )
        )
        self.taken.append((tip, radius))
        self.done.items.append(Item(kind, role, hexa, hue, parts, path[0], path[-1], radius))

    def stalk(self, kind, colour, path, radius) -> None:
        """A head on a stem along a given way, facing the front."""
        hexa, hue = COLOURS[colour]
        head = (flowers.HEADS | flowers.MORE_HEADS)[kind](self.rng, radius, hexa)
        parts = [(m, mesh.moved(frame((0, -0.8, 0.5)), path[-1])) for m, mesh in head]
        parts.append(("stem", tube(path, 0.22, linear("#5c7c42"))))
        self.taken.append((path[-1] - self.rim, radius))
        self.done.items.append(Item(kind, "mass", hexa, hue, parts, path[0], path[-1], radius))

    def spike(self, kind, colour, tip, length, role="line", curve=None) -> None:
        hexa, hue = COLOURS[colour]
        path = self.path(tip) if curve is None else curve
        lengths = np.linalg.norm(np.diff(path, axis=0), axis=1)[::-1].cumsum()
        back = min(int(np.searchsorted(lengths, length)) + 1, len(path) - 2)
        start = path[-1 - back]
        straight = (flowers.SPIKES | flowers.MORE_SPIKES)[kind](self.rng, length, hexa)
        parts = [(m, _bent(mesh, path[-1 - back :], length)) for m, mesh in straight]
        parts.append(("stem", tube(path[: len(path) - back], 0.2, linear("#5c7c42"))))
        self.done.items.append(Item(kind, role, hexa, hue, parts, path[0], path[-1], 1.2))
        self.taken.append((0.5 * (start + path[-1]) - self.rim, 1.5))

    def spray(self, kind, tip, role="foliage", colour=None, curve=None) -> None:
        path = self.path(tip) if curve is None else curve
        maker = (greenery.FOLIAGE | greenery.FILLERS | greenery.MORE_FILLERS)[kind]
        hexa, hue = COLOURS[colour] if colour else ("", "")
        parts = maker(self.rng, path, hexa) if colour else maker(self.rng, path)
        self.done.items.append(Item(kind, role, hexa, hue, parts, path[0], path[-1]))


def _bent(mesh, path, length):
    """A straight upright part bent along a path."""
    s = np.concatenate([[0], np.linalg.norm(np.diff(path, axis=0), axis=1).cumsum()])
    z = np.clip(mesh.corners[:, 2] / max(length, 1e-6), 0, 1) * s[-1]
    spine = np.column_stack([np.interp(z, s, path[:, i]) for i in range(3)])
    ahead = np.column_stack(
        [np.interp(np.minimum(z + 0.4, s[-1]), s, path[:, i]) for i in range(3)]
    )
    behind = np.column_stack([np.interp(np.maximum(z - 0.4, 0), s, path[:, i]) for i in range(3)])
    way = ahead - behind
    way /= np.linalg.norm(way, axis=1, keepdims=True) + 1e-9
    x = np.cross([0.0, 1.0, 0.0], way)
    x /= np.linalg.norm(x, axis=1, keepdims=True) + 1e-9
    y = np.cross(way, x)
    over = np.maximum(mesh.corners[:, 2:3] - length, 0)
    return type(mesh)(
        spine + mesh.corners[:, :1] * x + mesh.corners[:, 1:2] * y + over * way,
        mesh.faces,
        mesh.colours,
    )


def arrange(piece: Piece, seed: int) -> Arrangement:
    """Arrange a piece; the same seed, the same piece."""
    rng = np.random.default_rng(seed)
    done = Arrangement(piece, piece.shape or SHELF[piece.container])
    if piece.form == "grouped vessels":
        return _grouped(done, rng)
    hand = _Hand(done, rng)
    if piece.form == "three-stem":
        _three_stem(hand)
    else:
        _outline(hand)
        _focal(hand)
        _mass(hand)
        _fill(hand)
        if "gap" in piece.faults and piece.amount > 1:
            _hoop(hand)
    if not {"bare rim", "top heavy"} & set(piece.faults) and piece.form != "three-stem":
        _collar(hand)
    if "visible mesh" in piece.faults:
        _mesh(hand)
    if "bare stem" in piece.faults:
        _bare_stem(hand)
    if "crossing stems" in piece.faults:
        _crossing(hand)
    if "stray accent" in piece.faults:
        hand.head(
            "anemone",
            _stranger(piece),
            (0.62 * hand.wide, -0.2 * hand.deep, 0.5 * hand.high),
            0.06 * hand.high + 1,
            "accent",
        )
        done.spots["stray accent"] = [done.items[-1].tip]
    return done


def _bare_stem(hand: _Hand) -> None:
    """One bloom on a long naked stem, well out of the rest."""
    piece, side = hand.done.piece, -1 if hand.done.piece.mirror else 1
    tip = (side * 1.15 * hand.wide, -0.9 * hand.deep, 0.78 * hand.high)
    kind, colour = piece.mass[0]
    hand.head(kind, colour, tip, 0.05 * hand.high + 1, "mass")
    path = hand.path(tip)
    hand.done.spots["bare stem"] = [*path[round(0.4 * len(path)) :]]


def _crossing(hand: _Hand) -> None:
    """Two stems that cross in front of the rest, high over the rim."""
    piece = hand.done.piece
    kind, colour = piece.mass[-1]
    curves = []
    for side in (-1, 1):
        foot = hand.rim + [-side * 0.4 * hand.done.container.rim_cm, -0.5 * hand.deep, -1.0]
        bend = hand.rim + [-side * 0.85 * hand.wide, -1.2 * hand.deep, 0.5 * hand.high]
        tip = hand.rim + [side * 0.5 * hand.wide, -0.9 * hand.deep - 1 - side, 1.0 * hand.high]
        curves.append(bezier(foot, bend, tip, 40))
        hand.stalk(kind, colour, curves[-1], 0.05 * hand.high + 0.8)
    right = curves[1]
    above = np.flatnonzero(right[:, 0] > 0)
    cross = right[above[above > 3][0]]
    hand.done.spots["crossing stems"] = [cross]


def _stranger(piece: Piece) -> str:
    used = {COLOURS[c][1] for _, c in (piece.focal, *piece.mass)}
    if piece.amount > 1:
        # The colour that lies furthest round the circle from all others.
        steps = [STEPS.index(h) for h in used if h in STEPS]

        def away(colour: str) -> int:
            turn = [STEPS.index(COLOURS[colour][1]) - s for s in steps]
            return min((min(t % 12, -t % 12) for t in turn), default=0)

        return max(("crimson", "orange", "yellow", "blue", "violet", "magenta"), key=away)
    return "indigo" if used & {"yellow", "yellow-orange", "orange", "red-orange"} else "amber"


def _curve(hand: _Hand, arm, share=1.0, off=0.0) -> np.ndarray:
    """Path along an arm of a line form, shifted aside by `off` plant heights."""
    bend, tip = np.array(arm[0]), np.array(arm[1])
    flip = -1 if hand.done.piece.mirror else 1
    scale = np.array([flip * hand.wide, hand.high])
    t = np.linspace(0, share, 20)[:, None]
    flat = (2 * t * (1 - t) * bend + t**2 * tip) * scale
    along = np.gradient(flat, axis=0)
    aside = np.column_stack([-along[:, 1], along[:, 0]]) / (
        np.linalg.norm(along, axis=1, keepdims=True) + 1e-9
    )
    flat = flat + aside * off * hand.high * t
    depth = hand.rng.normal(0, 0.25) * hand.deep * np.linspace(0, 1, 20)
    points = np.column_stack(
        [
            flat[:, 0],
            depth,
            flat[:, 1] + np.maximum(0, 1.5 * np.sin(np.pi * t[:, 0])) * (tip[1] < 0.3),
        ]
    )
    foot = np.array([[0.2 * points[3, 0], 0, -min(3.0, 0.6 * hand.done.container.height_cm)]])
    return np.vstack([foot, points]) + hand.rim


def _arms(hand: _Hand) -> None:
    """Lines along the arms of a form of lines: the first as long as the arm, four beside it."""
    piece, rng = hand.done.piece, hand.rng
    for arm in ARMS[piece.form]:
        for i in range(5):
            share, off = (
                (1.0, 0.0)
                if i == 0
                else (rng.uniform(0.55, 0.92), rng.uniform(-1, 1) * arm[2] * 0.9)
            )
            curve = _curve(hand, arm, share, off)
            if piece.line and i < 3:
                far = np.linalg.norm(np.diff(curve, axis=0), axis=1).sum()
                hand.spike(*piece.line, None, min(0.42 * far, 15), curve=curve)
            else:
                hand.spray(piece.foliage[i % len(piece.foliage)], None, curve=curve)


def _outline(hand: _Hand) -> None:
    piece, rng = hand.done.piece, hand.rng
    if piece.form in ARMS:
        _arms(hand)
        return
    tips = list(REGIONS[piece.form][1])
    if "twin tips" in piece.faults:
        tips = [(0, 0.76), (-0.34, 1), (0.34, 0.99), *[t for t in tips if t[1] < 0.6]]
        flip = -1 if piece.mirror else 1
        hand.done.spots["twin tips"] = [
            hand.rim + [flip * x * hand.wide, 0, z * hand.high] for x, z in tips[1:3]
        ]
    for n, (x, z) in enumerate(tips):
        if "off-balance" in piece.faults and x > 0.1 and z < 0.9:
            x, z = 0.45 * x / piece.amount, 0.7 * z  # noqa: PLW2901
        depth = rng.normal(0, 0.12) * hand.deep
        if piece.mirror:
            x = -x  # noqa: PLW2901
        if "gap" in piece.faults and piece.amount > 1 and _through_gap(piece, x, z):
            continue
        if "top heavy" in piece.faults and z < 0.55:
            continue
        tip = np.array([x * hand.wide, depth, z * hand.high])
        if piece.line and (n % 2 == 0 or (n < 3 and "twin tips" in piece.faults)):
            hand.spike(*piece.line, tip, float(np.clip(0.34 * np.linalg.norm(tip), 4, 15)))
        else:
            hand.spray(piece.foliage[n % len(piece.foliage)], tip)


def _hoop(hand: _Hand) -> None:
    """Sprays that arch over a gap and close it in."""
    piece, rng = hand.done.piece, hand.rng
    flip = -1 if piece.mirror else 1
    hand.done.spots["gap"] = [hand.rim + [flip * 0.3 * hand.wide, 0, 0.36 * hand.high]]
    wide, high, t = 0.24 * piece.amount, 0.17 * piece.amount, np.linspace(0, np.pi, 16)
    for n in range(5):
        out = 1.12 + 0.08 * rng.uniform(-1, 1)
        x, z = 0.3 - out * wide * np.cos(t), 0.36 + out * high * np.sin(t)
        x = np.concatenate([np.linspace(0, x[0], 5)[:-1], x])
        z = np.concatenate([np.linspace(0, z[0], 5)[:-1], z])
        points = np.column_stack(
            [
                (-x if piece.mirror else x) * hand.wide,
                np.full(len(x), 0.12 * (n - 2) * hand.deep),
                z * hand.high,
            ]
        )
        hand.spray(piece.foliage[0], None, curve=points + hand.rim)
        side = (-1 if piece.mirror else 1) * hand.wide
        low = np.column_stack(
            [
                np.linspace(0, 1, 12) * (0.3 + wide) * side,
                np.full(12, -0.1 * n),
                np.linspace(0, 1, 12) * (0.36 - 0.3 * high) * hand.high,
            ]
        )
        hand.spray(piece.foliage[0], None, curve=low * [1, 1, 0.35 + 0.65 * n / 4] + hand.rim)


def _through_gap(piece: Piece, x: float, z: float) -> bool:
    """Whether a stem from the rim's middle to a place (half widths, plant heights) runs through the
    gap.
    """
    x, way = -x if piece.mirror else x, np.linspace(0, 1, 20)
    return bool(
        (
            ((way * x - 0.3) / (0.24 * piece.amount)) ** 2
            + ((way * z - 0.36) / (0.17 * piece.amount)) ** 2
            < 0.7
        ).any()
    )


def _focal(hand: _Hand) -> None:
    piece, rng = hand.done.piece, hand.rng
    if "no focal" in piece.faults or not piece.lead:
        return
    aside = {"right-angle L": -0.18, "crescent": -0.05, "garden": -0.2}.get(piece.form, 0.0) * (
        -1 if piece.mirror else 1
    )
    low = (
        0.64 if "focal too high" in piece.faults else 0.72 if "top heavy" in piece.faults else 0.17
    )
    radius = float(
        np.clip(0.115 * np.sqrt(hand.high * max(hand.wide * 2, 0.7 * hand.high)), 2.6, 6.2)
    )
    if piece.focal[0] in ("lily", "hydrangea"):
        radius *= 1.15
    radius *= piece.lead
    count = 1 if radius > 5.2 or piece.air > 0.5 else 3
    for x, z, size in ((0, 0, 1.0), (-1.0, -0.55, 0.84), (0.95, -0.35, 0.88))[:count]:
        spot = (
            aside * hand.wide + x * 1.55 * radius,
            -0.72 * hand.deep - rng.uniform(0, 1),
            low * hand.high + z * 1.2 * radius,
        )
        hand.head(*piece.focal, spot, radius * size, "focal")


def _spot(hand: _Hand) -> np.ndarray:
    """A random place inside the form, from the rim's middle."""
    piece, rng = hand.done.piece, hand.rng
    if piece.form in ARMS:
        arm = ARMS[piece.form][int(rng.random() < 0.45)]
        t = rng.beta(1.1, 1.5)
        off = rng.uniform(-1, 1) * (arm[2] * (1 - t) + arm[3] * t)
        at = _curve(hand, arm, max(t, 0.08), 0.0)[-1] - hand.rim
        return np.array(
            [
                at[0] + off * hand.high,
                rng.uniform(-0.8, 0.5) * hand.deep * (1 - 0.6 * t),
                at[2] + abs(off) * 0.5 * hand.high,
            ]
        )
    polygon = np.array(REGIONS[piece.form][0], np.float32)
    while True:
        x, z = rng.uniform(-1, 1), rng.uniform(0.0, 0.95)
        if cv2.pointPolygonTest(polygon, (float(x), float(z)), True) < 0.03:
            continue
        if "off-balance" in piece.faults and x > 0.12:
            continue
        if (
            "gap" in piece.faults
            and ((x - 0.3) / (0.24 * piece.amount)) ** 2 + ((z - 0.36) / (0.17 * piece.amount)) ** 2
            < 1
        ):
            continue
        if "top heavy" in piece.faults and z < 0.68:
            continue
        room = np.sqrt(max(0.0, 1 - min(1.0, abs(x)) ** 2)) * (1 - 0.65 * z)
        y = rng.uniform(-1, 0.75) * hand.deep * room
        return np.array([(-x if piece.mirror else x) * hand.wide * 0.92, y, z * hand.high * 0.94])


def _mass(hand: _Hand) -> None:
    piece, rng = hand.done.piece, hand.rng
    unit = np.sqrt(hand.high * max(2 * hand.wide, 0.6 * hand.high))
    for n, (kind, colour) in enumerate(piece.mass):
        wanted = [13, 9, 7, 7, 5][n] if piece.air < 0.3 else [7, 5, 3, 3, 3][n]
        radius = float(np.clip(unit * (0.078 - 0.008 * n * (piece.lead > 0)), 1.7, 4.2)) * {
            "hydrangea": 1.6,
            "thistle": 0.75,
            "daisy": 0.85,
        }.get(kind, 1.0)
        made = 0
        for _ in range(400):
            if made == wanted:
                break
            spot = _spot(hand)
            smaller = 0.35 * (piece.lead > 0 and "top heavy" not in piece.faults)
            size = (
                radius
                * (1.6 if "top heavy" in piece.faults else 1.0)
                * (1.08 - smaller * spot[2] / hand.high)
                * rng.uniform(0.92, 1.06)
            )
            spot[2] -= 0.4 * size
            crossing = (
                "gap" in piece.faults
                and piece.amount > 1
                and _through_gap(piece, *(spot[[0, 2]] / (hand.wide, hand.high)))
            )
            if hand.free(spot, size) and not crossing:
                hand.head(kind, colour, spot, size, "mass")
                made += 1


def _fill(hand: _Hand) -> None:
    piece = hand.done.piece
    for n in range(0 if "top heavy" in piece.faults else int(30 * (1 - 0.75 * piece.air))):
        spot = _spot(hand) * [1.0, 1.15, 1.02]
        spot[1] += 0.18 * hand.deep
        if (
            piece.amount > 1
            and "gap" in piece.faults
            and _through_gap(piece, *(spot[[0, 2]] / (hand.wide, hand.high)))
        ):
            continue
        hand.spray(piece.foliage[(n + 1) % len(piece.foliage)], spot)
    if piece.filler:
        for _ in range(7 if piece.air < 0.3 else 4):
            spot = _spot(hand) * [1.02, 1.1, 1.02]
            hand.spray(piece.filler[0], spot, "filler", piece.filler[1])


def _collar(hand: _Hand) -> None:
    piece, rng, c = hand.done.piece, hand.rng, hand.done.container
    count = int((13 if piece.air < 0.3 else 6) * max(1.0, c.rim_cm / 9))
    kind = next(
        (k for k in piece.foliage if k in ("ruscus", "pittosporum", "ivy", "olive", "eucalyptus")),
        "ruscus",
    )
    for i in range(count):
        a = 2 * np.pi * (i + rng.uniform(-0.3, 0.3)) / count
        far = c.rim_cm + rng.uniform(1.5, 5.5)
        deep = far if c.depth_cm is None else c.depth_cm / 2 + 2
        hand.spray(kind, (far * np.cos(a), deep * np.sin(a), rng.uniform(-2.6, 2.2)))


def _mesh(hand: _Hand) -> None:
    """A ball of folded wire mesh that stands out of the rim."""
    rng, r = hand.rng, 0.8 * hand.done.container.rim_cm
    wires = []
    for _ in range(26):
        turn = frame(rng.normal(0, 1, 3))
        a = np.linspace(0, 2 * np.pi, 40)
        ring = np.column_stack([np.cos(a), np.sin(a), 0.12 * np.sin(7 * a)]) * r
        ring = ring @ turn.T * [1, 1, 0.62] + hand.rim + [0, 0, 0.25 * r]
        wires.append(tube(ring, 0.07, linear("#9da1a0"), 5))
    hand.done.items.append(
        Item(
            "mesh",
            "holding",
            "",
            "",
            [("metal", joined(wires))],
            hand.rim,
            hand.rim,
            label="holding",
        )
    )


def _three_stem(hand: _Hand) -> None:
    piece, rng = hand.done.piece, hand.rng
    flip = -1 if piece.mirror else 1
    foot = np.array([-0.35 * flip * hand.done.container.rim_cm, 0.0, 0.0])
    for lean, size, turn in ((12, 1.0, 0.2), (45, 0.667, -0.5), (75, 0.444, 0.5)):
        side = flip * (-1 if lean == 45 else 1)
        far = hand.high * size / (np.cos(np.radians(12)) if lean == 12 else 1.0)
        tip = foot + far * np.array(
            [
                side * np.sin(np.radians(lean)),
                -abs(turn) * 0.4 * np.sin(np.radians(lean)),
                np.cos(np.radians(lean)),
            ]
        )
        start = foot + [0, 0, -hand.done.container.height_cm + 1.2]
        bend = foot + 0.55 * (tip - foot) + np.array([-side * 0.06, 0.02, 0.10]) * far
        curve = bezier(start, bend, tip, 22) + hand.rim
        if piece.line and lean < 70:
            hand.spike(*piece.line, None, 0.4 * far, curve=curve)
        else:
            hand.spray(piece.foliage[0], None, curve=curve)
        hand.done.items[-1] = replace(
            hand.done.items[-1], role=("main", "second", "third")[(12, 45, 75).index(lean)]
        )
    spots = [(0.5, -2.5, 5.0, 1.0), (-4.6, -4.0, 2.8, 0.74), (5.0, -3.0, 2.2, 0.66)]
    kinds = [piece.focal, *(piece.mass * 2)][:3]
    for (x, y, z, size), (kind, colour) in zip(spots, kinds, strict=False):
        role = "focal" if size == 1.0 and "no focal" not in piece.faults else "mass"
        radius = (4.9 if role == "focal" else 3.9) * size
        hand.head(
            kind,
            colour,
            foot + [flip * x, y, z],
            radius,
            role,
            face=np.array([0.2 * flip, -0.8, 0.65]),
        )
    for i in range(6):
        a = i * 1.1
        hand.spray(piece.foliage[-1], foot + [6 * np.cos(a), 4 * np.sin(a), rng.uniform(1, 4)])


def _grouped(done: Arrangement, rng) -> Arrangement:
    """Several small vessels as one composition; the middle one carries the datum."""
    piece = done.piece
    flowers_in = [piece.focal, *piece.mass]
    vessels = [
        (done.container, 0.0, 0.0),
        (SHELF["bottle"], -13.5, 2.0),
        (SHELF["bud vase"], 11.5, -3.5),
        (SHELF["bud vase"], -8.5, -8.0),
        (SHELF["tall cylinder"], 16.0, 6.0),
    ]
    for n, (container, x, y) in enumerate(vessels):
        part = Arrangement(piece, container)
        hand = _Hand(part, rng)
        hand.high = piece.height * container.height_cm * [1, 0.85, 0.9, 0.6, 1.05][n]
        hand.wide, hand.deep = 0.35 * hand.high, 0.2 * hand.high
        for i in range([3, 1, 3, 1, 2][n]):
            kind, colour = flowers_in[(n + i) % len(flowers_in)]
            tip = (
                rng.uniform(-0.5, 0.5) * hand.wide,
                rng.uniform(-0.6, 0.2) * hand.deep,
                hand.high * (0.92 - 0.26 * i),
            )
            hand.head(
                kind,
                colour,
                tip,
                (3.4 if n == 0 and i == 0 else 2.4) * (1 - 0.12 * i),
                "focal" if n == 0 and i == 0 else "mass",
            )
        for i in range(2):
            hand.spray(
                piece.foliage[i % len(piece.foliage)],
                (rng.uniform(-1, 1) * hand.wide, 1.0, hand.high * rng.uniform(0.6, 1.0)),
            )
        shift = np.array([x, y, 0.0])
        for item in part.items:
            parts = [(m, mesh.moved(np.eye(3), shift)) for m, mesh in item.parts]
            done.items.append(
                Item(
                    item.kind,
                    item.role,
                    item.colour,
                    item.hue,
                    parts,
                    item.foot + shift,
                    item.tip + shift,
                    item.size_cm,
                    vessel=n,
                )
            )
        if n:
            done.others.append(Beside(container, x, y))
    return done


def surfaces(done: Arrangement, azimuth: float) -> list[tuple[str, str, int, Mesh]]:
    """All surfaces of the piece turned on the table: (label, material, item number or -1, mesh)."""
    turn = about_z(azimuth)
    rng = np.random.default_rng(7)
    out = []
    for vessel in [] if done.bound else [Beside(done.container, 0.0, 0.0), *done.others]:
        for material, mesh in containers.built(
            vessel.container, vessel.glaze or done.piece.glaze, rng
        ):
            place = turn @ [vessel.x, vessel.y, 0.0]
            out.append(("container", material, -1, mesh.moved(turn, place)))
    for n, item in enumerate(done.items):
        for material, mesh in item.parts:
            out.append((item.label, material, n, mesh.moved(turn, np.zeros(3))))
    return out
