"""What was seen of a piece under a rule, as part of a sentence: every figure with its noun, shares
as per cent. The bench and the return sheet use the same words.
"""

from __future__ import annotations

import math

from juniper.measures.finding import Missing
from juniper.rules.document import Rule
from juniper.rules.verdict import Line
from juniper.rules.written import SHARES, SIGNS, edge_words, per_cent, value_words

# By measure: {v} is the value as it is written, {p} a ratio as per cent. A count has three: for
# none, for one, and for more.
SEEN: dict[str, str | tuple[str, str, str]] = {
    "governing_ratio": "the plant stands {v} times the container's larger side over the rim",
    "height_ratio": "the plant stands {v} container heights over the rim",
    "table_height": "the piece stands {v} above the table",
    "plant_share": "the plant is {v} of the whole height",
    "largest_bloom": "the largest bloom is {p} of the container's width",
    "clearance": "the tallest stands {v} of the plant's height over the next group",
    "aspect": "the piece is {v} times as wide as its form is taught",
    "width_ratio": "the piece is {v} times as wide as its container",
    "hangs_to": "the lowest point is {p} of the container's height below the rim",
    "main_stem_width": "the main stem is {v} times the container's width",
    "second_main": "the second stem is {p} of the main stem",
    "third_main": "the third stem is {p} of the main stem",
    "third_second": "the third stem is {p} of the second stem",
    "main_lean": "the main stem leans {v}",
    "second_lean": "the second stem leans {v}",
    "third_lean": "the third stem leans {v}",
    "left_weight_share": "{v} of the visual weight is on the left",
    "outline_symmetry": "{v} of the outline meets its mirror image",
    "like_opposite": "{v} of the blooms' area has its like on the other side",
    "moment_ratio": "the left pulls {v} times as hard as the right",
    "heavier_share": "the heavier side holds {v} of the visual weight",
    "weight_offset": "the visual weight is {p} of half the foot off the axis",
    "weight_height": "the weight is carried at {v} of the plant's height",
    "carried_through": "{v} of the blooms' area is of kinds that show on both sides",
    "behind_share": "{v} of the piece is behind the axis",
    "depth_ratio": "the piece is {p} as deep as it is wide",
    "leans_out": "the upper third leans {v} to the front",
    "groups_answer": "the weaker group pulls {p} as hard as the stronger one",
    "focal_height": "the focal point is at {v} of the plant's height",
    "focal_offset": "the focal point is {v} of half the width off the axis",
    "focal_dominance": "the focal bloom is {v} times as broad as the next one",
    "focal_rivals": (
        "no other bloom is as broad as the focal one",
        "one other bloom is about as broad as the focal one",
        "{v} other blooms are about as broad as the focal one",
    ),
    "eye_distance": "the eye lands {v} of the plant's height from the focal point",
    "stray_accents": (
        "no accent stands alone",
        "one accent stands alone",
        "{v} accents stand alone",
    ),
    "focal_twins": (
        "no bloom beside the focal one is as long",
        "one bloom beside the focal one is as long",
        "{v} blooms beside the focal one are as long",
    ),
    "scheme": "the colours fit the scheme to {v}",
    "flower_colours": (
        "no flower colour is counted",
        "one flower colour is counted",
        "{v} flower colours are counted",
    ),
    "dominant_share": "the leading colour is {v} of the flowers",
    "foliage_share": "foliage is {v} of the plant",
    "lightness_range": "the lightest and the darkest are {v} steps of lightness apart",
    "colour_split": "the colours are {v} of the flowers away from the shares wanted",
    "accent_share": "the accents are {v} of the flowers",
    "extension": "the contrasting areas are {v} away from balance",
    "colours_carried": "{v} of the flowers are of colours that are carried through",
    "setting_share": "{v} of the flowers pick up the colour of the wall or cloth",
    "colours_behind": "{v} of the front's colours show from behind",
    "colours_grouped": "the largest blocks hold {v} of the blooms",
    "bridge_beside": "{v} of the bridging flowers are beside what they join",
    "container_chroma": "the container holds {v} of the strength of colour",
    "harmony": "the pairs of colours please with {v}",
    "form_fit": "the outline meets the form over {v}",
    "twin_tips": (
        "no two tips are of one height",
        "one pair of tips is of one height",
        "{v} pairs of tips are of one height",
    ),
    "levels": (
        "no level of tips is counted",
        "the tips are at one level",
        "the tips are at {v} levels",
    ),
    "tip_step": "the nearest two tips are {v} of the plant's height apart",
    "odd_counts": "{v} of the kinds are odd in number",
    "flower_kinds": (
        "no kind of main flower is counted",
        "one kind of main flower is counted",
        "{v} kinds of main flower are counted",
    ),
    "radiation": "the lines cross over {p} of the container's width",
    "sequence": "sizes fall from the middle outward by {v}, where 1 is a perfect order",
    "gradation": "sizes fall from below upward by {v}, where 1 is a perfect order",
    "spacing": "the heads' spacing varies by {p}",
    "ring_counts": (
        "every ring has its heads",
        "one head is too many or missing",
        "{v} heads are too many or missing",
    ),
    "ring_gaps": "the gaps in a ring vary by {p}",
    "ring_rise": "the rings rise by {p} of the container's height",
    "echo": "dome and container share {v} of their shape",
    "clear_groups": "{v} of the flowers are in clear groups",
    "foot_spread": "the stems leave the rim over {p} of its width",
    "stems_crossing": ("no stems cross", "one pair of stems crosses", "{v} pairs of stems cross"),
    "rim_cover": "plant covers {v} of the rim",
    "largest_gap": "the largest hole is {v} of the outline",
    "outline_fill": "{v} of the outline is filled",
    "bare_stem": "the longest bare stem is {v} of the plant's height",
    "texture_contrast": "fine and broad material differ by {v}",
    "vessels_differ": "two neighbouring vessels differ by {v} only",
    "tops_differ": "two neighbours reach heights {v} of the whole apart",
    "tallest_detached": "the tallest stands {v} of the whole height over the next",
    "vessel_spacing": "the widest gap is {v} times the vessels' width",
    "neighbour_harmony": "the least harmony between neighbours is {v}",
    "tied_by_colour": "what ties the vessels is in {v} of them",
    "stem_ends_level": "the stem ends lie {v} of their length apart",
    "hanging": "{v} of the plant hangs below the rim",
    "hanging_flow": "{v} of the levels below the rim are narrower than the one above",
    "spread": "the piece is {v} times as broad as high",
    "form_overlap": "the outline meets the form over {v}",
    "top_even": "from above its reach varies by {p}",
    "top_quarters": "the emptiest quarter holds {v} of the mean",
    "top_gap": "the largest hole from above is {v} of the outline",
    "sight_blocked": "the piece hides {v} of a face opposite",
    "over_eye_line": "{v} of the blooms are over the line of sight",
    "blooms_behind": "from behind there is {p} of the flowers in front",
    "one_space": "the largest open space is {v} of all open space",
}
# By rule, what a person answered: yes, and no.
ANSWERED: dict[str, tuple[str, str]] = {
    "in-and-out": ("the blooms are at differing depths", "the blooms are on one surface"),
    "foliage-kinds": ("the kinds of foliage are few", "there are many kinds of foliage"),
    "holding-hidden": ("the holding material is hidden", "holding material shows"),
    "stems-in-water": ("every fresh stem reaches the water", "some stems miss the water"),
    "water-clean": ("the water is clean", "leaves are under water, or it is not clean"),
    "condition": ("flowers and leaves are fresh", "some flowers or leaves are marked"),
    "sides-finished": ("the back is finished", "the back is not finished"),
    "food-safe": ("every kind is safe near food", "not every kind is safe near food"),
    "clean-stems": ("the stems are clean and level", "the stems are not clean or not level"),
    "vessels-differ": ("neighbouring vessels differ", "neighbouring vessels are alike"),
    "toward-viewer": ("the stems come toward the viewer", "the stems stay back"),
    "something-behind": ("something is behind the lines", "nothing is behind the lines"),
    "each-stands": ("each vessel stands safely", "not every vessel stands safely"),
    "glass-stems": ("the stems in the glass are tidy", "the stems in the glass are not tidy"),
    "glass-holding": (
        "what holds the stems in the glass is hidden or chosen",
        "what holds the stems shows in the glass",
    ),
    "glass-level": ("the water stands high and clean", "the water is low, or the glass splashed"),
    "hidden-before-flowers": (
        "the holding material was hidden before the first flower",
        "the holding material still showed in foliage alone",
    ),
    "spiral": ("all stems turn one way", "some stems are crossed the other way"),
    "stands-by-itself": ("the bunch stands by itself", "the bunch does not stand by itself"),
    "tie-holds": ("the tie holds and is neat", "the tie is loose, or not neat"),
    "falls-differ": ("the two ends fall to different lengths", "the two ends are of one length"),
    "mechanics-hidden": ("all that holds it is hidden", "cord, wire or mesh shows"),
    "secured": ("it is secured", "it is not secured, or near flame or heat"),
    "holder-covered": ("the holder is covered", "the holder shows"),
}


def observed(line: Line) -> str:
    """What was seen under a rule.

    Args:
        line: of a verdict.

    Returns:
        Part of a sentence, beginning small and without a full stop; '' where nothing was measured
        or answered.
    """
    rule, found = line.rule, line.finding
    if isinstance(found, Missing):
        return ""
    if found.unit == "answer":
        return _answered(rule, found.value)
    words = SEEN.get(rule.measure)
    if words is None:
        return ""
    if isinstance(words, tuple):
        words = words[min(round(found.value), 2)]
    return words.format(v=value_words(found.value, found.unit), p=per_cent(found.value))


def _answered(rule: Rule, value: float) -> str:
    yes, no = ANSWERED.get(rule.code, ("", ""))
    if not yes:
        asked = rule.asks.ask.rstrip("?") if rule.asks else rule.title
        yes, no = f"“{asked}?” is answered yes", f"“{asked}?” is answered no"
    return yes if value == 1 else no if value == 0 else f"in part, {yes}"


def taught_band(rule: Rule, unit: str) -> str:
    """The band in which a rule gives full marks, as it is written beside a value.

    Args:
        rule: with a band.
        unit: of its measure.

    Returns:
        Such as '1.5 to 2', 'up to 20 %', '70 % or more', 'none' for a count that has to be nought.
    """
    band = rule.band
    whole = unit in SHARES or (rule.measure in SEEN and "{p}" in str(SEEN[rule.measure]))
    low, high = (_edge(e, whole, unit) for e in (band.low, band.high))
    if math.isinf(band.high):
        return f"{low} or more"
    if math.isinf(band.low) or (band.low <= 0 and unit in (*SHARES, "count")):
        return "none" if unit == "count" and band.high < 1 else f"up to {high}"
    return high if low == high else f"{low} to {high}"


def _edge(value: float, whole: bool, unit: str) -> str:
    return edge_words(value, "share") if whole else edge_words(value, unit) + SIGNS.get(unit, "")


def seen_and_taught(line: Line) -> str:
    """What was seen, and what is taught, as one sentence; '' where nothing was seen.

    Args:
        line: of a verdict.
    """
    seen = observed(line)
    if not seen:
        return ""
    seen = seen[0].upper() + seen[1:]
    if line.rule.asks or line.rule.measure == "scheme":
        return f"{seen}."
    return f"{seen}; {taught_band(line.rule, line.finding.unit)} is taught."
