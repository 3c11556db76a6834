import unittest

from heath.intake.matching import code_in, person_in, view_in

PEOPLE = {
    1: "Ailsa Thornbury",
    2: "Benedikt Quayle",
    3: "Ana Quayle",
    4: "Zoë Åkesson-Wrack",
    5: "Li Ness",
}


class Names(unittest.TestCase):
    def test_whole_names_however_written(self):
        for text, key in (
            ("ailsa thornbury front.jpg", 1),
            ("Thornbury_Ailsa (2)", 1),
            ("AilsaThornbury-IMG", 1),
            ("2026-11-19 Benedikt Quayle", 2),
            ("zoe akesson wrack", 4),
            ("Li-Ness", 5),
        ):
            self.assertEqual(person_in(text, PEOPLE), key, text)

    def test_a_part_counts_when_it_is_one_persons_alone(self):
        self.assertEqual(person_in("thornbury.jpg", PEOPLE), 1)
        self.assertEqual(person_in("Benedikt 3", PEOPLE), 2)
        self.assertIsNone(person_in("quayle", PEOPLE))
        self.assertIsNone(person_in("li", PEOPLE))

    def test_what_says_nothing_is_left_to_the_instructor(self):
        for text in (
            "",
            "IMG_2207",
            "DSC0031",
            "20261119_204107",
            "ailsa and benedikt quayle thornbury",
        ):
            self.assertIsNone(person_in(text, PEOPLE), text)


class Views(unittest.TestCase):
    def test_views_in_file_names(self):
        for name, view in (
            ("Ailsa front.jpg", "front"),
            ("ailsa_LEFT.heic", "side"),
            ("from-above.png", "top"),
            ("IMG_22.jpg", ""),
            ("front or back.jpg", ""),
        ):
            self.assertEqual(view_in(name), view)


class Codes(unittest.TestCase):
    def test_codes_in_what_was_written(self):
        self.assertEqual(code_in("k7q2 m9xa"), "K7Q2M9XA")
        self.assertEqual(code_in("my card: K7Q2M9XA please"), "K7Q2M9XA")
        for text in ("", "Ailsa Thornbury", "IMG_2207", "flowers and leaves"):
            self.assertIsNone(code_in(text), text)
