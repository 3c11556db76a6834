"""Changing one student of a class: name, address, class; removing them and taking them back."""

from __future__ import annotations

from django import forms
from django.db import transaction
from django.utils import timezone

from heath.assessment.models import Piece
from heath.classes.models import Course, Student
from heath.classes.roster import LONGEST


class StudentForm(forms.ModelForm):
    """Name and e-mail address of one student."""

    class Meta:
        model = Student
        fields = ("name", "email")
        labels = {"name": "Name", "email": "E-mail address"}
        error_messages = {
            "email": {"invalid": "Write the address like name@example.org, or leave it empty."}
        }

    def clean_name(self):
        """One of a name in a class, with a letter in it."""
        name = " ".join(self.cleaned_data["name"].split())
        if not any(c.isalpha() for c in name) or len(name) > LONGEST:
            raise forms.ValidationError("Write a name of letters, 120 of them at most.")
        others = Student.objects.filter(course=self.instance.course, name=name)
        if others.exclude(pk=self.instance.pk).exists():
            raise forms.ValidationError(
                f"{name} is in this class already. Tell the two apart, such as by an initial."
            )
        return name


class NotMoved(ValueError):
    """A student who cannot be moved; the message says why and what to do."""


def _drop_empty(student: Student) -> None:
    """Remove the places of a student that hold nothing yet: no photograph, and none on its way."""
    student.pieces.filter(
        state=Piece.State.WAITING, photographs__isnull=True, arrivals__isnull=True
    ).delete()


def remove(student: Student) -> None:
    """Take a student out of the class: their empty places go, what they made stays."""
    with transaction.atomic():
        student.removed_at = timezone.now()
        student.save(update_fields=["removed_at"])
        _drop_empty(student)


def take_back(student: Student) -> None:
    """Take a removed student into the class again, with a place in each of its briefs."""
    with transaction.atomic():
        student.removed_at = None
        student.save(update_fields=["removed_at"])
        give_places(student.course)


def move(student: Student, course: Course) -> None:
    """Move a student to another class of the school: what they made stays with its brief, and they
    get places in the new class's briefs. Raises NotMoved.
    """
    if course.students.filter(name=student.name).exists():
        raise NotMoved(
            f"{course.name} has a student called {student.name} already. Change one of the names,"
            " then move."
        )
    with transaction.atomic():
        student.course = course
        student.save(update_fields=["course"])
        _drop_empty(student)
        give_places(course)


def give_places(course: Course) -> None:
    """See that every student of a class has a place in each of its briefs that is still open."""
    for brief in course.briefs.filter(deleted_at=None, archived_at=None, locked_at=None):
        brief.give_pieces()
