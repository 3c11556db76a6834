"""The gradebook in two layouts: a row a student, and a row a mark with identifiers."""

from __future__ import annotations

from typing import Any

from django.utils import timezone

from heath.records.gradebook import Book
from heath.web.names import FAMILY_NAMES
from juniper.photograph.code import shown
from juniper.rules import FAMILIES

STUDENTS, MARKS = "students", "marks"
LAYOUTS = (STUDENTS, MARKS)
MARK_HEAD = (
    "Student number",
    "E-mail",
    "Student",
    "In the class",
    "Brief id",
    "Brief",
    "Weight",
    "Piece id",
    "Piece",
    "Mark of 100",
    "Award",
    *(FAMILY_NAMES[f] for f in FAMILIES),
    "Came",
    "Corrected mark",
    "Reason",
    "Gives to the term",
    "Use",
    "Rule set",
    "Version",
    "Marked by",
    "Marked at",
)
Table = tuple[tuple[str, ...], list[tuple[Any, ...]]]


def table_of(book: Book, layout: str) -> Table:
    """Head and rows of a gradebook in one of LAYOUTS. Cells without a value are ''."""
    return _by_student(book) if layout == STUDENTS else _by_mark(book)


def _figure(value: float | None) -> float | str:
    return "" if value is None else round(value, 1)


def _by_student(book: Book) -> Table:
    head = (
        "Student number",
        "E-mail",
        "Student",
        "In the class",
        "Level",
        *(f"{c.brief.name} (weight {c.weight:g})" for c in book.columns),
        "Term mark",
        "Award",
        "Corrected",
        "Reason",
    )
    rows = []
    for line in book.lines:
        one, correction = line.student, line.correction
        cells = [
            "hidden" if c.hidden else c.came if c.gives is None else _figure(c.gives)
            for c in line.cells
        ]
        rows.append(
            (
                one.number,
                one.email,
                one.name,
                "yes" if line.here else "no",
                str(one.level) if one.level else "",
                *cells,
                _figure(line.mark),
                line.award,
                "yes" if correction else "",
                correction.reason if correction else "",
            )
        )
    return head, rows


def _by_mark(book: Book) -> Table:
    rows = []
    for line in book.lines:
        one = line.student
        for column, c in zip(book.columns, line.cells, strict=True):
            if c.piece is None or c.hidden:
                continue
            given = c.given or {}
            families = given.get("families") or {}
            marked = given.get("marked_at")
            rows.append(
                (
                    one.number,
                    one.email,
                    one.name,
                    "yes" if line.here else "no",
                    column.brief.pk,
                    column.brief.name,
                    float(column.weight),
                    c.piece,
                    shown(c.code),
                    _figure(c.mark),
                    c.award,
                    *(_figure(families.get(f)) for f in FAMILIES),
                    c.came,
                    _figure(float(c.correction.mark)) if c.correction else "",
                    c.correction.reason if c.correction else (c.said.reason if c.said else ""),
                    _figure(c.gives),
                    c.use,
                    given.get("rule_set", ""),
                    given.get("version", ""),
                    given.get("marker") or "",
                    timezone.localtime(marked).strftime("%Y-%m-%d %H:%M") if marked else "",
                )
            )
    return MARK_HEAD, rows
