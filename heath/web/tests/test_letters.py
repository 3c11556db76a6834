from django.test import SimpleTestCase

from heath.web.letters import unprinted


class Letters(SimpleTestCase):
    def test_latin_greek_and_cyrillic_are_printed_and_others_are_named(self):
        # The scripts that the family is drawn for (its published character set).
        names = ["Zoë Dvořák", "Ελένη", "Ольга", "Nguyễn Thị Hạnh", "李小龙", "نور", "Ada 🌷"]
        self.assertEqual(unprinted(names), ["李小龙", "نور", "Ada 🌷"])
