"""Leaves, sprays, grasses and fillers: each grows along a path from its stem's foot to its tip."""

from __future__ import annotations

import numpy as np

from juniper.camera.flowers import GOLDEN, Parts, petals
from juniper.camera.mesh import Mesh, ball, frame, joined, linear, tube


def along_path(path: np.ndarray, t: float) -> tuple[np.ndarray, np.ndarray]:
    """Point and direction at a share of a path (n, 3)."""
    i = min(len(path) - 2, int(t * (len(path) - 1)))
    f = t * (len(path) - 1) - i
    way = path[i + 1] - path[i]
    return path[i] * (1 - f) + path[i + 1] * f, way / (np.linalg.norm(way) + 1e-9)


def leaf(
    rng, length, width, colour, *, open_deg=0.0, bend_deg=25.0, fold=0.35, shape=(0.55, 0.55)
) -> Mesh:
    """One leaf, its midrib along +z and folded a little along it."""
    return petals(
        rng,
        [rng.uniform(0, 6.3)],
        length=length,
        width=width,
        open_deg=open_deg,
        bend_deg=bend_deg,
        cup=fold,
        ruffle=0.05,
        shape=shape,
        base=colour,
        shade=0.09,
        grid=(9, 7),
    )


def _leafy(
    rng,
    path,
    *,
    start,
    gap,
    length,
    width,
    colour,
    lean,
    pairs=False,
    shape=(0.55, 0.55),
    taper=0.5,
    bend=20.0,
) -> Mesh:
    """Leaves set along a path, in pairs or by turns, smaller toward the tip."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    leaves, s, n = [], start * total, 0
    while s < total:
        t = s / total
        spot, way = along_path(path, t)
        turn = frame(way)
        size = 1 - taper * (t - start) / (1 - start + 1e-9)
        for side in (0.0, np.pi) if pairs else (n * 2.4,):
            a = side + n * 1.4 * pairs + rng.normal(0, 0.35)
            tip_way = np.array([np.cos(a) * np.sin(lean), np.sin(a) * np.sin(lean), np.cos(lean)])
            one = leaf(
                rng,
                length * size * rng.uniform(0.8, 1.15),
                width * size * rng.uniform(0.85, 1.1),
                colour,
                bend_deg=bend + rng.normal(0, 8),
                shape=shape,
            )
            leaves.append(one.moved(turn @ frame(tip_way), spot))
        s += gap * rng.uniform(0.75, 1.25)
        n += 1
    spot, way = along_path(path, 0.999)
    leaves.append(
        leaf(rng, length * (1 - taper), width * (1 - taper), colour, shape=shape).moved(
            frame(way), spot
        )
    )
    return joined(leaves)


def eucalyptus(rng, path, colour="#8fa596") -> Parts:
    """Round grey-green leaves in pairs."""
    return [
        (
            "leaf",
            _leafy(
                rng,
                path,
                start=0.3,
                gap=1.9,
                length=2.5,
                width=2.3,
                colour=colour,
                lean=1.15,
                pairs=True,
                shape=(0.45, 0.3),
            ),
        ),
        ("stem", tube(path, np.linspace(0.16, 0.07, len(path)), linear("#7d6a55"))),
    ]


def ruscus(rng, path, colour="#3e6a35") -> Parts:
    """Pointed glossy leaves by turns."""
    return [
        (
            "leaf",
            _leafy(
                rng,
                path,
                start=0.28,
                gap=1.25,
                length=4.0,
                width=1.7,
                colour=colour,
                lean=0.85,
                shape=(0.6, 0.75),
            ),
        ),
        ("stem", tube(path, np.linspace(0.17, 0.06, len(path)), linear("#4d6f3c"))),
    ]


def olive(rng, path, colour="#7c8a68") -> Parts:
    """Narrow leaves in pairs."""
    return [
        (
            "leaf",
            _leafy(
                rng,
                path,
                start=0.3,
                gap=1.6,
                length=3.8,
                width=0.8,
                colour=colour,
                lean=0.8,
                pairs=True,
                shape=(0.5, 0.6),
            ),
        ),
        ("stem", tube(path, np.linspace(0.17, 0.06, len(path)), linear("#7a6c58"))),
    ]


def pittosporum(rng, path, colour="#6f8f4e") -> Parts:
    """Small dense leaves, lighter at the edge."""
    return [
        (
            "leaf",
            _leafy(
                rng,
                path,
                start=0.22,
                gap=0.7,
                length=2.2,
                width=1.15,
                colour=colour,
                lean=0.95,
                shape=(0.6, 0.5),
            ),
        ),
        ("stem", tube(path, np.linspace(0.16, 0.06, len(path)), linear("#5a4a3c"))),
    ]


def fern(rng, path, colour="#4c7d35") -> Parts:
    """A flat frond of leaflets, longest below the middle."""
    leaflets = []
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    face = np.array([0.1, -1.0, 0.35])
    for n in range(int(total / 0.65)):
        t = 0.18 + 0.8 * n / (total / 0.65)
        spot, way = along_path(path, min(t, 0.99))
        side = np.cross(way, face)
        side /= np.linalg.norm(side)
        far = 0.30 * total * np.sin(np.pi * (0.12 + 0.86 * (t - 0.18) / 0.82)) ** 0.8 * 0.55
        for hand in (-1, 1):
            toward = hand * side + 0.55 * way + rng.normal(0, 0.04, 3)
            leaflets.append(
                leaf(rng, far, 0.95, colour, bend_deg=14, shape=(0.2, 0.6)).moved(
                    frame(toward), spot
                )
            )
    return [
        ("leaf", joined(leaflets)),
        ("stem", tube(path, np.linspace(0.15, 0.05, len(path)), linear("#5b6b35"))),
    ]


def broad_leaf(rng, path, colour="#2f5a30") -> Parts:
    """One long leaf (aspidistra-like) that follows its path."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    spot, _ = along_path(path, 0.35)
    end, _ = along_path(path, 0.999)
    blade = petals(
        rng,
        [-np.pi / 2],
        length=0.72 * total,
        width=0.24 * total,
        open_deg=-8,
        bend_deg=42,
        cup=0.22,
        ruffle=0.05,
        shape=(0.6, 0.6),
        base=colour,
        shade=0.04,
        grid=(17, 11),
    )
    return [
        ("leaf", blade.moved(frame(end - spot), spot)),
        ("stem", tube(path[: len(path) // 2 + 1], 0.16, linear("#4a6a35"))),
    ]


def grass(rng, path, colour="#5f7f3a") -> Parts:
    """A tuft of fine arching blades."""
    blades = []
    foot, tip = path[0], path[-1]
    reach = np.linalg.norm(tip - foot)
    for _ in range(7):
        end = tip + rng.normal(0, 0.09 * reach, 3)
        over = end + np.array(
            [
                rng.normal(0, 0.12) * reach,
                rng.normal(0, 0.1) * reach,
                -rng.uniform(0.02, 0.22) * reach,
            ]
        )
        mid = 0.5 * (foot + end) + np.array([0, 0, 0.12 * reach])
        t = np.linspace(0, 1, 16)[:, None]
        curve = (
            (1 - t) ** 3 * foot
            + 3 * t * (1 - t) ** 2 * mid
            + 3 * t**2 * (1 - t) * end
            + t**3 * over
        )
        blades.append(
            tube(curve, np.linspace(0.13, 0.04, 16), linear(colour) * rng.uniform(0.8, 1.2), 4)
        )
    return [("leaf", joined(blades))]


def willow(rng, path, colour="#6b4f38") -> Parts:
    """A bare branch with silver catkins."""
    rough = path + rng.normal(0, 0.12, path.shape)
    catkins = []
    for n in range(int(len(path) * 1.2)):
        spot, way = along_path(rough, 0.35 + 0.63 * n / (len(path) * 1.2))
        a = n * 2.4
        catkins.append(
            ball(
                spot + frame(way) @ [0.3 * np.cos(a), 0.3 * np.sin(a), 0.3],
                0.34,
                linear("#c9c7bb") * rng.uniform(0.85, 1.05),
                6,
                1.7,
            )
        )
    twigs = []
    for t in (0.55, 0.75):
        spot, way = along_path(rough, t)
        end = spot + 6 * (way + rng.normal(0, 0.35, 3))
        twigs.append(
            tube(
                np.array([spot, 0.5 * (spot + end) + [0, 0, 0.3], end]),
                [0.13, 0.1, 0.05],
                linear(colour),
            )
        )
    return [
        ("stem", joined([tube(rough, np.linspace(0.32, 0.1, len(path)), linear(colour)), *twigs])),
        ("petal", joined(catkins)),
    ]


def ivy(rng, path, colour="#3f6238") -> Parts:
    """A trail of broad pointed leaves."""
    return [
        (
            "leaf",
            _leafy(
                rng,
                path,
                start=0.2,
                gap=1.9,
                length=3.2,
                width=3.0,
                colour=colour,
                lean=1.2,
                shape=(0.35, 0.6),
            ),
        ),
        ("stem", tube(path, np.linspace(0.13, 0.05, len(path)), linear("#5a5138"))),
    ]


def _branched(rng, path, count, spread) -> tuple[list[np.ndarray], list[Mesh]]:
    tips, threads = [], []
    for _ in range(count):
        spot, way = along_path(path, rng.uniform(0.45, 0.95))
        end = spot + spread * (way + rng.normal(0, 0.55, 3))
        mid = 0.5 * (spot + end) + rng.normal(0, 0.2, 3)
        threads.append(tube(np.array([spot, mid, end]), [0.05, 0.04, 0.03], linear("#7d8f5c"), 4))
        tips.append(end)
    return tips, threads


def gypsophila(rng, path, colour="#f1efe8") -> Parts:
    """A cloud of very small flowers on thread-like branches."""
    flowers = []
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    tips, threads = _branched(rng, path, 26, 0.2 * total)
    for tip in tips:
        for _ in range(5):
            spot = tip + rng.normal(0, 0.035 * total, 3)
            turn = np.arange(5) * 1.2566
            flowers.append(
                petals(
                    rng,
                    turn,
                    length=0.5,
                    width=0.5,
                    open_deg=60,
                    bend_deg=0,
                    cup=0.3,
                    base=colour,
                    grid=(3, 4),
                ).moved(frame(rng.normal(0, 1, 3) + [0, -1, 1]), spot)
            )
            threads.append(tube(np.array([tip, spot]), 0.025, linear("#8a9a68"), 3))
    threads.append(tube(path, np.linspace(0.12, 0.05, len(path)), linear("#6f8450")))
    return [("petal", joined(flowers)), ("stem", joined(threads))]


def berries(rng, path, colour="#9c2f2a") -> Parts:
    """Glossy berries in small clusters (hypericum-like)."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    tips, threads = _branched(rng, path, 11, 0.16 * total)
    fruit = [
        ball(
            t + rng.normal(0, 0.3, 3),
            0.52 * rng.uniform(0.8, 1.15),
            linear(colour) * rng.uniform(0.8, 1.2),
            7,
            1.25,
        )
        for t in tips
        for _ in range(2)
    ]
    leaves = [
        leaf(rng, 2.6, 1.2, "#5c7a3a").moved(frame(rng.normal(0, 1, 3) + [0, 0, 0.5]), t)
        for t in tips[:7]
    ]
    threads.append(tube(path, np.linspace(0.14, 0.06, len(path)), linear("#6b5a3c")))
    return [("berry", joined(fruit)), ("leaf", joined(leaves)), ("stem", joined(threads))]


def statice(rng, path, colour="#8d6ab0") -> Parts:
    """Papery small flowers in flat sprays."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    tips, threads = _branched(rng, path, 16, 0.14 * total)
    flowers = []
    for tip in tips:
        for i in range(7):
            spot = tip + rng.normal(0, 0.4, 3)
            flowers.append(
                petals(
                    rng,
                    np.arange(5) * 1.2566 + i * GOLDEN,
                    length=0.55,
                    width=0.42,
                    open_deg=35,
                    bend_deg=20,
                    cup=0.4,
                    base=colour,
                    grid=(3, 4),
                ).moved(frame(rng.normal(0, 0.6, 3) + [0, -0.4, 1]), spot)
            )
    threads.append(tube(path, np.linspace(0.14, 0.06, len(path)), linear("#64814a")))
    return [("petal", joined(flowers)), ("stem", joined(threads))]


def waxflower(rng, path, colour="#f3e9ea") -> Parts:
    """Five-petalled florets with an eye, singly at the ends of fine twigs, needles along them."""
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    wide = rng.uniform(0.45, 0.8)
    tips, threads = _branched(rng, path, int(rng.integers(16, 34)), 0.17 * total)
    flowers, rest = [], []
    for tip in tips:
        for _ in range(int(rng.integers(1, 4))):
            spot, way = tip + rng.normal(0, 0.02 * total, 3), rng.normal(0, 0.6, 3) + [0, -0.5, 0.8]
            one = petals(
                rng,
                np.arange(5) * 1.2566,
                length=wide,
                width=0.8 * wide,
                open_deg=66,
                bend_deg=10,
                cup=0.3,
                shape=(0.4, 0.15),
                base=colour,
                grid=(4, 5),
            )
            flowers.append(one.moved(frame(way), spot))
            rest.append(ball(spot + 0.1 * way, 0.16 * wide, linear("#a8b45a"), 4))
            threads.append(tube(np.array([tip, spot]), 0.03, linear("#7f8a58"), 3))
    rest += [
        leaf(rng, 1.4, 0.14, "#5f7a45").moved(frame(rng.normal(0, 0.6, 3) + [0, 0, 1]), t)
        for t in tips
    ]
    threads.append(tube(path, np.linspace(0.13, 0.05, len(path)), linear("#6b6f4a")))
    return [("petal", joined(flowers)), ("leaf", joined(rest)), ("stem", joined(threads))]


def plume(rng, path, colour="#e0b62c") -> Parts:
    """A feathery head of grains on arching side shoots (goldenrod, astilbe)."""
    grains, threads = [], []
    total = np.linalg.norm(np.diff(path, axis=0), axis=1).sum()
    for t in np.linspace(0.6, 0.99, int(rng.integers(12, 22))):
        spot, way = along_path(path, t)
        long = 0.17 * total * (1.08 - t) / 0.48 + 0.4
        end = spot + long * (0.8 * way + rng.normal(0, 0.6, 3)) + [0, 0, -0.1 * long]
        threads.append(
            tube(
                np.array([spot, 0.5 * (spot + end) + [0, 0, 0.12 * long], end]),
                [0.05, 0.04, 0.03],
                linear("#6f8450"),
                4,
            )
        )
        for u in np.linspace(0.15, 1, int(8 + 5 * long)):
            at = spot + u * (end - spot) + rng.normal(0, 0.12, 3)
            grains.append(
                ball(at, rng.uniform(0.09, 0.17), linear(colour) * rng.uniform(0.8, 1.15), 4)
            )
    threads.append(tube(path, np.linspace(0.16, 0.06, len(path)), linear("#64814a")))
    return [("petal", joined(grains)), ("stem", joined(threads))]


FOLIAGE = {
    "eucalyptus": eucalyptus,
    "ruscus": ruscus,
    "olive": olive,
    "pittosporum": pittosporum,
    "fern": fern,
    "broad leaf": broad_leaf,
    "grass": grass,
    "ivy": ivy,
    "willow": willow,
}
FILLERS = {"gypsophila": gypsophila, "berries": berries, "statice": statice}
MORE_FILLERS = {"waxflower": waxflower, "plume": plume}  # for lessons alone
