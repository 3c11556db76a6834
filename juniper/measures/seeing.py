"""The part of each measure's uncertainty that comes from seeing: how outline, container, blooms and
main lines were made out.

What comes from the datum is carried by itself (juniper.measures.measuring); this part is read off
small changes of the picture (juniper.steadiness) and a floor that these do not show. Both were
fitted once to 67 pictures with truth whose datum was not flagged, of four studios of which one was
taught on, each studio weighed by the root of its pictures, towards 64 to 76 in a hundred truths
within one uncertainty and 94 or more within two. What came of it, by measure, is 64 to 95 and 92 to
100; with each studio left out of the fit in turn, 58 to 96 and 80 to 100 over those left out. The
focal point's floors are smaller than was fitted (.16 and .11): one bloom in ten is another than the
truth's, and a floor for that would punish the nine. `bin/trials coverage` prints how it stands.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Seeing:
    """How surely a measure is seen: `times` its spread over small changes of the picture, and a
    `floor` in its own unit, or as a share of its value where `relative`. `usual` is the median of
    that spread, taken where the picture was not looked at again.
    """

    times: float
    floor: float
    usual: float
    relative: bool = False

    def uncertainty(self, value: float, spread: float | None) -> float:
        """Standard uncertainty of a value, in its unit, whose spread over small changes is `spread`
        (None: not known).
        """
        floor = self.floor * (abs(value) if self.relative else 1.0)
        return ((self.times * (self.usual if spread is None else spread)) ** 2 + floor**2) ** 0.5


SEEING = {
    "bare_stem": Seeing(3, 0.066, 0.033),
    "binding_height": Seeing(0, 0.0, 0.012),
    "carried_through": Seeing(2, 0.13, 0.002),
    "clearance": Seeing(2, 0.0, 0.0016),
    "eye_distance": Seeing(2, 0.015, 0.012),
    "flower_kinds": Seeing(3, 0.51, 0.0),
    "focal_count": Seeing(0, 1.1, 0.0),
    "focal_dominance": Seeing(0, 0.17, 0.021, relative=True),
    "focal_height": Seeing(2, 0.05, 0.0008),
    "focal_offset": Seeing(2, 0.08, 0.0056),
    "focal_rivals": Seeing(3, 0.0, 0.0),
    "focal_twins": Seeing(0, 0.0, 0.0),
    "foliage_share": Seeing(4, 0.085, 0.0031),
    "foot_spread": Seeing(0, 0.17, 0.084),
    "form_overlap": Seeing(1, 0.0093, 0.0056),
    "governing_ratio": Seeing(2, 0.014, 0.0016, relative=True),
    "heavier_share": Seeing(4, 0.012, 0.0012),
    "height_ratio": Seeing(2, 0.0, 0.0016, relative=True),
    "height_ratio_image": Seeing(0, 0.0, 0.0015, relative=True),
    "largest_bloom": Seeing(0, 0.12, 0.005, relative=True),
    "largest_gap": Seeing(2, 0.0075, 0.0027),
    "left_area_share": Seeing(0, 0.021, 0.0013),
    "left_weight_share": Seeing(4, 0.012, 0.0012),
    "levels": Seeing(2, 0.55, 0.35),
    "like_opposite": Seeing(1, 0.044, 0.029),
    "main_lean": Seeing(1, 0.0, 1.2),
    "main_stem_width": Seeing(1, 0.1, 0.018, relative=True),
    "moment_ratio": Seeing(2, 0.1, 0.0062, relative=True),
    "odd_counts": Seeing(1, 0.27, 0.15),
    "outline_fill": Seeing(4, 0.016, 0.0054),
    "outline_symmetry": Seeing(2, 0.012, 0.0082),
    "plant_share": Seeing(2, 0.0, 0.00022),
    "radiation": Seeing(1, 0.0082, 0.036),
    "rim_cover": Seeing(0, 0.14, 0.014),
    "second_lean": Seeing(1, 8.1, 2.1),
    "second_main": Seeing(2, 0.0, 0.018, relative=True),
    "sequence": Seeing(2, 0.25, 0.054),
    "spread": Seeing(3, 0.033, 0.0021, relative=True),
    "stray_accents": Seeing(1, 0.0, 0.0),
    "table_height": Seeing(2, 0.023, 0.035, relative=True),
    "third_lean": Seeing(1, 18.0, 5.2),
    "third_main": Seeing(2, 0.023, 0.024, relative=True),
    "third_second": Seeing(2, 0.053, 0.031, relative=True),
    "tip_step": Seeing(2, 0.012, 0.002),
    "twin_tips": Seeing(1, 0.0, 0.0),
    "weight_height": Seeing(3, 0.009, 0.00083),
    "weight_offset": Seeing(3, 0.038, 0.0036),
    "width_ratio": Seeing(2, 0.1, 0.011, relative=True),
    # Of these, which came later, the floor alone was set, so that 17 fronts of two studios lie
    # within one uncertainty in 64 of 100 or more.
    "clear_groups": Seeing(0, 0.13, 0.0),
    "form_fit": Seeing(1, 0.045, 0.0056),
    "gradation": Seeing(0, 0.17, 0.0),
    "hanging": Seeing(0, 0.012, 0.0),
    "hangs_to": Seeing(0, 0.12, 0.0),
    "ring_rise": Seeing(0, 0.15, 0.0),
    "spacing": Seeing(0, 0.07, 0.0),
    "stems_crossing": Seeing(0, 1.0, 0.0),
}
# The datum's spread is stated for doubtful datums as well; of those that are not flagged the truths
# lie closer by this factor (the same fit).
DATUM_HOLDS = 0.7
