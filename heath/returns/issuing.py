"""Issuing a return sheet."""

from django.db import transaction

from heath.bench.reading import read
from heath.intake.models import Piece
from heath.returns.models import ReturnSheet
from heath.returns.sheet import figures


def issue_sheet(piece: Piece, user) -> None:
    """Make the sheet of a marked piece, in a new version; one that stands unchanged is kept."""
    with transaction.atomic():
        Piece.objects.select_for_update().get(pk=piece.pk)
        latest = piece.sheets.order_by("-version").first()
        if piece.state == Piece.State.MARKED or latest is None:
            ReturnSheet.objects.create(
                piece=piece,
                version=latest.version + 1 if latest else 1,
                figures=figures(piece, read(piece)),
                issued_by=user,
            )
        piece.state = Piece.State.RETURNED
        piece.save(update_fields=["state"])
