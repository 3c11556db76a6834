"""Names, numbers and addresses taken over from a school's own list."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django import forms
from django.db import transaction

from heath.classes.files import roster_text
from heath.classes.models import Course, Student
from heath.classes.naming import sorting_key
from heath.classes.roster import Entry, read_roster


class SchoolListForm(forms.Form):
    """The school's list as a file: CSV or a spreadsheet."""

    file = forms.FileField(
        label="The school's list: CSV or a spreadsheet with the columns name, e-mail and number",
        widget=forms.FileInput(attrs={"accept": ".csv,.txt,.xlsx"}),
        error_messages={"required": "Choose a file first."},
    )

    def clean(self):
        """A list without a fault in any line, and with something to know students by."""
        cleaned = super().clean()
        file = cleaned.get("file")
        if file is None:
            return cleaned
        found = read_roster(roster_text(file))
        if found.faults:
            raise forms.ValidationError(
                [
                    "Nothing was changed yet. Correct these lines, and choose the file again.",
                    *(f"Line {n}: {words}." for n, words in found.faults),
                ]
            )
        if not any(e.number or e.email for e in found.entries):
            raise forms.ValidationError(
                "The list has neither numbers nor e-mail addresses. Name the columns in its first"
                " line: name, e-mail, number."
            )
        cleaned["entries"] = found.entries
        return cleaned


@dataclass(frozen=True)
class TakenOver:
    """What came of a list: how many students changed, how many were as they are, the names that
    the class does not have, and what is wrong, in sentences (then nothing was changed).
    """

    changed: int
    same: int
    unknown: tuple[str, ...]
    faults: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """What came of it, in a sentence or two."""
        parts = [f"{self.changed} changed, {self.same} were so already."]
        if self.unknown:
            shown = ", ".join(self.unknown[:6]) + (" and others" if len(self.unknown) > 6 else "")
            parts.append(
                f"Not in this class: {shown}. Add them on the page of the class if they belong to"
                " it."
            )
        return " ".join(parts)


def take_over(course: Course, entries: Sequence[Entry]) -> TakenOver:
    """Give the students of a class the names, numbers and addresses of a list, all or none.

    A student is known by the number, else by the e-mail address, else by the name.
    """
    students = list(course.students.all())
    by_number = {s.number: s for s in students if s.number}
    by_email = {s.email.casefold(): s for s in students if s.email}
    by_name = {s.name.casefold(): s for s in students}
    changes: dict[int, tuple[Student, Entry]] = {}
    unknown, faults = [], []
    for entry in entries:
        one = (
            by_number.get(entry.number)
            or by_email.get(entry.email.casefold())
            or by_name.get(entry.name.casefold())
        )
        if one is None:
            unknown.append(entry.name)
        elif one.pk in changes:
            faults.append(
                f"{entry.name} and {changes[one.pk][1].name} are one student here ({one.name})."
                " Correct the numbers and addresses, and choose the file again."
            )
        else:
            changes[one.pk] = (one, entry)
    faults += _twins(students, changes)
    if faults:
        return TakenOver(0, 0, (), tuple(faults))
    different = [_changed(*pair) for pair in changes.values()]
    with transaction.atomic():
        # Two students may swap names: nobody keeps theirs while the others are written.
        for one in filter(None, different):
            Student.objects.filter(pk=one.pk).update(name=f"~{one.pk}")
        for one in filter(None, different):
            one.save()
    count = sum(one is not None for one in different)
    return TakenOver(count, len(different) - count, tuple(unknown))


def _twins(students: Sequence[Student], changes: dict[int, tuple[Student, Entry]]) -> list[str]:
    """Sentences on names, numbers or addresses that two students would share."""
    out = []
    for field, what in (("name", "name"), ("number", "number"), ("email", "e-mail address")):
        seen: dict[str, str] = {}
        for one in students:
            entry = changes[one.pk][1] if one.pk in changes else None
            value = (getattr(entry, field) if entry else "") or getattr(one, field)
            if value and value.casefold() in seen:
                other = seen[value.casefold()]
                out.append(
                    f"{one.name} and {other} would have the same {what}, {value}. Nothing was"
                    " changed."
                )
            seen[value.casefold()] = one.name
    return out


def _changed(one: Student, entry: Entry) -> Student | None:
    """The student with what the list says, or None where that is nothing new."""
    before = (one.name, one.number, one.email)
    one.name = entry.name
    one.number = entry.number or one.number
    one.email = entry.email or one.email
    if entry.family:
        one.sorting = sorting_key(entry.name, entry.family)
    return one if (one.name, one.number, one.email) != before else None
