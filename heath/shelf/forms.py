"""The form of a container."""

from django import forms

from heath.shelf.models import LENGTH, Container
from heath.web.length_field import LengthField


class ContainerForm(forms.ModelForm):
    """Name and sizes of a container."""

    height_cm = LengthField(label="Height", validators=LENGTH)
    width_cm = LengthField(label="Greatest width", validators=LENGTH)

    class Meta:
        model = Container
        fields = ("name", "height_cm", "width_cm", "made_of")
        labels = {"name": "Name", "made_of": "Made of"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for field in self.fields.values():
            field.error_messages["required"] = "This is still to be filled in."
