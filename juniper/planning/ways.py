"""Where schools disagree on the making: what each way says and why, and which one a school has in
force (handbook section 5, common practice).
"""

from __future__ import annotations

from dataclasses import dataclass

from juniper.rules import Brief, RuleSet


@dataclass(frozen=True)
class Way:
    """One of the ways that are taught: what is done, and why those who teach it do. One that is
    `refused` is told of, with the reason, and cannot be chosen.
    """

    slug: str
    what: str
    why: str
    refused: bool = False


@dataclass(frozen=True)
class Question:
    """What schools disagree on, with its ways, the usual one first."""

    slug: str
    asks: str
    ways: tuple[Way, ...]

    def way(self, slug: str) -> Way | None:
        """One of its ways that may be chosen, by name."""
        return next((w for w in self.ways if w.slug == slug and not w.refused), None)


QUESTIONS = (
    Question(
        "woody-ends",
        "Ends of woody stems",
        (
            Way(
                "by-material",
                "Each as it is usually treated: lilac and viburnum broken and whittled, blossom"
                " branches split, roses cut on the slant.",
                "Wood differs: what opens a lilac only bruises a rose.",
            ),
            Way(
                "cross-cut",
                "Split the end crosswise for a finger's breadth.",
                "More of the wood meets the water, and the vessels stay open.",
            ),
            Way(
                "whittle",
                "Break the end and whittle the bark off for a finger's breadth.",
                "The green layer under the bark drinks; a split end rots sooner.",
            ),
            Way(
                "hammer",
                "Crush the end with a hammer.",
                "It is quick, and opens the wood; others say that crushed vessels close and foul"
                " the water.",
            ),
            Way(
                "slant",
                "A long slanting cut, and nothing else.",
                "A clean cut drinks as well, and leaves nothing in the water.",
            ),
        ),
    ),
    Question(
        "leaves",
        "Leaves of lilac and its like",
        (
            Way("off", "All off.", "The blossom gets all the water."),
            Way("on", "A few left on at the top.", "They frame the blossom, and shade it."),
        ),
    ),
    Question(
        "searing",
        "Searing soft garden stems",
        (
            Way(
                "no-sear",
                "No boiling water: a fresh cut, at once into deep water.",
                "Nobody is scalded, and a fresh cut in clean water does for most.",
            ),
            Way(
                "sear",
                "Only what is soft or sappy in spring and early summer, such as spurges, primroses"
                " and wallflowers: a tenth of the stem in just-boiled water, 10 s soft, 20 s"
                " medium, 30 to 40 s woody. Roses, hydrangeas, camellias and bulb flowers never.",
                "It drives the air out and seals the sap in, so that limp heads rise.",
            ),
        ),
    ),
    Question(
        "food",
        "Flower food",
        (
            Way(
                "food",
                "Flower food as its packet says.",
                "Sugar feeds, acid lets it rise, and a biocide keeps the water clean.",
            ),
            Way(
                "plain",
                "None: clean water, changed often.",
                "What is changed every second day needs nothing in it.",
            ),
        ),
    ),
    Question(
        "salt",
        "Salt in the water",
        (
            Way("no-salt", "None.", "Too much dries the stem out, and it does nothing for most."),
            Way(
                "any-bowl",
                "A pinch in the water of any bowl.",
                "It is taught to keep the water of a shallow bowl fresh.",
            ),
            Way(
                "salt",
                "A pinch for milky and large-leaved stems.",
                "It is taught for sap that clogs.",
            ),
        ),
    ),
    Question(
        "bleach",
        "Bleach in the water",
        (
            Way(
                "no-bleach",
                "None: scrubbed buckets, and water that is changed.",
                "What is clean needs no bleach, and nothing can be mixed that must not be.",
            ),
            Way(
                "bleach",
                "A few drops to a bucket of plain water, and no flower food in it.",
                "It keeps foul stems from clouding the water.",
            ),
            Way(
                "bleach-with-food",
                "A splash of bleach and flower food together.",
                "Some add both. It is not offered here: flower food is acid, and chlorine with"
                " acid gives off gas that harms the lungs.",
                refused=True,
            ),
        ),
    ),
    Question(
        "refreshing",
        "Water of a finished piece",
        (
            Way(
                "second-day",
                "Changed every second day; every stem cut again at every other change.",
                "Foul water ends more vases than thirst.",
            ),
            Way(
                "top-up",
                "Topped up every three to four days, and not disturbed.",
                "A piece that is lifted out never stands as it was set.",
            ),
            Way(
                "daily",
                "Felt daily with a finger, and filled.",
                "Foliage and woody stems drink most on the first days.",
            ),
        ),
    ),
    Question(
        "tulips",
        "Tulips and others that lean to the light",
        (
            Way("turn", "Turned daily.", "They lean to every side in turn, and stay upright."),
            Way(
                "window",
                "Placed facing the window, and left.",
                "They lean one way on purpose; the piece is set for it.",
            ),
            Way("dark", "Kept in a darker place.", "They grow and lean less."),
        ),
    ),
    Question(
        "foliage-kinds",
        "Kinds of foliage",
        (
            Way("three", "Up to three.", "More is restless, and nothing comes twice."),
            Way(
                "many",
                "The more the better.",
                "Textures do for foliage what colours do for flowers.",
            ),
        ),
    ),
    Question(
        "filler",
        "Filler in three-stem pieces",
        (
            Way("open", "None: the space stays open.", "The lines are the piece."),
            Way(
                "filler",
                "A little, of differing lengths, some of it behind.",
                "It joins the three lines and gives depth.",
            ),
        ),
    ),
    Question(
        "wire",
        "Wire is told in",
        (
            Way("mm", "Millimetres: 0.71 mm, 0.90 mm.", "It is what can be measured."),
            Way("gauge", "Gauge: 22, 20.", "It is how wire is sold in many places."),
        ),
    ),
    Question(
        "foam",
        "Foam",
        (
            Way(
                "no-foam",
                "None: pins, folded mesh, a tape grid, foliage.",
                "It is used once, crumbles into the drain and never rots; stems drink better"
                " without it.",
            ),
            Way(
                "heavy-only",
                "Only for heavy, thick stems that nothing else holds.",
                "A large set piece stands at any angle.",
            ),
            Way(
                "foam",
                "Wherever it is quick: soaked by sinking, one insertion in each place.",
                "Every stem stays exactly where it is put.",
            ),
        ),
    ),
    Question(
        "odd-counts",
        "Odd counts",
        (
            Way(
                "odd",
                "One, three, five, seven of each main flower.",
                "An odd group has a middle and no pairs; from nine up nobody counts.",
            ),
            Way(
                "free",
                "As many as the form wants.",
                "In a full piece counts are not read; what is seen is the mass.",
            ),
        ),
    ),
    Question(
        "colours",
        "How many colours",
        (
            Way(
                "three",
                "Up to three flower colours and green.",
                "Few colours are seen as one thought.",
            ),
            Way(
                "five",
                "Five and more, graded, none alone.",
                "Richness is the point; each colour comes again in other places.",
            ),
        ),
    ),
)
# what keeps one way from standing beside another, with the sentence that says which is in force
AGAINST = {
    ("bleach", "bleach", "food"): (
        "plain",
        "Bleach is in force, so there is no flower food in the same water: flower food is acid,"
        " and chlorine with acid gives off gas.",
    )
}
BY_SLUG = {q.slug: q for q in QUESTIONS}
FIVE = 4.0  # flower colours that a rule set must want in full marks to teach the rich palette


@dataclass(frozen=True)
class InForce:
    """A question, the way in force, the others, and by whose word: 'school', 'rules' or 'usual',
    or 'safety' where another way that is in force forbids what would be, `because` of what it says.
    """

    question: Question
    way: Way
    by: str
    because: str = ""

    @property
    def others(self) -> tuple[Way, ...]:
        """The ways that are not in force."""
        return tuple(w for w in self.question.ways if w is not self.way)


def in_force(
    chosen: dict[str, str], rules: RuleSet | None = None, brief: Brief | None = None
) -> tuple[InForce, ...]:
    """The way in force for each question: what the rule set itself settles, else what the school
    has `chosen` (question to way), else the usual.
    """
    settled = _by_rules(rules, brief or Brief()) if rules else {}
    found = []
    for question in QUESTIONS:
        by_rules, by_school = (
            question.way(settled.get(question.slug, "")),
            question.way(chosen.get(question.slug, "")),
        )
        if by_rules is not None:
            found.append(InForce(question, by_rules, "rules"))
        elif by_school is not None:
            found.append(InForce(question, by_school, "school"))
        else:
            found.append(InForce(question, question.ways[0], "usual"))
    return _apart(found)


def _apart(found: list[InForce]) -> tuple[InForce, ...]:
    """Ways that must not stand beside one another are parted."""
    chosen = {f.question.slug: f.way.slug for f in found}
    barred = {
        other: (instead, says)
        for (question, way, other), (instead, says) in AGAINST.items()
        if chosen.get(question) == way
    }
    out = []
    for one in found:
        instead, says = barred.get(one.question.slug, ("", ""))
        kept = one.question.way(instead)
        parted = kept is not None and kept is not one.way
        out.append(InForce(one.question, kept, "safety", says) if kept and parted else one)
    return tuple(out)


def chosen_ways(chosen: dict[str, str]) -> dict[str, str]:
    """The way in force by question, in slugs, for conditioning and holding."""
    return {f.question.slug: f.way.slug for f in in_force(chosen)}


def _by_rules(rules: RuleSet, brief: Brief) -> dict[str, str]:
    """What a rule set says itself: whether counts are to be odd, and how many colours."""
    bands = {r.measure: r.under(brief).band for r in rules.rules if r.measure and r.applies(brief)}
    out = {"odd-counts": "odd" if "odd_counts" in bands else "free"}
    if "flower_colours" in bands:
        out["colours"] = "five" if bands["flower_colours"].low >= FIVE else "three"
    return out
