"""The skills of the eye that are practised, and the kinds of exercise for each."""

from __future__ import annotations

from dataclasses import dataclass

# How an answer is given.
LEVEL, UPRIGHT, PLACE, FAULT, SHARE, SHARES, CHOICE, PAIR, ORDER, CUT = ANSWERS = (
    "level",
    "upright",
    "place",
    "fault",
    "share",
    "shares",
    "choice",
    "pair",
    "order",
    "cut",
)


@dataclass(frozen=True)
class Skill:
    """Something an eye can be taught."""

    code: str
    title: str
    about: str


SKILLS = (
    Skill("height", "Heights", "How high something stands, counted in containers."),
    Skill("balance", "Balance", "Where the weight lies, and how it is shared out."),
    Skill("focal", "Focal point", "Where the eye lands, and where the focal flower belongs."),
    Skill("faults", "Faults", "Finding what disturbs: twin tips, a stray accent, a hole."),
    Skill("colour", "Colour", "The scheme, and how much there is of each colour."),
    Skill("comparing", "Comparing", "Which of several pieces is higher, fuller or heavier."),
    Skill("cutting", "The next cut", "Which stem to take down, and to where."),
)
SKILL = {s.code: s for s in SKILLS}


@dataclass(frozen=True)
class Kind:
    """A kind of exercise: the `skill` it trains, how it is answered (one of ANSWERS), the unit of
    its error, and `scale`, by how much a beginner errs (root mean square, in that unit).

    `pictures` are how many it shows, `measures` those whose rule it teaches, the first that a rule
    set has. `guess` is the share of right answers by chance. `times` turns a figure of the unit
    into what is written, `decimals` of it.
    """

    code: str
    skill: str
    answer: str
    title: str
    unit: str
    scale: float
    measures: tuple[str, ...]
    pictures: int = 1
    guess: float = 0.0
    times: float = 1.0
    decimals: int = 2
    fault: str = ""


_HEIGHT = ("governing_ratio", "height_ratio", "table_height")
_BALANCE = ("left_weight_share", "heavier_share", "moment_ratio", "weight_offset")
# What a beginner errs by is assumed (from memory of teaching, not of a study): it sets the scale
# on which skills are compared, and the first classes' medians should replace it.
KINDS = (
    Kind("reach", "height", LEVEL, "Containers to a height", "container heights", 0.3, _HEIGHT),
    Kind(
        "tip", "height", LEVEL, "Where the tallest tip belongs", "container heights", 0.3, _HEIGHT
    ),
    Kind(
        "band",
        "height",
        CHOICE,
        "Too low, right or too high",
        "container heights",
        0.3,
        _HEIGHT,
        guess=0.5,
    ),
    Kind(
        "axis",
        "balance",
        UPRIGHT,
        "The axis",
        "% of the rim",
        0.06,
        _BALANCE,
        times=100,
        decimals=0,
    ),
    Kind(
        "weight",
        "balance",
        PLACE,
        "The balance point",
        "% of plant height",
        0.14,
        ("weight_height", *_BALANCE),
        times=100,
        decimals=0,
    ),
    Kind(
        "share", "balance", SHARE, "Left and right", "percentage points", 10.0, _BALANCE, decimals=0
    ),
    Kind(
        "eye",
        "focal",
        PLACE,
        "Where the eye lands",
        "% of plant height",
        0.25,
        ("eye_distance", "focal_height"),
        times=100,
        decimals=0,
    ),
    Kind(
        "focal",
        "focal",
        PLACE,
        "Where the focal flower belongs",
        "% of plant height",
        0.12,
        ("focal_height", "focal_offset"),
        times=100,
        decimals=0,
    ),
    *(
        Kind(code, "faults", FAULT, title, "", 1.0, measures, guess=0.1, fault=fault)
        for code, title, fault, measures in (
            ("twins", "Find the twin tips", "twin tips", ("twin_tips", "tip_step")),
            ("stray", "Find the stray accent", "stray accent", ("stray_accents",)),
            ("hole", "Find the hole", "gap", ("largest_gap", "outline_fill")),
            ("bare", "Find the bare stem", "bare stem", ("bare_stem",)),
            (
                "crossing",
                "Find the crossing stems",
                "crossing stems",
                ("stems_crossing", "radiation"),
            ),
        )
    ),
    Kind("scheme", "colour", CHOICE, "Name the scheme", "", 1.0, ("scheme",), guess=0.14),
    Kind(
        "shares",
        "colour",
        SHARES,
        "Shares of the colours",
        "percentage points",
        18.0,
        ("dominant_share", "colour_split", "flower_colours"),
        decimals=0,
    ),
    *(
        Kind(
            code,
            "comparing",
            PAIR,
            title,
            unit,
            scale,
            measures,
            pictures=2,
            guess=0.5,
            times=times,
            decimals=decimals,
        )
        for code, title, unit, scale, measures, times, decimals in (
            ("higher", "Which is higher", "container heights", 0.3, _HEIGHT, 1, 2),
            ("heavier", "Which leans further", "percentage points", 0.06, _BALANCE, 100, 0),
            ("fuller", "Which is fuller", "percentage points", 0.1, ("outline_fill",), 100, 0),
        )
    ),
    Kind(
        "order",
        "comparing",
        ORDER,
        "Order five pieces",
        "container heights",
        0.3,
        _HEIGHT,
        pictures=5,
    ),
    Kind("cut", "cutting", CUT, "The next cut", "container heights", 0.3, _HEIGHT),
)
KIND = {k.code: k for k in KINDS}
# The measure by which pieces are compared, by kind.
COMPARED = {
    "higher": "height_ratio_image",
    "heavier": "heavier_share",
    "fuller": "outline_fill",
    "order": "height_ratio_image",
}


def kinds_of(skills) -> tuple[Kind, ...]:
    """The kinds that train any of some skills, by code; all kinds where none is named."""
    return tuple(k for k in KINDS if k.skill in skills) if skills else KINDS
