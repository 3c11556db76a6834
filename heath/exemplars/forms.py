"""Putting a piece on the exemplar shelf."""

from __future__ import annotations

from django import forms

from heath.exemplars.models import Exemplar


class ExemplarForm(forms.Form):
    """Which rules a piece shows, a line about it, and whether its maker has allowed it already."""

    rules = forms.MultipleChoiceField(
        label="It shows these rules held",
        widget=forms.CheckboxSelectMultiple,
        error_messages={"required": "Choose a rule that the piece shows."},
    )
    words = forms.CharField(label="A line about it (optional)", max_length=200, required=False)
    state = forms.ChoiceField(
        label="Permission",
        choices=[
            (Exemplar.State.ASKED, "ask the student on the page of their record"),
            (Exemplar.State.ALLOWED, "the student has allowed it already"),
        ],
        widget=forms.RadioSelect,
        initial=Exemplar.State.ASKED,
    )
    said = forms.CharField(
        label="How they allowed it, such as “signed form of 3 May”", max_length=200, required=False
    )

    def __init__(self, *args, held, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["rules"].choices = held

    def clean(self):
        """A permission that is there already is written down with how it was given."""
        cleaned = super().clean()
        if cleaned.get("state") == Exemplar.State.ALLOWED and not cleaned.get("said"):
            self.add_error("said", "Write how the student allowed it.")
        return cleaned
