"""What people put in a vessel at home: one branch, a few dried stalks, grasses, single blooms; in
the colours of any season.

The second family of plants to teach from, beside the arranged pieces of juniper.camera;
likenesses are invented.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from juniper.camera import greenery
from juniper.camera.arranging import COLOURS, Arrangement, Item
from juniper.camera.flowers import HEADS, MORE_HEADS, MORE_SPIKES, SPIKES, Parts, petals
from juniper.camera.mesh import about_z, ball, bezier, frame, joined, linear, tube
from juniper.training.vessels import RandomContainer

LEAVES = (
    "#3f6b34",
    "#5f7f3a",
    "#8fa596",
    "#6f8f4e",
    "#2f4f2c",
    "#7c8a68",
    "#8b2f22",
    "#b5532a",
    "#a3762c",
    "#c9a24a",
    "#5a2a2a",
    "#9a8a6a",
    "#d9cdb0",
    "#b9a27c",
    "#4c5a45",
    "#c2551f",
    "#e0d8c4",
    "#705a3c",
)
BARK = ("#4a382a", "#6b4f38", "#3a2f28", "#7a6a52", "#8a6a45", "#5a3a2c", "#9c8a62", "#5f7a45")


def _crooked(rng, path: np.ndarray, by: float) -> np.ndarray:
    """A path bent at its nodes, as a woody stem is."""
    push = np.zeros_like(path)
    knots = np.arange(0, len(path), 3)
    for axis in range(3):
        push[:, axis] = np.interp(np.arange(len(path)), knots, rng.normal(0, by, len(knots)))
    push[:2] = 0
    return path + push


def leafy_branch(rng, path, leaf: str, bark: str) -> Parts:
    """A woody branch with broad simple leaves on stalks, few or many, some of them hanging."""
    path = _crooked(rng, path, 0.012 * float(np.linalg.norm(path[-1] - path[0])))
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    long, wide = rng.uniform(0.07, 0.22) * total, rng.uniform(0.45, 0.85)
    count = int(rng.integers(4, 16))
    droop, shape = rng.uniform(-0.6, 0.5), (rng.uniform(0.35, 0.7), rng.uniform(0.35, 0.8))
    leaves, stalks = [], []
    ways = [path]
    for _ in range(int(rng.integers(0, 3))):  # side branches
        spot, way = greenery.along_path(path, rng.uniform(0.35, 0.75))
        end = spot + rng.uniform(0.25, 0.5) * total * (way + rng.normal(0, 0.5, 3) * [1, 0.5, 0.6])
        ways.append(
            _crooked(
                rng, bezier(spot, 0.5 * (spot + end) + [0, 0, 0.06 * total], end, 10), 0.01 * total
            )
        )
    for way_along in ways:
        for n in range(count):
            t = rng.uniform(0.3 if way_along is path else 0.15, 1.0) if n else 0.999
            spot, way = greenery.along_path(way_along, t)
            a = rng.uniform(0, 2 * np.pi)
            toward = 0.5 * way + np.array([np.cos(a), 0.8 * np.sin(a), droop + rng.normal(0, 0.3)])
            toward /= np.linalg.norm(toward)
            foot = spot + 0.18 * long * toward
            stalks.append(tube(np.array([spot, foot]), 0.05, linear(bark), 4))
            size = rng.uniform(0.6, 1.15)
            one = petals(
                rng,
                [rng.uniform(0, 6.3)],
                length=long * size,
                width=long * size * wide,
                open_deg=0,
                bend_deg=rng.normal(20, 25),
                cup=rng.uniform(0.1, 0.5),
                ruffle=0.06,
                shape=shape,
                base=leaf,
                edge=str(rng.choice(LEAVES)) if rng.random() < 0.2 else leaf,
                shade=0.14,
                grid=(11, 9),
            )
            leaves.append(one.moved(frame(toward), foot))
        stalks.append(
            tube(
                way_along,
                np.linspace(0.26 if way_along is path else 0.16, 0.07, len(way_along)),
                linear(bark),
            )
        )
    return [("leaf", joined(leaves)), ("stem", joined(stalks))]


def bare_twigs(rng, path, leaf: str, bark: str) -> Parts:
    """A forked branch with buds or small blossoms, or nothing, on it."""
    path = _crooked(rng, path, 0.02 * float(np.linalg.norm(path[-1] - path[0])))
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    wood, tips = [tube(path, np.linspace(0.3, 0.08, len(path)), linear(bark))], [path]
    for _ in range(int(rng.integers(3, 10))):
        parent = tips[int(rng.integers(len(tips)))]
        spot, way = greenery.along_path(parent, rng.uniform(0.3, 0.9))
        end = spot + rng.uniform(0.1, 0.35) * total * (way + rng.normal(0, 0.5, 3))
        twig = _crooked(rng, bezier(spot, 0.5 * (spot + end), end, 9), 0.008 * total)
        tips.append(twig)
        wood.append(tube(twig, np.linspace(0.12, 0.04, len(twig)), linear(bark), 5))
    blossoms, colour = (
        [],
        COLOURS[str(rng.choice(["pink", "white", "cream", "coral", "yellow"]))][0],
    )
    each, size = int(rng.integers(0, 9)), rng.uniform(0.5, 1.2)
    for twig in tips:
        for _ in range(each):
            spot, way = greenery.along_path(twig, rng.uniform(0.25, 1.0))
            toward = way + rng.normal(0, 1, 3)
            if rng.random() < 0.3:
                blossoms.append(ball(spot, 0.4 * size, linear(colour), 5, 1.2))
                continue
            one = petals(
                rng,
                np.arange(5) * 1.2566,
                length=size,
                width=0.9 * size,
                open_deg=55,
                bend_deg=15,
                cup=0.3,
                shape=(0.5, 0.25),
                base=colour,
                grid=(5, 5),
            )
            blossoms.append(one.moved(frame(toward), spot))
    parts = [("stem", joined(wood))]
    return [*parts, ("petal", joined(blossoms))] if blossoms else parts


def dried_plume(rng, path, leaf: str, bark: str) -> Parts:
    """A tall feathery seed head on a thin stalk."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    tone, threads = (
        linear(str(rng.choice(["#d9cdb0", "#cbb892", "#efe8d8", "#b98f78", "#9c8468", "#e3c9b8"]))),
        [],
    )
    begin, spread = rng.uniform(0.45, 0.7), rng.uniform(0.06, 0.2)
    side = rng.normal(0, 0.4, 3)
    for t in np.linspace(begin, 0.995, int(rng.integers(60, 130))):
        spot, way = greenery.along_path(path, t)
        long = (
            spread
            * total
            * (0.35 + np.sin(np.pi * np.clip((t - begin) / (1 - begin), 0, 1)) ** 0.7)
        )
        end = spot + long * (0.9 * way + rng.normal(0, 0.33, 3) + 0.5 * side)
        threads.append(
            tube(
                np.array(
                    [spot, 0.5 * (spot + end) + [0, 0, 0.1 * long], end + [0, 0, -0.12 * long]]
                ),
                [0.12, 0.16, 0.04],
                tone * rng.uniform(0.75, 1.15),
                4,
            )
        )
    stalk = tube(path, np.linspace(0.18, 0.06, len(path)), linear("#b09a6c"))
    return [("petal" if spread > 0.12 else "leaf", joined(threads)), ("stem", stalk)]


def ears(rng, path, leaf: str, bark: str) -> Parts:
    """An ear of grain, a hare's tail or a reed mace on a thin stalk."""
    tone, kind = (
        linear(str(rng.choice(["#c9a95e", "#e6dcc3", "#7a5a36", "#a8996a", "#8fa06a"]))),
        rng.random(),
    )
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    grains = []
    if kind < 0.4:
        for n in range(26):
            spot, way = greenery.along_path(path, 0.86 + 0.139 * n / 26)
            a = n * 2.4
            out = frame(way) @ [np.cos(a), np.sin(a), 0.9]
            grains.append(ball(spot + 0.22 * out, 0.24, tone * rng.uniform(0.85, 1.1), 5, 1.5))
            grains.append(
                tube(np.array([spot + 0.2 * out, spot + 2.6 * (0.35 * out + way)]), 0.02, tone, 3)
            )
    else:
        long = rng.uniform(0.05, 0.16) * total
        spot, way = path[-1], greenery.along_path(path, 0.99)[1]
        fat = rng.uniform(0.12, 0.3) if kind < 0.7 else rng.uniform(0.35, 0.5)
        grains.append(ball((0, 0, 0), fat * long, tone, 11, 0.5 / fat).moved(frame(way), spot))
        for _ in range(50):
            grains.append(
                ball(
                    frame(way) @ (rng.normal(0, 0.45, 3) * [fat * long, fat * long, 0.5 * long])
                    + spot,
                    0.1 * fat * long,
                    tone * rng.uniform(0.8, 1.1),
                    4,
                )
            )
    return [
        (
            "leaf",
            joined([*grains, tube(path, 0.08, linear(str(rng.choice(["#b09a6c", "#8a9a5a"]))), 5)]),
        )
    ]


def pods(rng, path, leaf: str, bark: str) -> Parts:
    """Seed heads or flat papery discs at the ends of a few side stalks."""
    flat, tone = (
        rng.random() < 0.5,
        linear(str(rng.choice(["#b9a888", "#8a7a62", "#d8d2c0", "#6a5a48", "#93a078"]))),
    )
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    heads, threads = [], [tube(path, np.linspace(0.16, 0.08, len(path)), linear(bark), 6)]
    for n in range(int(rng.integers(1, 12))):
        spot, way = greenery.along_path(path, rng.uniform(0.5, 0.95) if n else 0.999)
        end = spot + (rng.uniform(0.05, 0.16) * total * (way + rng.normal(0, 0.4, 3)) if n else 0)
        if n:
            threads.append(tube(np.array([spot, end]), 0.06, linear(bark), 4))
        size = rng.uniform(0.03, 0.06) * total
        heads.append(
            ball((0, 0, 0), size, tone * rng.uniform(0.8, 1.1), 9, 0.12 if flat else 1.1).moved(
                frame(way + rng.normal(0, 0.8, 3)), end
            )
        )
    return [("leaf", joined(heads)), ("stem", joined(threads))]


def palm(rng, path, leaf: str, bark: str) -> Parts:
    """A fan or spear of narrow leaflets at the end of a stalk."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    spot, way = greenery.along_path(path, rng.uniform(0.5, 0.7))
    long, blades, turn = rng.uniform(0.25, 0.5) * total, [], frame(way)
    wide = rng.uniform(0.3, 1.4)
    for a in np.linspace(-wide, wide, int(rng.integers(9, 26))):
        toward = turn @ np.array([np.sin(a), 0.12 * rng.normal(), np.cos(a)])
        one = petals(
            rng,
            [0.0],
            length=long * (1 - 0.25 * abs(a)),
            width=0.05 * long,
            open_deg=0,
            bend_deg=rng.normal(8, 6),
            cup=0.4,
            shape=(0.3, 0.6),
            base=leaf,
            grid=(7, 3),
        )
        blades.append(one.moved(frame(toward), spot))
    return [
        ("leaf", joined(blades)),
        ("stem", tube(path[: int(0.72 * len(path))], 0.16, linear(bark))),
    ]


def great_leaf(rng, path, leaf: str, bark: str) -> Parts:
    """One broad leaf, lobed or whole, at the end of a stalk, or a waxy spathe with its spadix."""
    spot, way = path[-1], greenery.along_path(path, 0.99)[1]
    long = rng.uniform(0.25, 0.45) * np.linalg.norm(path[-1] - path[0])
    toward = 0.4 * way + np.array([rng.normal(0, 0.8), -0.5, rng.normal(0.1, 0.5)])
    if rng.random() < 0.4:
        colour = COLOURS[str(rng.choice(list(COLOURS)))][0]
        spathe = petals(
            rng,
            [0.0],
            length=0.6 * long,
            width=0.55 * long,
            open_deg=50,
            bend_deg=30,
            cup=0.3,
            shape=(0.3, 0.5),
            base=colour,
            shade=0.03,
            grid=(13, 11),
        )
        rod = tube(
            np.array([[0, 0, 0], [0.02 * long, 0, 0.35 * long]]),
            [0.03 * long, 0.015 * long],
            linear("#e6d28a"),
            8,
        )
        return [
            ("petal", joined([spathe, rod]).moved(frame(toward), spot)),
            ("stem", tube(path, 0.2, linear("#5c7c42"))),
        ]
    turns = (
        np.linspace(-1.9, 1.9, int(rng.integers(5, 11))) if rng.random() < 0.6 else np.array([0.0])
    )
    lobes = []
    for a in turns:
        way_out = np.array([np.sin(a), 0, np.cos(a)])
        lobes.append(
            petals(
                rng,
                [np.pi / 2],
                length=long * (0.75 + 0.25 * np.cos(a)),
                width=(0.28 if len(turns) > 1 else 0.62) * long,
                open_deg=0,
                bend_deg=18,
                cup=0.15,
                shape=(0.3, 0.45),
                base=leaf,
                shade=0.05,
                grid=(11, 7),
            ).moved(frame(way_out), np.zeros(3))
        )
    return [
        ("leaf", joined(lobes).moved(frame(np.cross(toward, [1.0, 0.2, 0.0])), spot)),
        ("stem", tube(path, np.linspace(0.24, 0.14, len(path)), linear(leaf))),
    ]


SPRIGS = (leafy_branch, bare_twigs, dried_plume, ears, pods, palm, great_leaf)


def _way(rng, vessel: RandomContainer, tip: np.ndarray) -> np.ndarray:
    """A stem from within the vessel through its mouth to a tip given from the rim's middle."""
    c = vessel.shape
    reach = 0.7 * (c.rim_cm - 0.5)
    depth = reach * c.oval if c.depth_cm is None else 0.3 * c.depth_cm
    through = np.array(
        [
            np.clip(0.3 * tip[0] + rng.normal(0, 0.3 * reach), -reach, reach),
            np.clip(0.3 * tip[1], -depth, depth),
            0.0,
        ]
    )
    foot = np.array([-0.5 * through[0], -0.5 * through[1], -rng.uniform(0.75, 0.92) * c.height_cm])
    foot[:2] = np.clip(foot[:2], -0.5 * c.half_at(1.0), 0.5 * c.half_at(1.0))
    bend = through + [
        0.35 * (tip[0] - through[0]),
        0.35 * (tip[1] - through[1]),
        max(0.55 * tip[2], 2.0),
    ]
    return np.vstack([foot[None], bezier(through, bend, tip, 20)]) + [0, 0, c.height_cm]


def sprigs_in(done: Arrangement, vessel: RandomContainer, rng: np.random.Generator) -> None:
    """Put one to nine stems of one, two or three kinds into a vessel."""
    c = vessel.shape
    high = rng.uniform(0.5, 2.6) * max(c.height_cm, 0.9 * c.widest_cm)
    leaning = rng.normal(0, 0.25)
    kinds: list[tuple[str, Any, str, str]] = []
    for _ in range(int(rng.choice([1, 2, 3], p=[0.55, 0.3, 0.15]))):
        u = rng.random()
        leaf, bark = str(rng.choice(LEAVES)), str(rng.choice(BARK))
        if u < 0.55:
            kinds.append(
                (
                    "sprig",
                    SPRIGS[int(rng.choice(len(SPRIGS), p=[0.34, 0.16, 0.14, 0.1, 0.1, 0.06, 0.1]))],
                    leaf,
                    bark,
                )
            )
        elif u < 0.72:
            kinds.append(("green", str(rng.choice(list(greenery.FOLIAGE))), leaf, bark))
        elif u < 0.88:
            kinds.append(
                (
                    "head",
                    str(rng.choice(list(HEADS | MORE_HEADS))),
                    str(rng.choice(list(COLOURS))),
                    bark,
                )
            )
        elif u < 0.94:
            kinds.append(
                (
                    "spike",
                    str(rng.choice(list(SPIKES | MORE_SPIKES))),
                    str(rng.choice(list(COLOURS))),
                    bark,
                )
            )
        else:
            kinds.append(
                (
                    "filler",
                    str(rng.choice(list(greenery.FILLERS | greenery.MORE_FILLERS))),
                    str(rng.choice(list(COLOURS))),
                    bark,
                )
            )
    for n in range(
        int(rng.choice([1, 2, 3, 4, 5, 7, 9], p=[0.2, 0.2, 0.18, 0.12, 0.12, 0.1, 0.08]))
    ):
        kind, what, colour, bark = kinds[n % len(kinds)]
        lean = leaning + rng.normal(0, 0.35)
        far = high * rng.uniform(0.6, 1.0) if n else high
        tip = far * np.array(
            [np.sin(lean), rng.normal(0, 0.15), np.cos(lean) * rng.uniform(0.9, 1.0)]
        )
        path = _way(rng, vessel, tip)
        if kind == "sprig":
            parts: Parts = what(rng, path, colour, bark)
        elif kind == "green":
            parts = greenery.FOLIAGE[what](rng, path, colour)
        elif kind == "filler":
            parts = (greenery.FILLERS | greenery.MORE_FILLERS)[what](rng, path, COLOURS[colour][0])
        else:
            parts = _bloom(rng, kind, what, COLOURS[colour][0], path)
        done.items.append(Item(str(kind), "", "", "", parts, path[0], path[-1]))


def _bloom(rng, kind: str, what: str, colour: str, path: np.ndarray) -> Parts:
    """A flower head or spike at the end of a stalk, with a leaf or two on it."""
    way = greenery.along_path(path, 0.99)[1]
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    if kind == "head":
        toward = 0.6 * way + [rng.normal(0, 0.3), rng.uniform(-0.8, 0.1), 0.2]
        head = (HEADS | MORE_HEADS)[what](rng, rng.uniform(0.08, 0.2) * min(total, 45), colour)
    else:
        toward = way
        head = (SPIKES | MORE_SPIKES)[what](rng, rng.uniform(0.25, 0.5) * total, colour)
    parts = [(m, mesh.moved(frame(toward), path[-1])) for m, mesh in head]
    parts.append(("stem", tube(path, 0.18, linear("#5c7c42") * rng.uniform(0.8, 1.15))))
    leaves = []
    for _ in range(int(rng.integers(0, 4))):
        spot, along = greenery.along_path(path, rng.uniform(0.35, 0.85))
        one = greenery.leaf(
            rng,
            rng.uniform(0.12, 0.25) * total,
            rng.uniform(0.02, 0.08) * total,
            str(rng.choice(LEAVES[:6])),
            bend_deg=30,
        )
        leaves.append(
            one.moved(about_z(rng.uniform(0, 360)) @ frame(along + rng.normal(0, 0.7, 3)), spot)
        )
    return [*parts, ("leaf", joined(leaves))] if leaves else parts
