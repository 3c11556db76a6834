"""Whether the sentence that a rule teaches says the figures of the band that is in force."""

from __future__ import annotations

import math
import re

from juniper.rules.band import Band
from juniper.rules.document import Rule, RuleSet
from juniper.rules.written import band_words

WORDS = {
    "one": 1.0,
    "two": 2.0,
    "three": 3.0,
    "four": 4.0,
    "five": 5.0,
    "six": 6.0,
    "seven": 7.0,
    "eight": 8.0,
    "nine": 9.0,
    "ten": 10.0,
    "twelve": 12.0,
    "fifteen": 15.0,
    "thirty": 30.0,
    "forty-five": 45.0,
    "fifty-five": 55.0,
    "seventy-five": 75.0,
    "thirty-five": 35.0,
}
FRACTIONS = {
    "half": 0.5,
    "third": 1 / 3,
    "quarter": 0.25,
    "fifth": 0.2,
    "tenth": 0.1,
    "twentieth": 0.05,
    "fiftieth": 0.02,
}
_NUMBER = "|".join(sorted(WORDS, key=len, reverse=True))
_PART = "|".join(FRACTIONS)
# What reads as a figure of any measure; the first that fits at a place counts.
PATTERNS = (
    (r"two parts plant to one part", lambda m: 2 / 3),
    (
        rf"({_NUMBER})(?: parts in ten)? to ({_NUMBER}) parts in ten",
        lambda m: (WORDS[m[1]] / 10, WORDS[m[2]] / 10),
    ),
    (rf"({_NUMBER}) parts in ten", lambda m: WORDS[m[1]] / 10),
    (rf"({_NUMBER}) and a half", lambda m: WORDS[m[1]] + 0.5),
    (r"a fifth broader", lambda m: 1.2),
    (rf"({_NUMBER}) ({_PART})s\b", lambda m: WORDS[m[1]] * FRACTIONS[m[2]]),
    (
        rf"\b(?:a|is|than|over|about|to) ({_PART})\b(?! (?:stem|accents|supports))",
        lambda m: FRACTIONS[m[1]],
    ),
    (r"\btwice\b", lambda m: 2.0),
    (r"golden section", lambda m: 0.618),
    (rf"\b({_NUMBER}) (?:times|container heights)", lambda m: WORDS[m[1]]),
    (
        r"(\d+(?:\.\d+)?)(?:\s*(?:%|per cent))? to (\d+(?:\.\d+)?)\s*(?:%|per cent)",
        lambda m: (float(m[1]) / 100, float(m[2]) / 100),
    ),
    (r"(\d+(?:\.\d+)?)\s*(?:%|per cent)", lambda m: float(m[1]) / 100),
    (r"\d*\.\d+|\d+", lambda m: float(m[0])),
)
# of what is counted, or in degrees, centimetres or steps
NUMBERS = (*PATTERNS, (rf"\b({_NUMBER})\b", lambda m: WORDS[m[1]]))
UP_TO, AT_LEAST = (
    re.compile(r"\bup to\b|\bat most\b|\bno\b|\bnot\b"),
    re.compile(r"\bat the least\b|\bat least\b|\band more\b|\bover\b"),
)
# How near a figure of a sentence must be to an edge: relative for ratios, absolute for the rest, as
# people round when they teach (common practice).
NEAR = {
    "ratio": ("relative", 0.13),
    "share": ("absolute", 0.06),
    "count": ("absolute", 0.5),
    "degrees": ("absolute", 15.0),
    "cm": ("absolute", 4.0),
    "L*": ("absolute", 5.0),
}
# Of these a sentence tells colours, numbers or forms and not the figure that is measured.
OTHER_FIGURES = frozenset(
    {
        "colour_split",
        "extension",
        "form_overlap",
        "form_fit",
        "aspect",
        "scheme",
        "odd_counts",
        "harmony",
    }
)


def figures_in(sentence: str, counted: bool = False) -> list[tuple[float, ...]]:
    """The figures that a sentence says, in words or in digits, in their order: (figure,) or, of a
    range, (from, to). Plain number words are figures only of what is `counted`.

    >>> figures_in('The flowers stand one and a half to two times the container.')
    [(1.5, 2.0)]
    >>> figures_in('Its weight lies at 22 to 42 % of plant height, a third at most.')
    [(0.22, 0.42), (0.3333333333333333,)]
    """
    out: list[tuple[float, ...]] = []
    text, at = sentence.lower(), 0
    ends: list[int] = []
    while True:
        found = [
            (m.start(), -len(m[0]), m, read)
            for pattern, read in (NUMBERS if counted else PATTERNS)
            if (m := re.compile(pattern).search(text, at))
        ]
        if not found:
            return out
        _, _, match, read = min(found, key=lambda f: f[:2])
        figures = read(match)
        said = figures if isinstance(figures, tuple) else (figures,)
        if (
            out
            and len(out[-1]) == len(said) == 1
            and re.fullmatch(
                r"[^.,;]{0,25}\bto(?: a| not quite)?\s*",
                text[ends[-1] : match.start()] + (" to " if match[0].startswith("to ") else ""),
            )
        ):
            out[-1] += said
        else:
            out.append(said)
        at = match.end()
        ends.append(at)


def _near(unit: str, figure: float, edge: float) -> bool:
    how, by = NEAR.get(unit, ("relative", 0.13))
    return (
        math.isfinite(edge)
        and abs(figure - edge) <= (by * abs(edge) if how == "relative" else by) + 1e-9
    )


def agrees(sentence: str, band: Band, unit: str) -> bool:
    """Whether the figures that a sentence says are those of a band: of a range its ends, of "up to"
    and "no more" the upper end, of "at least" the lower one, and of a single figure one inside. A
    sentence without figures agrees with any.
    """
    said = figures_in(sentence, unit in ("count", "degrees", "cm", "L*"))
    if not said:
        return True
    single, low = [f for each in said for f in each], sentence.lower()
    if math.isinf(band.low) or (UP_TO.search(low) and not AT_LEAST.search(low)):
        return any(_near(unit, f, band.high) for f in single)
    if math.isinf(band.high):
        return any(_near(unit, f, band.low) for f in single) or (
            "about" in low and min(single) >= band.low
        )
    return any(
        (
            _near(unit, each[0], band.low) and _near(unit, each[-1], band.high)
            if len(each) > 1
            else band.low <= each[0] <= band.high
            or _near(unit, each[0], band.low)
            or _near(unit, each[0], band.high)
        )
        for each in said
    )


def disagreements(rules: RuleSet) -> list[str]:
    """Rules whose sentence says other figures than their band, as sentences for the person who
    writes them.
    """
    out = []
    for rule in rules.rules:
        for taught, band, where in _told(rule):
            if not agrees(taught, band, rule.unit):
                out.append(
                    f"{rule.title}{where}: “{taught}” does not agree with the band,"
                    f" {band_words(band, rule.unit)}."
                )
    return out


def _told(rule: Rule) -> list[tuple[str, Band, str]]:
    if not rule.measure or rule.measure in OTHER_FIGURES:
        return []
    cases = [(c.taught or rule.taught, c.band, f" ({', '.join(c.when)})") for c in rule.cases]
    return [(rule.taught, rule.band, ""), *cases]
