"""Classes and the students in them."""

from django.db import models


class Course(models.Model):
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


class Student(models.Model):
    """Somebody who makes pieces in a class."""

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="students")
    name = models.CharField(max_length=120)

    class Meta:
        ordering = ("name",)
        constraints = [
            models.UniqueConstraint(fields=("course", "name"), name="one_student_of_a_name")
        ]

    def __str__(self):
        return self.name
