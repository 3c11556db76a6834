"""The catalogue against its schema and facts of the trade (common practice, and section 6 of the
handbook for what is poisonous).
"""

import unittest

from juniper.planning.materials import (
    NO_PLANT,
    ROLES,
    TEXTURES,
    FaultyMaterials,
    as_csv,
    as_json,
    catalogue,
    from_json,
    read_materials,
)

# the columns that a list cannot leave out
HEAD = (
    "slug,common,botanical,role,texture,across_cm,life_low,life_high,months,colours,cautions,source"
)
ROW = "rose,Rose,Rosa cultivars,focal,woody,7,6,12,1-12,red,thorns,common practice"


class Catalogue(unittest.TestCase):
    by = {m.slug: m for m in catalogue()}

    def test_it_is_large_enough_and_every_row_names_its_source(self):
        self.assertGreaterEqual(len(self.by), 220)
        self.assertEqual({m.role for m in catalogue()}, set(ROLES))
        self.assertEqual({m.texture for m in catalogue()}, set(TEXTURES))
        for one in catalogue():
            self.assertTrue(one.source and one.treatment.source)
            if one.botanical != NO_PLANT:
                self.assertRegex(one.botanical, r"^[A-Z][a-z]+ (x )?[a-z-]+")
            if one.cautions:
                self.assertRegex(one.harm, r"common practice|\d{4}, from memory")

    def test_what_the_handbook_calls_poisonous_or_irritant_is_marked(self):
        for slug in ("digitalis", "convallaria", "daffodil", "oleander"):
            self.assertIn("poisonous", self.by[slug].cautions)
        self.assertLessEqual({"irritant", "eyes", "bleeds"}, set(self.by["euphorbia"].cautions))
        self.assertIn("cats", self.by["lily"].cautions)
        for slug in ("digitalis", "lily", "euphorbia"):
            self.assertFalse(self.by[slug].safe_near_food)
        for slug in ("mint", "basil", "nasturtium", "rose"):
            self.assertTrue(self.by[slug].safe_near_food)

    def test_usual_lives(self):
        # Lilac-like woody blooms 3 to 7 days; conditioned leaves up to three weeks and more; dried
        # material for seasons.
        self.assertEqual(self.by["lilac"].life, (3, 7))
        for one in catalogue():
            if one.plant:
                self.assertEqual(one.texture == "dried", one.life[0] >= 90, one.slug)

    def test_seasons_are_half_a_year_apart_in_the_two_hemispheres(self):
        tulip = self.by["tulip"]
        self.assertEqual(tulip.months, (12, 1, 2, 3, 4, 5))
        for month in range(1, 13):
            self.assertEqual(
                tulip.in_season(month), tulip.in_season((month + 5) % 12 + 1, south=True)
            )
        self.assertTrue(tulip.in_season(9, south=True))

    def test_names_within_a_sentence(self):
        said = {
            slug: self.by[slug].spoken for slug in ("ruscus", "rose-spray", "dianthus-barbatus")
        }
        self.assertEqual(
            said,
            {
                "ruscus": "Italian ruscus",
                "rose-spray": "spray rose",
                "dianthus-barbatus": "sweet William",
            },
        )

    def test_out_and_in_again(self):
        self.assertEqual(read_materials(as_csv(catalogue())), catalogue())
        self.assertEqual(from_json(as_json(catalogue())), catalogue())

    def test_no_cell_is_taken_for_a_formula_and_none_is_changed(self):
        # OWASP, "CSV injection".
        row = ROW.replace("Rose,Rosa cultivars", "=1+1,@now").replace("common practice", "-own")
        found = read_materials("\n".join([HEAD, row]))
        text = as_csv(found)
        for cell in (",'=1+1,", ",'@now,", ",'-own"):
            self.assertIn(cell, text)
        self.assertEqual(read_materials(text), found)

    def test_faults_are_told_by_line_and_nothing_is_taken(self):
        wrong = [
            ROW.replace("focal", "star"),
            ROW.replace("6,12", "12,6"),
            ROW.replace("1-12", "0-13"),
            ROW.replace("thorns", "spiky"),
            ROW,
            ROW,
        ]
        with self.assertRaises(FaultyMaterials) as caught:
            read_materials("\n".join([HEAD, *wrong]))
        self.assertEqual([n for n, _ in caught.exception.faults], [2, 3, 4, 5, 7])
        with self.assertRaisesRegex(FaultyMaterials, "column role is missing"):
            read_materials("slug,common,botanical\n")
        for life in ("6,99999999999", "6," + "9" * 5000, "²,12", "6,1501"):
            with self.subTest(life[:10]), self.assertRaisesRegex(FaultyMaterials, "1500 at most"):
                read_materials("\n".join([HEAD, ROW.replace("6,12", life)]))
        with self.assertRaisesRegex(FaultyMaterials, "no CSV"):
            read_materials(HEAD + '\n"' + "a" * 131_073)
        for text in (
            "{",
            "[1]",
            '[{"slug": "x"}]',
            "[" * 50_000,
            '{"slug": 1}',
            '[{"life": 3}]',
            "[" + "9" * 5000 + "]",
        ):
            with self.assertRaises(FaultyMaterials):
                from_json(text)
