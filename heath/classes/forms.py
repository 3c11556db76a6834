"""Forms for classes."""

from django import forms

from heath.classes.files import roster_text
from heath.classes.models import Course
from heath.classes.roster import Entry, read_roster


class CourseForm(forms.ModelForm):
    """A class by hand, with its students as one name a line, as CSV, or from a file."""

    students = forms.CharField(
        label="Students: one name on each line, or CSV",
        required=False,
        max_length=20000,
        widget=forms.Textarea(attrs={"rows": 6}),
    )
    roster = forms.FileField(
        label="or a file: CSV or a spreadsheet",
        required=False,
        widget=forms.FileInput(attrs={"accept": ".csv,.txt,.xlsx,text/csv,text/plain"}),
    )

    class Meta:
        model = Course
        fields = ("name", "term")
        labels = {"name": "Name of the class", "term": "Term"}

    def __init__(self, *args, school=None, **kwargs):
        super().__init__(*args, **kwargs)
        self.instance.school = school or self.instance.school
        if self.instance.pk:
            self.fields["students"].label = "Add students: one name on each line, or CSV"

    def clean(self):
        """One class of a name in a term; a roster without a fault in any line."""
        cleaned = super().clean()
        twin = Course.objects.filter(
            school=self.instance.school, name=cleaned.get("name"), term=cleaned.get("term", "")
        ).exclude(pk=self.instance.pk)
        if cleaned.get("name") and twin.exists():
            self.add_error(
                "name", "There is a class of that name in that term already. Choose another name."
            )
        cleaned["entries"] = [
            *self._entries("students", cleaned.get("students") or ""),
            *self._entries("roster", self._of_file()),
        ]
        return cleaned

    def _of_file(self) -> str:
        file = self.cleaned_data.get("roster")
        if file is None:
            return ""
        try:
            return roster_text(file)
        except forms.ValidationError as error:
            self.add_error("roster", error)
            return ""

    def _entries(self, field: str, text: str) -> tuple[Entry, ...]:
        found = read_roster(text)
        if not found.faults:
            return found.entries
        self.add_error(
            field,
            [
                "Nobody was added yet. Correct these lines and save again.",
                *(f"Line {n}: {words}." for n, words in found.faults),
            ],
        )
        return ()
