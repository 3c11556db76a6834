"""The plan of several vessels: what must hold for any set of them, and small cases by hand."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from juniper.planning import counts_of_group, order_of_placing, plan_group
from juniper.planning.groups import BY_TURNS, FULL, LEAST, MOST, WALL, set_out
from juniper.rules import Brief, BriefVessel, school

RULES = school("grouped-vessels")
SIZES = st.tuples(st.floats(6, 30), st.floats(4, 14))


def brief(*sizes, **more) -> Brief:
    vessels = tuple(
        BriefVessel(f"vessel {n}", h, w, x_cm=more.get("apart", 12.0) * n)
        for n, (h, w) in enumerate(sizes)
    )
    return Brief(form="free", kind="several vessels", vessels=vessels)


class ByHand(unittest.TestCase):
    def test_anchors_and_their_neighbours_by_turns(self):
        # An anchor 1.45 times over its vessel of 20 cm stands 49 cm high, its neighbour of 12 cm
        # .85 times over it 22.2 cm: far apart, and the tallest is then brought down until it stands
        # no more than a quarter over the next (handbook of the trade, clearance).
        self.assertEqual(BY_TURNS, (1.45, 0.85))
        plan = plan_group(RULES, brief((20, 8), (12, 8)))
        high, low = (v.top for v in plan.vessels)
        self.assertLessEqual((high - low) / high, 0.25 + 1e-9)
        self.assertGreater((high - low) / high, 0.05)

    def test_water_fills_three_quarters(self):
        # 3.1416 x (.9 x 10 / 2)^2 x .75 x 20 = 954 ml (arithmetic).
        self.assertEqual((FULL, WALL), (0.75, 0.9))
        plan = plan_group(RULES, brief((20, 10), (12, 8)))
        self.assertEqual(round(plan.vessels[0].water_ml), 954)

    def test_vessels_on_one_place_are_set_in_a_row(self):
        both = tuple(BriefVessel(n, 20, w) for n, w in (("a", 10), ("b", 6)))
        # A gap of .45 x 8 = 3.6 cm: 19.6 cm in all, middles at 5 and 16.6, less 9.8 (arithmetic).
        self.assertEqual([round(x, 2) for _, x in set_out(both)], [-4.8, 6.8])

    def test_the_brief_that_lists_none(self):
        with self.assertRaisesRegex(ValueError, "lists no vessels"):
            plan_group(RULES, Brief(kind="several vessels"))

    def test_two_alike_side_by_side_are_told(self):
        plan = plan_group(RULES, brief((20, 8), (20, 8), (12, 8)))
        self.assertTrue(any("nearly alike" in note for note in plan.notes))
        far = plan_group(RULES, brief((20, 8), (12, 8), apart=80.0))
        self.assertTrue(any("far apart" in note for note in far.notes))

    def test_a_narrow_vessel_holds_one_kind_and_anchors_stand_in_every_second(self):
        plan = plan_group(RULES, brief((20, 5), (12, 5), (16, 9)))
        roles = [[s.role for s in v.stems] for v in plan.vessels]
        self.assertEqual(roles[0], ["foliage", "focal"])
        self.assertEqual(roles[1], ["focal"])
        self.assertEqual(sorted(roles[2]), ["focal", "foliage", "mass"])
        counted = {c.role: c.stems for c in counts_of_group(plan)}
        self.assertEqual((counted["foliage"], counted["focal"], counted["mass"]), (2, 3, 1))

    def test_glass_is_held_by_what_may_be_seen(self):
        clear = Brief(
            kind="several vessels",
            vessels=(BriefVessel("bowl", 10, 18, True), BriefVessel("jar", 16, 9, True, x_cm=20)),
        )
        for vessel in plan_group(RULES, clear).vessels:
            self.assertNotIn("Pin", vessel.holding.name)

    def test_the_order_is_the_patterns_and_names_its_rules(self):
        plan = plan_group(RULES, brief((20, 8), (12, 8)))
        steps = order_of_placing(plan, RULES.rules)
        self.assertEqual(steps[0].marked_by, "Neighbouring vessels differ")
        self.assertIn("step back", steps[-1].what.lower())


class Always(unittest.TestCase):
    @given(st.lists(SIZES, min_size=2, max_size=10))
    @settings(max_examples=80, deadline=None)
    def test_no_stem_is_longer_or_shorter_than_its_vessel_carries(self, sizes):
        plan = plan_group(RULES, brief(*sizes))
        self.assertEqual(len(plan.vessels), len(sizes))
        for one in plan.vessels:
            over = one.top / one.vessel.height_cm - 1
            self.assertGreaterEqual(over, LEAST - 1e-6)
            self.assertLessEqual(over, MOST + 1e-6)
            self.assertAlmostEqual(
                max(s.height for s in one.stems) + one.vessel.height_cm, one.top, places=6
            )

    @given(st.lists(st.floats(10, 14), min_size=3, max_size=10))
    @settings(max_examples=60, deadline=None)
    def test_among_like_vessels_neighbours_still_reach_different_heights(self, heights):
        plan = plan_group(RULES, brief(*((h, 7) for h in heights)))
        values = plan.values()
        band = next(r.band for r in RULES.rules if r.measure == "tops_differ")
        self.assertGreaterEqual(values["tops_differ"], band.low)
