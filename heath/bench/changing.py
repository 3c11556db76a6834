"""What every change to a piece goes through: whether it may be made, and who made it."""

from datetime import timedelta

from django.utils import timezone

from heath.bench.models import Presence
from heath.intake.models import Piece
from heath.interface.plain import whole

HERE = 45  # seconds after which somebody who says nothing has left the bench


def touch(piece: Piece, user) -> None:
    """Count a change by a person; a marked piece is taken back to the bench by it, and the sheet already given out stays."""
    piece.revision += 1
    piece.changed_by, piece.changed_at = user, timezone.now()
    if piece.state in (Piece.State.MARKED, Piece.State.RETURNED):
        piece.state = Piece.State.MARKING
    piece.save(update_fields=["state", "revision", "changed_by", "changed_at"])


def hindered(piece: Piece, user, seen: str) -> str:
    """Why a change may not be made, in words; '' if it may. `seen` is the revision that the person had before them."""
    if piece.brief.locked_at:
        return "The marks of this brief are locked. Unlock them on the brief's page first."
    if whole(seen) is not None and whole(seen) < piece.revision and piece.changed_by_id not in (None, user.pk):
        when = timezone.localtime(piece.changed_at).strftime("%H:%M")
        return f"{piece.changed_by.shown_name} changed this piece at {when} while you had it open. You see it now as it stands: look, and do it again."
    return ""


def company(piece: Piece, user) -> list:
    """Say that a person has a piece on the bench; who else has."""
    now = timezone.now()
    Presence.objects.update_or_create(piece=piece, user=user, defaults={"seen_at": now})
    others = piece.presences.exclude(user=user).filter(seen_at__gt=now - timedelta(seconds=HERE))
    return [p.user for p in others.select_related("user")]


def remember(user, words: str) -> None:
    """Keep a phrase of a marker's own for the next time."""
    phrase, made = user.phrases.get_or_create(words=words, defaults={"used_at": timezone.now()})
    if not made:
        phrase.used += 1
        phrase.used_at = timezone.now()
        phrase.save(update_fields=["used", "used_at"])


def last_done(*done):
    """The latest of what was done to a piece and stands, or None: of lists of corrections, words, caps and remarks."""
    standing = (
        one for each in done for one in each if not getattr(one, "undone", False) and not getattr(one, "taken_back", False)
    )
    return max(standing, key=lambda one: one.made_at, default=None)


LAST = {"Correction": "correction", "Override": "word", "Cap": "cap", "Remark": "remark"}


def last_words(one) -> str:
    """What the latest thing done is called; '' for None."""
    if one is None:
        return ""
    return "move" if getattr(one, "kind", "") == "handle" else LAST[type(one).__name__]
