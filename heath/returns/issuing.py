"""Issuing and withdrawing return sheets."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from heath.assessment.models import Piece
from heath.assessment.reading import Reading, read
from heath.returns.models import ReturnSheet
from heath.returns.sheet import sheet_of
from heath.web.lengths import unit_of
from juniper.lengths import shown_in


class NotToReturn(ValueError):
    """A sheet that is not to be issued yet; the message says why and what to do."""


class NamesHidden(NotToReturn):
    """Sheets carry names: they are issued once the marks are locked."""


class ChangedMeanwhile(NotToReturn):
    """Somebody changed the piece while its sheet was being made."""


class SafetyOpen(NotToReturn):
    """Whether the piece can hurt somebody is not answered."""


def issue_sheet(piece: Piece, user) -> ReturnSheet:
    """Make the sheet of a marked piece, in a new version, its lengths in the school's unit; one
    that is unchanged is kept. Raises NotToReturn.
    """
    with shown_in(unit_of(piece.brief.course.school)):
        return _issued(piece, user)


def _issued(piece: Piece, user) -> ReturnSheet:
    if piece.brief.hides_names:
        raise NamesHidden(
            "Names are hidden until the marks of this brief are locked. Lock them"
            " here first, then return the sheets."
        )
    piece = Piece.objects.select_related("brief__course", "student").get(pk=piece.pk)
    reading = read(piece) if _is_due(piece) else None
    if reading and reading.verdict.to_answer:
        raise SafetyOpen(
            f"{piece.shown_name}: answer “{reading.verdict.to_answer[0]}” on the bench first, then"
            " return the piece."
        )
    with transaction.atomic():
        now = Piece.objects.select_for_update().get(pk=piece.pk)
        if now.revision != piece.revision:
            raise ChangedMeanwhile(
                f"{piece.shown_name} was changed at the same moment. Check it on the bench, then"
                " return it."
            )
        latest = _latest(now)
        if latest is None or _is_due(now):
            reading = reading or read(piece)
            latest = _next(piece, reading, latest, user)
        now.state = Piece.State.RETURNED
        now.save(update_fields=["state"])
    return latest


def _latest(piece: Piece) -> ReturnSheet | None:
    return piece.sheets.order_by("-version").first()


def _is_due(piece: Piece) -> bool:
    """Whether a further sheet is to be made: the one there is withdrawn, or the mark was given
    anew.
    """
    latest = _latest(piece)
    return piece.state == Piece.State.MARKED or latest is None or latest.withdrawn_at is not None


def _next(piece: Piece, reading: Reading, latest: ReturnSheet | None, user) -> ReturnSheet:
    """A sheet in the next version. One that stands is followed at its address; a withdrawn one's
    address never lives again.
    """
    kept: dict[str, Any] = {}
    if latest is not None and latest.withdrawn_at is None:
        kept = {"key": latest.key, "ends_at": latest.ends_at}
    return ReturnSheet.objects.create(
        **kept,
        piece=piece,
        version=latest.version + 1 if latest else 1,
        figures=sheet_of(piece, reading).as_json(),
        issued_by=user,
    )


def withdraw_sheet(sheet: ReturnSheet, user) -> None:
    """Take a sheet back: its link shows it no more, and the piece is marked, not returned."""
    with transaction.atomic():
        sheet.withdrawn_at, sheet.withdrawn_by = timezone.now(), user
        sheet.save(update_fields=["withdrawn_at", "withdrawn_by"])
        if sheet.piece.state == Piece.State.RETURNED:
            sheet.piece.state = Piece.State.MARKED
            sheet.piece.save(update_fields=["state"])
