"""A length in a form: typed in the reader's unit, kept in centimetres."""

from decimal import Decimal, InvalidOperation

from django import forms

from juniper.lengths import CENTIMETRES, CM, INCHES, number, unit

TENTH = Decimal("0.1")  # of a centimetre: what is kept
UNITS = {"cm": CENTIMETRES, "in": INCHES, '"': INCHES, "″": INCHES}
NAMES = {CENTIMETRES: "centimetres, such as 24 or 24.5", INCHES: "inches, such as 9.5"}


def centimetres(text: str) -> Decimal:
    """A length as it was typed, in centimetres to a tenth; a bare figure is in the reader's unit.

    Raises ValueError for what is no length.
    """
    text = text.strip().lower().replace(",", ".")
    typed = next((u for u in UNITS if text.endswith(u)), "")
    figure = text.removesuffix(typed).strip()
    try:
        value = Decimal(figure)
    except InvalidOperation:
        raise ValueError(text) from None
    if not value.is_finite():
        raise ValueError(text)
    factor = Decimal(str(CM)) if UNITS.get(typed, unit()) == INCHES else 1
    return (value * factor).quantize(TENTH) if abs(value) < 10_000 else value


class LengthField(forms.DecimalField):
    """A DecimalField of centimetres that is shown and typed in the reader's unit, which its label
    names. A length that nobody changed stays as it was kept, whatever the unit rounds it to.
    """

    widget = forms.TextInput
    kept = None

    def __init__(self, **options):
        super().__init__(max_digits=5, decimal_places=1, **options)

    def widget_attrs(self, widget):
        """Figures with a point, on a phone's keyboard too."""
        return {"inputmode": "decimal", "autocomplete": "off", "size": "6"}

    def get_bound_field(self, form, field_name):
        """The field in a form, its unit in the label."""
        bound = super().get_bound_field(form, field_name)
        bound.label = f"{bound.label}, {unit()}"
        self.kept = bound.initial
        return bound

    def prepare_value(self, value):
        """What stands in the box: what was typed, or what is kept in the reader's unit."""
        if value in (None, "") or isinstance(value, str):
            return value
        return number(float(value), None)

    def to_python(self, value):
        """Centimetres of what was typed."""
        if not isinstance(value, str):
            return super().to_python(value)
        if not value.strip():
            return None
        if self.kept is not None and value.strip() == self.prepare_value(self.kept):
            return super().to_python(self.kept)
        try:
            return centimetres(value)
        except ValueError:
            raise forms.ValidationError(
                f"Write the length as a number of {NAMES[unit()]}.", code="invalid"
            ) from None
