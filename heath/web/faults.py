"""What a fault says of the machines that the site runs on."""

import errno

from django.db import InterfaceError, OperationalError


def database_unreachable(error: BaseException | None) -> bool:
    """Whether a fault says that the database cannot be reached, or ended the connection (SQLSTATE
    classes 08 and 57P; none where no answer came).
    """
    if not isinstance(error, OperationalError | InterfaceError):
        return False
    state = getattr(error.__cause__, "sqlstate", None) or ""
    return not state or state.startswith(("08", "57P"))


def full(error: BaseException) -> bool:
    """Whether a fault says that the disk is full, of the site or of its database (SQLSTATE
    53100).
    """
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    return (
        isinstance(error, OperationalError) and getattr(error.__cause__, "sqlstate", "") == "53100"
    )
