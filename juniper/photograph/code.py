"""The code on a piece's reference card: eight letters a person can copy, and a check that catches
misreadings.
"""

from __future__ import annotations

import hashlib
import secrets

# no I, L, O, U, which are taken for others (Crockford's base 32)
LETTERS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
LENGTH, CHECKS, PREFIX = 8, 4, "JH"
_MEANT = str.maketrans("ILO", "110")


def new_code() -> str:
    """A code nobody can guess: 40 random bits."""
    return "".join(secrets.choice(LETTERS) for _ in range(LENGTH))


def _check(code: str) -> str:
    value = int.from_bytes(hashlib.sha256(f"card {code}".encode()).digest()[:4])
    return "".join(LETTERS[(value >> (5 * i)) & 31] for i in range(CHECKS))


def payload(code: str) -> str:
    """What the card's QR symbol holds: prefix, code and 20 bits of check."""
    return f"{PREFIX}{code}{_check(code)}"


def code_of(text: str) -> str | None:
    """The code in a QR symbol's text, or None when it is none of ours or was misread."""
    body = text[len(PREFIX) :]
    if (
        not text.startswith(PREFIX)
        or len(body) != LENGTH + CHECKS
        or any(c not in LETTERS for c in body)
    ):
        return None
    code = body[:LENGTH]
    return code if body[LENGTH:] == _check(code) else None


def typed_code(text: str) -> str | None:
    """The code a person typed, however they wrote it, or None when it has not eight letters."""
    code = "".join(c for c in text.upper().translate(_MEANT) if c.isalnum())
    return code if len(code) == LENGTH and all(c in LETTERS for c in code) else None


def shown(code: str) -> str:
    """The code as printed, in two groups of four."""
    return f"{code[:4]} {code[4:]}"
