"""Issuing and withdrawing return sheets."""

from django.db import transaction
from django.utils import timezone

from heath.assessment.models import Piece
from heath.assessment.reading import read
from heath.returns.models import ReturnSheet
from heath.returns.sheet import figures


class NotToReturn(ValueError):
    """A sheet that is not to be issued yet; the message says why and what to do."""


class NamesHidden(NotToReturn):
    """Sheets carry names: they are issued once the marks are locked."""


class SafetyOpen(NotToReturn):
    """Whether the piece can hurt somebody is not answered."""


def issue_sheet(piece: Piece, user) -> ReturnSheet:
    """Make the sheet of a marked piece, in a new version; one that stands unchanged is kept. Raises
    NotToReturn.
    """
    if piece.brief.hides_names:
        raise NamesHidden(
            "Names are hidden until the marks of this brief are locked. Lock them on the brief's"
            " page, then return the sheets."
        )
    with transaction.atomic():
        piece = (
            Piece.objects.select_for_update(of=("self",))
            .select_related("brief__course", "student")
            .get(pk=piece.pk)
        )
        latest = piece.sheets.order_by("-version").first()
        if piece.state == Piece.State.MARKED or latest is None or latest.withdrawn_at:
            # A sheet that stands is followed at its address; a withdrawn one's address never lives
            # again.
            kept = (
                {"key": latest.key, "ends_at": latest.ends_at}
                if latest and not latest.withdrawn_at
                else {}
            )
            reading = read(piece)
            if reading.verdict.to_answer:
                raise SafetyOpen(
                    f"{piece.shown_name}: answer “{reading.verdict.to_answer[0]}” on the bench"
                    " first, then return the piece."
                )
            latest = ReturnSheet.objects.create(
                **kept,
                piece=piece,
                version=latest.version + 1 if latest else 1,
                figures=figures(piece, reading),
                issued_by=user,
            )
        piece.state = Piece.State.RETURNED
        piece.save(update_fields=["state"])
    return latest


def withdraw_sheet(sheet: ReturnSheet, user) -> None:
    """Take a sheet back: its link shows it no more, and the piece is marked, not returned."""
    with transaction.atomic():
        sheet.withdrawn_at, sheet.withdrawn_by = timezone.now(), user
        sheet.save(update_fields=["withdrawn_at", "withdrawn_by"])
        if sheet.piece.state == Piece.State.RETURNED:
            sheet.piece.state = Piece.State.MARKED
            sheet.piece.save(update_fields=["state"])
