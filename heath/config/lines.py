"""How long a database or storage on another machine may say nothing before a request to it is given
up. A machine that is gone, or whose line is cut, does not even refuse: without this every thread
would wait for it for a quarter of an hour (RFC 9293, 3.8.3; RFC 5482).
"""

from __future__ import annotations

import os
from typing import Any

REACHED_SECONDS = 5  # for a connection to be made
SILENT_SECONDS = 15  # for what was sent to be received
READ_SECONDS = 20  # for storage to answer
TRIES = 2  # of a request to storage
LETTER_SECONDS = 20  # for a mail server to answer
ALIVE = {"keepalives_idle": 5, "keepalives_interval": 5, "keepalives_count": 2}  # s, s, times


def database_line() -> dict[str, Any]:
    """Options of a connection to PostgreSQL (libpq, 34.1.2). The database likewise gives up the
    connection of a machine that is gone, and with it the rows which that held (PostgreSQL, 20.3.2).
    What PGOPTIONS asks for holds as well.
    """
    silent = 1000 * SILENT_SECONDS
    theirs = " ".join(f"-c tcp_{name}={value}" for name, value in ALIVE.items())
    asked = f"{os.environ.get('PGOPTIONS', '')} {theirs} -c tcp_user_timeout={silent}"
    return {
        "connect_timeout": REACHED_SECONDS,
        "tcp_user_timeout": silent,
        "options": asked.strip(),
        **ALIVE,
    }


def storage_line() -> Any:
    """Configuration of a client of S3's protocol."""
    from botocore.config import Config

    return Config(
        connect_timeout=REACHED_SECONDS,
        read_timeout=READ_SECONDS,
        retries={"total_max_attempts": TRIES, "mode": "standard"},
    )
