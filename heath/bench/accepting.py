"""Accepting a piece's marks as they stand."""

import secrets

from django.db import transaction

from heath.assessment.corrected import vessels_of
from heath.assessment.mark_lines import keep_lines
from heath.assessment.models import Correction, Mark, MarkChange, Photograph, Piece, places_of
from heath.assessment.reading import Reading, read, view_in_force
from heath.assessment.snapshot import keep_snapshot
from heath.bench.changing import in_force
from juniper import VERSION
from juniper.cli import verdict_document
from juniper.lengths import CENTIMETRES, shown_in

LOOK_FIRST = (
    "Check the handles first: correct them, or say that they are right (S). Then the mark"
    " can be accepted."
)
CHANGED_MEANWHILE = (
    "Somebody changed this piece at the same moment. Check what changed, then accept it again."
)
SAME = 0.5  # of 100: a mark that differs by less is the same on every sheet


def _tenth(score: float | None) -> float | None:
    return None if score is None else round(score, 1)


def reasons(piece: Piece, since) -> str:
    """Why a mark is another than it was `since` (None: ever): the instructor's words, and what was
    put right on the picture.
    """
    new = {} if since is None else {"made_at__gt": since}
    said = [o.reason for o in piece.overrides.filter(taken_back=False, **new)] + [
        c.reason for c in piece.caps.filter(taken_back=False, **new)
    ]
    mended = sum(not c.confirms for c in piece.photograph.corrections.filter(undone=False, **new))
    if mended:
        said.append(f"{mended} correction{'s' * (mended != 1)} of what was seen")
    return "; ".join(said)


Places = dict[str, tuple[float, float]]


def confirmed_places(photograph: Photograph) -> Places:
    """Where the handles of a photograph stand now, by name, the focal point with them."""
    view = view_in_force(photograph)
    return places_of(view.datum) | ({} if view.focal is None else {"focal": view.focal})


def confirm_handles(photograph: Photograph, user, places: Places | None = None) -> Correction:
    """Say that the handles of a photograph are right where they stand (`places`, worked out when
    None): they count as put by hand, and can be doubted again by undoing it.
    """
    if vessels_of(photograph):
        return Correction.objects.create(
            photograph=photograph,
            gesture=f"confirmed-{secrets.token_hex(8)}",
            kind=Correction.Kind.VESSEL,
            made_by=user,
            what={"kind": "confirm"},
        )
    return Correction.objects.create(
        photograph=photograph,
        gesture=f"confirmed-{secrets.token_hex(8)}",
        kind=Correction.Kind.CONTAINER,
        made_by=user,
        what={"confirmed": True, "places": places or confirmed_places(photograph)},
    )


class NotSure(ValueError):
    """A mark that rests on handles which nobody has looked at, or on a question of safety that
    nobody answered; the message says what to do.
    """


def accept_marks(piece: Piece, user) -> Mark:
    """Keep the piece's mark under the rule-set and core version in force, by whom and when.

    Raises NotSure while its handles are doubtful, whether it can hurt somebody is not answered, or
    somebody changed it at the same moment. The piece is read before its lock is taken.
    """
    with shown_in(CENTIMETRES):  # a record is written in one unit
        reading = read(piece)
    if reading.to_check:
        raise NotSure(LOOK_FIRST)
    if reading.verdict.to_answer:
        asked = " ".join(reading.verdict.to_answer)
        raise NotSure(f"Answer this first: {asked} Then the mark can be accepted.")
    with transaction.atomic():
        now = Piece.objects.select_for_update().get(pk=piece.pk)
        if now.revision != piece.revision:
            raise NotSure(CHANGED_MEANWHILE)
        mark = _kept(piece, reading, user)
        piece.state, piece.reopened = Piece.State.MARKED, False
        piece.save(update_fields=["state", "reopened"])
        keep_snapshot(piece, reading)
    return mark


def _kept(piece: Piece, reading: Reading, user) -> Mark:
    """The mark of a piece as it was read, and its change from the one before."""
    verdict = reading.verdict
    before = Mark.objects.filter(piece=piece).first()
    mark, _ = Mark.objects.update_or_create(
        piece=piece,
        defaults={
            "photograph": reading.photograph,
            "rule_set": verdict.rule_set.slug,
            "rule_set_version": verdict.rule_set.version,
            "core_version": VERSION,
            "score": verdict.score,
            "verdict": verdict_document(verdict)
            | {
                "award": verdict.award,
                "groups": {g.family: _tenth(g.score) for g in verdict.groups},
            },
            "accepted_by": user,
            "in_force": in_force(piece),
        },
    )
    keep_lines(mark)
    old = before.score if before else None
    if old is None or verdict.score is None or abs(old - verdict.score) >= SAME:
        why = reasons(piece, before.accepted_at if before else None)
        MarkChange.objects.create(piece=piece, old=old, new=verdict.score, why=why, made_by=user)
    return mark
