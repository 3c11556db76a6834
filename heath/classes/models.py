"""Classes and the students in them."""

from django.db import models
from django.urls import reverse

from heath.classes.naming import sorting_key
from heath.people.keeping import Kept
from juniper.records import shipped_levels


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


class Level(models.Model):
    """A step of a school's teaching: what is asked of a student at it (`asks`, sentences), and the
    codes of the rules that are shown and not marked yet. Levels are in the order of `place`.
    """

    school = models.ForeignKey("people.School", on_delete=models.CASCADE, related_name="levels")
    name = models.CharField(max_length=40)
    place = models.PositiveSmallIntegerField(default=0)
    asks = models.JSONField(default=list)
    shown = models.JSONField(default=list)

    class Meta:
        ordering = ("place", "pk")
        constraints = [
            models.UniqueConstraint(fields=("school", "name"), name="one_level_of_a_name")
        ]

    def __str__(self):
        return self.name


def levels_of(school) -> list[Level]:
    """A school's levels, the first step first; those that ship, until it has some of its own."""
    levels = list(school.levels.all())
    if levels:
        return levels
    Level.objects.bulk_create(
        [
            Level(school=school, name=s.name, place=n, asks=list(s.asks), shown=sorted(s.shown))
            for n, s in enumerate(shipped_levels(), 1)
        ],
        ignore_conflicts=True,
    )
    return list(school.levels.all())


class Students(models.Manager):
    """Students; several made at once are sorted as one made by itself."""

    def bulk_create(self, objs, *args, **kwargs):
        """As Django does, with what a name is sorted by where it is not given."""
        objs = list(objs)
        for student in objs:
            student.sorting = student.sorting or sorting_key(student.name)
        return super().bulk_create(objs, *args, **kwargs)


class Student(models.Model):
    """Somebody who makes pieces in a class; sorted by family name. Links are mailed to `email`;
    `number` is what the school's own list calls them. Without a `level` every rule is marked.

    Somebody who was removed (`removed_at`) gets no new piece; what they made stays.
    """

    course = models.ForeignKey(Course, on_delete=models.CASCADE, related_name="students")
    name = models.CharField(max_length=120)
    sorting = models.CharField(max_length=160, editable=False, default="")
    email = models.EmailField(blank=True)
    number = models.CharField(max_length=40, blank=True, db_index=True)
    level = models.ForeignKey(
        Level, on_delete=models.SET_NULL, null=True, blank=True, related_name="students"
    )
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

    @property
    def shown_only(self) -> frozenset[str]:
        """Codes of the rules that are shown to this student and not marked yet."""
        return frozenset(self.level.shown) if self.level_id else frozenset()
