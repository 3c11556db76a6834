"""More of planning by hand: heights where rules agree and where they do not, how much a mass piece
takes, dates, and what stands near.
"""

import math
import unittest
from dataclasses import replace
from datetime import UTC, date, datetime

from juniper.planning import ContainerSize, plan_stems
from juniper.planning.aftercare import aftercare
from juniper.planning.calendar import Entry, as_ics
from juniper.planning.cautions import clashes
from juniper.planning.held import shortage
from juniper.planning.materials import ACROSS, catalogue
from juniper.planning.moving import within
from juniper.planning.recipe import counts, odd, outline_area
from juniper.planning.stems import _height
from juniper.planning.ways import in_force
from juniper.rules import Brief, read_rule_set, school, school_slugs
from juniper.rules.tests.test_pinned import HEAD, RULE

BY = {m.slug: m for m in catalogue()}
POT = ContainerSize(24, 10)
TRIANGLE = Brief(form="symmetrical triangle", container_height_cm=24, container_width_cm=10)
MADE = date(2026, 11, 26)


def rules_of(*rows):
    """A rule set of (measure, band, weight) rows."""
    text = ""
    for n, (measure, band, weight) in enumerate(rows):
        rule = RULE.format(
            code=f"rule-{chr(97 + n)}",
            title=f"Rule {n}",
            family="proportion",
            measure=measure,
            weight=weight,
        )
        text += rule.replace("[1.0, 1.5, 2.0, 2.75]", str(list(band)).replace("inf", "inf"))
    return read_rule_set(HEAD + text)


class Heights(unittest.TestCase):
    def of(self, *rows):
        return _height(list(rules_of(*rows).rules), POT)

    def test_by_each_measure(self):
        for measure, band, low, high in (
            ("governing_ratio", (1.0, 1.5, 2.0, 2.75), 36.0, 48.0),  # of the 24 cm that govern
            ("height_ratio", (1.0, 1.25, 1.5, 2.75), 30.0, 36.0),
            ("plant_share", (0.5, 0.6, 0.75, 0.8), 36.0, 72.0),  # r / (1 - r) times 24
            ("table_height", (8.0, 40.0, 60.0, 90.0), 16.0, 36.0),  # less the container
        ):
            found = self.of((measure, band, 3))
            self.assertAlmostEqual(found[0], low, msg=measure)
            self.assertAlmostEqual(found[1], high, msg=measure)
            self.assertEqual(found[2], [])

    def test_where_two_agree_the_narrower_counts(self):
        low, high, notes = self.of(
            ("governing_ratio", (1.0, 1.5, 2.0, 2.75), 6),
            ("plant_share", (0.5, 0.625, 0.75, 0.8), 3),
        )
        self.assertAlmostEqual(low, 40.0)  # .625 / .375 x 24
        self.assertEqual((high, notes), (48.0, []))

    def test_where_they_do_not_the_weightier_counts_and_the_other_is_told(self):
        low, high, notes = self.of(
            ("plant_share", (0.5, 0.75, 0.76, 0.8), 3),
            ("governing_ratio", (1.0, 1.5, 2.0, 2.75), 6),
        )
        self.assertEqual((low, high), (36.0, 48.0))
        self.assertEqual(
            notes,
            [
                "In this container “Rule 0” cannot be held as well: it asks for 72 to 76 cm over"
                " the rim."
            ],
        )

    def test_rules_without_a_height(self):
        low, high, notes = self.of(("outline_fill", (0.3, 0.5, 0.8, 1.0), 3))
        self.assertEqual((low, high, len(notes)), (24.0, 48.0, 1))

    def test_without_an_upper_edge_a_tenth_more_than_the_least(self):
        low, high, _ = self.of(("governing_ratio", (1.0, 1.5, math.inf, math.inf), 3))
        self.assertEqual((low, round(high, 6)), (36.0, 39.6))

    def test_one_of_three_stems_alone_makes_no_three_stem_plan(self):
        plan = plan_stems(rules_of(("main_stem_width", (1.25, 1.4, 1.6, 2.0), 3)), POT, TRIANGLE)
        self.assertNotIn("second", plan.by_name)


class Mass(unittest.TestCase):
    RULES = rules_of(
        ("outline_fill", (0.3, 0.5, 0.8, 1.0), 1),
        ("foliage_share", (0.1, 0.3, 0.5, 0.7), 1),
        ("governing_ratio", (1, 1.5, 2, 2.75), 3),
    )

    def test_how_much_a_triangle_takes(self):
        plan = plan_stems(self.RULES, POT, TRIANGLE)
        area = outline_area(plan, "symmetrical triangle")

        def shows(role, seen):
            return math.pi / 4 * ACROSS[role] ** 2 * seen

        for variant, fill, leaf in (
            ("thrifty", 0.5, 0.5),
            ("usual", 0.65, 0.4),
            ("lavish", 0.8, 0.3),
        ):
            for viewpoint, behind in (("front only", 1.3), ("all round", 2.0)):
                brief = Brief(
                    form="symmetrical triangle",
                    viewpoint=viewpoint,
                    container_height_cm=24,
                    container_width_cm=10,
                )
                found = {c.role: c.stems for c in counts(plan, self.RULES, brief, variant)}
                covered = area * fill * behind
                flower = covered * (1 - leaf)
                line = odd(sum(s.name != "focal" for s in plan.stems), 3)
                focal = (
                    3
                    if "focal" in plan.by_name and 3 * shows("focal", 0.9) <= flower / 3
                    else int("focal" in plan.by_name)
                )
                left = flower * 0.85 - line * shows("line", 0.6) - focal * shows("focal", 0.9)
                self.assertEqual(found["line"], line)
                self.assertEqual(found["focal"], focal)
                self.assertEqual(found["mass"], odd(left / shows("mass", 0.75), 3))
                self.assertEqual(
                    found["filler"], max(1, round(0.15 * flower / shows("filler", 0.45)))
                )
                self.assertEqual(
                    found["foliage"], max(3, round(covered * leaf / shows("foliage", 0.55)))
                )


class Shorter(unittest.TestCase):
    def test_stems_brought_to_the_viewer_show_less_in_the_picture(self):
        # Stems of a three-stem piece come 15 degrees toward the viewer: of 30 cm, 4.9 under the
        # rim, 25.1 x cos 15 show in front.
        bowl, brief = (
            ContainerSize(6, 30),
            Brief(form="three-stem", container_height_cm=6, container_width_cm=30),
        )
        plan = plan_stems(school("three-stem-thirds"), bowl, brief)
        cut = within(plan, 30.0)
        for stem in cut.stems:
            whole = plan.by_name[stem.name]
            shows = (
                (30.0 - stem.hidden) * math.cos(math.radians(15))
                if whole.cut > 30
                else whole.length
            )
            self.assertAlmostEqual(stem.length, shows)

    def test_other_schools_are_named_and_never_ones_own(self):
        rules = school("classical-line-mass")
        plan = plan_stems(rules, POT, TRIANGLE)
        found = shortage(plan, 40, rules, POT, TRIANGLE, {}, tuple(map(school, school_slugs())))
        self.assertEqual(found.schools, ("Low table piece",))


class Care(unittest.TestCase):
    def test_days_of_a_piece(self):
        care = aftercare((BY["tulip"],), MADE)
        longest = BY["tulip"].life[1]
        self.assertEqual(
            [d.on.toordinal() - MADE.toordinal() for d in care.days], list(range(1, longest + 1))
        )
        for day in care.days:
            after, words = day.on.toordinal() - MADE.toordinal(), " ".join(day.what)
            self.assertEqual("Change the water." in words, after % 2 == 0 and after % 4 != 0, after)
            self.assertEqual("cut every stem again" in words, after % 4 == 0, after)
            self.assertEqual("Turn the piece" in words, True)
        self.assertEqual(
            (care.lasting[0].first.toordinal(), care.lasting[0].last.toordinal()),
            tuple(MADE.toordinal() + d for d in BY["tulip"].life),
        )

    def test_dried_material_asks_for_no_days(self):
        care = aftercare((BY["wheat"],), MADE)
        self.assertEqual(care.days, ())

    def test_three_weeks_at_most(self):
        longest = max(catalogue(), key=lambda m: 0 if m.treatment.dry else m.life[1])
        self.assertEqual(len(aftercare((longest,), MADE).days), min(21, longest.life[1]))


class Calendars(unittest.TestCase):
    def test_an_entry_as_a_calendar_has_it(self):
        start, end = (
            datetime(2026, 11, 26, 15, 55, tzinfo=UTC),
            datetime(2026, 11, 26, 16, 15, tzinfo=UTC),
        )
        text = as_ics((Entry("1-tulip", start, end, "Tulip, 32 stems", "Cut."),), "Column", start)
        for line in (
            "UID:1-tulip-20261126T155500Z@juniper-heath.invalid",
            "DTSTART:20261126T155500Z",
            "DTEND:20261126T161500Z",
            "DTSTAMP:20261126T155500Z",
        ):
            self.assertIn(line, text.replace("\r\n ", ""))


class Near(unittest.TestCase):
    def test_what_must_not_stand_near(self):
        dry = clashes((BY["wheat"],), ("flame",))
        self.assertEqual(len(dry), 1)
        self.assertIn("it is dry, and burns", str(dry[0]))
        self.assertEqual(clashes((BY["tulip"],), ()), ())
        self.assertIn(
            "in an edible bunch", str(clashes((BY["daffodil"],), (), "edible-and-herb-bunch")[0])
        )


class Ways(unittest.TestCase):
    def test_what_a_rule_set_says_itself(self):
        def by_rules(rows, brief=TRIANGLE):
            return {f.question.slug: f.way.slug for f in in_force({}, rules_of(*rows), brief)}

        self.assertEqual(
            by_rules([("odd_counts", (0, 0.6, math.inf, math.inf), 1)])["odd-counts"], "odd"
        )
        elsewhere = rules_of(("odd_counts", (0, 0.6, math.inf, math.inf), 1))
        elsewhere = replace(elsewhere, rules=(replace(elsewhere.rules[0], only=("all round",)),))
        self.assertEqual(
            {f.question.slug: f.way.slug for f in in_force({}, elsewhere, TRIANGLE)}["odd-counts"],
            "free",
        )
        plain = by_rules([("governing_ratio", (1, 1.5, 2, 2.75), 1)])
        self.assertEqual(plain["odd-counts"], "free")
        self.assertEqual(
            by_rules([("flower_colours", (1, 4, math.inf, math.inf), 1)])["colours"], "five"
        )
        self.assertEqual(by_rules([("flower_colours", (0, 1, 3, 5), 1)])["colours"], "three")


if __name__ == "__main__":
    unittest.main()
