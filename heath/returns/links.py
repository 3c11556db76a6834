"""The student's own link to their sheet: signed, without an account, good for one piece."""

from django.core import signing

from heath.returns.models import ReturnSheet

SALT = "return-sheet"


def token(piece_id: int) -> str:
    """What the address of a piece's sheet ends in."""
    return signing.Signer(salt=SALT).sign(piece_id)


def piece_of(text: str) -> int | None:
    """Number of the piece that a token stands for; None when it is not ours."""
    try:
        return int(signing.Signer(salt=SALT).unsign(text))
    except (signing.BadSignature, ValueError):
        return None


def sheet_in_force(piece_id: int) -> ReturnSheet | None:
    """The newest sheet of a piece, if that is not withdrawn."""
    newest = ReturnSheet.objects.filter(piece=piece_id).select_related("piece__brief__course").last()
    return newest if newest and newest.withdrawn_at is None else None
