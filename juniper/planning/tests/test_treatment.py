"""Treatments entry by entry: what is taught of a material, and what nobody does to it (handbook
section 9, common practice); botanical names against the open word list WordNet 3.0, which a second
hand made (Princeton University 2006, as Debian's package wordnet-base carries it).
"""

import unittest
from pathlib import Path

from juniper.planning.conditioning import cut_of, in_use, steps_of
from juniper.planning.materials import NO_PLANT, FaultyMaterials, catalogue, read_materials
from juniper.planning.treatment import (
    ALSO,
    COLUMNS,
    CUTS,
    USUAL,
    read_treatment,
    treatment_cells,
    usual_treatment,
)
from juniper.planning.ways import QUESTIONS, in_force

BY = {m.slug: m for m in catalogue()}
WORDNET = Path("/usr/share/wordnet/data.noun")
SEAR = {"searing": "sear"}


def told(slug, ways=None):
    return " ".join(steps_of(BY[slug], ways))


class AsTaught(unittest.TestCase):
    def test_nobody_sears_roses_hydrangea_camellia_ruscus_or_bulbs(self):
        for slug in ("rose", "rose-spray", "hydrangea", "lilac", "camellia", "prunus", "ruscus"):
            self.assertNotIn("Sear", told(slug, SEAR), slug)
        for one in BY.values():
            if one.texture == "bulb" and one.slug != "bluebell":
                self.assertIsNone(one.treatment.sear, one.slug)

    def test_searing_is_one_schools_way_with_soft_garden_stems(self):
        for slug, words in (
            ("euphorbia-garden", " 10 seconds"),
            ("primula", " 10 seconds"),
            ("pasque-flower", " 10 seconds"),
            ("wallflower", " 10 seconds"),
            ("bluebell", " 10 seconds"),
            ("daphne", " 30 to 40 seconds"),
        ):
            self.assertIn(f"just-boiled water,{words}", told(slug, SEAR))
            self.assertIn("wrapped from the steam", told(slug, SEAR))
            self.assertNotIn("Sear", told(slug))

    def test_lilac_is_broken_and_whittled_and_stands_two_hours_deep(self):
        self.assertIn("Break the end ragged and whittle", told("lilac"))
        self.assertIn("deep warm water, for 2 hours", told("lilac"))
        self.assertIn("Strip every leaf", told("lilac"))
        self.assertIn("Leave a few leaves on", told("lilac", {"leaves": "on"}))
        self.assertIn("flower food", told("lilac"))
        self.assertNotIn("flower food", told("lilac", {"food": "plain"}))

    def test_a_schools_way_with_wood_holds_for_wood_alone(self):
        hammer = {"woody-ends": "hammer"}
        self.assertIn("hammer", told("lilac", hammer))
        self.assertNotIn("hammer", told("rose", hammer))
        self.assertEqual(cut_of(BY["lilac"], {"woody-ends": "by-material"}), "whittle")
        self.assertEqual(cut_of(BY["prunus"], {}), "split")
        self.assertEqual(cut_of(BY["prunus"], {"woody-ends": "slant"}), "slant")

    def test_single_facts(self):
        self.assertIn("green part", told("tulip"))
        self.assertIn("bleed apart from the others for 6 hours", told("daffodil"))
        self.assertIn("bucket of its own", told("daffodil"))
        self.assertIn("Do not cut it again", " ".join(in_use(BY["daffodil"])))
        self.assertIn("a third wider", " ".join(in_use(BY["rose"])))
        self.assertIn("guard petals", " ".join(in_use(BY["rose"])))
        self.assertIn("back of a knife", " ".join(in_use(BY["aspidistra"])))
        self.assertIn("about three weeks", told("fatsia"))
        self.assertIn("hydro-cooling", told("hydrangea"))
        self.assertIn("between two nodes", told("carnation"))
        self.assertIn("anthers", " ".join(in_use(BY["lily"])))
        self.assertEqual(steps_of(BY["ribbon"]), ("There is nothing to condition.",))

    def test_bought_to_stand_open_on_the_day(self):
        for slug in ("tulip", "papaver", "rose"):
            self.assertIn(BY[slug].treatment.stage, ("colour", "half"), slug)


class Bleach(unittest.TestCase):
    def test_bleach_never_stands_beside_flower_food(self):
        # Flower food is acid, and chlorine with acid gives off gas.
        for one in in_force({"bleach": "bleach", "food": "food"}):
            if one.question.slug == "food":
                self.assertEqual((one.way.slug, one.by), ("plain", "safety"))
                self.assertIn("gas", one.because)
        words = told("lilac", {"bleach": "bleach", "food": "food"})
        self.assertIn("bleach", words)
        self.assertNotIn("flower food", words)

    def test_both_together_is_told_of_and_cannot_be_chosen(self):
        bleach = next(q for q in QUESTIONS if q.slug == "bleach")
        self.assertTrue(any(w.refused and "gas" in w.why for w in bleach.ways))
        self.assertIsNone(bleach.way("bleach-with-food"))
        self.assertIn("bleach-with-food", [w.slug for f in in_force({}) for w in f.others])


class Entries(unittest.TestCase):
    def test_every_entry_names_known_ways_and_goes_out_and_in_again(self):
        for one in BY.values():
            cells = dict(zip(COLUMNS, treatment_cells(one.treatment), strict=True))
            self.assertEqual(read_treatment(cells), one.treatment, one.slug)
            self.assertLessEqual(set(one.treatment.cut), set(CUTS))
            self.assertEqual(one.treatment.dry, one.treatment.soak == 0, one.slug)

    def test_every_further_step_is_taken_by_some_material(self):
        self.assertEqual({a for m in BY.values() for a in m.treatment.also}, set(ALSO))

    def test_a_list_without_treatments_takes_the_usual_ones_and_sears_nothing(self):
        head = (
            "slug,common,botanical,role,texture,life_low,life_high,months,colours,cautions,source"
        )
        row = "weld,Weld,Reseda luteola,line,soft,5,8,6-8,yellow,,our garden"
        (one,) = read_materials(f"{head}\n{row}")
        self.assertEqual(one.treatment, usual_treatment("soft"))
        self.assertEqual((one.named, one.harm), ("from memory", "our garden"))
        for texture in USUAL:
            self.assertIsNone(usual_treatment(texture).sear)

    def test_what_is_wrong_is_told(self):
        cells = dict(zip(COLUMNS, treatment_cells(BY["rose"].treatment), strict=True))
        for column, value, words in (
            ("cut", "chew", "no way to cut is called “chew”"),
            ("sear_s", "40-30", "seconds of searing"),
            ("sear_s", "100", "seconds of searing"),
            ("bleed_min", "soon", "minutes that it bleeds"),
            ("water", "deep cool", "two words"),
            ("soak_min", "9999", "minutes in water are a whole number, 1440 at most"),
            ("leaves", "some", "no way with leaves"),
            ("also", "sing", "no further step"),
            ("bought", "tomorrow 1", "no stage of opening"),
            ("bought", "half 15", "days that it is bought ahead"),
            ("yields", "13", "pieces of a stem"),
        ):
            with self.subTest(column=column), self.assertRaisesRegex(ValueError, words):
                read_treatment(cells | {column: value})

    def test_no_plant_is_a_part_in_both_columns(self):
        head = (
            "slug,common,botanical,role,texture,life_low,life_high,months,colours,cautions,source"
        )
        row = "bead,Beads,no plant,filler,part,5,8,6-8,blue,small,ours"
        with self.assertRaisesRegex(FaultyMaterials, "both as its role and as its texture"):
            read_materials(f"{head}\n{row}")


class Names(unittest.TestCase):
    @unittest.skipUnless(WORDNET.exists(), "the word list is installed by the test command")
    def test_botanical_names_stand_in_the_list_that_the_entry_names(self):
        known = set()
        with WORDNET.open(encoding="latin-1") as lines:
            for line in lines:
                if not line.startswith(" "):
                    fields = line.split(" ")
                    words = fields[4 : 4 + 2 * int(fields[3], 16) : 2]
                    known |= {w.replace("_", " ").lower() for w in words}
        for one in BY.values():
            name = one.botanical.lower()
            genus = name.split()[0]
            if one.botanical == NO_PLANT:
                self.assertEqual(one.named, NO_PLANT)
            elif name in known:
                self.assertEqual(one.named, "WordNet 3.0", one.slug)
            elif genus in known or f"genus {genus}" in known:
                self.assertEqual(one.named, "genus in WordNet 3.0, species from memory", one.slug)
            else:
                self.assertEqual(one.named, "from memory", one.slug)
