"""Forms of the records: settings of a gradebook, a cell of it, a lesson, a note, a level."""

from __future__ import annotations

from django import forms
from django.db import transaction

from heath.briefs.models import Brief
from heath.classes.models import Level, Student
from heath.records.models import (
    CAME,
    POINTS,
    Attendance,
    Gradebook,
    Lesson,
    MarkCorrection,
    Note,
    Weight,
)
from heath.records.titles import known_rules
from heath.web.names import FAMILY_NAMES
from juniper.rules import FAMILIES, school, school_slugs

LEAST_REASON = 3  # letters
SENTENCES, LONGEST = 12, 300  # of a level, and letters of one


class GradebookForm(forms.ModelForm):
    """How a class's term mark is made."""

    class Meta:
        model = Gradebook
        fields = ("best", "late_off", "missing_is_nought", "pass_mark", "awards_of")
        labels = {
            "best": "How many of the best marks count (empty: all)",
            "late_off": "Points taken off a late piece",
            "missing_is_nought": "A piece that is missing after its closing time counts as 0",
            "pass_mark": "Pass mark of the term",
            "awards_of": "Awards are named as in",
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["awards_of"] = forms.ChoiceField(
            label=self.fields["awards_of"].label,
            choices=[(slug, school(slug).name) for slug in school_slugs()],
        )


class WeightForm(forms.ModelForm):
    """How much one brief counts."""

    class Meta:
        model = Weight
        fields = ("weight",)


def weights_from(data, briefs: list[Brief]) -> tuple[dict[int, WeightForm], list[str]]:
    """A form a brief from what was sent as weight-NUMBER, and what is wrong, in sentences."""
    forms_, faults = {}, []
    for brief in briefs:
        kept = getattr(brief, "weight", None) or Weight(brief=brief)
        form = WeightForm({"weight": data.get(f"weight-{brief.pk}", "")}, instance=kept)
        forms_[brief.pk] = form
        if not form.is_valid():
            words = " ".join(e for errors in form.errors.values() for e in errors)
            faults.append(f"Weight of {brief.name}: {words}")
    return forms_, faults


class ReasonedForm(forms.Form):
    """A reason that is given with a change."""

    reason = forms.CharField(
        label="Reason",
        max_length=300,
        min_length=LEAST_REASON,
        error_messages={
            "required": "Write the reason: it is kept with the change.",
            "min_length": "Write the reason in a word or two.",
        },
    )


class CorrectionForm(ReasonedForm):
    """Another mark in the place of one, with the reason."""

    mark = forms.DecimalField(
        label="Corrected mark",
        max_digits=4,
        decimal_places=1,
        validators=POINTS,
        error_messages={
            "required": "Write the corrected mark, from 0 to 100.",
            "invalid": "Write the corrected mark as a figure from 0 to 100.",
        },
    )

    @transaction.atomic
    def kept(self, student, piece, user) -> MarkCorrection:
        """The correction, in the place of the one before."""
        Student.objects.select_for_update().get(pk=student.pk)  # one at a time
        MarkCorrection.objects.filter(student=student, piece=piece, taken_back=False).update(
            taken_back=True
        )
        return MarkCorrection.objects.create(
            student=student, piece=piece, made_by=user, **self.cleaned_data
        )


class AttendanceForm(forms.ModelForm):
    """How a piece came, in the instructor's word."""

    class Meta:
        model = Attendance
        fields = ("came", "reason")

    came = forms.ChoiceField(choices=[(c, c) for c in CAME])


class LessonForm(forms.ModelForm):
    """A lesson: its name, its day and what it was about."""

    class Meta:
        model = Lesson
        fields = ("name", "taught_on", "about")
        labels = {"name": "Lesson", "taught_on": "Taught on", "about": "About"}
        widgets = {"taught_on": forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")}

    def __init__(self, *args, school, **kwargs):
        super().__init__(*args, **kwargs)
        rules = known_rules(school)
        self.fields["about"] = forms.ChoiceField(
            label="About",
            choices=[
                ("a whole family", [(f, FAMILY_NAMES[f]) for f in FAMILIES]),
                *(
                    (
                        f"a rule of {FAMILY_NAMES[f].lower()}",
                        sorted(
                            ((r.code, r.title) for r in rules.values() if r.family == f),
                            key=lambda pair: pair[1],
                        ),
                    )
                    for f in FAMILIES
                ),
            ],
        )


class NoteForm(forms.ModelForm):
    """A private note."""

    class Meta:
        model = Note
        fields = ("words",)
        labels = {"words": "Private note: the student never sees it"}
        widgets = {"words": forms.Textarea(attrs={"rows": 3})}
        error_messages = {"words": {"required": "Write the note first."}}


class LevelForm(forms.ModelForm):
    """A level: its name, what it asks, a sentence a line, and the rules that are only shown."""

    asks_for = forms.CharField(
        label="What is asked, one sentence on each line",
        widget=forms.Textarea(attrs={"rows": 6}),
        max_length=SENTENCES * LONGEST,
        required=False,
    )
    shown_only = forms.MultipleChoiceField(
        label="Shown and not marked yet", required=False, widget=forms.CheckboxSelectMultiple
    )

    class Meta:
        model = Level
        fields = ("name",)
        labels = {"name": "Level"}

    def __init__(self, *args, school, **kwargs):
        super().__init__(*args, **kwargs)
        self.instance.school = school
        rules = known_rules(school)
        self.fields["shown_only"].choices = [
            (
                FAMILY_NAMES[f],
                sorted(
                    ((r.code, r.title) for r in rules.values() if r.family == f),
                    key=lambda pair: pair[1],
                ),
            )
            for f in FAMILIES
        ]
        self.initial.setdefault("asks_for", "\n".join(self.instance.asks))
        self.initial.setdefault("shown_only", self.instance.shown)

    @property
    def groups(self) -> list[tuple[str, list[tuple[str, str, bool]]]]:
        """The rules by family, each with its code, its title and whether it is chosen."""
        chosen = set(self["shown_only"].value() or ())
        return [
            (family, [(code, title, code in chosen) for code, title in rules])
            for family, rules in self.fields["shown_only"].choices
        ]

    def clean_name(self):
        """One of a name in a school."""
        name = " ".join(self.cleaned_data["name"].split())
        twins = Level.objects.filter(school=self.instance.school, name=name)
        if twins.exclude(pk=self.instance.pk).exists():
            raise forms.ValidationError(f"There is a level called {name} already.")
        return name

    def clean_asks_for(self):
        """So many sentences at the most."""
        lines = [
            " ".join(x.split()) for x in self.cleaned_data["asks_for"].splitlines() if x.strip()
        ]
        if len(lines) > SENTENCES:
            raise forms.ValidationError(f"{SENTENCES} sentences at the most.")
        if any(len(line) > LONGEST for line in lines):
            raise forms.ValidationError(f"{LONGEST} letters in a sentence at the most.")
        return lines

    def save(self, commit=True):
        """The level with its sentences and rules."""
        self.instance.asks = self.cleaned_data["asks_for"]
        self.instance.shown = self.cleaned_data["shown_only"]
        return super().save(commit)
