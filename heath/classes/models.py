"""Classes and the students in them."""

from django.db import models
from django.urls import reverse

from heath.classes.naming import sorting_key
from heath.people.keeping import Kept


class Course(Kept):
    """A class that meets for a term."""

    school = models.ForeignKey("people.School", on_delete=models.PROTECT, related_name="courses")
    name = models.CharField(max_length=120)
    term = models.CharField(max_length=60, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)
        constraints = [
            models.UniqueConstraint(fields=("school", "name", "term"), name="one_course_of_a_name")
        ]

    def __str__(self):
        return self.name

    def get_absolute_url(self):
        """Its page."""
        return reverse("course", args=[self.pk])


class Students(models.Manager):
    """Students; several made at once are sorted as one made by itself."""

    def bulk_create(self, objs, *args, **kwargs):
        """As Django does, with what a name is sorted by where it is not given."""
        objs = list(objs)
        for student in objs:
            student.sorting = student.sorting or sorting_key(student.name)
        return super().bulk_create(objs, *args, **kwargs)


class Student(models.Model):
    """Somebody who makes pieces in a class; sorted by family name. Links are mailed to `email`.

    Somebody who was removed (`removed_at`) gets no new piece; what they made stays.
    """

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="students")
    name = models.CharField(max_length=120)
    sorting = models.CharField(max_length=160, editable=False, default="")
    email = models.EmailField(blank=True)
    removed_at = models.DateTimeField(null=True, editable=False)

    objects = Students()

    class Meta:
        ordering = ("sorting", "name")
        constraints = [
            models.UniqueConstraint(fields=("course", "name"), name="one_student_of_a_name")
        ]

    def __str__(self):
        return self.name

    def save(self, *args, **kwargs):
        """Keep what the name is sorted by with it; a list's own word on the family name stays."""
        usual = sorting_key(self.name)
        if sorted(self.sorting.split()) != sorted(usual.split()):
            self.sorting = usual
        super().save(*args, **kwargs)
