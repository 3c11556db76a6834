"""A class's students from what was pasted or a CSV file: all of them, or, with faults named by
line, none.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field

from django.core.exceptions import ValidationError
from django.core.validators import validate_email

MOST_STUDENTS = 60
LONGEST = 120
SEPARATORS = ",;\t"
WHOLE = ("name", "student", "full name")
FIRST, LAST = (
    ("first name", "first", "forename", "given name"),
    ("last name", "last", "surname", "family name"),
)
NUMBER = ("number", "student number", "id", "student id", "identifier")
MOST_LETTERS = 40  # of a number
EMAIL = ("e-mail", "email", "mail", "e-mail address", "email address", "address")


@dataclass(frozen=True)
class Entry:
    """One student of a list: full name, the family name where the list gives it apart, the e-mail
    address and the school's number, each '' where it gives none.
    """

    name: str
    family: str = ""
    email: str = ""
    number: str = ""


@dataclass(frozen=True)
class Roster:
    """Students in order, and what is wrong with which line (from 1): with any fault nothing is to
    be taken in.
    """

    entries: tuple[Entry, ...]
    faults: tuple[tuple[int, str], ...]

    @property
    def names(self) -> tuple[str, ...]:
        """Their names alone."""
        return tuple(e.name for e in self.entries)


@dataclass(frozen=True)
class _Columns:
    """Which columns make a name, which holds the family name, the address, the number."""

    name: list[int] = field(default_factory=list)
    family: int | None = None
    email: int | None = None
    number: int | None = None


def read_roster(text: str) -> Roster:
    """Read names, one a line, or a CSV whose head names a column for them ("name", or "first name"
    and "last name"), and may name one for e-mail addresses and one for the school's numbers.
    """
    lines = text.lstrip("\ufeff").splitlines()
    separator = max(SEPARATORS, key=(lines[0] if lines else "").count)
    head = [c.strip().strip('"').lower() for c in lines[0].split(separator)] if lines else []
    columns = _columns(head)
    entries: list[Entry] = []
    faults: list[tuple[int, str]] = []
    seen: dict[str, int] = {}
    known: dict[tuple[str, str], int] = {}  # lines of addresses and numbers
    for number, line in enumerate(lines, 1):
        if not line.strip() or (columns.name and number == 1):
            continue
        one = _entry(line, separator, columns)
        name = one.name
        fault = _fault(one, seen.get(name.casefold()), bool(columns.name), line, separator)
        fault = fault or _twin(one, known)
        if fault:
            faults.append((number, fault))
        else:
            seen[name.casefold()] = number
            known |= dict.fromkeys(_known_by(one), number)
            entries.append(one)
    if len(entries) > MOST_STUDENTS:
        many = f"it makes {len(entries)} names, and {MOST_STUDENTS} at a time is the most"
        faults.append((len(lines), many))
    return Roster(tuple(entries), tuple(faults))


def _columns(head: list[str]) -> _Columns:
    """What the columns of a list are for; none makes a name in a list without a head."""

    def first(words: tuple[str, ...]) -> int | None:
        return next((i for i, c in enumerate(head) if c in words), None)

    whole, given, family = first(WHOLE), first(FIRST), first(LAST)
    name = [whole] if whole is not None else [i for i in (given, family) if i is not None]
    if not name:
        return _Columns()
    return _Columns(name, family, first(EMAIL), first(NUMBER))


def _entry(line: str, separator: str, columns: _Columns) -> Entry:
    """What one line says of a student."""
    if not columns.name:
        return Entry(" ".join(line.split()))
    cells = next(csv.reader(io.StringIO(line), delimiter=separator), [])

    def cell(at: int | None) -> str:
        return " ".join(cells[at].split()) if at is not None and at < len(cells) else ""

    name = " ".join(filter(None, map(cell, columns.name)))
    return Entry(name, cell(columns.family), cell(columns.email), cell(columns.number))


def _fault(one: Entry, before: int | None, by_column: bool, line: str, separator: str) -> str:
    name = one.name
    if not name:
        return "it has no name"
    if len(name) > LONGEST:
        return f"too long for a name ({len(name)} letters, {LONGEST} is the most)"
    if not by_column and separator in line:
        return (
            "it has several cells: name the columns in a first line, such as “first"
            f" name{separator}last name”"
        )
    if not any(c.isalpha() for c in name):
        return f"“{name}” is not a name"
    if before:
        return f"{name} is in line {before} already: leave one out, or tell the two apart"
    return (
        "" if not one.email or _is_email(one.email) else f"“{one.email}” is not an e-mail address"
    )


def _known_by(one: Entry) -> list[tuple[str, str]]:
    """What else than the name a student is known by, as (what it is, its value)."""
    by = (("e-mail address", one.email.casefold()), ("number", one.number.casefold()))
    return [(what, value) for what, value in by if value]


def _twin(one: Entry, known: dict[tuple[str, str], int]) -> str:
    """Why a line cannot be another student than one above it; '' where it can."""
    if len(one.number) > MOST_LETTERS:
        return f"its number has {len(one.number)} letters, {MOST_LETTERS} is the most"
    for key in _known_by(one):
        if key in known:
            what, value = key
            return f"the {what} {value} is in line {known[key]} already: leave one out, or correct"
    return ""


def _is_email(text: str) -> bool:
    try:
        validate_email(text)
    except ValidationError:
        return False
    return True
