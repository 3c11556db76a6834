"""Documents of strangers, TOML and JSON, parsed within bounded time and memory.

The parsers of the standard library take time and memory that grow faster than a document: with the
depth of brackets, the length of dotted keys and that of numbers. These are counted before anything
is parsed, in one pass over the text.
"""

from __future__ import annotations

import json
import tomllib
from typing import Any

LARGEST = 1_000_000  # characters; the largest rule set that ships has 30,000
DEEPEST = 12  # brackets in one another, and parts of a dotted key; a rule set needs 3
DIGITS = 40  # of one number; a double has 17


class HostileDocument(ValueError):
    """A document that is not parsed, since it goes beyond a limit; the message names it."""


def read_toml(text: str) -> dict:
    """The tables of a TOML document. Raises HostileDocument, and tomllib.TOMLDecodeError (both
    ValueError).

    >>> read_toml('weight = 8')
    {'weight': 8}
    """
    _within_limits(text, toml=True)
    return tomllib.loads(text)


def read_json(text: str) -> Any:
    """The value of a JSON document. Raises HostileDocument, and json.JSONDecodeError (both
    ValueError).

    >>> read_json('{"weight": 8}')
    {'weight': 8}
    """
    _within_limits(text, toml=False)
    return json.loads(text)


def _within_limits(text: str, toml: bool) -> None:
    """Raise HostileDocument where a document is too large, too deep, or holds too long a number."""
    if len(text) > LARGEST:
        raise HostileDocument(f"It has more than {LARGEST:,} characters.")
    depth = digits = parts = 0
    at, end = 0, len(text)
    while at < end:
        sign = text[at]
        if sign == '"' or (toml and sign == "'"):
            at, digits = _after_string(text, at, toml), 0
            continue
        if toml and sign == "#":
            at = text.find("\n", at)
            if at < 0:
                return
            continue
        depth += (sign in "[{") - (sign in "]}")
        digits = digits + 1 if sign.isdigit() or (sign == "_" and digits) else 0
        parts = parts + 1 if sign == "." else 0 if sign in "\n=,[]{}" else parts
        if depth > DEEPEST or (toml and parts > DEEPEST):
            raise HostileDocument(
                f"It is nested more than {DEEPEST} deep in line {text.count(chr(10), 0, at) + 1}."
            )
        if digits > DIGITS:
            raise HostileDocument(
                f"A number in line {text.count(chr(10), 0, at) + 1} has more than {DIGITS} digits."
            )
        at += 1


def _after_string(text: str, at: int, toml: bool) -> int:
    """Where a string that begins at `at` is over; a string that nobody closes ends with its line,
    or with the text.
    """
    mark = text[at]
    long = toml and text.startswith(mark * 3, at)
    close = mark * 3 if long else mark
    at += len(close)
    while at < len(text):
        if text[at] == "\\" and mark == '"':
            at += 2
        elif text.startswith(close, at):
            at += len(close)
            # Up to two marks may stand before the three that close a long string (TOML 1.0,
            # "String").
            while long and text.startswith(mark, at):
                at += 1
            return at
        elif text[at] == "\n" and not long:
            return at
        else:
            at += 1
    return len(text)
