"""Schools and the people who teach at them."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class School(models.Model):
    """A floral design school; every record belongs to one."""

    name = models.CharField(max_length=120, unique=True)

    def __str__(self):
        return self.name


class User(AbstractUser):
    """Somebody who signs in: an instructor or an assistant marker of one school."""

    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="people", null=True)
    inches = models.BooleanField(default=False)

    @property
    def shown_name(self):
        """Full name, else the sign-in name."""
        return self.get_full_name() or self.username
