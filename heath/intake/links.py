"""The student's link: secret, ending by itself, withdrawable."""

from datetime import timedelta

import segno
from django.core import signing
from django.utils import timezone

from heath.intake.models import StudentLink

SALT = "student-link"
DAYS = 14


def make_link(brief, user) -> StudentLink:
    """A new link to a brief, open until the brief closes or for a fortnight; earlier ones are
    withdrawn.
    """
    withdraw(brief)
    closes = brief.closes_at or timezone.now() + timedelta(days=DAYS)
    return StudentLink.objects.create(brief=brief, closes_at=closes, made_by=user)


def withdraw(brief) -> int:
    """Withdraw all links to a brief; how many were open."""
    return brief.links.filter(withdrawn_at=None).update(withdrawn_at=timezone.now())


def link_in_force(brief) -> StudentLink | None:
    """The link that is open now, or None."""
    newest = brief.links.first()
    return newest if newest and newest.open else None


def token(link: StudentLink) -> str:
    """What the link's address ends in."""
    return link.secret


def link_of(text: str) -> StudentLink | None:
    """The link a token stands for, open or not; None when the token is not ours."""
    links = StudentLink.objects.select_related("brief__course__school")
    found = links.filter(secret=text).first()
    if found is not None:
        return found
    try:
        # Printed by a release that signed its links, while this one ran beside it.
        return links.filter(pk=signing.Signer(salt=SALT).unsign(text)).first()
    except signing.BadSignature:
        return None


def as_symbol(address: str) -> bytes:
    """An address as a QR symbol, SVG (ISO/IEC 18004)."""
    from io import BytesIO

    out = BytesIO()
    segno.make(address, error="m").save(out, kind="svg", scale=4, border=2, xmldecl=False)
    return out.getvalue()
