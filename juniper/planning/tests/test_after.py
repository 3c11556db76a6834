"""Aftercare, wiring, the ways of schools, and what clashes (handbook sections 5 and 6, common
practice).
"""

import unittest
from datetime import UTC, date, datetime

from juniper.planning import ContainerSize, choose_holding, clashes, kinds_of_stem, plan_stems
from juniper.planning.aftercare import aftercare, entries
from juniper.planning.calendar import as_ics
from juniper.planning.cautions import NEAR, cautions_for
from juniper.planning.conditioning import countdown, steps_of
from juniper.planning.materials import catalogue
from juniper.planning.recipe import Item
from juniper.planning.ways import QUESTIONS, in_force
from juniper.planning.wiring import wiring
from juniper.rules import Brief, school
from juniper.rules.document import PLACES

BY = {m.slug: m for m in catalogue()}
MADE = date(2026, 11, 26)


class Aftercare(unittest.TestCase):
    def test_water_is_changed_every_second_day_and_bulbs_are_turned(self):
        care = aftercare((BY["tulip"], BY["hydrangea"]), MADE)
        for day in care.days:
            words = " ".join(day.what)
            self.assertEqual((day.on - MADE).days % 2 == 0, "Change the water" in words)
            self.assertIn("tulip leans to the light", words)
        self.assertIn("hydrangea drinks most", " ".join(care.days[0].what))

    def test_lives_in_dates(self):
        care = aftercare((BY["lilac"], BY["wheat"]), MADE)
        first = care.lasting[0]
        # 3 to 7 days
        self.assertEqual((first.first, first.last), (date(2026, 11, 29), date(2026, 12, 3)))
        self.assertEqual(len(care.days), 7)
        with self.assertRaisesRegex(ValueError, "made of"):
            aftercare((), MADE)

    def test_whole_days_in_the_calendar(self):
        text = as_ics(
            entries(aftercare((BY["tulip"],), MADE)),
            "Tray",
            datetime(2026, 11, 26, 20, 0, tzinfo=UTC),
        )
        self.assertIn("DTSTART;VALUE=DATE:20261127\r\nDTEND;VALUE=DATE:20261128", text)

    def test_poison_is_told_of(self):
        self.assertIn("lily", aftercare((BY["lily"],), MADE).always[-1])


class Wiring(unittest.TestCase):
    def test_gauges(self):
        plan = plan_stems(school("classical-line-mass"), ContainerSize(24, 10), Brief())
        found = {
            w.material.slug: w
            for w in wiring(
                tuple(
                    Item(BY[s], BY[s].role, BY[s].colours[0], 3)
                    for s in ("amaryllis", "zinnia", "rose", "hosta", "wheat")
                ),
                plan,
            )
        }
        self.assertEqual(found["amaryllis"].gauge, 0.90)  # tall and heavy
        self.assertEqual(found["zinnia"].gauge, 0.71)  # ordinary
        self.assertNotIn("rose", found)  # woody: it stands by itself
        self.assertIn("midrib", found["hosta"].how)


class Ways(unittest.TestCase):
    def test_each_has_its_others_with_why(self):
        self.assertEqual(
            {q.slug for q in QUESTIONS},
            {
                *("woody-ends", "leaves", "searing", "food", "salt", "bleach", "refreshing"),
                *("tulips", "foliage-kinds", "filler", "wire", "foam", "odd-counts", "colours"),
            },
        )
        for one in in_force({}):
            self.assertTrue(one.others)
            self.assertTrue(all(w.why for w in one.question.ways))

    def test_rules_settle_counts_and_colours(self):
        found = {
            f.question.slug: f
            for f in in_force({"odd-counts": "free", "foam": "foam"}, school("classical-line-mass"))
        }
        self.assertEqual((found["odd-counts"].way.slug, found["odd-counts"].by), ("odd", "rules"))
        self.assertEqual((found["foam"].way.slug, found["foam"].by), ("foam", "school"))
        lavish = {f.question.slug: f.way.slug for f in in_force({}, school("lavish-polychrome"))}
        self.assertEqual(lavish["colours"], "five")

    def test_they_change_what_is_done(self):
        self.assertTrue(any("hammer" in s for s in steps_of(BY["lilac"], {"woody-ends": "hammer"})))
        self.assertTrue(any("bleach" in s for s in steps_of(BY["gerbera"], {"bleach": "bleach"})))
        sear = {"searing": "sear"}
        self.assertEqual(
            [countdown(BY[s], sear) for s in ("primula", "pieris", "daphne", "tulip")],
            [10, 20, 40, None],
        )
        self.assertIsNone(countdown(BY["primula"]))
        self.assertNotIn("Foam", choose_holding(ContainerSize(24, 14), ("heavy",))[0].name)
        self.assertIn(
            "Foam", choose_holding(ContainerSize(24, 14), ("heavy",), foam="heavy-only")[0].name
        )
        self.assertNotIn(
            "Foam", choose_holding(ContainerSize(24, 14), ("thin",), foam="heavy-only")[0].name
        )

    def test_stems_by_their_materials(self):
        self.assertEqual(
            kinds_of_stem((BY["rose"], BY["amaryllis"], BY["wheat"])),
            ("thick", "woody", "heavy", "dried"),
        )


class Clashes(unittest.TestCase):
    def test_nothing_poisonous_in_an_edible_bunch_without_a_warning(self):
        found = clashes(
            (BY["convallaria"], BY["mint"], BY["nasturtium"]), (), "edible-and-herb-bunch"
        )
        self.assertEqual([w.material.slug for w in found], ["convallaria"])
        self.assertIn("edible bunch", found[0].words)
        self.assertEqual(clashes((BY["convallaria"],), (), "garden-style"), ())

    def test_places(self):
        self.assertTrue(clashes((BY["lily"],), ("animals",)))
        self.assertTrue(clashes((BY["wheat"],), ("flame",)))
        self.assertFalse(clashes((BY["mint"],), tuple(NEAR)))
        self.assertEqual(len(clashes((BY["digitalis"],), ("food", "children"))), 2)

    def test_every_place_that_is_asked_about_is_cautioned(self):
        container = ContainerSize(24, 10)
        plan = plan_stems(school("classical-line-mass"), container, Brief())
        told = cautions_for(
            container, plan, choose_holding(container)[0], near=tuple(NEAR), materials=(BY["lily"],)
        )
        self.assertEqual(len(told), len(set(told)))
        self.assertEqual(tuple(NEAR), PLACES)
        for place in NEAR:
            self.assertIn(NEAR[place][1], told)
        self.assertIn("qualified person", told[-1])
        self.assertTrue(any(t.startswith("Lily") for t in told))
