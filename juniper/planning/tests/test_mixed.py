"""Each ingredient to its own hold, and the line to which a vessel is filled (handbook sections 5
and 9, common practice); wire by the Imperial Standard Wire Gauge (statutory table of 1883, as in BS
3737, inches; from memory).
"""

import unittest

from juniper.planning import ContainerSize, choose_holding, kinds_of_stem
from juniper.planning.materials import catalogue
from juniper.planning.mixed import fill_line, mixed_mechanics
from juniper.planning.recipe import Item
from juniper.planning.transport import WAYS
from juniper.planning.wiring import GAUGES, wire_words

BY = {m.slug: m for m in catalogue()}
VASE, BOWL, NECK = ContainerSize(24, 12), ContainerSize(6, 26), ContainerSize(22, 5)
INCHES = {20: 0.036, 22: 0.028, 32: 0.0108}


def held(slugs, container, clear=False, carried=False, stems=3):
    items = tuple(Item(BY[s], BY[s].role, BY[s].colours[0], stems) for s in slugs)
    kinds = kinds_of_stem(tuple(i.material for i in items))
    main = choose_holding(container, kinds, clear)[0]
    found = mixed_mechanics(items, container, main, clear, carried)
    return {m.slug: h.name for h in found for m in h.materials}


class Mixed(unittest.TestCase):
    def test_each_to_its_own(self):
        found = held(
            ("rose", "hydrangea", "salix-twisted", "wheat", "candle-wax", "vanda", "amaryllis"),
            VASE,
        )
        self.assertEqual(
            found,
            {
                "rose": "Folded mesh over a pin holder",
                "hydrangea": "Natural base",
                "salix-twisted": "Twig lattice",
                "wheat": "A cane, bound on",
                "candle-wax": "A cup of its own",
                "vanda": "Water tubes",
                "amaryllis": "Folded mesh over a pin holder",
            },
        )

    def test_two_heads_are_no_base(self):
        self.assertNotEqual(held(("hydrangea",), VASE, stems=2)["hydrangea"], "Natural base")

    def test_branches_by_vessel(self):
        for container, name in (
            (BOWL, "Pin holder"),
            (NECK, "The neck itself"),
            (VASE, "Twig lattice"),
        ):
            self.assertEqual(held(("prunus", "rose"), container)["prunus"], name)

    def test_nothing_that_must_be_hidden_stands_in_clear_glass(self):
        every = [s for s in BY if BY[s].plant]
        for container in (VASE, BOWL, NECK):
            names = set(held(every, container, clear=True).values())
            for name in names:
                self.assertFalse(name.startswith(("Pin", "Folded mesh", "Rigid")), name)
            self.assertFalse(
                choose_holding(container, (), clear=True)[0].name.startswith(("Pin", "Folded"))
            )

    def test_what_travels_has_a_rigid_grid(self):
        self.assertEqual(held(("rose",), VASE, carried=True)["rose"], "Rigid grid insert")

    def test_every_plant_has_one_hold(self):
        for container in (VASE, BOWL):
            self.assertEqual(set(held(sorted(BY), container)), set(BY))


class Filled(unittest.TestCase):
    def line(self, slugs, container, carried=False):
        materials = tuple(BY[s] for s in slugs)
        main = choose_holding(container, kinds_of_stem(materials))[0]
        return fill_line(container, materials, main, carried)

    def test_levels(self):
        self.assertAlmostEqual(self.line(("rose",), VASE).height, 18)  # three quarters of 24
        self.assertAlmostEqual(self.line(("tulip", "ruscus"), VASE).height, 7)  # bulbs: shallow
        self.assertAlmostEqual(self.line(("rose",), VASE, carried=True).height, 18)
        self.assertAlmostEqual(self.line(("rose",), VASE, carried=True).on_the_way, 8)  # a third
        self.assertAlmostEqual(self.line(("tulip",), VASE, carried=True).on_the_way, 7)
        self.assertIsNone(self.line(("rose",), VASE).on_the_way)
        self.assertAlmostEqual(self.line(("rose",), BOWL).height, 3.5)  # 2 cm over the pins
        self.assertEqual(self.line(("wheat", "pampas"), VASE).height, 0)
        for container in (VASE, BOWL, ContainerSize(3, 20)):
            self.assertLess(self.line(("rose",), container).height, container.height)

    def test_water_on_the_way(self):
        for way in WAYS:
            self.assertEqual(way.after[-1].water, "full", way.key)
        self.assertIn("empty", WAYS[-1].before[0].water)


class Wire(unittest.TestCase):
    def test_millimetres_and_gauges_are_one_wire(self):
        for millimetres, gauge in GAUGES.items():
            self.assertAlmostEqual(millimetres, 25.4 * INCHES[gauge], delta=0.03 * millimetres)
        self.assertEqual(wire_words(0.90), "0.90 mm (20 gauge)")
        self.assertEqual(wire_words(0.71, "gauge"), "22 gauge (0.71 mm)")
