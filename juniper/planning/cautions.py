"""What can hurt, said once and plainly where the work calls for it; never medical advice (handbook
section 6, common practice).
"""

from __future__ import annotations

from dataclasses import dataclass

from juniper.planning.holding import Holding
from juniper.planning.materials import CAUTIONS, Material
from juniper.planning.stems import ContainerSize, StemPlan

DEFER = "Follow your school's and local rules; ask a qualified person where you are not sure."
WORDS = {
    "knives": (
        "Knives and cutters: cut away from the hand, on a slant, and lay them where nobody reaches"
        " blindly."
    ),
    "pins": "A pin holder's pins go into hands as well as stems: lift it by its edge.",
    "mesh": "Ends of mesh and wire are sharp: turn them in, and wear gloves while folding.",
    "glass": (
        "Glass breaks under mesh or pebbles that are pressed: ease them in, and lift the vessel"
        " from below."
    ),
    "foam": (
        "Foam: wet it before you cut it, breathe none of its dust, and let none of it go down the"
        " drain."
    ),
    "tipping": (
        "So tall a piece can tip: put weight low in the vessel, and stand it where nobody brushes"
        " past."
    ),
}
# Where a piece will stand: what is asked when the brief is made, and what then is to be minded.
NEAR = {
    "food": (
        "Near food or drink",
        (
            "Food nearby: nothing poisonous, nothing sprayed, no pollen or fluff over it; keep the"
            " water from the table."
        ),
    ),
    "children": (
        "Where children reach it",
        (
            "Children nearby: nothing poisonous or thorny within reach, and a vessel that cannot"
            " be pulled over."
        ),
    ),
    "animals": (
        "Where animals reach it",
        (
            "Animals nearby: many flowers are poisonous to them, lilies to cats even by their"
            " pollen and water."
        ),
    ),
    "flame": (
        "Near candles or open flame",
        (
            "Flame nearby: keep dry and oily material well away; many places forbid it, battery"
            " candles do as well."
        ),
    ),
    "electrics": (
        "Near lights or other electrics",
        "Electrics nearby: no water over or beside them, and no wet foliage against a lamp.",
    ),
}
CLASH = {
    "food": {"poisonous", "irritant", "cats", "dust", "pollen"},
    "children": {"poisonous", "irritant", "eyes", "thorns"},
    "animals": {"poisonous", "cats"},
}
EDIBLE = "edible-and-herb-bunch"  # rule sets whose name begins so are of food
FIRE = ("dried",)
# times the container's larger side: a plant that stands so high over a narrow foot wants weight
# below
TIPS = 2.0


@dataclass(frozen=True)
class Warned:
    """A material that must not stand where it is planned to: must be answered before the plan is
    used. `key` names it.
    """

    key: str
    material: Material
    words: str


def clashes(
    materials: tuple[Material, ...], near: tuple[str, ...], rules: str = ""
) -> tuple[Warned, ...]:
    """Materials that clash with where the piece will stand (keys of NEAR), or with the rule set
    (its slug) of an edible bunch, each once for a place.
    """
    edible = rules.startswith(EDIBLE)
    places = tuple(dict.fromkeys((*(("food",) if edible else ()), *near)))
    found = []
    for place in places:
        for one in dict.fromkeys(materials):
            bad = [c for c in one.cautions if c in CLASH.get(place, ())]
            if place == "flame" and one.texture in FIRE:
                bad = ["dry"]
            if not bad:
                continue
            what = "it is dry, and burns" if bad == ["dry"] else "; ".join(CAUTIONS[c] for c in bad)
            where = "in an edible bunch" if edible and place == "food" else NEAR[place][0].lower()
            found.append(Warned(f"{place}:{one.slug}", one, f"{one.common} {where}: {what}."))
    return tuple(found)


def cautions_for(
    container: ContainerSize,
    plan: StemPlan,
    holding: Holding,
    clear: bool = False,
    near: tuple[str, ...] = (),
    materials: tuple[Material, ...] = (),
) -> tuple[str, ...]:
    """The cautions that a plan calls for, with its place (keys of NEAR) and its materials, each
    once, and whom to ask.
    """
    codes = ["knives", *holding.cautions]
    if clear and "mesh" in holding.cautions:
        codes.append("glass")
    if plan.height >= TIPS * container.width and plan.height >= 30:
        codes.append("tipping")
    told = [WORDS[code] for code in dict.fromkeys(codes)] + [
        NEAR[place][1] for place in NEAR if place in near
    ]
    for code, words in CAUTIONS.items():
        which = [m.common for m in dict.fromkeys(materials) if code in m.cautions]
        if which:
            told.append(f"{', '.join(which)}: {words}.")
    return (*told, DEFER)
