from decimal import Decimal

from django import forms
from django.core.validators import MaxValueValidator
from django.test import SimpleTestCase

from heath.web.length_field import LengthField, centimetres
from juniper.lengths import INCHES, shown_in


class Box(forms.Form):
    high = LengthField(label="Height", validators=[MaxValueValidator(300)])


class Lengths(SimpleTestCase):
    """2.54 cm to the inch (ISO 80000-3)."""

    def test_a_bare_figure_is_in_the_readers_unit_and_a_unit_is_obeyed(self):
        for typed, cm in (("24", "24.0"), ("24,5 cm", "24.5"), ('10"', "25.4"), ("10 in", "25.4")):
            self.assertEqual(centimetres(typed), Decimal(cm), typed)
        with shown_in(INCHES):
            self.assertEqual(centimetres("10"), Decimal("25.4"))
            self.assertEqual(centimetres("24 cm"), Decimal("24.0"))
        for wrong in ("", "tall", "nan", "1e", "cm", "1 2"):
            with self.assertRaises(ValueError, msg=wrong):
                centimetres(wrong)

    def test_the_label_names_the_unit_and_a_fault_says_what_to_write(self):
        self.assertEqual(Box()["high"].label, "Height, cm")
        with shown_in(INCHES):
            form = Box({"high": "tall"})
            self.assertEqual(form["high"].label, "Height, in")
            self.assertIn("a number of inches, such as 9.5", form.errors["high"][0])
            self.assertEqual(form["high"].value(), "tall")

    def test_a_length_that_nobody_touched_stays_as_it_was_kept(self):
        was = {"high": Decimal("24.5")}  # 9.6 in, which are 24.4 cm
        with shown_in(INCHES):
            shown = Box(initial=was)["high"].value()
            self.assertEqual(shown, "9.6")
            same = Box({"high": shown}, initial=was)
            self.assertTrue(same.is_valid())
            self.assertEqual(same.cleaned_data["high"], Decimal("24.5"))
            self.assertFalse(same.has_changed())
            self.assertEqual(Box({"high": "9.7"}, initial=was).errors, {})

    def test_bounds_are_of_centimetres(self):
        with shown_in(INCHES):
            self.assertTrue(Box({"high": "118"}).is_valid())
            self.assertFalse(Box({"high": "119"}).is_valid())
        for far in ("1e9", "99999", "-1e400"):
            self.assertFalse(Box({"high": far}).is_valid(), far)
