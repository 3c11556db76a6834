"""Palettes out and in again, and files that are none."""

import unittest
import xml.dom.minidom

from juniper.colour.formats import MOST, Colour, NoPalette, read, to_csv, to_gpl, to_svg

PALETTE = (
    Colour("blush", "#f3c9c4", 0.5),
    Colour("old rose", "#a86a70", 0.3),
    Colour("=sum(a1)", "#31506f", 0.2),
)


class Formats(unittest.TestCase):
    def test_all_three_come_back_as_they_went(self):
        for text in (to_gpl("Evening", PALETTE), to_csv(PALETTE), to_svg("Evening", PALETTE)):
            self.assertEqual(
                [(c.name, c.hex) for c in read(text)], [(c.name, c.hex) for c in PALETTE]
            )

    def test_a_gimp_palette_as_the_program_writes_it(self):
        # The layout of GIMP's own files: header, name, columns, a comment, then levels and a name.
        text = "GIMP Palette\nName: Web\nColumns: 3\n#\n255 204   0\tTangerine\n  0  51 102\n"
        self.assertEqual(read(text), (Colour("Tangerine", "#ffcc00"), Colour("#003366", "#003366")))
        self.assertTrue(to_gpl("a\nb", PALETTE).startswith("GIMP Palette\nName: a b\n"))

    def test_no_cell_is_taken_for_a_formula(self):
        self.assertIn("'=sum(a1)", to_csv(PALETTE))

    def test_svg_is_well_formed_whatever_the_names(self):
        text = to_svg("A & <b>", (Colour('x < y & "z"', "#102030"),))
        self.assertEqual(xml.dom.minidom.parseString(text).documentElement.tagName, "svg")

    def test_swatches_of_other_programs(self):
        # Namespaces, style in the place of attributes, groups (SVG 1.1).
        text = (
            '<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg"><g><rect fill="red"'
            ' style="fill: #A86A70;stroke:none"/><rect fill="#f3c9c4"><title>blush'
            ' #f3c9c4</title></rect><rect fill="none"/></g></svg>'
        )
        self.assertEqual(read(text), (Colour("#a86a70", "#a86a70"), Colour("blush", "#f3c9c4")))

    def test_what_is_wrong_is_told_by_its_line(self):
        for text, words in (
            ("GIMP Palette\n#\n300 0 0 x\n", "Line 3"),
            ("name,hex\nred,#ff00\n", "Line 2"),
            ("colour,value\n", "one of them hex"),
            ("", "one of them hex"),
            ("<svg></svg>", "no colour"),
            ("GIMP Palette\n#\n²55 0 0 x\n", "Line 3"),
            ('hex\n"' + "a" * 131_073, "no CSV"),
            ("hex\r#102030\r\0\r", "Line 3"),
            ('<svg><rect fill="#102030"></svg>', "no SVG"),
            ('<!DOCTYPE svg [<!ENTITY a "b">]><svg><rect fill="#102030"/></svg>', "no SVG"),
            ("<svg>" + "<rect " * 40_000, "no SVG"),
            ("<svg>" + '<g a="' * 40_000, "no SVG"),
            ("hex\n" + "#102030\n" * (MOST + 1), f"{MOST} at most"),
        ):
            with self.subTest(text[:20]), self.assertRaises(NoPalette) as caught:
                read(text)
            self.assertIn(words, str(caught.exception))
