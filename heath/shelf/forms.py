"""The form of a container."""

from django import forms

from heath.shelf.models import Container


class ContainerForm(forms.ModelForm):
    """Name and sizes of a container."""

    class Meta:
        model = Container
        fields = ("name", "height_cm", "width_cm")
        labels = {"name": "Name", "height_cm": "Height, cm", "width_cm": "Greatest width, cm"}

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            field.required = True
            field.error_messages["required"] = "This is still to be filled in."
            if name != "name":
                field.error_messages["invalid"] = (
                    "Write the length as a number of centimetres, such as 24 or 24.5."
                )
