"""Choices of holding material, cautions and the order of placing against the trade's usual ones
(common practice).
"""

import unittest

from juniper.planning import ContainerSize, choose_holding, order_of_placing, plan_stems
from juniper.planning.cautions import DEFER, WORDS, cautions_for
from juniper.rules import FORMS, Brief, school, school_slugs


class Holds(unittest.TestCase):
    def first(self, *sizes, **more):
        return choose_holding(ContainerSize(*sizes), **more)[0]

    def test_by_container(self):
        self.assertEqual(self.first(5.5, 30).name, "Pin holder")
        self.assertEqual(self.first(24, 11).name, "Folded mesh")
        self.assertEqual(
            self.first(24, 11).amount, "a sheet of about 30 by 15 cm, folded to a loose ball"
        )
        self.assertEqual(self.first(24, 11, clear=True).name, "Tape grid")
        self.assertEqual(self.first(27, 4).name, "The neck itself")

    def test_by_stems(self):
        self.assertIn("pin holder", self.first(24, 11, stems=("thick", "soft")).name)
        self.assertEqual(self.first(24, 11, stems=("dried",)).name, "Coiled wire")
        self.assertEqual(self.first(24, 11, stems=("dried", "soft")).name, "Folded mesh")
        with self.assertRaisesRegex(ValueError, "No kind of stem is called bendy"):
            self.first(24, 11, stems=("bendy",))

    def test_foam_is_never_the_first_choice(self):
        for height in (4, 10, 24, 40):
            for width in (4, 11, 30):
                for stems in ((), ("thick",), ("heavy", "woody")):
                    for clear in (False, True):
                        names = [
                            h.name
                            for h in choose_holding(ContainerSize(height, width), stems, clear)
                        ]
                        self.assertNotEqual(names[0], "Foam piece")
                        self.assertEqual(len(names), len(set(names)))

    def test_cautions_come_once_and_say_whom_to_ask(self):
        container = ContainerSize(24, 10)
        plan, mesh = plan_stems(school("classical-line-mass"), container), self.first(24, 10)
        said = cautions_for(container, plan, mesh, clear=True)
        self.assertEqual(len(said), len(set(said)))
        self.assertEqual(said[-1], DEFER)
        for code in ("knives", "mesh", "glass", "tipping"):
            self.assertIn(WORDS[code], said)
        low = ContainerSize(9, 28)
        self.assertNotIn(
            WORDS["tipping"],
            cautions_for(low, plan_stems(school("layered-round"), low), self.first(9, 28)),
        )

    def test_every_form_and_school_ends_with_a_look_from_all_sides(self):
        for form in FORMS:
            for slug in school_slugs():
                plan = plan_stems(school(slug), ContainerSize(20, 14), Brief(form=form))
                steps = order_of_placing(plan)
                self.assertIn("step back", steps[-1].what.lower())
                self.assertGreaterEqual(len(steps), 5)
