"""The chief fault of a piece in three words at most, as an instructor says it across the room."""

from __future__ import annotations

from juniper.measures.finding import Missing
from juniper.rules.verdict import OUT_OF, Line, Verdict

LEAST = 1.0  # of the total's 100 points: a loss of less is no fault to name (common practice)

# By measure: what is said of a value under its band, and of one over it. Where a band has no edge
# on one side nothing is said there. Common practice.
MEASURED: dict[str, tuple[str, str]] = {
    "governing_ratio": ("too low", "too tall"),
    "height_ratio": ("too low", "too tall"),
    "table_height": ("too low", "hides the guests"),
    "plant_share": ("too little plant", "too much plant"),
    "largest_bloom": ("blooms too small", "blooms too large"),
    "clearance": ("top not free", "top stands detached"),
    "aspect": ("too narrow", "too wide"),
    "width_ratio": ("too narrow", "too wide"),
    "hangs_to": ("nothing hangs over", "hangs too low"),
    "main_stem_width": ("main stem short", "main stem long"),
    "second_main": ("second stem short", "second stem long"),
    "third_main": ("third stem short", "third stem long"),
    "third_second": ("third stem short", "third stem long"),
    "main_lean": ("main too upright", "main leans far"),
    "second_lean": ("second too upright", "second leans far"),
    "third_lean": ("third too upright", "third leans far"),
    "left_weight_share": ("heavy on right", "heavy on left"),
    "outline_symmetry": ("sides differ", ""),
    "like_opposite": ("sides not alike", ""),
    "moment_ratio": ("right outweighs left", "left outweighs right"),
    "heavier_share": ("no side leads", "one side overweighs"),
    "weight_offset": ("", "weight off foot"),
    "weight_height": ("weight too low", "weight too high"),
    "carried_through": ("not carried through", ""),
    "behind_share": ("flat behind", "deep behind"),
    "depth_ratio": ("too flat", "too deep"),
    "leans_out": ("leans back", "leans out"),
    "groups_answer": ("groups unanswered", ""),
    "focal_height": ("focal too low", "focal too high"),
    "focal_offset": ("", "focal off centre"),
    "focal_dominance": ("focal too small", ""),
    "focal_rivals": ("", "several focal points"),
    "eye_distance": ("", "eye lands elsewhere"),
    "stray_accents": ("", "stray accent"),
    "focal_twins": ("", "twin focal lengths"),
    "scheme": ("off the scheme", ""),
    "flower_colours": ("too few colours", "too many colours"),
    "dominant_share": ("no leading colour", "one colour only"),
    "foliage_share": ("too little foliage", "too much foliage"),
    "lightness_range": ("all one tone", ""),
    "colour_split": ("", "colour shares off"),
    "accent_share": ("too little accent", "too much accent"),
    "extension": ("", "contrast unbalanced"),
    "colours_carried": ("colours not carried", ""),
    "setting_share": ("cloth not echoed", ""),
    "colours_behind": ("colours lost behind", ""),
    "colours_grouped": ("colours scattered", ""),
    "bridge_beside": ("bridge colour apart", ""),
    "container_chroma": ("", "container too bright"),
    "harmony": ("colours jar", ""),
    "form_fit": ("off the form", ""),
    "twin_tips": ("", "twin tips"),
    "levels": ("too few levels", ""),
    "tip_step": ("tips too even", ""),
    "odd_counts": ("even counts", ""),
    "flower_kinds": ("too few kinds", "too many kinds"),
    "radiation": ("", "stems scattered"),
    "sequence": ("sizes unordered", ""),
    "gradation": ("not graded upward", ""),
    "spacing": ("", "heads unevenly spaced"),
    "ring_counts": ("rings miscounted", "rings miscounted"),
    "ring_gaps": ("", "rings uneven"),
    "ring_rise": ("rings too flat", "rings too steep"),
    "echo": ("dome unlike vessel", ""),
    "clear_groups": ("groups run together", ""),
    "foot_spread": ("", "foot too wide"),
    "stems_crossing": ("", "stems cross"),
    "rim_cover": ("rim shows", "rim buried"),
    "largest_gap": ("", "hole in outline"),
    "outline_fill": ("too thin", "too full"),
    "bare_stem": ("", "bare stem"),
    "texture_contrast": ("textures alike", ""),
    "vessels_differ": ("vessels alike", ""),
    "tops_differ": ("neighbours level", ""),
    "tallest_detached": ("", "tallest detached"),
    "vessel_spacing": ("", "group falls apart"),
    "neighbour_harmony": ("neighbours clash", ""),
    "tied_by_colour": ("nothing ties them", ""),
    "stem_ends_level": ("", "stem ends uneven"),
    "hanging": ("too little hangs", "too much hangs"),
    "hanging_flow": ("fall swells", ""),
    "spread": ("too narrow", "too broad"),
    "form_overlap": ("off the form", ""),
    "top_even": ("", "uneven from above"),
    "top_quarters": ("one quarter empty", ""),
    "top_gap": ("", "hole from above"),
    "sight_blocked": ("", "hides the guests"),
    "over_eye_line": ("", "blooms too high"),
    "blooms_behind": ("few flowers behind", ""),
    "one_space": ("space broken up", ""),
}
# By rule, for what a person is asked.
ASKED: dict[str, str] = {
    "in-and-out": "flat surface",
    "foliage-kinds": "many foliage kinds",
    "holding-hidden": "holding shows",
    "stems-in-water": "stems miss water",
    "water-clean": "water not clean",
    "condition": "flowers not fresh",
    "sides-finished": "back unfinished",
    "food-safe": "unsafe near food",
    "clean-stems": "stems not clean",
    "vessels-differ": "vessels alike",
    "toward-viewer": "stems stay flat",
    "something-behind": "nothing behind",
    "each-stands": "vessels may tip",
    "glass-stems": "untidy in glass",
    "glass-holding": "holding in glass",
    "glass-level": "water too low",
    "hidden-before-flowers": "holding hidden late",
    "spiral": "stems crossed",
    "stands-by-itself": "does not stand",
    "tie-holds": "tie loose",
    "falls-differ": "falls alike",
    "mechanics-hidden": "holding shows",
    "secured": "not secured",
    "holder-covered": "holder shows",
}


def in_three_words(line: Line) -> str:
    """What a line that lost marks is called.

    Args:
        line: a line of a verdict, with a score.

    Returns:
        Three words at most; the rule's title where a school's own question has none here; '' for a
        line that lost none, or only because its value is uncertain.
    """
    if line.score is None or line.marks >= OUT_OF:
        return ""
    rule, found = line.rule, line.finding
    under, over = MEASURED.get(rule.measure, ("", ""))
    if rule.asks:
        return ASKED.get(rule.code) or under or over or rule.title.lower()
    if line.overridden or isinstance(found, Missing):
        return rule.title.lower()
    if found.value < rule.band.low:
        return under
    return over if found.value > rule.band.high else ""


def losses(verdict: Verdict) -> tuple[tuple[Line, float], ...]:
    """The lines that cost marks, the dearest first.

    Args:
        verdict: of a piece; caps and ceilings are left out of account.

    Returns:
        (line, what it takes off the total of 100) of each that lost any.
    """
    weight = sum(g.weight for g in verdict.groups if g.score is not None)
    lost = [
        (x, 100 * (OUT_OF - x.marks) * x.rule.weight / (OUT_OF * weight))
        for x in verdict.lines
        if x.score is not None and x.rule.weight and x.marks < OUT_OF
    ]
    return tuple(sorted(lost, key=lambda pair: -pair[1]))


def chief_fault(verdict: Verdict) -> str:
    """What a piece should hear first: what can hurt somebody or holds its mark down, else the line
    that costs most.

    Args:
        verdict: of a piece.

    Returns:
        Three words at most; '' where nothing costs a point of the total.
    """
    named = [(x, points, in_three_words(x)) for x, points in losses(verdict)]
    held = {verdict.unsafe, *verdict.breaks} - {""}
    first = next((words for x, _, words in named if words and x.rule.title in held), "")
    return first or next((words for _, points, words in named if words and points >= LEAST), "")
