"""The student's own address of their sheet: without an account, good for one piece, until it ends
or is withdrawn.
"""

from django.utils import timezone

from heath.returns.models import ReturnSheet


def sheet_at(key: str) -> ReturnSheet | None:
    """The newest sheet of an address, withdrawn or ended or not; None when there is no such
    address.
    """
    found = (
        ReturnSheet.objects.filter(key=key)
        .select_related("piece__brief__course")
        .order_by("version")
    )
    return found.last()


def in_force(sheet: ReturnSheet) -> bool:
    """Whether a sheet may be shown at its address now."""
    if sheet.piece.brief.is_deleted:
        return False
    return sheet.withdrawn_at is None and (sheet.ends_at is None or timezone.now() < sheet.ends_at)
