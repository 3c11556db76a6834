"""How a material is made ready: each entry of the catalogue carries its own treatment, since a
texture alone says too little (a rose and a lilac are both woody, and nobody treats them alike).

The words are common practice (handbook sections 5 and 9) unless an entry's `treated` says
otherwise. Searing is one school's way: it is done only to a material for which it is taught, and
only where the school has chosen it (see juniper.planning.ways).
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

# How an end is cut; a material names the usual way first, then those of other schools.
CUTS = {
    "slant": "Cut on the slant, at once into water.",
    "under-water": "Cut on the slant with the end held under water.",
    "straight": "Cut straight across, at once into water.",
    "above-white": "Cut off the white end: only the green part drinks.",
    "between-nodes": "Cut on the slant between two nodes: a node does not drink.",
    "snap": "Snap the end off by hand: the broken fibres drink well.",
    "split": "Cut on the slant and split the end for a finger's breadth.",
    "whittle": "Break the end ragged and whittle the bark off for 5 cm, to show raw wood.",
    "crush": "Crush the end with a hammer.",
    "none": "",
}
WOODY = ("split", "whittle", "crush")  # cuts between which a school chooses by its own way
LEAVES = {
    "off": "Strip every leaf.",
    "lower": "Strip the lower leaves: none may stand under water.",
    "on": "Leave its leaves on, clear of the water.",
    "either": "Strip the leaves, or leave a few at the top: schools differ.",
    "none": "",
}
TEMPERATURES = ("cold", "cool", "tepid", "warm", "none")
DEPTHS = ("shallow", "half", "deep", "none")
# What else is done: before it stands in water ("first"), as it stands ("then"), or as it is used
# ("after"), with the sentence that says so.
FIRST, THEN, AFTER = "first", "then", "after"
ALSO = {
    "gloves": (FIRST, "Wear gloves, and wash your hands afterwards."),
    "no-recut": (AFTER, "Do not cut it again before it goes in: the sap would run anew."),
    "alone": (FIRST, "Keep it in a bucket of its own: its sap shortens the life of the others."),
    "end-band": (THEN, "Bind the end with clear tape, or it splits and curls up."),
    "fill": (THEN, "Turn the hollow stem up, fill it with water and plug it with wet cotton wool."),
    "wrap": (THEN, "Wrap the bunch upright in paper while it drinks, or the stems bend."),
    "turns": (AFTER, "It grows and bends to the light after cutting: set it low, and turn it."),
    "upright": (THEN, "Stand it upright: its tip turns up within an hour when it lies."),
    "hang": (THEN, "Let its tassels hang free of the bucket's edge."),
    "hang-through": (
        THEN,
        "Let the heads hang in a grid over the bucket, so that the stems drink straight.",
    ),
    "tip-out": (AFTER, "Pinch out the topmost buds, and those below open."),
    "nodes": (AFTER, "Bend it between nodes only: it snaps at a node."),
    "dip": (
        THEN,
        "Lay the head in cool water for 30 minutes first: the petals drink too (hydro-cooling).",
    ),
    "submerge": (THEN, "Lay it under cool water for 30 minutes first (hydro-cooling)."),
    "solution": (
        THEN,
        "Stand it in conditioning solution: without it a large leaf lasts a day, with it about"
        " three weeks.",
    ),
    "drape": (AFTER, "Draw the back of a knife along it, and it drapes."),
    "curl": (AFTER, "Roll it round a pencil, and it curls."),
    "split-leaf": (AFTER, "Split it lengthwise along its veins for narrower blades."),
    "bend": (AFTER, "Bend it warm in the hands, a little at a time."),
    "food": (THEN, "Give it flower food."),
    "force": (THEN, "Bring it into a warm room some days before, and it opens."),
    "open-warm": (THEN, "A closed bud opens in warm water in a warm room."),
    "buds-squeeze": (FIRST, "Buy buds that feel soft like a marshmallow: hard ones stay shut."),
    "buds-on": (AFTER, "Leave the side buds on: they open."),
    "no-buds": (AFTER, "Its buds do not open once cut: use open flowers."),
    "no-buds-off": (AFTER, "Take off what has faded; the buds behind it open."),
    "guard": (AFTER, "Take off the guard petals, the outermost that look bruised."),
    "reflex": (
        AFTER,
        "Outer petals turned back by the thumb make a bloom a third wider; it lasts less long.",
    ),
    "anthers": (AFTER, "Take the anthers out as each flower opens."),
    "score": (THEN, "Score the stem shallowly along its length: it hangs less."),
    "no-touch": (AFTER, "Do not touch its petals: they bruise brown."),
    "no-wet": (AFTER, "Keep its petals and leaves dry: they spot."),
    "no-cold": (THEN, "Never in a cold store: it blackens below 12 °C."),
    "leaf-black": (AFTER, "Take off leaves that blacken; the head lasts."),
    "lift": (AFTER, "Soak the beak and lift the next flower out with the thumb."),
    "tubes": (AFTER, "Give it a water tube where the piece itself holds no water."),
    "smell": (AFTER, "It smells: not where people eat."),
    "foul": (AFTER, "It fouls its water quickly: change it daily."),
    "wash": (FIRST, "Wash it in cold water and shake it dry, if it goes near food."),
    "garden-only": (FIRST, "Only from your own garden: wild bulbs are protected in many places."),
    "resin": (FIRST, "Resin sticks: oil takes it off hands and cutters."),
    "drops": (AFTER, "It drops as it dries: away from heating."),
    "roots": (AFTER, "It may root in the vase; it can be potted afterwards."),
    "spray": (AFTER, "Mist it: it drinks little through its stem."),
    "dry-stand": (AFTER, "It also stands without water."),
    "damp": (THEN, "Dampen it and press it out."),
    "dry": (FIRST, "It needs no water: keep it dry and out of the sun."),
    "glycerine": (FIRST, "Preserved in glycerine: no water, and not against cloth, it marks."),
    "steam": (FIRST, "Steam what is crushed, and it opens again."),
    "fix": (FIRST, "Fix loose fluff with a light spray, out of doors."),
    "outdoors": (FIRST, "Shake dust and seed off, out of doors."),
    "rub": (FIRST, "Rub the outer skins off its pods."),
    "wire-stem": (AFTER, "Give it a wire stem: its own is brittle or short."),
    "wire-base": (AFTER, "Wire it round the base, and twist a stem of the ends."),
    "wire-neck": (AFTER, "Support a weak neck with a wire inside the stem."),
    "skewer": (AFTER, "Set it on two skewers, so that it does not turn; points downward."),
    "apart-fruit": (
        AFTER,
        "Ripe fruit gives off a gas that ages flowers: keep it apart until set.",
    ),
    "holder": (AFTER, "Set it in a holder of its own, upright, clear of everything that dries."),
    "tie-on": (AFTER, "Tie it on last."),
    "rinse": (FIRST, "Rinse the salt off and let it dry."),
    "reuse": (AFTER, "Box it dry afterwards: it is used again."),
}
# The stage at which it is bought; the second word of `bought` says how many days before the class.
STAGES = {
    "bud": "in bud",
    "colour": "in bud, showing colour",
    "half": "half open",
    "open": "open",
    "ripe": "mature",
    "firm": "with firm leaves",
    "dry": "dry",
}
LONGEST_SOAK = 24 * 60  # minutes
MOST_AHEAD = 14  # days
MOST_PIECES = 12  # usable pieces of one bought stem
SECONDS = re.compile(r"([1-9][0-9]?)(?:-([1-9][0-9]?))?")
WHOLE = re.compile(r"[0-9]{1,4}")

COLUMNS = (
    "cut",
    "sear_s",
    "bleed_min",
    "water",
    "soak_min",
    "leaves",
    "also",
    "bought",
    "yields",
    "treated",
)


@dataclass(frozen=True)
class Treatment:
    """How one material is made ready and bought.

    `cut` are keys of CUTS, the usual first; `sear` the seconds in just-boiled water of the school
    that sears it, None where it is not taught; `bleed` minutes that its sap runs apart from the
    others; `water` its temperature and depth; `soak` the least minutes in it; `leaves` a key of
    LEAVES; `also` keys of ALSO; `stage` a key of STAGES and `ahead` days before the class at which
    it is bought, so that it stands as it should on the day; `yields` pieces that one bought stem
    gives (shoots of a foliage stem, heads of a spray), each as large as the catalogue says;
    `source` where this is from.
    """

    cut: tuple[str, ...]
    sear: tuple[int, int] | None
    bleed: int
    water: tuple[str, str]
    soak: int
    leaves: str
    also: tuple[str, ...]
    stage: str
    ahead: int
    yields: int
    source: str

    @property
    def dry(self) -> bool:
        """Whether it stands without water."""
        return self.water[0] == "none"


# What is usual for a stem of a texture, for materials whose row says nothing (common practice):
# never seared.
USUAL = {
    "soft": "slant,,,cool half,120,lower,,half 1,1",
    "medium": "slant,,,cool half,120,lower,,half 1,1",
    "woody": "split whittle crush,,,cool deep,240,lower,,half 1,1",
    "hollow": "slant,,,cool half,180,lower,fill,half 1,1",
    "bulb": "above-white,,,cold shallow,120,none,,colour 1,1",
    "milky": "slant,,30,cool half,120,lower,no-recut alone,half 1,1",
    "leaf": "slant,,,cool deep,240,on,submerge solution,firm 1,1",
    "dried": "none,,,none none,0,none,dry,dry 0,1",
    "part": "none,,,none none,0,none,,dry 0,1",
}


def usual_treatment(texture: str) -> Treatment:
    """What is usual for a stem of a texture (a key of USUAL)."""
    words = dict(zip(COLUMNS, [*USUAL[texture].split(","), "usual for its stem"], strict=True))
    return read_treatment(words)


def read_treatment(row: dict[str, str]) -> Treatment:
    """A treatment from the cells of COLUMNS. Raises ValueError with what is wrong."""
    cut = _known(row["cut"], "way to cut", CUTS) or ("slant",)
    also = _known(row["also"], "further step", ALSO)
    leaves = row["leaves"] or "lower"
    _known(leaves, "way with leaves", LEAVES)
    water = tuple(row["water"].split())
    if len(water) != 2 or water[0] not in TEMPERATURES or water[1] not in DEPTHS:
        raise ValueError(
            "its water is told in two words, such as “cool deep”: first"
            f" {', '.join(TEMPERATURES)}, then {', '.join(DEPTHS)}"
        )
    stage, _, ahead = row["bought"].partition(" ")
    _known(stage, "stage of opening", STAGES)
    if not stage:
        raise ValueError("at which stage it is bought is missing, such as “half 1”")
    return Treatment(
        cut,
        _seconds(row["sear_s"]),
        _number(row["bleed_min"] or "0", "minutes that it bleeds", LONGEST_SOAK),
        (water[0], water[1]),
        _number(row["soak_min"], "minutes in water", LONGEST_SOAK),
        leaves,
        also,
        stage,
        _number(ahead or "0", "days that it is bought ahead", MOST_AHEAD),
        max(1, _number(row["yields"] or "1", "pieces of a stem", MOST_PIECES)),
        row["treated"] or "common practice",
    )


def treatment_cells(treatment: Treatment) -> tuple[str, ...]:
    """A treatment as the cells of COLUMNS; read_treatment() gives the same back."""
    t = treatment
    sear = ""
    if t.sear is not None:
        sear = f"{t.sear[0]}" if t.sear[0] == t.sear[1] else f"{t.sear[0]}-{t.sear[1]}"
    return (
        " ".join(t.cut),
        sear,
        f"{t.bleed}" if t.bleed else "",
        " ".join(t.water),
        f"{t.soak}",
        t.leaves,
        " ".join(t.also),
        f"{t.stage} {t.ahead}",
        f"{t.yields}",
        t.source,
    )


def _known(text: str, word: str, names: Mapping[str, object]) -> tuple[str, ...]:
    found = tuple(text.split())
    for one in found:
        if one not in names:
            raise ValueError(f"no {word} is called “{one}”; there are {', '.join(names)}")
    return found


def _number(text: str, what: str, most: int) -> int:
    if not WHOLE.fullmatch(text) or int(text) > most:
        raise ValueError(f"the {what} are a whole number, {most} at most")
    return int(text)


def _seconds(text: str) -> tuple[int, int] | None:
    """ "30-40" to (30, 40), "10" to (10, 10), "" to None."""
    if not text:
        return None
    told = SECONDS.fullmatch(text)
    low, high = (int(told[1]), int(told[2] or told[1])) if told else (1, 0)
    if low > high:
        raise ValueError("seconds of searing are told as 10 or 30-40, 99 at most")
    return low, high
