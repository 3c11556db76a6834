"""Forms of a second marking: setting one, and settling a piece."""

from __future__ import annotations

import secrets

from django import forms
from django.core.validators import MaxValueValidator, MinValueValidator

from heath.briefs.models import Brief
from heath.people.models import User

LARGEST = 2**31 - 1


class RoundForm(forms.Form):
    """A second marking of a brief."""

    brief = forms.ModelChoiceField(label="Brief", queryset=Brief.objects.none(), empty_label=None)
    markers = forms.ModelMultipleChoiceField(
        label="Who marks",
        queryset=User.objects.none(),
        widget=forms.CheckboxSelectMultiple,
        error_messages={"required": "Choose somebody who marks."},
    )
    share = forms.IntegerField(
        label="How many of the marked pieces, in per cent",
        initial=20,
        validators=[
            MinValueValidator(0, "Write a share from 0 to 100."),
            MaxValueValidator(100, "Write a share from 0 to 100."),
        ],
    )
    again = forms.IntegerField(
        label="Of each marker's own pieces, how many come back to them unseen",
        initial=0,
        validators=[
            MinValueValidator(0, "Write 0 or more."),
            MaxValueValidator(30, "Write 30 at the most."),
        ],
    )
    seed = forms.IntegerField(
        label="Number of the draw: the same number draws the same pieces",
        validators=[
            MinValueValidator(0, "Write 0 or more."),
            MaxValueValidator(LARGEST, "Write a smaller number."),
        ],
    )

    def __init__(self, *args, briefs, people, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["brief"].queryset = briefs
        self.fields["markers"].queryset = people
        self.fields["markers"].label_from_instance = lambda user: user.shown_name
        self.fields["seed"].initial = secrets.randbelow(1_000_000)

    def clean(self):
        """Something is to be marked."""
        cleaned = super().clean()
        if cleaned.get("share") == 0 and cleaned.get("again") == 0:
            raise forms.ValidationError(
                "With 0 per cent, and 0 pieces of their own, nobody marks anything."
            )
        return cleaned


class SettleForm(forms.Form):
    """The settled mark and its reason."""

    mark = forms.FloatField(
        label="Settled mark of 100",
        validators=[
            MinValueValidator(0, "Write a mark from 0 to 100."),
            MaxValueValidator(100, "Write a mark from 0 to 100."),
        ],
        error_messages={
            "required": "Write the settled mark, from 0 to 100.",
            "invalid": "Write the settled mark as a figure from 0 to 100.",
        },
    )
    reason = forms.CharField(
        label="Reason",
        max_length=300,
        min_length=3,
        error_messages={
            "required": "Write the reason: the student reads it on the sheet.",
            "min_length": "Write the reason in a word or two.",
        },
    )
    seen = forms.IntegerField(widget=forms.HiddenInput, min_value=0)
