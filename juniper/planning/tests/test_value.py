"""What money buys: worked by hand (common practice), and what must hold of any recipe."""

import unittest
from datetime import date
from decimal import Decimal
from itertools import pairwise

from hypothesis import given, settings
from hypothesis import strategies as st

from juniper.colour.spaces import from_hex, lab_from_srgb
from juniper.planning import ContainerSize, plan_stems
from juniper.planning.buying import Bunch, bill, read_prices, to_buy
from juniper.planning.materials import COLOURS, PLANT_ROLES, catalogue
from juniper.planning.recipe import VARIANTS, Item, Wanted, counts, recipe
from juniper.planning.value import (
    STEPS,
    buying_dates,
    colours_apart,
    heads_to_fill,
    leftovers,
    price_steps,
    recipe_points,
    stems_to_fill,
    substitutes,
)
from juniper.rules import Brief, school

BY = {m.slug: m for m in catalogue()}
PRICES = read_prices("Rose, 10, 8\nDelphinium, 5, 9\nRuscus, 10, 4\nGypsophila, 10, 5", catalogue())


def item(slug, stems, role=""):
    return Item(BY[slug], role or BY[slug].role, BY[slug].colours[0], stems)


def recipes(rules, brief):
    plan = plan_stems(rules, ContainerSize(24, 12), brief)
    wanted = tuple(
        Wanted(BY[s], BY[s].role, BY[s].colours[0])
        for s in ("rose", "delphinium", "carnation", "ruscus", "gypsophila")
    )
    return {v: recipe(wanted, counts(plan, rules, brief, v)) for v in VARIANTS}


class Yield(unittest.TestCase):
    def test_a_stem_that_is_divided_is_bought_once(self):
        # 32 tips of ruscus, two from a stem: 16 stems, two in reserve.
        self.assertEqual(to_buy(item("ruscus", 2), 32), 18)
        # 30 roses, one from a stem: 33; where the pieces travel one in five is spare: 36
        self.assertEqual(to_buy(item("rose", 3), 30), 33)
        self.assertEqual(to_buy(item("rose", 3), 30, carried=True), 36)
        self.assertEqual(to_buy(item("ruscus", 2), 32, carried=True), 18)
        # nobody keeps a tenth of a candle in reserve
        self.assertEqual(to_buy(item("candle-wax", 1), 16), 16)

    def test_heads_that_fill_a_bowl(self):
        # ((15 + 3.5) / 7)^2 = 6.98 heads lie over the opening and half a head beyond it
        self.assertEqual(heads_to_fill(15, 7), 7)
        self.assertEqual(heads_to_fill(1, 30), 1)
        # three to four stems of a spray fill a small bowl (handbook section 9)
        for width in (12, 13, 14):
            self.assertIn(stems_to_fill(width, BY["rose-spray"]), (3, 4))
        with self.assertRaises(ValueError):
            heads_to_fill(0, 7)

    @given(st.floats(5, 60), st.floats(5, 60), st.floats(2, 20))
    def test_a_wider_bowl_never_takes_fewer(self, one, other, head):
        low, high = sorted((one, other))
        self.assertLessEqual(heads_to_fill(low, head), heads_to_fill(high, head))


class Buying(unittest.TestCase):
    def test_dates_backwards_from_the_class(self):
        needs = ((BY["lily"], 8), (BY["gerbera"], 8), (BY["paeony"], 8))
        found = buying_dates(needs, date(2026, 12, 3))
        self.assertEqual(
            [(p.on.day, p.material.slug, p.stage) for p in found],
            [
                (30, "lily", "in bud"),
                (30, "paeony", "in bud, showing colour"),
                (2, "gerbera", "open"),
            ],
        )

    @given(
        st.lists(st.sampled_from(sorted(BY)), min_size=1, max_size=6, unique=True),
        st.integers(1, 30),
        st.integers(1, 60),
        st.booleans(),
    )
    @settings(max_examples=60, deadline=None)
    def test_more_students_never_cost_less(self, slugs, stems, pieces, carried):
        items = tuple(item(s, stems) for s in slugs)
        bunches = tuple(Bunch(s, 7, Decimal("3.50")) for s in slugs)
        few, many = (bill(items, bunches, n, carried) for n in (pieces, pieces + 1))
        self.assertLessEqual(few.cost, many.cost)
        self.assertLessEqual(bill(items, bunches, pieces).cost, few.cost)


class Steps(unittest.TestCase):
    def test_from_foliage_to_lavish_on_one_outline(self):
        rules, brief = school("classical-line-mass"), Brief(scheme="analogous")
        steps = price_steps(recipes(rules, brief), rules, brief, PRICES, 8)
        self.assertEqual([s.name for s in steps], list(STEPS))
        foliage, one = steps[0], steps[1]
        self.assertEqual({i.role for i in foliage.items}, {"foliage"})
        flowers = [i for i in one.items if i.role != "foliage"]
        self.assertEqual([(i.material.slug, i.stems) for i in flowers], [("rose", 1)])
        # area for area: what the flowers covered is foliage now, within a stem of each kind
        usual = recipes(rules, brief)["usual"]
        area = sum(i.area for i in usual)
        one_stem = sum(i.area / i.stems for i in foliage.items)
        self.assertAlmostEqual(sum(i.area for i in foliage.items), area, delta=one_stem)
        for before, after in pairwise(steps):
            self.assertAlmostEqual(after.gained, after.points - before.points)
        self.assertEqual(foliage.points, 0.0)  # rules on flowers give nothing without them
        self.assertGreater(steps[3].points, 0.0)
        self.assertLess(foliage.each, steps[-1].each)

    def test_points_are_those_of_the_rules_own_weights(self):
        rules, brief = school("classical-line-mass"), Brief()
        own = [r for r in rules.rules if r.applies(brief)]
        odd = next(r for r in own if r.measure == "odd_counts")
        whole = sum(r.weight for r in own)
        three, four = (
            recipe_points((item("rose", n), item("ruscus", 5)), rules, brief) for n in (3, 4)
        )
        self.assertAlmostEqual(three - four, 100 * odd.weight / whole, delta=1e-6)

    def test_no_steps_without_foliage(self):
        rules, brief = school("classical-line-mass"), Brief()
        only = dict.fromkeys(VARIANTS, (item("rose", 5),))
        self.assertEqual(price_steps(only, rules, brief, (), 3), ())


class Substitutes(unittest.TestCase):
    @given(
        st.sampled_from([m for m in catalogue() if m.colours]),
        st.integers(1, 12),
        st.booleans(),
        st.sampled_from([frozenset(), frozenset({"poisonous", "irritant", "cats"})]),
    )
    @settings(max_examples=80, deadline=None)
    def test_one_never_leaves_its_role_nor_its_season_nor_what_is_barred(
        self, wanted, month, south, barred
    ):
        for one in substitutes(
            wanted, wanted.role, wanted.colours[0], catalogue(), month, south, barred
        ):
            self.assertEqual(one.material.role, wanted.role)
            self.assertTrue(one.material.in_season(month, south))
            self.assertFalse(barred & set(one.material.cautions))
            self.assertNotEqual(one.material.slug, wanted.slug)
            self.assertIn(one.colour, one.material.colours)
            self.assertEqual(one.material.treatment.dry, wanted.treatment.dry)
            self.assertTrue(0 < one.likeness <= 1)

    def test_the_likest_first_and_in_words(self):
        found = substitutes(BY["rose"], "focal", "red", catalogue(), 11)
        self.assertEqual(found[0].material.slug, "anemone")
        self.assertEqual(found[0].why, "the same red, as large, lasts 2 days less")
        self.assertEqual(list(found), sorted(found, key=lambda s: -s.likeness))
        blue = substitutes(BY["delphinium"], "line", "blue", catalogue(), 1)
        self.assertEqual(blue[0].material.slug, "iris")
        self.assertEqual(blue[0].why, "the same blue, 0.7 times as large, lasts 3 days less")
        # what grows in May in the north is cut in November in the south
        north = substitutes(BY["lilac"], "mass", "violet", catalogue(), 5)
        self.assertEqual(north, substitutes(BY["lilac"], "mass", "violet", catalogue(), 11, True))

    def test_colours_by_ciede2000(self):
        # Against the colour-science library, as everywhere.
        import colour

        for one, other in (("red", "rose"), ("blue", "violet")):
            labs = (lab_from_srgb(from_hex(COLOURS[c])) for c in (one, other))
            self.assertAlmostEqual(
                colours_apart(one, other), float(colour.delta_E(*labs, method="CIE 2000")), places=6
            )


class Leftovers(unittest.TestCase):
    def test_small_vases_by_hand(self):
        # 9 roses used, 1 in reserve: 1 bunch, none over; 8 delphiniums and 1: 2 of 5, 1 over; 6
        # ruscus tips from 3 stems and 1: 10, 6 over.
        whole = bill((item("rose", 3), item("delphinium", 2), item("ruscus", 2)), PRICES, 4)
        left = dict(leftovers(whole).stems)
        self.assertEqual(left, {x.item.material: x.over for x in whole.lines if x.over})

    @given(st.lists(st.integers(0, 25), min_size=4, max_size=4), st.integers(1, 20))
    @settings(max_examples=60, deadline=None)
    def test_no_stem_is_used_twice_and_each_vase_has_something_to_look_at(self, stems, pieces):
        slugs = ("rose", "delphinium", "ruscus", "gypsophila")
        items = tuple(item(s, n) for s, n in zip(slugs, stems, strict=True) if n)
        found = leftovers(bill(items, PRICES, pieces))
        have = dict(found.stems)
        for vase in found.vases:
            self.assertEqual(sum(n for _, n in vase), 3)
            self.assertIn(vase[0][0].role, ("focal", "mass", "line"))
            for material, n in vase:
                have[material] -= n
        self.assertTrue(all(n >= 0 for n in have.values()))


class Parts(unittest.TestCase):
    def test_counts_are_of_plants_alone(self):
        rules, brief = school("classical-line-mass"), Brief()
        plan = plan_stems(rules, ContainerSize(24, 12), brief)
        self.assertEqual([c.role for c in counts(plan, rules, brief)], list(PLANT_ROLES))
        wanted = (Wanted(BY["rose"], "focal", "red"), Wanted(BY["candle-wax"], "part", "white"))
        found = recipe(wanted, counts(plan, rules, brief))
        self.assertEqual([i.stems for i in found if i.role == "part"], [1])

    def test_filler_in_three_stem_pieces_where_the_school_says_so(self):
        rules, brief = school("three-stem-thirds"), Brief()
        plan = plan_stems(rules, ContainerSize(6, 26), brief)
        open_space, filled = (
            {c.role: c.stems for c in counts(plan, rules, brief, ways=w)}
            for w in ({}, {"filler": "filler"})
        )
        self.assertEqual((open_space["filler"], filled["filler"]), (0, 3))
