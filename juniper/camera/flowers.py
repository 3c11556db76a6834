"""Flower heads grown from layered petals: each kind is a table of how its petals stand.

A head grows about +z, which is the way it faces; its radius is given in cm. Petals follow the
golden angle or stand in rings. Each has its own bend, ruffle and shade, as in nature. Kinds are
invented likenesses.
"""

from __future__ import annotations

import numpy as np

from juniper.camera.mesh import Mesh, ball, frame, joined, linear, sheets, tube

GOLDEN = np.pi * (3 - np.sqrt(5))
Parts = list[tuple[str, Mesh]]


def petals(  # noqa: PLR0913
    rng: np.random.Generator,
    turn,
    *,
    length,
    width,
    open_deg,
    bend_deg,
    out=0.0,
    rise=0.0,
    cup=0.3,
    ruffle=0.0,
    waves=3.0,
    shape=(0.7, 0.35),
    base="#ffffff",
    edge=None,
    shade=0.07,
    grid=(9, 7),
) -> Mesh:
    """Petals (k) about +z: `turn` (k,) radians round it; others once or for each, lengths in cm.

    `open_deg` is the petal's lean from +z at its foot, `bend_deg` what it adds to its tip; `shape`
    the powers of distance to foot and tip that make its width; `cup` and `ruffle` are shares of its
    half width.
    """
    turn = np.asarray(turn, float)
    k = len(turn)
    per = lambda v: np.broadcast_to(np.asarray(v, float), k)[:, None]  # noqa: E731
    u = np.linspace(0, 1, grid[0])
    v = np.linspace(-1, 1, grid[1])
    lean = np.radians(per(open_deg) + per(bend_deg) * u**1.4 + rng.normal(0, 3, (k, 1)))
    step = per(length) / (grid[0] - 1)
    x = np.cumsum(np.sin(lean), 1) * step - np.sin(lean[:, :1]) * step
    z = np.cumsum(np.cos(lean), 1) * step - np.cos(lean[:, :1]) * step
    grow = u ** shape[0] * (1 - u) ** shape[1]
    half = per(width) / 2 * np.maximum(grow / grow.max(), 0.04)
    phase = rng.uniform(0, 6.3, (k, 1, 1))
    wave = np.sin(waves * np.pi * v[None, None] + phase) + 0.5 * np.sin(
        1.7 * waves * np.pi * v[None, None] + 2 * phase
    )
    lift = half[..., None] * (
        per(cup)[..., None] * (v**2)[None, None]
        + per(ruffle)[..., None] * wave * (u**2)[None, :, None]
    )
    px = x[..., None] - np.cos(lean)[..., None] * lift
    pz = z[..., None] + np.sin(lean)[..., None] * lift
    py = half[..., None] * v[None, None] * (1 - 0.25 * per(cup)[..., None] * (v**2)[None, None])
    px = px + per(out)[..., None]
    c, s = np.cos(turn)[:, None, None], np.sin(turn)[:, None, None]
    points = np.stack([c * px - s * py, s * px + c * py, pz + per(rise)[..., None] + 0 * px], -1)
    foot, tip = linear(base), linear(edge or base)
    blend = (u[None, :, None, None]) ** 1.3
    tone = foot * (1 - blend) + tip * blend
    vein = 1 + 0.05 * np.sin(9 * np.pi * v)[None, None, :, None] * (1 - u)[None, :, None, None]
    own = 1 + rng.normal(0, shade, (k, 1, 1, 1)) + rng.normal(0, shade / 3, (k, 1, 1, 3))
    mottle = 1 + rng.normal(0, 0.025, (k, grid[0], grid[1], 1))
    return sheets(points, tone * vein * own * mottle)


def _spiral(count: int, rng) -> tuple[np.ndarray, np.ndarray]:
    i = np.arange(count)
    return i * GOLDEN + rng.uniform(0, 6.3) + rng.normal(0, 0.08, count), i / (count - 1)


def _darker(colour: str, by: float, warm: float = 0.0) -> str:
    value = (
        np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) * by
        + np.array([warm, 0, -warm]) * 40
    )
    return "#" + "".join(f"{int(np.clip(v, 0, 255)):02x}" for v in value)


def _sepals(rng, radius) -> Mesh:
    turn = np.arange(5) * 1.2566
    return petals(
        rng,
        turn,
        length=0.55 * radius,
        width=0.3 * radius,
        open_deg=70,
        bend_deg=50,
        rise=-0.06 * radius,
        cup=0.3,
        shape=(0.4, 0.8),
        base="#4d6b36",
    )


def rose(rng, radius, colour) -> Parts:
    """Broad petals, the inner ones wrapped, the outer ones rolled back at the edge."""
    turn, t = _spiral(34, rng)
    fine = petals(
        rng,
        turn,
        length=radius * (0.8 + 0.28 * t),
        width=radius * (0.5 + 0.75 * t),
        open_deg=2 + 52 * t**1.1,
        bend_deg=-16 + 62 * t**1.5,
        out=radius * 0.16 * t,
        cup=0.75 - 0.35 * t,
        ruffle=0.03 + 0.05 * t,
        waves=1.3,
        shape=(0.55, 0.22),
        base=_darker(colour, 0.86, 0.1),
        edge=colour,
        grid=(11, 9),
    )
    return [("petal", fine), ("leaf", _sepals(rng, radius))]


def peony(rng, radius, colour) -> Parts:
    """A full ball of ruffled petals."""
    turn, t = _spiral(70, rng)
    fine = petals(
        rng,
        turn,
        length=radius * (0.75 + 0.3 * t),
        width=radius * (0.4 + 0.6 * t),
        open_deg=4 + 74 * t,
        bend_deg=-24 + 30 * t,
        out=radius * 0.14 * t,
        cup=0.6 - 0.2 * t,
        ruffle=0.22 - 0.10 * t,
        waves=2.2,
        shape=(0.6, 0.2),
        base=_darker(colour, 0.9),
        edge=colour,
        shade=0.06,
        grid=(11, 9),
    )
    return [("petal", fine), ("leaf", _sepals(rng, radius))]


def ranunculus(rng, radius, colour) -> Parts:
    """Many thin petals in tight shells about a green eye."""
    turn, t = _spiral(80, rng)
    fine = petals(
        rng,
        turn,
        length=radius * (0.5 + 0.62 * t),
        width=radius * (0.35 + 0.6 * t),
        open_deg=6 + 62 * t,
        bend_deg=-58 + 40 * t,
        out=radius * (0.05 + 0.2 * t),
        cup=0.7,
        ruffle=0.02,
        shape=(0.5, 0.18),
        base=_darker(colour, 0.92),
        edge=colour,
        shade=0.06,
    )
    eye = ball((0, 0, 0.5 * radius), 0.16 * radius, linear("#7f9a3c"))
    return [("petal", fine), ("stem", eye), ("leaf", _sepals(rng, radius))]


def carnation(rng, radius, colour) -> Parts:
    """Frilled, toothed petals."""
    turn, t = _spiral(58, rng)
    fine = petals(
        rng,
        turn,
        length=radius * (0.8 + 0.25 * t),
        width=radius * 0.8,
        open_deg=4 + 66 * t,
        bend_deg=18,
        cup=0.1,
        ruffle=0.3,
        waves=4.5,
        shape=(1.1, 0.12),
        base=_darker(colour, 0.82),
        edge=colour,
        grid=(9, 15),
    )
    cup = tube(
        np.array([[0, 0, -0.7 * radius], [0, 0, 0.1 * radius]]),
        [0.2 * radius, 0.26 * radius],
        linear("#6c8a55"),
    )
    return [("petal", fine), ("stem", cup)]


def _disc(rng, radius, colour, rim) -> Mesh:
    seeds = []
    for i in range(70):
        r = radius * np.sqrt((i + 0.5) / 70)
        a = i * GOLDEN
        tone = linear(colour if i < 45 else rim) * rng.uniform(0.8, 1.15)
        seeds.append(
            ball(
                (r * np.cos(a), r * np.sin(a), 0.25 * radius * (1 - (r / radius) ** 2)),
                0.13 * radius,
                tone,
                rows=4,
            )
        )
    return joined(seeds)


def gerbera(rng, radius, colour) -> Parts:
    """Two rows of strap petals about a disc."""
    rows = []
    for count, far, lean in ((26, 1.0, 84), (22, 0.86, 72), (16, 0.45, 55)):
        turn = np.linspace(0, 2 * np.pi, count, endpoint=False) + rng.normal(0, 0.05, count)
        rows.append(
            petals(
                rng,
                turn,
                length=radius * far * rng.normal(0.82, 0.03, count),
                width=0.25 * radius,
                open_deg=lean,
                bend_deg=rng.normal(6, 6, count),
                out=0.12 * radius,
                cup=0.25,
                shape=(0.35, 0.25),
                base=_darker(colour, 0.85),
                edge=colour,
            )
        )
    return [("petal", joined(rows)), ("stem", _disc(rng, 0.26 * radius, "#4a3a1e", "#9c7a2a"))]


def daisy(rng, radius, colour) -> Parts:
    """One row of narrow petals about a gold disc."""
    turn = np.linspace(0, 2 * np.pi, 21, endpoint=False) + rng.normal(0, 0.06, 21)
    fine = petals(
        rng,
        turn,
        length=radius * rng.normal(0.85, 0.04, 21),
        width=0.26 * radius,
        open_deg=80,
        bend_deg=rng.normal(8, 8, 21),
        out=0.14 * radius,
        cup=0.2,
        shape=(0.4, 0.2),
        base=colour,
    )
    return [("petal", fine), ("stem", _disc(rng, 0.27 * radius, "#d9a92b", "#b98218"))]


def anemone(rng, radius, colour) -> Parts:
    """Nine broad petals about a dark eye with stamens."""
    turn = np.arange(9) * 2 * np.pi / 9 + np.where(np.arange(9) % 2, 0.15, -0.05)
    fine = petals(
        rng,
        turn,
        length=radius * rng.normal(0.98, 0.04, 9),
        width=0.8 * radius,
        open_deg=np.where(np.arange(9) % 2, 76, 66),
        bend_deg=-6,
        cup=0.28,
        ruffle=0.05,
        shape=(0.6, 0.25),
        base=_darker(colour, 1.06),
        edge=colour,
        grid=(11, 9),
    )
    dark = linear("#1d1a26")
    threads = []
    for a in np.arange(40) * GOLDEN:
        far = radius * rng.uniform(0.2, 0.34)
        tip = np.array([far * np.cos(a), far * np.sin(a), radius * rng.uniform(0.1, 0.22)])
        threads += [
            tube(np.array([[0, 0, 0], tip]), 0.012 * radius, dark, 4),
            ball(tip, 0.03 * radius, dark, 4),
        ]
    return [
        ("petal", fine),
        ("stem", joined([ball((0, 0, 0.06 * radius), 0.17 * radius, dark, flat=0.7), *threads])),
    ]


def tulip(rng, radius, colour) -> Parts:
    """Six petals closed to a cup."""
    turn = np.arange(6) * np.pi / 3 + rng.uniform(0, 1)
    inner = np.arange(6) % 2
    fine = petals(
        rng,
        turn,
        length=2.0 * radius,
        width=1.35 * radius,
        open_deg=42 - 6 * inner,
        bend_deg=-62 + 6 * inner,
        cup=0.55,
        shape=(0.55, 0.3),
        out=0.05 * radius,
        base=_darker(colour, 0.9, -0.1),
        edge=colour,
        shade=0.05,
        grid=(13, 9),
    )
    return [("petal", fine)]


def lily(rng, radius, colour) -> Parts:
    """Six pointed petals rolled back, long stamens."""
    turn = np.arange(6) * np.pi / 3 + rng.uniform(0, 1)
    fine = petals(
        rng,
        turn,
        length=1.35 * radius,
        width=np.where(np.arange(6) % 2, 0.62, 0.46) * radius,
        open_deg=28,
        bend_deg=88,
        cup=0.3,
        ruffle=0.06,
        shape=(0.6, 0.6),
        base=_darker(colour, 0.88, 0.1),
        edge=colour,
        grid=(13, 7),
    )
    threads = []
    for a in np.arange(6) * np.pi / 3 + 0.5:
        tip = np.array([0.4 * radius * np.cos(a), 0.4 * radius * np.sin(a), 1.05 * radius])
        threads.append(tube(bezier_out(tip), 0.02 * radius, linear("#b9c48a"), 5))
        threads.append(ball(tip, 0.07 * radius, linear("#7a3b16"), 5, 1.4))
    return [("petal", fine), ("stem", joined(threads))]


def bezier_out(tip) -> np.ndarray:
    """A thread from the origin that bends outward to its tip."""
    t = np.linspace(0, 1, 6)[:, None]
    return 2 * t * (1 - t) * np.array([0, 0, 0.7 * tip[2]]) + t**2 * np.asarray(tip)


def dahlia(rng, radius, colour) -> Parts:
    """Quilled petals in golden-angle order from bud to rim."""
    turn, t = _spiral(110, rng)
    fine = petals(
        rng,
        turn,
        length=radius * (0.3 + 0.62 * t),
        width=radius * (0.16 + 0.17 * t),
        open_deg=3 + 88 * t**0.8,
        bend_deg=-20 + 26 * t,
        out=0.1 * radius * t,
        cup=0.8,
        shape=(0.5, 0.4),
        base=_darker(colour, 0.74),
        edge=colour,
        shade=0.05,
    )
    return [("petal", fine), ("leaf", _sepals(rng, radius))]


def hydrangea(rng, radius, colour) -> Parts:
    """A dome of four-petalled florets."""
    florets = []
    for i in range(260):
        polar = np.arccos(1 - 1.62 * (i + 0.5) / 260)
        a = i * GOLDEN
        way = np.array(
            [np.sin(polar) * np.cos(a), np.sin(polar) * np.sin(a), np.cos(polar)]
        ) + rng.normal(0, 0.12, 3)
        turn = np.arange(4) * np.pi / 2 + rng.uniform(0, 1.5)
        one = petals(
            rng,
            turn,
            length=0.19 * radius,
            width=0.2 * radius,
            open_deg=62,
            bend_deg=24,
            cup=0.3,
            shape=(0.55, 0.3),
            base=_darker(colour, rng.uniform(0.86, 1.08)),
            shade=0.05,
            grid=(4, 5),
        )
        lump = 1 + 0.06 * np.sin(3.1 * a + 5 * polar) + 0.05 * np.sin(7 * polar + a)
        spot = (
            way
            / np.linalg.norm(way)
            * radius
            * lump
            * rng.uniform(0.78, 0.94)
            * np.array([1, 1, 0.8])
        )
        florets.append(one.moved(frame(way), spot))
    return [
        ("petal", joined(florets)),
        ("stem", ball((0, 0, 0), 0.66 * radius, linear(_darker(colour, 0.72)), 8, 0.8)),
    ]


def thistle(rng, radius, colour) -> Parts:
    """A ball of spines on a star of pointed bracts."""
    turn, t = _spiral(150, rng)
    spines = petals(
        rng,
        turn,
        length=0.75 * radius,
        width=0.07 * radius,
        open_deg=100 * t,
        bend_deg=4,
        cup=0.1,
        shape=(0.2, 0.8),
        base=_darker(colour, 0.6),
        edge=colour,
        grid=(4, 3),
    )
    bracts = petals(
        rng,
        np.arange(9) * 0.698,
        length=1.25 * radius,
        width=0.26 * radius,
        open_deg=82,
        bend_deg=-10,
        cup=0.3,
        ruffle=0.2,
        shape=(0.5, 0.8),
        rise=-0.15 * radius,
        base=_darker(colour, 0.9),
        edge=_darker(colour, 1.15),
    )
    return [
        ("petal", joined([spines, bracts])),
        ("stem", ball((0, 0, 0), 0.5 * radius, linear(_darker(colour, 0.6)))),
    ]


def spike(rng, length, colour, fat: float = 1.0) -> Parts:
    """Florets up a stem of the given length (cm), buds at the tip; stands on the origin along
    +z.
    """
    florets, buds = [], []
    count = int(10 + length * 1.7)
    for i in range(count):
        t = i / (count - 1)
        a = i * GOLDEN
        size = fat * (1.5 - 1.05 * t) * rng.uniform(0.85, 1.1)
        way = np.array([np.cos(a), np.sin(a), 0.35 + 0.9 * t])
        spot = np.array([0.25 * np.cos(a), 0.25 * np.sin(a), length * (0.04 + 0.93 * t)])
        if t > 0.78:
            buds.append(
                ball(spot + 0.3 * way * size, 0.32 * size, linear(_darker(colour, 0.75)), 5, 1.3)
            )
            continue
        turn = np.arange(5) * 1.2566 + rng.uniform(0, 1)
        one = petals(
            rng,
            turn,
            length=0.85 * size,
            width=0.75 * size,
            open_deg=52,
            bend_deg=22,
            cup=0.25,
            shape=(0.5, 0.25),
            base=_darker(colour, 0.8),
            edge=colour,
            grid=(5, 5),
        )
        florets.append(one.moved(frame(way), spot + 0.35 * size * way))
    stem = tube(
        np.array([[0, 0, 0], [0, 0, length * 0.5], [0, 0, length]]),
        [0.22, 0.18, 0.07],
        linear("#5f7f45"),
    )
    return [("petal", joined(florets + buds)), ("leaf", stem)]


def wand(rng, length, colour) -> Parts:
    """A thin wand of very small florets (lavender-like)."""
    grains = []
    for i in range(int(length * 5)):
        t = i / (length * 5)
        a = i * GOLDEN
        wide = 0.42 * np.sin(np.pi * (0.15 + 0.8 * t))
        spot = np.array([wide * np.cos(a), wide * np.sin(a), length * (0.25 + 0.75 * t)])
        grains.append(
            ball(
                spot, 0.17 * rng.uniform(0.7, 1.1), linear(colour) * rng.uniform(0.75, 1.2), 4, 1.5
            )
        )
    return [
        ("petal", joined(grains)),
        ("leaf", tube(np.array([[0, 0, 0], [0, 0, length]]), 0.1, linear("#6d7d58"))),
    ]


def pompon(rng, radius, colour) -> Parts:
    """A tight ball of short incurved petals (a button chrysanthemum)."""
    turn, t = _spiral(170, rng)
    fine = petals(
        rng,
        turn,
        length=radius * (0.34 + 0.3 * t),
        width=radius * rng.uniform(0.2, 0.3),
        open_deg=2 + 118 * t**0.75,
        bend_deg=-40,
        out=radius * 0.42 * np.sin(np.pi * np.minimum(t, 0.62)),
        rise=radius * (0.42 - 0.72 * t),
        cup=0.9,
        shape=(0.4, 0.25),
        base=_darker(colour, 0.7),
        edge=colour,
        shade=0.05,
        grid=(6, 5),
    )
    return [("petal", fine), ("leaf", _sepals(rng, radius))]


def globe(rng, radius, colour) -> Parts:
    """A ball of many small round florets (a viburnum's, an allium's)."""
    count = int(rng.integers(90, 240))
    i = np.arange(count)
    polar, turn = np.arccos(1 - 1.9 * (i + 0.5) / count), i * GOLDEN
    way = np.stack([np.sin(polar) * np.cos(turn), np.sin(polar) * np.sin(turn), np.cos(polar)], 1)
    size = 1.75 / np.sqrt(count) * radius
    grains = [
        ball(
            radius * rng.uniform(0.86, 1.0) * w,
            size * rng.uniform(0.75, 1.1),
            linear(_darker(colour, rng.uniform(0.85, 1.08))),
            6,
        )
        for w in way
    ]
    return [
        ("petal", joined(grains)),
        ("stem", ball((0, 0, 0), 0.8 * radius, linear(_darker(colour, 0.6)), 8)),
    ]


def bells(rng, length, colour) -> Parts:
    """Whorls of open cups up a stem, few leaves between them (bells of Ireland, foxglove,
    campanula).
    """
    cups, leaves = [], []
    gap = rng.uniform(1.3, 2.6)
    wide, deep = rng.uniform(0.8, 1.6), rng.uniform(0.15, 0.7)
    for level in np.arange(1.0, length, gap):
        t = level / length
        size = wide * (1.15 - 0.8 * t)
        first = rng.uniform(0, 6.3)
        for a in first + np.arange(rng.integers(3, 6)) * 1.4:
            way = np.array([np.cos(a), np.sin(a), 0.25 + 0.5 * t])
            count = int(rng.integers(4, 6))
            one = petals(
                rng,
                np.arange(count) * 2 * np.pi / count,
                length=size,
                width=1.3 * size,
                open_deg=30 + 30 * (1 - deep),
                bend_deg=14,
                cup=0.3 + deep,
                ruffle=0.06,
                shape=(0.4, 0.15),
                base=_darker(colour, rng.uniform(0.75, 0.95)),
                edge=colour,
                grid=(6, 6),
            )
            cups.append(one.moved(frame(way), np.array([0.3 * np.cos(a), 0.3 * np.sin(a), level])))
        if rng.random() < 0.4:
            one = petals(
                rng,
                [first + 0.7],
                length=1.6 * size,
                width=0.8 * size,
                open_deg=70,
                bend_deg=30,
                base="#4f7a3a",
                grid=(5, 5),
            )
            leaves.append(one.moved(np.eye(3), [0, 0, level]))
    stem = tube(
        np.array([[0, 0, 0], [0, 0, length * 0.5], [0, 0, length]]),
        [0.24, 0.2, 0.08],
        linear("#6c8f4c"),
    )
    return [("petal", joined(cups)), ("leaf", joined([stem, *leaves]))]


def stock(rng, length, colour) -> Parts:
    """A full spike of frilled florets, green buds at its tip."""
    florets, buds = [], []
    count = int(12 + length * 2.0)
    for i in range(count):
        t, a = i / (count - 1), i * GOLDEN
        way = np.array([np.cos(a), np.sin(a), 0.2 + 1.2 * t])
        spot = np.array([0.3 * np.cos(a), 0.3 * np.sin(a), length * (0.05 + 0.93 * t)])
        if t > 0.85:
            buds.append(ball(spot, 0.35 * (1.3 - t), linear("#7f9a52"), 5, 1.4))
            continue
        turn, u = _spiral(14, rng)
        size = (1.7 - 1.0 * t) * rng.uniform(0.85, 1.1)
        one = petals(
            rng,
            turn,
            length=size * (0.5 + 0.45 * u),
            width=0.6 * size,
            open_deg=10 + 65 * u,
            bend_deg=18,
            cup=0.2,
            ruffle=0.25,
            shape=(0.6, 0.2),
            base=_darker(colour, 0.85),
            edge=colour,
            grid=(5, 5),
        )
        florets.append(one.moved(frame(way), spot + 0.3 * size * way))
    stem = tube(
        np.array([[0, 0, 0], [0, 0, length * 0.5], [0, 0, length]]),
        [0.26, 0.22, 0.1],
        linear("#6a8a55"),
    )
    return [("petal", joined(florets)), ("leaf", joined([stem, *buds]))]


HEADS = {
    "rose": rose,
    "peony": peony,
    "ranunculus": ranunculus,
    "carnation": carnation,
    "gerbera": gerbera,
    "daisy": daisy,
    "anemone": anemone,
    "tulip": tulip,
    "lily": lily,
    "dahlia": dahlia,
    "hydrangea": hydrangea,
    "thistle": thistle,
}
SPIKES = {"delphinium": spike, "wand": wand}
# What is grown for lessons alone: the roll is a test of what was learnt.
MORE_HEADS = {"pompon": pompon, "globe": globe}
MORE_SPIKES = {"bells": bells, "stock": stock}
