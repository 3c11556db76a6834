"""Pieces in which one fault shows plainly and all else is as taught, to try the rules on, and good,
middling and poor ones (all invented).

Each stands in an opaque container against a plain wall, so that what is tried is the rule and not
the eye.
"""

from __future__ import annotations

import numpy as np

from juniper.camera.arranging import COLOURS, Piece
from juniper.camera.arranging import FAULTS as MADE
from juniper.camera.containers import SHELF

# mesh is asked about, not measured
FAULTS = ("", *(fault for fault in MADE if fault != "visible mesh"))
FORMS = ("symmetrical triangle", "round", "fan")
SIZES = {"too tall": (2.7, 3.0), "too squat": (0.8, 1.0)}  # plant height : governing dimension
FORM_FOR = {
    "twin tips": "symmetrical triangle",
    "gap": "round",
    "top heavy": "fan",
    "off-balance": "symmetrical triangle",
}
CONTAINERS = (
    "tall cylinder",
    "flared vase",
    "urn on a foot",
    "ginger jar",
    "tapered bucket",
    "jug",
)
LEADING, OTHERS = ("dahlia", "peony", "rose"), ("carnation", "ranunculus", "anemone")
BLUISH = {"violet", "blue-violet", "blue", "red-violet"}
PALE = ("white", "cream", "lime", "green")
WALLS, TABLES = (
    ("plaster grey", "plaster white", "plaster warm", "plaster blue"),
    ("oak", "slate", "walnut", "pale ash"),
)


# Faults that a middling and a poor piece have together; a good one has none.
GRADES = (
    (),
    ("off-balance", "focal too high", "gap"),
    ("off-balance", "focal too high", "gap", "stray accent", "bare rim", "too tall"),
)


# times as high, as a gap and a focal flower set high together take a fifth off the top (these
# pieces, traced)
LOST = 1.25


def graded(number: int) -> Piece:
    """A good, a middling or a poor piece by its number: the faults of GRADES[number % 3]; three in
    a row are else the same piece.
    """
    faults = GRADES[number % len(GRADES)]
    return _made(70000 + number // 3, faults, LOST if faults else 1.0)


def example(number: int) -> Piece:
    """An example by its number: fault FAULTS[number % 11], the rest by chance; the same number, the
    same piece.
    """
    fault = FAULTS[number % len(FAULTS)]
    return _made(80000 + number, (fault,) if fault else ())


def _made(seed: int, faults: tuple[str, ...], taller: float = 1.0) -> Piece:
    rng = np.random.default_rng(seed)

    def one_of(some):
        return some[int(rng.integers(len(some)))]

    size = next((f for f in faults if f in SIZES), "")
    form, container = (
        next((FORM_FOR[f] for f in faults if f in FORM_FOR), None) or one_of(FORMS),
        one_of(CONTAINERS),
    )
    strong = [c for c in COLOURS if c not in PALE]
    lead = one_of(strong)
    cool = COLOURS[lead][1] in BLUISH
    # The masses keep to the other side of the circle, and are of one colour: nothing but the focal
    # flowers leads.
    mass = one_of([c for c in strong if (COLOURS[c][1] in BLUISH) != cool])
    ratio = taller * {name: rng.uniform(*ends) for name, ends in SIZES.items()}.get(
        size, rng.uniform(1.55, 1.85)
    )
    kept = SHELF[container]
    return Piece(
        container=container,
        glaze=one_of(("#4d5a63", "#8c7a66", "#6b7a6f", "#c9c1b0")),
        form=form,
        height=ratio * max(kept.height_cm, kept.widest_cm) / kept.height_cm,
        spread={"too tall": 0.55, "too squat": 1.6}.get(size, rng.uniform(0.85, 1.05)),
        scheme="",
        focal=(one_of(LEADING), lead),
        mass=tuple((kind, mass) for kind in rng.permutation(OTHERS)[:2]),
        foliage=("ruscus", one_of(("eucalyptus", "pittosporum"))),
        mirror=bool(rng.random() < 0.5),
        faults=faults,
        table=one_of(TABLES),
        wall=one_of(WALLS),
        lead=0.0 if "no focal" in faults else 1.3,
        amount=1.6,
    )
