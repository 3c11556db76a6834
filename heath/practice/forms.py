from django import forms

from heath.practice.models import ClassRound, PracticeSettings
from juniper.learning import ROUND, SKILLS
from juniper.learning.pictures import SCHOOLS
from juniper.rules import school


class ClassRoundForm(forms.ModelForm):
    """A round for a class."""

    skills = forms.MultipleChoiceField(
        choices=[(s.code, s.title) for s in SKILLS],
        required=False,
        widget=forms.CheckboxSelectMultiple,
        label="Skills",
        help_text="Without a tick all skills come, the weakest of each student more often.",
    )
    count = forms.IntegerField(
        min_value=5, max_value=20, initial=ROUND, label="Exercises", help_text="5 to 20."
    )

    class Meta:
        model = ClassRound
        fields = ("name", "skills", "count", "league")
        labels = {
            "name": "Name of the round",
            "league": "Those who take part see each other’s results",
        }
        error_messages = {"name": {"required": "Give the round a name, such as its lesson."}}


class PracticeSettingsForm(forms.ModelForm):
    """A school's word on eye practice."""

    rules = forms.ChoiceField(
        choices=[(slug, school(slug).name) for slug in SCHOOLS], label="Taught by"
    )

    class Meta:
        model = PracticeSettings
        fields = ("rules", "past_pieces")
        labels = {"past_pieces": "Show marked pieces of archived classes, without names"}
