"""Schools and people by command: what a technician needs before anybody can sign in, or when the
last owner is gone.
"""

from __future__ import annotations

from secrets import token_urlsafe

from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from heath.people.models import Membership, Role, School, User


class NotDone(Exception):
    """What cannot be done, with a sentence that says what to do."""


def school_called(name: str) -> School:
    """The school of this name. Raises NotDone with those that there are."""
    school = School.objects.filter(name__iexact=name.strip()).first()
    if school is None:
        there = ", ".join(School.objects.values_list("name", flat=True)) or "none yet"
        raise NotDone(f"There is no school {name}. There is: {there}.")
    return school


def new_school(name: str) -> School:
    """A new school. Raises NotDone where it has no name or there is one of that name."""
    name = name.strip()
    if not name:
        raise NotDone("Give the school a name.")
    if School.objects.filter(name__iexact=name).exists():
        raise NotDone(f"There is a school {name} already.")
    return School.objects.create(name=name)


def new_person(
    school: School, username: str, email: str, role: str, name: str = "", operates: bool = False
) -> User:
    """Somebody new at a school, whose password nobody knows: link_for() sets it. `operates` lets
    them see the page Server. Raises NotDone.
    """
    username = username.strip()
    if not username:
        raise NotDone("Give them a username.")
    if role not in Role.values:
        raise NotDone(f"{role} is no role. Write one of: {', '.join(Role.values)}.")
    try:
        validate_email(email)
    except ValidationError as error:
        raise NotDone(f"{email} is no e-mail address.") from error
    if User.objects.filter(username__iexact=username).exists():
        raise NotDone(f"Somebody signs in as {username} already: choose another.")
    first, _, last = name.strip().partition(" ")
    return User.objects.create_user(
        username,
        email=email,
        password=token_urlsafe(32),
        first_name=first,
        last_name=last,
        school=school,
        role=role,
        is_superuser=operates,
    )


def membership_of(school: School, username: str) -> Membership:
    """What somebody is at a school. Raises NotDone."""
    found = Membership.objects.filter(school=school, user__username__iexact=username).first()
    if found is None:
        raise NotDone(f"Nobody signs in as {username} at {school}.")
    return found


def owners_of(school: School) -> list[Membership]:
    """The owners of a school's account who have access."""
    return list(Membership.objects.filter(school=school, role=Role.OWNER, has_access=True))


def link_for(user: User, address: str) -> str:
    """An address by which somebody sets their password, once, within three days."""
    path = reverse(
        "password_reset_confirm",
        kwargs={
            "uidb64": urlsafe_base64_encode(force_bytes(user.pk)),
            "token": default_token_generator.make_token(user),
        },
    )
    return f"{address.rstrip('/')}{path}"
