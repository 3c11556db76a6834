"""Forms for classes."""

from django import forms

from heath.classes.models import Course

MOST_STUDENTS = 60


class CourseForm(forms.ModelForm):
    """A class by hand, with its students as one name a line."""

    students = forms.CharField(
        label="Students, one name a line",
        required=False,
        max_length=8000,
        widget=forms.Textarea(attrs={"rows": 10}),
    )

    class Meta:
        model = Course
        fields = ("name", "term")
        labels = {"name": "Name of the class", "term": "Term"}

    def __init__(self, *args, school=None, **kwargs):
        super().__init__(*args, **kwargs)
        self.instance.school = school or self.instance.school
        if self.instance.pk:
            self.fields["students"].label = "Add students, one name a line"

    def clean_students(self):
        """Names without blanks or repeats, in order."""
        names = list(dict.fromkeys(" ".join(line.split()) for line in self.cleaned_data["students"].splitlines()))
        names = [n for n in names if n]
        if len(names) > MOST_STUDENTS:
            raise forms.ValidationError(f"{len(names)} names; {MOST_STUDENTS} at a time is the most.")
        for place, name in enumerate(names, start=1):
            if len(name) > 120:
                raise forms.ValidationError(f"Line {place} is too long for a name ({len(name)} letters).")
        return names

    def clean(self):
        """One class of a name in a term."""
        cleaned = super().clean()
        twin = Course.objects.filter(school=self.instance.school, name=cleaned.get("name"), term=cleaned.get("term", "")).exclude(
            pk=self.instance.pk
        )
        if cleaned.get("name") and twin.exists():
            self.add_error("name", "There is a class of that name in that term already. Choose another name.")
        return cleaned
