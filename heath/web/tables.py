"""Tables in open formats: CSV (RFC 4180) and a spreadsheet (Office Open XML, ISO/IEC 29500)."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

WIDEST = 48  # of a column, in letters
SHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def plain(cell: Any) -> Any:
    """A cell that no spreadsheet takes for a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell[:1] in "=+-@\t\r" and cell else cell


def as_csv(head: Sequence[str], rows: Sequence[Sequence[Any]]) -> bytes:
    """A table as CSV, UTF-8 with a mark that tells spreadsheets so."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    writer.writerows([plain(c) for c in row] for row in rows)
    return out.getvalue().encode("utf-8-sig")


def as_xlsx(title: str, head: Sequence[str], rows: Sequence[Sequence[Any]]) -> bytes:
    """A table as a spreadsheet, its head standing still."""
    book = Workbook()
    page = book.active
    page.title = "".join(c for c in title if c not in r"[]:*?/\\")[:31] or "Marks"
    page.append([plain(c) for c in head])
    for cell in page[1]:
        cell.font = Font(bold=True)
    for row in rows:
        page.append([plain(c) for c in row])
    page.freeze_panes = "B2"
    for number, column in enumerate(zip(head, *rows, strict=True), 1):
        page.column_dimensions[get_column_letter(number)].width = min(
            WIDEST, 2 + max(len(str(c)) for c in column)
        )
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
