"""Which school somebody works in, and what they are there."""

from __future__ import annotations

from django.db import transaction

from heath.people.models import Membership, Role, School, User


def members(school: School):
    """The memberships of a school, those with access first."""
    return (
        Membership.objects.filter(school=school)
        .select_related("user")
        .order_by("-has_access", "user__last_name", "user__username")
    )


@transaction.atomic
def work_in(user: User, membership: Membership) -> None:
    """Have somebody work in one of their schools from now on."""
    user.school_id, user.role = membership.school_id, membership.role
    user.save(update_fields=["school", "role"])


@transaction.atomic
def set_role(membership: Membership, role: Role | str) -> None:
    """Change what somebody is at a school."""
    membership.role = role
    membership.save(update_fields=["role"])
    User.objects.filter(pk=membership.user_id, school=membership.school_id).update(role=role)


@transaction.atomic
def end_access(membership: Membership) -> None:
    """Keep somebody out of a school. They work in another of theirs, or nowhere."""
    membership.has_access = False
    membership.save(update_fields=["has_access"])
    user = User.objects.select_for_update().get(pk=membership.user_id)
    if user.school_id != membership.school_id:
        return
    other = user.memberships.filter(has_access=True).first()
    if other is not None:
        work_in(user, other)
    else:
        User.objects.filter(pk=user.pk).update(is_active=False)


@transaction.atomic
def give_access(membership: Membership) -> None:
    """Let somebody into a school again."""
    membership.has_access = True
    membership.save(update_fields=["has_access"])
    User.objects.filter(pk=membership.user_id, is_active=False).update(
        is_active=True, school=membership.school_id, role=membership.role
    )


def invited(school: School, email: str, role: str) -> Membership | None:
    """A person who has an account by this address already, taken into a school; None where nobody
    has one, or they belong to it already.
    """
    user = User.objects.filter(email__iexact=email, is_active=True).first() if email else None
    if user is None or user.memberships.filter(school=school).exists():
        return None
    return Membership.objects.create(user=user, school=school, role=role)
