"""Schools and the people who teach at them."""

from zoneinfo import ZoneInfo

from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils.crypto import salted_hmac


class School(models.Model):
    """A floral design school; every record belongs to one.

    Seasons are those of the `south` or the north; students' pages and papers tell lengths in
    `inches` or in centimetres; `hides_names` is what a new brief begins with. Photographs and
    records are kept for so many months after their class was archived, or until they are deleted.
    """

    name = models.CharField(max_length=120, unique=True)
    time_zone = models.CharField(max_length=60, blank=True)
    south = models.BooleanField(default=False)
    inches = models.BooleanField(default=False)
    hides_names = models.BooleanField(default=False)
    picture_months = models.PositiveSmallIntegerField(null=True, blank=True)
    record_months = models.PositiveSmallIntegerField(null=True, blank=True)

    def __str__(self):
        return self.name

    @property
    def zone(self) -> ZoneInfo:
        """Its time zone, the site's own where none is set."""
        return ZoneInfo(self.time_zone or settings.TIME_ZONE)


class Surround(models.TextChoices):
    """The neutral grey about a photograph."""

    MID = "mid", "middle grey"
    DARK = "dark", "dark grey"
    LIGHT = "light", "light grey"


class Role(models.TextChoices):
    """What somebody is at a school; each may do what those before may."""

    ASSISTANT = "assistant", "assistant marker"
    INSTRUCTOR = "instructor", "instructor"
    MODERATOR = "moderator", "moderator"
    OWNER = "owner", "owner of the school's account"

    @property
    def rank(self):
        """Its place in the order, the least first."""
        return list(Role).index(self)


class User(AbstractUser):
    """Somebody who signs in. `school` is the one that they work in now, and `role` what they are
    there; all of them are their memberships.
    """

    role = models.CharField(max_length=12, choices=Role, default=Role.ASSISTANT)
    school = models.ForeignKey(School, on_delete=models.PROTECT, related_name="people", null=True)
    inches = models.BooleanField(default=False)
    surround = models.CharField(max_length=8, choices=Surround, default=Surround.MID)
    sign_outs = models.PositiveIntegerField(default=0)

    def get_session_auth_hash(self):
        """What a session is checked by: it changes with the password and with each sign-out from
        everywhere.
        """
        return self._session_hash()

    def get_session_auth_fallback_hash(self):
        """The same by each older key that is still taken: sessions survive a change of key."""
        return (self._session_hash(key) for key in settings.SECRET_KEY_FALLBACKS)

    def _session_hash(self, key=None):
        return salted_hmac(
            "heath.people.session",
            f"{self.password}{self.sign_outs}",
            secret=key,
            algorithm="sha256",
        ).hexdigest()

    def save(self, *args, **kwargs):
        """Keep the membership of the present school in step."""
        super().save(*args, **kwargs)
        changed = kwargs.get("update_fields")
        told = changed is None or bool({"school", "role"} & set(changed))
        if self.school_id is not None and told:
            Membership.objects.update_or_create(
                user=self, school_id=self.school_id, defaults={"role": self.role}
            )

    @property
    def shown_name(self):
        """Full name, else the sign-in name."""
        return self.get_full_name() or self.username

    def is_at_least(self, role):
        """Whether the person's role is this one or above it."""
        return Role(self.role).rank >= Role(role).rank

    @property
    def instructs(self):
        """Whether the person may do what is the instructor's."""
        return self.is_at_least(Role.INSTRUCTOR)

    @property
    def moderates(self):
        """Whether the person may do what is the moderator's."""
        return self.is_at_least(Role.MODERATOR)

    @property
    def owns(self):
        """Whether the person may do what is the owner's."""
        return self.is_at_least(Role.OWNER)


class Membership(models.Model):
    """That somebody belongs to a school, and what they are there; one without access is kept, so
    that what they did keeps its name.
    """

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="memberships")
    school = models.ForeignKey(School, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=12, choices=Role, default=Role.ASSISTANT)
    has_access = models.BooleanField(default=True)

    class Meta:
        ordering = ("pk",)
        constraints = [
            models.UniqueConstraint(fields=("user", "school"), name="one_membership_a_school")
        ]


class Press(models.Model):
    """One press of a button that makes something: the form's key, and where its answer led. Kept
    for a day.
    """

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=40)
    to = models.CharField(max_length=200, blank=True)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=("user", "key"), name="one_press_one_effect")]
