"""What every measure is: its family, unit, and how it is made, in one place that rules, pages and
the command line read.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

FAMILIES = ("proportion", "balance", "focal", "colour", "line", "finish")


@dataclass(frozen=True)
class Definition:
    """A measure: `how` it is made in words; `view` the photograph it needs; `source` when it rests
    on a published figure. One that is `by_eye` rests on counting blooms or tips, which is wrong too
    often to mark by: it is proposed, and a person says.
    """

    name: str
    family: str
    unit: str
    title: str
    how: str
    view: str = "front"
    source: str = "common practice"
    by_eye: bool = False


def _of(family: str, *rows: tuple[Any, ...]) -> list[Definition]:
    return [
        Definition(name, family, unit, title, how, *more) for name, unit, title, how, *more in rows
    ]


_ALL = [
    *_of(
        "proportion",
        (
            "height_ratio",
            "ratio",
            "Plant height : container height",
            (
                "Rim point to plant top, over base point to rim point, both along the container's"
                " axis, corrected for a camera held high or near."
            ),
        ),
        (
            "height_ratio_image",
            "ratio",
            "Plant height : container height, as shown",
            "The same as the upright picture shows it, not corrected for the camera.",
        ),
        (
            "governing_ratio",
            "ratio",
            "Visible height : governing dimension",
            (
                "Plant height over the larger of the container's height and its greatest visible"
                " width."
            ),
        ),
        (
            "plant_share",
            "share",
            "Plant share of the whole height",
            (
                "Plant height over plant height and container height together: two thirds is a"
                " ratio of 2, the golden section .618 one of 1.618."
            ),
        ),
        (
            "width_ratio",
            "ratio",
            "Plant width : container width",
            "Extent of the plant across the axis over the container's greatest visible width.",
        ),
        (
            "spread",
            "ratio",
            "Plant width : plant height",
            "Extent across the axis over height above the rim.",
        ),
        (
            "table_height",
            "cm",
            "Height above the table",
            (
                "Base point to plant top along the axis, in centimetres by the container's known"
                " height."
            ),
        ),
        (
            "sight_blocked",
            "share",
            "Guests' sight hidden",
            (
                "Seen from a seat: how much of a window of a face's size, at the height of guests'"
                " eyes (45 cm over the table, from memory), the plant covers."
            ),
            "seated",
        ),
        (
            "over_eye_line",
            "share",
            "Blooms over the line of sight",
            "Seen from a seat: share of the blooms' area over the height of guests' eyes.",
            "seated",
        ),
        (
            "largest_bloom",
            "ratio",
            "Largest bloom : container width",
            (
                "Diameter of a disc of the broadest full bloom's visible area, over the container's"
                " width."
            ),
        ),
        (
            "hangs_to",
            "ratio",
            "Lowest point below the rim",
            (
                "How far the plant's lowest point lies below the rim, along the axis, over the"
                " container's height; nought where nothing hangs."
            ),
        ),
        (
            "vessels_differ",
            "share",
            "Neighbouring vessels differ",
            (
                "Of a group of vessels, between each and the next: the larger of the differences of"
                " their heights and of their widths, over the larger of the two; the least counts."
            ),
        ),
        (
            "tops_differ",
            "share",
            "Neighbours of different heights",
            (
                "Of a group of vessels, between the highest point in each and in the next: the"
                " difference over the height of the whole group; the least counts."
            ),
        ),
        (
            "tallest_detached",
            "share",
            "Tallest above the others",
            (
                "Of a group of vessels: by how much the highest point stands over that of the next"
                " highest vessel, over the height of the whole group."
            ),
        ),
        (
            "vessel_spacing",
            "ratio",
            "Widest gap between vessels",
            (
                "Of a group of vessels: the widest gap between the walls of two neighbours over the"
                " mean width of the vessels; nought where all stand before one another."
            ),
        ),
        (
            "clearance",
            "share",
            "Clearance of the tallest",
            (
                "The upper part of the plant that is no broader than a quarter of its width, over"
                " plant height: how far the tallest stands over the next group."
            ),
        ),
        (
            "main_stem_width",
            "ratio",
            "Main stem : container width",
            (
                "Visible length of the longest line, along its curve from rim to tip, over the"
                " container's width."
            ),
        ),
        (
            "second_main",
            "ratio",
            "Second stem : main stem",
            "Visible length of the second longest line over that of the longest.",
        ),
        (
            "third_second",
            "ratio",
            "Third stem : second stem",
            "Visible length of the third longest line over that of the second.",
        ),
        (
            "third_main",
            "ratio",
            "Third stem : main stem",
            "Visible length of the third longest line over that of the longest.",
        ),
        (
            "main_lean",
            "degrees",
            "Lean of the main stem",
            "Angle of its chord, rim to tip, from the container's axis, either way.",
        ),
        (
            "second_lean",
            "degrees",
            "Lean of the second stem",
            "Angle of its chord from the container's axis, either way.",
        ),
        (
            "third_lean",
            "degrees",
            "Lean of the third stem",
            "Angle of its chord from the container's axis, either way.",
        ),
    ),
    *_of(
        "balance",
        (
            "left_area_share",
            "share",
            "Area on the left",
            "Share of the plant's pixels to the viewer's left of the axis.",
        ),
        (
            "left_weight_share",
            "share",
            "Visual weight on the left",
            "The same with each pixel weighed by how heavy its lightness reads.",
            "front",
            "Ou, Luo, Woodcock & Wright 2004, as a positive weight from 1 (white) to 2¼ (black)",
        ),
        (
            "heavier_share",
            "share",
            "Share of the heavier side",
            "Visual weight of the heavier side of the axis over all of it.",
        ),
        (
            "moment_ratio",
            "ratio",
            "Moment left : right",
            "Weight times distance from the axis, summed on the left, over the same on the right.",
        ),
        (
            "weight_height",
            "share",
            "Height of the centre of weight",
            "Centre of visual weight above the rim over plant height.",
        ),
        (
            "weight_offset",
            "ratio",
            "Centre of weight : foot",
            (
                "Distance of the centre of visual weight from the axis over half the foot's width"
                " at the table. A picture does not tell what vessel and water weigh."
            ),
        ),
        (
            "outline_symmetry",
            "share",
            "Mirrored outline",
            (
                "The closed outline laid over its mirror image in the axis: common area over joint"
                " area (Jaccard 1901)."
            ),
        ),
        (
            "like_opposite",
            "share",
            "Like opposite like",
            (
                "For each kind of bloom twice the area of its lesser side of the axis, summed over"
                " all kinds, over all their area."
            ),
        ),
        (
            "carried_through",
            "share",
            "Carried through",
            "Share of the blooms' area whose kind shows on both sides of the axis.",
        ),
        (
            "groups_answer",
            "ratio",
            "Groups counterweigh",
            (
                "Area times distance from the axis of the groups of two and more blooms: the lesser"
                " side over the greater; one near the axis weighs on neither."
            ),
        ),
        (
            "behind_share",
            "share",
            "Behind the axis",
            (
                "In the side view, taken so that the front of the piece lies to the right, share of"
                " the plant's pixels behind the container's axis."
            ),
            "side",
        ),
        (
            "depth_ratio",
            "ratio",
            "Depth : width",
            (
                "The plant's depth in the side view over its width in front, each in container"
                " heights, so that the two pictures agree in scale."
            ),
            "side",
        ),
        (
            "leans_out",
            "°",
            "Lean to the front",
            (
                "In the side view, its front to the right: angle from upright of the line from the"
                " rim to the middle of the plant's upper third, to the front above 0."
            ),
            "side",
        ),
    ),
    *_of(
        "focal",
        (
            "focal_height",
            "share",
            "Height of the focal point",
            "Focal point above the rim over plant height.",
        ),
        (
            "focal_offset",
            "share",
            "Focal point off the axis",
            "Its distance from the axis over half the plant's width.",
        ),
        (
            "focal_dominance",
            "ratio",
            "Focal bloom : next kind",
            (
                "Diameter of the focal bloom over that of the broadest full bloom outside the focal"
                " group, which is three at most."
            ),
        ),
        (
            "focal_count",
            "count",
            "Blooms in the focal group",
            "How many blooms play the focal part.",
        ),
        (
            "focal_rivals",
            "count",
            "Rivals of the focal bloom",
            "Blooms outside the focal group that are 80 % or more of its breadth.",
        ),
        (
            "eye_distance",
            "share",
            "Where the eye goes",
            (
                "Distance of the most salient spot of the plant from the focal point, over plant"
                " height."
            ),
            "front",
            "spectral residual, Hou & Zhang 2007",
        ),
        (
            "stray_accents",
            "count",
            "Stray accents",
            (
                "Single blooms that differ from every other bloom by a CIEDE2000 of 18 or more, a"
                " quarter of plant height or more from the focal point."
            ),
        ),
        (
            "focal_twins",
            "count",
            "Equal lengths at the focal point",
            (
                "Blooms beside the focal bloom of its size and at its height, which leave the eye"
                " undecided."
            ),
        ),
    ),
    *_of(
        "colour",
        (
            "scheme",
            "fit",
            "Scheme of the brief",
            "How well the palette fits the scheme that the brief asks for, on the artists' circle.",
        ),
        ("foliage_share", "share", "Foliage", "Share of the plant's pixels that are leaf or stem."),
        (
            "flower_colours",
            "count",
            "Flower colours",
            "Named flower colours that hold 5 % or more.",
        ),
        (
            "dominant_share",
            "share",
            "Leading colour",
            "Share of the flower pixels that the leading colour holds.",
        ),
        (
            "supporting_share",
            "share",
            "Supporting colour",
            "Share of the flower pixels that the second colour holds.",
        ),
        (
            "accent_share",
            "share",
            "Accents",
            "Share of the flower pixels that all colours after the second hold.",
        ),
        (
            "colour_split",
            "share",
            "Off 60 : 30 : 10",
            (
                "Share of the flowers that would have to be of another colour for sixty, thirty and"
                " ten, or the split that the brief asks for: half the sum of the differences."
            ),
        ),
        (
            "extension",
            "share",
            "Contrast of extension",
            (
                "Where two poles face each other: how far the larger one's share of both is off"
                " that which their light values want (yellow to violet 1 : 3, orange to blue 1 : 2,"
                " red to green 1 : 1)."
            ),
            "front",
            "Itten, The Art of Color, after Goethe",
        ),
        (
            "harmony",
            "harmony",
            "Harmony of the pairs",
            (
                "Two-colour harmony of each pair of the palette, from about -1.3 to 1.3, weighed by"
                " the product of their shares."
            ),
            "front",
            "Ou & Luo 2006",
        ),
        (
            "colours_carried",
            "share",
            "Colours carried through",
            (
                "Share of the flowers whose colour shows on both sides of the axis (15 parts in a"
                " hundred each) and in two or more thirds of the height."
            ),
        ),
        (
            "colours_grouped",
            "share",
            "Colours in blocks",
            (
                "Share of the blooms' area that stands in the largest block of its colour: blooms"
                " no further apart than a twentieth of plant height."
            ),
        ),
        (
            "colours_behind",
            "share",
            "Colours from behind",
            "Share of the front's flowers whose colour is also among those seen from behind.",
            "back",
        ),
        (
            "setting_share",
            "share",
            "Colour of the cloth",
            (
                "Share of the flowers whose colour picks up that of the wall or cloth which the"
                " brief tells of: within 20 of it by CIEDE2000, or of its own step of the circle."
            ),
        ),
        (
            "neighbour_harmony",
            "harmony",
            "Harmony of neighbouring vessels",
            (
                "Of a group of vessels: the harmony of the leading flower colours of each and the"
                " next; the least counts."
            ),
            "front",
            "Ou & Luo 2006",
        ),
        (
            "tied_by_colour",
            "share",
            "Tied together",
            (
                "Of a group of vessels: the share of those in which the colour that most of them"
                " hold is seen, or, if more, of those that are of clear glass."
            ),
        ),
        (
            "bridge_blooms",
            "count",
            "Bridge blooms",
            "Blooms that hold both of two colours that face each other, a tenth each or more.",
        ),
        (
            "bridge_beside",
            "share",
            "Bridges stand beside",
            "Share of the bridge blooms that stand beside a bloom of either of the two colours.",
        ),
        (
            "container_chroma",
            "share",
            "Container's part of the chroma",
            "Chroma times area of the container over that of container and flowers together.",
        ),
        (
            "lightness_range",
            "L*",
            "Light to dark",
            "Difference of CIELAB lightness between which nine tenths of the plant lie.",
        ),
    ),
    *_of(
        "line",
        (
            "twin_tips",
            "count",
            "Twin tips",
            (
                "Pairs of tips within 4 % of plant height, one each side of the axis, standing"
                " clear of the rest."
            ),
        ),
        (
            "tip_step",
            "share",
            "Step between tips",
            (
                "Difference in height of the two neighbouring tips that stand nearest to one"
                " height, over plant height."
            ),
        ),
        (
            "levels",
            "count",
            "Levels",
            "How many heights the tips stand at, a tenth of plant height or more apart.",
        ),
        (
            "odd_counts",
            "share",
            "Odd counts",
            "Share of the main kinds, of those with eight blooms or fewer, whose count is odd.",
        ),
        (
            "flower_kinds",
            "count",
            "Kinds of main flower",
            "Kinds of bloom that hold 5 % or more of the blooms' area.",
        ),
        (
            "radiation",
            "ratio",
            "Stems radiate",
            (
                "Median distance of the crossing points of the stems' lower ends from their binding"
                " point, over container width."
            ),
        ),
        (
            "binding_height",
            "ratio",
            "Binding point",
            (
                "Height of the point where the stems' lower ends meet above the rim, over container"
                " height."
            ),
        ),
        (
            "foot_spread",
            "ratio",
            "One narrow foot",
            "Breadth over which the stems leave the rim, over container width.",
        ),
        (
            "form_overlap",
            "share",
            "Overlap with the form",
            (
                "The brief's form, fitted to the piece's own height and width, against its closed"
                " outline: common area over joint area."
            ),
        ),
        (
            "form_fit",
            "share",
            "Form of the brief",
            (
                "That overlap, less where the piece is wider or narrower than the form is taught,"
                " and less what another form fits better."
            ),
        ),
        (
            "aspect",
            "ratio",
            "Width : height against the form",
            (
                "Plant width over plant height, over the nearer edge of what is taught for the"
                " brief's form; 1 inside it."
            ),
        ),
        (
            "top_even",
            "variation",
            "Even all round",
            (
                "Seen from above: standard deviation of how far the plant reaches in twelve"
                " directions from its middle, over their mean."
            ),
            "top",
        ),
        (
            "ring_counts",
            "count",
            "Heads by ring",
            (
                "Heads too many or too few in the rings seen from above, all together; the brief"
                " sets how many each has."
            ),
            "top",
        ),
        (
            "ring_gaps",
            "variation",
            "Rings evenly set",
            (
                "Standard deviation of the angles between neighbours of a ring over their mean, of"
                " the most uneven ring; seen from above."
            ),
            "top",
        ),
        (
            "ring_round",
            "variation",
            "Rings round",
            (
                "Standard deviation of the heads' distances from the middle over their mean, of the"
                " least round ring; seen from above."
            ),
            "top",
        ),
        (
            "ring_rise",
            "ratio",
            "Rise from ring to ring",
            (
                "Height of the highest tenth of the heads over that of the lowest tenth, over"
                " container height."
            ),
        ),
        (
            "hanging_flow",
            "share",
            "Flow of what hangs",
            (
                "Of what hangs below the rim, level by level downward: the share of levels that are"
                " no broader than the one above."
            ),
        ),
        (
            "stem_ends_level",
            "share",
            "Stem ends level",
            (
                "Of a hand-tied bunch: how far the ends of the stems lie from one straight cut"
                " (standard deviation), over their length below the tie."
            ),
        ),
        (
            "stems_crossing",
            "count",
            "Crossing stems",
            "Pairs of main lines that cross over the rim, apart from where they spring.",
        ),
        (
            "spacing",
            "variation",
            "Even spacing",
            (
                "Standard deviation of the distances from each full bloom to its nearest neighbour,"
                " over their mean: nought where they are set evenly."
            ),
        ),
        (
            "clear_groups",
            "share",
            "Groups with space between",
            (
                "Share of the full blooms' area in groups of three or fewer with a space round"
                " them; nought for one heap, and where every bloom stands alone."
            ),
        ),
        (
            "groups",
            "count",
            "Groups of blooms",
            (
                "Groups in which full blooms stand together, edge to edge no further apart than a"
                " third of their breadth."
            ),
        ),
        (
            "gradation",
            "correlation",
            "Large below, small above",
            "Minus the rank correlation of breadth of bloom and height over the rim.",
            "front",
            "Spearman 1904",
        ),
        (
            "echo",
            "share",
            "Shape of the container taken up",
            (
                "The plant's outline over the rim and the container's, each stretched to a square,"
                " upright or upside down: common area over joint area."
            ),
        ),
        (
            "sequence",
            "correlation",
            "Sequence of sizes",
            "Minus the rank correlation of breadth of bloom and distance from the focal point.",
            "front",
            "Spearman 1904",
        ),
    ),
    *_of(
        "finish",
        (
            "top_quarters",
            "share",
            "Emptiest quarter from above",
            "Seen from above: plant in the emptiest quarter over the mean of the four.",
            "top",
        ),
        (
            "top_gap",
            "share",
            "Gap from above",
            "Seen from above: the largest opening over the area inside the outline.",
            "top",
        ),
        (
            "blooms_behind",
            "ratio",
            "Flowers from behind",
            "Flowers' share of the plant from behind over that from in front.",
            "back",
        ),
        (
            "outline_fill",
            "share",
            "Fill of the outline",
            "Plant area over the area inside the closed outline.",
        ),
        (
            "largest_gap",
            "share",
            "Largest gap",
            "The largest opening through to the backdrop over the area inside the outline.",
        ),
        (
            "open_space",
            "share",
            "Open space",
            "Share of what the tips span over the rim that the closed outline leaves open.",
        ),
        (
            "one_space",
            "share",
            "Open space in one piece",
            "Share of that open space that lies in its largest piece.",
        ),
        (
            "hanging",
            "share",
            "Below the rim",
            "Share of the plant that hangs below the rim, more than over its front lip.",
        ),
        (
            "texture_contrast",
            "share",
            "Fine against broad",
            (
                "Edge density of the finest tenth of the plant, in windows of a twentieth of its"
                " size, less that of the broadest tenth."
            ),
            "front",
            "edge density, Rosenfeld & Thurston 1971",
        ),
        (
            "rim_cover",
            "share",
            "Rim softened",
            (
                "Share of the rim's front lip, end to end, over which plant hangs; the lip is the"
                " lower half of the rim's ellipse."
            ),
        ),
        (
            "bare_stem",
            "share",
            "Bare stem",
            "The longest naked stretch of a main line over plant height.",
        ),
    ),
]

# Truth and count agree in too few pictures (docs/rules.md, coverage of uncertainties).
BY_EYE = frozenset(
    {
        "odd_counts",
        "flower_kinds",
        "levels",
        "focal_count",
        "focal_twins",
        "carried_through",
        "like_opposite",
        "spacing",
        "groups",
        "ring_counts",
    }
)
DEFINITIONS = {d.name: replace(d, by_eye=d.name in BY_EYE) for d in _ALL}
