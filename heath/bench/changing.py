"""What every change to a piece goes through: whether it may be made, and who made it."""

from datetime import timedelta

from django.utils import timezone

from heath.assessment.models import Correction, Piece
from heath.assessment.snapshot import keep_later
from heath.bench.models import Presence
from heath.web.plain import whole

HERE = 45  # seconds after which somebody who says nothing has left the bench


def record_change(piece: Piece, user) -> None:
    """Count a change by a person. Once everything that was changed on a reopened piece is undone,
    its mark stands as it was given.
    """
    piece.revision += 1
    piece.changed_by, piece.changed_at = user, timezone.now()
    if piece.reopened and piece.given and piece.given.in_force == in_force(piece):
        piece.reopened = False
    piece.save(update_fields=["reopened", "revision", "changed_by", "changed_at"])
    keep_later(piece.pk)


def in_force(piece: Piece) -> dict:
    """What people have done to a piece and stands, by number: corrections of all its photographs,
    words, caps and remarks; answers, and its principle.
    """
    return {
        "corrections": _numbers(Correction.objects.filter(photograph__piece=piece, undone=False)),
        "overrides": _numbers(piece.overrides.filter(taken_back=False)),
        "caps": _numbers(piece.caps.filter(taken_back=False)),
        "remarks": _numbers(piece.remarks.filter(taken_back=False)),
        "answers": dict(piece.answers.order_by("rule").values_list("rule", "value")),
        "dominant": piece.dominant,
    }


def _numbers(done) -> list[int]:
    return list(done.order_by("pk").values_list("pk", flat=True))


def put_back(piece: Piece, was: dict, user) -> None:
    """Put everything that people did to a piece back as it was (`in_force`)."""
    every = Correction.objects.filter(photograph__piece=piece)
    every.filter(pk__in=was["corrections"]).update(undone=False)
    every.exclude(pk__in=was["corrections"]).update(undone=True)
    for name in ("overrides", "caps", "remarks"):
        said = getattr(piece, name)
        said.filter(pk__in=was[name]).update(taken_back=False)
        said.exclude(pk__in=was[name]).update(taken_back=True)
    piece.answers.exclude(rule__in=was["answers"]).delete()
    for rule, value in was["answers"].items():
        piece.answers.update_or_create(rule=rule, defaults={"value": value, "made_by": user})
    piece.dominant = was["dominant"]
    piece.save(update_fields=["dominant"])


def obstacle(piece: Piece, user, seen: str) -> str:
    """Why a change may not be made, in words; '' if it may. `seen` is the revision that the person
    had before them.
    """
    if piece.brief.locked_at:
        return "The marks of this brief are locked. Unlock them on its Return page first."
    if piece.is_closed:
        return "The mark of this piece is given. Press “Change this mark” first."
    if (
        whole(seen) is not None
        and whole(seen) < piece.revision
        and piece.changed_by_id not in (None, user.pk)
    ):
        when = timezone.localtime(piece.changed_at).strftime("%H:%M")
        return (
            f"{piece.changed_by.shown_name} changed this piece at {when} while you had it open."
            " Check what changed, then do it again."
        )
    return ""


def others_at_the_bench(piece: Piece, user) -> list:
    """Note that a person has a piece on the bench; who else has."""
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
    """The latest of what was done to a piece and stands, or None: of lists of corrections, words,
    caps and remarks.
    """
    standing = (
        one
        for each in done
        for one in each
        if not getattr(one, "undone", False) and not getattr(one, "taken_back", False)
    )
    return max(standing, key=lambda one: one.made_at, default=None)


LAST = {"Correction": "correction", "Override": "word", "Cap": "cap", "Remark": "remark"}


def last_words(one) -> str:
    """What the latest thing done is called; '' for None."""
    if one is None:
        return ""
    return "move" if getattr(one, "kind", "") == "handle" else LAST[type(one).__name__]
