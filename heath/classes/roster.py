"""A class's names from what was pasted or a CSV file: all of it, or, with faults told by line,
nothing.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

MOST_STUDENTS = 60
LONGEST = 120
SEPARATORS = ",;\t"
WHOLE = ("name", "student", "full name")
FIRST, LAST = (
    ("first name", "first", "forename", "given name"),
    ("last name", "last", "surname", "family name"),
)


@dataclass(frozen=True)
class Roster:
    """Names in order, and what is wrong with which line (from 1): with any fault nothing is to be
    taken in.
    """

    names: tuple[str, ...]
    faults: tuple[tuple[int, str], ...]


def read_roster(text: str) -> Roster:
    """Read names, one a line, or a CSV whose head names a column for them ("name", or "first name"
    and "last name").
    """
    lines = text.lstrip("\ufeff").splitlines()
    separator = max(SEPARATORS, key=(lines[0] if lines else "").count)
    head = [c.strip().strip('"').lower() for c in lines[0].split(separator)] if lines else []
    columns = _columns(head)
    names: list[str] = []
    faults: list[tuple[int, str]] = []
    seen: dict[str, int] = {}
    for number, line in enumerate(lines, 1):
        if not line.strip() or (columns and number == 1):
            continue
        name = " ".join((_cells(line, separator, columns) if columns else line).split())
        fault = _fault(name, seen.get(name.casefold()), bool(columns), line, separator)
        if fault:
            faults.append((number, fault))
        else:
            seen[name.casefold()] = number
            names.append(name)
    if len(names) > MOST_STUDENTS:
        faults.append((len(lines), f"{len(names)} names; {MOST_STUDENTS} at a time is the most"))
    return Roster(tuple(names), tuple(faults))


def _columns(head: list[str]) -> list[int]:
    """Columns whose text makes a name; none for a list without a head."""
    whole = [i for i, c in enumerate(head) if c in WHOLE]
    first, last = ([i for i, c in enumerate(head) if c in words] for words in (FIRST, LAST))
    return whole[:1] or first[:1] + last[:1]


def _cells(line: str, separator: str, columns: list[int]) -> str:
    cells = next(csv.reader(io.StringIO(line), delimiter=separator), [])
    return " ".join(cells[i] for i in columns if i < len(cells))


def _fault(name: str, before: int | None, by_column: bool, line: str, separator: str) -> str:
    if not name:
        return "no name stands in it"
    if len(name) > LONGEST:
        return f"too long for a name ({len(name)} letters, {LONGEST} is the most)"
    if not by_column and separator in line:
        return (
            "it has several cells: name the columns in a first line, such as “first"
            f" name{separator}last name”"
        )
    if not any(c.isalpha() for c in name):
        return f"“{name}” is no name"
    if before:
        return f"{name} stands in line {before} already: leave one out, or tell the two apart"
    return ""
