"""Where schools disagree on the making: what each way says and why, and which one a school has in
force (handbook section 5, common practice).
"""

from __future__ import annotations

from dataclasses import dataclass

from juniper.rules import Brief, RuleSet


@dataclass(frozen=True)
class Way:
    """One of the ways that are taught: what is done, and why those who teach it do."""

    slug: str
    what: str
    why: str


@dataclass(frozen=True)
class Question:
    """What schools disagree on, with its ways, the usual one first."""

    slug: str
    asks: str
    ways: tuple[Way, ...]

    def way(self, slug: str) -> Way | None:
        """One of its ways by name."""
        return next((w for w in self.ways if w.slug == slug), None)


QUESTIONS = (
    Question(
        "woody-ends",
        "Ends of woody stems",
        (
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
        "searing",
        "Searing soft and milky ends",
        (
            Way(
                "sear",
                "A tenth of the stem in just-boiled water: 10 s soft, 20 s medium, 30 to 40 s"
                " woody.",
                "It drives the air out and seals the sap in, so that limp heads rise.",
            ),
            Way(
                "no-sear",
                "No boiling water: a fresh slanting cut, at once into deep cool water.",
                "Nobody is scalded, and a fresh cut in clean water does for most.",
            ),
        ),
    ),
    Question(
        "salt",
        "Something in the water",
        (
            Way(
                "food",
                "Flower food as its packet says, or nothing.",
                "Sugar feeds, acid lets it rise, and a biocide keeps the water clean.",
            ),
            Way(
                "salt",
                "A pinch of salt for milky and tropical stems.",
                "It is taught for sap that clogs; too much dries the stem out.",
            ),
            Way(
                "plain",
                "Clean water, changed often.",
                "What is changed every second day needs nothing in it.",
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
                "A few drops to a bucket, never with an acid or ammonia.",
                "It keeps foul stems from clouding the water.",
            ),
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
BY_SLUG = {q.slug: q for q in QUESTIONS}
FIVE = 4.0  # flower colours that a rule set must want in full marks to teach the rich palette


@dataclass(frozen=True)
class InForce:
    """A question, the way in force, the others, and by whose word: 'school' or 'rules' or
    'usual'.
    """

    question: Question
    way: Way
    by: str

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
    return tuple(found)


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
